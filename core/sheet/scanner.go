package sheet

import (
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/glance"
)

// A Scanner reads the rows of a text that begins at the beginning of a row.
// The cells it gives are substrings of the text.
type Scanner struct {
	Row  int  // how many rows have been read
	Open bool // the text ended inside quotation marks

	// Prefix, if not 0, is how many cells of a row are wanted. Those behind them
	// are passed over where the form allows it; see Again.
	Prefix int

	// Doubled leaves quotation marks in cells doubled, as they stand in the text, which
	// is faster if hardly any cell is looked at; with Undoubled but in the cells of some columns.
	Doubled   bool
	Undoubled catalogue.ColumnSet

	form  *Form
	stops stops
	start int // of the row read last
	wide  int // how many cells it has
	data  string
	pos   int
	free  []byte // for cells that are not in data as they are
	room  *room  // of the part, from which more of it is taken

	ends *glance.Ends // of the next rows; nil if none were looked for
	seen int          // where the first of them begins
}

// undouble returns the cell with each pair of quotation marks as one. The bytes of a cell are never used again.
func (s *Scanner) undouble(body string) string {
	if cap(s.free)-len(s.free) < len(body) {
		s.free = s.room.more(len(body))
	}
	start := len(s.free)
	room := s.free[start : start+len(body)]
	n := glance.Undouble(room, body)
	s.free = s.free[:start+n]
	return text(room[:n:n])
}

// Scanner returns a scanner over data. In a part that Splitter has cut it ends
// with a whole row.
func (f *Form) Scanner(data string) *Scanner {
	return &Scanner{form: f, stops: newStops(f.Separator, f.lineEnd()), data: data}
}

// Begin makes the scanner begin a part. Its cells stay as they are until the part is released.
func (s *Scanner) Begin(part *Part) {
	s.Reset(part.Data)
	s.room, s.free = part.room, nil
}

// Reset makes the scanner begin another text.
func (s *Scanner) Reset(data string) {
	if s.room != nil {
		s.room, s.free = nil, nil
	}
	s.Row, s.Open, s.data, s.pos = 0, false, data, 0
	if s.ends != nil {
		s.ends.Forget()
	}
}

// Pos returns where the next row begins.
func (s *Scanner) Pos() int { return s.pos }

// Next reads a row; it returns false at the end of the text.
func (s *Scanner) Next(row *catalogue.Row) bool {
	if s.pos >= len(s.data) {
		return false
	}
	s.Row++
	s.start = s.pos
	if s.form.Spooled || s.form.Lenient || !s.quick(row, s.Prefix) {
		s.read(row, s.Prefix)
	}
	if !s.form.Numbered {
		row.Number = s.Row
	}
	return true
}

// Again reads the row read last once more, with all its cells.
func (s *Scanner) Again(row *catalogue.Row) {
	s.pos = s.start
	defer func(doubled bool) { s.Doubled = doubled }(s.Doubled)
	s.Doubled = false
	s.read(row, 0)
	if !s.form.Numbered {
		row.Number = s.Row
	}
}

// read reads the row at s.pos for itself.
func (s *Scanner) read(row *catalogue.Row, prefix int) {
	switch {
	case s.form.Spooled:
		s.nextSpooled(row)
	case s.form.Lenient:
		s.nextLenient(row)
	default:
		s.next(row, len(s.data), prefix)
	}
}

func clearRow(row *catalogue.Row) {
	row.Cells, row.Marks, row.Spans = row.Cells[:0], row.Marks[:0], row.Spans[:0]
	row.Stray, row.Mended, row.Dirty, row.Wide, row.Joined, row.Lacks = false, false, false, false, 0, 0
}

// quickly is from how many bytes on it is worth while to have room for the ends of many cells.
const quickly = 4 << 10

