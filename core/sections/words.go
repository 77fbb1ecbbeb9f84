package sections

import (
	"slices"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/condition"
	"zetanum/core/markup"
	"zetanum/core/rulebook"
	"zetanum/core/steps"
	"zetanum/core/text"
	"zetanum/core/wording"
)

// wordsSection changes words in texts: [[replace]], [[around]] and [[closing]].
type wordsSection struct {
	plain
	replace *[]wording.ReplaceRule
	around  *[]wording.AroundRule
	closing *[]wording.ClosingRule
}

func (*wordsSection) Parts() []rulebook.Part {
	return []rulebook.Part{
		{
			Name: "replace", Line: "[[replace]]",
			Says: "Texts put in place of others, in the order of the file; there may be several. Whole words are found, whatever " +
				"their case, unless the rule says otherwise; in HTML only the text between tags. What already stands with its " +
				"replacement around it is left, and a cell that the rules would change each time anew is held.",
			Shared: append([]string{"once"}, rulebook.Cells...),
			Keys: []rulebook.Key{
				{
					Name: "find",
					Says: "The text to look for.",
					Example: `in   = ["title"]
find = "ltd ed"
with = "limited edition"`,
				},
				{
					Name: "pattern",
					Says: "An RE2 pattern to look for instead of a text. Case counts in it.",
					Example: `in      = ["title"]
pattern = "([0-9]+) ?mm"
with    = "$1 mm"`,
				},
				{
					Name: "with",
					Says: "What takes its place; nothing, if it is left out. Behind a pattern $1 is its first group.",
					Example: `in   = ["title"]
find = "(new!)"`,
				},
				{
					Name: "inside_words",
					Says: "Finds the text inside longer words, too.",
					Example: `in   = ["title"]
find = "bee-hive"
with = "beehive"
inside_words = true`,
				},
				{
					Name: "match_case",
					Says: "Finds the text only in the same case.",
					Example: `in   = ["title"]
find = "US"
with = "United States"
match_case = true`,
				},
				{
					Name: "first_only",
					Says: "Replaces only the first one in a cell.",
					Example: `in   = ["title"]
find = ","
with = " –"
first_only = true
once = true`,
				},
			},
		},
		{
			Name: "around", Line: "[[around]]",
			Says: "Words put before or after a text, with exactly one space; there may be several, and they come after " +
				"[[replace]]. Words that are there already, whatever their case, are not put there again.",
			Shared: rulebook.Cells,
			Keys: []rulebook.Key{
				{
					Name: "before",
					Says: "The words before.",
					Example: `in     = ["title"]
before = "Beech"`,
				},
				{
					Name: "after",
					Says: "The words after.",
					Example: `in    = ["title"]
after = "(pair)"`,
				},
			},
		},
		{
			Name: "closing", Line: "[[closing]]",
			Says:   "A standard text at the end of others, once.",
			Shared: rulebook.Cells,
			Keys: []rulebook.Key{
				{
					Name: "text",
					Says: "The text. In HTML it becomes a paragraph, unless it is HTML itself. A text that has these words already is " +
						"left.",
					Example: `in   = ["description"]
text = "<p>All our wood is <em>untreated</em>.</p>"`,
				},
			},
		},
	}
}

func (s *wordsSection) Tables() []rulebook.Table {
	return []rulebook.Table{{Name: "replace", Into: s.replace}, {Name: "around", Into: s.around}, {Name: "closing", Into: s.closing}}
}

func (s *wordsSection) Check() (problems []rulebook.Problem) {
	for i := range *s.replace {
		problems = append(problems, rulebook.In("replace", i+1, (*s.replace)[i].Check())...)
	}
	for i := range *s.around {
		problems = append(problems, rulebook.In("around", i+1, (*s.around)[i].Check())...)
	}
	for i := range *s.closing {
		problems = append(problems, rulebook.In("closing", i+1, (*s.closing)[i].Check())...)
	}
	return problems
}

