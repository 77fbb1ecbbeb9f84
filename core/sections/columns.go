package sections

import (
	"fmt"
	"html"
	"maps"
	"slices"
	"strings"

	"zetanum/core/barcode"
	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/reference"
	"zetanum/core/rescue"
	"zetanum/core/rulebook"
	"zetanum/core/steps"
)

// columnsSection says which columns go out, and what fills them.
type columnsSection struct {
	plain
	rules *columns.Rules
}

func (*columnsSection) Parts() []rulebook.Part {
	return []rulebook.Part{
		{
			Name: "columns", Line: "[columns]",
			Says: "Which columns go out. Columns are named by heading or by field. What is filled is filled down to the last " +
				"row, and only where it is empty.",
			Keys: []rulebook.Key{
				{
					Name:    "drop",
					Says:    "Columns that do not go out; two headings with .. between them are all from the one to the other.",
					Example: `drop = ["Int. memo", "Cost .. Shelf"]`,
				},
				{
					Name:    "drop_nameless",
					Says:    "Drops the columns without a heading. What stands in them is named.",
					Example: "drop_nameless = true",
				},
				{
					Name:    "keep",
					Says:    "The only columns that go out, besides those that rules fill.",
					Example: `keep = ["sku", "price"]`,
				},
				{
					Name:    "keep_in_order",
					Says:    "They go out in the order in which keep names them.",
					Example: "keep = [\"price\", \"sku\"]\nkeep_in_order = true",
				},
				{
					Name: "drop_key",
					Says: "Says that what the shop knows products by may be left out: the SKU, and the slug or parent SKU that several rows " +
						"share; without any, the column of codes that all differ.",
					Example: "drop_key = true",
				},
				{
					Name:    "order",
					Says:    "Columns that go out first, in this order.",
					Example: `order = ["sku", "title"]`,
				},
				{
					Name:    "rename",
					Says:    "Other headings for columns that go out.",
					Example: `rename = { "Art. no." = "SKU" }`,
				},
				{
					Name:    "add",
					Says:    "A fixed value for a column, which is added if it is not there.",
					Example: `add = { "Language" = "en" }`,
				},
				{
					Name:    "copy",
					Says:    "A column that is filled from another, and added if it is not there. Into one of barcodes only whole codes go.",
					Example: `copy = { "MPN" = "sku" }`,
				},
				{
					Name: "origin",
					Says: "Columns that keep where each product came from: file, sheet and row are those of the source, a field or heading is what stood " +
						"there before anything was done to it. They are added, and filled where they are empty.",
					Example: `origin = { "From file" = "file", "From row" = "row", "Supplier's category" = "category" }`,
				},
				{
					Name: "expect",
					Says: "The headings of the file that the rulebook was made for. If a file has others, all that differs is said " +
						"before anything runs; a missing one stops it.",
					Example: `expect = ["SKU", "Title", "Price"]`,
				},
			},
		},
		{
			Name: "columns.fill", Line: "[[columns.fill]]",
			Says:   "A column filled where it is empty, like add and copy, but with a condition.",
			Shared: rulebook.Scope,
			Keys: []rulebook.Key{
				{
					Name: "into",
					Says: "The column to fill, which is added if it is not there.",
					Example: `into = "Region"
with = "UK"`,
				},
				{
					Name: "with",
					Says: "The fixed value.",
					Example: `into = "Delivery"
with = "Parcel, 2-3 days"`,
				},
				{
					Name: "from",
					Says: "The column to copy.",
					Example: `into = "MPN"
from = "sku"`,
				},
				{
					Name: "over",
					Says: "Fills cells that are not empty, too.",
					Example: `into = "Delivery"
with = "Parcel, 2-3 days"
over = true`,
				},
			},
		},
		{
			Name: "columns.split", Line: "[[columns.split]]",
			Says: "One column taken apart into several, where these are empty. A cell that has not as many parts is left and " +
				"named.",
			Shared: rulebook.Scope,
			Keys: []rulebook.Key{
				{
					Name: "from",
					Says: "The column to take apart.",
					Example: `from = "Colour / size"
at   = "/"
into = ["Colour", "Size"]`,
				},
				{
					Name: "at",
					Says: "The text between the parts.",
					Example: `from = "Dimensions"
at   = "x"
into = ["Length", "Width", "Height"]`,
				},
				{
					Name: "into",
					Says: "The columns of the parts, which are added if they are not there.",
					Example: `from = "Name"
at   = ","
into = ["Title", "Size"]`,
				},
			},
		},
		{
			Name: "columns.join", Line: "[[columns.join]]",
			Says:   "Several columns put together in one, where that is empty. Empty parts vanish with their separator.",
			Shared: rulebook.Scope,
			Keys: []rulebook.Key{
				{
					Name: "from",
					Says: "The columns to put together.",
					Example: `from = ["brand", "title"]
with = " "
into = "Full title"`,
				},
				{
					Name: "with",
					Says: "What stands between the parts.",
					Example: `from = ["category", "type"]
with = " > "
into = "Category path"`,
				},
				{
					Name: "into",
					Says: "The column for the whole, which is added if it is not there.",
					Example: `from = ["colour", "size"]
with = ", "
into = "Option"`,
				},
			},
		},
	}
}

