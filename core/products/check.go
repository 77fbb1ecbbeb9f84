package products

import (
	"fmt"
	"slices"
	"strings"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/lists"
)

// A Notice takes down what is noticed about the row at that index of a product, in a
// column or, with -1, as a whole.
type Notice func(code catalogue.Code, index, col int, facts catalogue.Facts)

// Check looks whether the rows of a product belong together: whether it has a lead row,
// what is said of the whole product is said once, and its variants can be told apart.
// Rows without a role that are aside are no part of it.
func (p *Layout) Check(product *catalogue.Product, aside func(index int) bool, find Notice) {
	p.checkPrices(product, aside, find)
	if len(product.Rows) < 2 {
		return
	}
	lead := -1
	var rows []int
	for i := range product.Rows {
		if aside(i) {
			continue
		}
		if lead < 0 {
			lead = i
		}
		rows = append(rows, i)
	}
	if len(rows) < 2 {
		return
	}
	p.checkLead(product, rows, find)
	p.checkLevels(product, rows, find)
	p.checkKeys(product, rows, find)
	var variants []int
	for _, i := range rows {
		if product.Role(i)&catalogue.Variant != 0 {
			variants = append(variants, i)
		}
	}
	if len(variants) < 2 {
		return
	}
	p.checkOptions(product, rows, variants, find)
	p.checkCopies(product, variants, find)
}

// checkPrices looks whether all that is sold has a price.
func (p *Layout) checkPrices(product *catalogue.Product, aside func(int) bool, find Notice) {
	if p.price < 0 || p.Level(p.price) != OfVariant {
		return
	}
	for i, row := range product.Rows {
		if product.Role(i)&catalogue.Variant != 0 && !aside(i) && strings.TrimSpace(row.Cell(p.price)) == "" {
			find(catalogue.VariantNoPrice, i, p.price, catalogue.Facts{})
		}
	}
}

// checkLead looks whether the first row is the one that carries what belongs to the whole
// product.
func (p *Layout) checkLead(product *catalogue.Product, rows []int, find Notice) {
	if p.title < 0 || filled(product.Rows[rows[0]], p.title) {
		return
	}
	for _, i := range rows[1:] {
		if filled(product.Rows[i], p.title) {
			find(catalogue.ProductNoLead, rows[0], p.title, catalogue.Facts{Row: product.Rows[i].Number})
			return
		}
	}
}

// checkLevels looks for what belongs to the whole product and stands in another row than
// the first.
func (p *Layout) checkLevels(product *catalogue.Product, rows []int, find Notice) {
	lead := product.Rows[rows[0]]
	ownTitles := p.OwnTitles(product, rows[0])
	for _, col := range p.byLevel[OfProduct] {
		if ownTitles && col == p.title {
			continue
		}
		for _, i := range rows[1:] {
			cell := product.Rows[i].Cell(col)
			switch {
			case cell == "" || cell == lead.Cell(col) || strings.TrimSpace(cell) == "":
			case filled(lead, col):
				find(catalogue.ProductDiffers, i, col, catalogue.Facts{Row: lead.Number, Other: lead.Cell(col), Proposed: lead.Cell(col)})
			case col != p.title:
				find(catalogue.ProductMisplaced, i, col, catalogue.Facts{Row: lead.Number})
			}
		}
	}
}

// checkKeys looks whether rows that are one product because the rulebook says so have one
// slug, by which an importer knows them.
func (p *Layout) checkKeys(product *catalogue.Product, rows []int, find Notice) {
	lead := product.Rows[rows[0]]
	for _, i := range rows[1:] {
		if row := product.Rows[i]; filled(row, p.slug) && filled(lead, p.slug) && row.Cell(p.slug) != lead.Cell(p.slug) {
			find(catalogue.ProductKeysDiffer, i, p.slug, catalogue.Facts{Row: lead.Number, Other: lead.Cell(p.slug)})
		}
	}
}

func filled(row *catalogue.Row, col int) bool { return strings.TrimSpace(row.Cell(col)) != "" }

