package steps

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"sync"

	"zetanum/core/barcode"
	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/condition"
	"zetanum/core/line"
	"zetanum/core/products"
)

// A Tally numbers the rules that tell how many rows they have touched.
type Tally struct{ Rules []Counted }

// Counted is a rule that tells how many rows it has touched.
type Counted struct {
	Words, Did string
	Quiet      bool // it is no rule, but something else that is counted
	Count      int  // the number that the rulebook expects, 0 for any
	Filled     int  // of another rule, from 1: this counts the cells that an earlier one had filled; 0 if it counts something else
}

// Add returns the number of a rule for [line.Log.Touch].
func (t *Tally) Add(words, did string, count int) int {
	t.Rules = append(t.Rules, Counted{Words: words, Did: did, Count: count})
	return len(t.Rules) - 1
}

// AddFilled counts the cells that an earlier rule had filled, for the rule of a number.
func (t *Tally) AddFilled(number int) int {
	t.Rules = append(t.Rules, Counted{Words: t.Rules[number].Words, Quiet: true, Filled: number + 1})
	return len(t.Rules) - 1
}

// Changed is what rules about cells have done to the rows they count.
const Changed = "changed"

// Orders gathers what a rulebook orders for cells, and puts it in an order in
// which every cell is read only when all has been done to it. So doing it twice
// is doing it once.
type Orders struct {
	*Sheet
	list []Order

	// Failed is what went wrong with an order while it was carried out.
	Failed error

	failed sync.Once
	// Minted are the rules by which codes are made.
	Minted []*Minting

	unknown  int // the list that takes what lists do not have
	soon     []Order
	last     map[int][]Order // by target
	soonKeys []func(row *catalogue.Row, add func(uint64))
	lateKeys []func(row *catalogue.Row, add func(uint64))
	learns   [2]catalogue.ColumnSet // of those keys
	learners []Learner
}

// NewOrders begins with no order. unknown is the list that takes what lists do not have.
func NewOrders(s *Sheet, unknown int) *Orders {
	return &Orders{Sheet: s, unknown: unknown}
}

// A Phase is when the cells of one column are written, among the orders that write it.
type Phase uint8

// The phases.
const (
	PhaseBorrow Phase = iota
	PhaseFill
	PhaseBuild
	PhaseMint
	PhaseDerive
	PhaseExpand
	PhaseWords
	PhaseTitles
	PhaseValues
	PhaseTarget
	PhaseLook // nothing is written
)

// An Order is something that is done to the cells of a row.
type Order struct {
	Key    string // of the rulebook: "[[build]]"
	Phase  Phase
	Reads  []int // columns of which it makes something; those of its condition are added
	Asks   []int // columns of conditions of its own
	Writes []int
	Rules  []catalogue.Rule  // that it may apply
	Do     func(*RowAt) bool // reports whether the row counts as touched
	Looks  bool              // it writes nothing, but it has to come in its turn
	Idle   func() bool       // reports, after the survey, whether there is nothing to do; may be nil
	Tells  bool              // what it writes tells what the rows of a product are
	Rests  bool              // doing it twice is doing it once for sure, which need not be tried if nothing else is done to its column

	from   []int                // of Reads, those of which something is made
	where  *condition.Condition // nil: for every row
	rows   catalogue.Rows       // the rows of a product that are meant; 0: those to which what is written belongs
	number int                  // in the tally, -1 for none
}

// A RowAt is a row that orders are carried out on.
type RowAt struct {
	*catalogue.Row
	Index   int // in the product
	Product *catalogue.Product
	Log     *line.Log
	Lead    *catalogue.Row // the first row of the product that is not aside
	Dry     bool           // it is only tried what the orders would do

	sheet   *Sheet
	before  int // how many changes the product had when the row's turn came
	touched []touched
	undo    []undo
	named   bool          // the rule that is carried out says which rows are meant
	whole   catalogue.Row // see View
	notes   map[any]any   // what orders keep of the product
}

