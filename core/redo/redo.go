// Package redo learns what somebody has done to a file by hand, from the file as it was and the one that was made of it, so that it can be done
// again: which column of the one came of which of the other, and how.
//
//	learned, err := redo.Learn(raw, uploaded)
//	for _, c := range learned.Columns {
//		fmt.Println(c.Heading, c.Kind, c.From, c.True, "of", c.Of)
//	}
package redo

import (
	"cmp"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/lists"
	"zetanum/core/text"
)

// ErrNothingShared says that no column of the one file tells which row of the other a row is.
var ErrNothingShared = errors.New("nothing in the two files tells which rows are the same product")

// A Table is a file.
type Table struct {
	Name     string
	Headings []string
	Fields   []catalogue.Field
	Rows     [][]string
	Numbers  []int // of the rows
}

func (t *Table) cell(row, col int) string {
	if col < 0 || col >= len(t.Rows[row]) {
		return ""
	}
	return strings.TrimSpace(t.Rows[row][col])
}

// A Kind says how a column was made.
type Kind uint8

// The kinds.
const (
	Unknown  Kind = iota // nothing explains it
	Empty                // nothing stands there
	Constant             // the same in every row: Value
	Copy                 // a column of the file: From; with Words some of its values are called otherwise
	Part                 // one of several values of its cells: Part, from 1
	Pattern              // several columns together: Value
	Factor               // an amount reckoned from that of From: Times, and EndIn if all end alike
)

// A Column is one of the file that was made.
type Column struct {
	Heading string
	Field   catalogue.Field
	Kind    Kind
	From    string
	Value   string
	Part    int
	Words   []Word
	Times   string
	EndIn   string

	True, Of   int // rows of which it is true, of those in which either has something
	Exceptions []Exception
	Example    string
}

// A Word is what a value is called there.
type Word struct {
	Ours, Theirs string
	Times        int
}

// An Exception is a row of which it is not true.
type Exception struct {
	Row          int    // of the file that was made
	Stands, Were string // what stands there, and what would stand there
}

// Learned is what was learnt.
type Learned struct {
	Keys    [2]string // the headings of what both have: before, and after
	Paired  int       // rows of the file that was made whose row in the other is known
	Alone   int       // the others of them
	Columns []Column
}

const (
	leastPaired = 3
	// The shares of rows, in hundredths, of which it must be true that a column was made in a way, or is a plain copy in which much was changed by hand.
	made, some = 90, 70

	mostExceptions = 3
	mostWords      = 200
)

// Learn learns what was done to before, so that after came of it.
func Learn(before, after *Table) (*Learned, error) {
	l := &learner{before: before, after: after}
	if err := l.pair(); err != nil {
		return nil, err
	}
	l.learned.Alone = len(after.Rows) - l.learned.Paired
	for col := range after.Headings {
		l.learned.Columns = append(l.learned.Columns, l.column(col))
	}
	return &l.learned, nil
}

type learner struct {
	before, after *Table
	rows          [][2]int // of both
	learned       Learned
}

// keyOf returns a cell as it is compared to find the row of a product; loosely without what people and programs change in codes.
func keyOf(cell string, loosely bool) string {
	cell = text.Typed(cell)
	if !loosely {
		return cell
	}
	return strings.TrimLeft(strings.Map(func(r rune) rune {
		if r >= '0' && r <= '9' || r >= 'a' && r <= 'z' {
			return r
		}
		return -1
	}, strings.ToLower(text.ASCII(cell))), "0")
}

