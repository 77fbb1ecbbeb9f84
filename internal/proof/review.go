// Package proof makes what a person looks at before importing a result: for
// now the review workbook.
package proof

import (
	"bufio"
	"errors"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"zetanum/core/catalogue"
	"zetanum/core/export"
	"zetanum/core/line"
	"zetanum/core/repair"
	"zetanum/core/sheet"
	"zetanum/core/text"
	"zetanum/core/workbook"
	"zetanum/internal/terminal"
)

// ReviewName is the name of the review workbook.
const ReviewName = "review.xlsx"

// maxRows and maxCells bound how many held rows a person is shown, in a sheet of
// many columns fewer; of more, a fair choice.
const (
	maxRows  = 5000
	maxCells = 50000
)

// maxColumns is how many columns of the source a person is shown.
const maxColumns = 1000

// Review writes the review workbook of a run into its folder: a summary, and
// the rows that are held, with the reason. Every cell of theirs is text, so
// that no program takes a code for a number.
func Review(dir string, r *repair.Result) error {
	rows, total, err := heldRows(filepath.Join(dir, line.FileNames[1]), r)
	if err != nil {
		return err
	}
	sheets := []workbook.Layout{summaryLayout, heldLayout(r, len(rows) < total)}
	var prices []export.PriceChange
	count := 0
	if export.MayChangePrices(r.Report, &r.Source.Columns) {
		if prices, count, err = export.PriceChanges(dir); err != nil {
			return err
		}
	}
	if count > 0 {
		sheets = append(sheets, workbook.Layout{Name: "Prices", Heads: 2, Widths: export.PriceWidths, Print: true})
	}
	var margins [][]string
	var headings []string
	all := 0
	if r.Listed(export.MarginsName) > 0 {
		if headings, margins, all, err = export.Margins(dir, r.Source.Form); err != nil {
			return err
		}
		widths := []int{8, 18, 44}[:max(1, min(3, len(headings)-4))]
		for range headings[len(widths):] {
			widths = append(widths, 14)
		}
		sheets = append(sheets, workbook.Layout{Name: "Margins", Heads: 2, Widths: widths, Print: true})
	}
	if r.Settings.Look {
		if r.PricesDrawn, err = drawPrices(dir, r); err != nil {
			return err
		}
	}
	return errors.Join(writeBook(filepath.Join(dir, ReviewName), r.Date, sheets, func(w *writer) {
		w.summary(r)
		w.next()
		w.held(r, rows, total)
		if count > 0 {
			w.next()
			w.prices(prices, count)
		}
		if all > 0 {
			w.next()
			w.margins(headings, margins, all)
		}
	}), scanList(dir, r), toFill(dir, r))
}

// prices writes how prices have changed, the largest changes first.
func (w *writer) prices(list []export.PriceChange, count int) {
	says := "Prices that have changed, the largest changes first, and those that were made."
	if count > len(list) {
		says += " Shown are " + catalogue.Thousands(uint64(len(list))) + " of " + catalogue.Thousands(uint64(count)) + "; all are in changes.jsonl."
	}
	w.add(workbook.Plain, says)
	w.add(workbook.Band, export.PriceHeadings...)
	for i := range list {
		w.add(workbook.Plain, list[i].Cells()...)
	}
}

// margins writes what is left of prices above the costs, the least first.
func (w *writer) margins(headings []string, rows [][]string, all int) {
	says := "What is left of prices above the costs, the least first; of a file of more than 8 MB only where it is too little. It goes into no file for the importer."
	if all > len(rows) {
		says += " Shown are " + catalogue.Thousands(uint64(len(rows))) + " of " + catalogue.Thousands(uint64(all)) + "."
	}
	w.add(workbook.Plain, says)
	w.add(workbook.Band, headings...)
	for _, cells := range rows {
		w.add(workbook.Plain, cells...)
	}
}

