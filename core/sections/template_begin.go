package sections

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/heading"
	"zetanum/core/rulebook"
	"zetanum/core/target"
	"zetanum/core/template"
)

// A certainty is how sure it is what fills a column of a template.
type certainty uint8

const (
	placeOpen   certainty = iota // it must be filled, and nothing is sure to
	placeLikely                  // something is likely, and it may stay empty
	placeSure
	placeFixed // the template allows nothing else
	placeBlank // nothing fills it
)

// A placement is what fills a column of a template, as a rulebook writes it, and what is said of that.
type placement struct {
	at             int // the column
	fit            certainty
	heading, value string
	says           string
}

// placements returns what fills the columns of the template.
func (s *Seen) placements() (list []placement) {
	form := s.Platform
	for n := 0; n < len(form.Columns); n++ {
		c, m := &form.Columns[n], s.Matches[n]
		p := placement{at: n, heading: c.Name()}
		switch {
		case m.Ask:
			must := "may stay empty; "
			if p.fit = placeLikely; c.Need == template.Required {
				p.fit, must = placeOpen, "must; "
			}
			p.says = must + form.Says(n)
			for _, i := range []int{m.From, m.Next} {
				if i >= 0 {
					p.says += fmt.Sprintf("; %s, for example %s?", quoted(s.Offers[i].Heading), clean(s.Offers[i].Example()))
				}
			}
			switch p.value = `{ always = "" }`; {
			case m.From >= 0:
				p.value = fillOf(s.Offers[m.From].Heading, m)
			case m.Next >= 0:
				p.value = quoted(s.Offers[m.Next].Heading)
			case len(c.List) > 0:
				p.value = fmt.Sprintf("{ always = %s }", quoted(c.List[0]))
			}
		case m.From >= 0:
			values, parts := []string{fillOf(s.Offers[m.From].Heading, m)}, true
			for n+1 < len(form.Columns) && form.Columns[n+1].Name() == p.heading && !s.Matches[n+1].Ask && s.Matches[n+1].From >= 0 {
				n++
				next := s.Matches[n]
				parts = parts && next.From == m.From && next.Nth == m.Nth+len(values) && m.Nth > 0 && !next.Rest
				values = append(values, fillOf(s.Offers[next.From].Heading, next))
			}
			p.fit, p.value = placeSure, values[0]
			if len(values) > 1 && !parts {
				p.value = "[" + strings.Join(values, ", ") + "]"
			}
			p.says = fmt.Sprintf("%d of 100, for example %s", m.Score, clean(s.Offers[m.From].Part(m.Nth)))
		case m.Fixed != "":
			p.fit, p.value, p.says = placeFixed, fmt.Sprintf("{ always = %s }", quoted(m.Fixed)), "the template allows nothing else"
		case c.Always == "" && !c.Hidden:
			p.fit = placeBlank
		default:
			continue
		}
		list = append(list, p)
	}
	return list
}

// fills writes what fills the columns of a template: what has to be decided first, as comments, and then what is sure.
func (b *Draft) fills(s *Seen) {
	var open, likely, sure, fixed, blank []string
	add := func(list *[]string, sign string, p *placement) {
		*list = append(*list, fmt.Sprintf("%-44s # %s", fmt.Sprintf("%s%s = %s", sign, quoted(p.heading), p.value), p.says))
	}
	for _, p := range s.placements() {
		switch p.fit {
		case placeOpen:
			add(&open, "# ", &p)
		case placeLikely:
			add(&likely, "# ", &p)
		case placeSure:
			add(&sure, "", &p)
		case placeFixed:
			add(&fixed, "", &p)
		case placeBlank:
			if name := quoted(p.heading); !slices.Contains(blank, name) {
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
		for _, names := range rulebook.Wrapped(blank, 100) {
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

// fillWith writes a fill with what the template calls one value more.
func fillWith(f target.Fill, ours, theirs string) string {
	parts := []string{"from = " + quoted(f.From)}
	if f.Part > 0 {
		parts = append(parts, fmt.Sprintf("part = %d", f.Part))
	}
	if f.Rest {
		parts = append(parts, "rest = true")
	}
	if f.Refers != "" {
		parts = append(parts, "refers = "+quoted(f.Refers))
	}
	said := map[string]string{ours: theirs}
	if f.Words != nil {
		maps.Copy(said, f.Words.Said)
	}
	var words []string
	for _, word := range slices.Sorted(maps.Keys(said)) {
		words = append(words, quoted(word)+" = "+quoted(said[word]))
	}
	return "{ " + strings.Join(append(parts, "words = { "+strings.Join(words, ", ")+" }"), ", ") + " }"
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

// Sure returns the orders for a template that need nobody's answer: which it is, and what is sure to fill its columns.
func Sure(s *Seen) []Sayable {
	fills := rulebook.Order{Table: "target.columns"}
	for _, p := range s.placements() {
		if (p.fit == placeSure || p.fit == placeFixed) && !s.hollow(&p) {
			fills.Lines = append(fills.Lines, rulebook.Line{Key: quoted(p.heading), Value: p.value})
		}
	}
	orders := []Sayable{{set("target", "template", quoted(s.Template)), "The form that the platform gives out."}}
	if fills.Lines != nil {
		orders = append(orders, Sayable{fills, "What fills its columns, by headings and by what stands below them."})
	}
	return orders
}

// hollow reports whether a column that must be filled would be by one in which nothing stands.
func (s *Seen) hollow(p *placement) bool {
	m := s.Matches[p.at]
	return p.fit == placeSure && s.Platform.Columns[p.at].Need == template.Required && !slices.Contains(filledElse, s.Offers[m.From].Field) &&
		slices.ContainsFunc(s.Columns, func(c SeenColumn) bool { return c.Heading == s.Offers[m.From].Heading && c.Filled == 0 })
}
