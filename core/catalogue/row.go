package catalogue

import (
	"errors"
	"strings"
	"unicode/utf8"
)

// A Mark says where the text of a cell comes from.
type Mark uint8

// The marks of a cell.
const (
	Numeric   Mark = 1 << iota // the workbook stores a number, not a text
	Altered                    // a rule has written this cell
	Quoted                     // the source put the cell in quotation marks
	Formula                    // the workbook calculates the cell; what came of it last is read
	Unsettled                  // it calculates it, and has not stored what comes of it
	Failed                     // the workbook has an error value there, such as #REF!; with Unsettled it does not say what it has
)

// A Span is a stretch of a part's bytes: from From up to, not including, To.
type Span struct{ From, To uint32 }

// A Row is one row of a sheet while it is repaired. Its slices are used again
// for other rows; only the bytes of the cells live on.
type Row struct {
	Number int      // as the spreadsheet program shows it
	Cells  []string // the cells as they stand now, as many as the row has
	Marks  []Mark   // one for each cell
	Spans  []Span   // where each cell stands in the part, quotation marks included
	Whole  Span     // the row in the part, its end of line not included
	End    uint32   // where the next row begins
	Stray  bool     // a quotation mark stood where none may stand
	Mended bool     // a quotation mark that was never closed was taken as a character
	Joined int      // one more than the column that has taken in the cell behind it, or 0
	Dirty  bool     // a cell has been written, or cells were joined
	Wide   bool     // it has the columns that the sheet itself does not have
	Lacks  Traits   // that none of its cells has as it was read; others may be missing, too
	Made   int      // tells rows apart that have been made of the one with that number; 0: it is that one
}

// Cell returns the text of a column, "" where the row is too short or col is
// negative.
func (r *Row) Cell(col int) string {
	if col < 0 || col >= len(r.Cells) {
		return ""
	}
	return r.Cells[col]
}

// Mark returns the marks of a column, none where the row is too short.
func (r *Row) Mark(col int) Mark {
	if col < 0 || col >= len(r.Marks) {
		return 0
	}
	return r.Marks[col]
}

// Blank reports whether every cell is empty or holds only white space.
func (r *Row) Blank() bool {
	for _, cell := range r.Cells {
		if cell == "" {
			continue
		}
		if c := cell[0]; c > ' ' && c < utf8.RuneSelf || strings.TrimSpace(cell) != "" {
			return false
		}
	}
	return true
}

// With returns a row like this one with other cells.
func (r *Row) With(cells []string) Row {
	with := *r
	with.Cells, with.Lacks = cells, 0
	return with
}

// Set writes a cell and marks it as altered.
func (r *Row) Set(col int, text string) {
	r.Cells[col] = text
	r.Marks[col] |= Altered
	r.Dirty = true
}

// Extend gives the row own cells, as many as the sheet has columns, and added
// empty ones behind them.
func (r *Row) Extend(own, added int) {
	r.Cells, r.Marks, r.Spans = r.Cells[:min(len(r.Cells), own)], r.Marks[:min(len(r.Marks), own)], r.Spans[:min(len(r.Spans), own)]
	r.Wide = added > 0
	for len(r.Cells) < own+added {
		r.Cells, r.Marks, r.Spans = append(r.Cells, ""), append(r.Marks, Altered), append(r.Spans, Span{})
	}
	r.Dirty = true
}

// Join puts cell col+1 behind cell col with sep between them and takes
// cell col+1 out of the row.
func (r *Row) Join(col int, sep string) {
	r.Set(col, r.Cells[col]+sep+r.Cells[col+1])
	r.Cells = append(r.Cells[:col+1], r.Cells[col+2:]...)
	r.Marks = append(r.Marks[:col+1], r.Marks[col+2:]...)
	r.Spans = append(r.Spans[:col+1], r.Spans[col+2:]...)
	r.Joined = col + 1
}

// A Product is one item for sale: a row, or neighbouring rows that belong
// together. Rows that are no product (blank ones, a repeated heading) stay
// with the product above them until they are set aside.
type Product struct {
	Rows  []*Row
	Roles []Role // one for each row, once they are known; nil until then
}

// Role returns the role of the row at that index; of a product whose roles are not known,
// that of a product of one row.
func (p *Product) Role(index int) Role {
	if index < len(p.Roles) {
		return p.Roles[index]
	}
	return Lead | Variant
}

// A Role is what a row is in its product.
type Role uint8

// The roles. A row may be the lead row and a variant at once.
const (
	Lead     Role = 1 << iota // the first row, which carries what belongs to the whole product
	Variant                   // something that is sold by itself
	ImageRow                  // a row that only carries another image
)

// Rows are the rows of a product that a rule means: lead, variants, images or all; none
// where that follows from what the rule writes.
type Rows Role

// AllRows are all rows of a product.
const AllRows = Rows(Lead | Variant | ImageRow)

var rowsNames = map[Rows]string{0: "", Rows(Lead): "lead", Rows(Variant): "variants", Rows(ImageRow): "images", AllRows: "all"}

// Roles returns the roles of the rows that are meant, 0 if nothing is said.
func (r Rows) Roles() Role { return Role(r) }

// MarshalText writes the name.
func (r Rows) MarshalText() ([]byte, error) { return []byte(rowsNames[r]), nil }

// UnmarshalText reads a name; anything else is an error.
func (r *Rows) UnmarshalText(text []byte) error {
	for rows, name := range rowsNames {
		if name == string(text) {
			*r = rows
			return nil
		}
	}
	return errors.New("rows is lead, variants, images or all")
}
