package sections

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/products"
	"zetanum/core/rulebook"
	"zetanum/core/steps"
)

// optionsSection takes options that are packed in one cell apart, or packs them.
type optionsSection struct {
	plain
	rules  *[]products.OptionsRule
	packed []*packed // those that there is something to do for
}

func (*optionsSection) Parts() []rulebook.Part {
	return []rulebook.Part{
		{
			Name: "options", Line: "[[options]]",
			Says: "Options of variants that are packed in one cell, taken apart into columns of their own, where these are " +
				"empty: Colour: honey; Size: L, or COLOUR=honey|SIZE=L, or honey / L. How they are written is seen from the " +
				"column, and said. A cell that cannot be taken apart is held with its text; the others are done. With into " +
				"they are packed the other way.",
			Shared: rulebook.Scope,
			Keys: []rulebook.Key{
				{
					Name:    "from",
					Says:    "The column with the options.",
					Example: `from = "Options"`,
				},
				{
					Name: "names",
					Says: "The names of the options, which are those of the columns. They are needed where the cells have only values, " +
						"in the order of the names; otherwise they are seen from the first rows.",
					Example: `from  = "Options"
names = ["Colour", "Size"]`,
				},
				{
					Name: "names_from",
					Says: "The column that has the names of the options, written like their values.",
					Example: `from       = "Option values"
names_from = "Option names"`,
				},
				{
					Name: "in_pairs",
					Says: "Into how many pairs of columns the options go, one for the name and one for the value of each, in place of " +
						"columns that are called like them: those of the sheet, and as many more as are needed. Each product has its " +
						"options in its own order.",
					Example: `from     = "Options"
in_pairs = 3`,
				},
				{
					Name: "into",
					Says: "The column into which the options are packed that names names, where it is empty; it is added if it is not " +
						"there.",
					Example: `into  = "Options"
names = ["Colour", "Size"]`,
				},
				{
					Name: "between",
					Says: `What stands between the options that are packed; "; " if nothing is said.`,
					Example: `into    = "Options"
names   = ["Colour", "Size"]
between = "|"`,
				},
				{
					Name: "pair",
					Says: `What stands between the name and the value of an option that is packed; ": " if nothing is said.`,
					Example: `into  = "Options"
names = ["Colour", "Size"]
pair  = "="`,
				},
				{
					Name: "no_names",
					Says: "Packs only the values.",
					Example: `into     = "Options"
names    = ["Colour", "Size"]
between  = " / "
no_names = true`,
				},
			},
		},
	}
}

func (s *optionsSection) Tables() []rulebook.Table {
	return []rulebook.Table{{Name: "options", Into: s.rules}}
}

func (s *optionsSection) Check() (problems []rulebook.Problem) {
	for i := range *s.rules {
		problems = append(problems, rulebook.In("options", i+1, (*s.rules)[i].Check())...)
	}
	return problems
}

// A packed is a rule about options in one cell, fitted to a sheet.
type packed struct {
	*products.OptionsRule
	products.Packing
	nth       int
	Names     []string // of the options, which are those of the columns
	From      int      // -1 if they are packed instead
	NamesFrom int      // -1 if there is no such column
}

// Adds fits the rules to the sheet: how options are written there is seen from its first
// rows.
func (o *optionsSection) Adds(s *Sheet) (names []string, err error) {
	o.packed = nil
	for i := range *o.rules {
		p, err := s.packing(&(*o.rules)[i])
		if err != nil {
			return nil, nth(i, err)
		}
		if p == nil {
			continue
		}
		p.nth = i
		o.packed = append(o.packed, p)
		if p.Into != "" {
			names = append(names, p.Into)
		} else {
			names = append(names, p.Names...)
		}
		for n := len(products.OptionPairs(&s.Columns)); n < p.InPairs; n++ {
			names = append(names, products.PairHeadings(n+1)...)
		}
	}
	return names, nil
}