// quick reads the row at s.pos like next where the ends of its cells are seen at one look over many rows; it reports whether
// they are.
func (s *Scanner) quick(row *catalogue.Row, prefix int) bool {
	var ends []uint32
	if s.ends != nil && s.seen == s.pos {
		ends = s.ends.Next()
	}
	if ends == nil {
		if s.ends == nil {
			if len(s.data)-s.pos < quickly {
				return false
			}
			s.ends = new(glance.Ends)
		}
		s.ends.Find(s.data, s.pos, s.form.Separator, s.form.lineEnd())
		if ends = s.ends.Next(); ends == nil {
			return false
		}
	}
	data, last := s.data, len(ends)-1
	next := int(ends[last]) + 1
	begin := s.pos // of the last cell
	if last > 0 {
		begin = int(ends[last-1]) + 1
	}
	if next-1 > begin && data[next-1] == '\n' && data[next-2] == '\r' {
		ends[last]--
	}
	clearRow(row)
	row.Whole, row.End = catalogue.Span{From: uint32(s.pos), To: ends[last]}, uint32(next)
	if prefix > 0 && prefix <= last {
		ends, row.Whole.To = ends[:prefix], row.End
	}
	n := len(ends)
	cells, marks, spans := slices.Grow(row.Cells, n)[:n], slices.Grow(row.Marks, n)[:n], slices.Grow(row.Spans, n)[:n]
	pos := uint32(s.pos)
	for i, end := range ends {
		cell := data[pos:end]
		mark := catalogue.Mark(0)
		if cell != "" && cell[0] == '"' {
			cell, mark = s.body(cell[1:len(cell)-1], i), catalogue.Quoted
		}
		cells[i], marks[i], spans[i] = cell, mark, catalogue.Span{From: pos, To: end}
		pos = end + 1
	}
	row.Cells, row.Marks, row.Spans = cells, marks, spans
	row.Lacks = lacks(glance.Cells(data, s.pos, int(spans[n-1].To)))
	s.wide, s.pos, s.seen = n, next, next
	return true
}

// body returns the text of a cell between its quotation marks, of which those within are doubled.
func (s *Scanner) body(body string, col int) string {
	if s.Doubled && !s.Undoubled.Has(col) {
		return body
	}
	if strings.IndexByte(body, '"') >= 0 {
		return s.undouble(body)
	}
	return body
}

// next reads the row at s.pos as far as limit; with a prefix only so many of
// its cells.
func (s *Scanner) next(row *catalogue.Row, limit, prefix int) {
	clearRow(row)
	data := s.data[:limit]
	separator := s.form.Separator
	pos := s.pos
	row.Whole.From = uint32(pos)
	cells, marks, spans := row.Cells[:cap(row.Cells)], row.Marks[:cap(row.Marks)], row.Spans[:cap(row.Spans)]
	room := min(len(cells), len(marks), len(spans))
	n := 0
	for {
		if prefix > 0 && n == prefix {
			pos = s.rowEnd(data, pos)
			row.Whole.To = uint32(pos)
			break
		}
		if n == room {
			more := max(1, s.wide-n)
			cells, marks, spans = slices.Grow(cells[:n], more), slices.Grow(marks[:n], more), slices.Grow(spans[:n], more)
			cells, marks, spans = cells[:cap(cells)], marks[:cap(marks)], spans[:cap(spans)]
			room = min(len(cells), len(marks), len(spans))
		}
		start := pos
		var end int // of the cell
		if pos < len(data) && data[pos] == '"' {
			cells[n], pos = s.quoted(row, pos, limit, n)
			marks[n] = catalogue.Quoted
			end = pos
			if pos < len(data) && data[pos] == '\r' && separator != '\r' && !s.form.CR {
				pos++ // of an end of line, or quoted would have gone on
			}
		} else {
			pos = s.stops.index(data, pos)
			end = pos
			if end > start && data[end-1] == '\r' && (end == len(data) || data[end] == '\n') {
				end--
			}
			cells[n], marks[n] = data[start:end], 0
		}
		spans[n] = catalogue.Span{From: uint32(start), To: uint32(end)}
		n++
		if pos == len(data) || data[pos] != separator {
			row.Whole.To = uint32(end)
			pos = min(pos+1, len(data))
			break
		}
		pos++
	}
	row.Cells, row.Marks, row.Spans = cells[:n], marks[:n], spans[:n]
	s.wide = n
	row.End = uint32(pos)
	s.pos = pos
	row.Lacks = lacks(glance.Cells(s.data, int(row.Whole.From), int(spans[n-1].To)))
}

// lacks returns which traits no cell has of a row in which that is seen.
func lacks(seen glance.Seen) (lacks catalogue.Traits) {
	if seen&glance.High == 0 {
		lacks |= catalogue.HighBytes
	}
	if seen&glance.Odd == 0 {
		lacks |= catalogue.Controls
	}
	if seen&glance.Double == 0 {
		lacks |= catalogue.DoubleSpace
	}
	if seen&glance.Amp == 0 {
		lacks |= catalogue.Ampersand
	}
	return lacks
}

