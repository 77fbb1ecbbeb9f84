package line

import (
	"cmp"
	"errors"
	"slices"
	"sort"
	"strings"

	"zetanum/core/catalogue"
)

// An Allotment gives rows what can only be given when it is known what all of them ask for, such as
// codes that no two may share. While products are judged their rows ask; then Allot settles what they
// get; and when they are repaired they get it. What depends on something else that is allotted is asked
// for in a later round.
type Allotment struct {
	Col   int // into which it goes
	Round int
	// Allot settles asks of rows that go out, in the order of what they ask by: it gives each a text, or
	// denies it. An error ends the run.
	Allot func(asks Asks) error
	// Release is told of what was given to products that are held after all, for what is made of it.
	Release func(given []string) error
	// Keep is told, before that, what rows have to say of the kind besides asking; see [Log.Keep].
	Keep func(text string)
	// Twins is the finding about rows that ask by the same, which nobody can tell apart.
	Twins catalogue.Code
}

// By tells what asks from all others: how that begins, by which asks are put in an order, and a hash.
type By [3]uint64

// A request is an ask on its way from the product to the others.
type request struct {
	ask
	by   By
	text string
}

// An ask is what is kept of one. Where a product asks as a whole, row is its first and other its last;
// where it is denied, other is the row of which is spoken.
type ask struct {
	hash                uint64
	row, product, other uint32
	text                uint32 // where what is asked for stands; then what is given, or why it is denied
	size, made          uint16
	denied              catalogue.Code
	kind                uint8
	whole, gone         bool // the product asks; the row does not go out
}

// orderOfRows orders asks so that they are found by row.
func (a *ask) orderOfRows(b *ask) int {
	return cmp.Or(cmp.Compare(a.row, b.row), cmp.Compare(a.made, b.made), cmp.Compare(a.kind, b.kind))
}

// Asks are asks in an order.
type Asks struct {
	list  *askList
	order []uint32
}

// Len returns how many they are.
func (a Asks) Len() int { return len(a.order) }

// Text returns what is asked for, or what has been given.
func (a Asks) Text(i int) string { return a.list.textOf(a.list.at(a.order[i])) }

// Place returns where that stands which is asked for, and At what stands there, whatever has been given since.
func (a Asks) Place(i int) uint64 {
	at := a.list.at(a.order[i])
	return uint64(at.text)<<16 | uint64(at.size)
}

// At returns what stands at a place.
func (a Asks) At(place uint64) string {
	if place&0xffff == 0 {
		return ""
	}
	return a.list.asked.at(uint32(place>>16), uint16(place))
}

// Given returns what has been given.
func (a Asks) Given(i int) string {
	at := a.list.at(a.order[i])
	return a.list.given.at(at.text, at.size)
}

// Hash returns a hash of what the ask is told apart by.
func (a Asks) Hash(i int) uint64 { return a.list.at(a.order[i]).hash }

// Begins returns how that begins by which the ask is told apart.
func (a Asks) Begins(i int) [2]uint64 {
	n := a.order[i]
	return a.list.by[n/askPiece][n%askPiece]
}

// Give gives a text.
func (a Asks) Give(i int, text string) {
	at := a.list.at(a.order[i])
	at.text, at.size = a.list.given.add(text), uint16(len(text))
}

// Deny says that nothing is given; about is a text or a row, 0 for none, of which the finding speaks.
func (a Asks) Deny(i int, code catalogue.Code, about string, row int) {
	a.Give(i, about)
	at := a.list.at(a.order[i])
	at.denied, at.other = code, uint32(row)
}

// texts are texts one after the other, in pieces so that they grow without being copied.
type texts struct{ pieces [][]byte }

const textPiece = 1 << 20

// add returns where a text stands; those longer than is good for a code are cut.
func (t *texts) add(text string) uint32 {
	text = text[:min(len(text), mostAsked)]
	n := len(t.pieces)
	if n == 0 || len(t.pieces[n-1])+len(text) > textPiece {
		t.pieces = append(t.pieces, make([]byte, 0, textPiece))
		n++
	}
	at := uint32(n-1)*textPiece + uint32(len(t.pieces[n-1]))
	t.pieces[n-1] = append(t.pieces[n-1], text...)
	return at
}

// mostAsked is how many bytes a text has at most.
const mostAsked = 1 << 15

func (t *texts) at(at uint32, size uint16) string {
	piece := t.pieces[at/textPiece]
	return string(piece[at%textPiece : at%textPiece+uint32(size)])
}

// askList has asks as they came.
type askList struct {
	pieces [][]ask
	by     [][][2]uint64 // while they are not in order
	size   uint32
	byRow  []uint32 // the order by row, if they did not come so
	asked  texts
	given  texts
	done   bool // what they get is settled
}

