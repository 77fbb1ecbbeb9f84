package line

import (
	"cmp"
	"math"
	"slices"
	"strings"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
)

// A Trace is a cell that a repair has changed in what goes out, by which that is known again
// when it has been saved by another program since: words, which no program makes anything
// else of, of a product that has an SKU.
type Trace struct {
	Key  uint64 // see [TraceKey]
	Cell uint64 // see [TraceCell]

	at uint64 // by which they are chosen
}

// TraceKey returns what stands for the SKU of a product.
func TraceKey(sku string) uint64 { return xxhash.Sum64String(strings.TrimSpace(sku)) }

// TraceCell returns what stands for a cell of a product, in the column of a heading.
func TraceCell(key uint64, heading, cell string) uint64 {
	return (key*31+xxhash.Sum64String(strings.TrimSpace(heading)))*31 + xxhash.Sum64String(strings.TrimSpace(cell))
}

// mostTraces is how many traces are kept. They are those that come first when a hash of
// their places is ordered: a fair choice that does not depend on how the sheet was cut.
const mostTraces = 128

// addTrace puts a trace among those of a report.
func (r *Report) addTrace(t Trace) {
	i, there := slices.BinarySearchFunc(r.Traces, t.at, func(o Trace, at uint64) int { return cmp.Compare(o.at, at) })
	if there || i == mostTraces {
		return
	}
	if len(r.Traces) == mostTraces {
		r.Traces = r.Traces[:mostTraces-1]
	}
	r.Traces = slices.Insert(r.Traces, i, t)
}

// tracer takes down traces, for one worker.
type tracer struct {
	sku      int
	headings []string // by column: the heading under which it goes out, if it has words
	sums     []uint64 // hashes of these
	goesOut  []bool
	limit    uint64 // as many as are kept come before it, of other parts
}

func (o *Output) tracer(columns *catalogue.Columns) *tracer {
	t := &tracer{sku: columns.First(catalogue.SKU), headings: make([]string, len(columns.Headings)), sums: make([]uint64, len(columns.Headings)),
		limit: math.MaxUint64, goesOut: make([]bool, len(columns.Headings))}
	add := func(col int, heading string) {
		switch columns.Kind(col) {
		case catalogue.LineKind, catalogue.ListKind, catalogue.HTMLKind:
			t.headings[col], t.sums[col], t.goesOut[col] = heading, xxhash.Sum64String(heading), true
		}
	}
	for n := range o.Count() {
		if o.Columns != nil {
			add(o.Columns[n].Col, o.Columns[n].Heading)
		} else {
			add(n, columns.Headings[n])
		}
	}
	return t
}

// trace takes a change of a row down that goes out.
func (t *tracer) trace(report *Report, row *catalogue.Row, col int) {
	if t.sku < 0 || !t.goesOut[col] || row.Cell(t.sku) == "" || row.Cell(col) == "" {
		return
	}
	key := TraceKey(row.Cell(t.sku))
	at := scatter(int(key>>1)) ^ t.sums[col]
	if n := len(report.Traces); n == mostTraces {
		t.limit = min(t.limit, report.Traces[n-1].at)
	}
	if at > t.limit {
		return
	}
	report.addTrace(Trace{key, TraceCell(key, t.headings[col], row.Cell(col)), at})
}
