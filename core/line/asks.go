package line

import (
	"cmp"
	"errors"
	"slices"
	"strings"

	"zetanum/core/catalogue"
)

// An Allotment gives rows what can only be given when it is known what all of them ask for, such as
// codes that no two may share. While products are judged their rows ask; then Allot settles what they
// get; and when they are repaired they get it. What depends on something else that is allotted is asked
// for in a later round.
type Allotment struct {
	Round int
	// Allot settles asks of rows that go out, in the order of what they ask by: it puts what a row gets in
	// place of its Text, or says why it gets nothing. An error ends the run.
	Allot func(asks []Ask) error
	// Keep is told, before that, what rows have to say of the kind besides asking; see [Log.Keep].
	Keep func(text string)
	// Twins is the finding about rows that ask by the same, which nobody can tell apart.
	Twins catalogue.Code
}

// An Ask is what a row asks for.
type Ask struct {
	By     [4]uint64 // by which it is told from others: how that begins, and a hash of it
	Text   string    // what is asked for; then what the row gets
	Denied catalogue.Code
	Why    string // in words, of what is denied

	row, product, other uint32
	last                uint32 // of the product, if it asks as a whole; then row is its first
	made, col           uint16
	kind                uint8
}

// See says of which row is spoken where something is denied.
func (a *Ask) See(row int) { a.other = uint32(row) }

// orderOfRows orders asks so that they are found by row.
func (a *Ask) orderOfRows(b *Ask) int {
	return cmp.Or(cmp.Compare(a.row, b.row), cmp.Compare(a.made, b.made), cmp.Compare(a.kind, b.kind))
}

// allotted is what has been settled so far. It is safe for concurrent use.
type allotted struct {
	round int
	asks  []Ask // by row
}

// find returns what is settled of an ask of a row; nil if nothing is.
func (a *allotted) find(kind int, row *catalogue.Row) *Ask {
	if a == nil {
		return nil
	}
	wanted := Ask{row: uint32(row.Number), made: uint16(row.Made), kind: uint8(kind)}
	at, found := slices.BinarySearchFunc(a.asks, wanted, func(x, y Ask) int { return x.orderOfRows(&y) })
	if !found {
		return nil
	}
	return &a.asks[at]
}

// of returns what is settled of a row.
func (a *allotted) of(row *catalogue.Row) []Ask {
	if a == nil {
		return nil
	}
	wanted := Ask{row: uint32(row.Number), made: uint16(row.Made)}
	at, _ := slices.BinarySearchFunc(a.asks, wanted, func(x, y Ask) int { return x.orderOfRows(&y) })
	end := at
	for end < len(a.asks) && a.asks[end].row == wanted.row && a.asks[end].made == wanted.made {
		end++
	}
	return a.asks[at:end]
}

// settle allots what was asked for in a round, but for the rows that do not go out.
func (a *allotted) settle(asks []Ask, kinds []Allotment, late *settled) error {
	asks = slices.DeleteFunc(asks, func(k Ask) bool { return !late.goes(&k) })
	slices.SortFunc(asks, func(x, y Ask) int {
		return cmp.Or(cmp.Compare(x.kind, y.kind), slices.Compare(x.By[:], y.By[:]), x.orderOfRows(&y))
	})
	for from := 0; from < len(asks); {
		end := from
		for end < len(asks) && asks[end].kind == asks[from].kind {
			end++
		}
		kind := &kinds[asks[from].kind]
		if err := kind.Allot(twins(asks[from:end], kind.Twins)); err != nil {
			return err
		}
		from = end
	}
	a.asks = append(a.asks, asks...)
	slices.SortFunc(a.asks, func(x, y Ask) int { return x.orderOfRows(&y) })
	a.round++
	return nil
}

// twins denies asks that nobody can tell apart, and returns the others, which it brings to the front.
func twins(asks []Ask, code catalogue.Code) []Ask {
	for i := range asks {
		switch {
		case i > 0 && asks[i].By == asks[i-1].By:
			asks[i].other = asks[i-1].row
		case i+1 < len(asks) && asks[i].By == asks[i+1].By:
			asks[i].other = asks[i+1].row
		default:
			continue
		}
		asks[i].Denied, asks[i].Text = code, ""
	}
	slices.SortStableFunc(asks, func(x, y Ask) int { return min(int(x.Denied), 1) - min(int(y.Denied), 1) })
	end := slices.IndexFunc(asks, func(k Ask) bool { return k.Denied != 0 })
	if end < 0 {
		end = len(asks)
	}
	return asks[:end]
}

// goes reports whether a row that asks goes out, as far as other products decide that.
func (s *settled) goes(k *Ask) bool {
	if s.held.has(k.product) || s.sampled != nil && !s.sampled[int(k.product)] {
		return false
	}
	for row := k.row; row <= max(k.row, k.last); row++ {
		if _, repeats := s.duplicates.of(row); !repeats && !s.gone.has(row) {
			return true
		}
	}
	return false
}

// Ask asks for something that is allotted, for the row at that index of the product, or for the whole
// product; it comes to stand in a column.
func (l *Log) Ask(kind, index, col int, whole bool, by [4]uint64, text string) {
	if !l.judging || l.kinds[kind].Round != l.round() {
		return
	}
	first, row := l.product.Rows[0], l.product.Rows[index]
	ask := Ask{By: by, Text: text, row: uint32(row.Number), product: uint32(first.Number), made: uint16(row.Made), col: uint16(col),
		kind: uint8(kind)}
	if whole {
		ask.row, ask.made, ask.last = ask.product, 0, uint32(l.product.Rows[len(l.product.Rows)-1].Number)
	}
	l.asks, l.asking = append(l.asks, ask), append(l.asking, index)
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

// Allotted returns what a row has been given of what it asked for, "" if it is denied; settled is false
// while that is not known.
func (l *Log) Allotted(kind, index int, whole bool) (text string, settled bool) {
	if whole {
		index = 0
	}
	ask := l.allotted.find(kind, l.product.Rows[index])
	if ask == nil {
		return "", false
	}
	return ask.Text, true
}

func (l *Log) round() int {
	if l.allotted == nil {
		return 0
	}
	return l.allotted.round
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
