package workbook

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"
	"unsafe"
)

// A Row is a row of a sheet that has cells. It is valid until the next.
type Row struct {
	Number int  // counted from 1
	Hidden bool // it is not shown
	Cells  []Cell
}

// A Cell is a cell that has something in it.
type Cell struct {
	Col     int    // counted from 1
	Text    string // of a number all digits; of a date, as ISO 8601 has it
	Kind    Kind
	Formula bool // its value was calculated
	Unknown bool // the value of its formula is not stored

	from, to int // where its text lies in the buffer of the row
}

// Kind says what a cell holds.
type Kind uint8

// The kinds of cells.
const (
	Text Kind = iota
	Number
	Date
	Bool  // TRUE or FALSE
	Error // such as #REF!
	// Damaged is a cell of which the workbook does not say what it holds: it has a text by a
	// number that there is not, or there are two of the same address.
	Damaged
)

// Rows calls do with each row of a sheet that has cells, in order.
func (b *Book) Rows(s *Sheet, do func(*Row) error) error {
	s.HiddenColumns, s.HiddenRows, s.Filtered, s.Merged, s.Pictures = nil, 0, false, nil, nil
	if b.stream != nil {
		r := &xlsReader{rowReader: &rowReader{book: b, sheet: s, do: do}}
		if err := r.read(); err != nil {
			return fmt.Errorf("sheet %s: %w", s.Name, err)
		}
		return nil
	}
	if !b.ods {
		if err := b.readShared(); err != nil {
			return err
		}
		b.readPictures(s)
	}
	if s.lost != nil {
		return fmt.Errorf("sheet %s: %w", s.Name, s.lost)
	}
	part, err := b.open(s.part)
	if err != nil {
		return fmt.Errorf("sheet %s: %w", s.Name, err)
	}
	defer part.Close()
	a := ahead(part)
	defer a.stop()
	r := &rowReader{scanner: newScanner(a), book: b, sheet: s, do: do}
	read := r.read
	if b.ods {
		read = (&odsReader{rowReader: r}).read
	}
	if err := read(); err != nil {
		return fmt.Errorf("sheet %s: %w", s.Name, err)
	}
	return nil
}

// A rowReader reads the rows of a sheet.
type rowReader struct {
	*scanner
	book  *Book
	sheet *Sheet
	do    func(*Row) error
	row   Row
	buf   []byte // the texts of the row
	t     token
}

func (r *rowReader) read() error {
	for {
		if err := r.next(&r.t); err != nil {
			if errors.Is(err, io.EOF) {
				return nil
			}
			return err
		}
		if r.t.kind != startTag {
			continue
		}
		switch string(r.t.name) {
		case "sheetData":
			if r.t.empty {
				continue
			}
			if err := r.rows(); err != nil {
				return err
			}
		case "col":
			if isTrue(r.t.attr("hidden")) {
				r.sheet.HiddenColumns = append(r.sheet.HiddenColumns,
					Range{number([]byte(r.t.attr("min"))), number([]byte(r.t.attr("max")))})
			}
		case "autoFilter":
			r.sheet.Filtered = true
		case "mergeCell":
			from, to, _ := strings.Cut(r.t.attr("ref"), ":")
			var m Area
			m.Col, m.Row = place([]byte(from))
			if m.ToCol, m.ToRow = place([]byte(to)); m.Col > 0 && m.ToCol > 0 {
				r.sheet.Merged = append(r.sheet.Merged, m)
			}
		}
	}
}

