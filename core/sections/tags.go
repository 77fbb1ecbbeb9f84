package sections

import (
	"fmt"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/condition"
	"zetanum/core/lists"
	"zetanum/core/reference"
	"zetanum/core/rulebook"
	"zetanum/core/sheet"
	"zetanum/core/steps"
	"zetanum/core/tags"
)

// tagsSection puts tags in order.
type tagsSection struct {
	plain
	rules   *tags.Rules
	field   *lists.FieldRule // what the field must be, if it is read here
	aliases map[string]string
	counts  map[string]int // how common tags are, by their keys; nil if the file itself says so
	out     *tags.Tidier   // reads the tags that go out, if nothing is ordered
}

// plainTidier reads tags that are written in a form.
func plainTidier(form lists.Form) *tags.Tidier {
	t, err := new(tags.Rules).NewTidier(form, nil, nil, nil)
	if err != nil {
		panic(err) // without aliases nothing can be wrong
	}
	return t
}

// tagger reads the tags of the shop.
func (in *inShop) tagger() *tags.Tidier { return plainTidier(in.form) }

func (*tagsSection) Parts() []rulebook.Part {
	return []rulebook.Part{
		{
			Name: "tags", Line: "[tags]", Also: fieldKeys(),
			Says: "Tags: one separator, no repeats, one spelling, and those that are to be there. Nothing is done to them without an order; " +
				"with one, cells are written anew in one form. What the field must be, such as one_of_from, stands here, too. More under " +
				"[tags](tags.md).",
			Keys: []rulebook.Key{
				{
					Name:    "between",
					Says:    "What is written between tags. If nothing is said, what stands there in most cells of the file.",
					Example: `between = ", "`,
				},
				{
					Name: "at",
					Says: "What stands between the tags of the file: if nothing is said it is found by looking at the whole column. Quotation marks " +
						"around a tag are honoured.",
					Example: `at      = "/"
between = ", "`,
				},
				{
					Name: "inside",
					Says: `What becomes of a tag in which the written separator stands: "hold", as when nothing is said, "quote" puts quotation ` +
						`marks around it, "replace" puts inside_as in its place, a space if that is not said.`,
					Example: `between = ","
inside  = "quote"`,
				},
				{
					Name: "inside_as",
					Says: "What takes the place of the separator in a tag.",
					Example: `between   = ","
inside    = "replace"
inside_as = " +"`,
				},
				{
					Name:    "case",
					Says:    `How letters are written: "lower", "sentence", "title" or "as-is". Tags that differ only in case or accents are one in any case.`,
					Example: `case = "lower"`,
				},
				{
					Name: "language",
					Says: "The language of the tags, for the dotted i of Turkish and the like: de, en, es, fr, it, nl, pl, pt or tr.",
					Example: `case     = "lower"
language = "tr"`,
				},
				{
					Name:    "aliases",
					Says:    "Tags to be written otherwise, whatever their case.",
					Example: `aliases = { "present" = "Gift", "kids" = "Children" }`,
				},
				{
					Name:    "aliases_from",
					Says:    "The same from the first two columns of a sheet.",
					Example: `aliases_from = "tag-aliases.csv"`,
				},
				{
					Name: "unlisted",
					Says: `What becomes of tags that one_of or one_of_from does not have: "hold", as when nothing is said, or "drop". A slip of the ` +
						"keyboard is named, with what was likely meant; and products that end up with none of the list.",
					Example: `one_of   = ["Honey", "Hive", "Garden"]
unlisted = "drop"`,
				},
				{
					Name:    "forbidden",
					Says:    "Tags that do not go out, whatever their case.",
					Example: `forbidden = ["new", "sale"]`,
				},
				{
					Name:    "always",
					Says:    "Tags that every product gets: fixed words, or patterns as [[build]] has them. Where a cell of a pattern is empty there is no tag.",
					Example: `always = ["{brand}", "{supplier}", "Apiary"]`,
				},
				{
					Name:    "category_levels",
					Says:    "Makes a tag of each level of the category.",
					Example: `category_levels = true`,
				},
				{
					Name:    "attributes",
					Says:    "Tags of a name and a value, by which shops filter: fields or headings, and what they are called in the tag.",
					Example: `attributes = { colour = "Colour", size = "Size" }`,
				},
				{
					Name: "pair",
					Says: "What stands between the name and the value; an underscore, if nothing is said.",
					Example: `attributes = { colour = "Colour" }
pair       = ":"`,
				},
				{
					Name: "order",
					Says: `How tags are sorted: "written", as when nothing is said, "alphabetical", or "common", the most common first; counted in the ` +
						"file itself that would change its own result, and is applied once.",
					Example: `order = "alphabetical"`,
				},
				{
					Name: "common_from",
					Says: `With order = "common": a sheet by which it is counted, its tags or a list of them, the most common first; the word shop stands ` +
						"for the export that [shop] names.",
					Example: `order       = "common"
common_from = "shop"`,
				},
				{
					Name: "most",
					Says: "How many tags go out at most; those behind are left out.",
					Example: `most  = 13
order = "alphabetical"`,
				},
				{
					Name:    "longest_tag",
					Says:    "The most characters of a tag. A product with a longer one is held.",
					Example: `longest_tag = 20`,
				},
				{
					Name: "mode",
					Says: `What the tags of the file do to those that the shop has: "replace" takes their place, "add" is added to them, and "remove" is ` +
						"taken from them, which is applied once. For the last two [shop] has to name the shop's export.",
					Example: `mode = "add"`,
				},
			},
		},
		{
			Name: "tags.when", Line: "[[tags.when]]",
			Says:   "Tags that some products get; there may be several.",
			Shared: rulebook.Scope,
			Keys: []rulebook.Key{{
				Name: "add",
				Says: "The tags: fixed words or patterns.",
				Example: `where = { price = { below = 10 } }
add   = ["Under 10"]`,
			}},
		},
	}
}

