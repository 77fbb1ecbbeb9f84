package sheet

import (
	"bufio"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/charset"
	"zetanum/core/heading"
)

// A flavour is how a CSV file is written that is not as RFC 4180 has it: with other
// quotation marks, or with a backslash before those that belong to a cell.
type flavour struct {
	separator, quote, escape byte

	heads   byte // separates the headings, if something else separates the rows
	spaced  bool // spaces stand before quotation marks
	wrapped bool // a row is one cell, which holds the row
	returns bool // rows end with two carriage returns and a line feed
	lone    bool // some rows end with a lone carriage return
}

// said says in words what is unusual.
func (f *flavour) said() string {
	switch {
	case f.heads != 0:
		return byteName(f.heads) + " in the headings"
	case f.wrapped:
		return "each row in one cell in quotation marks"
	case f.spaced:
		return "spaces before the quotation marks"
	case f.returns:
		return "rows end with CR CR LF"
	case f.lone:
		return "some rows end with CR alone"
	case f.escape != 0:
		return "quotation marks " + string(f.quote) + ", with a backslash before those in cells"
	}
	return "quotation marks " + string(f.quote)
}

// own reports whether all that is unusual are the quotation marks.
func (f flavour) own() bool {
	return f.quote != 0 && f == flavour{separator: f.separator, quote: f.quote}
}

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
		return flavour{separator: separator, quote: q}, q != '"'
	}
	if strings.Contains(decoded, `\"`) {
		rows, strays := sampleOf(decoded, &t.Form, 50), 0
		for i := range rows {
			if rows[i].Stray || len(rows[i].Cells) != len(rows[0].Cells) {
				strays++
			}
		}
		f := flavour{separator: t.Form.Separator, quote: '"', escape: '\\'}
		if read := f.sample(decoded); strays > 0 && read.fit == len(read.rows) {
			return f, true
		}
	}
	for _, q := range []byte(oddQuotes) {
		var behind [256]bool // which it stands
		for at := 0; ; at++ {
			next := strings.IndexByte(decoded[at:], q)
			if next < 0 {
				break
			}
			if at += next; at > 0 {
				behind[decoded[at-1]] = true
			}
		}
		for _, sep := range append(separators[:len(separators):len(separators)], rareSeparators...) {
			if sep == q || separator != 0 && sep != separator || !behind[sep] {
				continue
			}
			f := flavour{separator: sep, quote: q}
			read := f.sample(decoded)
			n := len(read.rows)
			if n == 1 && read.quoted == read.cells && heading.CountOver(read.rows[0], 1) > 1 { // all its rows were held
				return f, true
			}
			if n > 1 && len(read.rows[0]) > 1 && read.fit*10 >= n*8 && read.cells >= 4 && read.quoted*10 >= read.cells*8 {
				return f, true
			}
		}
	}
	return t.oddShape(decoded)
}

// oddShape looks whether rows and headings are put together in an unusual way: only where
// the usual reading does not give rows as wide as the headings, and the other one does.
func (t *Table) oddShape(decoded string) (f flavour, ok bool) {
	rows := sampleOf(decoded, &t.Form, 50)
	width, fit, spaced, cells := 0, 0, 0, 0
	for i := range rows {
		if len(rows[i].Cells) > 1 || width == 0 {
			cells := len(rows[i].Cells)
			width = max(width, heading.CountOver(rows[i].Cells, (width-cells)/1000)*1000+cells)
		}
	}
	width %= 1000
	for i := range rows {
		if len(rows[i].Cells) == width {
			fit++
		}
		for _, cell := range rows[i].Cells {
			cells++
			if trimmed := strings.TrimLeft(cell, " "); len(trimmed) < len(cell) && strings.HasPrefix(trimmed, `"`) {
				spaced++
			}
		}
	}
	better := func(f flavour) bool {
		rows := f.sample(decoded).rows
		if len(rows) < 2 || heading.CountOver(rows[0], 1) < 2 {
			return false
		}
		width, fit := len(rows[0]), 0
		if f.wrapped { // what stands behind the row in its line is empty
			for width > 0 && rows[0][width-1] == "" {
				width--
			}
		}
		for _, row := range rows {
			if len(row) == len(rows[0]) || len(row) == width {
				fit++
			}
		}
		return fit*10 >= len(rows)*9
	}
	plain := flavour{separator: t.Form.Separator, quote: '"'}
	unfit := fit*10 < len(rows)*9
	if f = plain; spaced > 1 && (unfit || spaced*2 >= cells) {
		if f.spaced = true; better(f) {
			return f, true
		}
	}
	if n := strings.Count(decoded, "\n"); n > 1 && strings.Count(decoded, "\r\r\n")*10 >= n*9 {
		f = plain
		if f.returns = true; better(f) {
			return f, true
		}
	}
	for _, sep := range separators {
		f = flavour{separator: sep, quote: '"', wrapped: true}
		if f.wraps(decoded) && better(f) {
			return f, true
		}
		if f = (flavour{separator: sep, quote: '"', heads: t.Form.Separator}); unfit && sep != f.heads && better(f) {
			return f, true
		}
	}
	if f = plain; fit < len(rows) && strings.Contains(strings.ReplaceAll(decoded, "\r\n", ""), "\r") && !t.Form.CR {
		if f.lone = true; better(f) {
			return f, true
		}
	}
	return f, false
}

