package steps

import (
	"cmp"
	"fmt"
	"html"
	"maps"
	"slices"
	"strconv"
	"strings"

	"zetanum/core/barcode"
	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/sheet"
)

// Columns orders that columns are filled, taken apart and put together. A column that is
// filled is not judged again: into one of barcodes only whole codes go.
func (o *Orders) Columns(plan *columns.Plan) error {
	isBarcode := func(col int) bool { return o.table.Columns.Fields[col] == catalogue.Barcode }
	for n := range plan.Fillers {
		f := &plan.Fillers[n]
		if !isBarcode(f.Col) {
			continue
		}
		if f.From >= 0 {
			o.codes = append(o.codes, func(row *catalogue.Row) []string { return []string{row.Cell(f.From)} })
		} else if _, err := barcode.Parse(strings.TrimSpace(f.Value)); err == nil {
			return fmt.Errorf("%w: [columns] fills %q with %s: a barcode is that of one product, not of every row", columns.ErrWrong, o.table.Columns.Headings[f.Col], f.Value)
		}
	}
	for n := range plan.Splits {
		if s := &plan.Splits[n]; slices.ContainsFunc(s.Into, isBarcode) {
			o.codes = append(o.codes, func(row *catalogue.Row) []string {
				parts, _ := s.Parts(row.Cell(s.From))
				return parts
			})
		}
	}
	for n := range plan.Splits {
		s := &plan.Splits[n]
		if err := o.add(order{
			key: "columns.split", phase: phaseFill, reads: []int{s.From}, writes: s.Into, do: o.splitter(s),
		}, s.Rule.Where, s.Rule.Rows, s.Rule.String(), s.Rule.Count); err != nil {
			return err
		}
	}
	for n := range plan.Joins {
		j := &plan.Joins[n]
		if err := o.add(order{
			key: "columns.join", phase: phaseFill, reads: j.From, writes: []int{j.Into},
			do: func(r *rowAt) bool {
				text := j.Text(r.Row)
				if r.Cell(j.Into) != "" || text == "" || !o.takes(r, j.Into, text, j.From[0]) {
					return false
				}
				r.set(j.Into, text, catalogue.RuleJoin, catalogue.Ordered, "")
				return true
			},
		}, j.Rule.Where, j.Rule.Rows, j.Rule.String(), j.Rule.Count); err != nil {
			return err
		}
	}
	for n := range plan.Joins {
		j := &plan.Joins[n]
		o.inside(plan, j.From, j.Into)
	}
	for n := range plan.Splits {
		o.parted(plan, &plan.Splits[n])
	}
	if o.shape.DropNameless {
		for _, col := range plan.Gone {
			if strings.TrimSpace(o.table.Columns.Headings[col]) == "" {
				o.look("columns", []int{col}, func(r *rowAt) {
					if cell := r.Cell(col); strings.TrimSpace(cell) != "" {
						r.find(catalogue.ColumnNameless, col, cell, catalogue.Facts{})
					}
				})
			}
		}
	}
	for n := range plan.Fillers {
		f := &plan.Fillers[n]
		fill := order{key: "columns.fill", phase: phaseFill, writes: []int{f.Col}, do: o.filler(f)}
		if f.From >= 0 {
			fill.reads = []int{f.From}
		}
		if err := o.add(fill, f.Where, f.Rows, f.Words, f.Count); err != nil {
			return err
		}
	}
	return nil
}

// Merged orders that what merged cells say is filled into all rows that they reach over.
func (o *Orders) Merged() error {
	byColumn := make(map[int][]sheet.Tall)
	for _, t := range o.table.Tall {
		if t.Text != "" && o.table.Columns.Kind(t.Col) != catalogue.CodeKind {
			byColumn[t.Col] = append(byColumn[t.Col], t)
		}
	}
	for _, col := range slices.Sorted(maps.Keys(byColumn)) {
		areas := byColumn[col] // by their rows
		fill := order{key: "[sheet] fill_merged", phase: phaseFill, writes: []int{col}, do: func(r *rowAt) bool {
			at, found := slices.BinarySearchFunc(areas, r.Number, func(t sheet.Tall, row int) int { return cmp.Compare(t.From, row) })
			if !found {
				at--
			}
			if at < 0 || r.Number > areas[at].To || r.Cell(col) != "" {
				return false
			}
			r.set(col, areas[at].Text, catalogue.RuleMerged, catalogue.Ordered, "")
			return true
		}}
		if err := o.add(fill, nil, catalogue.AllRows, "fill_merged: "+o.table.Columns.Headings[col], 0); err != nil {
			return err
		}
	}
	return nil
}

// look takes an order down that writes nothing.
func (o *Orders) look(key string, reads []int, do func(*rowAt)) {
	o.list = append(o.list, order{key: key, phase: phaseLook, reads: reads, number: -1, looks: true, do: func(r *rowAt) bool {
		do(r)
		return false
	}})
}

// inside looks whether what columns that do not go out have in them is inside the
// column that was made of them.
func (o *Orders) inside(plan *columns.Plan, from []int, into int) {
	for _, col := range from {
		if !slices.Contains(plan.Gone, col) {
			continue
		}
		o.look("columns", []int{col, into}, func(r *rowAt) {
			whole := strings.ToLower(r.Cell(into))
			for _, word := range strings.Fields(strings.ToLower(r.Cell(col))) {
				if !strings.Contains(whole, word) && !strings.Contains(whole, html.EscapeString(word)) {
					r.find(catalogue.ColumnNotInside, col, r.Cell(col), catalogue.Facts{Other: o.table.Columns.Headings[into]})
					return
				}
			}
		})
	}
}

