package products

import (
	"strings"

	"zetanum/core/catalogue"
)

// KeyLike returns a column that seems to say which rows are one product, to judge by the
// first rows of a sheet: its value stays the same over rows without a title, changes where
// a title stands, and hardly ever comes again. It is -1 if there is none, or if the sheet
// has a slug or a parent SKU.
func KeyLike(sheet *catalogue.Columns, rows [][]string) int {
	title := sheet.First(catalogue.Title)
	if title < 0 || sheet.First(catalogue.Slug) >= 0 || sheet.First(catalogue.ParentSKU) >= 0 {
		return -1
	}
	at := func(cells []string, col int) string {
		if col >= len(cells) {
			return ""
		}
		return strings.TrimSpace(cells[col])
	}
	for col, f := range sheet.Fields[:sheet.Own()] {
		if f != catalogue.Unknown {
			continue
		}
		seen := make(map[string]bool)
		last := ""
		rest, runs, against := 0, 0, 0
		for _, cells := range rows {
			value, titled := at(cells, col), at(cells, title) != ""
			switch {
			case value == "":
				if titled {
					against++ // a product without a key
				}
			case value == last:
				if !titled {
					rest++ // another row of the product
				}
			default:
				runs++
				if !titled || seen[value] {
					against++
				}
				seen[value], last = true, value
			}
		}
		if runs >= 3 && rest >= 3 && 5*against <= runs && len(rows) <= 20*runs {
			return col
		}
	}
	return -1
}
