package products

import (
	"encoding/binary"
	"slices"
	"strings"
	"unicode"

	"zetanum/core/catalogue"
	"zetanum/core/lists"
)

// mostCopied is how many products of a column may have what the one above has before it is
// no slip any more: whole ranges share a description then.
const mostCopied = 1000

// A Copier knows the columns in which a product has something of its own: the
// manufacturer's number, the description and the images. Where a row was copied to make
// another product, these are forgotten.
type Copier struct {
	title   int
	key     int // what says to which product a row belongs, or -1
	options []int
	cols    []copierColumn
	watched []int // title, options, and those
}

type copierColumn struct {
	col   int
	field catalogue.Field
}

// NewCopier returns what looks for copied rows in a sheet, nil if it has nothing to look
// at. key is the column that says to which product a row belongs, or -1.
func (p *Layout) NewCopier(sheet *catalogue.Columns, key int) *Copier {
	c := &Copier{title: p.title, key: key}
	for _, f := range []catalogue.Field{catalogue.MPN, catalogue.Description, catalogue.Images} {
		if col := sheet.First(f); col >= 0 {
			c.cols = append(c.cols, copierColumn{col, f})
		}
	}
	for _, o := range p.Options {
		c.options = append(c.options, o.Value)
	}
	if len(c.cols) == 0 && c.key < 0 || c.title < 0 {
		return nil
	}
	c.watched = append(append(c.watched, c.title), c.options...)
	for _, col := range c.cols {
		c.watched = append(c.watched, col.col)
	}
	c.watched = append(c.watched, c.key)
	return c
}

// Watched returns the columns that are looked at.
func (c *Copier) Watched() []int { return c.watched }

// Copies are the products of a stretch of a sheet that have in some column what the one
// above them has. The zero value is that of no product. They are an ordered monoid.
type Copies struct {
	first   seen   // the lead row of the first product
	above   []seen // the lead row of the last product and, if it has several, the last row
	columns []copiesOf
	slips   []pair // products whose key is a slip of that of the one above; at most mostCopied
}

// seen is what is looked at in a row.
type seen struct {
	row   int // 0 if there is no product
	cells []string
}

// copiesOf are the copies in one column.
type copiesOf struct {
	compared int // products above which one stands that has something there, too
	copied   int
	pairs    []pair // at most mostCopied; none if there are more
}

// A pair is a row, and the one from which it was perhaps copied.
type pair struct{ row, above int }

// Add adds the next product by its rows.
func (c *Copier) Add(s *Copies, rows []*catalogue.Row) {
	lead, last := rows[0], rows[len(rows)-1]
	if s.first.row == 0 {
		s.columns = make([]copiesOf, len(c.cols))
		s.first, s.above = c.see(seen{}, lead), make([]seen, 1, 2)
	} else {
		c.compare(s, lead.Number, lead.Cell)
	}
	s.above = s.above[:1]
	if s.above[0] = c.see(s.above[0], lead); last != lead {
		s.above = s.above[:2]
		s.above[1] = c.see(s.above[1], last)
		if title := &s.above[1].cells[0]; *title == "" {
			*title = s.above[0].cells[0]
		}
	}
}

// see returns what is looked at in a row, in the place of another.
func (c *Copier) see(old seen, row *catalogue.Row) seen {
	old.row, old.cells = row.Number, old.cells[:0]
	for _, col := range c.watched {
		old.cells = append(old.cells, row.Cell(col))
	}
	return old
}

// compare compares the lead row of a product with the product above it: with that one's
// lead row and, because people copy the row above, with its last one.
func (c *Copier) compare(s *Copies, row int, cell func(col int) string) {
	title := cell(c.title)
	if above := &s.above[0]; title == "" && above.cells[0] != "" && isSlip(cell(c.key), above.cells[len(c.watched)-1]) &&
		len(s.slips) < mostCopied {
		s.slips = append(s.slips, pair{row, above.row})
	}
	for n, col := range c.cols {
		value, of := cell(col.col), &s.columns[n]
		if value == "" {
			continue
		}
		compared, copied := false, 0
		for i := range s.above {
			above := &s.above[i]
			old := above.cells[1+len(c.options)+n]
			compared = compared || old != ""
			if copied == 0 && value == old && ownValue(value, col.field) && c.differ(above, title, cell, col.field) {
				copied = above.row
			}
		}
		if compared {
			of.compared++
		}
		if copied == 0 {
			continue
		}
		if of.copied++; of.copied > mostCopied {
			of.pairs = nil
		} else {
			of.pairs = append(of.pairs, pair{row, copied})
		}
	}
}

// isSlip reports whether one key was perhaps meant to be another.
func isSlip(key, other string) bool {
	return key != "" && other != "" && key != other && (Loosely(key) == Loosely(other) || lists.Slip(key, []string{other}) != "")
}

// looseCode takes out what is often mistyped in a code.
var looseCode = strings.NewReplacer(" ", "", "-", "", "_", "")

// Loosely returns a code without case, spaces and dashes, in which it is often mistyped.
func Loosely(code string) string { return looseCode.Replace(strings.ToLower(code)) }

