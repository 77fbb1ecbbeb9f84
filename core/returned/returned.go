// Package returned reads tables in which people have worked and which they hand back: rows that
// were held, as they are in held.csv, mended; rows that were set aside; cells that somebody had to
// fill in. It says which cells of the source they change.
//
// Such a table has the number of the row in the source in a column Row, as all tables that a
// repair writes for people, or the key by which the source tells its rows apart. It is either as
// wide as the source, under the same headings, or has a cell in each row, named by its column:
//
//	Row,Reason,SKU,EAN            Row,Column,Value
//	18,"Only 3 of …",A,952…       18,EAN,952…
//
// Tables come back from spreadsheet programs, which spoil cells that nobody has touched: a code
// that is whole in the source and rounded in what comes back stays as it was.
package returned

import (
	"errors"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/quantity"
	"zetanum/core/rescue"
	"zetanum/core/sheet"
	"zetanum/core/text"
)

// The headings of the columns that a repair writes before those of the source.
const (
	RowHeading    = "Row"
	ReasonHeading = "Reason"
	columnHeading = "Column"

	outcomeHeading = "Outcome"
	remarkHeading  = "Remark"
)

// valueHeadings are those of the cell itself, in tables that have one in each row.
var valueHeadings = []string{"Value", "Cell", "Here"}

// ErrNotKnown says that a table says nothing about rows of the source.
var ErrNotKnown = errors.New("nothing in it is about rows of the source")

// A File is a table that has come back.
type File struct {
	Name  string
	edits []edit
	key   string // the heading by which its rows are known; "" if that is by their numbers
	alone []int  // its rows that say of no row of the source that they are it
	shop  bool   // it is what the shop says of rows: it changes no cell
}

// FromShop reports whether the table is what the shop says of the rows that it was given.
func (f *File) FromShop() bool { return f.shop }

// An edit is what a table says of a cell.
type edit struct {
	row  int    // in the source; 0 if it is known by its key
	key  string // of the row
	col  int    // in the source
	text string
	at   int // the row there
	said *Said
}

// Read reads a table that comes back to a source. Of a workbook those sheets are read that have
// the numbers of rows, or else the first.
func Read(path string, opt sheet.Options, source *sheet.Table, said Declared) (*File, error) {
	opt.AnyHeadings = true
	table, err := sheet.Open(path, opt)
	if err != nil {
		return nil, err
	}
	f := &File{Name: table.Name}
	var others []*sheet.Table
	defer func() {
		for _, t := range append(others, table) {
			t.Close()
		}
	}()
	if opt.Sheet == "" {
		for _, name := range table.Others {
			opt.Sheet = name
			if t, err := sheet.Open(path, opt); err == nil {
				others = append(others, t)
			}
		}
	}
	numbered := slices.DeleteFunc(append([]*sheet.Table{table}, others...), func(t *sheet.Table) bool { return find(t, RowHeading) < 0 })
	if len(numbered) == 0 {
		numbered = []*sheet.Table{table}
	}
	for _, t := range numbered {
		read, err := f.reader(t, source, said)
		if err != nil {
			return nil, err
		}
		before := len(f.edits)
		if err := t.Each(func() { f.edits = f.edits[:before] }, read); err != nil {
			return nil, err
		}
	}
	return f, nil
}

