package line

import (
	"encoding"
	"fmt"
	"slices"

	"zetanum/core/catalogue"
	"zetanum/core/sheet"
)

// A Pipeline is all that the products of a sheet go through.
type Pipeline struct {
	Grouping Grouping
	Prepare  func(*catalogue.Row) // puts the cells of a row in their places, in every reading; may be nil
	Steps    []Step

	// Ignore says which rows teach the survey nothing, because they are no products;
	// nil if all of them may be.
	Ignore func(*catalogue.Row) bool

	// GroupedBy are the columns that say which rows are one product.
	GroupedBy catalogue.ColumnSet
	// Whole says whether a row is needed with all its cells, of which the survey has read
	// only those that steps learn from; nil if all rows are.
	Whole func(*catalogue.Row) bool

	// Claims are the kinds of claims that the steps make, at most 250.
	Claims []Claim

	// Leans says of a row that only the rows above it say to which product it belongs; nil
	// if none does. Such a row repeats another only in the same product.
	Leans func(*catalogue.Row) bool

	// Repeats says what becomes of rows that repeat another in every cell.
	Repeats Repeats

	// Lists are the tables that steps put together besides the rows.
	Lists []List

	// Allotments are what rows are given when it is known what all ask for, at most 200; SettlesTwice
	// says that what the rows claim as their own may depend on it.
	Allotments   []Allotment
	SettlesTwice bool

	// Narrow leaves out columns in which nothing has to go out; nil if all go out.
	Narrow *Narrowing

	// Remember takes what is to be remembered of rows that go out, in their order; nil if nobody wants it.
	Remember func([]Memo) error

	// Answers say what becomes of what is found; nil if nobody has said anything.
	Answers *Answers
}

// A Narrowing leaves out columns of which no step says that something in them has to go out ([Log.Differ]).
type Narrowing struct {
	Stay  catalogue.ColumnSet // columns that go out in any case
	Tells catalogue.ColumnSet // those of them that tell a row from the others of its product

	// A row of which nothing is left but what it shares with others is set aside for this.
	Code  catalogue.Code
	Facts catalogue.Facts
}

// Repeats says what becomes of rows that repeat another in every cell.
type Repeats uint8

// What can become of them.
const (
	RepeatsAside Repeats = iota
	RepeatsKept
	RepeatsHeld
)

// A List is a table for somebody else than the importer: of the codes to ask
// the supplier for, say. It is written only if a step enters anything.
type List struct {
	Name     string // of the file
	Headings []string
	Rest     func(enter func(cells ...string)) error // adds lines when all rows have been written; may be nil

	Off bool // nothing is entered after all

	// Known are columns whose cells stand in each line, from the one At on, as they are in the row that goes out.
	Known []int
	At    int
}

// cutter returns what tells where a part may end: before a row that begins a
// product once its cells are in their places.
func (c *Pipeline) cutter() func(*catalogue.Row) bool {
	begins := c.Grouping()
	if c.Prepare == nil {
		return begins
	}
	return func(row *catalogue.Row) bool {
		if row != nil && row != sheet.Start {
			c.Prepare(row)
		}
		return begins(row)
	}
}

// learned returns the columns at which the survey has to look where it need not look at all: those that steps learn
// from, and that tell products apart. The cell behind the last of them counts, too, because a number may have been torn in two.
func (c *Pipeline) learned() catalogue.ColumnSet {
	all := catalogue.ColumnSet{}
	all.AddAll(c.GroupedBy)
	for i := range c.Steps {
		all.AddAll(c.Steps[i].Learns)
	}
	return all
}

// Check returns an error if a step reads a column, without writing it, into which a later
// one writes: it would see the text before all is done to it. It may if it says that it
// comes before that one on purpose, or if one of the two is taken twice: it is there to see
// to what others have written since.
func (c *Pipeline) Check() error {
	for i := range c.Steps {
		for j := i + 1; j < len(c.Steps); j++ {
			early, late := &c.Steps[i], &c.Steps[j]
			both := early.Reads.Without(early.Writes).Both(late.Writes)
			if both.Empty() || late.Aside || slices.Contains(early.Before, late.Name) || c.has(early.Name, c.Steps[j:]) ||
				c.has(late.Name, c.Steps[:i+1]) {
				continue
			}
			return &OrderError{early.Name, late.Name, both.List()[0]}
		}
	}
	return nil
}