func (t *tagsSection) Tables() []rulebook.Table {
	return []rulebook.Table{{Name: "tags", Into: &struct {
		*tags.Rules
		*lists.FieldRule
	}{t.rules, t.field}}}
}

func (t *tagsSection) Check() []rulebook.Problem {
	problems := rulebook.In("tags", 0, t.rules.Check())
	for i := range t.rules.When {
		problems = append(problems, rulebook.In("tags.when", i+1, t.rules.When[i].Check())...)
	}
	return problems
}

func (t *tagsSection) Files() []*string {
	files := []*string{&t.rules.AliasesFrom}
	if t.rules.CommonFrom != ofShop {
		files = append(files, &t.rules.CommonFrom)
	}
	return files
}

func (t *tagsSection) OneWay() []rulebook.Problem {
	if key, is := t.rules.OneWay(); is {
		return []rulebook.Problem{{Part: "tags", Problem: catalogue.Problem{Key: key, Text: t.rules.String()}}}
	}
	return nil
}

// Open reads the aliases, and how common tags are.
func (t *tagsSection) Open(s *Sheet) error {
	if t.rules.NeedsShop() && (s.inShop == nil || s.inShop.tags == nil) {
		return &ruleError{key: "mode", error: columns.Refuse("[tags] mode = %q goes by the tags that the shop has: name its export, with a column of "+
			"tags, with export under [shop]", t.rules.Mode)}
	}
	if t.rules.AliasesFrom != "" {
		pairs, err := reference.ReadPairs(t.rules.AliasesFrom, sheet.Options{Spool: s.Temp})
		if err != nil {
			return &ruleError{key: "aliases_from", error: fmt.Errorf("[tags] aliases_from: %w", err)}
		}
		t.aliases = make(map[string]string, len(pairs))
		for _, p := range pairs {
			if strings.TrimSpace(p.Key) != "" && p.Value != "" {
				t.aliases[strings.TrimSpace(p.Key)] = p.Value
			}
		}
	}
	if t.rules.CommonFrom == "" {
		return nil
	}
	var err error
	if t.counts, err = t.common(s); err != nil {
		return &ruleError{key: "common_from", error: fmt.Errorf("[tags] common_from: %w", err)}
	}
	return nil
}

