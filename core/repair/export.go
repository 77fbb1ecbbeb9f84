package repair

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/charset"
	"zetanum/core/line"
	"zetanum/core/sheet"
	"zetanum/core/workbook"
)

// LookName is the workbook to look at what is ready.
const LookName = "look.xlsx"

// ReadyName returns the name of the file with what is ready in a form.
func ReadyName(form string) string { return "ready." + form }

// forms returns the forms besides CSV in which what is ready is written.
func (o *Options) forms() []string {
	forms := o.As
	if forms == nil && !o.Plain {
		forms = o.Book.Target.As
	}
	forms = slices.DeleteFunc(slices.Clone(forms), func(f string) bool { return f == "csv" })
	slices.Sort(forms)
	return slices.Compact(forms)
}

// export reads back what was written for the importer, writes it in the other forms that
// are wanted, and reads these back, too.
func (r *runner) export(ctx context.Context, dir string) error {
	if err := r.run.ReadBack(ctx, dir, r.result.Report.Written); err != nil {
		return err
	}
	for _, form := range r.opt.forms() {
		name := ReadyName(form)
		wrote, err := r.writeForm(filepath.Join(dir, line.FileNames[0]), filepath.Join(dir, name), form)
		if errors.Is(err, workbook.ErrNoRoom) {
			return fmt.Errorf("%s: %w. Leave the setting as %s out, or shorten what is too long", name, err, form)
		}
		if err != nil {
			return fmt.Errorf("%s: %w", name, err)
		}
		read, err := r.readForm(filepath.Join(dir, name), form)
		if err != nil {
			return fmt.Errorf("%s, read back: %w", name, err)
		}
		if wrote != read {
			return fmt.Errorf("%s: %w", name, line.ErrReadBack)
		}
	}
	if r.opt.Look {
		if err := r.writeLook(dir); err != nil {
			return fmt.Errorf("%s: %w", LookName, err)
		}
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
	return func(err error) error { return errors.Join(err, out.Flush(), file.Sync(), file.Close()) }, nil
}

// tabs returns how the file of tab-separated values is written.
func (r *runner) tabs() sheet.Style {
	return sheet.Style{Separator: '\t', Quote: '"', Quotes: sheet.QuotesNeeded}
}

// openReady opens what was written for the importer, with all its rows.
func (r *runner) openReady(path string) (*sheet.Table, error) {
	from := int64(0)
	if r.run.Output.BOM && !r.run.Output.Charset.Wide() {
		from = int64(len(charset.BOM))
	}
	return sheet.OpenWritten(path, from, r.run.Output.Style, r.run.Output.Charset, filepath.Dir(path))
}

// writeForm writes what is ready in a form.
func (r *runner) writeForm(ready, path, form string) (t tallyOf, err error) {
	t.ods = form == "ods"
	table, err := r.openReady(ready)
	if err != nil {
		return t, err
	}
	defer table.Close()
	above, below := r.run.HeadRows()
	out, lines := &r.run.Output, form == "jsonl"
	var w rowWriter
	var headings []string
	if lines && above == 0 { // without headings
		headings = r.table.Columns.Headings[:r.run.Output.Count()]
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
				w = &sheet.RowsWriter{Style: r.tabs(), W: b, LineEnd: out.LineEnd, Encode: out.Encode}
			case "xlsx":
				w, err = workbook.NewWriter(b, "Products", workbook.Layout{Heads: above, Widths: r.widths()})
			case "ods":
				w, err = workbook.NewODSWriter(b, "Products", out.Count(), workbook.Layout{Heads: above, Widths: r.widths()})
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
		case lines && n == above:
			headings = slices.Clone(row.Cells)
			failed = begin()
			return
		case lines && n <= above+below:
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

// readForm reads what a file says.
func (r *runner) readForm(path, form string) (t tallyOf, err error) {
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
	if form == "xlsx" || form == "ods" {
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
		if r.run.Output.BOM && r.run.Output.Charset == charset.UTF8 {
			from = int64(len(charset.BOM))
		}
		table, err = sheet.OpenWritten(path, from, r.tabs(), r.run.Output.Charset, filepath.Dir(path))
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
func (r *runner) widths() []int {
	widths := make([]int, min(r.run.Output.Count(), 1000))
	for n := range widths {
		col := n
		if r.run.Output.Columns != nil {
			col = r.run.Output.Columns[n].Col
		}
		lengths := []int{}
		for _, cells := range r.table.Sample {
			if col < len(cells) && cells[col] != "" {
				lengths = append(lengths, utf8.RuneCountInString(cells[col]))
			}
		}
		slices.Sort(lengths)
		need := utf8.RuneCountInString(r.run.Output.Heading(n, &r.table.Columns))
		if len(lengths) > 0 {
			need = max(need, lengths[len(lengths)*9/10])
		}
		widths[n] = max(narrowest, min(widest, need+2))
	}
	return widths
}

var lineBreaks = strings.NewReplacer("\r\n", " ⏎ ", "\n", " ⏎ ", "\r", " ⏎ ")

// writeLook writes the workbook to look at what is ready, in which every cell that was
// changed has a colour.
func (r *runner) writeLook(dir string) (err error) {
	table, err := sheet.OpenSpooled(filepath.Join(dir, line.LookName))
	if err != nil {
		return err
	}
	defer table.Close()
	var w *workbook.Writer
	done, err := create(filepath.Join(dir, LookName), func(b *bufio.Writer) (err error) {
		if w, err = workbook.NewWriter(b, "Only to look at", workbook.Layout{Heads: 2, Widths: append([]int{7}, r.widths()...)}); err != nil {
			return err
		}
		headings := []string{"Row"}
		for n := range r.run.Output.Count() {
			headings = append(headings, r.run.Output.Heading(n, &r.table.Columns))
		}
		return errors.Join(w.Row([]string{"To look at only, not for import: that is what " + line.FileNames[0] + " is for. What was changed has a colour; Row is the row of " + r.table.Name + "."}), w.Row(headings))
	})
	if err != nil {
		return err
	}
	rows := 2
	var failed error
	err = table.Each(func() {}, func(row *catalogue.Row) {
		if rows++; failed != nil || rows > workbook.MostRows {
			return
		}
		var marked []int
		for _, place := range strings.Fields(row.Cells[1]) {
			at, _ := strconv.Atoi(place)
			marked = append(marked, at+1)
		}
		cells := append(row.Cells[:1], row.Cells[2:]...)
		for i := range cells {
			if strings.ContainsAny(cells[i], "\r\n") { // so that rows are not high
				cells[i] = lineBreaks.Replace(cells[i])
			}
			cells[i] = catalogue.Shorten(cells[i], workbook.MostText)
		}
		if rows == workbook.MostRows {
			cells, marked = []string{"There are more rows than a workbook can show."}, nil
		}
		failed = w.RowMarked(cells, marked)
	})
	return done(errors.Join(err, failed, w.Close()))
}
