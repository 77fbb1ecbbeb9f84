package sections

import (
	"cmp"
	"maps"
	"slices"
	"strconv"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/condition"
	"zetanum/core/line"
	"zetanum/core/rulebook"
	"zetanum/core/sheet"
	"zetanum/core/steps"
)

// sheetSection says what becomes of the rows as a whole.
type sheetSection struct {
	plain
	rules *condition.SheetRules
}

func (*sheetSection) Parts() []rulebook.Part {
	return []rulebook.Part{
		{
			Name: "sheet", Line: "[sheet]",
			Says: "What becomes of the rows as a whole.",
			Keys: []rulebook.Key{
				{
					Name:    "repeats",
					Says:    "What becomes of rows that are the same as another in every cell: set-aside, keep or hold.",
					Example: `repeats = "hold"`,
				},
				{
					Name: "hidden_rows",
					Says: "What becomes of rows that a workbook does not show, because they are hidden or filtered out: keep, or " +
						"set-aside. If nothing is said, they are kept, and counted in the summary.",
					Example: `hidden_rows = "set-aside"`,
				},
				{
					Name:    "hidden_columns",
					Says:    "What becomes of columns that a workbook does not show: keep, or drop. The SKU is kept in any case.",
					Example: `hidden_columns = "drop"`,
				},
				{
					Name: "fill_merged",
					Says: "Fills what a merged cell of a workbook says into all rows that it reaches over, where they are empty. Codes " +
						"are not filled: no two products have the same.",
					Example: "fill_merged = true",
				},
				{
					Name: "row_numbers",
					Says: "A column that takes the number of the row in the source. With it in sort_by the order of the source can be " +
						"had again.",
					Example: `row_numbers = "Source row"`,
				},
				{
					Name: "sort_by",
					Says: "Sorts the products that go out, whole ones, by these fields or headings. Letters are sorted as in a " +
						"dictionary, and 9 comes before 10.",
					Example: `sort_by = ["brand", "title"]`,
				},
			},
		},
	}
}

func (s *sheetSection) Tables() []rulebook.Table {
	return []rulebook.Table{{Name: "sheet", Into: s.rules}}
}

func (s *sheetSection) Check() []rulebook.Problem { return rulebook.In("sheet", 0, s.rules.Check()) }

func (r *sheetSection) Adds(*Sheet) ([]string, error) {
	if r.rules.RowNumbers == "" {
		return nil, nil
	}
	return []string{r.rules.RowNumbers}, nil
}

func (r *sheetSection) Order(s *Sheet) error {
	if r.rules.FillMerged {
		if err := fillMerged(s); err != nil {
			return err
		}
	}
	if r.rules.RowNumbers != "" {
		return rowNumbers(s, r.rules.RowNumbers)
	}
	return nil
}

func (r *sheetSection) Steps(s *Sheet) error {
	s.Add(StageShape, steps.Shape(&s.Sheet, r.rules.HiddenRows == "set-aside"))
	s.Targeted = s.Book.read != nil && s.Book.read.Has("target")
	s.Add(StageSanity, steps.Sanity(&s.Sheet))
	s.Add(StageSanity, steps.Money(&s.Sheet, s.Date, yearOf(s.Date), s.inShop.numberOf()))
	if stock, ok := steps.Stock(&s.Sheet); ok {
		s.Add(StageSanity, stock)
	}
	if misplaced, ok := steps.Misplaced(&s.Sheet); ok {
		s.Add(StageSanity, misplaced)
	}
	s.Add(StageListed, steps.ToCheck(&s.Sheet, s.knownBy()))
	return nil
}

// Output says by which columns the products are sorted.
func (r *sheetSection) Output(s *Sheet, o *line.Output) error {
	for _, name := range r.rules.SortBy {
		found := s.Find(name)
		if len(found) == 0 {
			return columns.NotThere(&s.Columns, "[sheet] sort_by", name)
		}
		o.SortBy = append(o.SortBy, found[0])
	}
	return nil
}

// fillMerged orders that what merged cells say is filled into all rows that they reach over.
func fillMerged(s *Sheet) error {
	byColumn := make(map[int][]sheet.Tall)
	for _, t := range s.Tall {
		if t.Text != "" && s.Columns.Kind(t.Col) != catalogue.CodeKind {
			byColumn[t.Col] = append(byColumn[t.Col], t)
		}
	}
	for _, col := range slices.Sorted(maps.Keys(byColumn)) {
		areas := byColumn[col] // by their rows
		fill := steps.Order{Key: "sheet", Phase: steps.PhaseFill, Writes: []int{col}, Rules: []catalogue.Rule{catalogue.RuleMerged},
			Do: func(r *steps.RowAt) bool {
				at, found := slices.BinarySearchFunc(areas, r.Number, func(t sheet.Tall, row int) int { return cmp.Compare(t.From, row) })
				if !found {
					at--
				}
				if at < 0 || r.Number > areas[at].To || r.Cell(col) != "" {
					return false
				}
				r.Set(col, areas[at].Text, catalogue.RuleMerged, catalogue.Ordered, "")
				return true
			}}
		number := s.Tally.Add("fill_merged: "+s.Columns.Headings[col], "changed", 0)
		if err := s.Orders.AddCounted(fill, condition.Meant{Rows: catalogue.AllRows}, number); err != nil {
			return err
		}
	}
	return nil
}

// rowNumbers orders that a column takes the number that each row has in the source, where
// it has none from an earlier run: so the order of the source can be had again.
func rowNumbers(s *Sheet, name string) error {
	col, err := s.NeedOne("[sheet] row_numbers", name)
	if err == nil {
		err = steps.Unreserved(&s.Columns, col, steps.Reserved, "[sheet] row_numbers", name)
	}
	if err != nil || col < 0 {
		return err
	}
	number := steps.Order{Key: "sheet", Phase: steps.PhaseFill, Writes: []int{col}, Rules: []catalogue.Rule{catalogue.RuleAdd},
		Do: func(r *steps.RowAt) bool {
			if r.Cell(col) != "" || r.Log.Judging() {
				return false // rows that are the same are so whatever their numbers
			}
			r.Set(col, strconv.Itoa(r.Number), catalogue.RuleAdd, catalogue.Ordered, "")
			return true
		}}
	return s.Orders.AddCounted(number, condition.Meant{}, -1)
}

// repeats says what becomes of rows that repeat another.
func repeats(rules *condition.SheetRules) line.Repeats {
	switch rules.Repeats {
	case "keep":
		return line.RepeatsKept
	case "hold":
		return line.RepeatsHeld
	}
	return line.RepeatsAside
}

// yearOf returns the year of a day, by which the century of years with two digits is told; 2000 if nothing is said.
func yearOf(day string) int {
	year, err := strconv.Atoi(day[:min(4, len(day))])
	if err != nil {
		return 2000
	}
	return year
}
