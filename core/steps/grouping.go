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

// A Key says to which product a row belongs.
type Key struct {
	slug, parent, sku, title, language int

	kin *Kin // products that are made one; may be nil
}

// NewKey returns the key of a sheet: the slug; without one, the parent SKU; or the column
// that is declared to be what products are together by, -1 if none is. kin are products
// that are to be one, or nil.
func NewKey(columns *catalogue.Columns, declared int, kin *Kin) *Key {
	k := &Key{columns.First(catalogue.Slug), columns.First(catalogue.ParentSKU), columns.First(catalogue.SKU), columns.First(catalogue.Title), columns.First(catalogue.Language), kin}
	if declared >= 0 {
		k.slug, k.parent = declared, -1
	}
	return k
}

// of returns what a row has in common with others of its product, "" if it does not say.
func (k *Key) of(row *catalogue.Row) string {
	own := k.own(row)
	if k.kin != nil {
		if family := k.kin.of(row.Cell(k.sku), own); family != "" {
			return "\x00" + family
		}
	}
	return own
}

// own returns the key of a row as it stands there, without stray spaces around it: those
// that look the same are one product.
func (k *Key) own(row *catalogue.Row) string {
	if own := strings.TrimSpace(row.Cell(k.slug)); own != "" {
		return own
	}
	return strings.TrimSpace(row.Cell(k.parent))
}

// number returns what stands for a key; products in two languages are two.
func (k *Key) number(own string, row *catalogue.Row) uint64 {
	return max(1, xxhash.Sum64String(own)+31*xxhash.Sum64String(row.Cell(k.language)))
}

// Says reports whether a column says to which product a row belongs.
func (k *Key) Says() bool { return k.column() >= 0 }

// column returns the column that has the key, -1 if there is none.
func (k *Key) column() int {
	switch {
	case k.kin != nil:
		return k.sku
	case k.slug >= 0:
		return k.slug
	}
	return k.parent
}

// Leans reports whether only the rows above say to which product a row belongs.
func (k *Key) Leans(row *catalogue.Row) bool {
	return k.of(row) == "" && row.Cell(k.sku) == "" && k.title >= 0 && row.Cell(k.title) == ""
}

// Grouping says which rows are one product, by comparing each with those
// above it: rows with the same slug; where there is no slug, rows with the same
// parent SKU, and the row above them that has it as its SKU; and rows with
// neither and an empty title, which go with the product above. Where nothing above has a
// key or a title, a row with an SKU is a product of its own. Blank rows interrupt nothing.
func Grouping(k *Key) line.Grouping {
	return func() func(*catalogue.Row) bool {
		var key, above string // of the product, and the SKU above that is not empty
		keyed, known := false, false
		alone := false // nothing above has a key or a title
		return func(row *catalogue.Row) (begins bool) {
			if row == nil || row == sheet.Start {
				key, keyed, known, above, alone = "", row != nil, row != nil, "", row != nil
				return false
			}
			if row.Blank() {
				return false
			}
			switch own := k.of(row); {
			case own == "" && k.title >= 0 && row.Cell(k.title) == "":
				// It goes with the row above, and so does what follows with its key.
				begins = alone && row.Cell(k.sku) != ""
			case own == "":
				begins = known
				key, keyed, alone = "", true, false
			default:
				alone = false
				// Where the rows above had no key nobody can say whether it is theirs.
				begins = keyed && own != key && !(k.slug < 0 && own == above)
				key, keyed = own, true
			}
			if s := strings.TrimSpace(row.Cell(k.sku)); s != "" {
				above = s
			}
			known = true
			return begins
		}
	}
}

// Members returns what says to which product a row belongs, wherever it stands. It is asked
// for rows in their order.
func Members(k *Key) func(*catalogue.Row) sheet.Member {
	alone := true // see Grouping
	return func(row *catalogue.Row) (m sheet.Member) {
		defer func() {
			if m.Key != 0 || m.Alone {
				alone = false
			} else if alone && row.Cell(k.sku) != "" {
				m.Alone = true
			}
		}()
		m.Lead = k.title >= 0 && strings.TrimSpace(row.Cell(k.title)) != ""
		own := k.of(row)
		if k.slug < 0 && k.parent >= 0 {
			if row.Cell(k.parent) != "" {
				m.Lead = false // of a parent
			} else if own == "" && m.Lead {
				own = row.Cell(k.sku) // it may be a parent itself
			}
		}
		switch {
		case own != "":
			m.Key = k.number(own, row)
		case m.Lead || k.title < 0:
			m.Alone = true
		}
		return m
	}
}
