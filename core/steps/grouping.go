// Package steps adapts the rooms that know a trade to the line: each file is
// one step.
package steps

import (
	"zetanum/core/catalogue"
	"zetanum/core/line"
)

// Grouping says which rows are one product: neighbouring rows with the same
// slug; without a slug, rows with the same parent SKU, and the row above them
// that has it as its SKU; and rows with an empty title follow the row above.
// Blank rows interrupt nothing.
func Grouping(columns *catalogue.Columns) line.Grouping {
	slug, parent := columns.First(catalogue.Slug), columns.First(catalogue.ParentSKU)
	sku, title := columns.First(catalogue.SKU), columns.First(catalogue.Title)
	return func() func(*catalogue.Row) bool {
		known := false
		var key, above string
		return func(row *catalogue.Row) bool {
			switch {
			case row == nil:
				known = false
				return false
			case row.Blank():
				return !known
			}
			own := row.Cell(slug)
			if own == "" {
				own = row.Cell(parent)
			}
			same := false
			switch {
			case !known:
			case own != "":
				same = own == key || slug < 0 && own == above
			case title >= 0:
				same = row.Cell(title) == ""
			}
			if own != "" || !same {
				key = own
			}
			if !same {
				above = row.Cell(sku)
			}
			known = true
			return !same
		}
	}
}
