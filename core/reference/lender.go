package reference

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"unicode"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/rescue"
	"zetanum/core/sheet"
	"zetanum/core/text"
)

// A Lender is a sheet to borrow from: its values by key. Beside twenty bytes a row
// only so much of it is kept in memory, the rest in a file. It is used by many
// goroutines at once.
type Lender struct {
	Name string
	Rows int // with a key
	// Taken are the columns that values are taken from, with a sample of each.
	Taken []TakenColumn
	// Hidden are the headings of columns that the workbook does not show.
	Hidden []string
	Until  int // the row with the headings of another table, from which on nothing is read; 0: there is none

	key    []int
	take   []int
	tidy   []bool // whether white space in it is put in order
	scopes []text.Scope
	rule   *BorrowRule
	exact  slots
	loose  slots // where keys need not be the same
	store  store
	found  []uint64 // a bit for each of the exact slots whose record was asked for
	twice  map[twiceKey]int

	reading sync.WaitGroup
	failed  error    // of the reading
	samples []string // of what is taken
	scratch []byte   // for keys
}

// A TakenColumn is a column that values are taken from.
type TakenColumn struct {
	Name    string   `json:"name"` // in the rule
	Heading string   `json:"heading"`
	Sample  string   `json:"sample"`
	Alike   []string `json:"look_alikes,omitempty"` // headings of the sheet that look like it
}

// twiceKey is a value of an entry that another row contradicts.
type twiceKey struct {
	entry, take int
	loose       bool // it is a row with another key that comes to the same
}

// ErrSelf says that a file would borrow from itself.
var ErrSelf = columns.Refuse("a sheet cannot borrow from itself; sheet names another one of the workbook")

// Lend opens a sheet to borrow from and begins to read it, while other work goes on; see [Lender.Lent]. kind says, by
// its name in the rule, of what nature a value is. What does not fit in memory goes into a file in the folder of
// opt.Spool. The lender must be closed.
func Lend(rule *BorrowRule, opt sheet.Options, kind func(name string) catalogue.Kind) (*Lender, error) {
	opt.Sheet, opt.AnyHeadings, opt.Reading = rule.Sheet, true, rule.Reading
	opt.Hints = catalogue.ParseFields(rule.Headings)
	table, err := sheet.Open(rule.From, opt)
	if err != nil {
		return nil, err
	}
	l := &Lender{Name: cmp.Or(rule.Called, table.Name), rule: rule, twice: make(map[twiceKey]int), Hidden: table.Hidden}
	l.store.Dir = opt.Spool
	if err := l.fit(table, kind); err != nil {
		table.Close()
		return nil, err
	}
	l.reading.Go(func() {
		defer table.Close()
		l.failed = l.read(table)
	})
	return l, nil
}

// fit finds the columns that the rule names, and says of what is taken where white space is put in order.
func (l *Lender) fit(table *sheet.Table, kind func(name string) catalogue.Kind) error {
	names, _ := l.rule.Keys()
	for _, name := range names {
		col, err := l.column(table, name)
		if err != nil {
			return err
		}
		l.key = append(l.key, col)
	}
	for _, name := range l.rule.Take {
		col, err := l.column(table, name)
		if err != nil {
			return err
		}
		l.take = append(l.take, col)
		h := table.Columns.Headings[col]
		l.Taken = append(l.Taken, TakenColumn{Name: name, Heading: h, Alike: LookAlikes(table.Columns.Headings, h)})
		scope := text.Edges
		if kind(name) == catalogue.LineKind {
			scope = text.OneLine
		}
		l.scopes, l.tidy = append(l.scopes, scope), append(l.tidy, kind(name) != catalogue.HTMLKind)
	}
	return nil
}

// read takes down the rows of the sheet.
func (l *Lender) read(table *sheet.Table) error {
	codes, err := l.evidence(table)
	if err != nil {
		return err
	}
	values := make([]string, len(l.take))
	var failed error
	err = table.EachProduct(func() {
		l.Rows, l.exact, l.loose, l.samples = 0, slots{}, slots{}, make([]string, len(l.take))
		failed = l.store.reset()
	}, func(r *catalogue.Row) {
		for i, col := range l.take {
			values[i] = r.Cell(col)
			if l.tidy[i] {
				values[i], _, _ = text.Tidy(values[i], l.scopes[i])
			}
			if codes[i] != nil {
				values[i] = restored(r, col, values[i], codes[i])
			}
			if l.samples[i] == "" {
				l.samples[i] = strings.Clone(catalogue.Shorten(values[i], 40))
			}
		}
		if failed == nil {
			failed = l.enter(r, values)
		}
	})
	if err = cmp.Or(err, failed); err != nil {
		return err
	}
	l.Until = table.Until
	l.found = make([]uint64, len(l.exact.list)/64+1)
	return l.store.Flush()
}