const askPiece = 1 << 12

func (l *askList) at(i uint32) *ask { return &l.pieces[i/askPiece][i%askPiece] }

func (l *askList) textOf(a *ask) string {
	if a.size == 0 {
		return ""
	}
	if l.done {
		return l.given.at(a.text, a.size)
	}
	return l.asked.at(a.text, a.size)
}

func (l *askList) add(requests []request) {
	for i := range requests {
		if l.size%askPiece == 0 {
			l.pieces, l.by = append(l.pieces, make([]ask, askPiece)), append(l.by, make([][2]uint64, askPiece))
		}
		r := &requests[i]
		r.ask.text, r.ask.size, r.ask.hash = l.asked.add(r.text), uint16(min(len(r.text), mostAsked)), r.by[2]
		*l.at(l.size) = r.ask
		l.by[l.size/askPiece][l.size%askPiece] = [2]uint64{r.by[0], r.by[1]}
		l.size++
	}
}

// compare orders asks by kind, and then by what they are told apart by.
func (l *askList) compare(i, k uint32) int {
	x, y := l.at(i), l.at(k)
	bx, by := &l.by[i/askPiece][i%askPiece], &l.by[k/askPiece][k%askPiece]
	switch {
	case x.kind != y.kind:
		return cmp.Compare(x.kind, y.kind)
	case bx[0] != by[0]:
		return cmp.Compare(bx[0], by[0])
	case bx[1] != by[1]:
		return cmp.Compare(bx[1], by[1])
	case x.hash != y.hash:
		return cmp.Compare(x.hash, y.hash)
	}
	return 0
}

// find returns where those of a row begin, by row.
func (l *askList) find(wanted *ask) int {
	return sort.Search(int(l.size), func(i int) bool { return l.nth(i).orderOfRows(wanted) >= 0 })
}

// nth returns one by row.
func (l *askList) nth(i int) *ask {
	if l.byRow != nil {
		return l.at(l.byRow[i])
	}
	return l.at(uint32(i))
}

// orderByRow makes them found by row.
func (l *askList) orderByRow() {
	for i := uint32(1); i < l.size; i++ {
		if l.at(i-1).orderOfRows(l.at(i)) > 0 {
			l.byRow = make([]uint32, l.size)
			for k := range l.byRow {
				l.byRow[k] = uint32(k)
			}
			slices.SortFunc(l.byRow, func(x, y uint32) int { return l.at(x).orderOfRows(l.at(y)) })
			return
		}
	}
}

// allotted is what has been settled so far, by round. It is safe for concurrent use.
type allotted struct {
	rounds []*askList
	kinds  []Allotment
}

// find returns what is settled of an ask of a row; nil if nothing is.
func (a *allotted) find(kind int, row *catalogue.Row) (*askList, *ask) {
	if a == nil || a.kinds[kind].Round >= len(a.rounds) {
		return nil, nil
	}
	l := a.rounds[a.kinds[kind].Round]
	wanted := ask{row: uint32(row.Number), made: uint16(row.Made), kind: uint8(kind)}
	at := l.find(&wanted)
	if at == int(l.size) || l.nth(at).orderOfRows(&wanted) != 0 || l.nth(at).gone {
		return nil, nil
	}
	return l, l.nth(at)
}

// denied calls do with what a row has been denied.
func (a *allotted) denied(row *catalogue.Row, do func(code catalogue.Code, col int, facts catalogue.Facts)) {
	for _, l := range a.rounds {
		wanted := ask{row: uint32(row.Number), made: uint16(row.Made)}
		for at := l.find(&wanted); at < int(l.size) && l.nth(at).row == wanted.row && l.nth(at).made == wanted.made; at++ {
			if k := l.nth(at); !k.gone && k.denied != 0 {
				do(k.denied, a.kinds[k.kind].Col, catalogue.Facts{Row: int(k.other), Other: l.textOf(k)})
			}
		}
	}
}

// settle allots what was asked for in a round, but for the rows that do not go out.
func (a *allotted) settle(l *askList, late *settled) error {
	l.orderByRow()
	order := make([]uint32, 0, l.size)
	for i := range l.size {
		if k := l.at(i); late.goes(k) {
			order = append(order, i)
		} else {
			k.gone = true
		}
	}
	slices.SortFunc(order, func(i, k uint32) int {
		if c := l.compare(i, k); c != 0 {
			return c
		}
		return l.at(i).orderOfRows(l.at(k))
	})
	for from := 0; from < len(order); {
		kind, end := l.at(order[from]).kind, from
		for end < len(order) && l.at(order[end]).kind == kind {
			end++
		}
		if err := a.kinds[kind].Allot(twins(Asks{l, order[from:end]}, a.kinds[kind].Twins)); err != nil {
			return err
		}
		from = end
	}
	l.by, l.asked, l.done = nil, texts{}, true
	a.rounds = append(a.rounds, l)
	return nil
}