// reader returns what takes the edits out of a row of a table.
func (f *File) reader(table, source *sheet.Table, said Declared) (func(*catalogue.Row), error) {
	number := find(table, RowHeading)
	if column := find(table, outcomeHeading); number >= 0 && column >= 0 { // as a repair has written it down
		remark := find(table, remarkHeading)
		f.shop = true
		return func(row *catalogue.Row) {
			f.addSaid(row, number, -1, &Said{Outcome: ParseOutcome(row.Cell(column)), Remark: strings.Clone(row.Cell(remark))})
		}, nil
	}
	if number >= 0 {
		column, value := find(table, columnHeading), -1
		for _, h := range valueHeadings {
			value = max(value, find(table, h))
		}
		if column >= 0 && value >= 0 {
			return func(row *catalogue.Row) {
				if col := find(source, row.Cell(column)); col >= 0 {
					f.add(row, number, -1, col, row.Cell(value))
				}
			}, nil
		}
	}
	key := -1
	if number < 0 {
		for _, field := range []catalogue.Field{catalogue.SKU, catalogue.Slug, catalogue.Barcode} {
			if here, there := table.Columns.First(field), source.Columns.First(field); key < 0 && here >= 0 && there >= 0 {
				key, f.key = here, source.Columns.Headings[there]
			}
		}
	}
	if number < 0 && key >= 0 || said != (Declared{}) {
		r, ok, err := resultIn(table, source, said)
		if err != nil {
			return nil, err
		}
		if ok {
			f.shop = true
			return func(row *catalogue.Row) {
				if s := r.of(row); s.Outcome != NoOutcome {
					f.addSaid(row, number, key, &s)
				}
			}, nil
		}
	}
	cols := pairs(table, source)
	if number < 0 && key < 0 || len(cols) == 0 {
		return nil, &sheet.Error{File: table.Name, Err: ErrNotKnown, More: "its headings are " + strings.Join(table.Columns.Headings, ", "),
			Do: "What comes back has the column " + RowHeading + ", as held.csv has it, or the SKU, and columns of " + source.Name + "."}
	}
	return func(row *catalogue.Row) {
		for here, there := range cols {
			if here < len(row.Cells) && here != key && there >= 0 {
				f.add(row, number, key, there, row.Cells[here])
			}
		}
	}, nil
}

// pairs returns which column of the source each column of a table is, -1 for none: columns of
// one heading in their order.
func pairs(table, source *sheet.Table) (cols []int) {
	own := source.Columns.Headings[:source.Columns.Own()]
	taken := make([]bool, len(own))
	some := false
	for _, h := range table.Columns.Headings {
		at := -1
		for col, o := range own {
			if !taken[col] && columns.Same(o, h) {
				at, taken[col], some = col, true, true
				break
			}
		}
		cols = append(cols, at)
	}
	if !some {
		return nil
	}
	return cols
}

// find returns the column under a heading of ours, -1 if there is none.
func find(table *sheet.Table, heading string) int {
	return slices.IndexFunc(table.Columns.Headings[:table.Columns.Own()], func(h string) bool {
		return strings.TrimSpace(h) == heading
	})
}

// add takes down what a row says of a cell. With a key an empty cell says nothing.
func (f *File) add(row *catalogue.Row, number, key, col int, cell string) {
	if key < 0 || strings.TrimSpace(cell) != "" {
		f.put(row, number, key, edit{col: col, text: strings.Clone(cell)})
	}
}

// addSaid takes down what the shop says of a row.
func (f *File) addSaid(row *catalogue.Row, number, key int, said *Said) {
	f.put(row, number, key, edit{col: -1, said: said})
}

// put takes down an edit with the row that it means.
func (f *File) put(row *catalogue.Row, number, key int, e edit) {
	e.at = row.Number
	if key >= 0 {
		if e.key = strings.Clone(strings.TrimSpace(row.Cell(key))); e.key == "" {
			return
		}
	} else {
		n, err := strconv.Atoi(strings.TrimSuffix(strings.TrimSpace(row.Cell(number)), ".0"))
		if err != nil || n < 1 {
			if !row.Blank() && (len(f.alone) == 0 || f.alone[len(f.alone)-1] != row.Number) {
				f.alone = append(f.alone, row.Number)
			}
			return
		}
		e.row = n
	}
	f.edits = append(f.edits, e)
}

// Rows are the rows of a source that have been changed by what came back.
type Rows struct {
	Spoilt  int      // that only a spreadsheet program has changed, and stay
	Missing []string // what is known by no row of the source, in words, at most ten
	Shop    bool     // something of it is what the shop says
	rows    map[int]*Row
	said    map[int]*Said
}

// A Row is one of them, as it stands in the source and as it is to be.
type Row struct{ Was, Is []string }