// Note returns what an order keeps of the product while its rows are gone through, which
// it makes of the first.
func (r *RowAt) Note(order any, make func() any) any {
	if note, there := r.notes[order]; there {
		return note
	}
	if r.notes == nil {
		r.notes = map[any]any{}
	}
	note := make()
	r.notes[order] = note
	return note
}

// Belongs reports whether an empty cell of a column may be filled in this row.
func (r *RowAt) Belongs(col int) bool {
	return r.named || r.sheet.Products == nil || r.sheet.Products.Belongs(col, r.Row, r.Product.Role(r.Index))
}

// View returns the row as somebody reads it: what belongs to the whole product stands in
// the lead row, and is true of the others.
func (r *RowAt) View() *catalogue.Row {
	if r.sheet.Products == nil || r.Lead == nil || r.Lead == r.Row {
		return r.Row
	}
	r.whole = r.Row.With(append(r.whole.Cells[:0], r.Row.Cells...))
	for _, col := range r.sheet.Products.Columns(products.OfProduct) {
		if col < len(r.whole.Cells) && r.whole.Cells[col] == "" {
			r.whole.Cells[col] = r.Lead.Cell(col)
		}
	}
	return &r.whole
}

// Holds reports whether a condition is true of the row.
func (r *RowAt) Holds(c *condition.Condition) bool { return c == nil || c.Holds(r.View()) }

// Means reports whether a rule means the row.
func (r *RowAt) Means(rows catalogue.Rows) bool {
	return rows == 0 || rows == catalogue.AllRows || r.Product.Role(r.Index)&rows.Roles() != 0
}

// begin begins a row of the product.
func (r *RowAt) begin(i int) {
	row := r.Product.Rows[i]
	if r.sheet.Columns.Added > 0 && !row.Wide {
		row.Extend(r.sheet.Columns.Own(), r.sheet.Columns.Added)
	}
	if r.Lead == nil {
		r.Lead = row
	}
	r.Row, r.Index, r.before, r.touched = row, i, len(r.Log.Changes), r.touched[:0]
}

// end ends it: of what was done the net is left, and each rule that did something counts the row once.
func (r *RowAt) end() {
	r.Log.Net(r.before)
	for n, t := range r.touched {
		if !slices.ContainsFunc(r.touched[:n], func(u touched) bool { return u.number == t.number }) {
			r.Log.Touch(t.number, r.Index)
		}
	}
}

// carryOut carries an order out, if it is meant for the row.
func (r *RowAt) carryOut(o *Order) bool {
	r.named = o.rows != 0
	return r.Means(o.rows) && r.Holds(o.where) && o.Do(r)
}

// touched is a rule that counts the row because of a column, or -1.
type touched struct{ number, col int }

// undo is a cell as it was before something was tried.
type undo struct {
	col  int
	cell string
}

// Set writes a cell as ordered, tidied like any other of its kind.
func (r *RowAt) Set(col int, text string, rule catalogue.Rule, ground catalogue.Ground, source string) {
	if col >= len(r.Cells) {
		r.Extend(max(len(r.Cells), r.sheet.Columns.Own()), 0)
	}
	if text = r.Clean(col, text); text == r.Cells[col] {
		return
	}
	if r.Dry {
		r.undo = append(r.undo, undo{col, r.Cells[col]})
		r.Cells[col] = text
		return
	}
	r.Log.Set(r.Row, col, text, rule, ground, source)
}

// Put writes a cell beside those of the sheet, for what the sheet itself says in another one. It is told of only if it is not that.
func (r *RowAt) Put(col int, text, source string, rule catalogue.Rule) {
	if text != source {
		r.Log.Changes = append(r.Log.Changes, catalogue.Change{
			Row: r.Number, Made: r.Made, Col: col, Before: source, After: text, Rule: rule, Ground: catalogue.Ordered,
		})
	}
	r.Row.Set(col, text)
}

