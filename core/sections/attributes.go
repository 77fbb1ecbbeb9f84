package sections

import (
	"sync/atomic"

	"zetanum/core/steps"
)

// An Attribute is how full a column is that says a property of products, when all has been done to it.
type Attribute struct {
	Heading    string
	filled, of atomic.Int64
}

// Filled returns how many rows have it, of those that may.
func (a *Attribute) Filled() (filled, of int) { return int(a.filled.Load()), int(a.of.Load()) }

// lookAtAttributes counts how full the attributes are.
func (s *Sheet) lookAtAttributes() {
	s.Attributes = nil
	if !steps.Compares(s.Table) {
		return
	}
	var cols []int
	for _, col := range s.Out {
		if s.Columns.IsAttribute(col) && col < s.Columns.Own() && !s.Products.Declared(col) { // of options it is said what is missing
			cols = append(cols, col)
			s.Attributes = append(s.Attributes, &Attribute{Heading: s.Columns.Headings[col]})
		}
	}
	if len(cols) == 0 {
		return
	}
	list := s.Attributes
	s.Orders.Look("attributes", cols, func(r *steps.RowAt) {
		if r.Log.Judging() || r.Dry {
			return
		}
		for i, col := range cols {
			filled := r.Cell(col) != ""
			if !filled && !s.Products.Belongs(col, r.Row, r.Product.Role(r.Index)) {
				continue
			}
			if list[i].of.Add(1); filled {
				list[i].filled.Add(1)
			}
		}
	})
}
