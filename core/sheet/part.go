package sheet

import (
	"bytes"
	"cmp"
	"errors"
	"fmt"
	"io"
	"math"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"unicode"
	"unicode/utf8"
	"unsafe"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/charset"
)

// A Part is a stretch of a table that begins with a product and ends with
// one.
type Part struct {
	Offset int64 // where it lies in the file
	Size   int   // how many bytes it has there
	Sum    uint64
	Data   string // its text in UTF-8, once it has been read; it stays as it is until Release, so cells may be substrings
	raw    []byte // before that
	room   *room  // in which both are

	// Torn says that the last product goes on in the next part, Continues that the first
	// one began in the part before: it has too many rows to be in memory as a whole.
	Torn, Continues bool
}

// lookAhead is how far behind the least size of a part is read at once to find
// its end.
const lookAhead = 2 * lenientReach

// maxRow bounds how far a part may grow when a cell is very large, maxProduct when a product
// is, and MostRows how many rows of a product are kept together in one part. A product that
// has more is cut.
const (
	maxRow     = 16 << 20
	maxProduct = 24 << 20
	MostRows   = 100_000
)

// A Surprise is an error of a first reading: the file is not in the form that
// its beginning promised. The table has to be read again in the form given.
type Surprise struct {
	Form Form
	Why  string
}

// Error says what came as a surprise.
func (s *Surprise) Error() string { return s.Why }

// Start stands for the beginning of a stretch that begins with a product.
var Start = new(catalogue.Row)

// A Splitter cuts a table into parts while it is read for the first time.
type Splitter struct {
	form   Form
	begins func(row *catalogue.Row) bool
	r      io.Reader
	behind io.Reader // what is not read, for the checksum
	buf    []byte    // read, not yet handed out
	room   *room     // in which that is
	eof    bool
	offset int64
	size   int
	sum    *xxhash.Digest
	adding sync.WaitGroup // what was read last, to the sum, while it is cut
	row    catalogue.Row  // read last

	most   int   // how many rows of a product are kept together
	inside int   // a row that begins no product, where the end of the part was looked for
	seen   int   // up to where it was
	many   bool  // the product that goes on there has too many rows
	clear  int64 // before it no product begins
	torn   bool  // the last part ends inside a product
}

// Split returns a splitter over the rows below the headings. begins is asked
// for rows in their order and says whether a row begins a product; it must
// remember what it needs of the row before, and is told nil where the rows
// before are not known, and [Start] where there are none. size is [PartSize] but for tests.
func (t *Table) Split(begins func(*catalogue.Row) bool, size int) (*Splitter, error) {
	end := cmp.Or(t.end, math.MaxInt64)
	return &Splitter{form: t.Form, begins: begins, r: io.NewSectionReader(t.file, t.start, end-t.start),
		behind: io.NewSectionReader(t.file, end, math.MaxInt64-end), offset: t.start, size: size, sum: t.headSum(), most: t.MostRows()}, nil
}

// Sum returns the checksum of all bytes of the file, once [Splitter.Next] has
// returned [io.EOF].
func (s *Splitter) Sum() uint64 { return s.sum.Sum64() }

// Next returns the next part, which has to be read ([Part.Read]), [io.EOF] behind the last, or a [*Surprise].
func (s *Splitter) Next() (*Part, error) {
	want := s.size
	for {
		if err := s.fill(want + lookAhead); err != nil {
			return nil, err
		}
		if len(s.buf) == 0 {
			return nil, io.EOF
		}
		if s.clear > s.offset {
			if row := s.rowEnd(s.size); row > 0 && s.offset+int64(row) < s.clear {
				return s.hand(row, true)
			}
		}
		cut, ok := s.cut()
		switch {
		case ok:
			return s.hand(cut, false)
		case s.eof && !s.many:
			if !s.form.Spooled && !s.form.Lenient && endsOpen(text(s.buf), &s.form) {
				return nil, s.unclosed()
			}
			return s.hand(len(s.buf), false)
		case s.many || len(s.buf) > maxProduct || len(s.buf) > maxRow && s.inside == 0:
			if s.inside > 0 {
				s.clear = s.offset + int64(s.seen)
				return s.hand(s.inside, true)
			}
			if s.form.Spooled || s.form.Lenient {
				return nil, fmt.Errorf("%w (the one that begins with %q)", ErrRowTooLarge, s.largeRow())
			}
			return nil, s.unclosed()
		}
		want = 2 * len(s.buf)
		if len(s.buf) <= maxRow {
			want = min(want, maxRow+1)
		} else {
			want = min(want, maxProduct+1)
		}
	}
}