// Lent waits until the sheet has been read. Only then are there all fields of the lender; [Lender.Find] waits by itself. The
// error is one of reading.
func (l *Lender) Lent() error {
	l.reading.Wait()
	if l.failed != nil {
		return l.failed
	}
	for i, sample := range l.samples {
		l.Taken[i].Sample = sample
	}
	return nil
}

// evidence returns what the columns that codes are taken from prove of their cells, nil for the others:
// a code that a sheet itself proves is as good as one that stands whole in it.
func (l *Lender) evidence(table *sheet.Table) ([]*rescue.Evidence, error) {
	codes := make([]*rescue.Evidence, len(l.take))
	models := make([]*rescue.Model, len(l.take))
	some := false
	for i, name := range l.rule.Take {
		if f, _ := catalogue.ParseField(name); f == catalogue.Barcode || table.Columns.Fields[l.take[i]] == catalogue.Barcode {
			models[i], some = new(rescue.Model), true
		}
	}
	if !some {
		return codes, nil
	}
	err := table.EachProduct(func() {
		for i := range models {
			if models[i] != nil {
				models[i] = new(rescue.Model)
			}
		}
	}, func(r *catalogue.Row) {
		for i, col := range l.take {
			if models[i] != nil {
				models[i].Add(rescue.Read(r.Cell(col), r.Mark(col)&catalogue.Numeric != 0))
			}
		}
	})
	for i := range models {
		if models[i] != nil {
			codes[i] = models[i].Weigh(rescue.Rules{})
		}
	}
	return codes, err
}

// restored returns a code as its column proves it, or what stands in the cell.
func restored(r *catalogue.Row, col int, cell string, evidence *rescue.Evidence) string {
	v := evidence.Decide(rescue.Read(cell, r.Mark(col)&catalogue.Numeric != 0))
	if v.Whole() && !v.Intact() && v.Code.IsValid() {
		return v.Code.String()
	}
	return cell
}

// Close removes what was put in a file.
func (l *Lender) Close() error {
	l.reading.Wait()
	return l.store.Close()
}

// column finds a column of the sheet.
func (l *Lender) column(table *sheet.Table, name string) (int, error) {
	for h, said := range l.rule.Headings {
		if said == name {
			if col := columns.Find(&table.Columns, h); col >= 0 {
				return col, nil
			}
			return -1, fmt.Errorf("%w: [[borrow]] headings names %q, which %s does not have; its headings are: %s", columns.ErrWrong, h,
				table.Name, strings.Join(table.Columns.Headings, ", "))
		}
	}
	cols := columns.FindAll(&table.Columns, name)
	switch {
	case len(cols) == 0:
		return -1, fmt.Errorf("%w: [[borrow]] names %q, which %s does not have%s; its headings are: %s. headings = { \"ITS HEADING\" = "+
			"%q } says which column is meant",
			columns.ErrWrong, name, table.Name, text.DidYouMean(name, table.Columns.Headings), strings.Join(table.Columns.Headings, ", "),
			name)
	case len(cols) > 1:
		var names []string
		for _, col := range cols {
			names = append(names, fmt.Sprintf("%q", table.Columns.Headings[col]))
		}
		return -1, fmt.Errorf("%w: [[borrow]] names %q, and %s has several such columns: %s; headings = { %s = %q } says which is meant",
			columns.ErrWrong, name, table.Name, strings.Join(names, ", "), names[0], name)
	}
	return cols[0], nil
}

// keyOf appends the key of a row; nothing if a part of it is empty.
func keyOf(dst []byte, row *catalogue.Row, cols []int) []byte {
	start := len(dst)
	for i, col := range cols {
		cell := row.Cell(col)
		if strings.TrimSpace(cell) == "" {
			return dst[:start]
		}
		if i > 0 {
			dst = append(dst, 0)
		}
		dst = append(dst, cell...)
	}
	return dst
}

// loosen appends a key without what the rule says does not count.
func (r *BorrowRule) loosen(dst []byte, key []byte) []byte {
	has := func(what string) bool { return slices.Contains(r.Alike, what) }
	fold, spaces, dashes, zeros := has("case"), has("spaces"), has("dashes"), has("zeros")
	leading := true
	for _, c := range string(key) {
		switch {
		case c == 0:
			dst, leading = append(dst, 0), true
			continue
		case spaces && unicode.IsSpace(c):
			continue
		case dashes && (c == '-' || c == '_' || c == '–' || c == '—' || c == '‐' || c == '‑'):
			continue
		case zeros && leading && c == '0':
			continue
		}
		leading = false
		if fold {
			c = unicode.ToLower(unicode.ToUpper(c))
		}
		dst = append(dst, string(c)...)
	}
	return dst
}

