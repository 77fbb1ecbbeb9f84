package workbook

import (
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"math"
	"strings"
	"unicode/utf16"
	"unicode/utf8"

	"github.com/richardlehane/mscfb"
)

// ErrOlder says that a workbook is of a kind from before BIFF8.
var ErrOlder = errors.New("the workbook is of a kind that was written until 1996")

// mostDrawing is how much of what is drawn over a sheet is read.
const mostDrawing = 16 << 20

// mostStream is how large the stream of a binary workbook may be: its format ends at
// 65,536 rows of 256 columns.
const mostStream = 512 << 20

// The records of BIFF8 that are read (MS-XLS, 2.3).
const (
	recFormula    = 0x0006
	recEOF        = 0x000a
	recDateMode   = 0x0022
	recFilePass   = 0x002f
	recContinue   = 0x003c
	recColInfo    = 0x007d
	recBoundSheet = 0x0085
	recFilterMode = 0x009b
	recMulRK      = 0x00bd
	recRString    = 0x00d6
	recXF         = 0x00e0
	recMerged     = 0x00e5
	recDrawing    = 0x00ec
	recSST        = 0x00fc
	recLabelSST   = 0x00fd
	recNumber     = 0x0203
	recLabel      = 0x0204
	recBoolErr    = 0x0205
	recString     = 0x0207
	recRow        = 0x0208
	recRK         = 0x027e
	recFormat     = 0x041e
	recBOF        = 0x0809
)

// A record is one of a stream, with those that continue it.
type record struct {
	kind  uint16
	data  []byte
	more  [][]byte // continued
	after int      // where the next one begins
}

// recordAt returns the record at a place of a stream; ok is false at its end.
func recordAt(b []byte, at int) (r record, ok bool) {
	piece := func() (kind uint16, data []byte, ok bool) {
		if at < 0 || len(b)-at < 4 {
			return 0, nil, false
		}
		kind = binary.LittleEndian.Uint16(b[at:])
		n := int(binary.LittleEndian.Uint16(b[at+2:]))
		if len(b)-at-4 < n {
			return 0, nil, false
		}
		data = b[at+4 : at+4+n]
		at += 4 + n
		return kind, data, true
	}
	if r.kind, r.data, ok = piece(); !ok {
		return r, false
	}
	for r.after = at; ; r.after = at {
		kind, data, there := piece()
		if !there || kind != recContinue {
			return r, true
		}
		r.more = append(r.more, data)
	}
}

// openBinary reads what a workbook in BIFF8 says of itself.
func openBinary(r io.ReaderAt) (b *Book, err error) {
	defer func() {
		if p := recover(); p != nil { // of what reads the container
			b, err = nil, fmt.Errorf("%w: %v", ErrDamaged, p)
		}
	}()
	container, err := mscfb.New(r)
	if err != nil {
		return nil, fmt.Errorf("%w: %v", ErrDamaged, err)
	}
	b = new(Book)
	older := false
	for range 10_000 {
		f, err := container.Next()
		if err != nil {
			break
		}
		switch {
		case f.Name == "EncryptedPackage":
			return nil, ErrPassword
		case f.Name == "Book":
			older = true
		case f.Name == "Workbook" && b.stream == nil:
			if f.Size > mostStream {
				return nil, fmt.Errorf("%w: its stream has %d bytes", ErrTooLarge, f.Size)
			}
			if b.stream, err = io.ReadAll(io.LimitReader(f, mostStream)); err != nil {
				return nil, fmt.Errorf("%w: %v", ErrDamaged, err)
			}
		}
	}
	switch {
	case b.stream == nil && older:
		return nil, ErrOlder
	case b.stream == nil:
		return nil, fmt.Errorf("%w: it has no stream of a workbook", ErrNotWorkbook)
	}
	return b, b.readGlobals()
}

