package steps

import (
	"fmt"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/target"
)

// Target orders that what goes out is fitted to the encoding of the target, when all
// else is done to it. cols are the columns that go out.
func (o *Orders) Target(cols []int) {
	fitter := o.texts.Fitter
	for _, col := range cols {
		kind := o.table.Columns.Kind(col)
		fit := order{key: "target", phase: phaseTarget, number: -1, writes: []int{col}, do: func(r *rowAt) bool {
			if cell := r.Cell(col); !fitter.Has(cell) {
				r.fit(col, cell, kind, fitter)
			}
			return false
		}}
		if fit.looks = kind == catalogue.CodeKind || kind == catalogue.LinkKind; fit.looks {
			fit.writes, fit.reads = nil, []int{col}
		}
		o.list = append(o.list, fit)
	}
}

// fit writes what stands for characters that the encoding does not have. In codes and
// links nothing may.
func (r *rowAt) fit(col int, cell string, kind catalogue.Kind, fitter *target.Fitter) {
	fitted, stood, bad, ok := fitter.Fit(cell, kind == catalogue.HTMLKind)
	if ok && (kind == catalogue.CodeKind || kind == catalogue.LinkKind) {
		ok, bad = false, stood[0].Of
	}
	if !ok {
		r.find(catalogue.TargetLacks, col, cell, catalogue.Facts{Other: fmt.Sprintf("%c (%U)", bad, bad)})
		return
	}
	var said []string
	for _, s := range stood {
		said = append(said, s.String())
	}
	r.find(catalogue.TargetStandIn, col, cell, catalogue.Facts{Other: strings.Join(said, ", ")})
	r.set(col, fitted, catalogue.RuleStandIn, catalogue.Ordered, "")
}
