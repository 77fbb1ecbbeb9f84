// Package proof makes what a person looks at before importing a result: for
// now the review workbook.
package proof

import (
	"errors"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"github.com/xuri/excelize/v2"

	"zetanum/core/catalogue"
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

// maxCell is the most characters a cell of a workbook can hold.
const maxCell = 32767

// Review writes the review workbook of a run into its folder: a summary, and
// the rows that are held, with the reason. Every cell of theirs is text, so
// that no program takes a code for a number.
func Review(dir string, r *repair.Result) error {
	rows, total, err := heldRows(filepath.Join(dir, line.FileNames[1]), r)
	if err != nil {
		return err
	}
	book := excelize.NewFile()
	defer book.Close()
	styles, err := newStyles(book)
	if err != nil {
		return err
	}
	if err := book.SetSheetName("Sheet1", "Summary"); err != nil {
		return err
	}
	if err := writeSummary(book, styles, r); err != nil {
		return err
	}
	if _, err := book.NewSheet("Held"); err != nil {
		return err
	}
	if err := writeHeld(book, styles, r, rows, total); err != nil {
		return err
	}
	return errors.Join(book.SaveAs(filepath.Join(dir, ReviewName)), scanList(dir, r))
}

// fitToPage makes a sheet print as wide as a page across.
func fitToPage(book *excelize.File, name string) error {
	fit, landscape, wide, long := true, "landscape", 1, 0
	return errors.Join(
		book.SetSheetProps(name, &excelize.SheetPropsOptions{FitToPage: &fit}),
		book.SetPageLayout(name, &excelize.PageLayoutOptions{Orientation: &landscape, FitToWidth: &wide, FitToHeight: &long}),
	)
}

type styles struct{ head, bold, text, wrap int }

func newStyles(book *excelize.File) (s styles, err error) {
	const textFormat = 49 // the built-in number format for text
	define := func(style *excelize.Style) int {
		id, e := book.NewStyle(style)
		err = errors.Join(err, e)
		return id
	}
	s.head = define(&excelize.Style{Font: &excelize.Font{Bold: true}, NumFmt: textFormat,
		Fill: excelize.Fill{Type: "pattern", Pattern: 1, Color: []string{"E8E2D0"}}})
	s.bold = define(&excelize.Style{Font: &excelize.Font{Bold: true, Size: 14}})
	s.text = define(&excelize.Style{NumFmt: textFormat, Alignment: &excelize.Alignment{Vertical: "top"}})
	s.wrap = define(&excelize.Style{NumFmt: textFormat, Alignment: &excelize.Alignment{Vertical: "top", WrapText: true}})
	return s, err
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

// writer writes rows of styled cells one below the other.
type writer struct {
	stream *excelize.StreamWriter
	widths []float64
	wrap   int // the style of wrapped cells
	row    int
	err    error
}

// lineHeight is the height of a line of text, in points.
const lineHeight = 14.5

func (w *writer) add(style int, cells ...string) {
	w.addWrapped(style, -1, cells...)
}

// addWrapped writes a row in which the text of one column goes on in further
// lines, and makes the row as high as that text needs.
func (w *writer) addWrapped(style, wrapped int, cells ...string) {
	w.row++
	values := make([]any, len(cells))
	lines := 1
	for i, c := range cells {
		cell := excelize.Cell{StyleID: style, Value: fit(c)}
		if i == wrapped {
			cell.StyleID = w.wrap
			lines += int(float64(utf8.RuneCountInString(c)) * 1.05 / w.widths[i])
		}
		values[i] = cell
	}
	at, _ := excelize.CoordinatesToCellName(1, w.row)
	w.err = errors.Join(w.err, w.stream.SetRow(at, values, excelize.RowOpts{Height: lineHeight * float64(lines)}))
}

// fit shortens a text that no cell can hold, and says so.
func fit(s string) string {
	if len(s) <= maxCell || utf8.RuneCountInString(s) <= maxCell {
		return s
	}
	note := " … [shortened; " + strconv.Itoa(len(s)) + " bytes in the source]"
	return catalogue.Shorten(s, maxCell-utf8.RuneCountInString(note)) + note
}

func newWriter(book *excelize.File, s styles, name string, widths ...float64) (*writer, error) {
	if err := fitToPage(book, name); err != nil {
		return nil, err
	}
	stream, err := book.NewStreamWriter(name)
	if err != nil {
		return nil, err
	}
	w := &writer{stream: stream, widths: widths, wrap: s.wrap}
	for i, width := range widths {
		w.err = errors.Join(w.err, stream.SetColWidth(i+1, i+1, width))
	}
	return w, w.err
}

func (w *writer) flush() error { return errors.Join(w.err, w.stream.Flush()) }

func writeSummary(book *excelize.File, s styles, r *repair.Result) error {
	w, err := newWriter(book, s, "Summary", 22, 58, 12, 10, 90)
	if err != nil {
		return err
	}
	counts := r.Counts()
	number := strconv.Itoa
	w.add(s.bold, r.Source.Name)
	w.add(s.text, r.Source.Kind)
	if r.Source.Doubt != "" {
		w.add(s.text, terminal.Typed(r.Source.Doubt))
	}
	w.add(s.text, "Rows read", number(counts.Read))
	w.add(s.text, "Ready to import", number(counts.Ready), "", "", "in ready.csv")
	w.add(s.text, "Held", number(counts.Held), "", "", "something is open: see the sheet Held")
	w.add(s.text, "Set aside", number(counts.Aside), "", "", "no products: in aside.csv")
	if len(r.Rows) > 0 {
		w.row++
		w.add(s.head, "", "What the rules of "+r.Rulebook+" did", "", "Rows", "")
		for _, rule := range r.Rows {
			w.addWrapped(s.text, 1, "", rule.Rule, "", number(rule.Rows), "")
		}
	}
	w.row++
	w.add(s.head, "Column", "Repaired", "Ground", "Cells", "Example")
	for _, c := range r.Report.Repaired {
		example := ""
		if len(c.Examples) > 0 {
			e := c.Examples[0]
			example = "row " + number(e.Row) + ": " + text.Visible(e.Cell) + " → " + e.After
		}
		w.addWrapped(s.text, 4, Heading(r, c.Col), c.Rule.Entry().Title, c.Ground.String(), number(c.Cells), example)
	}
	if questions := r.Questions(); len(questions) > 0 {
		w.row++
		w.add(s.head, "Column", "To decide: one answer for the column", "", "Cells", "If yes")
		for _, q := range questions {
			var likely []string
			for _, e := range q.Likely() {
				likely = append(likely, text.Visible(e.Cell)+" → "+e.After)
			}
			free := ""
			if q.Unlocks > 0 {
				free = "rows set free: " + number(q.Unlocks) + "; "
			}
			w.addWrapped(s.text, 4, Heading(r, q.Col), q.Ask, "", number(q.Proposed),
				free+strings.Join(likely, ", ")+"; run again with -yes "+q.Code.String()+"="+Heading(r, q.Col))
		}
	}
	w.row++
	w.add(s.head, "Column", "Open or noticed", "Severity", "Cells", "Example")
	for _, f := range r.Report.Found {
		example := ""
		if len(f.Examples) > 0 {
			example = "row " + number(f.Examples[0].Row) + ": " + f.Examples[0].Text
		}
		entry := f.Code.Entry()
		w.addWrapped(s.text, 4, Heading(r, f.Col), entry.Title, entry.Severity.String(), number(f.Cells), example)
	}
	return w.flush()
}

func writeHeld(book *excelize.File, s styles, r *repair.Result, rows []heldRow, total int) error {
	headings := r.Source.Columns.Headings[:r.Source.Columns.Own()]
	headings = headings[:min(len(headings), maxColumns)]
	w, err := newWriter(book, s, "Held", 8, 70)
	if err != nil {
		return err
	}
	w.err = errors.Join(w.err, w.stream.SetColWidth(3, len(headings)+2, 20))
	partly, frozen := total > len(rows), 1
	if partly {
		frozen = 2
	}
	w.err = errors.Join(w.err, w.stream.SetPanes(&excelize.Panes{Freeze: true, YSplit: frozen, TopLeftCell: "A" + strconv.Itoa(frozen+1), ActivePane: "bottomLeft"}))
	if partly {
		w.add(s.text, "", "Shown are "+catalogue.Thousands(uint64(len(rows)))+" of "+catalogue.Thousands(uint64(total))+" held rows, chosen fairly. All are in held.csv.")
	}
	w.add(s.head, append([]string{"Row", "Reason"}, headings...)...)
	for _, row := range rows {
		w.addWrapped(s.text, 1, row.cells[:min(len(row.cells), len(headings)+2)]...)
	}
	return w.flush()
}

// Heading returns the heading of a column, or words for a row as a whole.
func Heading(r *repair.Result, col int) string {
	if col < 0 || col >= len(r.Source.Columns.Headings) {
		return "(row)"
	}
	if h := r.Source.Columns.Headings[col]; strings.TrimSpace(h) != "" {
		return h
	}
	return "(column " + workbook.ColumnName(col) + ", no heading)"
}