// rowEnd returns where the row ends that goes on with a cell at pos, behind its
// end of line.
func (s *Scanner) rowEnd(data string, pos int) int {
	stops := newStops(s.form.lineEnd(), '"')
	for i := pos; ; {
		i = stops.index(data, i)
		switch {
		case i == len(data):
			return i
		case data[i] != '"':
			return i + 1
		case i > pos && data[i-1] != s.form.Separator:
			i++ // a mark within a cell
		default:
			i = s.closing(data, i)
		}
	}
}

// closing returns the end of the cell in quotation marks at pos.
func (s *Scanner) closing(data string, pos int) int {
	for i := pos + 1; ; {
		j := strings.IndexByte(data[i:], '"')
		if j < 0 {
			return len(data)
		}
		i += j + 1
		if i < len(data) && data[i] == '"' {
			i++
		} else if i == len(data) || s.endsCell(data, i) {
			return i
		}
	}
}

// quoted reads the cell in quotation marks at pos and returns its text and where
// it ends, behind its closing mark. If there is none it sets s.Open.
func (s *Scanner) quoted(row *catalogue.Row, pos, limit, col int) (text string, end int) {
	data := s.data[:limit]
	doubled := false
	for i := pos + 1; ; {
		j := strings.IndexByte(data[i:], '"')
		if j < 0 {
			s.Open = true
			return s.unquoted(data[pos+1:], doubled, col), len(data)
		}
		i += j + 1
		switch {
		case i < len(data) && data[i] == '"':
			doubled = true
			i++
		case i == len(data) || s.endsCell(data, i):
			return s.unquoted(data[pos+1:i-1], doubled, col), i
		default:
			row.Stray = true
		}
	}
}

// endsCell reports whether a cell ends before the byte at i.
func (s *Scanner) endsCell(data string, i int) bool {
	c := data[i]
	return c == s.form.Separator || c == s.form.lineEnd() ||
		c == '\r' && (i+1 == len(data) || data[i+1] == '\n')
}

func (s *Scanner) unquoted(body string, doubled bool, col int) string {
	if doubled {
		return s.body(body, col)
	}
	return body
}

// lenientReach is how far behind the beginning of a row a closing quotation
// mark is looked for in a file that has one too few.
const lenientReach = 64 << 10

// nextLenient reads a row of a file in which some quotation mark is never
// closed. The row is taken as it stands if that gives as many cells as there
// are headings and no quotation mark in an odd place; otherwise its first line
// is the row, a mark not closed in it being a character, unless only the
// former has the right number of cells or neither has.
func (s *Scanner) nextLenient(row *catalogue.Row) {
	start := s.pos
	limit := min(len(s.data), start+lenientReach)
	s.Open = false
	s.next(row, limit, 0)
	whole := !s.Open && (s.pos < limit || limit == len(s.data))
	s.Open = false
	full := whole && len(row.Cells) == s.form.Columns
	stray := row.Stray
	if full && !stray {
		return
	}
	end := s.pos
	s.pos = start
	s.line(row)
	if len(row.Cells) != s.form.Columns && (full || whole && !stray) {
		s.pos = start
		s.next(row, end, 0)
	}
}

// line reads the line at s.pos as a row.
func (s *Scanner) line(row *catalogue.Row) {
	clearRow(row)
	start, eol := s.pos, s.form.lineEnd()
	end := strings.IndexByte(s.data[start:], eol)
	next := len(s.data)
	if end < 0 {
		end = next
	} else {
		end += start
		next = end + 1
	}
	if end > start && s.data[end-1] == '\r' {
		end--
	}
	row.Whole = catalogue.Span{From: uint32(start), To: uint32(end)}
	for pos := start; ; pos++ {
		cell := pos
		closed := false
		if pos < end && s.data[pos] == '"' {
			stray := row.Stray
			s.Open = false
			text, after := s.quoted(row, cell, end, len(row.Cells))
			if closed = !s.Open && (after == end || s.data[after] == s.form.Separator); closed {
				row.Cells = append(row.Cells, text)
				row.Marks = append(row.Marks, catalogue.Quoted)
				pos = after
			} else {
				row.Mended, row.Stray = true, stray
			}
		}
		if !closed {
			for pos < end && s.data[pos] != s.form.Separator {
				pos++
			}
			row.Cells = append(row.Cells, s.data[cell:pos])
			row.Marks = append(row.Marks, 0)
		}
		row.Spans = append(row.Spans, catalogue.Span{From: uint32(cell), To: uint32(pos)})
		if pos >= end {
			break
		}
	}
	row.End = uint32(next)
	s.Open = false
	s.pos = next
}
