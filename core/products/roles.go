// Package products says what each row of a product is: the first, a variant that is sold
// by itself, or a row that only carries another image; and which columns belong to the
// whole product, to the variant or to the image.
//
//	SKU    Title   Price  Colour  Image
//	B-1    Box     9.50   red     1.jpg     lead row, and a variant
//	B-2            9.50   blue              variant
//	                              2.jpg     image row
package products

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
)

// A Level is what the cells of a column belong to.
type Level uint8

// The levels.
const (
	AnyRow    Level = iota // to the row; nothing more is known
	OfProduct              // to the product: they stand in its lead row
	OfVariant              // to what is sold
	OfImage                // to an image
)

// levelOf are the levels of fields; what is not there belongs to the row.
var levelOf = map[catalogue.Field]Level{
	catalogue.Title: OfProduct, catalogue.Brand: OfProduct, catalogue.Category: OfProduct, catalogue.Type: OfProduct,
	catalogue.Tags:        OfProduct,
	catalogue.Description: OfProduct, catalogue.ShortDescription: OfProduct, catalogue.Supplier: OfProduct,
	catalogue.SKU: OfVariant, catalogue.Barcode: OfVariant, catalogue.MPN: OfVariant, catalogue.Price: OfVariant,
	catalogue.SalePrice: OfVariant, catalogue.SaleFrom: OfVariant, catalogue.SaleTo: OfVariant,
	catalogue.ListPrice: OfVariant, catalogue.WholesalePrice: OfVariant, catalogue.FloorPrice: OfVariant, catalogue.Currency: OfVariant,
	catalogue.InStock: OfVariant, catalogue.TrackStock: OfVariant, catalogue.Backorders: OfVariant, catalogue.LowStock: OfVariant,
	catalogue.Cost: OfVariant, catalogue.Stock: OfVariant, catalogue.Weight: OfVariant, catalogue.Length: OfVariant,
	catalogue.Width:  OfVariant,
	catalogue.Height: OfVariant, catalogue.Colour: OfVariant, catalogue.Size: OfVariant, catalogue.Material: OfVariant,
	catalogue.Images: OfImage, catalogue.ImageAlt: OfImage, catalogue.ImageOrder: OfImage,
}

// Rules say what belongs together: [products].
type Rules struct {
	// TogetherBy is a field or heading: neighbouring rows that have the same in it
	// are one product.
	TogetherBy string `toml:"together_by" json:"together_by,omitempty"`
	// TogetherFrom is a sheet with SKUs or slugs in its first column and what they have in
	// common in its second one: products with the same there are one.
	TogetherFrom string `toml:"together_from" json:"together_from,omitempty"`
	// Together are lists of SKUs or slugs: the products of each list are one.
	Together [][]string `toml:"together" json:"together,omitempty"`
	// CompleteAs is a sheet of what the shop has: products are to have all variants that
	// they have there.
	CompleteAs string `toml:"complete_as" json:"complete_as,omitempty"`
	// Regroup brings rows of a product that stand apart to the first of them.
	Regroup bool `toml:"regroup" json:"regroup,omitempty"`
	// ProductFields, VariantFields and ImageFields are fields or headings that belong
	// to the whole product, to each variant, or to each image.
	ProductFields []string `toml:"product_fields" json:"product_fields,omitempty"`
	VariantFields []string `toml:"variant_fields" json:"variant_fields,omitempty"`
	ImageFields   []string `toml:"image_fields" json:"image_fields,omitempty"`
	// ToldApartBy are fields or headings of the options of variants: no two variants of
	// a product have the same in all of them.
	ToldApartBy []string `toml:"told_apart_by" json:"told_apart_by,omitempty"`
	// Differ says what becomes of rows that say something else of the whole product
	// than its lead row: "lead" makes them say the same; if nothing is said, they are
	// named.
	Differ string `toml:"differ" json:"differ,omitempty"`
	// DifferIn says it of single fields or headings: AsLead, Longest or AllOf.
	DifferIn map[string]string `toml:"differ_in" json:"differ_in,omitempty"`
	// OptionOfTitles names the column of an option that takes what differs in the titles
	// of the rows; what they share becomes the title of the product.
	OptionOfTitles string `toml:"option_of_titles" json:"option_of_titles,omitempty"`
	// SameAsLead are fields or headings in which all rows get what the lead row has.
	SameAsLead []string `toml:"same_as_lead" json:"same_as_lead,omitempty"`
	// LeadOnly are fields or headings of the whole product that stand in its lead row only:
	// where other rows say the same they are emptied.
	LeadOnly []string `toml:"lead_only" json:"lead_only,omitempty"`
	// Parents is a condition: rows that fulfil it are parents, which others name. They are
	// not sold, and have to have variants.
	Parents map[string]any `toml:"parents" json:"parents,omitempty"`
	// Misplaced says what becomes of what belongs to the whole product and stands in
	// another row only: "move" moves it to the lead row.
	Misplaced string `toml:"misplaced" json:"misplaced,omitempty"`
}