func (s *wordsSection) OneWay() (rules []rulebook.Problem) {
	for i := range *s.replace {
		if rule := &(*s.replace)[i]; rule.Once {
			rules = append(rules, rulebook.Problem{Part: "replace", N: i + 1, Problem: catalogue.Problem{Key: "once", Text: rule.String()}})
		}
	}
	return rules
}

// A textRule is an order about texts, whatever it does to them.
type textRule struct {
	keys   []string          // of which one, in whatever case, stands in each text in which the rule finds something; nil if none need
	finds  func(string) bool // false if the rule has nothing to do; nil if that has to be tried
	apply  func(string) (string, bool)
	inHTML func(string) (string, bool) // nil: HTML is refused
	apart  func(string) (string, bool) // in a plain text of which HTML will be made; nil: as in any other
	rule   catalogue.Rule
	key    string // of the rulebook: "replace"
	nth    int    // of those of its key
	condition.Fields
	condition.Scope
	words string
	once  bool // it may change its own result again
	html  bool // in a column of HTML cells without tags are HTML to it, too
}

// Order orders that texts are changed: those that are replaced, then those that
// get words around them, then those that get a closing text.
func (w *wordsSection) Order(s *Sheet) error {
	rules, err := w.rules()
	if err != nil {
		return err
	}
	var list []*textColumn
	for i := range rules {
		rule := &rules[i]
		wrong := func(err error) error { return &ruleError{part: rule.key, n: rule.nth + 1, error: err} }
		where, reads, err := s.Where(rule.Where)
		if err != nil {
			return wrong(err)
		}
		cols, err := s.textColumns(rule)
		if err != nil {
			return wrong(err)
		}
		number := s.Tally.Add(rule.words, steps.Changed, rule.Count)
		for _, col := range cols {
			at := slices.IndexFunc(list, func(c *textColumn) bool { return c.col == col })
			if at < 0 {
				at = len(list)
				list = append(list, &textColumn{sheet: s, texts: s.Texts, col: col, kind: s.Columns.Kind(col)})
			}
			c := list[at]
			c.rules = append(c.rules, fittedRule{rule, where, number})
			c.reads = append(c.reads, reads...)
		}
	}
	for _, c := range list {
		c.findKeys()
		s.texts[c.col] = c
		one := steps.Order{Key: c.rules[0].key, Phase: steps.PhaseWords, Asks: c.reads, Writes: []int{c.col}, Do: c.do}
		for i := range c.rules {
			one.Rules = append(one.Rules, c.rules[i].rule)
		}
		if err := s.Orders.AddCounted(one, condition.Meant{}, -1); err != nil {
			return err
		}
	}
	return nil
}

// rules returns the rules in the order in which they are applied.
func (w *wordsSection) rules() (rules []textRule, err error) {
	for i := range *w.replace {
		rule := &(*w.replace)[i]
		r, err := wording.NewReplacer(rule)
		if err != nil {
			return nil, err
		}
		rules = append(rules, textRule{r.Keys(), r.Finds, r.Apply, r.ApplyHTML, nil, catalogue.RuleReplace, "replace", i, rule.Fields, rule.Scope,
			rule.String(), rule.Once, true})
	}
	for i := range *w.around {
		rule := &(*w.around)[i]
		rules = append(rules, textRule{nil, nil, rule.Apply, rule.ApplyHTML, nil, catalogue.RuleAround, "around", i, rule.Fields, rule.Scope, rule.String(),
			false, false})
	}
	for i := range *w.closing {
		rule := &(*w.closing)[i]
		rules = append(rules, textRule{nil, nil, rule.Apply, rule.ApplyHTML, rule.ApplyApart, catalogue.RuleClosing, "closing", i, rule.Fields, rule.Scope,
			rule.String(), false, rule.HTML()})
	}
	return rules, nil
}

