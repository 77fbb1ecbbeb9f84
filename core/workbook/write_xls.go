package workbook

import (
	"bufio"
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"os"
	"unicode/utf16"
	"unicode/utf8"
)

// What a sheet of an old binary workbook holds (MS-XLS 2.2.2).
const (
	MostXLSRows    = 1 << 16
	MostXLSColumns = 256
)

// Further records of BIFF8 (MS-XLS 2.3), of which each holds so many bytes at most.
const (
	recWindow1    = 0x003d
	recFont       = 0x0031
	recCodePage   = 0x0042
	recDimensions = 0x0200
	recWindow2    = 0x023e
	recStyle      = 0x0293

	mostRecord = 8224
)

// XLSWriter writes an old binary workbook (BIFF8) with one sheet, row by row, for importers that take nothing else. All its cells are text. The
// texts, and then the cells, wait in temporary files until it is closed.
type XLSWriter struct {
	out    io.Writer
	name   string
	texts  *os.File // the table of texts, as records
	cells  *os.File // the cells, as records
	text   *bufio.Writer
	cell   *bufio.Writer
	record []byte // of the table of texts, that is not full yet
	first  bool   // it is the first one
	size   int64  // of the table
	count  uint32 // of texts
	rows   int
	width  int
	length int64 // of the cells
}

// NewXLSWriter begins a workbook. dir is a folder for what waits; "" is that of the system.
func NewXLSWriter(w io.Writer, dir string, layout Layout) (x *XLSWriter, err error) {
	x = &XLSWriter{out: w, name: layout.Name, first: true, record: make([]byte, 8)} // the counts come last
	if x.texts, err = os.CreateTemp(dir, ".zetanum-xls-*"); err != nil {
		return nil, err
	}
	if x.cells, err = os.CreateTemp(dir, ".zetanum-xls-*"); err != nil {
		return nil, errors.Join(err, x.drop())
	}
	x.text, x.cell = bufio.NewWriterSize(x.texts, 1<<18), bufio.NewWriterSize(x.cells, 1<<18)
	return x, nil
}

// drop takes the temporary files away.
func (x *XLSWriter) drop() (err error) {
	for _, f := range []*os.File{x.texts, x.cells} {
		if f != nil {
			err = errors.Join(err, f.Close(), os.Remove(f.Name()))
		}
	}
	x.texts, x.cells = nil, nil
	return err
}

// Row writes the next row. The error wraps [ErrNoRoom] where no such workbook can hold it.
func (x *XLSWriter) Row(cells []string) error {
	switch {
	case x.rows >= MostXLSRows:
		return fmt.Errorf("%w: an old binary one has %d rows at most", ErrNoRoom, MostXLSRows)
	case len(cells) > MostXLSColumns:
		return fmt.Errorf("%w: an old binary one has %d columns at most", ErrNoRoom, MostXLSColumns)
	}
	for col, text := range cells {
		if text == "" {
			continue
		}
		units := utf16.Encode([]rune(text))
		if len(units) > MostText {
			return fmt.Errorf("%w: the cell in column %d of row %d has more than %d characters", ErrNoRoom, col+1, x.rows+1, MostText)
		}
		x.width = max(x.width, col+1)
		var b [14]byte
		binary.LittleEndian.PutUint16(b[0:], recLabelSST)
		binary.LittleEndian.PutUint16(b[2:], 10)
		binary.LittleEndian.PutUint16(b[4:], uint16(x.rows))
		binary.LittleEndian.PutUint16(b[6:], uint16(col))
		binary.LittleEndian.PutUint16(b[8:], xfText)
		binary.LittleEndian.PutUint32(b[10:], x.count)
		x.length += int64(len(b))
		if _, err := x.cell.Write(b[:]); err != nil {
			return err
		}
		x.count++
		if err := x.enter(units); err != nil {
			return err
		}
	}
	x.rows++
	return nil
}

// enter adds a text to the table. Its length and kind stand in one record, and where its characters go on in the next their kind stands there
// once more (MS-XLS 2.5.293, 2.4.58).
func (x *XLSWriter) enter(units []uint16) error {
	if len(x.record)+3+2 > mostRecord {
		if err := x.flush(); err != nil {
			return err
		}
	}
	wide := byte(0)
	for _, u := range units {
		if u > 0xff {
			wide = 1
			break
		}
	}
	x.record = append(binary.LittleEndian.AppendUint16(x.record, uint16(len(units))), wide)
	for len(units) > 0 {
		n := min(len(units), (mostRecord-len(x.record))/(1+int(wide)))
		for _, u := range units[:n] {
			if wide == 1 {
				x.record = binary.LittleEndian.AppendUint16(x.record, u)
			} else {
				x.record = append(x.record, byte(u))
			}
		}
		if units = units[n:]; len(units) > 0 {
			if err := x.flush(); err != nil {
				return err
			}
			x.record = append(x.record, wide)
		}
	}
	return nil
}