// pair finds the rows that are the same product, by the pair of columns that most rows share.
func (l *learner) pair() error {
	best, bestScore := [][2]int(nil), 0
	for _, loosely := range []bool{false, true} {
		ours := make([]map[string]int, len(l.before.Headings))
		for b := range ours {
			ours[b] = unique(l.before, b, loosely)
		}
		for a := range l.after.Headings {
			theirs := unique(l.after, a, loosely)
			if len(theirs) < leastPaired {
				continue
			}
			for b := range ours {
				var rows [][2]int
				length := 0
				for key, row := range ours[b] {
					if other, there := theirs[key]; there {
						rows = append(rows, [2]int{row, other})
						length += min(len(key), 20)
					}
				}
				score := 100*len(rows) + length // longer values are surer
				if l.before.Fields[b] == l.after.Fields[a] && l.after.Fields[a] == catalogue.SKU {
					score += 100 * len(rows)
				}
				if len(rows) >= leastPaired && 2*len(rows) >= min(len(l.after.Rows), len(l.before.Rows)) && score > bestScore {
					best, bestScore = rows, score
					l.learned.Keys = [2]string{l.before.Headings[b], l.after.Headings[a]}
				}
			}
		}
		if best != nil {
			break
		}
	}
	if best == nil {
		return fmt.Errorf("%s and %s: %w: no column of the one has at least half of the values of a column of the other", l.before.Name, l.after.Name, ErrNothingShared)
	}
	slices.SortFunc(best, func(a, b [2]int) int { return a[1] - b[1] })
	l.rows, l.learned.Paired = best, len(best)
	return nil
}

// unique returns the rows of values that stand once in a column.
func unique(t *Table, col int, loosely bool) map[string]int {
	rows := make(map[string]int)
	for row := range t.Rows {
		key := keyOf(t.cell(row, col), loosely)
		if len(key) < 2 {
			continue
		}
		if _, twice := rows[key]; twice {
			rows[key] = -1
		} else {
			rows[key] = row
		}
	}
	for key, row := range rows {
		if row < 0 {
			delete(rows, key)
		}
	}
	return rows
}

// An explanation is one way in which a column may have come about.
type explanation struct {
	Column
	says func(row int) string            // what would stand there, by the row of the file before
	same func(stands, would string) bool // nil: the same text
	cost int                             // of two that are as true the cheaper is taken
}

// column finds out how a column came about.
func (l *learner) column(col int) Column {
	plain := Column{Heading: l.after.Headings[col], Field: l.after.Fields[col]}
	filled := 0
	for _, r := range l.rows {
		if cell := l.after.cell(r[1], col); cell != "" {
			if filled++; plain.Example == "" {
				plain.Example = cell
			}
		}
	}
	if filled == 0 {
		plain.Kind = Empty
		return plain
	}
	var list []explanation
	list = append(list, l.copies(col)...)
	list = append(list, l.constants(col)...)
	list = append(list, l.factors(col)...)
	list = append(list, l.parts(col)...)
	list = append(list, l.patterns(col)...)
	for i := range list {
		list[i].Heading, list[i].Field, list[i].Example = plain.Heading, plain.Field, plain.Example
		l.weigh(&list[i], col)
	}
	best := -1
	for i := range list {
		e := &list[i]
		least := made
		if e.Kind == Copy && e.Words == nil {
			least = some
		}
		if 100*e.True < least*e.Of || e.True < min(leastPaired, e.Of) {
			continue
		}
		if best < 0 || better(e, &list[best]) {
			best = i
		}
	}
	if best < 0 {
		return plain
	}
	return list[best].Column
}

// better reports whether one explanation is better than another: it is true more often, or as often and simpler.
func better(a, b *explanation) bool {
	level := func(e *explanation) int { // rows of which it is true, as far as more of them tell anything
		return 100 * e.True / max(1, e.Of) / 2
	}
	return cmp.Or(cmp.Compare(level(b), level(a)), cmp.Compare(a.cost, b.cost), cmp.Compare(b.True, a.True), cmp.Compare(a.From+a.Value, b.From+b.Value)) < 0
}

// weigh counts of which rows an explanation is true.
func (l *learner) weigh(e *explanation, col int) {
	for _, r := range l.rows {
		stands, would := l.after.cell(r[1], col), e.says(r[0])
		if stands == "" && would == "" {
			continue
		}
		e.Of++
		if stands == would || e.same != nil && stands != "" && would != "" && e.same(stands, would) {
			e.True++
		} else if len(e.Exceptions) < mostExceptions {
			e.Exceptions = append(e.Exceptions, Exception{l.after.Numbers[r[1]], stands, would})
		}
	}
}

// constants explains a column in which the same stands everywhere.
func (l *learner) constants(col int) []explanation {
	times := make(map[string]int)
	most := ""
	for _, r := range l.rows {
		cell := l.after.cell(r[1], col)
		if times[cell]++; times[cell] > times[most] || most == "" {
			most = cell
		}
	}
	if most == "" {
		return nil
	}
	return []explanation{{Column: Column{Kind: Constant, Value: most}, says: func(int) string { return most }, cost: 2}}
}