// checkOptions looks whether the variants have the same options, and no two the same
// values.
func (p *Layout) checkOptions(product *catalogue.Product, rows, variants []int, find Notice) {
	if len(p.Options) == 0 {
		return
	}
	missing, alike := catalogue.OptionMissing, catalogue.OptionAlike
	if !p.declared {
		missing, alike = catalogue.OptionPerhapsMissing, catalogue.OptionPerhapsAlike
	}
	lead := product.Rows[rows[0]]
	var used []Option
	for _, o := range p.Options {
		some := o.Name >= 0 && filled(lead, o.Name)
		for _, i := range variants {
			some = some || filled(product.Rows[i], o.Value)
		}
		if some {
			used = append(used, o)
		}
		if o.Name >= 0 {
			p.checkNames(product, rows, o, find)
		}
	}
	if len(used) == 0 {
		if p.declared && !p.toldApart(product, variants) {
			find(catalogue.OptionNone, variants[1], p.Options[0].Value,
				catalogue.Facts{Row: product.Rows[variants[0]].Number, Digits: len(variants), Decides: p.tells(product, variants)})
		}
		return
	}
	for _, o := range used {
		p.checkSlips(product, variants, o, find)
	}
	all := slices.Concat(used, p.usual)
	first := make(map[uint64]int, len(variants))
	var key []byte
	for _, i := range variants {
		row, complete := product.Rows[i], true
		for _, o := range used {
			if !filled(row, o.Value) {
				complete = false
				find(missing, i, o.Value, catalogue.Facts{})
			}
		}
		if !complete {
			continue
		}
		key = appendOptions(key[:0], row, all)
		sum := xxhash.Sum64(key)
		if other, there := first[sum]; !there {
			first[sum] = i
		} else if sameOptions(product.Rows[other], row, all) {
			find(alike, i, used[0].Value, catalogue.Facts{Row: product.Rows[other].Number, Other: p.valuesOf(row, used)})
		}
	}
}

// mostSlips is from how many values of an option on they are not compared, each with those
// that are frequent.
const mostSlips = 1000

// checkSlips looks for a value that one variant has and that is a slip of the keyboard away
// from one that three or more have: in a grid of sizes and colours each colour comes again.
func (p *Layout) checkSlips(product *catalogue.Product, variants []int, o Option, find Notice) {
	if len(variants) < 4 {
		return
	}
	counts := make(map[string]int, 8)
	for _, i := range variants {
		if cell := product.Rows[i].Cell(o.Value); cell != "" {
			counts[cell]++
		}
	}
	if len(counts) < 2 || len(counts) > mostSlips {
		return
	}
	var often []string
	for value, n := range counts {
		if n >= 3 {
			often = append(often, value)
		}
	}
	if often == nil || len(often) == len(counts) {
		return
	}
	slices.Sort(often)
	for _, i := range variants {
		cell := product.Rows[i].Cell(o.Value)
		if counts[cell] != 1 {
			continue
		}
		if better := lists.Slip(cell, often); better != "" {
			find(catalogue.ValueMisspelt, i, o.Value, catalogue.Facts{Other: better, Proposed: better})
		}
	}
}

// never are the fields that differ between variants anyhow, and are no options.
var never = catalogue.FieldsOf(catalogue.SKU, catalogue.ParentSKU, catalogue.Slug, catalogue.Barcode, catalogue.Price, catalogue.SalePrice,
	catalogue.Cost, catalogue.Stock, catalogue.ListPrice, catalogue.WholesalePrice, catalogue.FloorPrice, catalogue.Currency,
	catalogue.InStock, catalogue.TrackStock, catalogue.Backorders, catalogue.LowStock)

// tells says in a sentence in which column the variants have different values, so that it
// may be their option; "" if there is none.
func (p *Layout) tells(product *catalogue.Product, variants []int) string {
	for col, level := range p.levels {
		if level != OfVariant && level != AnyRow || never.Has(p.fields[col]) {
			continue
		}
		seen := make(map[string]bool, len(variants))
		for _, i := range variants {
			if cell := strings.TrimSpace(product.Rows[i].Cell(col)); cell != "" {
				seen[cell] = true
			}
		}
		if len(seen) == len(variants) {
			first, second := product.Rows[variants[0]].Cell(col), product.Rows[variants[1]].Cell(col)
			return fmt.Sprintf("They differ in the column %q, %s and %s.", p.headings[col], catalogue.Shorten(first, 30),
				catalogue.Shorten(second, 30))
		}
	}
	return ""
}

// toldApart reports whether variants differ in what often is an option, although others
// were declared.
func (p *Layout) toldApart(product *catalogue.Product, variants []int) bool {
	seen := make(map[string]bool, len(variants))
	var key []byte
	for _, i := range variants {
		key = appendOptions(key[:0], product.Rows[i], p.usual)
		seen[string(key)] = true
	}
	return len(seen) == len(variants)
}

// appendOptions appends what stands for the values of options in a row, whatever the case
// of letters.
func appendOptions(key []byte, row *catalogue.Row, options []Option) []byte {
	for _, o := range options {
		key = append(append(key, strings.ToLower(strings.TrimSpace(row.Cell(o.Value)))...), 0)
	}
	return key
}

