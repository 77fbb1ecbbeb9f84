package line

import (
	"cmp"
	"slices"
	"strings"

	"zetanum/core/catalogue"
)

// A Report counts what became of the rows of a stretch of a sheet. Reports are
// merged like aggregates: in any way, with the same result.
type Report struct {
	Rows, Ready, Held, Aside int
	Products, HeldProducts   int
	Variants, ImageRows      int
	HeldByCells              int            // rows that are held for cells alone, and not for those of the SKU
	Repaired                 []RepairCount  // sorted
	Repairs                  int            // cells that a rule changed, or several
	Found                    []FindingCount // sorted
	Lacking                  []Lack         // columns in which something is open or missing that another sheet may have; sorted
	Listed                   []int          // lines of each list of the pipeline
	Touched                  []int          // rows that each rule about rows has kept, or set aside
	Added, Joined            int            // rows for the importer that were made, or put into others
	Written                  Written        // for the importer
	last                     int            // of what is repaired, that which was counted last
	Long                     int            // long texts in the file of these
	Traces                   []Trace        // by which what goes out is known again

	examples int // how many are kept of each count; 0: examplesKept
}

// countUp adds to one of a list of counters.
func countUp(counters *[]int, i, n int) {
	for len(*counters) <= i {
		*counters = append(*counters, 0)
	}
	(*counters)[i] += n
}

// A RepairCount says how often a rule changed cells of a column that went out,
// on which ground.
type RepairCount struct {
	Rule     catalogue.Rule
	Ground   catalogue.Ground
	Col      int
	Cells    int
	Examples []Example
}

// A FindingCount says how often something was noticed in a column.
type FindingCount struct {
	Code     catalogue.Code
	Col      int                // -1 for whole rows
	Severity catalogue.Severity // the greatest of them
	Cells    int
	Kept     int // cells and rows of these that go out as they are, because it was answered so
	Blanked  int // cells of these that go out empty
	Holds    int // rows held by it and perhaps by others
	Unlocks  int // rows held by this kind of finding alone
	Proposed int // cells for which one value is likely
	Examples []Example
}

// An Example is one case of many.
type Example struct {
	Row   int
	Cell  string
	After string // of a change; of a finding, what is likely
	Text  string // the finding in words, or the source of a change
}

// examplesKept is the number of examples of each count. They are those whose
// rows come first when a hash of them is ordered: a fair choice that does not
// depend on how the sheet was cut.
const examplesKept = 3

// kept returns how many examples are kept of each count.
func (r *Report) kept() int { return cmp.Or(r.examples, examplesKept) }

func exampleOrder(a, b Example) int {
	return cmp.Or(cmp.Compare(scatter(a.Row), scatter(b.Row)), strings.Compare(a.Cell, b.Cell), strings.Compare(a.Text, b.Text))
}

func scatter(row int) uint64 { return uint64(row) * 0x9e3779b97f4a7c15 }

func (r *Report) addExample(list []Example, e func() Example, row int) []Example {
	if most := r.kept(); len(list) == most && scatter(list[most-1].Row) <= scatter(row) {
		return list
	}
	return r.mergeExamples(list, []Example{e()})
}

func (r *Report) mergeExamples(a, b []Example) []Example {
	a = append(a, b...)
	slices.SortFunc(a, exampleOrder)
	return a[:min(len(a), r.kept())]
}

func (r *RepairCount) order(o *RepairCount) int {
	return cmp.Or(cmp.Compare(r.Col, o.Col), cmp.Compare(r.Rule, o.Rule), cmp.Compare(r.Ground, o.Ground))
}

func (f *FindingCount) order(o *FindingCount) int {
	return cmp.Or(cmp.Compare(f.Code, o.Code), cmp.Compare(f.Col, o.Col))
}

// nearby is how many counts are looked through before one is searched for.
const nearby = 24

// repair returns the count for a change, which it makes if there is none.
func (r *Report) repair(c *catalogue.Change) *RepairCount {
	for range min(len(r.Repaired), nearby) { // mostly behind the last: rows are changed alike
		if r.last++; r.last >= len(r.Repaired) {
			r.last = 0
		}
		if n := &r.Repaired[r.last]; n.Col == c.Col && n.Rule == c.Rule && n.Ground == c.Ground {
			return n
		}
	}
	want := RepairCount{Rule: c.Rule, Ground: c.Ground, Col: c.Col}
	i, found := slices.BinarySearchFunc(r.Repaired, want, func(a, b RepairCount) int { return a.order(&b) })
	if !found {
		r.Repaired = slices.Insert(r.Repaired, i, want)
	}
	r.last = i
	return &r.Repaired[i]
}

// found returns the count for a finding, which it makes if there is none.
func (r *Report) found(code catalogue.Code, col int) *FindingCount {
	want := FindingCount{Code: code, Col: col}
	i, found := slices.BinarySearchFunc(r.Found, want, func(a, b FindingCount) int { return a.order(&b) })
	if !found {
		r.Found = slices.Insert(r.Found, i, want)
	}
	return &r.Found[i]
}

func (r *Report) addChange(c *catalogue.Change) {
	n := r.repair(c)
	n.Cells++
	n.Examples = r.addExample(n.Examples, func() Example {
		return Example{Row: c.Row, Cell: strings.Clone(catalogue.Shorten(c.Before, 200)),
			After: strings.Clone(catalogue.Shorten(c.After, 200)), Text: strings.Clone(c.Source)}
	}, c.Row)
}