// largeRow returns how the row begins that does not end in what has been read.
func (s *Splitter) largeRow() string {
	at := 0
	for end, row := s.rowAt(0); row != nil; end, row = s.rowAt(at) {
		at = end
	}
	const some = 60
	rest := s.buf[at:]
	if s.form.Spooled {
		return beginning(text(rest), s.form.Numbered, some)
	}
	begins := s.form.Charset.Decode(bytes.Clone(rest[:min(len(rest), some)]))
	words := strings.FieldsFunc(strings.ToValidUTF8(text(begins), ""), unicode.IsControl)
	return strings.Join(words, " ")
}

func (s *Splitter) unclosed() error {
	form := s.form
	form.Lenient = true
	return &Surprise{form, "a quotation mark is never closed"}
}

func (s *Splitter) fill(want int) error {
	if s.eof || len(s.buf) >= want {
		return nil
	}
	had := len(s.buf)
	if s.room == nil {
		s.room = newRoom(want)
		s.buf = s.room.text[:0]
	}
	if cap(s.buf) < want {
		s.room.text = unset(want)
		s.buf = append(s.room.text[:0], s.buf...)
	}
	n, err := io.ReadFull(s.r, s.buf[had:want])
	s.buf = s.buf[:had+n]
	s.adding.Wait()
	read := s.buf[had:]
	s.adding.Go(func() { s.sum.Write(read) })
	if errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) {
		s.eof = true
		s.adding.Wait()
		_, err = io.Copy(s.sum, s.behind)
	}
	return err
}

// hand gives out the first cut bytes as a part; torn says that it ends inside a product.
func (s *Splitter) hand(cut int, torn bool) (*Part, error) {
	s.adding.Wait() // before anybody decodes it where it is
	raw := s.buf[:cut:cut]
	p := &Part{Offset: s.offset, Size: cut, raw: raw, room: s.room, Torn: torn, Continues: s.torn}
	s.torn = torn
	s.offset += int64(cut)
	rest := s.buf[cut:]
	if s.room, s.buf = nil, nil; len(rest) > 0 || !s.eof {
		// The next part begins in memory of its own: raw becomes a string.
		s.room = newRoom(max(s.size+lookAhead, len(rest)))
		s.buf = append(s.room.text[:0], rest...)
	}
	return p, nil
}

// Read decodes the text of a part that a splitter has cut, and takes its checksum: many can be read at once, and are cut
// one after the other.
func (p *Part) Read(form *Form) {
	p.Sum, p.Data = xxhash.Sum64(p.raw), text(form.Charset.Decode(p.raw))
	p.raw = nil
}

// text makes a string of bytes that nobody will write to again.
func text(b []byte) string { return unsafe.String(unsafe.SliceData(b), len(b)) }

// Verify holds a part of a first reading against the form: it returns a
// [*Surprise] if the text is not in the encoding taken for granted, or if rows
// end otherwise. Where a quotation mark is never closed nobody can say what stands
// outside of them.
func (p *Part) Verify(form Form) error {
	if form.Spooled {
		return nil
	}
	if form.Charset == charset.UTF8 && form.Pure() && !utf8.ValidString(p.Data) {
		form.Charset = charset.Windows1252
		return &Surprise{form, "not all of the text is UTF-8"}
	}
	if form.CR && !form.Lenient && hasRowEnd(p.Data, &form) {
		form.CR = false
		return &Surprise{form, "rows end with line feeds after all"}
	}
	return nil
}

