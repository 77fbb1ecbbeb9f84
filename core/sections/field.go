package sections

import (
	"fmt"
	"maps"
	"reflect"
	"slices"
	"strings"
	"unicode"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/condition"
	"zetanum/core/lists"
	"zetanum/core/markup"
	"zetanum/core/quantity"
	"zetanum/core/reference"
	"zetanum/core/rulebook"
	"zetanum/core/sheet"
	"zetanum/core/steps"
	"zetanum/core/text"
	"zetanum/core/title"
)

// A FieldTable is what a rulebook says of a field: what its cells must be, and what is done to their words.
type FieldTable struct {
	// From is another field or heading: of which a description gets the beginning, or from which an amount is reckoned.
	From string `toml:"from" json:"from,omitempty"`
	lists.FieldRule
	title.InField
	markup.Rules
	quantity.NumberRule
	quantity.PriceRule
	quantity.MeasureRule
	quantity.YesNoRule
	quantity.DateRule
}

// kind returns the kind of the field of that name.
func (t *FieldTable) kind(name string) catalogue.Kind {
	if f, known := catalogue.ParseField(name); known {
		return f.Kind()
	}
	kind, _ := catalogue.ParseKind(t.Type)
	return kind
}

// settle gives the key from to those of its rules that it is meant for.
func (t *FieldTable) settle(name string) {
	if t.kind(name) == catalogue.HTMLKind {
		t.Rules.From = t.From
	} else {
		t.PriceRule.From = t.From
	}
}

// markup returns what is done to the HTML of the field; nil if there is none.
func (t *FieldTable) markup(name string) *markup.Rules {
	if t.kind(name) != catalogue.HTMLKind {
		return nil
	}
	rules := t.Rules
	rules.Clean = t.InField.Clean
	return &rules
}

// Check returns what is wrong with what is said of the field of that name. inTemplate says that a template may say how long texts are at most.
func (t *FieldTable) Check(name string, inTemplate bool) []catalogue.Problem {
	problems := t.FieldRule.Check(name)
	if t.InField != (title.InField{}) && name == catalogue.Title.String() {
		return append(problems, catalogue.Problem{Key: "clean", Text: "what is done to the words of titles stands under [title]"})
	}
	if t.InField != (title.InField{}) {
		problems = append(problems, t.InField.Check(t.kind(name))...)
	}
	rules := t.Rules
	rules.Clean = t.InField.Clean
	problems = append(problems, rules.Check(t.kind(name), t.Longest > 0 || inTemplate)...)
	kind := t.kind(name)
	for _, more := range [][]catalogue.Problem{t.NumberRule.Check(kind), t.PriceRule.Check(kind), t.PriceRule.CheckEnd(&t.NumberRule), t.MeasureRule.Check(kind), t.YesNoRule.Check(kind), t.DateRule.Check(kind)} {
		problems = append(problems, more...)
	}
	slices.SortStableFunc(problems, func(a, b catalogue.Problem) int { return strings.Compare(a.Key, b.Key) }) // the same each time
	return problems
}

// fieldSection says what the cells of fields must be.
type fieldSection struct {
	plain
	rules *map[string]*FieldTable
	book  *Book
}