// readGlobals reads what all sheets share.
func (b *Book) readGlobals() error {
	formats := make(map[int]string)
	var styles []int
	b.shared = new(shared)
	for at, first := 0, true; ; first = false {
		r, ok := recordAt(b.stream, at)
		if !ok {
			return fmt.Errorf("%w: it ends in the middle", ErrDamaged)
		}
		at = r.after
		c := &chars{data: r.data, more: r.more}
		switch r.kind {
		case recBOF:
			if c.u16() < 0x0600 {
				return ErrOlder
			}
		case recFilePass:
			return ErrPassword
		case recDateMode:
			if c.u16() == 1 {
				b.epoch = epoch1904
			}
		case recFormat:
			id := int(c.u16())
			text, err := c.text(int(c.u16()))
			if err != nil {
				return err
			}
			formats[id] = text
		case recXF:
			c.u16()
			styles = append(styles, int(c.u16()))
		case recBoundSheet:
			place, state, kind := c.u32(), c.u8(), c.u8()
			name, err := c.text(int(c.u8()))
			if err != nil {
				return err
			}
			if kind == 0 {
				b.Sheets = append(b.Sheets, &Sheet{Name: name, Hidden: state&3 != 0, at: int(place)})
			}
		case recSST:
			if err := b.readSST(c); err != nil {
				return err
			}
		case recEOF:
			for _, id := range styles {
				b.shown = append(b.shown, shownBy(id, formats[id]))
			}
			if len(b.Sheets) == 0 {
				return fmt.Errorf("%w: it has no sheets", ErrNotWorkbook)
			}
			return nil
		}
		if first && r.kind != recBOF {
			return fmt.Errorf("%w: it does not begin as one", ErrDamaged)
		}
	}
}

// readSST reads the texts that cells share.
func (b *Book) readSST(c *chars) error {
	c.u32()
	n := c.u32()
	for range n {
		text, err := c.text(int(c.u16()))
		if err != nil {
			return err
		}
		if err := b.shared.add([]byte(text)); err != nil {
			return err
		}
	}
	return nil
}

// chars reads the data of a record and of those that continue it.
type chars struct {
	data []byte
	more [][]byte
	end  bool // more was asked for than there is
}

// bytes returns the next n bytes; they may lie in several records.
func (c *chars) bytes(n int) []byte {
	if n <= len(c.data) {
		b := c.data[:n]
		c.data = c.data[n:]
		return b
	}
	b := append([]byte(nil), c.data...)
	for len(b) < n {
		if len(c.more) == 0 {
			c.end = true
			return append(b, make([]byte, min(n-len(b), 8))...)
		}
		c.data, c.more = c.more[0], c.more[1:]
		k := min(n-len(b), len(c.data))
		b = append(b, c.data[:k]...)
		c.data = c.data[k:]
	}
	return b
}

func (c *chars) u8() byte    { return c.bytes(1)[0] }
func (c *chars) u16() uint16 { return binary.LittleEndian.Uint16(c.bytes(2)) }
func (c *chars) u32() uint32 { return binary.LittleEndian.Uint32(c.bytes(4)) }

// text reads a text of n characters, with its flags before it (MS-XLS, 2.5.293 and
// 2.5.294). Where it goes on in another record, that begins with flags of its own.
func (c *chars) text(n int) (string, error) {
	flags := c.u8()
	runs, ext := 0, 0
	if flags&8 != 0 {
		runs = int(c.u16())
	}
	if flags&4 != 0 {
		ext = int(c.u32())
	}
	var units []uint16
	for len(units) < n && !c.end {
		if len(c.data) == 0 {
			if len(c.more) == 0 {
				c.end = true
				break
			}
			c.data, c.more = c.more[0], c.more[1:]
			flags = flags&^1 | c.u8()&1
		}
		if flags&1 == 0 {
			units = append(units, uint16(c.u8()))
		} else {
			units = append(units, c.u16())
		}
	}
	c.bytes(min(4*runs, mostStream))
	if ext > 0 {
		c.bytes(min(ext, mostStream))
	}
	if c.end {
		return "", fmt.Errorf("%w: it ends in the middle of a text", ErrDamaged)
	}
	return string(utf16.Decode(units)), nil
}