func (s *columnsSection) Tables() []rulebook.Table {
	return []rulebook.Table{{Name: "columns", Into: s.rules}}
}

func (s *columnsSection) Check() []rulebook.Problem {
	problems := rulebook.In("columns", 0, s.rules.Check())
	for i := range s.rules.Fill {
		problems = append(problems, rulebook.In("columns.fill", i+1, s.rules.Fill[i].Check())...)
	}
	for i := range s.rules.Split {
		problems = append(problems, rulebook.In("columns.split", i+1, s.rules.Split[i].Check())...)
	}
	for i := range s.rules.Join {
		problems = append(problems, rulebook.In("columns.join", i+1, s.rules.Join[i].Check())...)
	}
	return problems
}

// Order orders that columns are filled, taken apart and put together. A column that is
// filled is not judged again: into one of barcodes only whole codes go.
// Adds returns the columns that keep where products came from.
func (c *columnsSection) Adds(*Sheet) ([]string, error) {
	return slices.Sorted(maps.Keys(c.rules.Origin)), nil
}

// Steps fills them, when all has been done to the cells.
func (c *columnsSection) Steps(s *Sheet) error {
	var list []steps.OriginColumn
	for _, into := range slices.Sorted(maps.Keys(c.rules.Origin)) {
		from := c.rules.Origin[into]
		found := s.Find(into)
		if len(found) == 0 {
			continue
		}
		one := steps.OriginColumn{Into: found[0], From: from, Col: -1}
		if cols := s.Find(from); len(cols) > 0 {
			one.From, one.Col = "", cols[0]
		} else if !slices.Contains([]string{steps.OriginFile, steps.OriginSheet, steps.OriginRow}, from) {
			if s.AsLeft != nil {
				continue // it is filled
			}
			return &ruleError{key: "origin", error: columns.NotThere(&s.Columns, "[columns] origin", from)}
		}
		list = append(list, one)
	}
	if list != nil && !s.looking && !s.CodesOnly {
		s.Add(StageOrigin, steps.Origin(&s.Sheet, list))
	}
	return nil
}

func (*columnsSection) Order(s *Sheet) error {
	if err := s.claimFilled(); err != nil {
		return err
	}
	for n := range s.Plan.Splits {
		split := &s.Plan.Splits[n]
		if _, err := s.Orders.Add(steps.Order{
			Key: "columns.split", Phase: steps.PhaseFill, Reads: []int{split.From}, Writes: split.Into,
			Rules: []catalogue.Rule{catalogue.RuleSplit}, Do: s.splitter(split),
		}, split.Rule.Scope, split.Rule.String()); err != nil {
			return err
		}
	}
	for n := range s.Plan.Joins {
		join := &s.Plan.Joins[n]
		if _, err := s.Orders.Add(steps.Order{
			Key: "columns.join", Phase: steps.PhaseFill, Reads: join.From, Writes: []int{join.Into},
			Rules: []catalogue.Rule{catalogue.RuleJoin}, Do: s.joiner(join),
		}, join.Rule.Scope, join.Rule.String()); err != nil {
			return err
		}
	}
	for n := range s.Plan.Joins {
		s.inside(s.Plan.Joins[n].From, s.Plan.Joins[n].Into)
	}
	for n := range s.Plan.Splits {
		s.parted(&s.Plan.Splits[n])
	}
	s.nameless()
	for n := range s.Plan.Fillers {
		f := &s.Plan.Fillers[n]
		if err := s.overThere(f.Over, "[[columns.fill]] into", f.Col); err != nil {
			return err
		}
		fill := steps.Order{Key: "columns.fill", Phase: steps.PhaseFill, Writes: []int{f.Col}, Rules: []catalogue.Rule{catalogue.RuleAdd},
			Do: s.filler(f)}
		if f.From >= 0 {
			fill.Reads, fill.Rules = []int{f.From}, []catalogue.Rule{catalogue.RuleCopy}
		}
		if _, err := s.Orders.Add(fill, f.Scope, f.Words); err != nil {
			return err
		}
	}
	return nil
}