// cut returns where the part may end: before the first row at or behind size
// that begins a product. ok is false if that takes more bytes than are there, or
// too many rows.
func (s *Splitter) cut() (at int, ok bool) {
	s.many, s.inside = false, 0
	pos := s.rowEnd(s.least())
	if pos < 0 {
		return 0, false
	}
	s.begins(nil)
	for i := 0; ; i++ {
		if i == undecided && !s.torn {
			s.review(pos)
		}
		if s.seen = pos; i > s.most {
			s.many = true
			return 0, false
		}
		if pos == len(s.buf) && s.eof {
			return pos, true
		}
		end, row := s.rowAt(pos)
		if row == nil {
			return 0, false
		}
		if s.begins(row) && i > 0 {
			return pos, true
		}
		if i == 1 {
			s.inside = pos
		}
		pos = end
	}
}

// least returns how many bytes the part has at least: fewer where rows are very short.
func (s *Splitter) least() int {
	if s.form.Spooled || len(s.buf) < s.size {
		return s.size
	}
	end := []byte{s.form.lineEnd()}
	if bytes.Count(s.buf[:s.size], end) <= mostOfPart {
		return s.size
	}
	at := 0
	for range mostOfPart {
		at += bytes.IndexByte(s.buf[at:], end[0]) + 1
	}
	return at
}

// mostOfPart is how many lines a part has, but for those of its last product.
const mostOfPart = 1 << 15

// undecided is after how many rows of which none is known to begin a product all rows of the
// part are looked at: what is true of them may depend on its first.
const undecided = 64

// review asks for all rows up to pos, from the first of the part on.
func (s *Splitter) review(pos int) {
	s.begins(Start)
	for at := 0; at < pos; {
		end, row := s.rowAt(at)
		if row == nil {
			s.begins(nil)
			return
		}
		s.begins(row)
		at = end
	}
}

// rowAt reads the row at pos; it returns nil if it may go on behind what has
// been read, or ends inside quotation marks.
func (s *Splitter) rowAt(pos int) (end int, row *catalogue.Row) {
	row = &s.row
	sc := s.form.Scanner(text(s.buf[pos:]))
	if !sc.Next(row) {
		return 0, nil
	}
	end = pos + sc.Pos()
	if sc.Open && !s.form.Lenient {
		return 0, nil
	}
	if !s.eof && (end == len(s.buf) || s.form.Lenient && len(s.buf)-pos < lenientReach) {
		return 0, nil
	}
	if s.form.Charset != charset.UTF8 {
		sc.Reset(text(s.form.Charset.Decode(bytes.Clone(s.buf[pos:end]))))
		sc.Next(row)
	}
	return end, row
}

// rowEnd returns the end of the first row that ends at or behind least, or -1.
func (s *Splitter) rowEnd(least int) int {
	if s.form.Spooled || s.form.Lenient {
		pos := 0
		for pos < least {
			end, row := s.rowAt(pos)
			if row == nil {
				return -1
			}
			pos = end
		}
		return pos
	}
	end, _ := skipRows(s.buf, least, &s.form, s.form.lineEnd())
	return end
}

// endsOpen reports whether a text ends inside quotation marks.
func endsOpen(s string, form *Form) bool {
	_, open := skipRows(unsafe.Slice(unsafe.StringData(s), len(s)), len(s)+1, form, form.lineEnd())
	return open
}