// writeBook writes a workbook.
func writeBook(path, date string, sheets []workbook.Layout, write func(*writer)) error {
	file, err := os.Create(path)
	if err != nil {
		return err
	}
	out := bufio.NewWriter(file)
	sheets[0].Date = date
	book, err := workbook.NewWriter(out, sheets...)
	if err != nil {
		return errors.Join(err, file.Close())
	}
	w := &writer{book: book, sheets: sheets}
	write(w)
	return errors.Join(w.err, book.Close(), out.Flush(), file.Close())
}

type heldRow struct {
	order uint64
	cells []string
}

// heldRows reads held.csv: all of it, or the rows that come first when a hash
// of their numbers is ordered, put back into the order of the sheet.
func heldRows(path string, r *repair.Result) (rows []heldRow, total int, err error) {
	most := max(1, min(maxRows, maxCells/max(1, len(r.Source.Columns.Headings))))
	table, err := sheet.Reopen(path, r.Source.Form)
	if err != nil {
		return nil, 0, err
	}
	defer table.Close()
	err = table.Each(func() { rows, total = nil, -1 }, func(row *catalogue.Row) {
		if total++; total == 0 {
			return // the headings
		}
		number, _ := strconv.Atoi(row.Cell(0))
		order := uint64(number) * 0x9e3779b97f4a7c15
		if len(rows) == most && rows[most-1].order <= order {
			return
		}
		cells := make([]string, len(row.Cells))
		for i, c := range row.Cells {
			cells[i] = strings.Clone(c)
		}
		at, _ := slices.BinarySearchFunc(rows, order, func(h heldRow, order uint64) int {
			if h.order < order {
				return -1
			}
			return 1
		})
		rows = slices.Insert(rows, at, heldRow{order, cells})
		rows = rows[:min(len(rows), most)]
	})
	slices.SortFunc(rows, func(a, b heldRow) int {
		x, _ := strconv.Atoi(a.cells[0])
		y, _ := strconv.Atoi(b.cells[0])
		return x - y
	})
	return rows, max(total, 0), err
}

// A writer writes rows of styled cells one below the other; after an error it does nothing.
type writer struct {
	book   *workbook.Writer
	sheets []workbook.Layout // the one that is written, and those behind it
	err    error
}

// lineHeight is the height of a line of text, in points.
const lineHeight = 13

// next goes on to the next sheet.
func (w *writer) next() {
	w.sheets = w.sheets[1:]
	w.err = errors.Join(w.err, w.book.Next())
}

// add writes a row; an empty one if there are no cells.
func (w *writer) add(style workbook.Style, cells ...string) {
	w.addWrapped(style, -1, cells...)
}

// addWrapped writes a row in which the text of one column goes on in further
// lines, and makes the row as high as that text needs.
func (w *writer) addWrapped(style workbook.Style, wrapped int, cells ...string) {
	if w.err != nil {
		return
	}
	lines := 1
	fitted := make([]string, len(cells))
	for i, c := range cells {
		fitted[i] = fit(c)
		if i == wrapped {
			lines += int(float64(utf8.RuneCountInString(c)) * 0.95 / float64(w.sheets[0].Widths[i]))
		}
	}
	w.err = w.book.RowStyled(fitted, lineHeight*float64(lines), style, wrapped, workbook.Wrapped)
}

// fit shortens a text that no cell can hold, and says so.
func fit(s string) string {
	if len(s) <= workbook.MostText || utf8.RuneCountInString(s) <= workbook.MostText {
		return s
	}
	note := " … [shortened; " + strconv.Itoa(len(s)) + " bytes in the source]"
	return catalogue.Shorten(s, workbook.MostText-utf8.RuneCountInString(note)) + note
}

var summaryLayout = workbook.Layout{Name: "Summary", Widths: []int{22, 58, 12, 10, 90}, Print: true}