// Clean returns a text as the step of the texts would leave it in a column, so that a
// second run finds nothing to do.
func (r *RowAt) Clean(col int, text string) string {
	return r.sheet.Texts.Clean(text, r.sheet.Columns.Kind(col))
}

// Unknown notes what a list does not have, or what no rule fits, and enters it in
// the list of such cells.
func (o *Orders) Unknown(r *RowAt, code catalogue.Code, col int, cell string, facts catalogue.Facts) {
	r.Find(code, col, cell, facts)
	if r.Log.Judging() || r.Dry {
		return
	}
	f := catalogue.Finding{Code: code, Cell: cell, Facts: facts}
	r.Log.Enter(o.unknown, r.Index, strconv.Itoa(r.Number), o.Columns.Headings[col], cell, f.Sentence())
}

// Find notes something about a cell.
func (r *RowAt) Find(code catalogue.Code, col int, cell string, facts catalogue.Facts) {
	if !r.Dry {
		r.Log.Notice(code, r.Row, col, cell, facts)
	}
}

// Damaged reports whether the text of a cell is broken, so that nothing else may be done to what may tell what it was.
func (r *RowAt) Damaged(col int) bool {
	return damaged(r.Row, col, r.Log)
}

// Touch counts the row for a rule, because of what it did to a column; unless that
// is taken back.
func (r *RowAt) Touch(number, col int) {
	if number >= 0 && !r.Dry && !r.Log.Judging() {
		r.touched = append(r.touched, touched{number, col})
	}
}

// Add takes an order down that means the rows of a scope. With words it is counted, and
// number is that of the tally; -1 otherwise.
func (o *Orders) Add(one Order, scope condition.Scope, words string) (number int, err error) {
	number = -1
	if words != "" {
		number = o.Tally.Add(words, Changed, scope.Count)
	}
	return number, o.AddCounted(one, scope.Meant, number)
}

// AddCounted takes down an order that is counted with others under a number of the tally;
// -1 for none.
func (o *Orders) AddCounted(one Order, meant condition.Meant, number int) error {
	err := o.fit(&one, meant, number)
	if err == nil {
		o.list = append(o.list, one)
	}
	return err
}

// fit says of an order which rows it means, and under which number it is counted.
func (o *Orders) fit(one *Order, meant condition.Meant, number int) error {
	where, reads, err := o.Where(meant.Where)
	one.from = one.Reads
	one.where, one.Reads, one.rows, one.number = where, slices.Concat(reads, one.Asks, one.Reads), meant.Rows, number
	return err
}

// AddSoon takes down an order that comes before barcodes and SKUs are judged, which it
// fills. keys gives, during the survey, what may come to stand in a row; learns are the
// columns on which they depend.
func (o *Orders) AddSoon(one Order, meant condition.Meant, number int, keys func(row *catalogue.Row, add func(uint64)),
	learns []int) error {
	if err := o.fit(&one, meant, number); err != nil {
		return err
	}
	o.soon, o.soonKeys = append(o.soon, one), append(o.soonKeys, keys)
	o.learns[0].Add(learns...)
	return nil
}

// AddLast takes down an order that comes when all else is done to the rows: it writes what goes out in place of what they are. target is the
// number of the target to which that goes.
func (o *Orders) AddLast(target int, one Order) error {
	err := o.fit(&one, condition.Meant{}, -1)
	if err == nil {
		if o.last == nil {
			o.last = make(map[int][]Order)
		}
		o.last[target] = append(o.last[target], one)
	}
	return err
}

// Last returns the step that carries out what comes when all else is done.
func (o *Orders) Last(target int) line.Step {
	return o.step(NameTemplate, o.last[target], nil, catalogue.ColumnSet{})
}

// Claiming says which barcodes orders may bring into a row, by texts that may be such; learns
// are the columns on which they depend.
func (o *Orders) Claiming(texts func(*catalogue.Row) []string, learns ...int) {
	o.learns[1].Add(learns...)
	o.lateKeys = append(o.lateKeys, func(row *catalogue.Row, add func(uint64)) {
		for _, text := range texts(row) {
			if code, err := barcode.Parse(strings.TrimSpace(text)); err == nil {
				add(scatter(code.Key()))
			}
		}
	})
}

