package line

import (
	"cmp"
	"encoding/binary"
	"hash/crc32"
	"math/bits"
	"slices"
	"strconv"
	"strings"
	"sync"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/sheet"
)

// A result is what a worker makes of a part.
type result struct {
	part   sheet.Part
	bytes  [outputs][]byte
	sum    uint64   // of those for the importer, if each row of them has been read back
	lists  [][]byte // by list of the pipeline
	look   []byte
	report Report
	marks  []mark
	asks   []request
	held   []uint32 // the first rows of products that are held, when codes have been given
	kept   []kept
	err    error
	keys   []sortKey // of the products that go out, if they are sorted
	rows   []int32   // the numbers of the rows that go out, if they are not in the order of the source
	long   []byte    // long texts, for the file of these
	memos  []Memo
	cuts   []Cut

	differs catalogue.ColumnSet // in which something has to go out

	branches []branchResult
}

// room returns how many bytes it has room for.
func (r *result) room() int {
	n := cap(r.look) + cap(r.long)
	for _, b := range r.bytes {
		n += cap(b)
	}
	for _, b := range r.lists {
		n += cap(b)
	}
	return n
}

func (r *result) reset() {
	r.keys, r.err, r.kept, r.held = nil, nil, nil, nil
	clear(r.asks) // their texts keep a part in memory
	r.asks = r.asks[:0]
	for i := range r.bytes {
		r.bytes[i] = r.bytes[i][:0]
	}
	for i := range r.lists {
		r.lists[i] = r.lists[i][:0]
	}
	r.look = r.look[:0]
	r.report = Report{}
	r.marks, r.rows, r.long = r.marks[:0], r.rows[:0], r.long[:0]
	clear(r.memos) // their texts keep a part in memory
	r.memos, r.cuts = r.memos[:0], r.cuts[:0]
	r.differs = catalogue.ColumnSet{}
	for i := range r.branches {
		r.branches[i].reset()
	}
}

// A mark is what a suspect row says of itself: its fingerprint, or a value that
// it claims as its own.
type mark struct {
	kind    ClaimKind // or markRow, markLook
	key     [2]uint64
	row     int
	col     int
	product int      // the number of the product's first row
	cells   []uint32 // where one row of several is chosen: a hash of each cell that would go out, 0 if it is empty
}

// What a mark can be besides a claim.
const (
	markRow  = ClaimKind(254 + iota) // the fingerprint of a row
	markLook                         // the look of a product that would go out
)

// A worker repairs parts.
type worker struct {
	run       *Run
	products  *products
	blank     Log // what of the logs is the same for all products
	batch     []Batched
	unstopped []Batched // of the batch
	log       *Log      // of the product at hand
	scratch   []byte
	asideWas  []bool // which rows of the product go aside, before what is done for the branches
	changes   *changeWriter
	sorter    *sorter
	codes     codeCells
	sku       int // the column, -1 if there is none
	tracer    *tracer
	going     []*catalogue.Row // of the product, those that go out
	places    map[int]int      // of the rows of the product, by their numbers, if it has many
	findings  byRow
	changed   byRow
	cells     map[[3]int]bool   // of a product with many changes, those that have been counted
	output    *Output           // that is written
	branched  []codeCells       // by branch
	files     map[string]string // names of files, each once
	proof     *proof            // nil if what is written is read back as a whole
	late      *lookup           // nil while it is judged for the first time
	failed    error             // of reading what the look at the whole sheet says
}

// manyRows is from how many rows on a product is one of many, in which what belongs to a
// row is not looked for in all of it.
const manyRows = 32

func (r *Run) newWorker() *worker {
	products := newProducts(&r.Table.Form, r.Pipeline)
	products.apart = r.begins
	blank := Log{answers: r.Pipeline.Answers, headings: r.Table.Columns.Headings, kinds: r.Pipeline.Allotments, allotted: r.allotted}
	w := &worker{run: r, output: &r.Output, products: products, blank: blank, sku: r.Table.Columns.First(catalogue.SKU), changes: newChangeWriter(&r.Table.Columns),
		sorter: newSorter(r.Output.SortBy), codes: r.Output.codes(&r.Table.Columns), tracer: r.Output.tracer(&r.Table.Columns)}
	if r.proves {
		w.proof = newProof(&r.Output)
	}
	for i := range r.Branches {
		w.branched = append(w.branched, r.Branches[i].Output.codes(&r.Table.Columns))
	}
	return w
}

