package line

import (
	"bytes"
	"fmt"
	"maps"
	"slices"

	"zetanum/core/catalogue"
)

// Hold holds the steps of a pipeline to what they declare: each does its work twice, once as
// it is and once with something else in all cells of which it does not say that it looks at
// them, and fail is told where it does, notices or learns another thing then, where it
// writes a cell that it does not declare, or applies a rule. width is how many columns there
// are. It is for tests; a pipeline that is held is slow.
func (c *Pipeline) Hold(width int, fail func(step, what string)) {
	whole := c.Whole
	if whole == nil {
		whole = func(*catalogue.Row) bool { return false }
	}
	for i := range c.Steps {
		c.Steps[i] = c.Steps[i].held(width, whole, func(what string) { fail(c.Steps[i].Name, what) })
	}
}

func (s Step) held(width int, whole func(*catalogue.Row) bool, fail func(string)) Step {
	declared := s
	var looks catalogue.ColumnSet
	for _, set := range []catalogue.ColumnSet{s.Reads, s.Writes, s.Glances} {
		looks.AddAll(set)
	}
	if s.Learn != nil {
		s.Learn = func() Aggregate {
			return &heldAggregate{Aggregate: declared.Learn(), other: declared.Learn(), step: &declared, width: width, whole: whole}
		}
	}
	s.New = func(learned Aggregate) (Repairer, error) {
		if held, ok := learned.(*heldAggregate); ok {
			learned = held.Aggregate
			if err := held.same(); err != nil {
				fail(err.Error())
			}
		}
		r, err := declared.New(learned)
		if r == nil || err != nil {
			return nil, err
		}
		return &heldRepairer{r, &declared, width, looks, fail}, nil
	}
	if s.Keys != nil {
		s.Keys = func(p *catalogue.Product, add func(int, uint64)) {
			var keys, other []rowKey
			declared.Keys(p, func(i int, key uint64) { keys = append(keys, rowKey{key, uint32(i)}); add(i, key) })
			declared.Keys(poisoned(p, width, declared.Learns, whole, 1),
				func(i int, key uint64) { other = append(other, rowKey{key, uint32(i)}) })
			if !slices.Equal(keys, other) {
				fail(fmt.Sprintf("its keys of row %d depend on columns that it does not learn from", p.Rows[0].Number))
			}
		}
	}
	return s
}

// poisoned returns a product like another, with something else in all cells but those of
// some columns, and of rows that are needed as a whole.
func poisoned(p *catalogue.Product, width int, spare catalogue.ColumnSet, whole func(*catalogue.Row) bool, variant int) *catalogue.Product {
	q := &catalogue.Product{Roles: slices.Clone(p.Roles)}
	for _, row := range p.Rows {
		other := row.With(slices.Clone(row.Cells))
		other.Marks, other.Spans = slices.Clone(row.Marks), slices.Clone(row.Spans)
		for col := range min(width, len(other.Cells)) {
			if spare.Has(col) || whole(row) {
				continue
			}
			if other.Marks[col] = 0; variant == 0 || other.Cells[col] == "" && variant == 1 {
				other.Cells[col] = fmt.Sprintf("another %d of %d", col, row.Number)
			} else {
				other.Cells[col] = ""
			}
		}
		q.Rows = append(q.Rows, &other)
	}
	return q
}

type heldAggregate struct {
	Aggregate
	other Aggregate // learned from other cells in the columns that do not count
	step  *Step
	width int
	whole func(*catalogue.Row) bool
}

func (l *heldAggregate) Learn(p *catalogue.Product) {
	l.Aggregate.Learn(p)
	l.other.Learn(poisoned(p, l.width, l.step.Learns, l.whole, 1))
}

func (l *heldAggregate) Merge(next Aggregate) {
	l.Aggregate.Merge(next.(*heldAggregate).Aggregate)
	l.other.Merge(next.(*heldAggregate).other)
}

func (l *heldAggregate) Place(above int) {
	for _, aggregate := range []Aggregate{l.Aggregate, l.other} {
		if p, ok := aggregate.(Placer); ok {
			p.Place(above)
		}
	}
}

func (l *heldAggregate) same() error {
	a, err := l.Aggregate.AppendBinary(nil)
	if err != nil {
		return err
	}
	b, err := l.other.AppendBinary(nil)
	if err == nil && !bytes.Equal(a, b) {
		err = fmt.Errorf("what it learns depends on columns that it does not learn from")
	}
	return err
}