// claimFilled says which barcodes may come into a column that is filled.
func (s *Sheet) claimFilled() error {
	isBarcode := func(col int) bool { return s.Columns.Fields[col] == catalogue.Barcode }
	for n := range s.Plan.Fillers {
		f := &s.Plan.Fillers[n]
		if !isBarcode(f.Col) {
			continue
		}
		if f.From >= 0 {
			s.Orders.Claiming(func(row *catalogue.Row) []string { return []string{row.Cell(f.From)} }, f.From)
		} else if form := rescue.Read(f.Value, false).Form; form != rescue.Empty && form != rescue.Nothing {
			return columns.Refuse("[columns] fills %q with %s: a barcode is that of one product, not of every row",
				s.Columns.Headings[f.Col], f.Value)
		}
	}
	for n := range s.Plan.Splits {
		if split := &s.Plan.Splits[n]; slices.ContainsFunc(split.Into, isBarcode) {
			s.Orders.Claiming(func(row *catalogue.Row) []string {
				parts, _ := split.Parts(row.Cell(split.From))
				return parts
			}, split.From)
		}
	}
	return nil
}

// nameless names what stands in columns without a heading that are dropped.
func (s *Sheet) nameless() {
	if !s.Rules.DropNameless {
		return
	}
	for _, col := range s.Plan.Gone {
		if strings.TrimSpace(s.Columns.Headings[col]) != "" {
			continue
		}
		s.Orders.Look("columns", []int{col}, func(r *steps.RowAt) {
			if cell := r.Cell(col); strings.TrimSpace(cell) != "" {
				r.Find(catalogue.ColumnNameless, col, cell, catalogue.Facts{})
			}
		})
	}
}

// joiner puts cells together in one that is empty.
func (s *Sheet) joiner(join *columns.Join) func(*steps.RowAt) bool {
	return func(r *steps.RowAt) bool {
		text := join.Text(r.Row)
		if r.Cell(join.Into) != "" || text == "" || !s.takes(r, join.Into, text, join.From[0]) {
			return false
		}
		r.Set(join.Into, text, catalogue.RuleJoin, catalogue.Ordered, "")
		return true
	}
}

// inside looks whether what columns that do not go out have in them is inside the
// column that was made of them.
func (s *Sheet) inside(from []int, into int) {
	for _, col := range from {
		if !slices.Contains(s.Plan.Gone, col) {
			continue
		}
		s.Orders.Look("columns", []int{col, into}, func(r *steps.RowAt) {
			whole := strings.ToLower(r.Cell(into))
			for _, word := range strings.Fields(strings.ToLower(r.Cell(col))) {
				if !strings.Contains(whole, word) && !strings.Contains(whole, html.EscapeString(word)) {
					r.Find(catalogue.ColumnNotInside, col, r.Cell(col), catalogue.Facts{Other: s.Columns.Headings[into]})
					return
				}
			}
		})
	}
}

// parted looks whether the parts of a column that does not go out are in the
// columns that they were to go into.
func (s *Sheet) parted(split *columns.Split) {
	if !slices.Contains(s.Plan.Gone, split.From) {
		return
	}
	s.Orders.Look("columns", append([]int{split.From}, split.Into...), func(r *steps.RowAt) {
		cell := r.Cell(split.From)
		parts, ok := split.Parts(cell)
		if cell == "" || !ok {
			return // which is said when it is split
		}
		for i, col := range split.Into {
			if !strings.Contains(strings.ToLower(r.Cell(col)), strings.ToLower(parts[i])) {
				r.Find(catalogue.ColumnNotInside, split.From, cell, catalogue.Facts{Other: s.Columns.Headings[col]})
				return
			}
		}
	})
}

