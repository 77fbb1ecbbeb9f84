// Package export writes what is ready for the importer in other forms (tab-separated values, workbooks
// whose cells are all text, lines of JSON) and as a workbook to look at, and reads back what it wrote.
package export

import (
	"bufio"
	"cmp"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"unicode/utf8"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/charset"
	"zetanum/core/disk"
	"zetanum/core/line"
	"zetanum/core/sheet"
	"zetanum/core/template"
	"zetanum/core/workbook"
)

// Name returns the name of the file with what is ready in a form.
func Name(form string) string { return "ready." + form }

// A Ready is what was written for the importer, and what one must know to read it.
type Ready struct {
	Path    string // of the file
	Output  *line.Output
	Above   int // how many rows there are up to the headings
	Below   int // and between them and the first product
	Columns *catalogue.Columns
	Sample  [][]string // first rows of the source, by which the columns of a workbook are made wide enough
	Source  string     // the name of the source
	Sheet   string     // how the sheet of a workbook is called; "" for the usual name
	Date    string     // of the run, as YYYY-MM-DD

	Template *template.Template // the form that is filled; nil if there is none
	Filled   []bool             // which of its columns something fills
	Rows     int                // how many rows are ready
}

// name returns the name of the file in a form.
func (r *Ready) name(form string) string { return r.stem() + "." + form }

// stem returns the name of the file without its ending.
func (r *Ready) stem() string { return strings.TrimSuffix(filepath.Base(r.Path), filepath.Ext(r.Path)) }

// FormOf returns the form in which a template comes back that is a workbook.
func FormOf(t *template.Template) string {
	if t.Kind == "xls" { // which nobody should have to write any more
		return "xlsx"
	}
	return t.Kind
}

// fills reports whether a form is the workbook of the template, filled.
func (r *Ready) fills(form string) bool {
	return r.Template != nil && r.Template.Kind == form
}

// Forms returns those of some forms that are written besides CSV, in the order in which that is done.
func Forms(names []string) []string {
	names = slices.DeleteFunc(slices.Clone(names), func(f string) bool { return f == "csv" })
	slices.Sort(names)
	return slices.Compact(names)
}

// Write writes what is ready in a form beside it, and reads it back. The error wraps
// [workbook.ErrNoRoom] where the form cannot hold it, and [line.ErrReadBack] where what is read is
// not what was written.
func (r *Ready) Write(form string) error {
	name := r.name(form)
	path := filepath.Join(filepath.Dir(r.Path), name)
	if r.fills(form) {
		if err := r.fill(path); err != nil {
			return fmt.Errorf("%s: %w", name, err)
		}
		return nil
	}
	wrote, err := r.write(path, form)
	if errors.Is(err, workbook.ErrNoRoom) {
		return fmt.Errorf("%s: %w. Leave the setting ‹as› %s out, or shorten what is too long", name, err, form)
	}
	if err != nil {
		return fmt.Errorf("%s: %w", name, err)
	}
	read, err := r.read(path, form)
	if err != nil {
		return fmt.Errorf("%s, read back: %w", name, err)
	}
	if wrote != read {
		return fmt.Errorf("%s: %w", name, line.ErrReadBack)
	}
	return nil
}

// A tallyOf is what a table says, in short: how many rows it has, and a checksum of its
// cells with their places.
type tallyOf struct {
	rows int
	sum  uint64
	ods  bool // line breaks are all of one kind
}

// add counts a cell that is not empty.
func (t *tallyOf) add(row, col int, cell string) {
	if cell == "" {
		return
	}
	if t.ods && strings.Contains(cell, "\r") {
		cell = strings.NewReplacer("\r\n", "\n", "\r", "\n").Replace(cell)
	}
	t.rows = max(t.rows, row)
	t.sum += xxhash.Sum64String(cell) * (uint64(row)<<20 | uint64(col)<<1 | 1) // of its place
}

// addAll counts the cells of a row.
func (t *tallyOf) addAll(row int, cells []string) {
	for col, cell := range cells {
		t.add(row, col+1, cell)
	}
}

// A rowWriter writes a table row by row.
type rowWriter interface {
	Row(cells []string) error
	Close() error
}

// create makes a file and what writes to it; done ends both.
func create(path string, begin func(*bufio.Writer) error) (done func(error) error, err error) {
	file, err := os.Create(path)
	if err != nil {
		return nil, err
	}
	out := bufio.NewWriterSize(file, 1<<18)
	if err := begin(out); err != nil {
		return nil, errors.Join(err, file.Close())
	}
	return func(err error) error { return errors.Join(err, out.Flush(), disk.Flush(file), file.Close()) }, nil
}

// tabs returns how the file of tab-separated values is written.
func tabs() sheet.Style {
	return sheet.Style{Separator: '\t', Quote: '"', Quotes: sheet.QuotesNeeded}
}

