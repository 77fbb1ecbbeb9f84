// Package steps adapts the rooms that know a trade to the line: each file is
// one step.
package steps

import (
	"strings"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/line"
	"zetanum/core/sheet"
)

// Grouped are the fields that Grouping looks at.
var Grouped = catalogue.FieldsOf(catalogue.Slug, catalogue.ParentSKU, catalogue.SKU, catalogue.Title)

// Grouping says which rows are one product, by comparing each with those
// above it: rows with the same slug; where there is no slug, rows with the same
// parent SKU, and the row above them that has it as its SKU; and rows with
// neither and an empty title. Blank rows interrupt nothing. Where a column is declared
// to be what products are together by, it takes the place of both; otherwise it is -1.
func Grouping(columns *catalogue.Columns, declared int) line.Grouping {
	slug, parent := columns.First(catalogue.Slug), columns.First(catalogue.ParentSKU)
	if declared >= 0 {
		slug, parent = declared, -1
	}
	sku, title := columns.First(catalogue.SKU), columns.First(catalogue.Title)
	return func() func(*catalogue.Row) bool {
		var key, above string // of the product, and the SKU above that is not empty
		keyed, known := false, false
		return func(row *catalogue.Row) (begins bool) {
			if row == nil {
				keyed, known, above = false, false, ""
				return false
			}
			if row.Blank() {
				return false
			}
			own := row.Cell(slug)
			if own == "" {
				own = row.Cell(parent)
			}
			switch {
			case own == "" && title >= 0 && row.Cell(title) == "":
				// It goes with the row above, and so does what follows with its key.
			case own == "":
				begins = known
				key, keyed = "", true
			default:
				// Where the rows above had no key nobody can say whether it is theirs.
				begins = keyed && own != key && !(slug < 0 && own == above)
				key, keyed = own, true
			}
			if s := row.Cell(sku); s != "" {
				above = s
			}
			known = true
			return begins
		}
	}
}

// Members returns what says to which product a row belongs, wherever it stands; declared
// is as for Grouping. Products in two languages are two.
func Members(columns *catalogue.Columns, declared int) func(*catalogue.Row) sheet.Member {
	slug, parent := columns.First(catalogue.Slug), columns.First(catalogue.ParentSKU)
	if declared >= 0 {
		slug, parent = declared, -1
	}
	sku, title, language := columns.First(catalogue.SKU), columns.First(catalogue.Title), columns.First(catalogue.Language)
	return func(row *catalogue.Row) (m sheet.Member) {
		m.Lead = title >= 0 && strings.TrimSpace(row.Cell(title)) != ""
		own := row.Cell(slug)
		if own == "" && parent >= 0 {
			if own = row.Cell(parent); own != "" && slug < 0 {
				m.Lead = false // of a parent
			}
			if own == "" && slug < 0 && m.Lead {
				own = row.Cell(sku) // it may be a parent itself
			}
		}
		switch {
		case own != "":
			m.Key = max(1, xxhash.Sum64String(own)+31*xxhash.Sum64String(row.Cell(language)))
		case m.Lead || title < 0:
			m.Alone = true
		}
		return m
	}
}
