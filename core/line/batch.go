package line

import (
	"slices"

	"zetanum/core/catalogue"
	"zetanum/core/sheet"
)

// A BatchRepairer repairs several products, each into its own log, as it would one after the other.
type BatchRepairer interface {
	Repairer
	RepairBatch([]Batched)
}

// A Batched product goes through the steps together with others.
type Batched struct {
	Product *catalogue.Product
	Log     *Log
}

// batchRows is from how many rows on products that are together are enough of them.
const batchRows = 64

// each gives the products of a part, repaired, to do; where wanted is not nil, only those of which it says so. Rows that the look at
// the whole sheet sets aside are so from the beginning, because what the others are in their product may depend on them.
//
// Each step sees some products before the next step sees the first of them, which is faster where the steps do much: their code
// and what they know of columns is at hand then.
func (w *worker) each(part *sheet.Part, before int, wanted func(*catalogue.Product) bool, do func(*catalogue.Product)) {
	w.products.open(part, before)
	for first, more := true, true; more; {
		n, rows := 0, 0
		for n < batchRows && rows < batchRows {
			if n == len(w.batch) {
				w.batch = append(w.batch, Batched{new(catalogue.Product), new(w.blank)})
			}
			p := w.batch[n].Product
			if more = w.products.next(p); !more {
				break
			}
			torn := first && part.Continues || w.products.last() && part.Torn
			if first = false; wanted != nil && !wanted(p) {
				w.products.giveBack(len(p.Rows))
				continue
			}
			w.log = w.batch[n].Log
			w.begin(p, torn)
			n, rows = n+1, rows+len(p.Rows)
		}
		w.repairBatch(w.batch[:n])
		for _, b := range w.batch[:n] {
			w.log = b.Log
			w.holdAll(b.Product)
			w.log.carryOut()
			w.log.takeBack()
			w.places, w.findings, w.changed, w.cells = nil, byRow{}, byRow{}, nil
			do(b.Product)
		}
		if n > 1 { // what large products take is kept once
			w.batch = append(w.batch[:1], slices.DeleteFunc(w.batch[1:], func(b Batched) bool { return len(b.Product.Rows) > batchRows })...)
		}
		w.products.giveBack(rows)
	}
}

// repairBatch lets the steps see products, each step all of them before the next one, but for those that a step has stopped.
func (w *worker) repairBatch(batch []Batched) {
	w.unstopped = append(w.unstopped[:0], batch...)
	for _, r := range w.run.repairers {
		if several, ok := r.(BatchRepairer); ok {
			several.RepairBatch(w.unstopped)
		} else {
			for _, b := range w.unstopped {
				r.Repair(b.Product, b.Log)
			}
		}
		stopped := false
		for _, b := range w.unstopped {
			if stopped = stopped || b.Log.stopped; !b.Log.stopped && len(b.Log.inserted)+len(b.Log.pending) > 0 {
				b.Log.insert()
				b.Log.carryOut()
			}
		}
		if stopped {
			w.unstopped = slices.DeleteFunc(w.unstopped, func(b Batched) bool { return b.Log.stopped })
		}
	}
}

// begin begins the log of a product.
func (w *worker) begin(p *catalogue.Product, torn bool) {
	w.log.begin(p)
	if w.log.torn = torn; torn {
		w.log.Notice(catalogue.ProductTooLarge, p.Rows[0], -1, "", catalogue.Facts{Candidates: uint64(w.run.Table.MostRows())})
	}
	if w.late != nil {
		w.setAside(p)
	}
}