func (*fieldSection) Parts() []rulebook.Part {
	parts := []rulebook.Part{
		{
			Named: true, Name: "field", Line: "[field.NAME]",
			Says: "What the cells of a field must be; NAME is a field, or a new one of the shop's own. Rows that are not so are " +
				"held. Fields of type html have the keys of [description], too.",
			Shared: rulebook.Meant,
			Keys: []rulebook.Key{
				{
					Name: "type",
					Says: "The kind of a field of your own: " + strings.Join(catalogue.KindNames(), ", ") + ". A heading of that name is recognised; " +
						"others are named under [headings].",
					Example: `type = "text"
required = true`,
					Line: "[field.finish]",
				},
				{
					Name:    "required",
					Says:    "No product may be without it.",
					Example: "required = true",
					Line:    "[field.brand]",
				},
				{
					Name: "languages",
					Says: "The languages in which no product may be without it, by their codes of two letters: where the field has a column " +
						"for each, such as Name (EN) and Name (DE), or where each product has a row for each, and a column says in which language it " +
						"is. Rows of one product in several languages may have the same SKU and barcode then; those in other languages may be empty.",
					Example: `languages = ["en", "de"]`,
					Line:    "[field.title]",
				},
				{
					Name:    "unique",
					Says:    "No two products may have the same.",
					Example: "unique = true",
					Line:    "[field.slug]",
				},
				{
					Name:    "longest",
					Says:    "The most characters.",
					Example: "longest = 70",
					Line:    "[field.title]",
				},
				{
					Name: "count_in",
					Says: "What longest and shortest are numbers of, as the target counts: characters as people see them, if nothing is said, " +
						"utf-16 (what many programs call characters) or bytes.",
					Example: "longest  = 80\ncount_in = \"bytes\"",
					Line:    "[field.title]",
				},
				{
					Name:    "shortest",
					Says:    "The least characters.",
					Example: "shortest = 10",
					Line:    "[field.title]",
				},
				{
					Name: "one_of",
					Says: "The only values that it may have. One that differs only in case, spaces, accents or punctuation is written as " +
						"the list has it; for a slip of the keyboard the right one is proposed.",
					Example: `one_of = ["Hollowbrook Joinery", "Nørrebi"]`,
					Line:    "[field.brand]",
				},
				{
					Name:    "one_of_from",
					Says:    "A sheet that has the values, below a heading.",
					Example: `one_of_from = "brands.csv"`,
					Line:    "[field.brand]",
				},
				{
					Name: "one_of_column",
					Says: "The field or heading of the column that has them; the first, if nothing is said.",
					Example: `one_of_from   = "shop-export.csv"
one_of_column = "brand"`,
					Line: "[field.brand]",
				},
				{
					Name: "one_of_sheet",
					Says: "The sheet of a workbook.",
					Example: `one_of_from  = "their-template.xlsx"
one_of_sheet = "Makers"`,
					Line: "[field.brand]",
				},
				{
					Name:    "unify",
					Says:    "Brings spellings that differ in case, spaces and punctuation to the one that most rows have.",
					Example: "unify = true",
					Line:    "[field.brand]",
				},
				{
					Name: "clean",
					Says: "Takes off what does not belong into a text on one line, as clean under [title] does; not in [title] and [tags], which have " +
						"rules of their own. It goes with fields of type text, as the next three do.",
					Example: "clean = true",
					Line:    "[field.supplier]",
				},
				{
					Name:    "case",
					Says:    `How letters are written: "shouting", "sentence", "title", or "as-is", as under [title].`,
					Example: `case = "title"`,
					Line:    "[field.colour]",
				},
				{
					Name:    "shouting_as",
					Says:    `With case = "shouting": what a text becomes that shouts, "title", as when nothing is said, or "sentence".`,
					Example: "case        = \"shouting\"\nshouting_as = \"sentence\"",
					Line:    "[field.material]",
				},
				{
					Name:    "measures",
					Says:    "Writes measures with the symbol of their unit, and a space before it, as under [title].",
					Example: "measures = true",
					Line:    "[field.size]",
				},
				{
					Name: "if_open",
					Says: "What becomes of cells that cannot be settled: hold keeps their products back, as when nothing is said; blank writes " +
						"them empty, keep as they are in the file, and answered.csv lists them.",
					Example: `if_open = "blank"`,
					Line:    "[field.colour]",
				},
			},
		},
	}
	parts[0].Keys = append(parts[0].Keys, quantityKeys()...)
	for i := range parts[0].Keys {
		key := &parts[0].Keys[i]
		var types []string
		for _, kind := range lists.KindsOf(key.Name) {
			types = append(types, kind.String())
		}
		if types != nil {
			key.Says += " It goes with fields of type " + strings.Join(types, ", ") + "."
		}
	}
	return parts
}

