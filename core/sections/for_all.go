package sections

import (
	"zetanum/core/products"
	"zetanum/core/rulebook"
	"zetanum/core/steps"
)

// forAllSection puts variants that differ in one value into one row.
type forAllSection struct {
	plain
	rules *[]products.AllRule
}

func (*forAllSection) Parts() []rulebook.Part {
	return []rulebook.Part{
		{
			Name: "one_row_for_all", Line: "[[one_row_for_all]]",
			Says: "Variants that differ in one value, made into one row with a list of the values. A row in which something else " +
				"differs stays, and is named; a value with what stands between values in it is a list already.",
			Shared: rulebook.Scope,
			Keys: []rulebook.Key{
				{
					Name: "from",
					Says: "The column with the values, in which the list stands then; rename under [columns] gives it another heading.",
					Example: `from   = "Size"
unlike = ["sku"]`,
				},
				{
					Name: "at",
					Says: "What stands between the values; a comma and a space if it is not said.",
					Example: `from = "Size"
at   = "|"`,
				},
				{
					Name: "unlike",
					Says: "Fields or headings in which the rows may differ, too: the first row keeps what it has, and that of the others " +
						"does not go out.",
					Example: `from   = "Size"
unlike = ["sku", "barcode"]`,
				},
			},
		},
	}
}

func (s *forAllSection) Tables() []rulebook.Table {
	return []rulebook.Table{{Name: "one_row_for_all", Into: s.rules}}
}

func (s *forAllSection) Check() (problems []rulebook.Problem) {
	for i := range *s.rules {
		problems = append(problems, rulebook.In("one_row_for_all", i+1, (*s.rules)[i].Check())...)
	}
	return problems
}

func (f *forAllSection) Steps(s *Sheet) error {
	for i := range *f.rules {
		step, ok, err := steps.ForAll(&s.Sheet, &(*f.rules)[i])
		if err != nil {
			return nth(i, err)
		}
		if ok {
			s.Add(StageForAll, step)
		}
	}
	return nil
}
