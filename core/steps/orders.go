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
	"zetanum/core/lists"
	"zetanum/core/products"
	"zetanum/core/sheet"
)

// A Tally numbers the rules that tell how many rows they have touched.
type Tally struct{ Rules []Counted }

// Counted is a rule that tells how many rows it has touched.
type Counted struct {
	Words, Did string
	Quiet      bool // it is no rule, but something else that is counted
	Count      int  // the number that the rulebook expects, 0 for any
}

// Add returns the number of a rule for [line.Log.Touch].
func (t *Tally) Add(words, did string, count int) int {
	t.Rules = append(t.Rules, Counted{Words: words, Did: did, Count: count})
	return len(t.Rules) - 1
}

// changed is what rules about cells have done to the rows they count.
const changed = "changed"

// Orders gathers what a rulebook orders for cells, and puts it in an order in
// which every cell is read only when all has been done to it. So doing it twice
// is doing it once.
type Orders struct {
	table    *sheet.Table
	texts    *Texts
	shape    *columns.Rules
	products *products.Plan // what belongs where; nil: everything anywhere
	tally    *Tally
	list     []order

	// Loans are the loans that were ordered; Failed is what went wrong with one
	// while it was carried out.
	Loans  []LoanCounts
	Failed error

	// Unknown is the list of the course that takes what lists do not have.
	Unknown int

	failed     sync.Once
	early      []order
	earlyLoans []*borrowing
	known      []int                           // the columns by which somebody knows a product
	codes      []func(*catalogue.Row) []string // what goes into columns of barcodes
	spellings  []*spelling
}

// NewOrders begins with no order. shape says which columns the rulebook renames
// and drops.
func NewOrders(table *sheet.Table, texts *Texts, shape *columns.Rules, plan *products.Plan, tally *Tally) *Orders {
	o := &Orders{table: table, texts: texts, shape: shape, products: plan, tally: tally}
	o.known = KnownBy(&table.Columns)
	return o
}

// The phases in which the cells of one column are written.
const (
	phaseBorrow = iota
	phaseFill
	phaseBuild
	phaseDerive
	phaseExpand
	phaseWords
	phaseValues
	phaseTarget
	phaseLook
)

// An order is something that is done to the cells of a row.
type order struct {
	key    string // of the rulebook: "[[build]]"
	phase  int
	reads  []int // columns
	writes []int
	where  *condition.Condition // nil: for every row
	rows   catalogue.Role       // the rows of a product that are meant; 0: those to which what is written belongs
	number int                  // in the tally, -1 for none
	do     func(*rowAt) bool    // reports whether the row counts as touched
	looks  bool                 // it writes nothing, but it has to come in its turn
	idle   func() bool          // reports, after the survey, whether there is nothing to do; may be nil
	tells  bool                 // what it writes tells what the rows of a product are
}

// A rowAt is a row that orders are carried out on.
type rowAt struct {
	*catalogue.Row
	index   int // in the product
	product *catalogue.Product
	log     *line.Log
	texts   *Texts
	columns *catalogue.Columns
	touched []touched
	dry     bool // it is only tried what the orders would do
	undo    []undo

	plan  *products.Plan
	lead  *catalogue.Row       // of the product
	named bool                 // the rule that is carried out says which rows are meant
	whole catalogue.Row        // see view
	slots map[*Packed][]string // of the product, which option is in which pair of columns
}

// belongs reports whether an empty cell of a column may be filled in this row.
func (r *rowAt) belongs(col int) bool {
	return r.named || r.plan == nil || r.plan.Belongs(col, r.Row, r.product.Role(r.index))
}

// view returns the row as somebody reads it: what belongs to the whole product stands in
// the lead row, and is true of the others.
func (r *rowAt) view() *catalogue.Row {
	if r.plan == nil || r.lead == nil || r.lead == r.Row {
		return r.Row
	}
	cells := append(r.whole.Cells[:0], r.Row.Cells...)
	r.whole = *r.Row
	r.whole.Cells = cells
	for _, col := range r.plan.Columns(products.OfProduct) {
		if col < len(r.whole.Cells) && r.whole.Cells[col] == "" {
			r.whole.Cells[col] = r.lead.Cell(col)
		}
	}
	return &r.whole
}

