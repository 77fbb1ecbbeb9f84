package sections

import (
	"fmt"

	"zetanum/core/catalogue"
	"zetanum/core/condition"
	"zetanum/core/rulebook"
	"zetanum/core/steps"
)

// rowsSection says which products are worked on.
type rowsSection struct {
	plain
	rules *[]condition.RowRule
}

func (*rowsSection) Parts() []rulebook.Part {
	return []rulebook.Part{
		{
			Name: "rows", Line: "[[rows]]",
			Says: "Which rows go out; there may be several. Whole products are kept or set aside: one row that fulfils the " +
				"condition is enough. Rows set aside are in aside.csv, with the rule.",
			Keys: []rulebook.Key{
				{
					Name:    "keep",
					Says:    "A condition: products of which no row fulfils it are set aside.",
					Example: `keep = { sku = { starts = "LRA-" } }`,
				},
				{
					Name:    "aside",
					Says:    "A condition: products of which a row fulfils it are set aside.",
					Example: `aside = { any = [ { price = { below = 1 } }, { title = { contains = "sample" } } ] }`,
				},
				{
					Name: "one_per",
					Says: "Of the rows that have the same in this field or heading, one is kept. The others are set aside, and what " +
						"differs in them is named.",
					Example: `one_per = "sku"`,
				},
				{
					Name: "choose",
					Says: "Which one is kept: first, last, or fullest, the one with fewest empty cells.",
					Example: `one_per = "sku"
choose  = "fullest"`,
				},
				{
					Name: "count",
					Says: "How many rows must be kept, or set aside; with another number nothing is written.",
					Example: `keep = { brand = "Hollowbrook Joinery" }
count = 85`,
				},
			},
		},
	}
}

func (s *rowsSection) Tables() []rulebook.Table {
	return []rulebook.Table{{Name: "rows", Into: s.rules}}
}

func (s *rowsSection) Check() (problems []rulebook.Problem) {
	for i := range *s.rules {
		problems = append(problems, rulebook.In("rows", i+1, (*s.rules)[i].Check())...)
	}
	return problems
}

func (r *rowsSection) Steps(s *Sheet) error {
	step, err := steps.Rows(&s.Sheet, *r.rules)
	if err != nil {
		return err
	}
	s.Add(StageRows, step)
	return nil
}

// Begin proposes which rows go out.
func (*rowsSection) Begin(s *Seen, b *Draft) {
	if s.File == "" {
		return
	}
	for _, f := range s.Found {
		if f.Code == catalogue.SKUDuplicate && len(s.Tongues) < 2 {
			b.line("\n# %s with an SKU that another has, too. Only one of each goes out, if you say which:", plural(f.Cells, "row"))
			b.line("# [[rows]]\n# one_per = \"sku\"\n# choose  = \"last\"   # first, last, fullest")
		}
	}
	for _, c := range s.Columns {
		if (c.Field == catalogue.Category || c.Field == catalogue.Brand) && c.Example != "" {
			b.line("\n# Only some of the products, whole ones; %s filled in %s:", clean(c.Heading)+" is", plural(c.Filled, "row"))
			b.line("# [[rows]]\n# keep = { %s = %s }", c.Field, quoted(c.Example))
			return
		}
	}
}

// Ask asks which of several rows with one SKU goes out.
func (*rowsSection) Ask(s *Seen) (list []Question) {
	n := s.cells(catalogue.SKUDuplicate)
	if n == 0 || len(s.Tongues) > 1 {
		return nil
	}
	one := func(says, which string) Way {
		return Way{Says: says, Orders: []rulebook.Order{newOf("rows", "one_per", `"sku"`, "choose", quoted(which))}}
	}
	q := Question{Name: "sku.duplicate", Rows: n, Says: fmt.Sprintf("%s an SKU that another has, too.", verb(n, "row", "has", "have")), Asks: "Which of each goes out?",
		Ways: []Way{one("the last", "last"), one("the first", "first"), one("the one with most cells filled", "fullest"),
			{Says: "all: they are other products, and the later ones get the next numbers", Orders: []rulebook.Order{newOf("mint", "into", `"sku"`, "series", "true")}}}}
	return []Question{q.on(catalogue.SKUDuplicate, s.first(catalogue.SKU))}
}