// common counts tags in a sheet: in its column of tags, or else in a list, the most common first.
func (t *tagsSection) common(s *Sheet) (counts map[string]int, err error) {
	path := t.rules.CommonFrom
	if path == ofShop {
		if path = s.Book.Shop.Export; path == "" {
			return nil, columns.Refuse("the shop is the sheet that export under [shop] names, and there is none")
		}
	}
	fields, hints := s.Book.Fields()
	table, err := sheet.Open(path, sheet.Options{Spool: s.Temp, Fields: fields, Hints: hints, AnyHeadings: true})
	if err != nil {
		return nil, err
	}
	defer table.Close()
	col := table.Columns.First(catalogue.Tags)
	var cells []string
	var marks lists.Marks
	err = table.Each(func() { cells, marks = nil, lists.Marks{} }, func(row *catalogue.Row) {
		cell := strings.Clone(row.Cell(max(col, 0)))
		cells = append(cells, cell)
		marks.Add(&lists.OfTags, cell)
	})
	if err != nil {
		return nil, err
	}
	if counts = make(map[string]int); col < 0 {
		for i, tag := range cells {
			if key := tags.Key(strings.TrimSpace(tag)); counts[key] == 0 {
				counts[key] = len(cells) - i
			}
		}
		return counts, nil
	}
	plain := plainTidier(marks.Judge(&lists.OfTags))
	for _, cell := range cells {
		plain.Each(cell, func(tag string) { counts[tags.Key(tag)]++ })
	}
	return counts, nil
}

// Adds returns the column of tags, if products get some.
func (t *tagsSection) Adds(*Sheet) ([]string, error) {
	if t.rules.Adds() {
		return []string{catalogue.Tags.String()}, nil
	}
	return nil, nil
}

// Order orders that tags are put in order.
func (t *tagsSection) Order(s *Sheet) error {
	if t.rules.Idle() {
		t.look(s)
		return nil
	}
	cols, err := s.Need("[tags]", catalogue.Tags.String())
	if err != nil {
		return err
	}
	for _, col := range cols {
		if err := t.order(s, col); err != nil {
			return err
		}
	}
	return nil
}

// look names tags that an order would put in one form, and lets be known how those are written that go out.
func (t *tagsSection) look(s *Sheet) {
	col := s.Columns.First(catalogue.Tags)
	compares := steps.Compares(s.Table)
	if col < 0 || col >= s.Columns.Own() || !compares && (s.inShop == nil || s.inShop.tags == nil) {
		return
	}
	t.out = plainTidier(lists.Form{})
	s.learnMarks(col, &lists.OfTags, func(m *lists.Marks) error {
		t.out = plainTidier(m.Judge(&lists.OfTags))
		return nil
	})
	if !compares {
		return
	}
	tidy := new(standing)
	s.Orders.Look("tags", []int{col}, func(r *steps.RowAt) {
		cell := r.Cell(col)
		if cell == "" || tidy.has(cell) {
			return
		}
		if after, with := t.out.Write(t.out.Tidy(cell, nil, nil).Tags); with == "" && after != cell {
			r.Find(catalogue.TagsUntidy, col, cell, catalogue.Facts{Other: after, Proposed: after})
		} else {
			tidy.keep(cell)
		}
	})
}

// Begin proposes what tags need, and shows what else can be said.
func (*tagsSection) Begin(s *Seen, b *Draft) {
	if !s.has(catalogue.Tags) {
		return
	}
	b.line("\n# [tags]")
	what := "what is written between tags"
	if n := s.cells(catalogue.TagsUntidy); n > 0 {
		what = plural(n, "cell") + " with several separators, empty tags or repeats"
	}
	b.line("# %-28s # %s", "between = \", \"", what)
	b.line("# %-28s # on every product", "always  = [\"{brand}\"]")
	b.line("# %-28s # to the tags that the shop has, by the export that [shop] names", "mode    = \"add\"")
}