// An xlsReader reads the rows of a sheet in BIFF8.
type xlsReader struct {
	*rowReader
	hidden map[int]bool // rows
	string bool         // the last cell waits for its text

	drawing []byte // what is drawn over the sheet
}

func (r *xlsReader) read() error {
	r.hidden = make(map[int]bool)
	depth := 0
	for at := r.sheet.at; ; {
		rec, ok := recordAt(r.book.stream, at)
		if !ok {
			return fmt.Errorf("%w: it ends in the middle of the rows", ErrDamaged)
		}
		at = rec.after
		switch {
		case rec.kind == recBOF:
			depth++ // of a chart within, too
		case depth == 0:
			return fmt.Errorf("%w: where the sheet should begin is something else", ErrDamaged)
		case rec.kind == recEOF:
			if depth--; depth == 0 {
				r.sheet.drawn(r.drawing)
				return r.flush(0)
			}
		case rec.kind == recDrawing:
			if len(r.drawing) < mostDrawing {
				r.drawing = append(r.drawing, rec.data...)
				for _, more := range rec.more {
					r.drawing = append(r.drawing, more...)
				}
			}
		case depth == 1:
			if err := r.record(&rec); err != nil {
				return err
			}
		}
	}
}

func (r *xlsReader) record(rec *record) error {
	c := &chars{data: rec.data, more: rec.more}
	switch rec.kind {
	case recRow:
		row := int(c.u16()) + 1
		c.bytes(10)
		if c.u16()&0x20 != 0 {
			r.hidden[row] = true
		}
	case recColInfo:
		from, to := int(c.u16())+1, int(c.u16())+1
		c.bytes(4)
		if c.u16()&1 != 0 {
			r.sheet.HiddenColumns = append(r.sheet.HiddenColumns, Range{from, min(to, MostColumns)})
		}
	case recFilterMode:
		r.sheet.Filtered = true
	case recMerged:
		for range c.u16() {
			row, toRow, col, toCol := int(c.u16())+1, int(c.u16())+1, int(c.u16())+1, int(c.u16())+1
			if c.end {
				break
			}
			r.sheet.Merged = append(r.sheet.Merged, Area{col, row, toCol, toRow})
		}
	case recMulRK:
		row, col := int(c.u16())+1, int(c.u16())+1
		for len(c.data) >= 8 {
			style, rk := c.u16(), c.u32()
			if err := r.cell(row, col, func(cell *Cell) { r.value(cell, rkValue(rk), int(style)) }); err != nil {
				return err
			}
			col++
		}
	case recLabelSST, recNumber, recRK, recFormula, recBoolErr, recLabel, recRString:
		return r.oneCell(rec.kind, c)
	case recString:
		if n := len(r.row.Cells); r.string && n > 0 {
			text, err := c.text(int(c.u16()))
			if err != nil {
				return err
			}
			cell := &r.row.Cells[n-1]
			cell.from = len(r.buf)
			r.buf = append(r.buf, text...)
			cell.to = len(r.buf)
		}
		r.string = false
	}
	return nil
}