// fail keeps the first error there was.
func (w *worker) fail(err error) {
	if err != nil && w.failed == nil {
		w.failed = err
	}
}

// judge repairs a part only for what its suspects claim and, if there is to be
// a sample, for how its products look.
func (w *worker) judge(part *sheet.Part, before int, late *settled, out *result) {
	w.blank.judging = true
	if w.late == nil && late != nil {
		w.late = late.lookup()
	}
	var wanted func(*catalogue.Product) bool
	if !w.run.asksAll() {
		wanted = func(p *catalogue.Product) bool {
			return slices.ContainsFunc(p.Rows, func(row *catalogue.Row) bool { return w.run.Survey.suspects.has(row.Number) })
		}
	}
	w.each(part, before, wanted, func(p *catalogue.Product) {
		w.mark(p, out)
		if w.run.Pipeline.Narrow != nil && slices.Contains(w.log.aside, false) && w.count(new(Report)) == 0 {
			out.differs.AddAll(w.log.going)
		}
		out.kept = append(out.kept, w.log.kept...)
		if (w.log.allotted != nil || len(w.log.asks) > 0) && w.count(&out.report) > 0 {
			out.held = append(out.held, uint32(p.Rows[0].Number))
			w.log.asks = w.log.asks[:0]
		}
		for i, ask := range w.log.asks {
			if at := w.log.asking[i]; !w.log.aside[at] || w.log.joined[at] {
				out.asks = append(out.asks, ask)
			}
		}
		if w.run.Sample == 0 || !slices.Contains(w.log.aside, false) || w.count(&out.report) > 0 {
			return
		}
		var look uint64
		look, w.scratch = lookOf(p, w.scratch)
		out.marks = append(out.marks, mark{kind: markLook, key: [2]uint64{look}, row: p.Rows[0].Number})
	})
}

// repair turns a part into output; late is what the look at the whole sheet
// says of its rows.
func (w *worker) repair(part *sheet.Part, before int, late *settled, out *result) {
	if w.late == nil {
		w.late = late.lookup()
	}
	if part.Size > largePart {
		out.bytes[ready] = slices.Grow(out.bytes[ready], part.Size)
		if w.run.Output.Look {
			out.look = slices.Grow(out.look, part.Size)
		}
	}
	w.changes.begin()
	w.each(part, before, nil, func(p *catalogue.Product) {
		w.clash(p)
		w.narrow(p)
		w.log.carryOut()
		w.write(part, p, out)
		w.branches(part, p, out)
	})
	out.bytes[changes], out.long = append(out.bytes[changes], w.changes.out...), append(out.long, w.changes.long...)
	if w.proof != nil {
		out.sum = xxhash.Sum64(out.bytes[ready])
	}
	out.report.Long, out.err = w.changes.texts, cmp.Or(out.err, w.failed)
}

// holdAll holds a product for what is wrong with the whole sheet.
func (w *worker) holdAll(p *catalogue.Product) {
	for _, f := range w.run.Holding {
		if i := slices.Index(w.log.aside, false); i >= 0 {
			w.log.Notice(f.Code, p.Rows[i], f.Col, f.Cell, f.Facts)
		}
	}
}