// packing fits a rule to the sheet, nil if it has been carried out before or cannot be.
func (s *Sheet) packing(rule *products.OptionsRule) (p *packed, err error) {
	p = &packed{OptionsRule: rule, From: -1, NamesFrom: -1}
	if rule.Into != "" {
		p.Names = rule.Names
		return p, nil
	}
	if p.From, err = s.NeedOne("[[options]] from", rule.From); err != nil {
		return nil, err
	}
	if rule.NamesFrom != "" {
		if p.NamesFrom, err = s.NeedOne("[[options]] names_from", rule.NamesFrom); err != nil {
			return nil, err
		}
	}
	if p.From < 0 || rule.NamesFrom != "" && p.NamesFrom < 0 {
		return nil, nil // it was taken apart before its column was dropped
	}
	var cells, names []string
	for _, row := range s.Sample {
		cells = append(cells, cellOf(row, p.From))
		names = append(names, cellOf(row, p.NamesFrom))
	}
	if p.NamesFrom < 0 {
		names = nil
	}
	var ok bool
	p.Packing, p.Names, ok = products.FindPacking(cells, rule.Names, names)
	if ok = ok || rule.InPairs > 0 && p.Packing.Between != ""; !ok {
		s.Note("how the options in %q are written cannot be seen from its first rows; names under [[options]] may help", rule.From)
		return nil, nil
	}
	into := "the columns " + strings.Join(p.Names, ", ")
	if rule.InPairs > 0 {
		into = fmt.Sprintf("%d pairs of columns, for the name and the value of each", rule.InPairs)
		p.Names = nil
	}
	s.Note("the options in %q are written %s, and go into %s", rule.From, p.Packing, into)
	return p, nil
}

func cellOf(cells []string, col int) string {
	if col < 0 || col >= len(cells) {
		return ""
	}
	return cells[col]
}

// Order orders that options in one cell go into columns of their own, where these are
// empty. A cell that cannot be taken apart is left and named.
func (o *optionsSection) Order(s *Sheet) error {
	for _, p := range o.packed {
		if p.From >= 0 {
			s.Products.Put(products.OfVariant, []int{p.From}) // what has options is a variant
		}
		for _, name := range p.Names {
			s.Products.Declare(s.Find(name))
		}
	}
	for _, p := range o.packed {
		if err := s.options(p); err != nil {
			return nth(p.nth, err)
		}
	}
	return nil
}

func (s *Sheet) options(p *packed) error {
	if p.InPairs > 0 {
		return s.inPairs(p)
	}
	into := make([]int, len(p.Names))
	for i, name := range p.Names {
		col, err := s.NeedOne("[[options]] names", name)
		if err == nil && p.Into == "" {
			err = steps.Unreserved(&s.Columns, col, steps.Reserved, "[[options]] names", name)
		}
		if err != nil {
			return err
		}
		into[i] = col
	}
	if p.Into != "" {
		return s.pack(p, into)
	}
	reads := []int{p.From}
	if p.NamesFrom >= 0 {
		reads = append(reads, p.NamesFrom)
	}
	_, err := s.Orders.Add(steps.Order{
		Key: "options", Phase: steps.PhaseFill, Reads: reads,
		Writes: slices.DeleteFunc(slices.Clone(into), func(col int) bool { return col < 0 }),
		Rules:  []catalogue.Rule{catalogue.RuleUnpack}, Tells: true, Do: func(r *steps.RowAt) bool { return s.unpack(r, p, into) },
	}, p.Scope, p.OptionsRule.String())
	return err
}

// pack orders that options are packed in one column, where that is empty.
func (s *Sheet) pack(p *packed, from []int) error {
	into, err := s.NeedOne("[[options]] into", p.Into)
	if err == nil {
		err = steps.Unreserved(&s.Columns, into, steps.Reserved, "[[options]] into", p.Into)
	}
	if err != nil || into < 0 || slices.Contains(from, -1) {
		return err // without its columns it has been packed before
	}
	_, err = s.Orders.Add(steps.Order{Key: "options", Phase: steps.PhaseFill, Reads: from, Writes: []int{into},
		Rules: []catalogue.Rule{catalogue.RulePack}, Do: func(r *steps.RowAt) bool {
			if r.Cell(into) != "" || !r.Belongs(from[0]) {
				return false
			}
			var options []products.Pair
			for i, col := range from {
				options = append(options, products.Pair{Name: p.Names[i], Value: strings.TrimSpace(r.Cell(col))})
			}
			text := p.Pack(options)
			if text == "" {
				return false
			}
			r.Set(into, text, catalogue.RulePack, catalogue.Ordered, "")
			return true
		}}, p.Scope, p.OptionsRule.String())
	return err
}

