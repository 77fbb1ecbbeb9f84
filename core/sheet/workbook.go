package sheet

import (
	"cmp"
	"encoding/binary"
	"errors"
	"io"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/workbook"
)

// openWorkbook spools the sheet to be read of an XLSX workbook.
func (t *Table) openWorkbook() error {
	info, err := t.file.Stat()
	if err != nil {
		return t.fail(err, "", "")
	}
	book, err := workbook.Open(t.file, info.Size())
	if errors.Is(err, workbook.ErrNotWorkbook) && !t.compound() {
		return t.openArchive()
	}
	if err != nil {
		return t.failBook(err)
	}
	source, done := t.giveUp()
	defer done()
	if t.Member == "" { // or the sum is that of the archive
		sum := xxhash.New()
		if _, err := io.Copy(sum, io.NewSectionReader(source, 0, math.MaxInt64)); err != nil {
			return t.fail(err, "", "")
		}
		t.BookSum = sum.Sum64()
	}
	var names []string
	for _, s := range book.Sheets {
		names = append(names, s.Name+map[bool]string{true: " (hidden)"}[s.Hidden])
	}
	var tried error
	for i, s := range book.Sheets {
		if t.opt.Sheet != "" {
			if !strings.EqualFold(s.Name, t.opt.Sheet) {
				continue
			}
		} else if s.Hidden {
			continue
		}
		t.Sheet = s.Name
		if tried = t.spoolSheet(book, s); tried == nil {
			t.hidden(s)
			if err := t.tall(s); err != nil {
				return err
			}
			t.Others = slices.Delete(names, i, i+1)
			return nil
		}
		if !another(tried) { // it may be the one that is meant
			var bad *Error
			if len(names) > 1 && errors.As(tried, &bad) {
				bad.Do += " Or name another sheet with the setting ‹sheet›: " + strings.Join(slices.Delete(names, i, i+1), ", ") + "."
			}
			return tried
		}
	}
	if t.opt.Sheet != "" && t.Sheet == "" {
		return t.fail(ErrNoSheet, t.opt.Sheet, "The sheets are: "+strings.Join(names, ", ")+".")
	}
	if tried != nil && (len(names) == 1 || t.opt.Sheet != "") {
		return tried
	}
	return t.fail(ErrNoTable, "none of its visible sheets has headings that are known: "+strings.Join(names, ", "),
		"Name the sheet with the setting ‹sheet›, or say what a heading means with the setting ‹field›.")
}

// A Named is a sheet of a workbook.
type Named struct {
	Name   string
	Hidden bool
}

// Sheets returns the sheets of a workbook in their order.
func Sheets(path string) ([]Named, error) {
	t := &Table{Path: path, Name: filepath.Base(path)}
	file, err := os.Open(path)
	if err != nil {
		return nil, t.fail(err, "", "Name a workbook.")
	}
	defer file.Close()
	info, err := file.Stat()
	if err != nil {
		return nil, t.fail(err, "", "")
	}
	book, err := workbook.Open(file, info.Size())
	if err != nil {
		return nil, t.fail(ErrNoSheets, "", "Leave out the setting ‹sheet›.")
	}
	var sheets []Named
	for _, s := range book.Sheets {
		sheets = append(sheets, Named{s.Name, s.Hidden})
	}
	return sheets, nil
}

// another reports whether an error about a sheet leaves room for another sheet to be the one.
func another(err error) bool {
	return errors.Is(err, ErrHeadings) || errors.Is(err, ErrNoTable) || errors.Is(err, ErrNoColumn) || errors.Is(err, ErrBlankRow)
}

// compound reports whether the file is one of those that binary workbooks are, too.
func (t *Table) compound() bool {
	magic := make([]byte, 4)
	_, err := t.file.ReadAt(magic, 0)
	return err == nil && string(magic) == workbook.Binary[:4]
}

// failBook says what is wrong with a workbook, and what to do.
func (t *Table) failBook(err error) error {
	if errors.Is(err, workbook.ErrPassword) {
		return t.fail(ErrPassword, "", "Open it in a spreadsheet program, save it without a password, and try again.")
	}
	if errors.Is(err, workbook.ErrOlder) {
		return t.fail(ErrOldWorkbook, "", "Open it in a spreadsheet program, save it as .xlsx, and try again.")
	}
	if errors.Is(err, workbook.ErrNotWorkbook) {
		return t.fail(ErrBinary, err.Error(), "Name a CSV file or a workbook.")
	}
	return t.fail(err, "", "Open it in a spreadsheet program, save it again, and try again.")
}

// spoolSheet writes the rows of a sheet down and finds its headings.
func (t *Table) spoolSheet(book *workbook.Book, s *workbook.Sheet) error {
	file, err := t.newSpool()
	if err != nil {
		return err
	}
	out := newSpoolWriter(file)
	last := 0
	t.notShown = nil
	err = book.Rows(s, func(row *workbook.Row) error {
		for ; last+1 < row.Number; last++ { // rows without cells
			if err := out.endRow(); err != nil {
				return err
			}
		}
		last = row.Number
		if n := len(t.notShown); row.Hidden && n > 0 && t.notShown[n-1].To == last-1 {
			t.notShown[n-1].To = last
		} else if row.Hidden {
			t.notShown = append(t.notShown, workbook.Range{From: last, To: last})
		}
		col := 0
		for i := range row.Cells {
			c := &row.Cells[i]
			for ; col+1 < c.Col; col++ {
				out.cell("", 0)
			}
			col = c.Col
			out.cell(c.Text, marksOf(c))
		}
		return out.endRow()
	})
	if err == nil {
		err = out.flush()
	}
	if err != nil {
		return t.failBook(err)
	}
	if t.Extent, err = file.Seek(0, io.SeekCurrent); err != nil {
		return err
	}
	return t.findSpooled()
}