// An OrderError says that a step reads a column into which a later one writes.
type OrderError struct {
	Early, Late string // names of steps
	Col         int
}

func (e *OrderError) Error() string {
	return fmt.Sprintf("the step %q reads column %d before the step %q writes into it", e.Early, e.Col+1, e.Late)
}

// has reports whether a step of that name is among others.
func (c *Pipeline) has(name string, steps []Step) bool {
	return slices.ContainsFunc(steps, func(s Step) bool { return s.Name == name })
}

// A Step is one stage of the repair, declared rather than wired: what it reads, writes and
// learns from, what it must learn from the whole sheet first, and what it does to a product.
// It is held to what it declares: tests put something else into all other cells, and the step
// must do the same.
type Step struct {
	Name string

	// Reads are the columns on which depends what it does and what it notices, Writes
	// those into which it may write. Learns are the columns that the survey has to see for
	// it: those on which depend what it learns and its keys. Of a row that the pipeline
	// needs as a whole it may learn from all. Glances are columns at which it looks, too,
	// although later steps may change them: to name the product in a list, or to see
	// whether there is anything in them.
	// Sources are the columns of which it makes something that it writes into others.
	Reads, Writes, Learns, Glances, Sources catalogue.ColumnSet
	Rules                                   []catalogue.Rule // that it may apply

	// Before are the names of later steps that may write what it reads: it is there to see
	// cells as they stand before that.
	Before []string

	// Aside says that what it writes is for people, and that steps which look at all columns need not see it.
	Aside bool

	Learn func() Aggregate                          // nil if there is nothing to learn
	New   func(learned Aggregate) (Repairer, error) // a nil Repairer: nothing to do

	// Keys gives, during the survey, keys for the rows of a product, so that any
	// two rows that may come out of the step with the same claim, or with the
	// same text in every cell, share a key; others may, too, but should not. It
	// is called by many goroutines at once; nil if the step claims nothing.
	Keys func(p *catalogue.Product, add func(index int, key uint64))
}

// A Repairer repairs products. It is used by many goroutines at once.
type Repairer interface {
	Repair(p *catalogue.Product, log *Log)
}

// An Aggregate is what a step learns from a sheet: an ordered monoid. However the
// products are cut into stretches, and however those are bracketed when they
// are merged, the marshalled bytes are the same.
type Aggregate interface {
	Learn(p *catalogue.Product)
	Merge(next Aggregate) // next comes of the same Learn and follows in the sheet
	encoding.BinaryAppender
}

// A Placer is an aggregate that knows rows by their numbers. Where rows do not have numbers of
// their own they count from 1 in each part, until Place adds that of the row above it,
// before the aggregate is merged.
type Placer interface{ Place(above int) }

// An Inquirer is an aggregate that asks somebody else when the whole sheet has been seen, and then knows
// further keys of its rows, by their numbers. sum is the checksum of the sheet.
type Inquirer interface {
	Inquire(sum uint64, add func(row int, key uint64)) error
}

// A Parter is an aggregate that knows of rows with which a product begins, whatever the
// grouping says. Begins returns their numbers in order.
type Parter interface{ Begins() []int }

// A Log takes down what is done to a product and what is noticed about it. One
// worker uses it for one product after another.
type Log struct {
	Changes  []catalogue.Change
	Findings []catalogue.Finding
	aside    []bool  // by row of the product
	claims   []claim // of the product
	entries  []entry // in lists
	touched  []touch
	product  *catalogue.Product
	judging  bool
	answers  *Answers
	headings []string
	pending  []pending // answers that have still to be carried out

	made   []bool           // rows that are not in the source
	joined []bool           // rows of which all is said in others
	by     []catalogue.Rule // that made or joined them
	of     map[int]int      // how many have been made of a row, by its number

	kinds    []Allotment
	allotted *allotted  // so far; nil for nothing
	asks     []request  // of the product
	asking   []int      // the rows in it
	kept     []kept     // for whoever allots
	provided []provided // in it
	memos    []Memo     // of the product

	into  string              // the file into which the product goes, if there are several
	going catalogue.ColumnSet // of columns in which the product is not as the shop has it

	scratch []scratch // of steps

	torn     bool        // the product is only a part of one
	stopped  bool        // no further step sees it
	inserted []insertion // by the step that runs
}