// differ reports whether a product and the one above it are two between which the value of
// a field should change.
func (c *Copier) differ(above *seen, title string, cell func(col int) string, f catalogue.Field) bool {
	if old := above.cells[0]; title != "" && old != "" && title != old {
		return f == catalogue.MPN || !sizesOfOne(old, title)
	}
	return f == catalogue.MPN && slices.ContainsFunc(c.options, func(col int) bool {
		old, own := above.cells[1+slices.Index(c.options, col)], cell(col)
		return old != "" && own != "" && !strings.EqualFold(old, own)
	})
}

// ownValue reports whether a text is one that two products have in common only by mistake:
// not "-" or "see catalogue".
func ownValue(s string, f catalogue.Field) bool {
	switch f {
	case catalogue.Description:
		return strings.Count(s, " ") >= 3
	case catalogue.MPN:
		return strings.ContainsAny(s, "123456789")
	}
	return len(s) > 3
}

// sizesOfOne reports whether two titles are those of one product in two sizes or in two
// numbers of pieces, which have the same description and image by right.
func sizesOfOne(a, b string) bool {
	_, rest, ok := Shared([]string{a, b})
	return ok && !slices.ContainsFunc(rest, func(s string) bool {
		return len(s) > 3 && !strings.ContainsFunc(s, unicode.IsDigit)
	})
}

// Merge adds the copies of the stretch that follows.
func (c *Copier) Merge(s, next *Copies) {
	switch {
	case next.first.row == 0:
		return
	case s.first.row == 0:
		*s = *next
		s.first.keep()
		s.keepAbove()
		return
	}
	c.compare(s, next.first.row, func(col int) string { return next.first.cells[slices.Index(c.watched, col)] })
	for n := range s.columns {
		of, more := &s.columns[n], &next.columns[n]
		of.compared, of.copied = of.compared+more.compared, of.copied+more.copied
		if of.pairs = append(of.pairs, more.pairs...); of.copied > mostCopied {
			of.pairs = nil
		}
	}
	s.slips = append(s.slips, next.slips...)
	s.slips = s.slips[:min(len(s.slips), mostCopied)]
	s.above = next.above
	s.keepAbove()
}

// keep makes the cells texts of their own, which stay when the stretch is gone.
func (s *seen) keep() {
	s.cells = slices.Clone(s.cells)
	for i, cell := range s.cells {
		s.cells[i] = strings.Clone(cell)
	}
}

func (s *Copies) keepAbove() {
	for i := range s.above {
		s.above[i].keep()
	}
}

// Place adds to the numbers of the rows: those of a stretch begin at one until it is known
// where it lies.
func (s *Copies) Place(above int) {
	if s.first.row == 0 {
		return
	}
	s.first.row += above
	for i := range s.above {
		s.above[i].row += above
	}
	move := func(pairs []pair) {
		for i := range pairs {
			pairs[i].row, pairs[i].above = pairs[i].row+above, pairs[i].above+above
		}
	}
	for _, of := range s.columns {
		move(of.pairs)
	}
	move(s.slips)
}

// AppendBinary appends what says all of it.
func (s *Copies) AppendBinary(b []byte) ([]byte, error) {
	for _, e := range append([]seen{s.first}, s.above...) {
		b = binary.AppendUvarint(b, uint64(e.row))
		for _, cell := range e.cells {
			b = append(binary.AppendUvarint(b, uint64(len(cell))), cell...)
		}
	}
	for _, p := range s.slips {
		b = binary.AppendUvarint(binary.AppendUvarint(b, uint64(p.row)), uint64(p.above))
	}
	for _, of := range s.columns {
		b = binary.AppendUvarint(binary.AppendUvarint(b, uint64(of.compared)), uint64(of.copied))
		for _, p := range of.pairs {
			b = binary.AppendUvarint(binary.AppendUvarint(b, uint64(p.row)), uint64(p.above))
		}
	}
	return b, nil
}

// A Copied is what a row may have kept from the one from which it was copied or, with
// Slip, a key that was perhaps meant to be that of the other.
type Copied struct {
	Col, Row int
	Slip     bool
}

// fewCompared is how many products must be there, besides the first, before one that shares something with the
// one above stands out.
const fewCompared = 3

// Found returns, by the numbers of lead rows, what they may have kept: of columns in which
// at least three of four products, or all but one, have something else than the one above. What others
// share by right cannot be told from a copy.
func (c *Copier) Found(s *Copies) map[int][]Copied {
	found := make(map[int][]Copied)
	for _, p := range s.slips {
		found[p.row] = append(found[p.row], Copied{Col: c.key, Row: p.above, Slip: true})
	}
	for n := range s.columns {
		of := &s.columns[n]
		if of.compared < fewCompared || of.copied > 1 && 4*of.copied > of.compared {
			continue
		}
		for _, p := range of.pairs {
			found[p.row] = append(found[p.row], Copied{Col: c.cols[n].col, Row: p.above})
		}
	}
	return found
}