// holds reports whether a condition is true of the row.
func (r *rowAt) holds(c *condition.Condition) bool { return c == nil || c.Holds(r.view()) }

// means reports whether a rule means the row.
func (r *rowAt) means(rows catalogue.Role) bool {
	return rows == 0 || rows == catalogue.AllRows.Roles() || r.product.Role(r.index)&rows != 0
}

// carryOut carries an order out, if it is meant for the row.
func (r *rowAt) carryOut(o *order) bool {
	r.named = o.rows != 0
	return r.means(o.rows) && r.holds(o.where) && o.do(r)
}

// touched is a rule that counts the row because of a column, or -1.
type touched struct{ number, col int }

// undo is a cell as it was before something was tried.
type undo struct {
	col  int
	cell string
}

// set writes a cell as ordered, tidied like any other of its kind.
func (r *rowAt) set(col int, text string, rule catalogue.Rule, ground catalogue.Ground, source string) {
	if col >= len(r.Cells) {
		r.Extend(max(len(r.Cells), r.columns.Own()), 0)
	}
	if text = r.clean(col, text); text == r.Cells[col] {
		return
	}
	if r.dry {
		r.undo = append(r.undo, undo{col, r.Cells[col]})
		r.Cells[col] = text
		return
	}
	r.log.Set(r.Row, col, text, rule, ground, source)
}

// clean returns a text as the step of the texts would leave it in a column, so that a
// second run finds nothing to do.
func (r *rowAt) clean(col int, text string) string { return r.texts.Clean(text, r.columns.Kind(col)) }

// unknown notes what a list does not have, or what no rule fits, and enters it in
// the list of such cells.
func (o *Orders) unknown(r *rowAt, code catalogue.Code, col int, cell string, facts catalogue.Facts) {
	r.find(code, col, cell, facts)
	if r.log.Judging() || r.dry {
		return
	}
	f := catalogue.Finding{Code: code, Cell: cell, Facts: facts}
	cells := []string{strconv.Itoa(r.Number), o.table.Columns.Headings[col], cell, f.Sentence()}
	for _, c := range o.known {
		cells = append(cells, r.Cell(c))
	}
	r.log.Enter(o.Unknown, r.index, cells...)
}

// find notes something about a cell.
func (r *rowAt) find(code catalogue.Code, col int, cell string, facts catalogue.Facts) {
	if !r.dry {
		r.log.Find(code, r.Row, col, cell, facts)
	}
}

// touch counts the row for a rule, because of what it did to a column; unless that
// is taken back.
func (r *rowAt) touch(number, col int) {
	if number >= 0 && !r.dry && !r.log.Judging() {
		r.touched = append(r.touched, touched{number, col})
	}
}

// where reads a condition and returns the columns it looks at, too.
func (o *Orders) where(table map[string]any) (*condition.Condition, []int, error) {
	if table == nil {
		return nil, nil, nil
	}
	var reads []int
	c, err := condition.Parse(table, func(name string) int {
		col := columns.Find(&o.table.Columns, name)
		if col >= 0 {
			reads = append(reads, col)
		}
		return col
	})
	return c, reads, err
}

// find returns the first column of that name for a rule; ok is false if there is
// none because the rulebook drops it.
func (o *Orders) find(key, in, name string) (col int, ok bool, err error) {
	col, err = o.shape.NeedOne(&o.table.Columns, "[["+key+"]] "+in, name)
	return col, col >= 0, err
}

func missingField(table *sheet.Table, name string) error {
	return fmt.Errorf("%w: [field.%s] is required, and no column has it%s; the headings are: %s",
		columns.ErrWrong, name, lists.DidYouMean(name, table.Columns.Headings), strings.Join(table.Columns.Headings, ", "))
}