// A Memo is what is to be remembered of a row beyond the run, if it goes out.
type Memo struct {
	Key, Number uint64
	Digits      int
	Texts       [3]string // of the part: they are not to be kept

	// Complete returns it when the row goes out, as the row is then; nil if it is complete.
	Complete func(*catalogue.Row) Memo

	index int // of the row in the product
}

type claim struct {
	kind  ClaimKind
	key   uint64
	index int // of the row in the product
	col   int
}

// A touch is what a rule about rows did to one of them, or to several.
type touch struct{ rule, index, rows int }

// An entry is a line of a list.
type entry struct {
	list  int
	index int // of the row in the product
	cells []string
}

// A ClaimKind tells claims of different things apart: the number of a [Claim] in
// the pipeline.
type ClaimKind uint8

// A Claim is something that a row can claim as its own.
type Claim struct {
	Clash  catalogue.Code // the finding when two products claim one value
	Choose Choice         // which row keeps the value, if there is no clash; the others are set aside
}

// A Choice says which of several rows is kept.
type Choice uint8

// The choices.
const (
	ChooseNone Choice = iota
	ChooseFirst
	ChooseLast
	ChooseFullest // the first of those with fewest empty cells
)

// Set writes a cell and takes the change down.
func (l *Log) Set(row *catalogue.Row, col int, after string, rule catalogue.Rule, ground catalogue.Ground, source string) {
	l.Changes = append(l.Changes, catalogue.Change{
		Row: row.Number, Made: row.Made, Col: col, Before: row.Cells[col], After: after, Rule: rule, Ground: ground, Source: source,
	})
	row.Set(col, after)
}

// Notice takes a finding down, and reports whether it holds the row. col is -1 for the row as
// a whole.
func (l *Log) Notice(code catalogue.Code, row *catalogue.Row, col int, cell string, facts catalogue.Facts) (holds bool) {
	l.Findings = append(l.Findings, catalogue.Finding{Code: code, Row: row.Number, Col: col, Cell: cell, Facts: facts})
	f := &l.Findings[len(l.Findings)-1]
	l.ask(f, row)
	return f.Severity() == catalogue.Error
}

// Has reports whether a finding about a cell has been taken down.
func (l *Log) Has(code catalogue.Code, row *catalogue.Row, col int) bool {
	return slices.ContainsFunc(l.Findings, func(f catalogue.Finding) bool { return f.Code == code && f.Row == row.Number && f.Col == col })
}

// Holds reports whether something about a cell holds its row, as far as is known.
func (l *Log) Holds(row *catalogue.Row, col int) bool {
	return slices.ContainsFunc(l.Findings, func(f catalogue.Finding) bool {
		return f.Row == row.Number && f.Col == col && f.Severity() == catalogue.Error
	})
}

// Wrote reports whether a rule has written a cell.
func (l *Log) Wrote(rule catalogue.Rule, row *catalogue.Row, col int) bool {
	return slices.ContainsFunc(l.Changes, func(c catalogue.Change) bool {
		return c.Rule == rule && c.Row == row.Number && c.Made == row.Made && c.Col == col
	})
}

// Settled takes back what was noticed about a cell, because it has been seen to since.
func (l *Log) Settled(code catalogue.Code, row *catalogue.Row, col int) {
	l.Findings = slices.DeleteFunc(l.Findings, func(f catalogue.Finding) bool {
		return f.Code == code && f.Row == row.Number &&
			f.Col == col
	})
}

// Aside says that a row is no product; the finding says why.
func (l *Log) Aside(index int, code catalogue.Code, facts catalogue.Facts) {
	if l.aside[index] {
		return
	}
	l.aside[index] = true
	l.Notice(code, l.product.Rows[index], -1, "", facts)
}

