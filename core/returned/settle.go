package returned

import (
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/quantity"
	"zetanum/core/rescue"
	"zetanum/core/sheet"
	"zetanum/core/text"
)

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