// sorted returns the orders so that each comes after all that write what it
// reads, and the orders for one column in their phases.
func (o *Orders) sorted() ([]order, error) {
	list := slices.Clone(o.list)
	slices.SortStableFunc(list, func(a, b order) int { return a.phase - b.phase })
	done := make([]bool, len(list))
	var sorted []order
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
func (o *Orders) waitsFor(list []order, done []bool, i int) int {
	for j := range list {
		if j == i || done[j] {
			continue
		}
		for _, col := range list[j].writes {
			if slices.Contains(list[i].writes, col) {
				if j < i {
					return j
				}
			} else if slices.Contains(list[i].reads, col) {
				return j
			}
		}
	}
	return -1
}

// circle says which orders wait for one another.
func (o *Orders) circle(list []order, done []bool) error {
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
		fmt.Fprintf(&b, "[[%s]] for %s needs what [[%s]] does to %s", list[i].key, o.headings(list[i].writes), list[next].key, o.headings(list[next].writes))
	}
	return fmt.Errorf("%w: its rules wait for one another: %s; take one of these columns out of a rule or its condition", columns.ErrWrong, b.String())
}

func (o *Orders) headings(cols []int) string {
	var names []string
	for _, col := range cols {
		names = append(names, fmt.Sprintf("%q", o.table.Columns.Headings[col]))
	}
	return strings.Join(names, ", ")
}

// Written returns the columns that orders write.
func (o *Orders) Written() map[int]bool {
	cols := make(map[int]bool)
	for i := range o.list {
		for _, col := range o.list[i].writes {
			cols[col] = cols[col] || !o.list[i].looks
		}
	}
	return cols
}

// Steps returns the steps that carry the orders out. They come after the repairs, so that
// what is copied is repaired; the first, before rows are made and joined, takes options
// apart, because they tell what a row is.
func (o *Orders) Steps() (telling, step line.Step, err error) {
	list, err := o.sorted()
	if err != nil {
		return telling, step, err
	}
	first, list := apart(list)
	telling = line.Step{
		Name:  "options",
		Rules: []catalogue.Rule{catalogue.RuleUnpack},
		New: func(line.Lore) (line.Repairer, error) {
			if len(first) == 0 {
				return nil, nil
			}
			c := newCarrier(first, o)
			return repairFunc(func(p *catalogue.Product, log *line.Log) {
				c.Repair(p, log)
				if o.products != nil {
					p.Roles = o.products.Roles(p.Roles[:0], p.Rows, log.IsAside)
				}
			}), nil
		},
	}
	step = line.Step{
		Name: "orders",
		Rules: []catalogue.Rule{
			catalogue.RuleAdd, catalogue.RuleCopy, catalogue.RuleSplit, catalogue.RuleJoin, catalogue.RuleMerged, catalogue.RuleUnpack, catalogue.RulePack, catalogue.RuleReplace, catalogue.RuleAround,
			catalogue.RuleClosing, catalogue.RuleBuild, catalogue.RuleDerive, catalogue.RuleExpand, catalogue.RuleBorrow, catalogue.RuleListed, catalogue.RuleUnify, catalogue.RuleStandIn,
		},
		New: func(learned line.Lore) (line.Repairer, error) {
			if l, ok := learned.(*spellingLore); ok {
				for i, u := range o.spellings {
					u.judged = l.seen[i].Judge()
				}
			}
			idle := func(one order) bool { return one.idle != nil && one.idle() }
			if list = slices.DeleteFunc(list, idle); len(list) == 0 {
				return nil, nil
			}
			return newCarrier(list, o), nil
		},
	}
	if len(o.codes) > 0 {
		step.Keys = func(p *catalogue.Product, add func(int, uint64)) {
			for i, row := range p.Rows {
				for _, of := range o.codes {
					for _, text := range of(row) {
						if code, err := barcode.Parse(strings.TrimSpace(text)); err == nil {
							add(i, scatter(code.Key()))
						}
					}
				}
			}
		}
	}
	if len(o.spellings) > 0 {
		step.Learn = func() line.Lore {
			return &spellingLore{o.texts, o.spellings, make([]lists.Spellings, len(o.spellings))}
		}
	}
	return telling, step, nil
}

// apart takes the orders out that tell what the rows of a product are, unless others write
// what they read or write.
func apart(list []order) (telling, rest []order) {
	for i := range list {
		own := slices.Concat(list[i].reads, list[i].writes)
		others := slices.ContainsFunc(list, func(other order) bool {
			return !other.tells && !other.looks && other.phase < phaseTarget && slices.ContainsFunc(other.writes, func(col int) bool { return slices.Contains(own, col) })
		})
		if list[i].tells && !others {
			telling = append(telling, list[i])
		} else {
			rest = append(rest, list[i])
		}
	}
	return telling, rest
}
