package sections

import (
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/products"
	"zetanum/core/steps"
)

// orderEmpties orders that the importer's word stands in cells that are to empty what the shop has: once for a product where they are about the
// whole of it.
func (s *shape) orderEmpties() error {
	word := s.rules.Empty
	for _, name := range s.rules.Empties {
		found, err := s.Need("[target] empties", name)
		if err != nil {
			return s.wrong("target", "empties", err)
		}
		some := false
		for n := range s.cols {
			c := &s.cols[n]
			if !slices.Contains(found, c.from) || c.fill.Part > 1 {
				continue
			}
			some = true
			whole := s.Products.Level(c.from) == products.OfProduct
			one := steps.Order{Key: "target", Phase: steps.PhaseTarget, Reads: []int{c.col}, Writes: []int{c.col}, Rules: []catalogue.Rule{catalogue.RuleShop}, Rests: true, Do: func(r *steps.RowAt) bool {
				role := r.Product.Role(r.Index)
				if strings.TrimSpace(r.Cell(c.col)) == "" && role&catalogue.ImageRow == 0 && (!whole || role&catalogue.Lead != 0) {
					r.Put(c.col, word, "", catalogue.RuleShop)
				}
				return false
			}}
			if err := s.Orders.AddLast(s.n, one); err != nil {
				return err
			}
		}
		if !some {
			return s.wrong("target", "empties", columns.Refuse("%q fills no column of the template, so that nothing of the shop is emptied by it", name))
		}
	}
	return nil
}

// empties reports whether the importer's word for an empty cell may stand in a column that goes out.
func (s *shape) empties(col int) bool {
	return slices.ContainsFunc(s.rules.Empties, func(name string) bool {
		for _, found := range s.Find(name) {
			if s.formOut(found) == col {
				return true
			}
		}
		return false
	})
}