// Check returns what is wrong with the rules.
func (r *Rules) Check() (problems []catalogue.Problem) {
	seen := make(map[string]bool)
	for _, list := range [][]string{r.ProductFields, r.VariantFields, r.ImageFields} {
		for _, name := range list {
			if key := strings.ToLower(strings.TrimSpace(name)); seen[key] {
				problems = append(problems, catalogue.Problem{Key: "variant_fields",
					Text: fmt.Sprintf("%q is named twice; a column belongs to the product, the variant or the image", name)})
			} else {
				seen[key] = true
			}
		}
	}
	clear(seen)
	for _, list := range r.Together {
		if len(list) < 2 {
			problems = append(problems, catalogue.Problem{Key: "together",
				Text: `is lists of SKUs, two or more in each: together = [["HB-1", "HB-2"]]`})
		}
		for _, sku := range list {
			if seen[sku] {
				problems = append(problems, catalogue.Problem{Key: "together",
					Text: fmt.Sprintf("%q is named twice; a row belongs to one product", sku)})
			}
			seen[sku] = true
		}
	}
	if r.Differ != "" && r.Differ != "lead" {
		problems = append(problems, catalogue.Problem{Key: "differ", Text: `is "lead"; without it, rows that differ are named`})
	}
	for _, name := range slices.Sorted(maps.Keys(r.DifferIn)) {
		if how := r.DifferIn[name]; how != AsLead && how != Longest && how != AllOf {
			problems = append(problems, catalogue.Problem{Key: "differ_in", Text: fmt.Sprintf(`%q is "lead", "longest" or "all"`, name)})
		}
	}
	if r.Misplaced != "" && r.Misplaced != "move" {
		problems = append(problems, catalogue.Problem{Key: "misplaced",
			Text: `is "move"; without it, what stands in the wrong row is named`})
	}
	return problems
}

// A Layout knows what the columns of a sheet belong to.
type Layout struct {
	levels       []Level
	byLevel      [OfImage + 1][]int
	sku, parent  int
	title, price int
	mpn, slug    int
	images       []int
	headings     []string
	fields       []catalogue.Field

	// Parent reports whether a row is declared to be a parent; nil if nothing is declared.
	Parent func(*catalogue.Row) bool
	// ParentColumns are the columns that say so.
	ParentColumns []int

	// Begins reports whether a row would be a product of its own to whoever reads it next; nil if no row is made so.
	Begins func(*catalogue.Row) bool

	// Options are what the variants differ in; declared says that they are known to be
	// options, not only fields that often are.
	Options  []Option
	declared bool
	known    []Option // and those that are usual
	usual    []Option // what often is an option, too, where others are declared by rules that fill them
}

