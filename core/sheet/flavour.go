package sheet

import (
	"bufio"
	"errors"
	"fmt"
	"io"
	"math"
	"strings"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/charset"
)

// A flavour is how a CSV file is written that is not as RFC 4180 has it: with other
// quotation marks, or with a backslash before those that belong to a cell.
type flavour struct{ separator, quote, escape byte }

// oddQuotes are the quotation marks that are looked for.
const oddQuotes = "'~`^|$%*"

// flavourReach is how much of a file is looked at for its flavour.
const flavourReach = 64 << 10

// oddFlavour looks whether the beginning of a file is written in another flavour than
// the usual one; ok is false if it is not.
func (t *Table) oddFlavour(decoded string) (f flavour, ok bool) {
	decoded = decoded[:min(len(decoded), flavourReach)]
	separator := t.opt.SeparatorByte()
	if q := t.opt.QuoteByte(); q != 0 {
		if separator == 0 {
			separator = t.Form.Separator
		}
		return flavour{separator, q, 0}, q != '"'
	}
	if strings.Contains(decoded, `\"`) {
		rows, strays := sampleOf(decoded, &t.Form, 50), 0
		for i := range rows {
			if rows[i].Stray || len(rows[i].Cells) != len(rows[0].Cells) {
				strays++
			}
		}
		f := flavour{t.Form.Separator, '"', '\\'}
		if read := f.sample(decoded); strays > 0 && read.fit == len(read.rows) {
			return f, true
		}
	}
	for _, q := range []byte(oddQuotes) {
		for _, sep := range append(separators[:len(separators):len(separators)], rareSeparators...) {
			if sep == q || separator != 0 && sep != separator || strings.Count(decoded, string([]byte{sep, q})) < 2 {
				continue
			}
			f := flavour{sep, q, 0}
			read := f.sample(decoded)
			if n := len(read.rows); n > 1 && len(read.rows[0]) > 1 && read.fit*10 >= n*8 && read.cells >= 4 &&
				read.quoted*10 >= read.cells*8 {
				return f, true
			}
		}
	}
	return f, false
}

// A flavoured is what the first rows of a text are in a flavour.
type flavoured struct {
	rows          [][]string
	fit           int // rows that have as many cells as the first
	cells, quoted int // that are not empty, and of those the ones in quotation marks
}

// sample reads the first rows of a text.
func (f flavour) sample(decoded string) (s flavoured) {
	var row []string
	f.read(bufio.NewReader(strings.NewReader(decoded)), func(cell []byte, quoted bool) {
		row = append(row, string(cell))
		if len(cell) > 0 {
			s.cells++
			if quoted {
				s.quoted++
			}
		}
	}, func() error {
		s.rows = append(s.rows, row)
		if len(row) == len(s.rows[0]) {
			s.fit++
		}
		if row = nil; len(s.rows) == 50 {
			return io.EOF
		}
		return nil
	})
	return s
}

// mostCell is how large a cell of an odd flavour may be.
const mostCell = 64 << 20

// read reads rows in the flavour. cell is called with each cell, and whether it stands
// in quotation marks.
func (f flavour) read(r *bufio.Reader, cell func(cell []byte, quoted bool), endRow func() error) error {
	var buf []byte
	inside, quoted, began, some := false, false, false, false // a cell in marks, now or before; a cell; a row
	flush := func() {
		cell(buf, quoted)
		buf, began, quoted = buf[:0], false, false
	}
	for {
		c, err := r.ReadByte()
		if errors.Is(err, io.EOF) {
			if some {
				flush()
				return endRow()
			}
			return nil
		}
		if err != nil {
			return err
		}
		next := func() byte {
			b, _ := r.Peek(1)
			if len(b) == 0 {
				return 0
			}
			return b[0]
		}
		switch {
		case f.escape != 0 && c == f.escape && (next() == f.quote || next() == f.escape):
			c, _ = r.ReadByte()
			buf = append(buf, c)
			began, some = true, true
		case inside && c == f.quote && next() == f.quote:
			r.ReadByte()
			buf = append(buf, c)
		case inside && c == f.quote && (next() == f.separator || next() == '\n' || next() == '\r' || next() == 0):
			inside = false
		case inside:
			buf = append(buf, c)
		case c == f.quote && !began:
			inside, quoted, began, some = true, true, true, true
		case c == f.separator:
			flush()
			some = true
		case c == '\r' && next() == '\n':
		case c == '\n' || c == '\r':
			flush()
			some = false
			if err := endRow(); err != nil {
				return err
			}
		default:
			buf = append(buf, c)
			began, some = true, true
		}
		if len(buf) > mostCell {
			return fmt.Errorf("%w: a cell of more than %d MB", ErrRowTooLarge, mostCell>>20)
		}
	}
}

// respool brings a file in an odd flavour to the form of spooled rows, from that byte
// on, and looks for the table there.
func (t *Table) respool(f flavour, start int) error {
	from := t.Form
	source, done := t.giveUp()
	defer done()
	spool, err := t.newSpool()
	if err != nil {
		return err
	}
	sum := xxhash.New()
	in := bufio.NewReaderSize(io.TeeReader(io.NewSectionReader(source, 0, math.MaxInt64), sum), 1<<20)
	if _, err := in.Discard(start); err != nil {
		return t.fail(err, "", "")
	}
	out := newSpoolWriter(spool)
	err = f.read(in, func(cell []byte, _ bool) {
		out.cell(from.Decode(string(from.Charset.Decode(cell))), catalogue.Mark(0))
	}, out.endRow)
	if err == nil {
		err = out.flush()
	}
	if err != nil {
		return t.fail(err, "", "")
	}
	if t.Transcoded == charset.UTF8 && t.Member == "" { // or the sum is that of the file before
		t.BookSum = sum.Sum64()
	}
	if t.Extent, err = spool.Seek(0, io.SeekCurrent); err != nil {
		return err
	}
	t.flavour, t.written = f, from
	return t.findSpooled()
}
