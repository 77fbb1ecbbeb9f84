package sheet

import (
	"encoding/binary"
	"io"
	"math"
	"os"
	"strconv"
	"strings"

	"github.com/cespare/xxhash/v2"
	"github.com/xuri/excelize/v2"
)

// openWorkbook spools the sheet to be read of an XLSX workbook.
func (t *Table) openWorkbook() error {
	source := t.file
	defer source.Close()
	if t.remove != "" {
		defer os.Remove(t.remove)
	}
	t.file, t.remove = nil, ""
	sum := xxhash.New()
	if _, err := io.Copy(sum, io.NewSectionReader(source, 0, math.MaxInt64)); err != nil {
		return t.fail(err, "", "")
	}
	t.BookSum = sum.Sum64()
	book, err := excelize.OpenReader(io.NewSectionReader(source, 0, math.MaxInt64), excelize.Options{RawCellValue: true})
	if err != nil {
		return t.fail(ErrBinary, "it is an archive, but no workbook: "+err.Error(), "Name the file inside it, or a CSV file or an .xlsx workbook.")
	}
	defer book.Close()
	names := book.GetSheetList()
	var tried error
	for _, name := range names {
		if t.opt.Sheet != "" {
			if !strings.EqualFold(name, t.opt.Sheet) {
				continue
			}
		} else if visible, err := book.GetSheetVisible(name); err == nil && !visible {
			continue
		}
		t.Sheet = name
		if tried = t.spoolSheet(book, name); tried == nil {
			t.nameHidden(hiddenColumns(source, t.Size, name))
			for _, other := range names {
				if other != name {
					t.Others = append(t.Others, other)
				}
			}
			return nil
		}
	}
	if t.opt.Sheet != "" && t.Sheet == "" {
		return t.fail(ErrNoSheet, t.opt.Sheet, "The sheets are: "+strings.Join(names, ", ")+".")
	}
	if tried != nil && (len(names) == 1 || t.opt.Sheet != "") {
		return tried
	}
	return t.fail(ErrNoTable, "none of its visible sheets has headings that are known: "+strings.Join(names, ", "), "Name the sheet with -sheet, or say what a heading means with -field.")
}

// spoolSheet writes the rows of a sheet down and finds its headings.
func (t *Table) spoolSheet(book *excelize.File, name string) error {
	rows, err := book.Rows(name)
	if err != nil {
		return t.fail(err, "sheet "+name, "")
	}
	defer rows.Close()
	file, err := t.newSpool()
	if err != nil {
		return err
	}
	out := newSpoolWriter(file)
	typed := typedCells{book: book, sheet: name, dates: make(map[int]bool)}
	for number := 1; rows.Next(); number++ {
		cells, err := rows.Columns()
		if err != nil {
			return t.fail(err, "sheet "+name, "")
		}
		for col, raw := range cells {
			text, numeric := typed.read(raw, col+1, number)
			out.cell(text, numeric)
		}
		if err := out.endRow(); err != nil {
			return err
		}
	}
	if err := rows.Error(); err != nil {
		return t.fail(err, "sheet "+name, "The workbook seems to be damaged.")
	}
	if err := out.flush(); err != nil {
		return err
	}
	if t.Extent, err = file.Seek(0, io.SeekCurrent); err != nil {
		return err
	}
	return t.findSpooled()
}

// findSpooled finds the headings in what was spooled.
func (t *Table) findSpooled() error {
	t.Form = Form{Spooled: true, Separator: ',', LineEnd: "\n"}
	head := make([]byte, sniffSize)
	n, _ := t.file.ReadAt(head, 0)
	rows := sampleOf(text(wholeRows(head[:n])), &t.Form, sampleRows)
	if len(rows) == 0 {
		return t.fail(ErrNoTable, "the sheet "+t.Sheet+" is empty", "Name another sheet with -sheet.")
	}
	h, err := t.chooseHeading(rows)
	if err != nil {
		return err
	}
	t.Form.Columns = len(t.Columns.Headings)
	t.start = int64(rows[h].End)
	t.HeadLine = encodeRow(&rows[h], &t.Form)
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

// typedCells turns stored values into text.
type typedCells struct {
	book  *excelize.File
	sheet string
	dates map[int]bool // by style: whether it shows a date
}

// read returns the text of a stored value, and whether a number is stored: a
// whole number below 2⁵³ with all its digits, another number as short as it
// can be, a date as ISO 8601 has it, a truth value as TRUE or FALSE.
func (c *typedCells) read(raw string, col, row int) (text string, numeric bool) {
	value, ok := number(raw)
	if !ok {
		return raw, false
	}
	name, err := excelize.CoordinatesToCellName(col, row)
	if err != nil {
		return raw, false
	}
	switch kind, _ := c.book.GetCellType(c.sheet, name); kind {
	case excelize.CellTypeBool:
		return strings.ToUpper(strconv.FormatBool(value != 0)), false
	case excelize.CellTypeUnset, excelize.CellTypeNumber, excelize.CellTypeDate:
	default:
		return raw, false // a text that reads like a number
	}
	if c.showsDate(name) {
		if when, err := excelize.ExcelDateToTime(value, false); err == nil {
			layout := "2006-01-02 15:04:05"
			if value == float64(int64(value)) {
				layout = "2006-01-02"
			}
			return when.Format(layout), false
		}
	}
	return strconv.FormatFloat(value, 'f', -1, 64), true
}

// number reads a stored value; ok is false where there is clearly none.
func number(raw string) (value float64, ok bool) {
	if raw == "" || strings.Trim(raw, "0123456789.eE+-") != "" || raw[0] == '+' {
		return 0, false
	}
	value, err := strconv.ParseFloat(raw, 64)
	return value, err == nil
}

func (c *typedCells) showsDate(name string) bool {
	id, err := c.book.GetCellStyle(c.sheet, name)
	if err != nil || id == 0 {
		return false
	}
	is, known := c.dates[id]
	if !known {
		if style, err := c.book.GetStyle(id); err == nil {
			format := ""
			if style.CustomNumFmt != nil {
				format = *style.CustomNumFmt
			}
			is = dateFormat(style.NumFmt, format)
		}
		c.dates[id] = is
	}
	return is
}

// dateFormat reports whether a number format shows a date or a time: the
// built-in ones are 14 to 22 and 45 to 47 (ECMA-376 Part 1, 18.8.30).
func dateFormat(id int, custom string) bool {
	if custom == "" {
		return id >= 14 && id <= 22 || id >= 45 && id <= 47
	}
	quoted, bracket := false, false
	for _, r := range strings.ToLower(custom) {
		switch {
		case r == '"':
			quoted = !quoted
		case r == '[':
			bracket = true
		case r == ']':
			bracket = false
		case !quoted && !bracket && (r == 'y' || r == 'd' || r == 'm' || r == 'h'):
			return true
		}
	}
	return false
}