// write gives each row of a product to the output it belongs to.
func (w *worker) write(part *sheet.Part, p *catalogue.Product, out *result) {
	for _, t := range w.log.touched {
		if t.index < 0 || !w.log.aside[t.index] {
			countUp(&out.report.Touched, t.rule, t.rows)
		}
	}
	holding := w.count(&out.report)
	if holding == 0 && w.log.lacks() {
		w.fail(errNotAllotted)
	}
	if slices.Contains(w.log.aside, false) {
		out.report.Products++
		if holding > 0 {
			out.report.HeldProducts++
		}
	}
	before, rows := len(out.bytes[ready]), 0
	w.going = w.going[:0]
	for i, row := range p.Rows {
		out.report.countRole(p.Role(i), w.log.made[i] || w.log.aside[i] && !w.log.joined[i])
		switch {
		case w.log.made[i]:
			if holding == 0 && !w.log.aside[i] {
				out.report.Added++
				w.going = append(w.going, row)
			}
			continue
		case w.log.aside[i] && !w.log.joined[i]:
			out.report.Aside++
			out.bytes[aside] = w.appendBack(out.bytes[aside], part, row, w.reason(row, catalogue.Note))
		case holding > 0:
			out.report.Held++
			reason := w.reason(row, catalogue.Error)
			if reason == "" {
				reason = "Held with row " + strconv.Itoa(holding) + ", which is the same product."
			}
			out.bytes[held] = w.appendBack(out.bytes[held], part, row, reason)
		case w.log.joined[i]:
			out.report.Ready++
			out.report.Joined++
		default:
			out.report.Ready++
			w.going = append(w.going, row)
		}
		out.report.Rows++
	}
	if holding == 0 && !w.run.Output.Leave.Empty() {
		w.leave()
	}
	for _, row := range w.going {
		out.bytes[ready] = w.run.Output.end(out.bytes[ready], before)
		at := len(out.bytes[ready])
		out.bytes[ready] = w.run.Output.appendReady(out.bytes[ready], part, row)
		if len(out.bytes[ready]) > at {
			rows++
			if w.proof != nil {
				w.fail(w.proof.row(out.bytes[ready], at, part, row))
			}
			if w.run.Output.Look {
				out.look = w.appendLook(out.look, row, p.Rows[0].Number)
			}
			if out.report.Written.Rows++; w.proof == nil {
				out.report.Written.add(&w.codes, func(n int) string { return row.Cell(w.codes.cols[n]) })
			}
			if w.sorter != nil {
				out.rows = append(out.rows, int32(row.Number))
			} else if w.run.Table.Form.Numbered { // brought together, in another order
				w.changes.out = appendPlace(w.changes.out, int32(row.Number))
			}
		}
	}
	w.encode(before, out)
	n := len(out.bytes[ready]) - before
	if w.run.Output.Cuts && w.sorter == nil && n > 0 {
		out.cuts = append(out.cuts, Cut{n, rows, w.into()})
	}
	if w.sorter != nil && n > 0 {
		key := w.sorter.key(p.Rows[slices.Index(w.log.aside, false)], n)
		key.rows, key.into = slices.Clone(out.rows), w.into()
		out.rows = out.rows[:0]
		out.keys = append(out.keys, key)
	}
	w.writeEntries(out)
	if holding > 0 {
		return
	}
	for i := range w.log.memos {
		m := &w.log.memos[i]
		if w.log.aside[m.index] {
			continue
		}
		if m.Complete != nil {
			*m = m.Complete(p.Rows[m.index])
		}
		if m.Key != 0 {
			out.memos = append(out.memos, *m)
		}
	}
	for i := range w.log.Changes {
		c := &w.log.Changes[i]
		if w.isAside(c.Row) {
			continue
		}
		out.report.addChange(c)
		if w.firstOf(i) {
			out.report.Repairs++
		}
		if c.Made == 0 {
			w.changes.write(c, unmoved, 0)
			w.tracer.trace(&out.report, p.Rows[w.index(c.Row)], c.Col)
		}
	}
	w.writeMoved(p)
}

// narrow sets rows aside of which nothing is left to say when only some columns go out.
func (w *worker) narrow(p *catalogue.Product) {
	n := w.run.Pipeline.Narrow
	if n == nil || w.run.Output.Columns == nil {
		return
	}
	shared := n.Stay.Without(n.Tells)
	for i, row := range p.Rows {
		if !w.log.aside[i] && !slices.ContainsFunc(w.run.Output.Columns, func(out OutColumn) bool { return !shared.Has(out.Col) && row.Cell(out.Col) != "" }) {
			w.log.Aside(i, n.Code, n.Facts)
		}
	}
}

// into returns the file into which the product goes, as a text of its own.
func (w *worker) into() string {
	if w.log.into == "" {
		return ""
	}
	name, known := w.files[w.log.into]
	if !known {
		if w.files == nil {
			w.files = make(map[string]string)
		}
		name = strings.Clone(w.log.into)
		w.files[name] = name
	}
	return name
}