// fieldKeys are the keys of fields that a section has, too, which is called like one.
func fieldKeys() (keys []rulebook.Key) {
	for _, key := range (&fieldSection{}).Parts()[0].Keys {
		if key.Name == quantityKeys()[0].Name {
			break // those who are called like fields have no amounts
		}
		if key.Name != "type" {
			keys = append(keys, key)
		}
	}
	return keys
}

// Tables returns [field], which has a table for each field, and the short ways of writing
// these: [title] for [field.title].
func (s *fieldSection) Tables() []rulebook.Table {
	tables := []rulebook.Table{{Name: "field", Into: s.rules}}
	for _, name := range catalogue.FieldNames() {
		if rule := s.book.short[name]; rule != nil && !isSection(name) {
			tables = append(tables, rulebook.Table{Name: name, Into: rule})
		}
	}
	return tables
}

// isSection reports whether a section is called like a field; it takes the keys of the
// field, too.
func isSection(name string) bool {
	return slices.Contains([]string{"barcode", "images", "title", "tags", "brand", "category", "description"}, name)
}

// settleFields puts the fields that are written the short way among the others.
func (b *Book) settleFields() error {
	for _, name := range catalogue.FieldNames() {
		rule := b.short[name]
		if rule == nil || !b.read.Has(name) || isSection(name) && reflect.ValueOf(*rule).IsZero() {
			continue
		}
		if b.Field[name] != nil {
			wrong := b.read.At(rulebook.Problem{Part: name})
			wrong.Text = fmt.Sprintf("[%s] is short for [field.%s], and the rulebook has both; put what they say in one of them", name,
				name)
			return wrong
		}
		rule.settle(name)
		if b.Field == nil {
			b.Field = make(map[string]*FieldTable)
		}
		b.Field[name] = rule
	}
	for name, t := range b.Field {
		t.settle(name)
	}
	b.short = nil
	return nil
}

func (s *fieldSection) Check() (problems []rulebook.Problem) {
	for _, name := range slices.Sorted(maps.Keys(*s.rules)) {
		problems = append(problems, rulebook.In(s.part(name), 0, (*s.rules)[name].Check(name, s.book.Target.HasForm()))...)
	}
	return problems
}

// in says in which table of the rulebook something is wrong.
func (f *fieldSection) in(name string, err error) error {
	if at, is := err.(*ruleError); is && at.part == "" {
		at.part = f.part(name)
		return at
	}
	return &ruleError{part: f.part(name), error: err}
}

// part returns the table in which a field stands.
func (s *fieldSection) part(name string) string {
	if full := "field." + name; s.book.read == nil || s.book.read.Has(full) {
		return full
	}
	return name
}

func (s *fieldSection) Files() (names []*string) {
	for _, name := range slices.Sorted(maps.Keys(*s.rules)) {
		names = append(names, &(*s.rules)[name].OneOfFrom, &(*s.rules)[name].NumberRule.Words)
	}
	return names
}

// Open reads the lists of values.
func (f *fieldSection) Open(s *Sheet) error {
	s.Fields = make(map[string]steps.Field)
	for _, name := range slices.Sorted(maps.Keys(*f.rules)) {
		field := steps.Field{FieldRule: (*f.rules)[name].FieldRule}
		values := field.OneOf
		if field.OneOfFrom != "" {
			var err error
			if values, err = reference.ReadValues(field.OneOfFrom, field.OneOfColumn,
				sheet.Options{Sheet: field.OneOfSheet, Spool: s.Temp}); err != nil {
				return &ruleError{part: f.part(name), key: "one_of_from", error: fmt.Errorf("[field.%s] one_of_from: %w", name, err)}
			}
		}
		if len(values) > 0 {
			field.Known = lists.NewKnown(values)
		}
		if err := f.wordsOf(s, name, func(path string) ([]lists.Pair, error) {
			return reference.ReadPairs(path, sheet.Options{Spool: s.Temp})
		}); err != nil {
			return err
		}
		s.Fields[name] = field
	}
	return nil
}

