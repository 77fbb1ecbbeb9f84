package repair

import (
	"encoding/csv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/sections"
)

// TestInPlace: copied cells come back with each row in its place; what is held or set aside is as it was, to the byte.
func TestInPlace(t *testing.T) {
	const head = "SKU\tEAN\tTitle\tNote\r\n"
	for _, test := range []struct {
		what, cells, want string
		kept              []int
	}{
		{"repaired", head + "A1\t9.521234000013E+12\t  Smoker \tx\r\n", head + "A1\t9521234000013\tSmoker\tx\r\n", nil},
		{"held", head + "A1\t9.52E+12\t  Smoker \tx\r\nA2\t\t Hive\t\r\n", head + "A1\t9.52E+12\t  Smoker \tx\r\nA2\t\tHive\t\r\n", []int{2}},
		{"blank rows and repeats stay", head + "A1\t\tSmoker\tx\r\n\t\t\t\r\nA1\t\tSmoker\tx\r\nA2\t\t Hive\t\r\n", head + "A1\t\tSmoker\tx\r\n\t\t\t\r\nA1\t\tSmoker\tx\r\nA2\t\tHive\t\r\n", nil},
		{"cells of several lines", head + "A1\t\t Smoker\t\"two\nlines \"\"x\"\"\"\r\nA2\t\t Hive\ta \"b\r\n", head + "A1\t\tSmoker\t\"two\nlines \"\"x\"\"\"\r\nA2\t\tHive\ta \"b\r\n", nil},
		{"no end of line", "EAN\n9.521234000013E+12", "EAN\n9521234000013", nil},
		{"rows above the headings", "Prices\n\n" + head + "A1\t\t Smoker\tx\n", "Prices\n\n" + head + "A1\t\tSmoker\tx\n", nil},
		{"short rows", head + "A1\t\t Smoker\nA2\n", head + "A1\t\tSmoker\nA2\n", nil},
		{"one column with holes", "Title\n Smoker\n\nHive  \n", "Title\nSmoker\n\nHive\n", nil},
	} {
		t.Run(test.what, func(t *testing.T) {
			result, got, kept, err := InPlace(t.Context(), Options{Workers: 2, Temp: t.TempDir(), Date: "2026-12-01"}, test.cells)
			require.NoError(t, err)
			assert.Equal(t, test.want, got)
			var rows []int
			for _, k := range kept {
				rows = append(rows, k.Row)
				assert.NotEmpty(t, k.Reason)
			}
			assert.Equal(t, test.kept, rows)
			assert.Equal(t, "the clipboard", result.Source.Name)
		})
	}
	set := Options{Workers: 2, Temp: t.TempDir(), Date: "2026-12-01", Set: []sections.Setting{{Heading: "Note", Value: "new"}, {Heading: "Other", Value: "x"}}}
	result, got, _, err := InPlace(t.Context(), set, head+"A1\t\tSmoker\nA2\t\tHive\told\n")
	require.NoError(t, err)
	assert.Equal(t, head+"A1\t\tSmoker\tnew\nA2\t\tHive\tnew\n", got, "a short row is long enough for what is written there; no column is pasted over another")
	assert.Equal(t, 1, result.Source.Columns.Added)
	each, err := sections.Parse("zetanum.toml", []byte("[[one_row_each]]\nfrom = \"Sizes\"\ninto = \"Size\"\nset = { sku = \"{sku}-{Size}\" }\n"))
	require.NoError(t, err)
	_, _, _, err = InPlace(t.Context(), Options{Workers: 1, Temp: t.TempDir(), Book: *each}, "SKU\tTitle\tSizes\nA1\tSmoker\tS, M\n")
	assert.ErrorIs(t, err, ErrPlace)
}

// TestAnyInPlace: whatever was copied, no row moves, those that are held are what they were, and doing it again changes nothing.
func TestAnyInPlace(t *testing.T) {
	for seed := range uint64(40) {
		r := csv.NewReader(strings.NewReader(strings.ReplaceAll(string(nasty(4*seed, 60)), "\r", "\n")))
		r.Comma, r.FieldsPerRecord, r.LazyQuotes = ',', -1, true
		records, err := r.ReadAll()
		require.NoError(t, err)
		var rows []cellRow
		var b strings.Builder
		for _, cells := range records {
			row := cellRow{cells: cells, changed: true, end: "\n"}
			rows = append(rows, row)
			b.WriteString(row.text())
		}
		copied := b.String()
		require.Len(t, splitCells(copied), len(rows), "seed %d", seed)
		_, got, kept, err := InPlace(t.Context(), Options{Workers: 2, Temp: t.TempDir(), Date: "2026-12-01"}, copied)
		require.NoError(t, err, "seed %d", seed)
		was, is := splitCells(copied), splitCells(got)
		require.Len(t, is, len(was), "seed %d", seed)
		for _, k := range kept {
			assert.Equal(t, was[k.Row-1], is[k.Row-1], "seed %d", seed)
		}
		_, again, _, err := InPlace(t.Context(), Options{Workers: 2, Temp: t.TempDir(), Date: "2026-12-01"}, got)
		require.NoError(t, err)
		assert.Equal(t, got, again, "seed %d", seed)
	}
}