// Settle holds files that came back against the source, in their order: what a later one says counts
// more.
func Settle(files []*File, source *sheet.Table) (*Rows, error) {
	byRow, byKey := make(map[int][][]*edit), make(map[int]map[string][][]*edit)
	for n, f := range files {
		col := -1
		if f.key != "" {
			col = find(source, f.key)
			if byKey[col] == nil {
				byKey[col] = make(map[string][][]*edit)
			}
		}
		for i := range f.edits {
			e := &f.edits[i]
			if e.key != "" {
				byKey[col][e.key] = ofFile(byKey[col][e.key], n, len(files), e)
			} else {
				byRow[e.row] = ofFile(byRow[e.row], n, len(files), e)
			}
		}
	}
	r := &Rows{}
	used := make(map[*edit]bool)
	known := knownBy(source)
	err := source.Each(func() { *r = Rows{rows: make(map[int]*Row), said: make(map[int]*Said)}; clear(used) }, func(row *catalogue.Row) {
		all := [][][]*edit{byRow[row.Number]}
		for col, keys := range byKey {
			all = append(all, keys[strings.TrimSpace(row.Cell(col))])
		}
		for _, edits := range all {
			r.change(row, slices.Concat(edits...), source.Columns.Own(), used)
		}
		if s := r.said[row.Number]; s != nil {
			s.Known = nil
			for _, col := range known {
				s.Known = append(s.Known, strings.Clone(row.Cell(col)))
			}
		}
	})
	if err != nil {
		return nil, err
	}
	for _, f := range files {
		r.missing(f, used)
		r.Shop = r.Shop || f.shop
	}
	return r, nil
}

// knownBy returns the columns by which a person knows a product.
func knownBy(source *sheet.Table) (cols []int) {
	for _, f := range []catalogue.Field{catalogue.SKU, catalogue.Title} {
		if col := source.Columns.First(f); col >= 0 {
			cols = append(cols, col)
		}
	}
	return cols
}

func ofFile(list [][]*edit, n, of int, e *edit) [][]*edit {
	if list == nil {
		list = make([][]*edit, of)
	}
	list[n] = append(list[n], e)
	return list
}

// change does to a row what is said of it.
func (r *Rows) change(row *catalogue.Row, edits []*edit, width int, used map[*edit]bool) {
	if len(edits) == 0 {
		return
	}
	one := r.rows[row.Number]
	if one == nil {
		one = &Row{Was: make([]string, len(row.Cells), max(width, len(row.Cells)))}
		for i, c := range row.Cells {
			one.Was[i] = strings.Clone(c)
		}
		one.Is = slices.Clone(one.Was)
	}
	for _, e := range edits {
		used[e] = true
		if e.said != nil {
			said := *e.said
			r.said[row.Number] = &said
			continue
		}
		before := ""
		if e.col < len(one.Is) {
			before = one.Is[e.col]
		}
		switch same, spoilt := unchanged(before, e.text); {
		case spoilt:
			r.Spoilt++
		case !same:
			for len(one.Is) <= e.col {
				one.Is, one.Was = append(one.Is, ""), append(one.Was, "")
			}
			one.Is[e.col] = e.text
			if s := r.said[row.Number]; s != nil && s.Outcome == Refused {
				delete(r.said, row.Number) // it has been mended since
			}
		}
	}
	if !slices.Equal(one.Is, one.Was) && len(one.Is) > width {
		one.Is = one.Is[:width] // what the headings do not name cannot be mended
	}
	if !slices.Equal(one.Is, one.Was) {
		r.rows[row.Number] = one
	}
}

// missing names what of a file no row of the source answers to.
func (r *Rows) missing(f *File, used map[*edit]bool) {
	named := make(map[string]bool)
	for _, at := range f.alone[:min(len(f.alone), mostMissing)] {
		r.Missing = append(r.Missing, fmt.Sprintf("no row number (%s, row %d)", f.Name, at))
	}
	for i := range f.edits {
		e := &f.edits[i]
		if used[e] || len(r.Missing) == mostMissing {
			continue
		}
		what := "row " + strconv.Itoa(e.row)
		if e.key != "" {
			what = f.key + " " + e.key
		}
		if !named[what] {
			named[what] = true
			r.Missing = append(r.Missing, fmt.Sprintf("%s (%s, row %d)", what, f.Name, e.at))
		}
	}
}

const mostMissing = 10