// For fits the rules to the columns of a sheet. A name that it does not have is an error
// that wraps [columns.ErrWrong], unless a rule drops the column.
func (r *Rules) For(sheet *catalogue.Columns, renamed *columns.Rules) (*Layout, error) {
	p := &Layout{levels: make([]Level, len(sheet.Headings)), sku: sheet.First(catalogue.SKU), parent: sheet.First(catalogue.ParentSKU),
		title: sheet.First(catalogue.Title), price: sheet.First(catalogue.Price), mpn: sheet.First(catalogue.MPN),
		slug: sheet.First(catalogue.Slug), images: sheet.All(catalogue.Images), headings: sheet.Headings, fields: sheet.Fields}
	p.Options, p.declared = findOptions(sheet)
	for col, f := range sheet.Fields {
		p.levels[col] = levelOf[f]
	}
	if p.declared {
		for _, o := range p.Options {
			p.levels[o.Value] = OfVariant
		}
	}
	find := func(names []string, do func(col int)) error {
		for _, name := range names {
			cols, err := renamed.Need(sheet, "[products]", name)
			if err != nil {
				return err
			}
			for _, col := range cols {
				do(col)
			}
		}
		return nil
	}
	for _, of := range []struct {
		names []string
		level Level
	}{{r.ProductFields, OfProduct}, {r.VariantFields, OfVariant}, {r.ImageFields, OfImage}} {
		if err := find(of.names, func(col int) { p.levels[col] = of.level }); err != nil {
			return nil, err
		}
	}
	if len(r.ToldApartBy) > 0 {
		p.Options, p.declared = nil, true
		if err := find(r.ToldApartBy, func(col int) {
			p.levels[col] = OfVariant
			p.Options = append(p.Options, Option{-1, col})
		}); err != nil {
			return nil, err
		}
	}
	for col, level := range p.levels {
		p.byLevel[level] = append(p.byLevel[level], col)
	}
	p.known = p.Options
	return p, nil
}

// Declare says that columns are options by which variants are told apart.
func (p *Layout) Declare(cols []int) {
	if !p.declared {
		p.Options, p.usual, p.declared = nil, p.Options, true
	}
	p.Put(OfVariant, cols)
	for _, col := range cols {
		p.usual = slices.DeleteFunc(p.usual, func(o Option) bool { return o.Value == col })
		if !slices.ContainsFunc(p.Options, func(o Option) bool { return o.Value == col }) {
			p.Options = append(p.Options, Option{-1, col})
		}
	}
	// From left to right, so that it does not matter which rule says so first.
	slices.SortFunc(p.Options, func(a, b Option) int { return a.Value - b.Value })
	p.known = slices.Concat(p.Options, p.usual)
}

// Put says what columns belong to.
func (p *Layout) Put(level Level, cols []int) {
	for _, col := range cols {
		if old := p.levels[col]; old != level {
			p.byLevel[old] = slices.DeleteFunc(p.byLevel[old], func(c int) bool { return c == col })
			p.byLevel[level], p.levels[col] = append(p.byLevel[level], col), level
		}
	}
}

// IsOption reports whether a column has the values of an option.
func (p *Layout) IsOption(col int) bool {
	return slices.ContainsFunc(p.Options, func(o Option) bool { return o.Value == col })
}

// Declared reports whether a column is known to have the values of an option: its heading or a rule says so.
func (p *Layout) Declared(col int) bool { return p.declared && p.IsOption(col) }

// Level returns what the cells of a column belong to.
func (p *Layout) Level(col int) Level {
	if col < 0 || col >= len(p.levels) {
		return AnyRow
	}
	return p.levels[col]
}

// OwnTitles reports whether the rows of a product below the lead row have titles of their
// own by right: they are the children of a parent.
func (p *Layout) OwnTitles(product *catalogue.Product, lead int) bool {
	return product.Role(lead) == catalogue.Lead && p.parent >= 0
}

// Columns returns the columns of a level.
func (p *Layout) Columns(level Level) []int { return p.byLevel[level] }

