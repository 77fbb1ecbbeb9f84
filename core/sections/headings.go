package sections

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/heading"
	"zetanum/core/rulebook"
	"zetanum/core/text"
)

// headingsSection says what headings mean that are not recognised.
type headingsSection struct {
	plain
	book *Book
}

func (*headingsSection) Parts() []rulebook.Part {
	return []rulebook.Part{
		{
			Name: "headings", Line: "[headings]",
			Says: "What headings mean that are not recognised by themselves: a heading, and the field that it is.",
			Keys: []rulebook.Key{
				{
					Name:    "*",
					Says:    "Any heading of the file, in quotation marks if it has more than letters.",
					Example: `"Art. no." = "sku"`,
				},
			},
		},
	}
}

func (s *headingsSection) Tables() []rulebook.Table {
	return []rulebook.Table{{Name: "headings", Into: &s.book.Headings}}
}

func (s *headingsSection) Check() (problems []rulebook.Problem) {
	for _, h := range slices.Sorted(maps.Keys(s.book.Headings)) {
		name := s.book.Headings[h]
		_, own := s.book.Field[name]
		if _, known := catalogue.ParseField(name); own || known {
			continue
		}
		problems = append(problems, rulebook.Problem{Part: "headings",
			Problem: catalogue.Problem{Key: h, Text: fmt.Sprintf("there is no field %q%s; the fields are: %s",
				name, text.DidYouMean(name, catalogue.FieldNames()), strings.Join(catalogue.FieldNames(), " "))}})
	}
	return problems
}

// Begin lists the headings that are not recognised.
func (*headingsSection) Begin(s *Seen, b *Draft) {
	if s.File == "" {
		return
	}
	b.line("\n[headings]")
	b.line("# What headings mean that are not recognised: a heading, and one of the fields")
	for _, names := range rulebook.Wrapped(catalogue.FieldNames(), 70) {
		b.line("#   %s", names)
	}
	for _, c := range s.Columns {
		if c.Field == catalogue.Unknown && c.Heading != "" {
			b.line("# %s = \"\"   # %s filled, for example %s", quoted(c.Heading), plural(c.Filled, "row"), clean(c.Example))
		}
	}
}

// Ask asks which of two columns is a field that both claim, and what tells rows apart where no SKU is known.
func (*headingsSection) Ask(s *Seen) (list []Question) {
	for _, c := range s.Columns {
		field := heading.Field(c.Heading)
		i := slices.IndexFunc(s.Columns, func(o SeenColumn) bool { return o.Field == field })
		if c.Field != catalogue.Unknown || field == catalogue.Unknown || i < 0 || c.Filled == 0 {
			continue
		}
		q := Question{Name: "headings." + field.String() + "=" + c.Heading, Rows: c.Filled, Blind: true,
			Says: fmt.Sprintf("%s and %s both claim to be the %s.", shown(s.Columns[i].Heading), shown(c.Heading), spoken(field)), Asks: "Which is it?"}
		for _, one := range []SeenColumn{s.Columns[i], c} {
			q.Ways = append(q.Ways, Way{Says: fmt.Sprintf("%s, for example %s", shown(one.Heading), clean(one.Example)),
				Orders: []rulebook.Order{set("headings", quoted(one.Heading), quoted(field.String()))}})
		}
		list = append(list, q)
	}
	for _, k := range s.Keys {
		list = append(list, yesNo("headings.sku="+k.Column, s.Rows, fmt.Sprintf("No column is known to be the SKU. %s has another value in each of %s.", shown(k.Column), plural(k.Distinct, "row")),
			"Is it the SKU?", set("headings", quoted(k.Column), `"sku"`)))
	}
	return list
}

// spoken returns the name of a field in words.
func spoken(f catalogue.Field) string {
	if f == catalogue.SKU || f == catalogue.ParentSKU || f == catalogue.MPN {
		return strings.Replace(strings.ToUpper(f.String()), "_", " ", 1)
	}
	return strings.ReplaceAll(f.String(), "_", " ")
}