// unchanged reports whether a cell that comes back says what it said, and whether it is that,
// spoilt by a spreadsheet program.
func unchanged(before, after string) (same, spoilt bool) {
	b, a := strings.TrimSpace(before), text.Typed(strings.TrimSpace(after))
	switch {
	case a == b || a == text.Typed(b):
		return true, false
	case strings.HasSuffix(a, sheetShortened):
		return true, false
	case a == "" || b == "":
		return false, false
	}
	if code := rescue.Read(b, false); len(b) >= 8 && code.Form == rescue.Plain && code.Missing == 0 && digitsOnly(b) {
		return false, roundedFrom(a, b)
	}
	if b[0] == '0' && digitsOnly(b) && a == strings.TrimLeft(b, "0") {
		return false, true
	}
	x, errX := quantity.Parse(b)
	y, errY := quantity.Parse(a)
	if errX == nil && errY == nil && !x.Ambiguous() && !y.Ambiguous() && x.Cmp(y) == 0 {
		return true, false // written otherwise
	}
	return false, false
}

// sheetShortened ends a text that no cell of a workbook could hold, see the workbook for people.
const sheetShortened = "bytes in the source]"

func digitsOnly(s string) bool { return strings.Trim(s, "0123456789") == "" }

// roundedFrom reports whether a cell is what a spreadsheet program makes of a whole code: its
// number, without the zeros before it or rounded.
func roundedFrom(cell, code string) bool {
	r := rescue.Read(cell, false)
	c := rescue.Read(code, false)
	switch r.Form {
	case rescue.Plain:
		return len(cell) < len(code) && r.N == c.N
	case rescue.Scientific:
		unit := uint64(1)
		for range r.Missing {
			unit *= 10
		}
		low, high := r.N, r.N
		if half := unit / 2; half > 0 {
			low, high = r.N-min(half, r.N), r.N+half
		}
		return low <= c.N && c.N <= high
	}
	return false
}

// Cells returns how many cells have been changed.
func (r *Rows) Cells() (n int) {
	for _, row := range r.rows {
		for col := range row.Is {
			if row.Is[col] != row.Was[col] {
				n++
			}
		}
	}
	return n
}

// Len returns how many rows have been changed.
func (r *Rows) Len() int {
	if r == nil {
		return 0
	}
	return len(r.rows)
}

// ShopHeadings are those of the tables of what the shop has said, before the columns by which a
// person knows a product.
var ShopHeadings = []string{RowHeading, outcomeHeading, remarkHeading}

// Of returns what has been changed in a row, nil if nothing has.
func (r *Rows) Of(number int) *Row {
	if r == nil {
		return nil
	}
	return r.rows[number]
}

// Said returns what the shop says of a row, nil if it says nothing.
func (r *Rows) Said(number int) *Said {
	if r == nil {
		return nil
	}
	return r.said[number]
}

// Told returns the numbers of the rows of which the shop says something, in order.
func (r *Rows) Told() []int { return slices.Sorted(maps.Keys(r.said)) }

// Numbers returns the numbers of the rows in order.
func (r *Rows) Numbers() (numbers []int) {
	if r == nil {
		return nil
	}
	for n := range r.rows {
		numbers = append(numbers, n)
	}
	slices.Sort(numbers)
	return numbers
}

// Columns returns the columns in which something has been changed.
func (r *Rows) Columns() (cols catalogue.ColumnSet) {
	for _, row := range r.rows {
		for col := range row.Is {
			if row.Is[col] != row.Was[col] {
				cols.Add(col)
			}
		}
	}
	return cols
}

// Put changes the cells of a row of the source.
func (r *Rows) Put(row *catalogue.Row) {
	one := r.rows[row.Number]
	if one == nil {
		return
	}
	n := min(len(row.Cells), len(one.Is))
	row.Cells, row.Marks, row.Spans = row.Cells[:n], row.Marks[:n], row.Spans[:n]
	for col, cell := range one.Is {
		if col == len(row.Cells) {
			row.Cells, row.Marks, row.Spans = append(row.Cells, cell), append(row.Marks, 0), append(row.Spans, catalogue.Span{})
		} else if cell != one.Was[col] {
			row.Cells[col], row.Marks[col] = cell, row.Marks[col]&catalogue.Quoted
		}
	}
}
