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
	"slices"
	"strconv"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/sheet"
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
			Do: "What comes back has the column " + RowHeading + ", as held.csv has it, or the SKU, and columns of " + source.Name +
				"; of a result of the shop the setting ‹outcome› names the column that says what became of each row."}
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
