package products

import (
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/heading"
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

// KeyColumns returns the columns by which a shop knows the products of a sheet, to judge by its first
// rows: those of the SKU; the slug or the parent SKU, where there is no SKU or several rows have the same
// one; the one that is declared to say it, -1 if none is; and without any of them the one that is most like a key: codes, all
// filled and all different.
func KeyColumns(sheet *catalogue.Columns, rows [][]string, declared int) (cols []int) {
	cols = append(cols, sheet.All(catalogue.SKU)...)
	none := len(cols) == 0
	for _, col := range []int{declared, sheet.First(catalogue.Slug), sheet.First(catalogue.ParentSKU)} {
		if col >= 0 && (none || sharedIn(rows, col)) && !slices.Contains(cols, col) {
			cols = append(cols, col)
		}
	}
	if len(cols) > 0 {
		return cols
	}
	for _, known := range []bool{true, false} {
		for col, f := range sheet.Fields[:sheet.Own()] {
			isKey := f == catalogue.MPN || f == catalogue.Barcode
			if (known == isKey) && (isKey || f == catalogue.Unknown) && heading.AllDiffer(rows, col) && heading.AreCodes(rows, col) {
				return []int{col}
			}
		}
	}
	return nil
}

// sharedIn reports whether rows that follow one another have the same in a column.
func sharedIn(rows [][]string, col int) bool {
	last := ""
	for _, cells := range rows {
		value := ""
		if col < len(cells) {
			value = strings.TrimSpace(cells[col])
		}
		if value != "" && value == last {
			return true
		}
		last = value
	}
	return false
}