// Order orders that the values of fields are written as their lists have them, or
// in one spelling.
func (f *fieldSection) Order(s *Sheet) error {
	if err := s.decideSwapped(); err != nil {
		return err
	}
	if err := s.decideOpen(); err != nil {
		return err
	}
	for _, name := range slices.Sorted(maps.Keys(*f.rules)) {
		err := s.orderWords(name, (*f.rules)[name], s.Find(name))
		if err == nil {
			err = s.orderQuantities(name, (*f.rules)[name])
		}
		if err != nil {
			return f.in(name, err)
		}
	}
	s.Codes.InTongues, s.Codes.Tongue = s.Key.Apart, s.Columns.First(catalogue.Language)
	for _, q := range s.amounts {
		q.settle()
	}
	named := maps.Clone(s.settled)
	for _, name := range slices.Sorted(maps.Keys(s.Fields)) {
		field := s.Fields[name]
		for _, col := range s.Find(name) {
			one := steps.Order{Key: "field." + name, Phase: steps.PhaseValues, Writes: []int{col}}
			switch {
			case field.Known != nil:
				said := s.Decisions.In(s.Columns.Headings[col]).On(catalogue.ValueUnlisted)
				if len(said) > 0 {
					one.Reads = append(one.Reads, s.Columns.All(catalogue.SKU)...)
				}
				one.Rules = []catalogue.Rule{catalogue.RuleListed}
				right := new(standing)
				one.Do = func(r *steps.RowAt) bool { return s.listed(r, col, field.Known, said, right) }
			case field.Unify && col < s.Columns.Own() && !s.settled[col]:
				if other := s.Orders.WrittenBy(col); other != "" {
					return &ruleError{part: f.part(name), error: refuseUnify(name, s.Columns.Headings[col], other)}
				}
				spelling := s.Orders.Compare(col, true)
				one.Rules, one.Idle, one.Do = []catalogue.Rule{catalogue.RuleUnify}, spelling.Idle, spelling.Do
			default:
				continue
			}
			named[col] = true
			if err := s.Orders.AddCounted(one, field.Meant, -1); err != nil {
				return &ruleError{part: f.part(name), error: err}
			}
		}
	}
	s.lookAtAttributes()
	return s.compare(named)
}

// refuseUnify says that spellings cannot be brought to one, because others are written.
func refuseUnify(name, heading, other string) error {
	return columns.Refuse("[field.%s] unify goes by how the file spells the values of %q, and [[%s]] writes other ones there; one_of says how "+
		"each is written, whatever else is done", name, heading, other)
}

// compare lets spellings be compared that nobody has said anything of.
func (s *Sheet) compare(named map[int]bool) error {
	if !steps.Compares(s.Table) {
		return nil
	}
	look := func(key string, col int) error {
		if named[col] || s.settled[col] || col >= s.Columns.Own() {
			return nil
		}
		named[col] = true
		spelling := s.Orders.Compare(col, false)
		return s.Orders.AddCounted(steps.Order{Key: key, Phase: steps.PhaseValues, Writes: []int{col}, Looks: true, Idle: spelling.Idle,
			Do: spelling.Do}, condition.Meant{}, -1)
	}
	for _, f := range steps.Spelt {
		for _, col := range s.Columns.All(f) {
			if err := look("field."+f.String(), col); err != nil {
				return err
			}
		}
	}
	for _, option := range s.Products.Options {
		if err := look("products", option.Value); err != nil {
			return err
		}
	}
	for col := range s.Columns.Own() {
		own := s.Columns.Fields[col] == catalogue.Unknown && s.Columns.Name(col) != "" && s.Columns.Kind(col) == catalogue.LineKind
		if own || s.Columns.Kind(col) == catalogue.AnyKind && s.Columns.Fields[col] == catalogue.Unknown && areValues(s.sample(col)) {
			if err := look("field", col); err != nil {
				return err
			}
		}
	}
	return nil
}