// release takes back what was given to products that are held.
func (a *allotted) release(held func(product uint32) bool) error {
	given := make([][]string, len(a.kinds))
	for _, l := range a.rounds {
		for i := range l.size {
			if k := l.at(i); !k.gone && k.denied == 0 && held(k.product) {
				given[k.kind] = append(given[k.kind], l.textOf(k))
				k.gone = true
			}
		}
	}
	for kind, texts := range given {
		if texts != nil {
			if err := a.kinds[kind].Release(texts); err != nil {
				return err
			}
		}
	}
	return nil
}

// twins denies asks that nobody can tell apart, and returns the others.
func twins(asks Asks, code catalogue.Code) Asks {
	others, l := asks.order[:0], asks.list
	for from := 0; from < asks.Len(); {
		end := from + 1
		for end < asks.Len() && l.compare(asks.order[end], asks.order[from]) == 0 {
			end++
		}
		first, second := asks.order[from], asks.order[min(from+1, end-1)]
		if end == from+1 {
			others = append(others, first)
		} else {
			for i := from; i < end; i++ {
				of := first
				if i == from {
					of = second
				}
				asks.Deny(i, code, "", int(l.at(of).row))
			}
		}
		from = end
	}
	return Asks{l, others}
}

// goes reports whether a row that asks goes out, as far as other products decide that.
func (s *settled) goes(k *ask) bool {
	if s.held.has(k.product) || s.sampled != nil && !s.sampled[int(k.product)] {
		return false
	}
	last := k.row
	if k.whole {
		last = max(last, k.other)
	}
	for row := k.row; row <= last; row++ {
		if _, repeats := s.duplicates.of(row); !repeats && !s.gone.has(row) {
			return true
		}
	}
	return false
}

// Ask asks for something that is allotted, for the row at that index of the product, or for the whole
// product.
func (l *Log) Ask(kind, index int, whole bool, by By, text string) {
	if !l.judging || l.kinds[kind].Round != l.round() {
		return
	}
	rows := l.product.Rows
	r := request{by: by, text: text, ask: ask{row: uint32(rows[index].Number), product: uint32(rows[0].Number), made: uint16(rows[index].Made),
		kind: uint8(kind)}}
	if whole {
		r.row, r.made, r.other, r.whole = r.product, 0, uint32(rows[len(rows)-1].Number), true
	}
	l.asks, l.asking = append(l.asks, r), append(l.asking, index)
}

// Keep says something that whoever allots has to know, such as a code that is there already.
func (l *Log) Keep(kind int, text string) {
	if l.judging && l.kinds[kind].Round == l.round() {
		l.kept = append(l.kept, kept{kind, strings.Clone(text)})
	}
}

type kept struct {
	kind int
	text string
}

// Allotted returns what a row, or its product, has been given of what it asked for, "" if it is denied;
// settled is false while that is not known.
func (l *Log) Allotted(kind, index int, whole bool) (text string, settled bool) {
	row := l.product.Rows[index]
	if whole {
		row = l.product.Rows[0]
	}
	list, k := l.allotted.find(kind, row)
	switch {
	case k == nil:
		return "", false
	case k.denied != 0:
		return "", true
	}
	return list.textOf(k), true
}

func (l *Log) round() int {
	if l.allotted == nil {
		return 0
	}
	return len(l.allotted.rounds)
}

// Provide puts a text in a cell that stands there only until all steps have seen the product: something
// else is going to, or the product is held.
func (l *Log) Provide(row *catalogue.Row, col int, text string) {
	l.provided = append(l.provided, provided{row, col, row.Cell(col)})
	row.Set(col, text)
}

// isProvided reports whether a text stands in a cell only for now.
func (l *Log) isProvided(row *catalogue.Row, col int) bool {
	return slices.ContainsFunc(l.provided, func(p provided) bool { return p.row == row && p.col == col })
}

// provided is a cell as it was before a text was put there for a while.
type provided struct {
	row *catalogue.Row
	col int
	was string
}

// takeBack takes those texts out.
func (l *Log) takeBack() {
	for i := len(l.provided) - 1; i >= 0; i-- {
		p := &l.provided[i]
		p.row.Cells[p.col] = p.was
	}
}

// errNotAllotted would say that a row goes out without what it should have been given.
var errNotAllotted = errors.New("a row would go out without the code that it should have been given; nothing was written, please report it")

// lacks reports whether something that goes out has not been given what it should have.
func (l *Log) lacks() bool {
	return slices.ContainsFunc(l.provided, func(p provided) bool {
		i := slices.Index(l.product.Rows, p.row)
		return i >= 0 && !l.aside[i]
	})
}