// Placed reports whether each cell has a place of its own, as in a workbook, and cannot
// have been pushed from it by a separator too many.
func (t *Table) Placed() bool { return t.Sheet != "" }

func marksOf(c *workbook.Cell) (marks catalogue.Mark) {
	if c.Kind == workbook.Number {
		marks |= catalogue.Numeric
	}
	if c.Formula {
		marks |= catalogue.Formula
	}
	if c.Unknown {
		marks |= catalogue.Unsettled
	}
	switch c.Kind {
	case workbook.Error:
		marks |= catalogue.Failed
	case workbook.Damaged:
		marks |= catalogue.Failed | catalogue.Unsettled
	}
	return marks
}

// Shows reports whether the workbook shows the row of that number.
func (t *Table) Shows(row int) bool {
	at, found := slices.BinarySearchFunc(t.notShown, row, func(r workbook.Range, row int) int { return cmp.Compare(r.From, row) })
	if !found {
		at--
	}
	return at < 0 || row > t.notShown[at].To
}

// hidden takes down what a sheet does not show, and where cells are merged.
func (t *Table) hidden(s *workbook.Sheet) {
	t.Hidden = nil
	for col, h := range t.Columns.Headings {
		for _, r := range s.HiddenColumns {
			if r.From <= col+1 && col+1 <= r.To && h != "" {
				t.Hidden = append(t.Hidden, h)
				break
			}
		}
	}
	t.HiddenRows, t.Filtered = 0, s.Filtered
	for _, r := range t.notShown {
		t.HiddenRows += max(0, r.To-max(r.From-1, t.Heading))
	}
	for _, m := range s.Merged {
		if m.ToRow > t.Heading {
			t.Merged++
		}
	}
	t.Pictures = slices.DeleteFunc(slices.Clone(s.Pictures), func(p workbook.Picture) bool { return p.Row <= t.Heading })
	slices.SortStableFunc(t.Pictures, func(a, b workbook.Picture) int { return cmp.Or(cmp.Compare(a.Row, b.Row), cmp.Compare(a.Col, b.Col)) })
}

// PicturesOver returns the pictures that lie over a row.
func (t *Table) PicturesOver(row int) []workbook.Picture {
	from, _ := slices.BinarySearchFunc(t.Pictures, row, func(p workbook.Picture, row int) int { return cmp.Compare(p.Row, row) })
	to := from
	for to < len(t.Pictures) && t.Pictures[to].Row == row {
		to++
	}
	return t.Pictures[from:to]
}

// A Tall is a merged cell that reaches over several rows of the table.
type Tall struct {
	Col      int // from 0
	From, To int // row numbers, ends included
	Text     string
}

// tall takes down the merged cells that reach over several rows, and what they say.
func (t *Table) tall(s *workbook.Sheet) error {
	t.Tall = nil
	for _, m := range s.Merged {
		if m.Row > t.Heading && m.ToRow > m.Row && m.Col <= len(t.Columns.Headings) {
			t.Tall = append(t.Tall, Tall{Col: m.Col - 1, From: m.Row, To: m.ToRow})
		}
	}
	if len(t.Tall) == 0 {
		return nil
	}
	slices.SortFunc(t.Tall, func(a, b Tall) int { return cmp.Or(cmp.Compare(a.From, b.From), cmp.Compare(a.Col, b.Col)) })
	next := 0
	return t.Each(func() {}, func(row *catalogue.Row) {
		for ; next < len(t.Tall) && t.Tall[next].From <= row.Number; next++ {
			if t.Tall[next].From == row.Number {
				t.Tall[next].Text = strings.Clone(row.Cell(t.Tall[next].Col))
			}
		}
	})
}

// findSpooled finds the headings in what was spooled.
func (t *Table) findSpooled() error {
	t.Form = Form{Spooled: true, Separator: ',', LineEnd: "\n"}
	if t.flavour.quote != 0 { // it was a CSV file
		t.Form.Separator, t.Form.LineEnd = t.flavour.separator, t.written.LineEnd
	}
	head, from := make([]byte, sniffSize), int64(0)
	if t.skipped = t.opt.skipped(); t.skipped > 0 {
		var err error
		if from, err = t.behind(0, t.skipped); err != nil {
			return err
		}
	}
	n, _ := t.file.ReadAt(head, from)
	rows := sampleOf(text(wholeRows(head[:n])), &t.Form, sampleRows)
	if len(rows) == 0 && t.skipped == 0 {
		return t.fail(ErrNoTable, "the sheet "+t.Sheet+" is empty", "Name another sheet with the setting ‹sheet›.")
	}
	if t.skipped == 0 {
		t.takeMark(rows)
	}
	h, err := t.chooseHeading(rows)
	if err != nil {
		return err
	}
	t.Form.Columns = len(t.Columns.Headings)
	if h < 0 {
		t.start, t.HeadLine = 0, t.madeUp()
		return nil
	}
	t.start = from + int64(rows[h].End)
	t.HeadLine = t.madeUp()
	return nil
}

// wholeRows cuts off a spooled row that is not there to its end.
func wholeRows(b []byte) []byte {
	for pos := 0; ; {
		n, size := binary.Uvarint(b[pos:])
		if size <= 0 || n > uint64(len(b)-pos-size) {
			return b[:pos]
		}
		pos += size + int(n)
	}
}