// leastValues is how many cells a column of unknown meaning has at least whose values are compared.
const leastValues = 8

// areValues reports whether the cells of a column are words that come again and again, such as a season.
func areValues(cells []string) bool {
	seen, words := make(map[string]bool), 0
	all := 0
	for _, cell := range cells {
		if cell = strings.TrimSpace(cell); cell == "" {
			continue
		}
		all++
		seen[cell] = true
		if strings.IndexFunc(cell, unicode.IsLower) >= 0 && strings.IndexFunc(cell, unicode.IsDigit) < 0 && len(cell) <= 60 {
			words++
		}
	}
	return all >= leastValues && 2*len(seen) <= all && 5*words >= 3*all
}

// Steps looks whether the fields have what is asked of them.
func (f *fieldSection) Steps(s *Sheet) error {
	if written, ok := steps.Written(&s.Sheet); ok {
		s.Add(StageLimits, written)
	}
	step, err := steps.Limits(&s.Sheet, s.Fields)
	if err != nil {
		return err
	}
	s.Add(StageLimits, step)
	if s.AsLeft != nil { // rows that were held do not stand in it
		return nil
	}
	if step, ok, err := steps.Tongues(&s.Sheet, s.Fields); err != nil {
		return err
	} else if ok {
		s.Add(StageLimits, step)
	}
	return nil
}

// listed writes a value as its list has it. In a field of several values each of
// them is looked at. In right are cells that are as the list has them.
func (s *Sheet) listed(r *steps.RowAt, col int, known *lists.Known, said catalogue.Decisions, right *standing) bool {
	cell := r.Cell(col)
	if cell == "" || right.has(cell) {
		return false
	}
	kind := s.Columns.Kind(col)
	var at text.List
	if kind == catalogue.ListKind {
		var ok bool
		if at, ok = s.tagMark(col); !ok {
			at, _ = text.FindList(text.TagMarks, cell)
		}
	}
	parts := at.Parts(cell)
	quoted := kind == catalogue.ListKind && strings.IndexByte(cell, '"') >= 0
	if quoted {
		parts = at.Quoted(cell) // which are only looked at
	}
	ground := catalogue.Certain
	var unlisted, likely []string
	for i, part := range parts {
		value := strings.TrimSpace(part)
		if value == "" {
			continue
		}
		its, match := known.Match(value)
		var decision catalogue.Decision
		taken, own := false, lists.NoMatch
		if len(said) > 0 {
			decision, taken = said.For(catalogue.ValueUnlisted, "", r.Cell(s.Columns.First(catalogue.SKU)), value)
			_, own = known.Match(decision.Value)
		}
		switch {
		case match == lists.Exact:
			continue
		case match == lists.Folded && kind != catalogue.CodeKind:
		case decision.Value != "" && own == lists.Exact:
			its, ground = decision.Value, catalogue.Decided
		case match == lists.Near && taken && decision.Value == "" && kind != catalogue.CodeKind:
			ground = catalogue.Decided
		default:
			unlisted = append(unlisted, value)
			if its != "" {
				likely = append(likely, its)
			}
			continue
		}
		parts[i] = strings.Replace(part, value, its, 1)
	}
	after := at.Join(parts)
	if unlisted != nil {
		facts := catalogue.Facts{}
		if len(likely) == len(unlisted) {
			facts.Proposed = strings.Join(likely, ", ")
			facts.Decides = "It is likely to be " + facts.Proposed + "."
		}
		s.Orders.Unknown(r, catalogue.ValueUnlisted, col, strings.Join(unlisted, ", "), facts)
	}
	if after == cell && unlisted == nil {
		right.keep(cell)
	}
	if after == cell || quoted {
		return false
	}
	r.Set(col, after, catalogue.RuleListed, ground, "")
	return true
}

