package sheet

import (
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/glance"
)

// A Style is how the cells of a row are written.
type Style struct {
	Separator byte
	Quote     byte // around cells
	Quotes    Quotes
}

// Quotes says which cells are put in quotation marks besides those that need them: that
// have the separator, a quotation mark or a line break in them.
type Quotes uint8

// The choices.
const (
	QuotesAsWere Quotes = iota // those that were in the source
	QuotesNeeded               // none
	QuotesEvery                // all, empty ones too
)

// A Line is a row that stands around a table, with the marks of its cells: they tell which
// of them were in quotation marks.
type Line struct {
	Cells []string
	Marks []catalogue.Mark
}

func lineOf(row *catalogue.Row) Line { return Line{row.Cells, row.Marks} }

// Mark returns the marks of a cell, none where the line is too short.
func (l *Line) Mark(col int) catalogue.Mark {
	if col >= len(l.Marks) {
		return 0
	}
	return l.Marks[col]
}

// style returns how the cells of a table are written down again.
func (f *Form) style() Style { return Style{Separator: f.Separator, Quote: '"'} }

// AppendCell appends a cell to dst. Quotation marks in it are doubled where it stands in
// such.
func (s Style) AppendCell(dst []byte, cell string, mark catalogue.Mark) []byte {
	switch {
	case s.Quotes == QuotesEvery, s.Quotes == QuotesAsWere && mark&catalogue.Quoted != 0:
	case glance.Some(cell, [4]byte{s.Separator, s.Quote, '\r', '\n'}) == 0:
		return append(dst, cell...)
	}
	dst = append(dst, s.Quote)
	for {
		i := strings.IndexByte(cell, s.Quote)
		if i < 0 {
			break
		}
		dst = append(dst, cell[:i+1]...)
		dst = append(dst, s.Quote)
		cell = cell[i+1:]
	}
	dst = append(dst, cell...)
	return append(dst, s.Quote)
}

// AppendRow appends cells that are no row of a table, such as headings, without an end of
// line.
func (s Style) AppendRow(dst []byte, cells ...string) []byte {
	return s.AppendLine(dst, Line{Cells: cells})
}

// AppendLine appends a line as it stood, without an end of line.
func (s Style) AppendLine(dst []byte, line Line) []byte {
	for i, cell := range line.Cells {
		if i > 0 {
			dst = append(dst, s.Separator)
		}
		dst = s.AppendCell(dst, cell, line.Mark(i))
	}
	return dst
}

// Style returns how the rows of the source were written. Where other quotation marks than
// usual stood in it, all its cells are written in them, because a file is only known by
// them; what else was unusual is not written again.
func (t *Table) Style() Style {
	s := t.Form.style()
	if f := t.flavour; f.own() {
		s.Quote, s.Quotes = f.quote, QuotesEvery
	}
	return s
}

// AppendRow appends cells that are no row of the table, as its rows are written.
func (f *Form) AppendRow(dst []byte, cells ...string) []byte {
	return f.style().AppendRow(dst, cells...)
}
