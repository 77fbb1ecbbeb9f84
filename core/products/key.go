package products

import (
	"slices"
	"strings"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/heading"
	"zetanum/core/sheet"
)

// A Key says to which product a row belongs.
type Key struct {
	Title int // the column, -1 if there is none
	Slug  int // or the column that is declared to say it; -1 if there is none

	// Apart says that rows in another language than those above them are another product, whatever they have in common.
	Apart bool

	parent, sku, language int

	titles  []int // in each language
	sold    []int // the columns of what only something has that is sold: SKU, price, barcode
	options []int // the columns of the values of options

	kin *Kin // products that are made one; may be nil
}

// NewKey returns the key of a sheet: the slug; without one, the parent SKU; or the column
// that is declared to be what products are together by, -1 if none is. kin are products
// that are to be one, or nil.
func NewKey(columns *catalogue.Columns, declared int, kin *Kin) *Key {
	k := &Key{
		Title: columns.First(catalogue.Title), Slug: columns.First(catalogue.Slug), parent: columns.First(catalogue.ParentSKU),
		sku: columns.First(catalogue.SKU), language: columns.First(catalogue.Language), kin: kin, titles: columns.All(catalogue.Title),
	}
	for _, f := range []catalogue.Field{catalogue.SKU, catalogue.Price, catalogue.Barcode} {
		k.sold = append(k.sold, columns.All(f)...)
	}
	options, _ := findOptions(columns)
	for _, o := range options {
		k.options = append(k.options, o.Value)
	}
	for _, f := range []catalogue.Field{catalogue.Colour, catalogue.Size, catalogue.Material} {
		k.options = append(k.options, columns.All(f)...)
	}
	if declared >= 0 {
		k.Slug, k.parent = declared, -1
	}
	return k
}

// TellApart adds columns by which variants are told apart.
func (k *Key) TellApart(cols ...int) { k.options = append(k.options, cols...) }

// alone reports whether a row without a key and a title is a product that lacks its title, and no
// further row of the one above: it has what only something has that is sold, and no option tells it
// from another variant.
func (k *Key) alone(row *catalogue.Row) bool {
	return anyFilled(row, k.sold) && !anyFilled(row, k.options)
}

// translates reports whether a row is in another language than the one above it, and therefore another product.
func (k *Key) translates(row *catalogue.Row, above string) bool {
	own := row.Cell(k.language)
	return k.Apart && own != "" && above != "" && own != above && heading.TongueOf(own) != heading.TongueOf(above)
}

func anyFilled(row *catalogue.Row, cols []int) bool {
	for _, col := range cols {
		if row.Cell(col) != "" {
			return true
		}
	}
	return false
}

// Of returns what a row has in common with others of its product, "" if it does not say.
func (k *Key) Of(row *catalogue.Row) string {
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
	if k.Slug >= 0 {
		if own := strings.TrimSpace(row.Cell(k.Slug)); own != "" {
			return own
		}
	}
	if k.parent < 0 {
		return ""
	}
	return strings.TrimSpace(row.Cell(k.parent))
}

// Number returns what stands for a key; products in two languages are two.
func (k *Key) Number(own string, row *catalogue.Row) uint64 { return number(own, row.Cell(k.language)) }

func number(own, language string) uint64 {
	return max(1, xxhash.Sum64String(own)+31*xxhash.Sum64String(language))
}

// Titled reports whether a row has a title, in whatever language.
func (k *Key) Titled(row *catalogue.Row) bool {
	for _, col := range k.titles {
		if row.Cell(col) != "" {
			return true
		}
	}
	return false
}

// Says reports whether a column says to which product a row belongs.
func (k *Key) Says() bool { return k.Column() >= 0 }

// Column returns the column that has the key, -1 if there is none.
func (k *Key) Column() int {
	switch {
	case k.kin != nil:
		return k.sku
	case k.Slug >= 0:
		return k.Slug
	}
	return k.parent
}

// Columns returns the columns that say which rows are one product.
func (k *Key) Columns() catalogue.ColumnSet {
	set := k.Names()
	set.Add(k.sold...)
	set.Add(k.options...)
	return set
}

// Names returns those that say it of rows with a key or a title.
func (k *Key) Names() catalogue.ColumnSet {
	set := catalogue.ColumnsOf(k.Slug, k.parent, k.sku, k.language)
	set.Add(k.titles...)
	return set
}