func (s *Sheet) filler(f *columns.Filler) func(*steps.RowAt) bool {
	return func(r *steps.RowAt) bool {
		old := r.Cell(f.Col)
		if old != "" && !f.Over || old == "" && !r.Belongs(f.Col) {
			return false
		}
		if f.From < 0 && old == f.Value {
			return false
		}
		if f.From < 0 {
			r.Set(f.Col, f.Value, catalogue.RuleAdd, catalogue.Ordered, "")
			return true
		}
		value := r.View().Cell(f.From)
		if value == "" || value == old {
			return false
		}
		if !s.takes(r, f.Col, value, f.From) {
			return false
		}
		r.Set(f.Col, value, catalogue.RuleCopy, catalogue.Ordered, "")
		s.suits(r, f.Col, f.From)
		return true
	}
}

// splitter takes a cell apart into columns that are all empty. A cell that has not
// as many parts is left, and named.
func (s *Sheet) splitter(split *columns.Split) func(*steps.RowAt) bool {
	return func(r *steps.RowAt) bool {
		cell := r.Cell(split.From)
		if cell == "" {
			return false
		}
		for _, col := range split.Into {
			if r.Cell(col) != "" {
				return false
			}
		}
		parts, ok := split.Parts(cell)
		if !ok {
			r.Find(catalogue.ColumnParts, split.From, cell, catalogue.Facts{Digits: len(parts), Length: len(split.Into)})
			return false
		}
		for i, col := range split.Into {
			if parts[i] != r.Cell(col) && s.takes(r, col, parts[i], split.From) {
				r.Set(col, parts[i], catalogue.RuleSplit, catalogue.Ordered, "")
			}
		}
		return true
	}
}

// overThere returns an error if a rule would write over what is in a column that the file does not have, and
// another one looks like it: that is the one which is meant, and the new one would stand beside it.
func (s *Sheet) overThere(over bool, key string, col int) error {
	if !over || col < s.Columns.Own() {
		return nil
	}
	if alike := s.looksLike(col); alike != nil {
		return columns.Refuse("%s names %q, which the file does not have, to write over what is in it; if %q is meant, say so: "+
			"under [headings], %q = %q", key, s.Columns.Headings[col], alike[0], alike[0], strings.ToLower(s.Columns.Headings[col]))
	}
	return nil
}

// looksLike returns the headings of columns of the file that nothing is known of and that look like one which
// is added.
func (s *Sheet) looksLike(col int) (alike []string) {
	for _, h := range reference.LookAlikes(s.Columns.Headings[:s.Columns.Own()], s.Columns.Headings[col]) {
		at := slices.Index(s.Columns.Headings, h)
		if s.Columns.Fields[at] == catalogue.Unknown && !slices.Contains(s.Plan.Gone, at) { // what is dropped is known
			alike = append(alike, h)
		}
	}
	return alike
}

// takes reports whether a value of another column may go into a column. One of barcodes
// takes whole codes only, and claims them, so that no two products have the same.
func (s *Sheet) takes(r *steps.RowAt, col int, value string, from int) bool {
	if s.Columns.Fields[col] != catalogue.Barcode {
		return true
	}
	code, err := barcode.Parse(strings.TrimSpace(value))
	if err != nil {
		r.Find(catalogue.BorrowUnsuited, col, r.Cell(col), catalogue.Facts{Other: fmt.Sprintf("The column %s has %s",
			s.Columns.Headings[from], catalogue.Shorten(value, 40))})
		return false
	}
	if !r.Dry {
		r.Log.Claim(steps.ClaimBarcode, s.Codes.Mine(code.Key(), r.Index, r.Log), r.Index, col)
	}
	return true
}

// suits notes what was copied into a column whose cells it does not look like.
func (s *Sheet) suits(r *steps.RowAt, col, from int) {
	cell := strings.TrimSpace(r.Cell(col))
	what := ""
	switch kind := s.Columns.Kind(col); {
	case kind == catalogue.CodeKind:
		if _, scientific := steps.ScientificSKU(cell); scientific {
			what = "a number in scientific notation"
		} else if strings.ContainsAny(cell, " \t\n") {
			what = "several words, not a code"
		}
	case kind.Numeric() && !strings.ContainsAny(cell, "0123456789"):
		what = "no number"
	case kind == catalogue.DateKind && !strings.ContainsAny(cell, "0123456789"):
		what = "no date"
	case kind == catalogue.LinkKind && (!strings.ContainsAny(cell, "./") || strings.Contains(cell, " ")):
		what = "no link"
	}
	if what != "" {
		r.Find(catalogue.ColumnUnsuited, col, r.Cell(col), catalogue.Facts{Other: s.Columns.Headings[from] + ", and it is " + what})
	}
}