// unpack takes the options of a row apart.
func (s *Sheet) unpack(r *steps.RowAt, p *packed, into []int) bool {
	cell := r.Cell(p.From)
	if strings.TrimSpace(cell) == "" {
		return false
	}
	list, ok := s.taken(r, p)
	if !ok {
		return false
	}
	wrote := false
	for _, option := range list {
		at := -1
		for i, name := range p.Names {
			if products.SameName(name, option.Name) {
				at = i
			}
		}
		if at < 0 {
			s.Orders.Unknown(r, catalogue.OptionPacked, p.From, cell,
				catalogue.Facts{Other: "no column is called " + catalogue.Shorten(option.Name, 40)})
			return wrote
		}
		if col := into[at]; col >= 0 && r.Cell(col) == "" {
			r.Set(col, option.Value, catalogue.RuleUnpack, catalogue.Ordered, "")
			wrote = true
		}
	}
	return wrote
}

// inPairs orders that options go into pairs of columns, one for the name and one for the
// value of each. All rows of a product have its options in the same order: that in which
// they come, behind those that stand there already.
func (s *Sheet) inPairs(p *packed) error {
	pairs := products.OptionPairs(&s.Columns)
	pairs = pairs[:min(len(pairs), p.InPairs)]
	reads := []int{p.From}
	if p.NamesFrom >= 0 {
		reads = append(reads, p.NamesFrom)
	}
	var writes []int
	for _, pair := range pairs {
		writes = append(writes, pair.Name, pair.Value)
	}
	_, err := s.Orders.Add(steps.Order{Key: "options", Phase: steps.PhaseFill, Reads: reads, Writes: writes,
		Rules: []catalogue.Rule{catalogue.RuleUnpack}, Tells: true, Do: func(r *steps.RowAt) bool {
			cell := r.Cell(p.From)
			if strings.TrimSpace(cell) == "" || slices.ContainsFunc(writes, func(col int) bool { return r.Cell(col) != "" }) {
				return false // done before
			}
			list, ok := s.taken(r, p)
			if !ok {
				return false
			}
			slots := r.Note(p, func() any { return p.slotsOf(r, pairs) }).(products.Slots)
			for _, option := range list {
				if at := slots.Of(option.Name); at >= len(pairs) {
					s.Orders.Unknown(r, catalogue.OptionPacked, p.From, cell,
						catalogue.Facts{Other: fmt.Sprintf("the product has %d options, and there are %d pairs of columns for them",
							len(slots), len(pairs))})
					return false
				}
			}
			for _, option := range list {
				at := slots.Of(option.Name)
				r.Set(pairs[at].Name, slots[at], catalogue.RuleUnpack, catalogue.Ordered, "")
				r.Set(pairs[at].Value, option.Value, catalogue.RuleUnpack, catalogue.Ordered, "")
			}
			return true
		}}, p.Scope, p.OptionsRule.String())
	return err
}

// taken takes the cell of a row apart; ok is false if that cannot be done, which is named.
func (s *Sheet) taken(r *steps.RowAt, p *packed) (list []products.Pair, ok bool) {
	list, err := p.optionsOf(r, r.Row)
	var packed *products.PackedError
	if errors.As(err, &packed) {
		s.Orders.Unknown(r, catalogue.OptionPacked, p.From, r.Cell(p.From), catalogue.Facts{Other: packed.Why})
	}
	return list, err == nil
}

// optionsOf takes the cell of a row of the product apart.
func (p *packed) optionsOf(r *steps.RowAt, row *catalogue.Row) ([]products.Pair, error) {
	names := p.OptionsRule.Names
	if p.NamesFrom >= 0 {
		cell := row.Cell(p.NamesFrom)
		if cell == "" && r.Lead != nil {
			cell = r.Lead.Cell(p.NamesFrom)
		}
		names = p.Items(cell)
	}
	return p.Decode(row.Cell(p.From), names)
}

// slotsOf returns the names of the options of a product in the order of their pairs.
func (p *packed) slotsOf(r *steps.RowAt, pairs []products.Option) products.Slots {
	slots := make(products.Slots, len(pairs))
	for i, pair := range pairs {
		for n, row := range r.Product.Rows {
			if name := strings.TrimSpace(row.Cell(pair.Name)); name != "" && !r.Log.IsAside(n) {
				slots[i] = name
				break
			}
		}
	}
	for n, row := range r.Product.Rows {
		if r.Log.IsAside(n) || strings.TrimSpace(row.Cell(p.From)) == "" {
			continue
		}
		if list, err := p.optionsOf(r, row); err == nil {
			slots = slots.With(list)
		}
	}
	return slots
}