// open opens what was written for the importer, with all its rows.
func (r *Ready) open() (*sheet.Table, error) {
	from := int64(0)
	if r.Output.BOM && !r.Output.Charset.Wide() {
		from = int64(len(charset.BOM))
	}
	return sheet.OpenWritten(r.Path, from, r.Output.Style, r.Output.Charset, filepath.Dir(r.Path))
}

// write writes what is ready in a form.
func (r *Ready) write(path, form string) (t tallyOf, err error) {
	t.ods = form == "ods"
	table, err := r.open()
	if err != nil {
		return t, err
	}
	defer table.Close()
	out, lines := r.Output, form == "jsonl"
	var w rowWriter
	var headings []string
	if lines && r.Above == 0 { // without headings
		headings = r.Columns.Headings[:r.Output.Count()]
	}
	var begin func() error
	done, err := create(path, func(b *bufio.Writer) error {
		begin = func() (err error) {
			switch form {
			case "tsv":
				if mark := []byte(charset.BOM); out.BOM {
					if out.Encode != nil {
						if mark, err = out.Encode(nil, mark); err != nil {
							return err
						}
					}
					b.Write(mark)
				}
				w = &sheet.RowsWriter{Style: tabs(), W: b, LineEnd: out.LineEnd, Encode: out.Encode}
			case "xlsx":
				w, err = workbook.NewWriter(b, workbook.Layout{Name: cmp.Or(r.Sheet, "Products"), Heads: r.Above, Widths: r.widths(), Date: r.Date})
			case "ods":
				w, err = workbook.NewODSWriter(b, out.Count(), workbook.Layout{Name: cmp.Or(r.Sheet, "Products"), Heads: r.Above, Widths: r.widths(), Date: r.Date})
			case "xls":
				w, err = workbook.NewXLSWriter(b, filepath.Dir(path), workbook.Layout{Name: cmp.Or(r.Sheet, "Products")})
			case "jsonl":
				w = sheet.NewLinesWriter(b, headings)
			}
			return err
		}
		if headings != nil || !lines {
			return begin()
		}
		return nil
	})
	if err != nil {
		return t, err
	}
	n, rows := 0, 0
	var failed error
	err = table.Each(func() {}, func(row *catalogue.Row) {
		n++
		switch {
		case failed != nil:
			return
		case lines && n == r.Above:
			headings = slices.Clone(row.Cells)
			failed = begin()
			return
		case lines && n <= r.Above+r.Below:
			return
		case lines && rows == 0:
			rows = 1 // the names, which an empty file does not have
			t.addAll(1, sheet.Names(headings))
		}
		rows++
		t.addAll(rows, row.Cells)
		failed = w.Row(row.Cells)
	})
	err = errors.Join(err, failed)
	if w != nil {
		err = errors.Join(err, w.Close())
	}
	return t, done(err)
}

// read reads what a file in a form says.
func (r *Ready) read(path, form string) (t tallyOf, err error) {
	t.ods = form == "ods"
	file, err := os.Open(path)
	if err != nil {
		return t, err
	}
	defer file.Close()
	info, err := file.Stat()
	if err != nil || info.Size() == 0 {
		return t, err
	}
	if form == "xlsx" || form == "ods" || form == "xls" {
		book, err := workbook.Open(file, info.Size())
		if err != nil {
			return t, err
		}
		err = book.Rows(book.Sheets[0], func(row *workbook.Row) error {
			for _, c := range row.Cells {
				t.add(row.Number, c.Col, c.Text)
			}
			return nil
		})
		return t, err
	}
	var table *sheet.Table
	if form == "tsv" {
		from := int64(0)
		if r.Output.BOM && r.Output.Charset == charset.UTF8 {
			from = int64(len(charset.BOM))
		}
		table, err = sheet.OpenWritten(path, from, tabs(), r.Output.Charset, filepath.Dir(path))
	} else {
		table, err = sheet.Open(path, sheet.Options{Spool: filepath.Dir(path), AnyHeadings: true, Reading: sheet.Reading{HeadingRow: 1}})
	}
	if err != nil {
		return t, err
	}
	defer table.Close()
	t.addAll(1, table.Columns.Headings)
	return t, table.Each(func() {}, func(row *catalogue.Row) { t.addAll(row.Number, row.Cells) })
}

// The narrowest and widest columns of a workbook, in characters.
const (
	narrowest = 8
	widest    = 48
)

// widths returns how wide the columns that go out must be for most of the first cells.
func (r *Ready) widths() []int {
	widths := make([]int, min(r.Output.Count(), 1000))
	for n := range widths {
		col := n
		if r.Output.Columns != nil {
			col = r.Output.Columns[n].Col
		}
		lengths := []int{}
		for _, cells := range r.Sample {
			if col < len(cells) && cells[col] != "" {
				lengths = append(lengths, utf8.RuneCountInString(cells[col]))
			}
		}
		slices.Sort(lengths)
		need := utf8.RuneCountInString(r.Output.Heading(n, r.Columns))
		if len(lengths) > 0 {
			need = max(need, lengths[len(lengths)*9/10])
		}
		widths[n] = max(narrowest, min(widest, need+2))
	}
	return widths
}