// Begin proposes which columns go out.
func (*columnsSection) Begin(s *Seen, b *Draft) {
	if s.File == "" {
		return
	}
	var drop, sku []string
	language := false
	for _, c := range s.Columns {
		switch {
		case c.Heading != "" && c.Filled == 0 && !c.Needed && !s.Form && s.Template == "":
			drop = append(drop, quoted(c.Heading))
		case c.Field == catalogue.SKU && len(sku) == 0:
			sku = append(sku, c.Heading)
		}
		language = language || c.Field == catalogue.Language
	}
	b.line("\n[columns]")
	b.line("# The headings of the file; one with others would be met with what differs, before anything runs:")
	var expect []string
	for _, c := range s.Columns {
		if c.Heading != "" {
			expect = append(expect, quoted(c.Heading))
		}
	}
	if expect != nil {
		b.line("# expect = [%s]", strings.Join(expect, ", "))
	}
	if len(drop) > 0 {
		b.line("# Empty, %s:", plural(len(drop), "column"))
	}
	for _, c := range s.Columns {
		if c.Ratio != "" {
			b.line("# %s is %s, which price and cost say at any time; margin_at_least under [price] looks at it:", clean(c.Heading), c.Ratio)
			drop = append(drop, quoted(c.Heading))
		}
	}
	if len(drop) > 0 {
		b.line("# drop   = [%s]", strings.Join(drop, ", "))
	}
	if s.Template != "" {
		b.constants(s.Columns)
		return // it says which columns go out
	}
	if len(sku) > 0 && !strings.EqualFold(sku[0], "SKU") {
		b.line("# rename = { %s = \"SKU\" }", quoted(sku[0]))
	}
	if !language {
		b.line("# add    = { \"Language\" = \"en\" }   # the same in every row")
	}
	b.line("# order  = [\"sku\", \"title\"]")
	b.constants(s.Columns)
}

// constants proposes to fill columns in which all rows that say anything say the same.
func (b *Draft) constants(columns []SeenColumn) {
	for _, c := range columns {
		if c.Same && c.Heading != "" {
			b.line("\n# %s of %s say the same, and the others nothing:", plural(c.Filled, "row"), clean(c.Heading))
			b.line("# [[columns.fill]]\n# into = %s\n# with = %s", quoted(c.Heading), quoted(c.Example))
		}
	}
}

// Ask asks about columns that say nothing, or nothing of their own, and about cells that may say what all others do.
func (*columnsSection) Ask(s *Seen) (list []Question) {
	if s.Template == "" && !s.Form { // which say what goes out
		var empty []string
		for _, c := range s.Columns {
			if c.Heading != "" && c.Filled == 0 && !c.Needed {
				empty = append(empty, c.Heading)
			}
			if c.Ratio != "" {
				list = append(list, blind(yesNo("columns.drop="+c.Heading, c.Filled, fmt.Sprintf("%s is %s, which can be reckoned at any time.", shown(c.Heading), c.Ratio), "Leave the column out?",
					wordIn("columns", "drop", c.Heading))))
			}
		}
		if empty != nil {
			q := blind(yesNo("columns.drop", 0, fmt.Sprintf("%s empty: %s.", are(len(empty), "column"), clean(strings.Join(empty, ", "))), "Leave it out?"))
			if len(empty) > 1 {
				q.Asks = "Leave them out?"
			}
			for _, h := range empty {
				q.Ways[0].Orders = append(q.Ways[0].Orders, wordIn("columns", "drop", h))
			}
			list = append(list, q)
		}
	}
	for _, c := range s.Columns {
		if c.Same && c.Heading != "" && s.Rows > c.Filled {
			list = append(list, yesNo("columns.fill="+c.Heading, s.Rows-c.Filled, fmt.Sprintf("%s the same under %s, and the others nothing.", verb(c.Filled, "row", "says", "say"), shown(c.Heading)),
				fmt.Sprintf("Write %s there, too?", shown(c.Example)), newOf("columns.fill", "into", quoted(c.Heading), "with", quoted(c.Example))))
		}
	}
	return list
}

func blind(q Question) Question {
	q.Blind = true
	return q
}