func (r *xlsReader) oneCell(kind uint16, c *chars) error {
	row, col, style := int(c.u16())+1, int(c.u16())+1, int(c.u16())
	var failed error
	err := r.cell(row, col, func(cell *Cell) {
		switch kind {
		case recLabelSST:
			text, ok := r.book.shared.get(int(c.u32()))
			if !ok {
				failed = fmt.Errorf("%w: a cell has a text that is not there", ErrDamaged)
			}
			r.buf = append(r.buf, text...)
		case recNumber:
			r.value(cell, math.Float64frombits(binary.LittleEndian.Uint64(c.bytes(8))), style)
		case recRK:
			r.value(cell, rkValue(c.u32()), style)
		case recBoolErr:
			value, isError := c.u8(), c.u8()
			r.word(cell, value, isError != 0)
		case recLabel, recRString:
			var text string
			if text, failed = c.text(int(c.u16())); failed == nil {
				r.buf = append(r.buf, text...)
			}
		case recFormula:
			cell.Formula = true
			v := c.bytes(8)
			switch {
			case v[6] != 0xff || v[7] != 0xff:
				r.value(cell, math.Float64frombits(binary.LittleEndian.Uint64(v)), style)
			case v[0] == 0:
				r.string = true // it follows
			case v[0] == 1 || v[0] == 2:
				r.word(cell, v[2], v[0] == 2)
			}
		}
	})
	if failed != nil {
		return failed
	}
	if c.end {
		return fmt.Errorf("%w: a cell is cut", ErrDamaged)
	}
	return err
}

// cell adds a cell, if anything is in it.
func (r *xlsReader) cell(row, col int, fill func(*Cell)) error {
	if row != r.row.Number {
		if err := r.flush(row); err != nil {
			return err
		}
	}
	r.string = false
	if n := len(r.row.Cells); col > MostColumns || n > 0 && r.row.Cells[n-1].Col >= col {
		return fmt.Errorf("%w: the cells of row %d are not in order", ErrDamaged, row)
	}
	cell := Cell{Col: col, from: len(r.buf)}
	fill(&cell)
	if cell.to = len(r.buf); cell.to > cell.from || cell.Formula {
		r.row.Cells = append(r.row.Cells, cell)
	}
	return nil
}

// flush gives the row, and begins another.
func (r *xlsReader) flush(next int) error {
	if next > 0 && next < r.row.Number {
		return fmt.Errorf("%w: row %d stands behind row %d", ErrDamaged, next, r.row.Number)
	}
	if len(r.row.Cells) > 0 {
		if !utf8.Valid(r.buf) {
			r.buf = []byte(strings.ToValidUTF8(string(r.buf), "\ufffd"))
		}
		r.finish()
		if r.row.Hidden = r.hidden[r.row.Number]; r.row.Hidden {
			r.sheet.HiddenRows++
		}
		if err := r.do(&r.row); err != nil {
			return err
		}
	}
	r.row = Row{Number: next, Cells: r.row.Cells[:0]}
	r.buf = r.buf[:0]
	return nil
}

// value writes a number: with all its digits, or as the day that it is.
func (r *xlsReader) value(cell *Cell, v float64, style int) {
	if math.IsNaN(v) || math.IsInf(v, 0) {
		return
	}
	r.settleNumber(cell, v, style < len(r.book.shown) && r.book.shown[style] == asDate)
}

// rkValue returns the number of an RK value (MS-XLS, 2.5.217).
func rkValue(rk uint32) (v float64) {
	if rk&2 != 0 {
		v = float64(int32(rk) >> 2)
	} else {
		v = math.Float64frombits(uint64(rk&^3) << 32)
	}
	if rk&1 != 0 {
		v /= 100
	}
	return v
}

// errorValues are what workbooks show in place of values (MS-XLS, 2.5.10).
var errorValues = map[byte]string{0x00: "#NULL!", 0x07: "#DIV/0!", 0x0f: "#VALUE!", 0x17: "#REF!", 0x1d: "#NAME?", 0x24: "#NUM!",
	0x2a: "#N/A"}

// word writes a truth value or an error.
func (r *xlsReader) word(cell *Cell, value byte, isError bool) {
	word := "FALSE"
	switch {
	case isError:
		cell.Kind = Error
		if word = errorValues[value]; word == "" {
			word = "#N/A"
		}
	case value != 0:
		word = "TRUE"
		fallthrough
	default:
		cell.Kind = Bool
	}
	r.buf = append(r.buf, word...)
}