// leave takes back what was done to cells that go out as they are.
func (w *worker) leave() {
	kept := w.log.Changes[:0]
	rows := w.log.product.Rows
	for i := len(w.log.Changes) - 1; i >= 0; i-- { // the first change knows how it was
		if c := &w.log.Changes[i]; w.run.Output.Leave.Has(c.Col) {
			if at := w.index(c.Row); at >= 0 && c.Made == 0 {
				rows[at].Cells[c.Col] = c.Before
			}
		}
	}
	for _, c := range w.log.Changes {
		if !w.run.Output.Leave.Has(c.Col) {
			kept = append(kept, c)
		}
	}
	w.log.Changes, w.changed = kept, byRow{}
}

// writeMoved writes the cells of rows that have been put into others, as the source has
// them, and of rows that have been made.
func (w *worker) writeMoved(p *catalogue.Product) {
	nth := 0 // of the rows made of one
	for i, row := range p.Rows {
		if !w.log.made[i] {
			nth = 0
		}
		switch {
		case w.log.made[i] && !w.log.aside[i]:
			nth++
			w.writeMade(row, w.log.by[i], nth)
		case w.log.joined[i] && !w.log.made[i]:
			w.writeJoined(row, w.log.by[i])
		}
	}
}

// writeMade writes how each cell came into a row that has been made.
func (w *worker) writeMade(row *catalogue.Row, by catalogue.Rule, nth int) {
	cells := make([]catalogue.Change, len(row.Cells))
	for col := range cells {
		cells[col] = catalogue.Change{Row: row.Number, Made: row.Made, Col: col, Rule: by, Ground: catalogue.Ordered}
	}
	w.eachChange(row, func(c *catalogue.Change) {
		if c.Col < len(cells) {
			cells[c.Col].Rule, cells[c.Col].Ground, cells[c.Col].Source = c.Rule, c.Ground, c.Source
		}
	})
	for col := range cells {
		if cells[col].After = row.Cells[col]; row.Cells[col] != "" {
			w.changes.write(&cells[col], added, nth)
		}
	}
}

// writeJoined writes what the source had in the cells of a row that has been put into another.
func (w *worker) writeJoined(row *catalogue.Row, by catalogue.Rule) {
	before := slices.Clone(row.Cells[:min(len(row.Cells), w.run.Table.Columns.Own())])
	seen := make([]bool, len(before))
	w.eachChange(row, func(c *catalogue.Change) {
		if c.Col < len(before) && !seen[c.Col] {
			before[c.Col], seen[c.Col] = c.Before, true
		}
	})
	for col, cell := range before {
		if cell != "" {
			w.changes.write(&catalogue.Change{Row: row.Number, Col: col, Before: cell, Rule: by, Ground: catalogue.Ordered}, joined, 0)
		}
	}
}

// encode brings the rows for the importer from there on to the encoding in which they
// go out.
func (w *worker) encode(from int, out *result) {
	encode := w.run.Output.Encode
	if encode == nil || len(out.bytes[ready]) == from {
		return
	}
	w.scratch = append(w.scratch[:0], out.bytes[ready][from:]...)
	encoded, err := encode(out.bytes[ready][:from], w.scratch)
	out.bytes[ready] = encoded
	if err != nil && out.err == nil {
		out.err = err
	}
}

func (w *worker) writeEntries(out *result) {
	form := &w.run.Table.Form
	for i := range w.log.entries {
		e := &w.log.entries[i]
		if w.log.aside[e.index] || w.run.Pipeline.Lists[e.list].Off {
			continue
		}
		for len(out.lists) <= e.list {
			out.lists = append(out.lists, nil)
		}
		if list := &w.run.Pipeline.Lists[e.list]; len(list.Known) > 0 {
			e.cells = append(e.cells, make([]string, max(0, list.At+len(list.Known)-len(e.cells)))...)
			for n, col := range list.Known {
				e.cells[list.At+n] = w.log.product.Rows[e.index].Cell(col)
			}
		}
		out.lists[e.list] = appendLine(out.lists[e.list], form, e.cells...)
		countUp(&out.report.Listed, e.list, 1)
	}
}