// Begin says what the fields must be, to judge by what was found and by a good
// export.
func (*fieldSection) Begin(s *Seen, b *Draft) {
	for _, f := range s.Found {
		if f.Code == catalogue.ValueSpelling && !s.isColumn(f.Column, catalogue.Brand, catalogue.Category) {
			b.line("\n# %s in %s spelt otherwise than most:", plural(f.Cells, "cell"), clean(f.Column))
			for _, c := range s.Columns {
				switch {
				case c.Heading != f.Column:
				case c.Field != catalogue.Unknown:
					b.line("# [field.%s]\n# unify = true", c.Field)
				default:
					b.line("# [field.%s]\n# type  = \"text\"\n# unify = true", quoted(c.Heading))
				}
			}
		}
	}
	for _, f := range s.Found {
		if (f.Code == catalogue.SKUDuplicate || f.Code == catalogue.VariantSameSKU) && len(s.Tongues) > 1 {
			b.line("\n# %s with an SKU that another has, too, as it is right for rows of one product in several languages:\n# [title]\n# languages = [%s]",
				plural(f.Cells, "row"), `"`+strings.Join(s.Tongues, `", "`)+`"`)
		}
	}
	beginQuantities(s, b)
	if s.Export == "" {
		return
	}
	b.line("\n# What %s shows of the shop:", clean(s.Export))
	for _, c := range s.Shop {
		if c.Style != "" {
			b.line("#   %s: %s", clean(c.Heading), clean(c.Style))
		}
	}
	for _, c := range s.Shop {
		if c.Field == catalogue.Unknown || c.Field == catalogue.Title || c.Field == catalogue.ImageAlt ||
			c.Field.Kind() != catalogue.LineKind || c.Values == nil {
			continue
		}
		var some []string
		for _, v := range c.Values[:min(3, len(c.Values))] {
			some = append(some, clean(v))
		}
		b.line("\n# %s: %s", plural(len(c.Values), "value"), strings.Join(some, ", "))
		b.line("# [field.%s]\n# one_of_from   = %s\n# one_of_column = %s", c.Field, quoted(s.Export), quoted(c.Heading))
	}
}

// Ask asks for what would put values in order that have no section of their own.
func (*fieldSection) Ask(s *Seen) (list []Question) {
	for _, f := range s.Found {
		i := slices.IndexFunc(s.Columns, func(c SeenColumn) bool { return c.Heading == f.Column })
		if f.Code != catalogue.ValueSpelling || i < 0 || s.isColumn(f.Column, catalogue.Brand, catalogue.Category) {
			continue
		}
		o := set(s.Columns[i].table(), "unify", "true")
		if s.Columns[i].Field == catalogue.Unknown {
			o.Lines = slices.Insert(o.Lines, 0, rulebook.Line{Key: "type", Value: `"text"`})
		}
		list = append(list, yesNo(f.name(), f.Cells, fmt.Sprintf("Under %s, %s spelt otherwise than most that mean the same.", shown(f.Column), are(f.Cells, "cell")), "Write them as most are?", o).on(f.Code, f.Column))
	}
	if n := s.cells(catalogue.SKUDuplicate) + s.cells(catalogue.VariantSameSKU); n > 0 && len(s.Tongues) > 1 {
		list = append(list, yesNo("title.languages", n, fmt.Sprintf("%s an SKU that another has, too, and a column says in which language each is.", verb(n, "row", "has", "have")),
			"Are they the same products in several languages?", set("title", "languages", listOf(s.Tongues))).on(catalogue.SKUDuplicate, s.first(catalogue.SKU)))
	}
	return append(list, askQuantities(s)...)
}