// rows reads the rows, up to the end of the sheet's data.
func (r *rowReader) rows() error {
	for {
		if err := r.must(); err != nil {
			return err
		}
		switch {
		case r.t.kind == endTag && r.t.is("sheetData"):
			return nil
		case r.t.kind != startTag || !r.t.is("row"):
			continue
		}
		next := r.row.Number + 1
		r.row = Row{Cells: r.row.Cells[:0]}
		r.buf = r.buf[:0]
		eachAttr(r.t.attrs, func(name, value []byte) {
			switch string(name) {
			case "r":
				r.row.Number = number(value)
			case "hidden":
				r.row.Hidden = isTrue(string(value))
			}
		})
		if r.row.Number < next {
			r.row.Number = next
		}
		if r.row.Number > MostRows {
			return fmt.Errorf("%w: there is a row %d, and sheets have %d at most", ErrDamaged, r.row.Number, MostRows)
		}
		if r.t.empty {
			continue
		}
		if err := r.cells(); err != nil {
			return fmt.Errorf("row %d: %w", r.row.Number, err)
		}
		if len(r.row.Cells) == 0 {
			continue
		}
		r.finish()
		if r.row.Hidden {
			r.sheet.HiddenRows++
		}
		if err := r.do(&r.row); err != nil {
			return err
		}
	}
}

// finish gives the cells their texts.
func (r *rowReader) finish() {
	text := unsafe.String(unsafe.SliceData(r.buf), len(r.buf))
	for i := range r.row.Cells {
		if c := &r.row.Cells[i]; c.to > 0 {
			c.Text = text[c.from:c.to]
		}
	}
}

// must reads the next token where the document cannot be at its end.
func (r *rowReader) must() error {
	err := r.next(&r.t)
	if errors.Is(err, io.EOF) {
		return fmt.Errorf("%w: it ends in the middle of the rows", ErrDamaged)
	}
	return err
}

// cells reads the cells of a row.
func (r *rowReader) cells() error {
	last := 0
	for {
		cell := Cell{Col: last + 1}
		var look cellLook
		quick := r.quickCell(&cell, &look)
		if !quick {
			if err := r.must(); err != nil {
				return err
			}
			switch {
			case r.t.kind == endTag && r.t.is("row"):
				return nil
			case r.t.kind != startTag || !r.t.is("c"):
				continue
			}
			eachAttr(r.t.attrs, func(name, value []byte) { look.attr(&cell, name, value) })
		}
		if cell.Col > MostColumns {
			return fmt.Errorf("%w: there is a column %d, and sheets have %d at most", ErrDamaged, cell.Col, MostColumns)
		}
		twice := cell.Col == last
		if cell.Col <= last {
			cell.Col = last + 1
		}
		last = cell.Col
		there, err := false, error(nil)
		switch {
		case quick:
			there, err = r.settle(&cell, look.kind, look.style)
		case r.t.empty:
			continue
		default:
			there, err = r.value(&cell, look.kind, look.style)
		}
		if err != nil {
			return err
		}
		switch n := len(r.row.Cells); {
		case twice && n > 0 && r.row.Cells[n-1].Col == cell.Col-1:
			r.row.Cells[n-1].Kind = Damaged
			last--
		case there:
			if look.rich && cell.Kind == Error { // a picture in a cell, which older programs show as an error
				r.sheet.picture(Picture{Col: cell.Col, Row: r.row.Number})
			}
			r.row.Cells = append(r.row.Cells, cell)
		}
	}
}

// A cellLook is what the tag of a cell says besides its column.
type cellLook struct {
	kind  string
	style int
	rich  bool
}

func (l *cellLook) attr(cell *Cell, name, value []byte) {
	switch {
	case string(name) == "vm":
		l.rich = true
	case len(name) != 1:
	case name[0] == 'r':
		if col, _ := place(value); col > 0 {
			cell.Col = col
		}
	case name[0] == 's':
		l.style = number(value)
	case name[0] == 't':
		l.kind = kindName(value)
	}
}

