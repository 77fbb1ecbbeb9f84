package sheet

import (
	"strings"

	"zetanum/core/catalogue"
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

// style returns how the cells of a table are written down again.
func (f *Form) style() Style { return Style{Separator: f.Separator, Quote: '"'} }

// AppendCell appends a cell to dst. Quotation marks in it are doubled where it stands in
// such.
func (s Style) AppendCell(dst []byte, cell string, mark catalogue.Mark) []byte {
	switch {
	case s.Quotes == QuotesEvery, s.Quotes == QuotesAsWere && mark&catalogue.Quoted != 0:
	case strings.IndexByte(cell, s.Separator) < 0 && strings.IndexByte(cell, s.Quote) < 0 && !strings.ContainsAny(cell, "\r\n"):
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
	for i, cell := range cells {
		if i > 0 {
			dst = append(dst, s.Separator)
		}
		dst = s.AppendCell(dst, cell, 0)
	}
	return dst
}

// AppendRow appends cells that are no row of the table, as its rows are written.
func (f *Form) AppendRow(dst []byte, cells ...string) []byte {
	return f.style().AppendRow(dst, cells...)
}