// copies explains a column as one of the file, perhaps with other words for some of its values.
func (l *learner) copies(col int) (list []explanation) {
	for from, heading := range l.before.Headings {
		same := sameAs(l.pairOf(from, col))
		cost := 1
		if lists.Fold(heading) == lists.Fold(l.after.Headings[col]) || l.before.Fields[from] != catalogue.Unknown && l.before.Fields[from] == l.after.Fields[col] {
			cost = 0
		}
		cell := func(row int) string { return l.before.cell(row, from) }
		list = append(list, explanation{Column: Column{Kind: Copy, From: heading}, says: cell, same: same, cost: cost})
		if words := l.words(from, col, same); len(words) > 0 {
			by := make(map[string]string)
			for _, w := range words {
				by[lists.Fold(w.Ours)] = w.Theirs
			}
			list = append(list, explanation{Column: Column{Kind: Copy, From: heading, Words: words}, cost: 4 + cost, same: same, says: func(row int) string {
				if word, ok := by[lists.Fold(cell(row))]; ok {
					return word
				}
				return cell(row)
			}})
		}
	}
	return list
}

// words returns what the values of a column are called otherwise, if it has few of them and each is called one thing.
func (l *learner) words(from, col int, same func(a, b string) bool) (list []Word) {
	type called struct {
		ours  string
		by    map[string]int
		times int
	}
	values := make(map[string]*called)
	for _, r := range l.rows {
		ours := l.before.cell(r[0], from)
		if ours == "" {
			continue
		}
		c := values[lists.Fold(ours)]
		if c == nil {
			c = &called{ours: ours, by: make(map[string]int)}
			values[lists.Fold(ours)] = c
		}
		c.by[l.after.cell(r[1], col)]++
		c.times++
	}
	if len(values) > mostWords || 3*len(values) > len(l.rows)+3 {
		return nil // of which each row is a case of its own
	}
	results := make(map[string]bool)
	for _, c := range values {
		most, times := "", 0
		for _, theirs := range slices.Sorted(maps.Keys(c.by)) {
			if n := c.by[theirs]; n > times {
				most, times = theirs, n
			}
		}
		results[most] = true
		if most != "" && most != c.ours && !same(most, c.ours) {
			list = append(list, Word{c.ours, most, times})
		}
	}
	if len(results) < 2 {
		return nil // which is the same in every row
	}
	slices.SortFunc(list, func(a, b Word) int { return cmp.Or(b.Times-a.Times, strings.Compare(a.Ours, b.Ours)) })
	return list
}

// parts explains a column as one of several values in the cells of another.
func (l *learner) parts(col int) (list []explanation) {
	for from, heading := range l.before.Headings {
		var sample []string
		for _, r := range l.rows[:min(len(l.rows), 200)] {
			sample = append(sample, l.before.cell(r[0], from))
		}
		mark, several := text.FindList([]text.List{"|", ";", ",", " / ", " > ", "\n"}, sample...)
		if !several {
			continue
		}
		for nth := 1; nth <= 6; nth++ {
			list = append(list, explanation{Column: Column{Kind: Part, From: heading, Part: nth}, cost: 5 + nth, says: func(row int) string {
				if values := mark.Values(l.before.cell(row, from)); len(values) >= nth {
					return strings.TrimSpace(values[nth-1])
				}
				return ""
			}})
		}
	}
	return list
}

// Agree counts the cells of a file that was made by hand which another has as well, in the rows that both have, by their key.
func Agree(again, hand *Table, key string) (same, of int) {
	at := [2]int{slices.Index(again.Headings, key), slices.Index(hand.Headings, key)}
	if at[0] < 0 || at[1] < 0 {
		return 0, 0
	}
	rows := unique(again, at[0], true)
	for k, row := range unique(hand, at[1], true) {
		other, there := rows[k]
		if !there {
			continue
		}
		for col := range hand.Headings {
			of++
			if tidy(hand.cell(row, col)) == tidy(again.cell(other, col)) {
				same++
			}
		}
	}
	return same, of
}

func tidy(s string) string { return strings.Join(strings.Fields(s), " ") }