// IsAside reports whether a row of the product has been set aside.
func (l *Log) IsAside(index int) bool { return l.aside[index] }

// Said returns what a column says in the row at that index of the product or, where it is empty there, in the nearest one above it.
func (l *Log) Said(index, col int) string {
	for i := min(index, len(l.product.Rows)-1); i >= 0; i-- {
		if cell := l.product.Rows[i].Cell(col); cell != "" {
			return cell
		}
	}
	return ""
}

// Claim says that the row at that index of the product uses a value that no
// other product may use. key stands for the value. What stands there only for now is claimed by nobody.
func (l *Log) Claim(kind ClaimKind, key uint64, index, col int) {
	if l.judging && !l.isProvided(l.product.Rows[index], col) {
		l.claims = append(l.claims, claim{kind, key, index, col})
	}
}

// Enter adds a line to a list, about the row at that index of the product. It
// is left out if the row turns out to be set aside.
func (l *Log) Enter(list, index int, cells ...string) {
	if !l.judging {
		l.entries = append(l.entries, entry{list, index, cells})
	}
}

// Remember says what is to be remembered of the row at that index of the product, if it goes out and the Key is not 0.
func (l *Log) Remember(index int, m Memo) {
	if !l.judging {
		m.index = index
		l.memos = append(l.memos, m)
	}
}

// Into says into which of several files the product goes, besides the one that has all.
func (l *Log) Into(file string) { l.into = file }

// Differ says that something in a column has to go out, where a [Narrowing] leaves out those in which nothing has to.
func (l *Log) Differ(col int) { l.going.Add(col) }

// Withdraw takes back what was entered in a list about the row at that index.
func (l *Log) Withdraw(list, index int) {
	l.entries = slices.DeleteFunc(l.entries, func(e entry) bool { return e.list == list && e.index == index })
}

// Net makes one change of those that a rule has made to a cell, from that index on, and
// none of those to a cell that is in the end as it was. What several rules have done to a
// cell stays told apart.
func (l *Log) Net(from int) {
	if len(l.Changes) < from+2 {
		return
	}
	kept := l.Changes[:from]
	for _, c := range l.Changes[from:] {
		first, last := -1, -1 // of the changes to the cell before this one
		for i := from; i < len(kept); i++ {
			if kept[i].Row == c.Row && kept[i].Col == c.Col {
				if last = i; first < 0 {
					first = i
				}
			}
		}
		switch {
		case first >= 0 && kept[first].Before == c.After:
			others := slices.DeleteFunc(kept[from:], func(k catalogue.Change) bool { return k.Row == c.Row && k.Col == c.Col })
			kept = kept[:from+len(others)]
		case first >= 0 && kept[last].Rule == c.Rule && kept[last].Ground == c.Ground:
			c.Before = kept[last].Before
			kept[last] = c
		default:
			kept = append(kept, c)
		}
	}
	l.Changes = kept
}

// Touch counts the row at that index of the product for a rule, unless the row is
// set aside.
func (l *Log) Touch(rule, index int) { l.touched = append(l.touched, touch{rule, index, 1}) }

// TouchAll counts rows of the product for a rule, even if they are set aside.
func (l *Log) TouchAll(rule, rows int) { l.touched = append(l.touched, touch{rule, -1, rows}) }

// Insert adds a row to the product behind that at the index, and before those that were
// added there earlier. It goes out like the others, and with the number of the row that it
// comes of. Steps that follow see it.
func (l *Log) Insert(index int, row *catalogue.Row, role catalogue.Role, rule catalogue.Rule) {
	if l.of == nil {
		l.of = make(map[int]int)
	}
	l.of[row.Number]++
	row.Made = l.of[row.Number]
	l.inserted = append(l.inserted, insertion{index, row, role, rule})
}

// An insertion is a row that stands behind another from the next step on.
type insertion struct {
	index int
	row   *catalogue.Row
	role  catalogue.Role
	rule  catalogue.Rule
}