// MadeOf returns the columns of which something is made that comes to stand in others, and
// these.
func (o *Orders) MadeOf(cols catalogue.ColumnSet) catalogue.ColumnSet {
	all := slices.Concat(o.soon, o.list)
	for _, last := range o.last { // each writes columns of its own
		all = append(all, last...)
	}
	for more := true; more; {
		more = false
		for _, one := range all {
			if one.Looks || !slices.ContainsFunc(one.Writes, cols.Has) {
				continue
			}
			for _, col := range one.from {
				if !cols.Has(col) {
					cols.Add(col)
					more = true
				}
			}
		}
	}
	return cols
}

// Look takes an order down that writes nothing.
func (o *Orders) Look(key string, reads []int, do func(*RowAt)) {
	o.list = append(o.list, Order{Key: key, Phase: PhaseLook, Reads: reads, Looks: true, number: -1, Do: func(r *RowAt) bool {
		do(r)
		return false
	}})
}

// WrittenBy returns the key of an order that writes a column already, "" if there is none.
func (o *Orders) WrittenBy(col int) string {
	for i := range o.list {
		if !o.list[i].Looks && slices.Contains(o.list[i].Writes, col) {
			return o.list[i].Key
		}
	}
	return ""
}

// FilledBy returns the key of an order that would fill an empty cell of a column, "" if there is none.
func (o *Orders) FilledBy(col int) string {
	for i := range o.list {
		if o.list[i].Phase < PhaseExpand && slices.Contains(o.list[i].Writes, col) {
			return o.list[i].Key
		}
	}
	return ""
}

// Fail takes down what went wrong while an order was carried out.
func (o *Orders) Fail(err error) { o.failed.Do(func() { o.Failed = err }) }

// sorted returns the orders so that each comes after all that write what it
// reads, and the orders for one column in their phases.
func (o *Orders) sorted() ([]Order, error) {
	list := slices.Clone(o.list)
	slices.SortStableFunc(list, func(a, b Order) int { return int(a.Phase) - int(b.Phase) })
	done := make([]bool, len(list))
	var sorted []Order
	for len(sorted) < len(list) {
		at := -1
		for i := range list {
			if !done[i] && o.waitsFor(list, done, i) < 0 {
				at = i
				break
			}
		}
		if at < 0 {
			return nil, o.circle(list, done)
		}
		done[at] = true
		sorted = append(sorted, list[at])
	}
	return sorted, nil
}

// waitsFor returns an order that is not done and has to be before the one at i,
// -1 if there is none.
func (o *Orders) waitsFor(list []Order, done []bool, i int) int {
	for j := range list {
		if j == i || done[j] {
			continue
		}
		for _, col := range list[j].Writes {
			if slices.Contains(list[i].Writes, col) {
				if j < i {
					return j
				}
			} else if slices.Contains(list[i].Reads, col) {
				return j
			}
		}
	}
	return -1
}

// circle says which orders wait for one another.
func (o *Orders) circle(list []Order, done []bool) error {
	at := slices.Index(done, false)
	var path []int
	for !slices.Contains(path, at) {
		path = append(path, at)
		at = o.waitsFor(list, done, at)
	}
	path = path[slices.Index(path, at):]
	var b strings.Builder
	for n, i := range path {
		next := path[(n+1)%len(path)]
		if n > 0 {
			b.WriteString(", and ")
		}
		fmt.Fprintf(&b, "[[%s]] for %s needs what [[%s]] does to %s", list[i].Key, o.headings(list[i].Writes), list[next].Key,
			o.headings(list[next].Writes))
	}
	return columns.Refuse("its rules wait for one another: %s; take one of these columns out of a rule or its condition", b.String())
}