type heldRepairer struct {
	Repairer
	step  *Step
	width int
	looks catalogue.ColumnSet
	fail  func(string)
}

func (h *heldRepairer) Repair(p *catalogue.Product, log *Log) {
	none := func(*catalogue.Row) bool { return false }
	before := poisoned(p, h.width, h.looks, func(*catalogue.Row) bool { return true }, 0) // as it is
	var logs [2]*Log
	var products [2]*catalogue.Product
	for variant := range logs {
		products[variant] = poisoned(p, h.width, h.looks, none, variant)
		logs[variant] = log.copied(products[variant])
	}
	changes := len(log.Changes)
	h.Repairer.Repair(p, log)
	h.declared(before, p, log.Changes[min(changes, len(log.Changes)):])
	for variant := range logs {
		h.Repairer.Repair(products[variant], logs[variant])
		if what := log.differs(logs[variant]); what != "" {
			h.fail(fmt.Sprintf("row %d: its %s depend on columns that it does not read", p.Rows[0].Number, what))
		} else if !slices.Equal(p.Roles, products[variant].Roles) {
			h.fail(fmt.Sprintf("row %d: the roles that it finds depend on columns that it does not read", p.Rows[0].Number))
		}
	}
}

// declared looks whether the step has written only what it declares.
func (h *heldRepairer) declared(before, after *catalogue.Product, changes []catalogue.Change) {
	for i, row := range after.Rows {
		for col, cell := range row.Cells {
			if cell != before.Rows[i].Cell(col) && !h.step.Writes.Has(col) {
				h.fail(fmt.Sprintf("row %d: it writes column %d", row.Number, col+1))
			}
		}
	}
	for _, c := range changes {
		if !h.step.Writes.Has(c.Col) {
			h.fail(fmt.Sprintf("row %d: it writes column %d", c.Row, c.Col+1))
		}
		if !slices.Contains(h.step.Rules, c.Rule) {
			h.fail(fmt.Sprintf("row %d: it applies the rule %s", c.Row, c.Rule))
		}
	}
}

// copied returns a log with the same in it, for another product.
func (l *Log) copied(p *catalogue.Product) *Log {
	c := *l
	c.product = p
	c.Changes, c.Findings, c.claims, c.entries = slices.Clone(l.Changes), slices.Clone(l.Findings), slices.Clone(l.claims),
		slices.Clone(l.entries)
	c.aside, c.touched, c.made, c.joined = slices.Clone(l.aside), slices.Clone(l.touched), slices.Clone(l.made), slices.Clone(l.joined)
	c.pending, c.asks, c.asking = slices.Clone(l.pending), slices.Clone(l.asks), slices.Clone(l.asking)
	c.kept, c.provided = slices.Clone(l.kept), nil
	for _, of := range l.provided {
		if i := slices.Index(l.product.Rows, of.row); i >= 0 {
			c.provided = append(c.provided, provided{p.Rows[i], of.col, of.was})
		}
	}
	c.inserted, c.by, c.of = slices.Clone(l.inserted), slices.Clone(l.by), maps.Clone(l.of)
	return &c
}

// differs names something that is different in two logs, "" if nothing is.
func (l *Log) differs(o *Log) string {
	switch {
	case !slices.Equal(l.Changes, o.Changes):
		return "changes"
	case !slices.Equal(l.Findings, o.Findings):
		return "findings"
	case !slices.Equal(l.aside, o.aside):
		return "rows that are set aside"
	case !slices.Equal(l.joined, o.joined):
		return "rows that are joined"
	case !slices.Equal(l.claims, o.claims):
		return "claims"
	case !slices.Equal(l.asks, o.asks), !slices.Equal(l.kept, o.kept):
		return "asks"
	case !slices.Equal(l.touched, o.touched):
		return "counts"
	case !slices.EqualFunc(l.entries, o.entries, func(a, b entry) bool {
		return a.list == b.list && a.index == b.index &&
			slices.Equal(a.cells, b.cells)
	}):
		return "lists"
	case !slices.EqualFunc(l.inserted, o.inserted, func(a, b insertion) bool {
		return a.index == b.index && a.role == b.role && slices.Equal(a.row.Cells, b.row.Cells)
	}):
		return "rows that are added"
	}
	return ""
}