// insert puts the rows in their places that a step has made.
func (l *Log) insert() {
	if len(l.inserted) == 0 {
		return
	}
	slices.Reverse(l.inserted)
	slices.SortStableFunc(l.inserted, func(a, b insertion) int { return a.index - b.index })
	p, count := l.product, len(l.product.Rows)+len(l.inserted)
	rows, roles := make([]*catalogue.Row, 0, count), make([]catalogue.Role, 0, count)
	aside, made, joined := make([]bool, 0, count), make([]bool, 0, count), make([]bool, 0, count)
	by := make([]catalogue.Rule, 0, count)
	places := make([]int, len(p.Rows)) // where the rows stand now
	next := l.inserted
	for i, row := range p.Rows {
		places[i] = len(rows)
		rows, roles = append(rows, row), append(roles, p.Role(i))
		aside, made, joined = append(aside, l.aside[i]), append(made, l.made[i]), append(joined, l.joined[i])
		by = append(by, l.by[i])
		for len(next) > 0 && next[0].index == i {
			rows, roles = append(rows, next[0].row), append(roles, next[0].role)
			aside, made, joined = append(aside, false), append(made, true), append(joined, false)
			by = append(by, next[0].rule)
			next = next[1:]
		}
	}
	if p.Rows, l.inserted = rows, l.inserted[:0]; p.Roles != nil {
		p.Roles = roles
	}
	l.aside, l.made, l.joined, l.by = aside, made, joined, by
	for i := range l.claims {
		l.claims[i].index = places[l.claims[i].index]
	}
	for i := range l.entries {
		l.entries[i].index = places[l.entries[i].index]
	}
	for i := range l.memos {
		l.memos[i].index = places[l.memos[i].index]
	}
	for i := range l.asking {
		l.asking[i] = places[l.asking[i]]
	}
	for i := range l.touched {
		if t := &l.touched[i]; t.index >= 0 {
			t.index = places[t.index]
		}
	}
}

// Join says that a row does not go out, because all that it says is in others. Steps that
// follow leave it out, as if it were aside.
func (l *Log) Join(index int, rule catalogue.Rule) {
	l.aside[index], l.joined[index], l.by[index] = true, true, rule
}

// A scratch is what steps keep from one product to the next, and the key under which they do.
type scratch struct {
	key  any
	kept Forgetter
}

// A Forgetter forgets what it has of the cells of a product: their memory is used for others.
type Forgetter interface{ Forget() }

// Scratch returns what steps keep from one product to the next, under a key that they share; make makes it for the first. Each worker has its
// own, so that nothing may depend on what is in it but how fast they are. At the next product it is told to forget the one before.
func (l *Log) Scratch(key any, make func() Forgetter) Forgetter {
	for i := range l.scratch { // there are very few
		if l.scratch[i].key == key {
			return l.scratch[i].kept
		}
	}
	l.scratch = append(l.scratch, scratch{key, make()})
	return l.scratch[len(l.scratch)-1].kept
}

// Stop says that no further step is to see the product: what it has is not of this sheet.
func (l *Log) Stop() { l.stopped = true }

// Torn reports whether the product is only a part of one, which has too many rows.
func (l *Log) Torn() bool { return l.torn }

// Judging reports whether claims are asked for; they are not when the products
// are written.
func (l *Log) Judging() bool { return l.judging }

func (l *Log) begin(p *catalogue.Product) {
	l.product, l.stopped, l.into, l.going = p, false, "", catalogue.ColumnSet{}
	l.Changes, l.Findings, l.claims, l.entries = l.Changes[:0], l.Findings[:0], l.claims[:0], l.entries[:0]
	l.touched, l.pending, l.memos = l.touched[:0], l.pending[:0], l.memos[:0]
	l.asks, l.asking, l.provided, l.kept = l.asks[:0], l.asking[:0], l.provided[:0], l.kept[:0]
	l.aside, l.made, l.joined, l.by = l.aside[:0], l.made[:0], l.joined[:0], l.by[:0]
	clear(l.of)
	for i := range l.scratch {
		l.scratch[i].kept.Forget()
	}
	for range p.Rows {
		l.aside, l.made, l.joined, l.by = append(l.aside, false), append(l.made, false), append(l.joined, false),
			append(l.by, catalogue.NoRule)
	}
}