// setAside sets rows aside of which the look at the whole sheet says so.
func (w *worker) setAside(p *catalogue.Product) {
	late := w.late
	if late.sampled != nil && !late.sampled[p.Rows[0].Number] {
		for i := range p.Rows {
			w.log.Aside(i, catalogue.RowSample, catalogue.Facts{})
		}
		return
	}
	if !late.duplicates.any() && late.settled.passed.Len() == 0 {
		return
	}
	for i, row := range p.Rows {
		if first, ok := late.duplicates.of(uint32(row.Number)); ok {
			if w.run.Pipeline.Repeats == RepeatsAside {
				w.log.Aside(i, catalogue.RowDuplicate, catalogue.Facts{Row: int(first)})
			}
			if w.run.Pipeline.Repeats != RepeatsKept {
				continue
			}
		}
		by, ok, err := late.passedOver(row.Number)
		w.fail(err)
		if ok {
			code := catalogue.RowPassedOver
			var differ []string
			for _, n := range by.differ {
				differ = append(differ, w.run.Output.Heading(n, &w.run.Table.Columns))
			}
			if differ != nil {
				code = catalogue.RowPassedOverDiffers
			}
			w.log.Aside(i, code, catalogue.Facts{Row: int(by.kept), Other: strings.Join(differ, ", ")})
		}
	}
}

// clash enters what the look at the whole sheet says of rows that go out all the same,
// or are held.
func (w *worker) clash(p *catalogue.Product) {
	late := w.late
	if !late.duplicates.any() && late.settled.clashes.Len() == 0 && w.log.allotted == nil {
		return
	}
	w.deny(p)
	for i, row := range p.Rows {
		if w.log.aside[i] {
			continue
		}
		if first, ok := late.duplicates.of(uint32(row.Number)); ok {
			if w.run.Pipeline.Repeats == RepeatsHeld {
				w.log.Notice(catalogue.RowRepeated, row, -1, "", catalogue.Facts{Row: int(first)})
			}
			continue
		}
		clashes, err := late.clashesOf(row.Number)
		w.fail(err)
		for _, c := range clashes {
			w.log.Notice(w.run.Pipeline.Claims[c.kind].Clash, row, c.col, row.Cell(c.col), catalogue.Facts{Row: c.other})
		}
	}
}

// deny enters why rows are not given what they asked for.
func (w *worker) deny(p *catalogue.Product) {
	going := slices.Index(w.log.aside, false)
	if w.log.allotted == nil || going < 0 {
		return
	}
	for i, row := range p.Rows {
		at := row
		if w.log.aside[i] {
			at = p.Rows[going]
		}
		w.log.allotted.denied(row, func(code catalogue.Code, col int, facts catalogue.Facts) {
			w.log.Notice(code, at, col, "", facts)
		})
	}
}

// count enters the findings in the report and returns the number of the first
// row that is held by one of its own, 0 if none is. Of rows that are set aside
// only the reason for that counts.
func (w *worker) count(report *Report) (holding int) {
	var codes [4]catalogue.Code
	distinct := codes[:0]
	for i := range w.log.Findings {
		f := &w.log.Findings[i]
		if w.isAway(f.Row) {
			if f.Code.SetsAside() {
				report.addFinding(f, f.Severity())
			}
			continue
		}
		holds := w.holds(f)
		severity := f.Severity()
		if severity == catalogue.Error && !holds {
			severity = catalogue.Note
		}
		report.addFinding(f, severity)
		if f.Code.Lacks(severity) {
			if i := w.index(f.Row); w.sku >= 0 && i >= 0 {
				report.Lacks(f.Col, f.Row, w.log.product.Rows[i].Cell(w.sku))
			}
		}
		if !holds {
			continue
		}
		if holding == 0 || f.Row < holding {
			holding = f.Row
		}
		known := false
		for _, c := range distinct {
			known = known || c == f.Code
		}
		if !known {
			distinct = append(distinct, f.Code)
		}
	}
	if holding == 0 {
		return 0
	}
	rows := 0
	for i, a := range w.log.aside {
		if (!a || w.log.joined[i]) && !w.log.made[i] {
			rows++
		}
	}
	if w.heldByCells() {
		report.HeldByCells += rows
	}
	for _, code := range distinct {
		for i := range w.log.Findings {
			if f := &w.log.Findings[i]; f.Code == code && !w.isAway(f.Row) {
				n := report.found(code, f.Col)
				n.Holds += rows
				if len(distinct) == 1 {
					n.Unlocks += rows
				}
				break
			}
		}
	}
	return holding
}