// sameOptions reports whether two rows have the same values, whatever the case of letters.
func sameOptions(a, b *catalogue.Row, used []Option) bool {
	return !slices.ContainsFunc(used, func(o Option) bool {
		return !strings.EqualFold(strings.TrimSpace(a.Cell(o.Value)), strings.TrimSpace(b.Cell(o.Value)))
	})
}

func (p *Layout) valuesOf(row *catalogue.Row, used []Option) string {
	var values []string
	for _, o := range used {
		values = append(values, strings.TrimSpace(row.Cell(o.Value)))
	}
	return strings.Join(values, " / ")
}

// checkNames looks whether an option has one name in all rows of the product, and has one
// where it has a value.
func (p *Layout) checkNames(product *catalogue.Product, rows []int, o Option, find Notice) {
	name := ""
	at := 0
	for _, i := range rows {
		cell := strings.TrimSpace(product.Rows[i].Cell(o.Name))
		switch {
		case cell == "":
		case name == "":
			name, at = cell, product.Rows[i].Number
		case !strings.EqualFold(cell, name):
			find(catalogue.OptionNames, i, o.Name, catalogue.Facts{Row: at, Other: name})
		}
	}
	if name != "" {
		return
	}
	for _, i := range rows {
		if filled(product.Rows[i], o.Value) {
			find(catalogue.OptionNoName, i, o.Name, catalogue.Facts{Other: product.Rows[i].Cell(o.Value)})
			return
		}
	}
}

// optionsDiffer reports whether two rows have different values of an option.
func (p *Layout) optionsDiffer(a, b *catalogue.Row) bool {
	return slices.ContainsFunc(p.known, func(o Option) bool {
		x, y := strings.TrimSpace(a.Cell(o.Value)), strings.TrimSpace(b.Cell(o.Value))
		return x != "" && y != "" && !strings.EqualFold(x, y)
	})
}

// checkCopies looks for variants that still have a number of the one from which their row
// was copied: an SKU, although the options differ, or a manufacturer's number where most
// of the others have their own. Where all have one SKU, and nobody has said that they are
// variants, it may be that of the product. So with images. The same of barcodes is a matter
// of theirs.
func (p *Layout) checkCopies(product *catalogue.Product, variants []int, find Notice) {
	first := make(map[string]*catalogue.Row, len(variants))
	var again []int
	for _, i := range variants {
		row := product.Rows[i]
		of, there := first[row.Cell(p.sku)]
		if !there {
			first[row.Cell(p.sku)] = row
		} else if row.Cell(p.sku) != "" && p.optionsDiffer(of, row) {
			again = append(again, i)
		}
	}
	code := catalogue.VariantSameSKU
	if !p.declared && len(first) == 1 {
		code = catalogue.VariantCopied
	}
	for _, i := range again {
		find(code, i, p.sku, catalogue.Facts{Row: first[product.Rows[i].Cell(p.sku)].Number})
	}
	p.checkKept(product, variants, p.mpn, find)
	for _, col := range p.images {
		p.checkKept(product, variants, col, find)
	}
}

// checkKept looks for variants that have the same in a column as the one above, where most
// of the others have something of their own.
func (p *Layout) checkKept(product *catalogue.Product, variants []int, col int, find Notice) {
	own, filled := make(map[string]bool), 0
	for _, i := range variants {
		if cell := product.Rows[i].Cell(col); cell != "" {
			own[cell] = true
			filled++
		}
	}
	if filled < 3 || 2*len(own) <= filled {
		return
	}
	for n, i := range variants[1:] {
		row, above := product.Rows[i], product.Rows[variants[n]]
		if cell := row.Cell(col); cell == "" || cell != above.Cell(col) {
			continue
		}
		if col == p.mpn || p.nothingShared(above, row) {
			find(catalogue.VariantCopied, i, col, catalogue.Facts{Row: above.Number})
		}
	}
}

// nothingShared reports whether two rows have different values in all options that both
// have, and have any: those that are alike in one, the colour, may have one image by right.
func (p *Layout) nothingShared(a, b *catalogue.Row) bool {
	some := false
	for _, o := range p.known {
		x, y := strings.TrimSpace(a.Cell(o.Value)), strings.TrimSpace(b.Cell(o.Value))
		if x == "" || y == "" {
			continue
		}
		if some = true; strings.EqualFold(x, y) {
			return false
		}
	}
	return some
}
