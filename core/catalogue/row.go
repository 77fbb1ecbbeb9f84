package catalogue

// Bits says what kinds of bytes a cell holds. The reader sets them in its one
// scan, so that a rule can pass over a cell without looking at it.
type Bits uint16

// The class bits of a cell.
const (
	High    Bits = 1 << iota // a byte of 0x80 or more
	Control                  // a control character, line breaks included
	Space                    // a plain space
	Markup                   // < > or &
	Digit                    // an ASCII digit
	Other                    // any other printable ASCII character
	Quote                    // a quotation mark
	Numeric                  // the workbook stores a number, not a text
	Altered                  // a rule has written this cell
	Quoted                   // the source put the cell in quotation marks
)

// content masks the bits that describe bytes.
const content = High | Control | Space | Markup | Digit | Other | Quote

// OnlyDigits reports whether the cell is a run of ASCII digits and nothing
// else.
func (b Bits) OnlyDigits() bool { return b&content == Digit }

// Empty reports whether the cell holds no byte at all.
func (b Bits) Empty() bool { return b&content == 0 }

// ClassOf returns the class bits of a text.
func ClassOf(s string) (b Bits) {
	for i := range len(s) {
		b |= byteClass[s[i]]
	}
	return b
}

// ClassOfByte returns the class bits of one byte.
func ClassOfByte(c byte) Bits { return byteClass[c] }

var byteClass = func() (t [256]Bits) {
	for i := range t {
		switch c := byte(i); {
		case c >= 0x80:
			t[i] = High
		case c < 0x20 || c == 0x7f:
			t[i] = Control
		case c == ' ':
			t[i] = Space
		case c == '<' || c == '>' || c == '&':
			t[i] = Markup
		case c >= '0' && c <= '9':
			t[i] = Digit
		case c == '"':
			t[i] = Quote
		default:
			t[i] = Other
		}
	}
	return t
}()

// A Span is a stretch of a part's bytes: from From up to, not including, To.
type Span struct{ From, To uint32 }

// A Row is one row of a sheet while it is repaired. Its slices are used again
// for other rows; only the bytes of the cells live on.
type Row struct {
	Number int      // as the spreadsheet program shows it
	Cells  []string // the cells as they stand now, as many as the row has
	Bits   []Bits   // one for each cell
	Spans  []Span   // where each cell stands in the part, quotation marks included
	Whole  Span     // the row in the part, its end of line not included
	End    uint32   // where the next row begins
	Stray  bool     // a quotation mark stood where none may stand
	Mended bool     // a quotation mark that was never closed was taken as a character
	Joined int      // one more than the column that has taken in the cell behind it, or 0
	Dirty  bool     // a cell has been written, or cells were joined
}

// Cell returns the text of a column, "" where the row is too short or col is
// negative.
func (r *Row) Cell(col int) string {
	if col < 0 || col >= len(r.Cells) {
		return ""
	}
	return r.Cells[col]
}

// Blank reports whether every cell is empty or holds only spaces.
func (r *Row) Blank() bool {
	for i, b := range r.Bits {
		if b&(Digit|Other|Markup|Quote|High|Control) == 0 {
			continue
		}
		for _, c := range r.Cells[i] {
			if c != ' ' && c != '\t' && c != '\r' && c != '\n' && c != '\u00a0' {
				return false
			}
		}
	}
	return true
}

// Set writes a cell and marks it as altered.
func (r *Row) Set(col int, text string) {
	r.Cells[col] = text
	r.Bits[col] = ClassOf(text) | r.Bits[col]&Quoted | Altered
	r.Dirty = true
}

// Join puts cell col+1 behind cell col with sep between them and takes
// cell col+1 out of the row.
func (r *Row) Join(col int, sep string) {
	r.Set(col, r.Cells[col]+sep+r.Cells[col+1])
	r.Cells = append(r.Cells[:col+1], r.Cells[col+2:]...)
	r.Bits = append(r.Bits[:col+1], r.Bits[col+2:]...)
	r.Spans = append(r.Spans[:col+1], r.Spans[col+2:]...)
	r.Joined = col + 1
}

// A Product is one item for sale: a row, or neighbouring rows that belong
// together. Rows that are no product (blank ones, a repeated heading) stay
// with the product above them until they are set aside.
type Product struct {
	Rows []*Row
}
