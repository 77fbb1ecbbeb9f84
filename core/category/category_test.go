package category

import (
	"cmp"
	"encoding/csv"
	"os"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/lists"
)

func rows(t testing.TB, name string) (list [][]string) {
	content, err := os.ReadFile("testdata/" + name)
	require.NoError(t, err)
	if strings.HasSuffix(name, ".csv") {
		list, err = csv.NewReader(strings.NewReader(string(content))).ReadAll()
		require.NoError(t, err)
		return list[1:]
	}
	for _, line := range strings.Split(strings.TrimSuffix(string(content), "\n"), "\n") {
		list = append(list, strings.Split(line, "\t"))
	}
	return list[1:]
}

// TestSet: categories of suppliers become the shop's own, and those that are not in the list are counted.
func TestSet(t *testing.T) {
	var m Map
	for i, row := range rows(t, "category-map.csv") {
		require.NoError(t, m.Add(i+2, row[0], row[1], row[2:]))
	}
	require.NoError(t, m.Settled())
	groups := make(map[string][][]string)
	for _, row := range rows(t, "categories.tsv") {
		groups[row[4]] = append(groups[row[4]], row)
	}
	right, all, unmapped := 0, 0, make(map[string]int)
	for _, group := range groups {
		var marks lists.Marks
		for _, row := range group {
			marks.Add(&lists.OfLevels, row[1])
		}
		read := (&Rules{Between: " > "}).NewReader(marks.Judge(&lists.OfLevels))
		apply := func(cell string) (string, []string, bool) {
			levels := read.Paths(cell)[0]
			e, _ := m.Find(levels)
			if e == nil {
				return read.Write(levels), nil, false
			}
			return read.Write(e.Own), e.Rest, true
		}
		for _, row := range group {
			got, rest, mapped := apply(row[1])
			all++
			switch {
			case got != row[2] && (row[3] == "" || got != row[3]) || mapped != (row[6] == "yes"),
				mapped && !slices.Equal(rest, row[7:10]):
				t.Logf("%s %s %q → %q %q, and not %q", row[0], row[10], row[1], got, rest, row[2])
			default:
				right++
			}
			if !mapped {
				unmapped[got]++
			}
			again, rest, _ := apply(got)
			assert.Equal(t, got, again, "%s again", row[0])
			if mapped {
				assert.Equal(t, row[7:10], rest, "%s again", row[0])
			}
		}
	}
	t.Logf("%d of %d categories are right", right, all)
	assert.GreaterOrEqual(t, 100*right, 97*all)
	var list [][]string
	for path, n := range unmapped {
		list = append(list, []string{path, strconv.Itoa(n)})
	}
	slices.SortFunc(list, func(a, b []string) int {
		x, _ := strconv.Atoi(a[1])
		y, _ := strconv.Atoi(b[1])
		return cmp.Or(y-x, strings.Compare(a[0], b[0]))
	})
	assert.Equal(t, rows(t, "unmapped-right.csv"), list)
}

// TestMap: a list that contradicts itself, or would change its own result again, is refused; two entries with one result are not.
func TestMap(t *testing.T) {
	var m Map
	require.NoError(t, m.Add(2, "Holz", "Wood", []string{"A"}))
	require.NoError(t, m.Add(3, "holz ", "Wood", []string{"A"}))
	require.NoError(t, m.Add(4, "Metall", "", nil))
	assert.ErrorIs(t, m.Add(5, "HOLZ", "Timber", nil), ErrTwice)
	require.NoError(t, m.Add(6, "Bretter", "Wood", []string{"B"}))
	require.NoError(t, m.Settled())
	e, own := m.Find([]string{"Wood"})
	assert.True(t, own)
	assert.Nil(t, e.Rest, "it depends on what the supplier said")
	e, _ = m.Find([]string{"Metall"})
	assert.Nil(t, e)
	require.NoError(t, m.Add(7, "Wood", "Planks", nil))
	assert.ErrorContains(t, m.Settled(), "second run")
}

// form tells how some cells are written.
func form(cells ...string) lists.Form {
	var m lists.Marks
	for _, cell := range cells {
		m.Add(&lists.OfLevels, cell)
	}
	return m.Judge(&lists.OfLevels)
}

// TestReader: several categories in a cell, levels in which the mark stands, and what is written already.
func TestReader(t *testing.T) {
	for _, test := range []struct {
		rules Rules
		form  lists.Form
		cell  string
		want  string
	}{
		{Rules{Between: " > ", Several: "|"}, lists.Form{At: "/"}, "Garden/Beds|Garden/ Watering|garden/Beds|Garden/Beds", "Garden > Beds|Garden > Watering|garden > Beds"},
		{Rules{Between: "/"}, lists.Form{At: ">"}, "Kitchen > Jars/lids", `Kitchen/"Jars/lids"`},
		{Rules{Between: "/"}, lists.Form{At: ">"}, `Kitchen/"Jars/lids"`, `Kitchen/"Jars/lids"`},
		{Rules{Between: " > "}, lists.Form{At: "/"}, "Kitchen > Jars", "Kitchen > Jars"},
		{Rules{Between: " > "}, lists.Form{At: ">"}, "Garden &gt; Beds &amp; more >", "Garden > Beds & more"},
		{Rules{Between: " > ", At: ":"}, lists.Form{}, "Garden:Beds", "Garden > Beds"},
		{Rules{Between: " > "}, form("Garden->Beds", "Garden -> Beds -> Roses"), "Garden->Beds", "Garden > Beds"},
		{Rules{Between: " > "}, form(`Garden\Beds`, "Garden"), `Garden\Beds`, "Garden > Beds"},
		{Rules{Between: " > "}, form("Garden:Beds", "Garden: Roses", "Kitchen"), "Garden:Beds", "Garden > Beds"},
		{Rules{Between: " > "}, form("Garden > Beds", "Set: small"), "Set: small", "Set: small"},
		{Rules{Between: " > "}, form("Garden >> Beds"), "Garden >> Beds", "Garden > Beds"},
	} {
		assert.Empty(t, test.rules.Check())
		r := test.rules.NewReader(test.form)
		assert.Equal(t, test.want, r.Join(r.Paths(test.cell)), test.cell)
	}
}
