package sections

import (
	"fmt"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/heading"
	"zetanum/core/template"
)

// fills writes what fills the columns of a template: what has to be decided first, as comments, and then what is sure.
func (b *Draft) fills(s *Seen) {
	form := s.Platform
	var open, likely, sure, fixed, blank []string
	add := func(list *[]string, sign, heading, value, says string) {
		line := fmt.Sprintf("%s%s = %s", sign, quoted(heading), value)
		if says != "" {
			line = fmt.Sprintf("%-44s # %s", line, says)
		}
		*list = append(*list, line)
	}
	for n := 0; n < len(form.Columns); n++ {
		c, m := &form.Columns[n], s.Matches[n]
		heading := c.Name()
		if m.Ask {
			must := "may stay empty; "
			if c.Need == template.Required {
				must = "must; "
			}
			says := must + form.Says(n)
			for _, i := range []int{m.From, m.Next} {
				if i >= 0 {
					says += fmt.Sprintf("; %s, for example %s?", quoted(s.Offers[i].Heading), clean(s.Offers[i].Example()))
				}
			}
			value := `{ always = "" }`
			switch {
			case m.From >= 0:
				value = fillOf(s.Offers[m.From].Heading, m)
			case m.Next >= 0:
				value = quoted(s.Offers[m.Next].Heading)
			case len(c.List) > 0:
				value = fmt.Sprintf("{ always = %s }", quoted(c.List[0]))
			}
			if c.Need == template.Required {
				add(&open, "# ", heading, value, says)
			} else {
				add(&likely, "# ", heading, value, says)
			}
			continue
		}
		switch {
		case m.From >= 0:
			values, parts := []string{fillOf(s.Offers[m.From].Heading, m)}, true
			for n+1 < len(form.Columns) && form.Columns[n+1].Name() == heading && !s.Matches[n+1].Ask && s.Matches[n+1].From >= 0 {
				n++
				next := s.Matches[n]
				parts = parts && next.From == m.From && next.Nth == m.Nth+len(values) && m.Nth > 0 && !next.Rest
				values = append(values, fillOf(s.Offers[next.From].Heading, next))
			}
			value := values[0]
			if len(values) > 1 && !parts {
				value = "[" + strings.Join(values, ", ") + "]"
			}
			add(&sure, "", heading, value, fmt.Sprintf("%d of 100, for example %s", m.Score, clean(s.Offers[m.From].Part(m.Nth))))
		case m.Fixed != "":
			add(&fixed, "", heading, fmt.Sprintf("{ always = %s }", quoted(m.Fixed)), "the template allows nothing else")
		case c.Always == "" && !c.Hidden:
			if name := quoted(heading); !slices.Contains(blank, name) {
				blank = append(blank, name)
			}
		}
	}
	b.line("\n[target.columns]\n# A column of the template = a field or heading, a pattern such as \"{brand} {title}\", { always = \"…\" }, or false if it stays empty.")
	part := func(says string, list []string) {
		if list != nil {
			b.line("# %s\n%s", says, strings.Join(list, "\n"))
		}
	}
	part("To decide, because it must be filled and nothing is sure to:", open)
	part("To decide, because it is only likely; as a comment it stays empty:", likely)
	part("How sure it is, and a value of the file:", sure)
	part("The same in every row:", fixed)
	if blank != nil {
		b.line("# Nothing of the file fills these, and they may stay empty:")
		if more := len(blank) - mostBlank; more > 0 {
			blank = append(blank[:mostBlank], fmt.Sprintf("and %d more", more))
		}
		for _, names := range wrapped(blank, 100) {
			b.line("#   %s", names)
		}
	}
	var gone []string
	for i := range s.Offers {
		if !slices.ContainsFunc(s.Matches, func(m template.Match) bool { return m.From == i }) && s.Offers[i].Heading != "" {
			says := quoted(s.Offers[i].Heading)
			if example := s.Offers[i].Example(); example != "" {
				says += " (" + catalogue.Shorten(clean(example), 24) + ")"
			}
			gone = append(gone, says)
		}
	}
	if gone != nil {
		b.line("# Columns of the file that go nowhere: %s", strings.Join(gone, ", "))
	}
}

// mostBlank is how many columns are named that stay empty.
const mostBlank = 40

// fillOf writes what fills a column, as a rulebook has it.
func fillOf(heading string, m template.Match) string {
	switch {
	case m.Rest:
		return fmt.Sprintf("{ from = %s, part = %d, rest = true }", quoted(heading), m.Nth)
	case m.Nth > 0:
		return fmt.Sprintf("{ from = %s, part = %d }", quoted(heading), m.Nth)
	}
	return quoted(heading)
}

// usuallyTogether are fields whose columns are usually filled together.
var usuallyTogether = [][]catalogue.Field{
	{catalogue.Length, catalogue.Width, catalogue.Height}, {catalogue.SalePrice, catalogue.SaleFrom, catalogue.SaleTo},
}

// together returns groups of columns of the template that may belong together, as the rulebook writes them.
func (s *Seen) together() string {
	var groups []string
	for _, fields := range usuallyTogether {
		var names []string
		for _, field := range fields {
			for n := range s.Platform.Columns {
				if c := &s.Platform.Columns[n]; c.Need != template.Required && heading.Field(c.Name()) == field {
					names = append(names, quoted(c.Name()))
				}
			}
		}
		if len(names) == len(fields) {
			groups = append(groups, "["+strings.Join(names, ", ")+"]")
		}
	}
	return strings.Join(groups, ", ")
}