// summary writes what was done and what is open.
func (w *writer) summary(r *repair.Result) {
	counts := r.Counts()
	number := strconv.Itoa
	w.add(workbook.Title, r.Source.Name)
	w.add(workbook.Plain, r.Source.Kind)
	if r.Source.Doubt != "" {
		w.add(workbook.Plain, terminal.Typed(r.Source.Doubt))
	}
	w.add(workbook.Plain, "Rows read", number(counts.Read))
	w.add(workbook.Plain, "Ready to import", number(counts.Ready), "", "", "in ready.csv")
	w.add(workbook.Plain, "Held", number(counts.Held), "", "", "something is open: see the sheet Held")
	w.add(workbook.Plain, "Set aside", number(counts.Aside), "", "", "no products: in aside.csv")
	if len(r.Rows) > 0 {
		w.add(workbook.Plain)
		w.add(workbook.Band, "", "What the rules of "+r.Rulebook+" did", "", "Rows", "")
		for _, rule := range r.Rows {
			w.addWrapped(workbook.Plain, 1, "", rule.Rule, "", number(rule.Rows), "")
		}
	}
	w.add(workbook.Plain)
	w.add(workbook.Band, "Column", "Repaired", "Ground", "Cells", "Example")
	for _, c := range r.Report.Repaired {
		example := ""
		if len(c.Examples) > 0 {
			e := c.Examples[0]
			example = "row " + number(e.Row) + ": " + text.Visible(e.Cell) + " → " + e.After
		}
		w.addWrapped(workbook.Plain, 4, r.Heading(c.Col), c.Rule.Entry().Title, c.Ground.String(), number(c.Cells), example)
	}
	if questions := r.Questions(); len(questions) > 0 {
		w.add(workbook.Plain)
		w.add(workbook.Band, "Column", "To decide: one answer for the column", "", "Cells", "If yes")
		for _, q := range questions {
			var likely []string
			for _, e := range q.Likely() {
				likely = append(likely, text.Visible(e.Cell)+" → "+e.After)
			}
			free := ""
			if q.Unlocks > 0 {
				free = "rows set free: " + number(q.Unlocks) + "; "
			}
			w.addWrapped(workbook.Plain, 4, r.Heading(q.Col), q.Ask, "", number(q.Proposed),
				free+strings.Join(likely, ", ")+"; run again with -yes "+q.Code.String()+"="+r.Heading(q.Col))
		}
	}
	w.add(workbook.Plain)
	w.add(workbook.Band, "Column", "Open or noticed", "Severity", "Cells", "Example")
	for _, f := range r.Report.Found {
		example := ""
		if len(f.Examples) > 0 {
			example = "row " + number(f.Examples[0].Row) + ": " + f.Examples[0].Text
		}
		entry := f.Code.Entry()
		w.addWrapped(workbook.Plain, 4, r.Heading(f.Col), entry.Title, f.Severity.String(), number(f.Cells), example)
	}
}

// heldHeadings are the headings of the source that a person is shown.
func heldHeadings(r *repair.Result) []string {
	return r.Source.Columns.Headings[:min(r.Source.Columns.Own(), maxColumns)]
}

func heldLayout(r *repair.Result, partly bool) workbook.Layout {
	l := workbook.Layout{Name: "Held", Heads: 1, Widths: []int{8, 70}, Print: true}
	if partly {
		l.Heads = 2
	}
	for range heldHeadings(r) {
		l.Widths = append(l.Widths, 20)
	}
	return l
}

// held writes the rows that are held, of so many.
func (w *writer) held(r *repair.Result, rows []heldRow, total int) {
	headings := heldHeadings(r)
	if total > len(rows) {
		w.add(workbook.Plain, "", "Shown are "+catalogue.Thousands(uint64(len(rows)))+" of "+catalogue.Thousands(uint64(total))+
			" held rows, chosen fairly. All are in held.csv.")
	}
	w.add(workbook.Band, append([]string{"Row", "Reason"}, headings...)...)
	for _, row := range rows {
		w.addWrapped(workbook.Plain, 1, row.cells[:min(len(row.cells), len(headings)+2)]...)
	}
}
