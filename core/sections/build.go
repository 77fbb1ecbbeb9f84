package sections

import (
	"fmt"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/pattern"
	"zetanum/core/rulebook"
	"zetanum/core/steps"
	"zetanum/core/text"
)

// buildSection builds fields from others.
type buildSection struct {
	plain
	rules *[]pattern.BuildRule
}

func (*buildSection) Parts() []rulebook.Part {
	return []rulebook.Part{
		{
			Name: "build", Line: "[[build]]",
			Says: "A field built from others, where it is empty. If a cell is empty that the pattern cannot do without, nothing " +
				"is built, and the row is named.",
			Shared: rulebook.Scope,
			Keys: []rulebook.Key{
				{
					Name: "into",
					Says: "The field or heading to build, where it is empty; it is added if it is not there.",
					Example: `into = "title"
from = "{brand} {type}[, {colour}][ ({size})]"`,
				},
				{
					Name: "from",
					Says: "The pattern: a cell for each name in braces; what stands in square brackets vanishes if a cell in it is " +
						"empty; {short_description|title} is the first that is not empty. Words behind a name change the text: upper, " +
						"lower, title, sentence, letters, digits, ascii (accents and other scripts written in ASCII), slug (lower case, dashes and ASCII: safe in an " +
						"address), words N, first N, last N.",
					Example: `into = "Label"
from = '{brand letters upper first 3}-{"Product group" first 1} {short_description|title}'`,
				},
				{
					Name: "over",
					Says: "Builds the cell anew even if it is not empty.",
					Example: `into = "title"
from = "{brand} {type}[, {colour}][ ({size})]"
over = true`,
				},
			},
		},
	}
}

func (s *buildSection) Tables() []rulebook.Table {
	return []rulebook.Table{{Name: "build", Into: s.rules}}
}

func (s *buildSection) Check() (problems []rulebook.Problem) {
	for i := range *s.rules {
		problems = append(problems, rulebook.In("build", i+1, (*s.rules)[i].Check())...)
	}
	return problems
}

// Adds returns the columns that are filled.
func (b *buildSection) Adds(*Sheet) (names []string, err error) {
	for i := range *b.rules {
		names = append(names, (*b.rules)[i].Into)
	}
	return names, nil
}

func (b *buildSection) Order(s *Sheet) error {
	for i := range *b.rules {
		if err := s.build(&(*b.rules)[i]); err != nil {
			return nth(i, err)
		}
	}
	return nil
}

func (s *Sheet) build(rule *pattern.BuildRule) error {
	into, err := s.NeedOne("[[build]] into", rule.Into)
	if err == nil {
		err = steps.Unreserved(&s.Columns, into, catalogue.FieldsOf(catalogue.Barcode), "[[build]] into", rule.Into)
	}
	if err != nil || into < 0 {
		return err
	}
	if err := s.overThere(rule.Over, "[[build]] into", into); err != nil {
		return err
	}
	p, cols, gone, err := s.pattern("[[build]]", "from", rule.From, rule.Into, into)
	if err != nil || gone {
		return err
	}
	s.inside(p.Whole(), into)
	s.built[into] = append(s.built[into], builtBy{p, cols})
	_, err = s.Orders.Add(steps.Order{
		Key: "build", Phase: steps.PhaseBuild, Reads: cols, Writes: []int{into}, Rules: []catalogue.Rule{catalogue.RuleBuild},
		Do: func(r *steps.RowAt) bool { return s.builds(r, rule, p, into) },
	}, rule.Scope, rule.String())
	return err
}

// builtBy is a pattern by which a column is built, and the columns of it.
type builtBy struct {
	pattern *pattern.Pattern
	cols    []int
}

// pattern fits a pattern to the sheet that stands under a key and is written into a column; gone is true if the rulebook leaves
// out a column of it, which is not there.
func (s *Sheet) pattern(part, key, text, name string, into int) (p *pattern.Pattern, cols []int, gone bool, err error) {
	return s.patternOf(part, key, text, name, into, s.Columns.Kind(into) == catalogue.HTMLKind)
}

// patternOf does so for a column that need not be there, -1, and is one of HTML or not.
func (s *Sheet) patternOf(part, key, text, name string, into int, html bool) (p *pattern.Pattern, cols []int, gone bool, err error) {
	if p, err = pattern.Parse(text); err != nil {
		return nil, nil, false, err
	}
	p.Speak(s.anyWords)
	cols, missing := p.Bind(func(name string) int {
		if found := s.Find(name); len(found) > 0 {
			return found[0]
		}
		return -1
	}, func(col int) bool { return html && s.Columns.Kind(col) != catalogue.HTMLKind })
	for _, name := range missing {
		if _, is := s.Rules.Find(&s.Columns, name); !is {
			return nil, nil, false, s.notThere(part+" "+key+" names {"+name+"}", name)
		}
		gone = true // it was built before its columns were dropped
	}
	for _, col := range cols {
		switch {
		case gone:
		case col == into:
			return nil, nil, false, columns.Refuse("%s of %q: %w; [[around]] puts words before or after a text", part, name, pattern.ErrOwn)
		case !html && s.Columns.Kind(col) == catalogue.HTMLKind:
			return nil, nil, false, columns.Refuse("%s of %q from %q: that is HTML, and %q is not", part, name, s.Columns.Headings[col], name)
		}
	}
	return p, cols, gone, nil
}

// notThere says that a name is neither a field of the sheet nor a heading.
func (s *Sheet) notThere(what, name string) error {
	return fmt.Errorf("%w: %s, which is not there%s; the headings are: %s", columns.ErrWrong, what, text.DidYouMean(name, s.Columns.Headings),
		strings.Join(s.Columns.Headings[:s.Columns.Own()], ", "))
}

// builds builds a cell, and reports whether it has become another.
func (s *Sheet) builds(r *steps.RowAt, rule *pattern.BuildRule, p *pattern.Pattern, into int) bool {
	old := r.Cell(into)
	if old != "" && !rule.Over || old == "" && !r.Belongs(into) {
		return false
	}
	text, missing := p.Text(r.View())
	if missing != "" {
		if old == "" {
			s.Orders.Unknown(r, catalogue.BuildMissing, into, old, catalogue.Facts{Other: missing})
		}
		return false
	}
	if text == old {
		return false
	}
	r.Set(into, text, catalogue.RuleBuild, catalogue.Ordered, "")
	return true
}