// Unnamed reports whether a row has no key and no title, so that other columns say whether it goes
// with the row above.
func (k *Key) Unnamed(row *catalogue.Row) bool { return !k.Titled(row) && k.Of(row) == "" }

// Leans reports whether only the rows above say to which product a row belongs.
func (k *Key) Leans(row *catalogue.Row) bool {
	return k.Of(row) == "" && row.Cell(k.sku) == "" && k.Title >= 0 && !k.Titled(row) && !k.alone(row)
}

// Grouping returns what says which rows are one product, by comparing each with those
// above it: true for a row that begins one. After nil the row above is not known, and the next
// one does not count as a beginning; after [sheet.Start] there is none. Each caller needs a
// function of its own. One product are rows with the same slug; where there is no slug, rows with the same
// parent SKU, and the row above them that has it as its SKU; and rows with
// neither and an empty title, which go with the product above, unless they have an SKU that is not that above, a price or a
// barcode of their own and no option by which they were one of its variants; where languages are apart, rows in another are another product. Where nothing above has a
// key or a title, a row with an SKU is a product of its own. Blank rows interrupt nothing,
// unless there are very many.
func (k *Key) Grouping() func() func(*catalogue.Row) bool {
	return func() func(*catalogue.Row) bool {
		var key, above, tongue string // of the product, and the SKU and the language above that are not empty
		keyed, known := false, false
		alone := false // nothing above has a key or a title
		blank := 0     // rows right above
		return func(row *catalogue.Row) (begins bool) {
			if row == nil || row == sheet.Start {
				key, keyed, known, above, tongue, alone, blank = "", row != nil, row != nil, "", "", row != nil, 0
				return false
			}
			if row.Blank() {
				blank++
				return blank > mostBlank
			}
			if blank > mostBlank {
				key, keyed, known, above, alone = "", true, true, "", true
				defer func() { begins = true }()
			}
			blank = 0
			switch own := k.Of(row); {
			case own == "" && k.Title >= 0 && !k.Titled(row):
				// It goes with the row above, and so does what follows with its key.
				sku := strings.TrimSpace(row.Cell(k.sku))
				begins = alone && sku != ""
				if k.alone(row) && (sku == "" || sku != above || k.translates(row, tongue)) {
					begins, key, keyed, alone = known, "", true, false
				}
			case own == "":
				begins = known
				key, keyed, alone = "", true, false
			default:
				alone = false
				// Where the rows above had no key nobody can say whether it is theirs.
				begins = keyed && (own != key && !(own == above && strings.TrimSpace(row.Cell(k.Slug)) == "") || k.translates(row, tongue))
				key, keyed = own, true
			}
			if s := strings.TrimSpace(row.Cell(k.sku)); s != "" {
				above = s
			}
			if l := row.Cell(k.language); l != "" {
				tongue = l
			}
			known = true
			return begins
		}
	}
}

// mostBlank is how many blank rows one product has within it; what comes behind more of them
// is another.
const mostBlank = 100

// Members returns what says to which product a row belongs, wherever it stands. It is asked
// for rows in their order.
func (k *Key) Members() func(*catalogue.Row) sheet.Member {
	alone, above, tongue, last := true, "", "", "" // see Grouping
	return func(row *catalogue.Row) (m sheet.Member) {
		sku := strings.TrimSpace(row.Cell(k.sku))
		again := sku != "" && sku == above && !k.translates(row, tongue)
		defer func() {
			if sku != "" {
				above = sku
			}
			if l := row.Cell(k.language); l != "" {
				tongue = l
			}
			last = k.Of(row)
			if m.Key != 0 || m.Alone {
				alone = false
			} else if alone && row.Cell(k.sku) != "" {
				m.Alone = true
			}
		}()
		m.Lead = slices.ContainsFunc(k.titles, func(col int) bool { return strings.TrimSpace(row.Cell(col)) != "" })
		own := k.Of(row)
		if k.Slug < 0 && k.parent >= 0 {
			if row.Cell(k.parent) != "" {
				m.Lead = false // of a parent
			} else if own == "" && m.Lead {
				own = row.Cell(k.sku) // it may be a parent itself
			}
		}
		switch {
		case own != "":
			if m.Key = k.Number(own, row); k.Apart && row.Cell(k.language) == "" && own == last {
				m.Key = number(own, tongue) // as the row above
			}
		case m.Lead || k.Title < 0 || k.alone(row) && !again:
			m.Alone = true
		}
		return m
	}
}