// parted looks whether the parts of a column that does not go out are in the
// columns that they were to go into.
func (o *Orders) parted(plan *columns.Plan, s *columns.Split) {
	if !slices.Contains(plan.Gone, s.From) {
		return
	}
	o.look("columns", append([]int{s.From}, s.Into...), func(r *rowAt) {
		cell := r.Cell(s.From)
		parts, ok := s.Parts(cell)
		if cell == "" || !ok {
			return // which is said when it is split
		}
		for i, col := range s.Into {
			if !strings.Contains(strings.ToLower(r.Cell(col)), strings.ToLower(parts[i])) {
				r.find(catalogue.ColumnNotInside, s.From, cell, catalogue.Facts{Other: o.table.Columns.Headings[col]})
				return
			}
		}
	})
}

// add takes an order down, with its condition and, if it has words, its number.
func (o *Orders) add(one order, where map[string]any, rows catalogue.Rows, words string, count int) (err error) {
	var reads []int
	if one.where, reads, err = o.where(where); err != nil {
		return err
	}
	one.reads = append(reads, one.reads...)
	one.rows = rows.Roles()
	one.number = -1
	if words != "" {
		one.number = o.tally.Add(words, changed, count)
	}
	o.list = append(o.list, one)
	return nil
}

// RowNumbers orders that a column takes the number that each row has in the source, where
// it has none from an earlier run: so the order of the source can be had again.
func (o *Orders) RowNumbers(name string) error {
	col, err := o.shape.NeedOne(&o.table.Columns, "[sheet] row_numbers", name)
	if err == nil {
		err = unreserved(&o.table.Columns, col, reserved, "[sheet] row_numbers", name)
	}
	if err != nil || col < 0 {
		return err
	}
	return o.add(order{key: "sheet", phase: phaseFill, writes: []int{col}, do: func(r *rowAt) bool {
		if r.Cell(col) != "" || r.log.Judging() {
			return false // rows that are the same are so whatever their numbers
		}
		r.set(col, strconv.Itoa(r.Number), catalogue.RuleAdd, catalogue.Ordered, "")
		return true
	}}, nil, 0, "", 0)
}

func (o *Orders) filler(f *columns.Filler) func(*rowAt) bool {
	return func(r *rowAt) bool {
		if r.Cell(f.Col) != "" || !r.belongs(f.Col) {
			return false
		}
		if f.From < 0 {
			r.set(f.Col, f.Value, catalogue.RuleAdd, catalogue.Ordered, "")
			return true
		}
		value := r.view().Cell(f.From)
		if value == "" {
			return false
		}
		if !o.takes(r, f.Col, value, f.From) {
			return false
		}
		r.set(f.Col, value, catalogue.RuleCopy, catalogue.Ordered, "")
		o.suits(r, f.Col, f.From)
		return true
	}
}

// splitter takes a cell apart into columns that are all empty. A cell that has not
// as many parts is left, and named.
func (o *Orders) splitter(s *columns.Split) func(*rowAt) bool {
	return func(r *rowAt) bool {
		cell := r.Cell(s.From)
		if cell == "" {
			return false
		}
		for _, col := range s.Into {
			if r.Cell(col) != "" {
				return false
			}
		}
		parts, ok := s.Parts(cell)
		if !ok {
			r.find(catalogue.ColumnParts, s.From, cell, catalogue.Facts{Digits: len(parts), Length: len(s.Into)})
			return false
		}
		for i, col := range s.Into {
			if parts[i] != r.Cell(col) && o.takes(r, col, parts[i], s.From) {
				r.set(col, parts[i], catalogue.RuleSplit, catalogue.Ordered, "")
			}
		}
		return true
	}
}

// takes reports whether a value of another column may go into a column. One of barcodes
// takes whole codes only, and claims them, so that no two products have the same.
func (o *Orders) takes(r *rowAt, col int, value string, from int) bool {
	if o.table.Columns.Fields[col] != catalogue.Barcode {
		return true
	}
	code, err := barcode.Parse(strings.TrimSpace(value))
	if err != nil {
		r.find(catalogue.BorrowUnsuited, col, r.Cell(col), catalogue.Facts{Other: fmt.Sprintf("The column %s has %s", o.table.Columns.Headings[from], catalogue.Shorten(value, 40))})
		return false
	}
	if !r.dry {
		r.log.Claim(ClaimBarcode, code.Key(), r.index, col)
	}
	return true
}

// suits notes what was copied into a column whose cells it does not look like.
func (o *Orders) suits(r *rowAt, col, from int) {
	cell := strings.TrimSpace(r.Cell(col))
	what := ""
	switch kind := o.table.Columns.Kind(col); {
	case kind == catalogue.CodeKind:
		if _, scientific := scientificSKU(cell); scientific {
			what = "a number in scientific notation"
		} else if strings.ContainsAny(cell, " \t\n") {
			what = "several words, not a code"
		}
	case kind == catalogue.NumberKind && !strings.ContainsAny(cell, "0123456789"):
		what = "no number"
	case kind == catalogue.DateKind && !strings.ContainsAny(cell, "0123456789"):
		what = "no date"
	case kind == catalogue.LinkKind && (!strings.ContainsAny(cell, "./") || strings.Contains(cell, " ")):
		what = "no link"
	}
	if what != "" {
		r.find(catalogue.ColumnUnsuited, col, r.Cell(col), catalogue.Facts{Other: o.table.Columns.Headings[from] + ", and it is " + what})
	}
}