// A Lack says of which products a column lacks what another sheet may have.
type Lack struct {
	Col  int
	Rows int      // in which it does
	Keys []LackOf // a fair sample of their SKUs, in the order of a hash of the rows
}

// A LackOf is a row with its SKU.
type LackOf struct {
	Row int
	SKU string
}

// mostLacking is how many SKUs are kept of a column.
const mostLacking = 500

// Lacks notes that a cell of a product lacks something.
func (r *Report) Lacks(col, row int, sku string) {
	i, found := slices.BinarySearchFunc(r.Lacking, col, func(l Lack, col int) int { return l.Col - col })
	if !found {
		r.Lacking = slices.Insert(r.Lacking, i, Lack{Col: col})
	}
	l := &r.Lacking[i]
	l.Rows++
	if n := len(l.Keys); n < mostLacking || scatter(row) < scatter(l.Keys[n-1].Row) {
		key := LackOf{row, strings.Clone(sku)}
		at, _ := slices.BinarySearchFunc(l.Keys, key, lackOrder)
		l.Keys = slices.Insert(l.Keys, at, key)
		l.Keys = l.Keys[:min(len(l.Keys), mostLacking)]
	}
}

func lackOrder(a, b LackOf) int {
	return cmp.Or(cmp.Compare(scatter(a.Row), scatter(b.Row)), cmp.Compare(a.SKU, b.SKU))
}

func mergeLacks(a, b []LackOf) []LackOf {
	a = append(a, b...)
	slices.SortFunc(a, lackOrder)
	return a[:min(len(a), mostLacking)]
}

// addFinding counts a finding by what it means for its row.
func (r *Report) addFinding(f *catalogue.Finding, severity catalogue.Severity) {
	n := r.found(f.Code, f.Col)
	n.Severity = max(n.Severity, severity)
	n.Cells++
	switch f.Answer {
	case catalogue.Keep:
		n.Kept++
	case catalogue.Blank:
		n.Blanked++
	}
	if f.Facts.Proposed != "" {
		n.Proposed++
	}
	n.Examples = r.addExample(n.Examples, func() Example {
		return Example{Row: f.Row, Cell: strings.Clone(catalogue.Shorten(f.Cell, 200)), After: strings.Clone(f.Facts.Proposed), Text: f.Sentence()}
	}, f.Row)
}

// Open returns how many of the cells are not settled, nor answered.
func (f *FindingCount) Open() int { return f.Cells - f.Kept - f.Blanked }

// Merge adds the report of another stretch.
func (r *Report) Merge(o *Report) {
	r.Rows += o.Rows
	r.Ready += o.Ready
	r.Held += o.Held
	r.Aside += o.Aside
	r.Products += o.Products
	r.HeldProducts += o.HeldProducts
	r.Variants += o.Variants
	r.ImageRows += o.ImageRows
	r.HeldByCells += o.HeldByCells
	r.Added += o.Added
	r.Long += o.Long
	if len(o.Traces) > 0 {
		for _, t := range o.Traces {
			r.addTrace(t)
		}
	}
	r.Joined += o.Joined
	r.Repairs += o.Repairs
	for i := range o.Lacking {
		from := &o.Lacking[i]
		at, found := slices.BinarySearchFunc(r.Lacking, from.Col, func(l Lack, col int) int { return l.Col - col })
		if !found {
			r.Lacking = slices.Insert(r.Lacking, at, Lack{Col: from.Col})
		}
		r.Lacking[at].Rows += from.Rows
		r.Lacking[at].Keys = mergeLacks(r.Lacking[at].Keys, from.Keys)
	}
	r.Written.merge(o.Written)
	for list, n := range o.Listed {
		countUp(&r.Listed, list, n)
	}
	for rule, n := range o.Touched {
		countUp(&r.Touched, rule, n)
	}
	for i := range o.Repaired {
		from := &o.Repaired[i]
		n := r.repair(&catalogue.Change{Rule: from.Rule, Ground: from.Ground, Col: from.Col})
		n.Cells += from.Cells
		n.Examples = r.mergeExamples(n.Examples, from.Examples)
	}
	for i := range o.Found {
		from := &o.Found[i]
		n := r.found(from.Code, from.Col)
		n.Severity = max(n.Severity, from.Severity)
		n.Cells += from.Cells
		n.Kept += from.Kept
		n.Blanked += from.Blanked
		n.Holds += from.Holds
		n.Unlocks += from.Unlocks
		n.Proposed += from.Proposed
		n.Examples = r.mergeExamples(n.Examples, from.Examples)
	}
}

// Add enters a finding about a whole column, of which so many cells are meant.
func (r *Report) Add(f *catalogue.Finding, cells int) {
	r.addFinding(f, f.Severity())
	r.found(f.Code, f.Col).Cells += cells - 1
}

// countRole counts a row by its role, unless it is none of the source's.
func (r *Report) countRole(role catalogue.Role, none bool) {
	if none {
		return
	}
	if role&catalogue.Variant != 0 {
		r.Variants++
	}
	if role&catalogue.ImageRow != 0 {
		r.ImageRows++
	}
}