// enter takes a row down.
func (l *Lender) enter(r *catalogue.Row, values []string) error {
	key := keyOf(l.scratch[:0], r, l.key)
	if len(key) == 0 {
		return nil
	}
	l.scratch = key
	l.Rows++
	l.exact.room()
	l.loose.room()
	at, e, err := l.exact.find(&l.store, key, nil)
	if err != nil {
		return err
	}
	if e != nil {
		return l.again(at, e, r.Number, values, false)
	}
	offset, err := l.store.append(&record{entry: l.exact.used, row: r.Number, key: string(key), values: values})
	if err != nil {
		return err
	}
	l.exact.enter(at, xxhash.Sum64(key), offset)
	if len(l.rule.Alike) == 0 {
		return nil
	}
	loose := l.rule.loosen(nil, key)
	at, other, err := l.loose.find(&l.store, loose, l.rule)
	if err != nil {
		return err
	}
	if other != nil {
		// Another key comes to the same; it must not have other values.
		return l.again(-1, other, r.Number, values, true)
	}
	l.loose.enter(at, xxhash.Sum64(loose), offset)
	return nil
}

// again deals with a second row of the same key: its values must not contradict
// those that are known, and are known themselves where there were none.
func (l *Lender) again(at int, e *record, row int, values []string, loose bool) error {
	fill := false
	for i, v := range values {
		switch {
		case v == "" || v == e.values[i]:
		case e.values[i] == "":
			e.values[i], fill = v, true
		default:
			k := twiceKey{e.entry, i, loose}
			if l.twice[k] == 0 {
				l.twice[k] = row
			}
		}
	}
	if !fill || at < 0 {
		return nil
	}
	offset, err := l.store.append(e)
	if err != nil {
		return err
	}
	l.exact.list[at].offset = offset
	if len(l.rule.Alike) == 0 {
		return nil
	}
	at, other, err := l.loose.find(&l.store, l.rule.loosen(nil, []byte(e.key)), l.rule)
	if err == nil && other != nil && other.entry == e.entry {
		l.loose.list[at].offset = offset
	}
	return err
}

// A Loan is what a sheet has for a row.
type Loan struct {
	Row    int      // in the sheet
	Key    string   // there, if it is spelt otherwise
	Values []string // of what is taken; "" where it has nothing
	Twice  []int    // the row that contradicts each, or 0
}

// Find looks up a row by its cells in cols, the columns of the key; nil if the
// sheet does not have it. asked says whether there was anything to look up.
func (l *Lender) Find(row *catalogue.Row, cols []int) (loan *Loan, asked bool, err error) {
	var scratch [64]byte
	key := keyOf(scratch[:0], row, cols)
	if len(key) == 0 {
		return nil, false, nil
	}
	if l.reading.Wait(); l.failed != nil {
		return nil, true, l.failed
	}
	at, e, err := l.exact.find(&l.store, key, nil)
	if err != nil {
		return nil, true, err
	}
	exact := e != nil
	if e == nil && len(l.rule.Alike) > 0 {
		if _, e, err = l.loose.find(&l.store, l.rule.loosen(nil, key), l.rule); err == nil && e != nil {
			at, _, err = l.exact.find(&l.store, []byte(e.key), nil)
		}
		if err != nil {
			return nil, true, err
		}
	}
	if e == nil {
		return nil, true, nil
	}
	if bits := &l.found[at/64]; atomic.LoadUint64(bits)&(1<<(at%64)) == 0 {
		atomic.OrUint64(bits, 1<<(at%64))
	}
	loan = &e.loan
	loan.Row, loan.Values = e.row, e.values
	if !exact {
		loan.Key = strings.ReplaceAll(e.key, "\x00", " ")
	}
	if len(l.twice) > 0 {
		loan.Twice = make([]int, len(e.values))
		for i := range e.values {
			loan.Twice[i] = l.twice[twiceKey{e.entry, i, false}]
			if loan.Twice[i] == 0 && !exact {
				loan.Twice[i] = l.twice[twiceKey{e.entry, i, true}]
			}
		}
	}
	return loan, true, nil
}

// Unasked calls do with each row of the sheet that was not found: its number, its
// key and its values.
func (l *Lender) Unasked(do func(row int, key, values []string)) error {
	var offsets []int64
	for at := range l.exact.list {
		if o := l.exact.list[at].offset; o > 0 && l.found[at/64]&(1<<(at%64)) == 0 {
			offsets = append(offsets, o)
		}
	}
	slices.Sort(offsets)
	for _, offset := range offsets {
		e, err := l.store.read(offset)
		if err != nil {
			return err
		}
		do(e.row, strings.Split(e.key, "\x00"), e.values)
	}
	return nil
}