func (o *Orders) headings(cols []int) string {
	var names []string
	for _, col := range cols {
		names = append(names, fmt.Sprintf("%q", o.Columns.Headings[col]))
	}
	return strings.Join(names, ", ")
}

// Steps returns the steps that carry the orders out. The first fills barcodes and SKUs,
// before these are judged. The others come after the repairs, so that what is copied is
// repaired: one, before rows are made and joined, takes options apart, because they tell
// what a row is, and the last does the rest.
func (o *Orders) Steps() (soon, telling, rest line.Step, err error) {
	list, err := o.sorted()
	if err != nil {
		return soon, telling, rest, err
	}
	first, list := apart(list)
	soon = o.step(NameBorrow, o.soon, o.soonKeys, o.learns[0])
	soon.Before = judging
	telling = o.step(NameOptions, first, nil, catalogue.ColumnSet{})
	if len(first) > 0 {
		carry := newCarrier(first, o)
		telling.Reads.AddAll(o.Products.RoleColumns())
		telling.Before = changing
		telling.New = Always(func(p *catalogue.Product, log *line.Log) {
			carry.Repair(p, log)
			p.Roles = o.Products.Roles(p.Roles[:0], p.Rows, log.IsAside)
		})
	}
	rest = o.step(NameOrders, list, o.lateKeys, o.learns[1])
	rest.Before = []string{NameForAll} // lists are made of what the rules have made of single values
	if len(o.learners) > 0 {
		for _, l := range o.learners {
			rest.Learns.Add(l.Cols...)
		}
		rest.Learn = func() line.Aggregate { return newLearnedAggregate(o.learners) }
	}
	rest.New = func(learned line.Aggregate) (line.Repairer, error) {
		if l, ok := learned.(*learnedAggregate); ok {
			for i := range o.learners {
				if err := o.learners[i].Judge(l.seen[i]); err != nil {
					return nil, err
				}
			}
		}
		if list = slices.DeleteFunc(list, func(one Order) bool { return one.Idle != nil && one.Idle() }); len(list) == 0 {
			return nil, nil
		}
		return newCarrier(list, o), nil
	}
	return soon, telling, rest, nil
}

// step makes a step of orders.
func (o *Orders) step(name string, list []Order, keys []func(*catalogue.Row, func(uint64)), learns catalogue.ColumnSet) line.Step {
	step := line.Step{Name: name, Learns: learns, New: idle}
	for i := range list {
		one := &list[i]
		step.Reads.Add(one.Reads...)
		step.Reads.Add(one.Writes...)
		if !one.Looks {
			step.Writes.Add(one.Writes...)
		}
		for _, rule := range one.Rules {
			if !slices.Contains(step.Rules, rule) {
				step.Rules = append(step.Rules, rule)
			}
		}
	}
	if len(list) > 0 {
		step.Glances.Add(o.known()...) // for lists
		step.Glances.Add(o.Products.Columns(products.OfImage)...)
		step.New = func(line.Aggregate) (line.Repairer, error) { return newCarrier(list, o), nil }
	}
	if len(keys) > 0 {
		step.Keys = func(p *catalogue.Product, add func(int, uint64)) {
			for i, row := range p.Rows {
				for _, of := range keys {
					of(row, func(key uint64) { add(i, key) })
				}
			}
		}
	}
	return step
}

// apart takes the orders out that tell what the rows of a product are, unless others write
// what they read or write.
func apart(list []Order) (telling, rest []Order) {
	for i := range list {
		own := slices.Concat(list[i].Reads, list[i].Writes)
		others := slices.ContainsFunc(list, func(other Order) bool {
			return !other.Tells && !other.Looks && other.Phase < PhaseTarget &&
				slices.ContainsFunc(other.Writes, func(col int) bool { return slices.Contains(own, col) })
		})
		if list[i].Tells && !others {
			telling = append(telling, list[i])
		} else {
			rest = append(rest, list[i])
		}
	}
	return telling, rest
}