// skipRows returns where the first find, the byte that ends rows, stands outside
// quotation marks at or behind least-1, plus one; or -1 and whether b ends inside
// quotation marks. It looks at these bytes only.
func skipRows(b []byte, least int, form *Form, find byte) (end int, open bool) {
	eol := form.lineEnd()
	pos := 0
	for {
		q := bytes.IndexByte(b[pos:], '"')
		limit := len(b)
		if q >= 0 {
			q += pos
			limit = q
		}
		if limit >= least {
			from := max(pos, least-1)
			if from < limit {
				if i := bytes.IndexByte(b[from:limit], find); i >= 0 {
					return from + i + 1, false
				}
			}
		}
		if q < 0 {
			return -1, false
		}
		if q > 0 && b[q-1] != form.Separator && b[q-1] != eol {
			pos = q + 1
			continue
		}
		for i := q + 1; ; {
			j := bytes.IndexByte(b[i:], '"')
			if j < 0 {
				return -1, true
			}
			i += j + 1
			if i < len(b) && b[i] == '"' {
				i++
				continue
			}
			if i == len(b) || b[i] == form.Separator || b[i] == eol || b[i] == '\r' && (i+1 == len(b) || b[i+1] == '\n') {
				pos = i
				break
			}
		}
	}
}

// hasRowEnd reports whether a line feed stands outside quotation marks, if rows
// end with lone CRs.
func hasRowEnd(s string, form *Form) bool {
	inside := false
	start := true // of a cell
	for i := 0; i < len(s); i++ {
		switch c := s[i]; {
		case inside:
			j := strings.IndexByte(s[i:], '"')
			if j < 0 {
				return false
			}
			if i += j; i+1 < len(s) && s[i+1] == '"' {
				i++
			} else if i+1 == len(s) || s[i+1] == form.Separator || s[i+1] == '\r' || s[i+1] == '\n' {
				inside = false
			}
		case c == '\n':
			return true
		case c == '"' && start:
			inside, start = true, false
		default:
			start = c == form.Separator || c == '\r'
		}
	}
	return false
}

// ErrChanged says that the source is not what it was in the first reading.
var ErrChanged = errors.New("the file has changed while it was being read")

// Load reads the text of a part that a splitter has cut before. It may be
// called by many goroutines at once. It returns [ErrChanged] if the bytes are
// not those of the first reading.
func (t *Table) Load(p *Part) error {
	p.room = newRoom(p.Size)
	raw := p.room.text[:p.Size:p.Size]
	if _, err := t.file.ReadAt(raw, p.Offset); err != nil {
		if errors.Is(err, io.EOF) {
			return ErrChanged
		}
		return err
	}
	if xxhash.Sum64(raw) != p.Sum {
		return ErrChanged
	}
	p.Data = text(t.Form.Charset.Decode(raw))
	return nil
}

// Each reads all rows below the headings in order, with their row numbers.
// reset is called before the first row, and again if the sheet turns out to be
// in another form than its beginning promised and is read once more.
func (t *Table) Each(reset func(), add func(*catalogue.Row)) error {
	for {
		reset()
		err := t.each(t.Form.Decode, add)
		surprise, ok := err.(*Surprise)
		if !ok {
			return err
		}
		if err := t.Adopt(surprise); err != nil {
			return err
		}
	}
}

// each reads the rows; decode is what becomes of the text of a part before.
func (t *Table) each(decode func(string) string, add func(*catalogue.Row)) error {
	split, err := t.Split(func(row *catalogue.Row) bool { return row != nil }, PartSize)
	if err != nil {
		return err
	}
	before := t.Heading
	var row catalogue.Row
	for {
		part, err := split.Next()
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			return err
		}
		part.Read(&t.Form)
		if err := part.Verify(t.Form); err != nil {
			return err
		}
		sc := t.Form.Scanner(decode(part.Data))
		for sc.Next(&row) {
			if !t.Form.Numbered {
				row.Number += before
			}
			add(&row)
		}
		before += sc.Row
	}
}

// Reopen opens a file whose form is known, such as one of our own outputs. Its
// first row counts as a row like the others.
func Reopen(path string, form Form) (*Table, error) {
	file, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	form.Spooled, form.Charset = false, charset.UTF8
	t := &Table{Path: path, Name: filepath.Base(path), Form: form, file: file}
	if form.BOM {
		t.start = int64(len(charset.BOM))
	}
	return t, nil
}