// quickCell reads the next cell with its text, if it is written as nearly all are: <c r="B2" s="1" t="s"><v>3</v></c>, or with the text itself,
// <c r="B2" t="inlineStr"><is><t>text</t></is></c>, with nothing escaped. It reports whether it is; otherwise nothing was read, but attributes that the
// tag has.
func (r *rowReader) quickCell(cell *Cell, look *cellLook) bool {
	s := r.scanner
	b := s.buf[s.pos:s.end]
	if len(b) < 4 || string(b[:3]) != "<c " {
		return false
	}
	at := 3
	for { // x="value", and one space or > behind it
		if len(b) < at+4 || b[at+1] != '=' || b[at+2] != '"' {
			return false
		}
		n := bytes.IndexByte(b[at+3:min(len(b), at+40)], '"')
		if n < 0 || at+4+n >= len(b) {
			return false
		}
		look.attr(cell, b[at:at+1], b[at+3:at+3+n])
		at += 4 + n
		if b[at] == '>' {
			break
		}
		if b[at] != ' ' {
			return false
		}
		at++
	}
	b = b[at+1:]
	end, within := "</t></is></c>", true
	switch {
	case bytes.HasPrefix(b, []byte("<v>")):
		b, at, end, within = b[3:], at+4, "</v></c>", false
	case look.kind != "inlineStr":
		return false
	case bytes.HasPrefix(b, []byte("<is><t>")):
		b, at = b[7:], at+8
	case bytes.HasPrefix(b, []byte(preserved)):
		b, at = b[len(preserved):], at+1+len(preserved)
	default:
		return false
	}
	n := bytes.IndexByte(b, '<')
	if n < 0 || !bytes.HasPrefix(b[n:], []byte(end)) || !isPlain(b[:n]) {
		return false
	}
	cell.from = len(r.buf)
	r.buf = append(r.buf, b[:n]...)
	if within {
		r.buf = unescapeX(r.buf, cell.from)
	}
	s.pos += at + n + len(end)
	return true
}

// preserved begins a text with spaces at its ends.
const preserved = `<is><t xml:space="preserve">`

// kinds are what the type of a cell can be (ECMA-376 Part 1, 18.18.11).
var kinds = []string{"s", "n", "str", "inlineStr", "b", "e", "d"}

func kindName(b []byte) string {
	for _, k := range kinds {
		if string(b) == k {
			return k
		}
	}
	return ""
}

// value reads what stands in a cell, and reports whether anything does.
func (r *rowReader) value(cell *Cell, kind string, style int) (there bool, err error) {
	cell.from = len(r.buf)
	stored := false
	for depth := 1; depth > 0; {
		if err := r.must(); err != nil {
			return false, err
		}
		switch r.t.kind {
		case endTag:
			depth--
		case startTag:
			switch {
			case depth > 1:
			case r.t.is("f"):
				cell.Formula = true
			case r.t.is("is") && kind == "inlineStr":
				if r.buf, err = r.richText(&r.t, r.buf); err != nil {
					return false, err
				}
				stored = true
				continue
			case r.t.is("v") && !r.t.empty:
				if err := r.plainText(); err != nil {
					return false, err
				}
				stored = true
				continue
			}
			if !r.t.empty {
				depth++
			}
		}
	}
	if !stored {
		cell.Unknown = cell.Formula
		return cell.Formula, nil
	}
	return r.settle(cell, kind, style)
}

// plainText appends the text of an element that has begun and has nothing else in it.
func (r *rowReader) plainText() error {
	for depth := 1; depth > 0; {
		if err := r.must(); err != nil {
			return err
		}
		switch r.t.kind {
		case someText:
			r.buf = r.t.appendText(r.buf)
		case endTag:
			depth--
		case startTag:
			if !r.t.empty {
				depth++
			}
		}
	}
	return nil
}

// settle makes of what is stored in a cell what it means.
func (r *rowReader) settle(cell *Cell, kind string, style int) (there bool, err error) {
	raw := r.buf[cell.from:]
	switch kind {
	case "s":
		if r.book.lostTexts != nil {
			return false, fmt.Errorf("the text of column %s is one of those that cells share: %w", ColumnName(cell.Col-1), r.book.lostTexts)
		}
		raw = bytes.TrimSpace(raw)
		text, ok := "", isInteger(raw)
		if ok {
			text, ok = r.book.shared.get(number(raw))
		}
		if !ok {
			cell.Kind, cell.Text = Damaged, fmt.Sprintf("text number %q", raw)
			r.buf = r.buf[:cell.from]
			return true, nil
		}
		r.buf = r.buf[:cell.from]
		cell.Text = text
		return text != "", nil
	case "str":
		r.buf = unescapeX(r.buf, cell.from)
	case "inlineStr":
	case "b":
		cell.Kind = Bool
		word := "FALSE"
		if isTrue(string(bytes.TrimSpace(raw))) {
			word = "TRUE"
		}
		r.buf = append(r.buf[:cell.from], word...)
	case "e":
		cell.Kind = Error
	case "d":
		cell.Kind = Date
		day, time, _ := strings.Cut(strings.TrimSuffix(string(bytes.TrimSpace(raw)), "Z"), "T")
		if time = strings.TrimSuffix(time, ".000"); time != "" && time != "00:00:00" {
			day += " " + time
		}
		r.buf = append(r.buf[:cell.from], day...)
	default:
		if style > 0 && r.book.lostStyles != nil {
			return false, fmt.Errorf("only its style says whether the number of column %s is a date: %w", ColumnName(cell.Col-1), r.book.lostStyles)
		}
		r.number(cell, style)
	}
	cell.to = len(r.buf)
	return cell.to > cell.from || cell.Formula, nil
}

