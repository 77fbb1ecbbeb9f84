package sections

import (
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/line"
	"zetanum/core/steps"
)

// A formGroup are columns of the template, by their places, that are filled in a row together, or not at all.
type formGroup []int

// names returns the headings of columns of a group.
func (s *shape) names(g formGroup, which func(*formColumn) bool) string {
	var names []string
	for _, n := range g {
		if which(&s.cols[n]) {
			names = append(names, s.form.Columns[n].Name())
		}
	}
	return strings.Join(names, ", ")
}

// bindGroups finds the columns that belong together. Of a group which no row can fill whole nothing is filled.
func (s *shape) bindGroups() error {
	s.groups = nil
	in := make(map[int]bool)
	for _, names := range s.rules.Together {
		var g formGroup
		for _, name := range names {
			found := s.form.Find(name)
			if found == nil {
				return s.wrong("target", "together", s.noFormColumn(name))
			}
			for _, n := range found {
				switch {
				case s.cols[n].need:
					return s.wrong("target", "together", columns.Refuse("%q must be filled in each row, and cannot be left out with others", s.form.Columns[n].Name()))
				case in[n]:
					return s.wrong("target", "together", columns.Refuse("%q stands there twice", s.form.Columns[n].Name()))
				}
				in[n], s.cols[n].grouped = true, true
				g = append(g, n)
			}
		}
		s.groups = append(s.groups, g)
		open, others := s.names(g, (*formColumn).open), s.names(g, func(c *formColumn) bool { return !c.open() && c.fill.Always == "" })
		if open == "" {
			continue
		}
		for _, n := range g {
			c := &s.cols[n]
			*c = formColumn{n: n, from: -1, col: -1, grouped: true}
		}
		if others != "" {
			s.note("%s: left out, because nothing fills %s, and they belong together", others, open)
		}
	}
	return nil
}

// orderGroups orders that in each row all columns of a group are filled, or none.
func (s *shape) orderGroups() error {
	for _, g := range s.groups {
		var cols []int
		for _, n := range g {
			cols = append(cols, s.cols[n].col)
		}
		one := steps.Order{Key: "together", Phase: steps.PhaseTarget, Reads: cols, Writes: cols, Rules: []catalogue.Rule{catalogue.RuleTemplate}, Rests: true,
			Do: func(r *steps.RowAt) bool { s.leaveHalf(g, r); return false }}
		if err := s.Orders.AddLast(s.n, one); err != nil {
			return err
		}
	}
	return nil
}

// leaveHalf empties the cells of a group of which a row does not fill all. What is the same in every row is no filling by itself.
func (s *shape) leaveHalf(g formGroup, r *steps.RowAt) {
	blank := func(c *formColumn) bool { return strings.TrimSpace(r.Cell(c.col)) == "" }
	filled := func(c *formColumn) bool { return c.fill.Always == "" && !blank(c) }
	has, lacks := slices.ContainsFunc(g, func(n int) bool { return filled(&s.cols[n]) }), slices.ContainsFunc(g, func(n int) bool { return blank(&s.cols[n]) })
	if has && !lacks {
		return
	}
	if has {
		at := slices.IndexFunc(g, func(n int) bool { return filled(&s.cols[n]) })
		col := s.cols[g[at]].col
		r.Find(catalogue.TargetHalf, col, r.Cell(col), catalogue.Facts{Other: "nothing under " + s.names(g, blank)})
	}
	for _, n := range g {
		if c := &s.cols[n]; !blank(c) {
			r.Put(c.col, "", r.Cell(c.col), catalogue.RuleTemplate)
		}
	}
}

// leaveGroups leaves out the columns of groups that no row fills, where the form is nothing but columns with headings.
func (s *shape) leaveGroups(o *line.Output) {
	if !s.form.LeavesOut() {
		return
	}
	filled := func(n int) bool {
		c := &s.cols[n]
		return c.pattern != nil || c.from >= s.Columns.Own() || c.from >= 0 && (s.Filled.Has(c.from) || s.mayFill(c.from))
	}
	gone, places := make(map[int]bool), make(map[int]bool)
	for _, g := range s.groups {
		if slices.ContainsFunc(g, filled) {
			continue
		}
		for _, n := range g {
			gone[s.cols[n].col], places[n] = true, true
		}
		s.note("columns that do not go out, because no row fills them: %s", s.names(g, func(*formColumn) bool { return true }))
	}
	if len(gone) == 0 {
		return
	}
	o.Columns = slices.DeleteFunc(slices.Clone(o.Columns), func(c line.OutColumn) bool { return gone[c.Col] })
	o.Away = s.away(o.Columns)
	o.Form.Head, o.Form.Above, o.Form.Below = s.form.Without(places).Head(o.Style, o.LineEnd)
}
