package products

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestKeyLike(t *testing.T) {
	for name, test := range map[string]struct {
		head, rows string
		want       string
	}{
		"a key in every row": {"Set|SKU|Title", "a|A1|x/a|A2|/a|A3|/b|B1|y/b|B2|/c|C1|z/d|D1|u/d|D2|", "Set"},
		"image rows without": {"SKU|Title|Family", "A1|x|1/A2||1/||/B1|y|2/B2||2/C1|z|3/C2||3", "Family"},
		"one of them was moved": {"Set|SKU|Title", "a|A1|x/a|A2|/b|B1|y/b|B2|/c|C1|z/d|D1|u/d|D2|/e|E1|v/f|F1|w/g|G1|r/a|A3|/h|H1|s",
			"Set"},
		"titles in every row":        {"Set|SKU|Title", "a|A1|x/a|A2|x/b|B1|y/b|B2|y/c|C1|z/c|C2|z", ""},
		"the same everywhere":        {"Season|SKU|Title", "26|A1|x/26|A2|/26|B1|y/26|B2|/26|C1|z/26|C2|", ""},
		"in lead rows only":          {"Season|SKU|Title", "a|A1|x/|A2|/b|B1|y/|B2|/c|C1|z/|C2|", ""},
		"it comes again":             {"Shelf|SKU|Title", "1|A1|x/1|A2|/2|B1|y/2|B2|/1|C1|z/1|C2|/2|D1|u/1|E1|v", ""},
		"a slug is there":            {"Set|Slug|SKU|Title", "a|s|A1|x/a|s|A2|/b|t|B1|y/b|t|B2|/c|u|C1|z/c|u|C2|", ""},
		"a field that is known":      {"Brand|SKU|Title", "a|A1|x/a|A2|/b|B1|y/b|B2|/c|C1|z/c|C2|", ""},
		"it changes from row to row": {"Note|SKU|Title", "a|A1|x/b|A2|/c|B1|y/d|B2|/e|C1|z/f|C2|", ""},
	} {
		sheet, _ := sheetOf(test.head)
		var rows [][]string
		for _, line := range strings.Split(test.rows, "/") {
			rows = append(rows, strings.Split(line, "|"))
		}
		got := ""
		if col := KeyLike(sheet, rows); col >= 0 {
			got = sheet.Headings[col]
		}
		assert.Equal(t, test.want, got, name)
	}
}
