package sections

import (
	"fmt"
	"slices"
	"strings"

	"zetanum/core/brand"
	"zetanum/core/catalogue"
	"zetanum/core/lists"
	"zetanum/core/rulebook"
	"zetanum/core/steps"
	"zetanum/core/title"
)

// brandSection puts brands in order.
type brandSection struct {
	plain
	rules *brand.Rules
	field *FieldTable // what the field must be, if it is read here
}

func (*brandSection) Parts() []rulebook.Part {
	return []rulebook.Part{{
		Name: "brand", Line: "[brand]", Also: fieldKeys(),
		Says: "Brands: what they need besides what is said of any field, which stands here, too. unify brings the spellings of a brand to one: that of " +
			"the export which [shop] names, if it has the brand, else the one that most rows have. Nothing is done without an order.",
		Keys: []rulebook.Key{
			{
				Name: "legal_forms",
				Says: `"ignore" takes what stands behind names for no difference between two spellings: Ltd, GmbH, S.r.l., Sp. z o.o. and the like; "keep", ` +
					"as when nothing is said, does.",
				Example: `unify       = true
legal_forms = "ignore"`,
			},
			{
				Name:    "without_by",
				Says:    "Takes “by” off, and what stands before it, where what stands behind is a brand of the column or of the list.",
				Example: `without_by = true`,
			},
			{
				Name:    "placeholders",
				Says:    `"blank" empties cells that say that there is no brand, in nine languages: none, N/A, ohne Marke, -; "keep", as when nothing is said, leaves them.`,
				Example: `placeholders = "blank"`,
			},
			{
				Name:    "from_title",
				Says:    "Fills empty cells with the one brand that stands in the title, of the list, if there is one, or of the column.",
				Example: `from_title = true`,
			},
		},
	}}
}

func (b *brandSection) Tables() []rulebook.Table {
	return []rulebook.Table{{Name: "brand", Into: &struct {
		*brand.Rules
		*FieldTable
	}{b.rules, b.field}}}
}

func (b *brandSection) Check() []rulebook.Problem { return rulebook.In("brand", 0, b.rules.Check()) }

// A brandColumn are the brands of one column.
type brandColumn struct {
	sheet    *Sheet
	rules    *brand.Rules
	col      int
	title    int
	number   int // in the tally, -1 if it is only looked
	unify    bool
	spelling *steps.Spelling
	finder   *brand.Finder
	names    standing // cells that stand for no placeholder
}

// Order orders that brands are put in order, or only looks.
func (b *brandSection) Order(s *Sheet) error {
	field, said := s.Fields[catalogue.Brand.String()]
	orders := !b.rules.Idle() || said && field.Unify
	cased := s.Book.Title.Case != "" && s.Book.Title.Case != title.AsIs // brands keep their writing in titles
	if !orders && !cased && (said || !steps.Compares(s.Table)) {
		return nil
	}
	cols := s.Find(catalogue.Brand.String())
	if orders {
		var err error
		if cols, err = s.Need("[brand]", catalogue.Brand.String()); err != nil {
			return err
		}
	}
	for _, col := range cols {
		if col >= s.Columns.Own() || s.settled[col] {
			continue
		}
		if other := s.Orders.WrittenBy(col); other != "" && said && field.Unify {
			return &ruleError{error: refuseUnify(catalogue.Brand.String(), s.Columns.Headings[col], other)}
		}
		c := &brandColumn{sheet: s, rules: b.rules, col: col, title: s.beside(s.Columns.First(catalogue.Title), col), number: -1,
			unify: said && field.Unify}
		var first []string
		switch {
		case said && field.Known != nil:
			first = field.Known.Values()
		case c.unify && s.inShop != nil:
			first = s.inShop.brands
		}
		c.finder = brand.NewFinder(brand.Known(first))
		s.brands = brand.Known(first)
		c.spelling = s.Orders.CompareBy(col, c.unify, b.rules.Spelt(first), func(seen *lists.Spellings) {
			if len(first) == 0 {
				s.brands = seen.Values(c.unify)
				c.finder = brand.NewFinder(slices.Clone(s.brands))
			}
		})
		one := steps.Order{Key: "brand", Phase: steps.PhaseLook, Reads: []int{col}, Do: c.do, Looks: true}
		if orders {
			c.number = s.Tally.Add(b.says(c.unify), steps.Changed, 0)
			one = steps.Order{Key: "brand", Phase: steps.PhaseTitles, Writes: []int{col}, Do: c.do,
				Rules: []catalogue.Rule{catalogue.RuleBrand, catalogue.RuleUnify}}
			if !b.rules.FromTitle {
				c.title = -1
			}
		}
		if c.title >= 0 {
			one.Reads = append(one.Reads, c.title)
		}
		s.settled[col] = orders || !said
		if !orders && (said || !steps.Compares(s.Table)) {
			continue // it is only read for the titles
		}
		if err := s.Orders.AddCounted(one, field.Meant, -1); err != nil {
			return err
		}
	}
	return nil
}

