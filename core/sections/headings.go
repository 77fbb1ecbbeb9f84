package sections

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"zetanum/core/catalogue"
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
	for _, names := range wrapped(catalogue.FieldNames(), 70) {
		b.line("#   %s", names)
	}
	for _, c := range s.Columns {
		if c.Field == catalogue.Unknown && c.Heading != "" {
			b.line("# %s = \"\"   # %s filled, for example %s", quoted(c.Heading), plural(c.Filled, "row"), clean(c.Example))
		}
	}
}
