package lists

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/text"
)

// TestMarks: what stands between the values of a column is what most cells say, and marks that stand within values, too, need many.
func TestMarks(t *testing.T) {
	for _, test := range []struct {
		name  string
		of    *Between
		cells []string
		want  Form
	}{
		{"no cell", &OfTags, nil, Form{}},
		{"one value each", &OfTags, []string{"oak", "wind", ""}, Form{}},
		{"commas", &OfTags, []string{"oak, wind", "oak, water", "oak,wind", "fire"}, Form{At: ",", Spaced: true}},
		{"a bar is more telling than the comma beside it", &OfTags, []string{"wind, water|oak", "oak|ash"}, Form{At: "|"}},
		{"most cells", &OfTags, []string{"oak;ash", "oak,ash", "elm,ash"}, Form{At: ","}},
		{"a stroke in one of three stands within a value", &OfTags, []string{"oak/ash", "elm", "fir"}, Form{}},
		{"a stroke in two of three", &OfTags, []string{"oak/ash", "elm/ash", "fir"}, Form{At: "/"}},
		{"commas beside strokes", &OfTags, []string{"oak, ash", "elm, ash", "w/o wax, fir", "and/or"}, Form{At: ",", Spaced: true}},
		{"number signs", &OfTags, []string{"#oak #ash", "#elm", "#fir #oak"}, Form{At: Hash, Hashed: true}},
		{"number signs and commas", &OfTags, []string{"#oak, #ash", "#elm, #fir"}, Form{At: ",", Spaced: true, Hashed: true}},
		{"an entity is what it stands for", &OfLevels, []string{"Garden &gt; Hives", "Garden &gt; Tools"}, Form{At: ">", Spaced: true}},
		{"arrows", &OfLevels, []string{"Garden -> Hives", "Garden -> Tools"}, Form{At: "->", Spaced: true}},
	} {
		var m Marks
		for _, cell := range test.cells {
			m.Add(test.of, cell)
		}
		assert.Equal(t, test.want, m.Judge(test.of), test.name)
	}
}

// TestMarksMerge: however a column is cut into stretches, the same is learned of it.
func TestMarksMerge(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	at := append([]text.List{"", " "}, OfTags.Marks...)
	for range 200 {
		var whole Marks
		parts := []Marks{{}}
		for range 1 + r.IntN(60) {
			cell := "oak" + string(at[r.IntN(len(at))]) + "ash"
			whole.Add(&OfTags, cell)
			if r.IntN(5) == 0 {
				parts = append(parts, Marks{})
			}
			parts[len(parts)-1].Add(&OfTags, cell)
		}
		r.Shuffle(len(parts), func(i, j int) { parts[i], parts[j] = parts[j], parts[i] })
		for i := range parts[1:] {
			parts[0].Merge(&parts[i+1])
		}
		want, err := whole.AppendBinary(nil)
		require.NoError(t, err)
		got, err := parts[0].AppendBinary(nil)
		require.NoError(t, err)
		assert.Equal(t, want, got)
		assert.Equal(t, whole.Judge(&OfTags), parts[0].Judge(&OfTags))
	}
}
