package steps

import (
	"slices"
	"sync"

	"zetanum/core/catalogue"
	"zetanum/core/line"
)

// A carrier carries orders out.
type carrier struct {
	sheet   *Sheet
	list    []Order
	free    sync.Pool // of *RowAt
	closing [][]chain // by order: the columns to which all is done when it is
}

// A chain is what is done to one column, if some of it changes what stands there.
type chain struct {
	col    int
	orders []int
}

func newCarrier(list []Order, o *Orders) *carrier {
	c := &carrier{sheet: o.Sheet, list: list, closing: make([][]chain, len(list))}
	chains := make(map[int]*chain)
	changes := make(map[int]bool)
	var cols []int
	for i := range list {
		for _, col := range list[i].Writes {
			if chains[col] == nil {
				chains[col] = &chain{col: col}
				cols = append(cols, col)
			}
			chains[col].orders = append(chains[col].orders, i)
			changes[col] = changes[col] || list[i].Phase >= PhaseExpand && !list[i].Looks
		}
	}
	for _, col := range cols {
		alone := len(chains[col].orders) == 1 && list[chains[col].orders[0]].Rests
		if last := chains[col].orders[len(chains[col].orders)-1]; changes[col] && !alone {
			c.closing[last] = append(c.closing[last], *chains[col])
		}
	}
	return c
}

func (c *carrier) Repair(p *catalogue.Product, log *line.Log) {
	at, _ := c.free.Get().(*RowAt)
	if at == nil {
		at = new(RowAt)
	}
	defer c.free.Put(at)
	at.Log, at.Product, at.sheet, at.Lead = log, p, c.sheet, nil
	clear(at.notes)
	for i, row := range p.Rows {
		if log.IsAside(i) {
			continue
		}
		if c.sheet.Columns.Added > 0 && !row.Wide {
			row.Extend(c.sheet.Columns.Own(), c.sheet.Columns.Added)
		}
		if at.Lead == nil {
			at.Lead = row
		}
		at.Row, at.Index, at.touched = row, i, at.touched[:0]
		before := len(log.Changes)
		for n := range c.list {
			o := &c.list[n]
			if at.carryOut(o) {
				at.Touch(o.number, -1)
			}
			for k := range c.closing[n] {
				c.settle(at, &c.closing[n][k], before)
			}
		}
		log.Net(before)
		for n, t := range at.touched {
			if !slices.ContainsFunc(at.touched[:n], func(u touched) bool { return u.number == t.number }) {
				log.Touch(t.number, i)
			}
		}
	}
}

// settle tries whether a second run would change a cell again when all is done to
// it. If so, it is left as it was, and named.
func (c *carrier) settle(at *RowAt, ch *chain, before int) {
	changes := at.Log.Changes[before:]
	first := slices.IndexFunc(changes, func(k catalogue.Change) bool { return k.Row == at.Number && k.Col == ch.col })
	if first < 0 {
		return
	}
	after := at.Cell(ch.col)
	at.Dry, at.undo = true, at.undo[:0]
	for _, n := range ch.orders {
		at.carryOut(&c.list[n])
	}
	again := at.Cell(ch.col)
	for i := len(at.undo) - 1; i >= 0; i-- {
		at.Cells[at.undo[i].col] = at.undo[i].cell
	}
	at.Dry = false
	if again == after {
		return
	}
	was := changes[first].Before
	at.Cells[ch.col] = was
	at.Log.Changes = at.Log.Changes[:before+len(slices.DeleteFunc(changes,
		func(k catalogue.Change) bool { return k.Row == at.Number && k.Col == ch.col }))]
	at.touched = slices.DeleteFunc(at.touched, func(t touched) bool { return t.col == ch.col })
	at.Log.Notice(catalogue.ReplaceUnsettled, at.Row, ch.col, was, catalogue.Facts{Other: again})
}
