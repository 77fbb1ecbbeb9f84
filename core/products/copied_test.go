package products

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
)

// TestCopiesMerge: however the rows are cut and the stretches bracketed, the copies that
// are found are those of the plainest way, and the bytes are the same.
func TestCopiesMerge(t *testing.T) {
	sheet := catalogue.Columns{Headings: []string{"Title", "MPN", "Description", "Image", "Colour"},
		Fields: []catalogue.Field{catalogue.Title, catalogue.MPN, catalogue.Description, catalogue.Images, catalogue.Colour}}
	layout, err := new(Rules).For(&sheet, new(columns.Rules))
	require.NoError(t, err)
	copier := layout.NewCopier(&sheet, -1)
	for seed := range uint64(60) {
		rnd := rand.New(rand.NewPCG(seed, 1))
		var rows []*catalogue.Row
		want := make(map[int][]Copied)
		for i := range 2 + rnd.IntN(60) {
			cells := []string{fmt.Sprint("Title no. ", i, "x"), fmt.Sprint("m", i+1), fmt.Sprint("a text about number ", i),
				fmt.Sprint(i, ".jpg"), "red"}
			if n := rnd.IntN(30); n < 3 && i > 0 {
				if cells[1+n] = rows[i-1].Cells[1+n]; n == 0 || i%2 == 0 {
					cells[0] = "Other " + cells[0] + " long"
				}
			}
			rows = append(rows, &catalogue.Row{Number: i + 1, Cells: cells})
		}
		for col := 1; col <= 3; col++ {
			var copied []Copied
			var at []int
			for i, row := range rows[1:] {
				if above := rows[i]; row.Cells[col] == above.Cells[col] && (col == 1 || !sizesOfOne(above.Cells[0], row.Cells[0])) {
					copied, at = append(copied, Copied{Col: col, Row: above.Number + 10}), append(at, row.Number+10)
				}
			}
			for i, c := range copied {
				if len(rows) > fewCompared && (len(copied) == 1 || 4*len(copied) <= len(rows)-1) {
					want[at[i]] = append(want[at[i]], c)
				}
			}
		}
		learn := func(from, to int) *Copies {
			s := new(Copies)
			for _, row := range rows[from:to] {
				own := *row
				own.Number -= from
				copier.Add(s, []*catalogue.Row{&own})
			}
			s.Place(10 + from)
			return s
		}
		whole := learn(0, len(rows))
		assert.Equal(t, want, copier.Found(whole))
		bytes, err := whole.AppendBinary(nil)
		require.NoError(t, err)
		var build func(from, to int) *Copies
		build = func(from, to int) *Copies {
			if to-from < 2 || rnd.IntN(4) == 0 {
				return learn(from, to)
			}
			at := from + rnd.IntN(to-from+1)
			if at == from || at == to {
				return learn(from, to)
			}
			left := build(from, at)
			copier.Merge(left, build(at, to))
			copier.Merge(left, new(Copies))
			return left
		}
		for range 5 {
			got, err := build(0, len(rows)).AppendBinary(nil)
			require.NoError(t, err)
			require.Equal(t, bytes, got)
		}
	}
}
