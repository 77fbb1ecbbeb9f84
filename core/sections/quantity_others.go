package sections

import (
	"fmt"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/quantity"
	"zetanum/core/steps"
)

// counts orders how numbers are written that are no prices.
func (q *quantityColumn) counts() error {
	s := q.sheet
	var words [][2]string
	for _, p := range s.spoken[q.name] {
		words = append(words, [2]string{p.Key, p.Value})
	}
	counting, err := quantity.NewCounting(&q.table.NumberRule, &q.table.PriceRule, words)
	if err != nil {
		return &ruleError{key: "words", error: fmt.Errorf("[%s] words: %w", q.name, err)}
	}
	q.learn(seeMarks)
	q.isWritten()
	return q.writes(steps.Order{Writes: []int{q.col},
		Do: func(r *steps.RowAt) bool {
			cell := r.Cell(q.col)
			if cell == "" {
				return false
			}
			after, is := counting.Of(cell, q.form)
			if is != quantity.Value {
				because := why(is)
				if is == quantity.Words && quantity.ReadStock(cell).Says != quantity.Neither {
					because = "says whether there are any, and not how many; a sheet of words has a number for it, if the rulebook names one"
				}
				q.left(r, q.col, cell, because)
				return false
			}
			after = quantity.WithMark(after, q.mark())
			r.Set(q.col, after, catalogue.RuleAmount, catalogue.Ordered, "")
			return after != cell
		}}, "numbers of "+q.name+" written as numbers")
}

// measures orders in which unit measures are written.
func (q *quantityColumn) measures() error {
	s, rule := q.sheet, q.table.MeasureRule
	named := s.Columns.Headings[q.col]
	if unit := quantity.UnitIn(named); unit != "" && rule.Sides == nil {
		usual, dimension := quantity.Unit(unit)
		if want, of := quantity.Unit(rule.Unit); usual != want && dimension == of && quantity.UnitIn(s.outHeading(q.col)) == unit {
			return &ruleError{key: "unit", error: columns.Refuse("[%s] unit: the column %q would still be called so, and its numbers would be in %s; rename it under [columns]: rename = { %q = … }",
				q.name, named, rule.Unit, named)}
		}
	}
	if rule.Sides == nil {
		if q.isWritten(); q.again != nil {
			named, rule.Bare = "", rule.Unit
		}
	}
	measuring := quantity.NewMeasuring(&q.table.NumberRule, &rule, named)
	q.learn(seeMarks)
	order := steps.Order{Writes: []int{q.col}}
	unit := -1
	var sides []int
	if rule.UnitFrom != "" {
		var err error
		if unit, err = s.NeedOne("["+q.name+"] unit_from", rule.UnitFrom); err != nil {
			return &ruleError{key: "unit_from", error: err}
		}
		if unit >= 0 {
			order.Writes = append(order.Writes, unit)
		}
	}
	for _, name := range rule.Sides {
		col, err := s.NeedOne("["+q.name+"] sides", name)
		if err != nil || col < 0 {
			return &ruleError{key: "sides", error: err}
		}
		sides = append(sides, col)
	}
	if sides != nil {
		order.Reads, order.Writes, order.Phase = []int{q.col}, sides, steps.PhaseFill
	}
	order.Do = func(r *steps.RowAt) bool {
		cell, of := r.Cell(q.col), strings.TrimSpace(r.Cell(unit))
		if strings.TrimSpace(cell) == "" {
			if of != "" && unit >= 0 {
				r.Find(catalogue.MeasurePair, unit, r.Cell(unit), catalogue.Facts{Other: s.Columns.Headings[q.col]})
			}
			return false
		}
		after, is, because := measuring.Of(cell, of, q.form)
		switch {
		case is == quantity.Value && sides == nil && len(after) > 1:
			is, because = quantity.Words, "has several sides"
		case is == quantity.Value && sides != nil && len(after) != len(sides):
			is, because = quantity.Words, fmt.Sprintf("does not have %d sides", len(sides))
		}
		if is != quantity.Value {
			q.left(r, q.col, cell, because)
			return false
		}
		for n := range after {
			after[n] = quantity.WithMark(after[n], q.mark())
		}
		if sides != nil {
			did := false
			for n, col := range sides {
				if r.Cell(col) == "" && r.Belongs(col) {
					r.Set(col, after[n], catalogue.RuleAmount, catalogue.Ordered, named+" "+cell)
					did = true
				}
			}
			return did
		}
		if unit >= 0 && after[0] != "" {
			r.Set(unit, rule.Unit, catalogue.RuleAmount, catalogue.Ordered, "")
		}
		r.Set(q.col, after[0], catalogue.RuleAmount, catalogue.Ordered, "")
		return after[0] != cell
	}
	words := q.name + " written in " + rule.Unit
	if sides != nil {
		words = "sides of " + q.name + " in " + rule.Unit
	}
	return q.writes(order, words)
}

// answers orders how yes and no, or choices, are written.
func (q *quantityColumn) answers() error {
	answering := quantity.NewAnswering(&q.table.YesNoRule)
	q.learn(seeAnswers)
	words := fmt.Sprintf("%s written as %s and %s", q.name, q.table.YesNoRule.Yes, q.table.YesNoRule.No)
	if q.table.YesNoRule.Choices != nil {
		words = "choices of " + q.name + " written as the target has them"
	}
	return q.writes(steps.Order{Writes: []int{q.col},
		Do: func(r *steps.RowAt) bool {
			cell := r.Cell(q.col)
			if strings.TrimSpace(cell) == "" && (q.table.YesNoRule.Empty == "" || !r.Belongs(q.col)) {
				return false
			}
			after, ok := answering.Of(cell, &q.answer)
			switch {
			case !ok && strings.TrimSpace(cell) == "":
				q.left(r, q.col, cell, "An empty cell says neither yes nor no")
				return false
			case !ok && q.table.YesNoRule.Choices != nil:
				q.left(r, q.col, cell, "is none of the choices")
				return false
			case !ok:
				q.left(r, q.col, cell, "says neither yes nor no")
				return false
			}
			r.Set(q.col, after, catalogue.RuleAmount, catalogue.Ordered, "")
			return after != cell
		}}, words)
}

// moments orders how dates are written.
func (q *quantityColumn) moments() error {
	s, rule := q.sheet, q.table.DateRule
	how := rule.Form + " " + rule.Zone
	s.tell(q.col, how)
	if s.AsLeft != nil && s.AsLeft.Written[s.Columns.Name(q.col)] == how {
		rule.TimesIn, rule.First = rule.Zone, rule.Begins()
	}
	dating := quantity.NewDating(&rule)
	q.learn(seeOrders)
	if s.Dates == nil {
		s.Dates = make(map[int]quantity.DateForm)
	}
	written := quantity.DateRule{First: rule.Begins()}
	s.Dates[q.col] = written.Order(quantity.DateForm{})
	return q.writes(steps.Order{Writes: []int{q.col},
		Do: func(r *steps.RowAt) bool {
			cell := r.Cell(q.col)
			if cell == "" {
				return false
			}
			form := rule.Order(q.dates)
			form.Old = rule.CountFrom == 1904
			after, is := dating.Of(cell, form)
			if is != quantity.Value {
				q.left(r, q.col, cell, why(is))
				return false
			}
			r.Set(q.col, after, catalogue.RuleAmount, catalogue.Ordered, "")
			return after != cell
		}}, fmt.Sprintf("dates of %s written as %s", q.name, rule.Form))
}