// flush writes the record of the table that is being made.
func (x *XLSWriter) flush() error {
	kind := uint16(recContinue)
	if x.first {
		kind, x.first = recSST, false
	}
	head := binary.LittleEndian.AppendUint16(binary.LittleEndian.AppendUint16(nil, kind), uint16(len(x.record)))
	x.size += int64(len(head) + len(x.record))
	_, err := x.text.Write(append(head, x.record...))
	x.record = x.record[:0]
	return err
}

// Formats of cells: those before them belong to styles.
const (
	xfPlain = 15
	xfText  = 16
)

// globals returns the records before the table of texts; sheet is where the sheet begins.
func (x *XLSWriter) globals(sheet uint32) (b []byte) {
	add := func(kind uint16, data ...byte) {
		b = binary.LittleEndian.AppendUint16(binary.LittleEndian.AppendUint16(b, kind), uint16(len(data)))
		b = append(b, data...)
	}
	add(recBOF, bof(0x0005)...)
	add(recCodePage, 0xb0, 0x04)
	add(recWindow1, 0, 0, 0, 0, 0, 0x40, 0, 0x20, 0x38, 0, 0, 0, 0, 0, 1, 0, 0x58, 0x02)
	add(recDateMode, 0, 0)
	for range 4 {
		add(recFont, append([]byte{200, 0, 0, 0, 0xff, 0x7f, 0x90, 0x01, 0, 0, 0, 0, 0, 0, 5, 0}, "Arial"...)...)
	}
	for range xfPlain {
		add(recXF, 0, 0, 0, 0, 0xf5, 0xff, 0x20, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0xc0, 0x20)
	}
	add(recXF, 0, 0, 0, 0, 1, 0, 0x20, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0xc0, 0x20)
	add(recXF, 0, 0, 49, 0, 1, 0, 0x20, 0, 0, 0x04, 0, 0, 0, 0, 0, 0, 0, 0, 0xc0, 0x20) // 49: text
	add(recStyle, 0, 0x80, 0, 0xff)
	name := utf16.Encode([]rune(x.name))
	bound := append(binary.LittleEndian.AppendUint32(nil, sheet), 0, 0, byte(len(name)), 1)
	for _, u := range name {
		bound = binary.LittleEndian.AppendUint16(bound, u)
	}
	add(recBoundSheet, bound...)
	return b
}

func bof(kind uint16) []byte {
	b := binary.LittleEndian.AppendUint16([]byte{0, 6}, kind)
	return append(b, 0xbb, 0x0d, 0xcc, 0x07, 0, 0, 0, 0, 6, 0, 0, 0)
}

// Close writes the workbook.
func (x *XLSWriter) Close() (err error) {
	defer func() { err = errors.Join(err, x.drop()) }()
	if err := errors.Join(x.flush(), x.text.Flush(), x.cell.Flush()); err != nil {
		return err
	}
	counts := binary.LittleEndian.AppendUint32(binary.LittleEndian.AppendUint32(nil, x.count), x.count)
	if _, err := x.texts.WriteAt(counts, 4); err != nil {
		return err
	}
	end := []byte{recEOF, 0, 0, 0}
	begin := int64(len(x.globals(0))) + x.size + int64(len(end))
	var sheet []byte
	add := func(kind uint16, data []byte) {
		sheet = binary.LittleEndian.AppendUint16(binary.LittleEndian.AppendUint16(sheet, kind), uint16(len(data)))
		sheet = append(sheet, data...)
	}
	add(recBOF, bof(0x0010))
	dimensions := binary.LittleEndian.AppendUint32(make([]byte, 4), uint32(x.rows))
	dimensions = binary.LittleEndian.AppendUint16(append(dimensions, 0, 0), uint16(x.width))
	add(recDimensions, append(dimensions, 0, 0))
	var tail []byte
	tail = append(tail, byte(recWindow2&0xff), byte(recWindow2>>8), 18, 0, 0xb6, 0x06, 0, 0, 0, 0, 0x40, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0)
	tail = append(tail, end...)
	if begin+int64(len(sheet))+x.length+int64(len(tail)) >= 1<<31 {
		return fmt.Errorf("%w: an old binary one has two gigabytes at most", ErrNoRoom)
	}
	stream := &compound{out: bufio.NewWriterSize(x.out, 1<<18)}
	if err := stream.begin(begin + int64(len(sheet)) + x.length + int64(len(tail))); err != nil {
		return err
	}
	for _, part := range []io.Reader{
		bytes.NewReader(x.globals(uint32(begin))), io.NewSectionReader(x.texts, 0, x.size), bytes.NewReader(end), bytes.NewReader(sheet), io.NewSectionReader(x.cells, 0, x.length), bytes.NewReader(tail),
	} {
		if _, err := io.Copy(stream.out, part); err != nil {
			return err
		}
	}
	return stream.end()
}