// number writes a stored number: with all its digits, or as the day that it is.
func (r *rowReader) number(cell *Cell, style int) {
	raw := bytes.TrimSpace(r.buf[cell.from:])
	date := style > 0 && style < len(r.book.shown) && r.book.shown[style] == asDate
	if !date && isInteger(raw) {
		cell.Kind = Number
		r.buf = append(r.buf[:cell.from], raw...)
		return
	}
	value, err := strconv.ParseFloat(string(raw), 64)
	if err != nil {
		return // a text
	}
	if digits, ok := longInteger(string(raw)); ok && !date {
		cell.Kind = Number
		r.buf = append(r.buf[:cell.from], digits...)
		return
	}
	r.settleNumber(cell, value, date)
}

// longInteger returns all digits of a whole number that has more of them than are exact in a
// number of 64 bits: as they are stored, since the shortest text of the same number has
// fewer.
func longInteger(raw string) (digits string, ok bool) {
	mantissa, exponent, _ := strings.Cut(strings.ToUpper(raw), "E")
	whole, fraction, _ := strings.Cut(mantissa, ".")
	zeros := 0
	if exponent != "" {
		n, err := strconv.Atoi(strings.TrimPrefix(exponent, "+"))
		if err != nil {
			return "", false
		}
		zeros = n
	}
	if zeros -= len(fraction); zeros < 0 || len(whole)+len(fraction) <= 15 || len(whole)+len(fraction)+zeros > mostDigits {
		return "", false
	}
	digits = whole + fraction + strings.Repeat("0", zeros)
	return digits, digits[0] != '0' && strings.Trim(digits, "0123456789") == ""
}

// mostDigits is how many digits a whole number is written out with.
const mostDigits = 24

func (r *rowReader) settleNumber(cell *Cell, value float64, date bool) {
	if date {
		if out, ok := r.book.epoch.date(r.buf[:cell.from], value); ok {
			r.buf, cell.Kind = out, Date
			return
		}
	}
	cell.Kind = Number
	r.buf = strconv.AppendFloat(r.buf[:cell.from], value, 'f', -1, 64)
}

// isInteger reports whether a number is written as a program prints it that can be one
// of its numbers: without a zero before it, and with no more than fifteen digits.
func isInteger(b []byte) bool {
	if len(b) == 0 || len(b) > 15 || b[0] == '0' && len(b) > 1 {
		return false
	}
	for _, c := range b {
		if c < '0' || c > '9' {
			return false
		}
	}
	return true
}

// place returns the column and the row of the name of a cell, 0 if it is none.
func place(name []byte) (col, row int) {
	i := 0
	for ; i < len(name); i++ {
		c := name[i]
		if c == '$' {
			continue
		}
		if c |= 0x20; c < 'a' || c > 'z' || col > MostColumns {
			break
		}
		col = col*26 + int(c-'a') + 1
	}
	return col, number(name[i:])
}

// number reads a number of a file, 0 if it is none, and no larger than a file can have.
func number(b []byte) (n int) {
	for _, c := range b {
		if isSpace(c) || c == '$' {
			continue
		}
		if c < '0' || c > '9' {
			return 0
		}
		if n = n*10 + int(c-'0'); n > 1<<30 {
			return 1 << 30
		}
	}
	return n
}