// heldByCells reports whether all that holds a product are cells that need not go out.
func (w *worker) heldByCells() bool {
	fields := w.run.Table.Columns.Fields
	for i := range w.log.Findings {
		f := &w.log.Findings[i]
		if w.holds(f) && !w.isAway(f.Row) && (!f.Code.OfColumn() || f.Col < 0 || f.Col >= len(fields) || fields[f.Col] == catalogue.SKU) {
			return false
		}
	}
	return true
}

// holds reports whether a finding holds its product: one about a cell that goes out, or of
// which something is made that does.
func (w *worker) holds(f *catalogue.Finding) bool {
	return f.Severity() == catalogue.Error && !(f.Col >= 0 && w.output.Away.Has(f.Col) && f.Code.OfColumn())
}

// isAside reports whether a row does not go out, itself.
func (w *worker) isAside(row int) bool {
	i := w.index(row)
	return i >= 0 && w.log.aside[i]
}

// isAway reports whether nothing of a row goes out, not in another one either.
func (w *worker) isAway(row int) bool {
	i := w.index(row)
	return i >= 0 && w.log.aside[i] && !w.log.joined[i]
}

// index returns where in the product a row of the source is, -1 if it is not there.
func (w *worker) index(row int) int {
	rows := w.log.product.Rows
	if len(rows) < manyRows {
		return slices.IndexFunc(rows, func(r *catalogue.Row) bool { return r.Number == row })
	}
	if w.places == nil {
		w.places = make(map[int]int, len(rows))
		for i := len(rows) - 1; i >= 0; i-- {
			w.places[rows[i].Number] = i // of a row and those made of it, its own
		}
	}
	if at, there := w.places[row]; there {
		return at
	}
	return -1
}

// A byRow finds what has been taken down of a row of the product, in the order in which that was done.
type byRow struct{ order []int32 } // by the rows, if there is much

// each calls do for those of n things that are about a row; rowOf says which row each is about.
func (b *byRow) each(n, row int, rowOf func(i int) int, do func(i int)) {
	if n < manyRows {
		for i := range n {
			if rowOf(i) == row {
				do(i)
			}
		}
		return
	}
	if b.order == nil {
		b.order = make([]int32, n)
		for i := range n {
			b.order[i] = int32(i)
		}
		slices.SortStableFunc(b.order, func(x, y int32) int { return rowOf(int(x)) - rowOf(int(y)) })
	}
	at, _ := slices.BinarySearchFunc(b.order, row, func(i int32, row int) int { return rowOf(int(i)) - row })
	for ; at < n && rowOf(int(b.order[at])) == row; at++ {
		do(int(b.order[at]))
	}
}

// eachFinding calls do for the findings about a row.
func (w *worker) eachFinding(row int, do func(*catalogue.Finding)) {
	all := w.log.Findings
	w.findings.each(len(all), row, func(i int) int { return all[i].Row }, func(i int) { do(&all[i]) })
}

// eachChange calls do for the changes of a row, or of one that has been made of it.
func (w *worker) eachChange(row *catalogue.Row, do func(*catalogue.Change)) {
	all := w.log.Changes
	w.changed.each(len(all), row.Number, func(i int) int { return all[i].Row }, func(i int) {
		if all[i].Made == row.Made {
			do(&all[i])
		}
	})
}

// firstOf reports whether no earlier change of the product is to the same cell.
func (w *worker) firstOf(i int) bool {
	all, c := w.log.Changes, &w.log.Changes[i]
	if len(all) < manyRows {
		return !slices.ContainsFunc(all[:i], func(e catalogue.Change) bool { return e.Row == c.Row && e.Made == c.Made && e.Col == c.Col })
	}
	cell := [3]int{c.Row, c.Made, c.Col}
	if w.cells == nil {
		w.cells = make(map[[3]int]bool)
	}
	if w.cells[cell] {
		return false
	}
	w.cells[cell] = true
	return true
}