// textColumns returns the columns that a rule names.
func (s *Sheet) textColumns(rule *textRule) (cols []int, err error) {
	for _, name := range rule.In {
		found, err := s.Need("[["+rule.key+"]] in", name)
		if err != nil {
			return nil, err
		}
		for _, col := range found {
			kind := s.Columns.Kind(col)
			field := s.Columns.Name(col)
			switch {
			case kind == catalogue.CodeKind:
				return nil, columns.Refuse("[[%s]] in names %q, which is the field %s: %w", rule.key, name, field, wording.ErrCode)
			case kind == catalogue.HTMLKind && rule.inHTML == nil:
				return nil, columns.Refuse("[[%s]] in names %q, which is the field %s: %w", rule.key, name, field, wording.ErrHTML)
			}
			if !slices.Contains(cols, col) {
				cols = append(cols, col)
			}
		}
	}
	return cols, nil
}

// A textColumn has the rules for the texts of one column.
type textColumn struct {
	sheet *Sheet
	texts *steps.Texts
	col   int
	kind  catalogue.Kind
	reads []int
	rules []fittedRule

	keys *text.Several // of the rules, with their numbers
	open text.Marks    // the rules that no keys tell of
}

type fittedRule struct {
	*textRule
	where  *condition.Condition
	number int
}

// findKeys prepares that the keys of all rules are looked for at once.
func (c *textColumn) findKeys() {
	var keys []text.Sought
	c.open = text.NewMarks(len(c.rules))
	for i := range c.rules {
		for _, key := range c.rules[i].keys {
			keys = append(keys, text.Sought{Text: key, Mark: i})
		}
		if c.rules[i].keys == nil {
			c.open.Add(i)
		}
	}
	var alone []text.Sought
	c.keys, alone = text.NewSeveral(keys)
	for _, key := range alone {
		c.open.Add(key.Mark)
	}
}

func (c *textColumn) do(r *steps.RowAt) bool {
	cell := r.Cell(c.col)
	if cell == "" {
		return false
	}
	if r.Dry {
		if after := c.apply(cell, r, nil); after != cell {
			r.Set(c.col, after, catalogue.NoRule, catalogue.NoGround, "")
		}
		return false
	}
	type use struct {
		rule  *fittedRule
		after string
	}
	var some [8]use
	fired := some[:0]
	after := c.apply(cell, r, func(rule *fittedRule, after string) { fired = append(fired, use{rule, after}) })
	if after == cell {
		return false
	}
	fired[len(fired)-1].after = after // tidied
	for _, used := range fired {
		r.Touch(used.rule.number, c.col)
		r.Set(c.col, used.after, used.rule.rule, catalogue.Ordered, "")
	}
	return false
}

// apply applies the rules of a column one after the other and tidies what they
// leave. Without used it applies them again, which those leave out that are
// applied once.
func (c *textColumn) apply(cell string, r *steps.RowAt, used func(*fittedRule, string)) string {
	changed := false
	var some [16]uint64
	may := append(text.Marks(some[:0]), c.open...)
	c.keys.Find(cell, may)
	for i := may.Next(0); i >= 0; i = may.Next(i + 1) {
		rule := &c.rules[i]
		if rule.once && used == nil {
			continue
		}
		if rule.finds != nil && !rule.finds(cell) || !r.Means(rule.Rows) || !r.Holds(rule.where) {
			continue
		}
		apply := rule.textRule.apply
		if c.kind == catalogue.HTMLKind && (rule.html || markup.HasTags(cell)) {
			apply = rule.inHTML // plain text in a description is plain text
		} else if rule.apart != nil && c.sheet.marked[c.col] {
			apply = rule.apart
		}
		if after, yes := apply(cell); yes {
			cell, changed = after, true
			c.keys.Find(cell, may)
			if used != nil {
				used(rule, after)
			}
		}
	}
	if !changed {
		return cell
	}
	return c.texts.Clean(cell, c.kind)
}

// Begin shows how words are replaced.
func (*wordsSection) Begin(s *Seen, b *Draft) {
	if s.File == "" {
		return
	}
	for _, c := range s.Columns {
		if c.Field == catalogue.Title {
			b.line("\n# [[replace]]\n# in   = [\"title\"]\n# find = \"st. steel\"        # whole words, whatever their case\n# with = " +
				"\"stainless steel\"")
			return
		}
	}
}