func (t *tagsSection) order(s *Sheet, col int) error {
	c := &tagsColumn{sheet: s, rules: t.rules, col: col, sku: s.Columns.First(catalogue.SKU), slug: s.Columns.First(catalogue.Slug)}
	c.number = s.Tally.Add(t.rules.String(), steps.Changed, 0)
	reads := []int{c.sku}
	if t.rules.NeedsShop() {
		reads = append(reads, c.slug)
		c.shop = s.inShop.tagger()
	}
	more, err := c.additions(t.rules)
	if err != nil {
		return err
	}
	var known *lists.Known
	if field, said := s.Fields[catalogue.Tags.String()]; said {
		known = field.Known
	}
	fit := func(form lists.Form, counts map[string]int) error {
		var err error
		if c.tidier, err = t.rules.NewTidier(form, t.aliases, known, counts); err != nil {
			return &ruleError{key: "aliases_from", error: columns.Refuse("[tags] aliases: %v", err)}
		}
		if c.again = c.tidier.Again(); s.wrote(col, c.tidier.Between()) {
			c.tidier = c.again
		}
		return nil
	}
	var seen lists.Marks
	counted := t.rules.Order == tags.Common && t.counts == nil
	if counted || col >= s.Columns.Own() {
		for _, cells := range s.Table.Sample {
			if col < len(cells) {
				seen.Add(&lists.OfTags, cells[col])
			}
		}
	}
	if err := fit(seen.Judge(&lists.OfTags), t.counts); err != nil { // so that an error is said now
		return err
	}
	if counted && col < s.Columns.Own() {
		form := c.tidier.Form()
		s.Orders.Learn(steps.Learner{Cols: []int{col}, New: func() steps.Learned {
			return &tagCounts{col: col, tidier: c.tidier, Spellings: lists.Spellings{By: &lists.SpeltBy{Key: tags.Key}}}
		}, Judge: func(l steps.Learned) error { return fit(form, l.(*tagCounts).Counts()) }})
	} else if col < s.Columns.Own() {
		s.learnMarks(col, &lists.OfTags, func(m *lists.Marks) error { return fit(m.Judge(&lists.OfTags), t.counts) })
	}
	s.tags[col] = c
	one := steps.Order{Key: "tags", Phase: steps.PhaseTitles, Writes: []int{col}, Do: c.do, Rules: []catalogue.Rule{catalogue.RuleTags}}
	for _, from := range append(reads, more...) {
		if from >= 0 && from != col && !slices.Contains(one.Reads, from) {
			one.Reads = append(one.Reads, from)
		}
	}
	return s.Orders.AddCounted(one, condition.Meant{}, -1)
}

// Steps looks which tags of the shop would go.
func (t *tagsSection) Steps(s *Sheet) error {
	if s.inShop == nil || s.inShop.tags == nil {
		return nil
	}
	col := s.Columns.First(catalogue.Tags)
	if !slices.Contains(s.Out, col) || t.out == nil && s.tags[col] == nil {
		return nil
	}
	list := func(t *tags.Tidier) func(string) []string {
		return func(cell string) []string { return t.Tidy(cell, nil, nil).Tags }
	}
	one := &steps.Tagged{Col: col, InShop: s.inShop.tagsOf, Read: list(s.inShop.tagger()), Key: tags.Key, Said: t.rules.Mode != "" && t.rules.Mode != tags.Add}
	one.ReadOut = func(cell string) []string { return t.out.Read(cell) }
	if c := s.tags[col]; c != nil {
		one.ReadOut = func(cell string) []string { return c.again.Read(cell) }
	}
	one.Number = s.Tally.Add("products that lose tags which "+s.inShop.name+" has", "named", 0)
	s.Add(StageSanity, steps.Retagged(&s.Sheet, one))
	return nil
}

// Ask asks for one form of tags.
func (*tagsSection) Ask(s *Seen) (list []Question) {
	if n := s.cells(catalogue.TagsUntidy); n > 0 {
		list = append(list, yesNo("tags.untidy", n, fmt.Sprintf("%s not in one form: several separators, empty tags, or one twice.", are(n, "cell of tags")), "Write commas between them, and each once?",
			set("tags", "between", `", "`)).on(catalogue.TagsUntidy, s.first(catalogue.Tags)))
	}
	return list
}