// reason says in words why a row does not go out: with least [catalogue.Error]
// its errors, each behind the heading of its column, otherwise why it was set
// aside.
func (w *worker) reason(row *catalogue.Row, least catalogue.Severity) string {
	var b strings.Builder
	w.eachFinding(row.Number, func(f *catalogue.Finding) {
		if least == catalogue.Error && !w.holds(f) || least == catalogue.Note && !f.Code.SetsAside() {
			return
		}
		sentence := f.Sentence()
		if f.Col >= 0 && f.Col < len(w.run.Table.Columns.Headings) {
			sentence = w.run.Table.Columns.Headings[f.Col] + ": " + sentence
		}
		if strings.Contains(b.String(), sentence) {
			return // of a row that was made of this one, too
		}
		if b.Len() > 0 {
			b.WriteByte(' ')
		}
		b.WriteString(sentence)
	})
	return strings.ToValidUTF8(b.String(), "\uFFFD") // a sentence may name headings whose encoding nobody knows
}

// mark notes the fingerprint and the claims of suspect rows that may go out.
func (w *worker) mark(p *catalogue.Product, out *result) {
	claims := w.log.claims
	slices.SortStableFunc(claims, func(a, b claim) int { return a.index - b.index })
	for i, row := range p.Rows {
		from := 0
		for from < len(claims) && claims[from].index < i {
			from++
		}
		claims = claims[from:]
		if !w.run.Survey.suspects.has(row.Number) || w.log.aside[i] && !w.stillClaims(row) {
			continue
		}
		product := p.Rows[0].Number
		if w.log.made[i] {
			continue // what it claims the row claims that it comes of
		}
		print := w.fingerprint(row)
		if leans := w.run.Pipeline.Leans; i > 0 && leans != nil && leans(row) {
			of := w.fingerprint(p.Rows[0])
			print = [2]uint64{bits.RotateLeft64(print[0], 1) ^ of[0], print[1] ^ of[1]<<32}
		}
		if !w.log.aside[i] {
			out.marks = append(out.marks, mark{kind: markRow, key: print, row: row.Number, product: product})
		}
		for n := 0; n < len(claims) && claims[n].index == i; n++ {
			c := &claims[n]
			if w.log.aside[i] && w.run.Pipeline.Claims[c.kind].Choose != ChooseNone {
				continue
			}
			m := mark{kind: c.kind, key: [2]uint64{c.key}, row: row.Number, col: c.col, product: product}
			if w.run.Pipeline.Claims[c.kind].Choose != ChooseNone {
				m.cells = w.run.Output.hashes(row)
			}
			out.marks = append(out.marks, m)
		}
	}
}

// stillClaims reports whether a row that is set aside keeps what it claims: the shop has it, or will have it by another file.
func (w *worker) stillClaims(row *catalogue.Row) bool {
	return slices.ContainsFunc(w.log.Findings, func(f catalogue.Finding) bool { return f.Row == row.Number && f.Code.StillClaims() })
}

var castagnoli = sync.OnceValue(func() *crc32.Table { return crc32.MakeTable(crc32.Castagnoli) })

// fingerprint returns two checksums, together 96 bits, that differ for rows
// that differ in any cell: of a million rows, two that are not equal share them
// with a probability of about 10^-17.
func (w *worker) fingerprint(row *catalogue.Row) [2]uint64 {
	b := w.scratch[:0]
	last := len(row.Cells)
	for last > 0 && row.Cells[last-1] == "" {
		last--
	}
	for _, cell := range row.Cells[:last] {
		b = binary.AppendUvarint(b, uint64(len(cell)))
		b = append(b, cell...)
	}
	w.scratch = b
	return [2]uint64{xxhash.Sum64(b), uint64(crc32.Checksum(b, castagnoli()))}
}

// appendBack appends a row as it stands in the source, behind its number and
// the reason.
func (w *worker) appendBack(dst []byte, part *sheet.Part, row *catalogue.Row, reason string) []byte {
	form := &w.run.Table.Form
	dst = strconv.AppendInt(dst, int64(row.Number), 10)
	dst = append(dst, form.Separator)
	dst = form.AppendRow(dst, reason)
	dst = append(dst, form.Separator)
	dst = form.AppendSource(dst, part, row)
	return append(dst, form.LineEnd...)
}