// Roles appends the role of each row of a product to dst. Rows that are aside are no part
// of it: they have no role, and neither have rows with nothing of a variant or an image.
func (p *Layout) Roles(dst []catalogue.Role, rows []*catalogue.Row, aside func(index int) bool) []catalogue.Role {
	if len(rows) == 1 && !aside(0) {
		return append(dst, p.alone(rows[0]))
	}
	from, lead, count := len(dst), -1, 0
	for i := range rows {
		dst = append(dst, 0)
		if !aside(i) {
			if lead < 0 {
				lead = i
			}
			count++
		}
	}
	if lead < 0 {
		return dst
	}
	roles := dst[from:]
	roles[lead] = p.alone(rows[lead])
	if count == 1 {
		return dst
	}
	seen := make(map[string]*catalogue.Row, count)
	for i, row := range rows {
		if aside(i) {
			continue
		}
		role, sku := catalogue.Role(0), row.Cell(p.sku)
		again := false // what follows is the same thing once more
		if first := seen[sku]; sku != "" && first != nil {
			again = !p.optionsDiffer(first, row)
		} else {
			seen[sku] = row
		}
		switch {
		case p.Parent != nil && p.Parent(row):
		case !again && p.isVariant(row, rows[lead]):
			role = catalogue.Variant
		case i != lead && p.any(row, OfImage):
			role = catalogue.ImageRow
		}
		if i == lead {
			role |= catalogue.Lead
			if p.isParent(row, rows[i+1:]) {
				role = catalogue.Lead
			}
		} else if role == catalogue.Variant && p.Begins != nil && p.Begins(row) {
			role |= catalogue.Lead
		}
		roles[i] = role
	}
	return dst
}

// alone returns the role of the only row of a product.
func (p *Layout) alone(row *catalogue.Row) catalogue.Role {
	if p.Parent != nil && p.Parent(row) {
		return catalogue.Lead
	}
	return catalogue.Lead | catalogue.Variant
}

// any reports whether a row has anything in the columns of a level.
func (p *Layout) any(row *catalogue.Row, level Level) bool {
	return slices.ContainsFunc(p.byLevel[level], func(col int) bool { return strings.TrimSpace(row.Cell(col)) != "" })
}

// isVariant reports whether a row is one that is sold: it has an SKU, or something of a
// variant that the lead row does not have, too.
func (p *Layout) isVariant(row, lead *catalogue.Row) bool {
	return slices.ContainsFunc(p.byLevel[OfVariant], func(col int) bool {
		cell := row.Cell(col)
		return strings.TrimSpace(cell) != "" && (col == p.sku || row == lead || cell != lead.Cell(col))
	})
}

// isParent reports whether a row is the parent that rows below it name: it is not sold
// itself.
func (p *Layout) isParent(row *catalogue.Row, below []*catalogue.Row) bool {
	sku := row.Cell(p.sku)
	if p.parent < 0 || sku == "" || row.Cell(p.parent) == sku {
		return false
	}
	return slices.ContainsFunc(below, func(child *catalogue.Row) bool { return child.Cell(p.parent) == sku && child.Cell(p.sku) != sku })
}

// HasChildren reports whether other rows of a product name the one at that index as their parent.
func (p *Layout) HasChildren(product *catalogue.Product, index int) bool {
	row := product.Rows[index]
	return p.isParent(row, product.Rows[:index]) || p.isParent(row, product.Rows[index+1:])
}

// RoleColumns returns the columns on which it depends what the rows of a product are.
func (p *Layout) RoleColumns() (set catalogue.ColumnSet) {
	set.Add(p.sku, p.parent)
	set.Add(p.ParentColumns...)
	set.Add(p.byLevel[OfVariant]...)
	set.Add(p.byLevel[OfImage]...)
	for _, o := range p.Options {
		set.Add(o.Name, o.Value)
	}
	return set
}

// Belongs reports whether a cell of a column has its place in a row of that role.
func (p *Layout) Belongs(col int, row *catalogue.Row, role catalogue.Role) bool {
	switch p.Level(col) {
	case OfProduct:
		return role&catalogue.Lead != 0
	case OfVariant:
		return role&catalogue.Variant != 0
	case OfImage:
		return role&catalogue.Lead != 0 || p.any(row, OfImage)
	}
	return true
}