// wraps reports whether four in five rows, apart from the first, are one cell in quotation
// marks.
func (f flavour) wraps(decoded string) bool {
	if strings.Count(decoded, "\n\"")+strings.Count(decoded, "\r\"") == 0 {
		return false // but the first, no row begins with one
	}
	rows, wrapped, n := 0, 0, 0
	whole := false
	f.wrapped = false
	f.read(bufio.NewReader(strings.NewReader(decoded)), func(cell []byte, quoted bool) {
		whole = n == 0 && quoted || n > 0 && whole && len(cell) == 0
		n++
	}, func() error {
		if whole && rows > 0 {
			wrapped++
		}
		n = 0
		if rows++; rows == 50 {
			return io.EOF
		}
		return nil
	})
	return wrapped > 0 && wrapped*5 >= (rows-1)*4
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
const mostCell = 16 << 20

// read reads rows in the flavour. cell is called with each cell, and whether it stands
// in quotation marks.
func (f flavour) read(r *bufio.Reader, cell func(cell []byte, quoted bool), endRow func() error) error {
	if f.wrapped {
		return f.unwrap(r, cell, endRow)
	}
	separator := f.separator
	if f.heads != 0 {
		separator = f.heads
	}
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
		case inside && c == f.quote && (next() == separator || next() == '\n' || next() == '\r' || next() == 0):
			inside = false
		case f.spaced && inside && c == f.quote && f.behindSpaces(r, separator, '\n', '\r', 0):
			inside = false
		case inside:
			buf = append(buf, c)
		case c == f.quote && !began:
			inside, quoted, began, some = true, true, true, true
		case f.spaced && c == ' ' && (!began || quoted):
		case c == separator:
			flush()
			some = true
		case c == '\r' && (next() == '\n' || f.returns && next() == '\r'):
		case c == '\n' || c == '\r':
			flush()
			some, separator = false, f.separator
			if err := endRow(); err != nil {
				return err
			}
		default:
			buf = append(buf, c)
			began, some = true, true
		}
		if len(buf) > mostCell {
			return fmt.Errorf("%w (in a cell that begins with %q)", ErrRowTooLarge, strings.ToValidUTF8(string(buf[:60]), ""))
		}
	}
}

// behindSpaces reports whether one of some bytes is the next that is no space; 0 is the
// end.
func (f flavour) behindSpaces(r *bufio.Reader, wanted ...byte) bool {
	for n := 1; n <= mostSpaces; n++ {
		b, err := r.Peek(n)
		switch {
		case err != nil:
			return slices.Contains(wanted, 0)
		case b[n-1] != ' ':
			return slices.Contains(wanted, b[n-1])
		}
	}
	return false
}

// mostSpaces is how many spaces stand beside a quotation mark at most.
const mostSpaces = 32

// unwrap reads rows that are each one cell in quotation marks, which holds the row.
func (f flavour) unwrap(r *bufio.Reader, cell func(cell []byte, quoted bool), endRow func() error) error {
	f.wrapped = false
	var row []string
	var marks []bool
	return f.read(r, func(cell []byte, quoted bool) {
		row, marks = append(row, string(cell)), append(marks, quoted)
	}, func() error {
		defer func() { row, marks = row[:0], marks[:0] }()
		if len(row) > 0 && marks[0] && strings.Join(row[1:], "") == "" && strings.IndexByte(row[0], f.separator) >= 0 {
			rows := 0
			err := f.read(bufio.NewReader(strings.NewReader(row[0])), func(c []byte, quoted bool) {
				if rows == 0 {
					cell(c, quoted)
				}
			}, func() error {
				rows++
				return nil
			})
			if err != nil {
				return err
			}
			return endRow()
		}
		for i, c := range row {
			cell([]byte(c), marks[i])
		}
		return endRow()
	})
}

// lineEndIn returns what the first line of a text ends with, in the form that is written.
func lineEndIn(text string) string {
	if i := strings.IndexAny(text, "\r\n"); i < 0 || text[i] == '\n' {
		return "\n"
	}
	return "\r\n"
}

// respool brings a file in an odd flavour to the form of spooled rows, from that byte
// on, and looks for the table there. decoded is how it begins.
func (t *Table) respool(f flavour, start int, decoded string) error {
	from, end := t.Form, t.end
	source, done := t.giveUp()
	defer done()
	spool, err := t.newSpool()
	if err != nil {
		return err
	}
	sum := xxhash.New()
	in := bufio.NewReaderSize(io.TeeReader(io.NewSectionReader(source, 0, end), sum), 1<<20)
	if _, err := in.Discard(start); err != nil {
		return t.fail(err, "", "")
	}
	out := newSpoolWriter(spool)
	err = f.read(in, func(cell []byte, quoted bool) {
		mark := catalogue.Mark(0)
		if quoted {
			mark = catalogue.Quoted
		}
		out.cell(from.Decode(string(from.Charset.Decode(cell))), mark)
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
	t.written.LineEnd = lineEndIn(decoded)
	return t.findSpooled()
}