// says says the rules in words.
func (b *brandSection) says(unify bool) string {
	var parts []string
	for _, p := range []struct {
		on   bool
		says string
	}{
		{unify, "one spelling"}, {b.rules.LegalForms == brand.Ignore, "legal forms ignored"}, {b.rules.WithoutBy, "without by"},
		{b.rules.Placeholders == brand.Blank, "placeholders emptied"}, {b.rules.FromTitle, "from the title"},
	} {
		if p.on {
			parts = append(parts, p.says)
		}
	}
	return "brands: " + strings.Join(parts, ", ")
}

func (c *brandColumn) do(r *steps.RowAt) bool {
	cell := r.Cell(c.col)
	after := cell
	if c.isPlaceholder(cell) {
		if c.rules.Placeholders != brand.Blank {
			if c.rules.Placeholders == "" {
				r.Find(catalogue.BrandPlaceholder, c.col, cell, catalogue.Facts{})
			}
			return false
		}
		after = ""
	}
	if after == "" {
		if !r.Belongs(c.col) || c.title < 0 {
			return c.set(r, cell, after)
		}
		one, several := c.finder.In(r.View().Cell(c.title))
		switch {
		case one != "" && c.rules.FromTitle:
			after = one
		case one != "":
			r.Find(catalogue.BrandInTitle, c.col, cell, catalogue.Facts{Other: one, Proposed: one})
		case len(several) > 1 && c.rules.FromTitle:
			r.Find(catalogue.BrandSeveral, c.col, cell, catalogue.Facts{Other: strings.Join(several, " and ")})
		}
		return c.set(r, cell, after)
	}
	if c.number < 0 {
		return c.spelling.Do(r)
	}
	right, found := c.spelling.Right(after, c.unify)
	if !found {
		return c.spelling.Do(r) // to say what is to be said
	}
	r.Touch(c.number, c.col)
	r.Set(c.col, right, catalogue.RuleUnify, catalogue.Ordered, "")
	return false
}

func (c *brandColumn) isPlaceholder(cell string) bool {
	if c.names.has(cell) {
		return false
	}
	is := brand.IsPlaceholder(cell)
	if !is {
		c.names.keep(cell)
	}
	return is
}

func (c *brandColumn) set(r *steps.RowAt, cell, after string) bool {
	if after != cell && c.number >= 0 {
		r.Touch(c.number, c.col)
		r.Set(c.col, after, catalogue.RuleBrand, catalogue.Ordered, "")
	}
	return false
}

// Begin proposes what brands need.
func (*brandSection) Begin(s *Seen, b *Draft) {
	spelt, none, titled := s.spelt(catalogue.Brand), s.cells(catalogue.BrandPlaceholder), s.cells(catalogue.BrandInTitle)
	if spelt+none+titled == 0 {
		return
	}
	b.line("\n# [brand]")
	if spelt > 0 {
		b.line("# %-28s # %s spelt otherwise than most", "unify        = true", plural(spelt, "cell"))
		b.line("# %-28s # Ltd, GmbH and the like make no difference", "legal_forms  = \"ignore\"")
	}
	if none > 0 {
		b.line("# %-28s # %s: words that say that there is none", "placeholders = \"blank\"", plural(none, "cell"))
	}
	if titled > 0 {
		b.line("# %-28s # %s, and one brand of the column stands in the title", "from_title   = true", plural(titled, "empty cell"))
	}
}

// Ask asks for what would put brands in order.
func (*brandSection) Ask(s *Seen) (list []Question) {
	if n := s.spelt(catalogue.Brand); n > 0 {
		list = append(list, yesNo("brand.unify", n, fmt.Sprintf("%s spelt otherwise than most that mean the same.", are(n, "brand")), "Write them as most are?",
			set("brand", "unify", "true")).on(catalogue.ValueSpelling, s.first(catalogue.Brand)))
	}
	if n := s.cells(catalogue.BrandPlaceholder); n > 0 {
		list = append(list, yesNo("brand.placeholder", n, fmt.Sprintf("%s only that there is none, such as n/a.", verb(n, "brand", "says", "say")), "Write these cells empty?",
			set("brand", "placeholders", `"blank"`)).on(catalogue.BrandPlaceholder, s.first(catalogue.Brand)))
	}
	if n := s.cells(catalogue.BrandInTitle); n > 0 {
		list = append(list, yesNo("brand.in-title", n, fmt.Sprintf("%s no brand, but one of the column's in the title.", verb(n, "row", "has", "have")), "Write it under the brand?",
			set("brand", "from_title", "true")).on(catalogue.BrandInTitle, s.first(catalogue.Brand)))
	}
	return list
}