// A compound is a compound file with one stream (MS-CFB).
type compound struct {
	out              *bufio.Writer
	size             int64 // of the stream, as it is
	sectors          int64 // of the stream
	tables, pointers int64 // sectors of the table, and of what says where it lies beyond the header
}

const (
	sectorSize    = 512
	leastStream   = 4096 // smaller ones lie elsewhere
	inHeader      = 109  // sectors of the table that the header names
	sectorEnd     = 0xfffffffe
	sectorFree    = 0xffffffff
	sectorTable   = 0xfffffffd
	sectorPointer = 0xfffffffc
)

// begin writes what stands before a stream of that size.
func (c *compound) begin(size int64) error {
	c.size = size
	c.sectors = (max(size, leastStream) + sectorSize - 1) / sectorSize
	for {
		all := c.sectors + 1 + c.tables + c.pointers
		tables := (all + sectorSize/4 - 1) / (sectorSize / 4)
		pointers := (max(0, tables-inHeader) + sectorSize/4 - 2) / (sectorSize/4 - 1)
		if tables == c.tables && pointers == c.pointers {
			break
		}
		c.tables, c.pointers = tables, pointers
	}
	h := make([]byte, 0, sectorSize)
	h = append(h, 0xd0, 0xcf, 0x11, 0xe0, 0xa1, 0xb1, 0x1a, 0xe1)
	h = append(h, make([]byte, 16)...)
	for _, v := range []uint16{0x3e, 3, 0xfffe, 9, 6, 0, 0, 0} {
		h = binary.LittleEndian.AppendUint16(h, v)
	}
	pointer := uint32(sectorEnd)
	if c.pointers > 0 {
		pointer = uint32(c.sectors + 1 + c.tables)
	}
	for _, v := range []uint32{0, uint32(c.tables), uint32(c.sectors), 0, leastStream, sectorEnd, 0, pointer, uint32(c.pointers)} {
		h = binary.LittleEndian.AppendUint32(h, v)
	}
	for i := range int64(inHeader) {
		h = binary.LittleEndian.AppendUint32(h, c.table(i))
	}
	_, err := c.out.Write(h)
	return err
}

// table returns the sector of a part of the table.
func (c *compound) table(i int64) uint32 {
	if i >= c.tables {
		return sectorFree
	}
	return uint32(c.sectors + 1 + i)
}

// end writes what stands behind the stream.
func (c *compound) end() error {
	put := func(v uint32) {
		c.out.WriteByte(byte(v)) // errors show when it is flushed
		c.out.WriteByte(byte(v >> 8))
		c.out.WriteByte(byte(v >> 16))
		c.out.WriteByte(byte(v >> 24))
	}
	c.out.Write(make([]byte, c.sectors*sectorSize-c.size))
	entry := func(name string, kind byte, child, start uint32, size int64) {
		b := make([]byte, 0, 128)
		for _, u := range utf16.Encode([]rune(name)) {
			b = binary.LittleEndian.AppendUint16(b, u)
		}
		b = append(b, make([]byte, 64-len(b))...)
		length := uint16(0)
		if name != "" {
			length = uint16(2*utf8.RuneCountInString(name) + 2)
		}
		b = binary.LittleEndian.AppendUint16(b, length)
		b = append(b, kind, 1)
		for _, v := range []uint32{sectorFree, sectorFree, child} {
			b = binary.LittleEndian.AppendUint32(b, v)
		}
		b = append(b, make([]byte, 36)...)
		b = binary.LittleEndian.AppendUint32(b, start)
		c.out.Write(binary.LittleEndian.AppendUint64(b, uint64(size)))
	}
	entry("Root Entry", 5, 1, sectorEnd, 0)
	entry("Workbook", 2, sectorFree, 0, max(c.size, leastStream))
	entry("", 0, sectorFree, 0, 0)
	entry("", 0, sectorFree, 0, 0)
	for i := range c.tables * (sectorSize / 4) {
		switch {
		case i < c.sectors-1:
			put(uint32(i + 1))
		case i <= c.sectors: // the last of the stream, and the folder
			put(sectorEnd)
		case i <= c.sectors+c.tables:
			put(sectorTable)
		case i <= c.sectors+c.tables+c.pointers:
			put(sectorPointer)
		default:
			put(sectorFree)
		}
	}
	for i := range c.pointers {
		for n := range int64(sectorSize/4 - 1) {
			put(c.table(inHeader + i*(sectorSize/4-1) + n))
		}
		if next := i + 1; next < c.pointers {
			put(uint32(c.sectors + 1 + c.tables + next))
		} else {
			put(sectorEnd)
		}
	}
	return c.out.Flush()
}
