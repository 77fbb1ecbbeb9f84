package sections

import (
	"maps"
	"slices"

	"zetanum/core/catalogue"
	"zetanum/core/products"
	"zetanum/core/rulebook"
	"zetanum/core/steps"
)

// eachSection makes several rows of one.
type eachSection struct {
	plain
	rules *[]products.EachRule
}

func (*eachSection) Parts() []rulebook.Part {
	return []rulebook.Part{
		{
			Name: "one_row_each", Line: "[[one_row_each]]",
			Says: "One row with a list of sizes or colours, made into a row for each. What belongs to the variant is copied, " +
				"what belongs to the product and its images stays in the first row. A row that has a value already is left. A " +
				"barcode can be that of one row only; such rows are held.",
			Shared: rulebook.Scope,
			Keys: []rulebook.Key{
				{
					Name: "from",
					Says: "The column with the lists.",
					Example: `from = "Sizes"
into = "Size"
set  = { sku = "{sku}-{Size}" }`,
				},
				{
					Name: "into",
					Says: "The column for the value of each row, which is added if it is not there.",
					Example: `from = "Colours"
into = "colour"
set  = { sku = "{sku}-{colour letters upper first 3}" }`,
				},
				{
					Name: "set",
					Says: "Patterns for what is different in each row, by field or heading: the SKU in any case.",
					Example: `from = "Sizes"
into = "Size"
set  = { sku = "{sku}-{Size}", "Label" = "{title}, {Size}" }`,
				},
				{
					Name: "parent",
					Says: "Keeps the row as it was entered, as the parent of the others: it is not sold itself, and each value gets a row below " +
						"it, with the SKU of the row as its parent SKU. Rows that have a parent already are left.",
					Example: `from   = "Sizes"
into   = "Size"
set    = { sku = "{sku}-{Size}" }
parent = true`,
				},
				{
					Name: "repeat",
					Says: "Writes what belongs to the whole product, such as the title and the brand, into every row, as tills want it. A title that is set " +
						"may be different in each.",
					Example: `from   = "Sizes"
into   = "Size"
set    = { sku = "{sku}-{Size}", title = "{title}, {Size}" }
repeat = true`,
				},
			},
		},
	}
}

func (s *eachSection) Tables() []rulebook.Table {
	return []rulebook.Table{{Name: "one_row_each", Into: s.rules}}
}

func (s *eachSection) Check() (problems []rulebook.Problem) {
	for i := range *s.rules {
		problems = append(problems, rulebook.In("one_row_each", i+1, (*s.rules)[i].Check())...)
	}
	return problems
}

// Adds returns the columns that are filled.
func (e *eachSection) Adds(*Sheet) (names []string, err error) {
	for i := range *e.rules {
		rule := &(*e.rules)[i]
		names = append(names, rule.Into)
		if rule.Parent {
			names = append(names, catalogue.ParentSKU.String())
		}
		names = append(names, slices.Sorted(maps.Keys(rule.Set))...)
	}
	return names, nil
}

// Order says that what is listed is an option.
func (e *eachSection) Order(s *Sheet) error {
	for i := range *e.rules {
		s.Products.Declare(s.Find((*e.rules)[i].Into))
	}
	return nil
}

func (e *eachSection) Steps(s *Sheet) error {
	for i := range *e.rules {
		step, ok, err := steps.Each(&s.Sheet, &(*e.rules)[i])
		if err != nil {
			return nth(i, err)
		}
		if ok {
			s.Add(StageEach, step)
		}
	}
	return nil
}
