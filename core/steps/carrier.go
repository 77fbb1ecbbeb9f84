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
	free    sync.Pool // of *rowsAt
	closing [][]chain // by order: the columns to which all is done when it is
}

// rowsAt are rows of several products, one of each.
type rowsAt struct {
	all []RowAt  // by product
	now []*RowAt // those of which there is a row to be repaired
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
	c.RepairBatch([]line.Batched{{Product: p, Log: log}})
}

// RepairBatch carries out one order after the other, each on a row of every product: what it needs is at hand then. Of one
// product a row is done with before the next.
func (c *carrier) RepairBatch(batch []line.Batched) {
	b, _ := c.free.Get().(*rowsAt)
	if b == nil {
		b = new(rowsAt)
	}
	defer c.free.Put(b)
	if missing := len(batch) - len(b.all); missing > 0 {
		b.all = append(b.all, make([]RowAt, missing)...)
	}
	rows := 0
	for k := range batch {
		at := &b.all[k]
		at.Log, at.Product, at.sheet, at.Lead = batch[k].Log, batch[k].Product, c.sheet, nil
		clear(at.notes)
		rows = max(rows, len(at.Product.Rows))
	}
	for i := range rows {
		b.now = b.now[:0]
		for k := range batch {
			if at := &b.all[k]; i < len(at.Product.Rows) && !at.Log.IsAside(i) {
				at.begin(i)
				b.now = append(b.now, at)
			}
		}
		for n := range c.list {
			o := &c.list[n]
			for _, at := range b.now {
				if at.carryOut(o) {
					at.Touch(o.number, -1)
				}
			}
			for k := range c.closing[n] {
				for _, at := range b.now {
					c.settle(at, &c.closing[n][k])
				}
			}
		}
		for _, at := range b.now {
			at.end()
		}
	}
	for k := range batch {
		b.all[k].Log, b.all[k].Product = nil, nil // a large one is not to be kept
	}
}

// settle tries whether a second run would change a cell again when all is done to
// it. If so, it is left as it was, and named.
func (c *carrier) settle(at *RowAt, ch *chain) {
	changes := at.Log.Changes[at.before:]
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
	at.Log.Changes = at.Log.Changes[:at.before+len(slices.DeleteFunc(changes,
		func(k catalogue.Change) bool { return k.Row == at.Number && k.Col == ch.col }))]
	at.touched = slices.DeleteFunc(at.touched, func(t touched) bool { return t.col == ch.col })
	at.Log.Notice(catalogue.ReplaceUnsettled, at.Row, ch.col, was, catalogue.Facts{Other: again})
}
