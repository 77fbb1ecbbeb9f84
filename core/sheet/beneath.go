package sheet

import (
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"zetanum/core/catalogue"
	"zetanum/core/heading"
)

// Beneath is a row right under the headings that is no product.
type Beneath struct {
	Row  int            // its number
	Code catalogue.Code // what it is
	Line
}

// beneathReach is how many rows under the headings may be no products.
const beneathReach = 8

// lookBeneath looks whether the first rows under the headings are products.
func (t *Table) lookBeneath(rows []catalogue.Row) {
	t.Beneath = nil
	if t.Columns.First(catalogue.SKU)+t.Columns.First(catalogue.Title)+t.Columns.First(catalogue.Barcode) == -3 {
		return // they are no products in any case
	}
	for i := range rows[:min(len(rows), beneathReach)] {
		if rows[i].Blank() {
			continue
		}
		code := heading.Beneath(rows[i].Cells, t.Columns.Fields)
		if code == catalogue.NoFinding {
			return
		}
		t.Beneath = append(t.Beneath, Beneath{t.Heading + i + 1, code, lineOf(&rows[i])})
	}
}

// EachProduct is [Table.Each] without the rows right under the headings that are no
// products, and up to a second table below the first one: [Table.Until] is where it begins.
func (t *Table) EachProduct(reset func(), add func(*catalogue.Row)) error {
	var above rowsAbove
	return t.Each(func() {
		above, t.Until = rowsAbove{sku: max(0, t.Columns.First(catalogue.SKU))}, 0
		reset()
	}, func(row *catalogue.Row) {
		if t.Until > 0 || t.beneath(row.Number) {
			return
		}
		if above.begins(row, &t.Columns) {
			t.Until = row.Number
			return
		}
		add(row)
	})
}

// rowsAbove is what is known of the rows above one.
type rowsAbove struct {
	sku            int // the column of the SKU, or the first
	last           int // the last that is not blank
	name, afterGap bool
}

// begins reports whether a row has the headings of another table: they stand behind a gap,
// or are known so well that they need none.
func (a *rowsAbove) begins(row *catalogue.Row, columns *catalogue.Columns) bool {
	name := false
	if cell := row.Cell(a.sku); heading.MayName(cell) {
		if cell == "" && row.Blank() {
			return false // it is the gap
		}
		filled, known, words := heading.AnotherTable(row.Cells, columns)
		gap := row.Number != a.last+1 || a.name && a.afterGap
		if a.last > 0 && (known && filled > 2 || (known || words) && gap) {
			return true
		}
		name = heading.IsName(row.Cells)
	}
	a.last, a.name, a.afterGap = row.Number, name, a.last > 0 && row.Number != a.last+1
	return false
}

// beneath reports whether the row of that number is one of those.
func (t *Table) beneath(number int) bool {
	return slices.ContainsFunc(t.Beneath, func(b Beneath) bool { return b.Row == number })
}

// onTwoRows returns the headings if they may stand on two rows, of which that at h is one,
// and the first and the last of these.
func (t *Table) onTwoRows(rows []catalogue.Row, h int) (headings []string, first, last int) {
	if h > 0 {
		if both, ok := compose(rows[h-1].Cells, rows[h].Cells); ok {
			return both, h - 1, h
		}
	}
	if h+1 < len(rows) && (heading.CountOver(rows[h+1].Cells, 1) > 1 || t.continues(rows[h].Cells, rows[h+1].Cells)) {
		if both, ok := compose(rows[h].Cells, rows[h+1].Cells); ok {
			return both, h, h + 1
		}
	}
	return rows[h].Cells, h, h
}

// continues reports whether the row under the headings has none of what a product has:
// no code and no title.
func (t *Table) continues(headings, cells []string) bool {
	known := 0
	for col, f := range heading.Fields(headings, t.hints()) {
		if f != catalogue.SKU && f != catalogue.Barcode && f != catalogue.Title {
			continue
		}
		known++
		if col < len(cells) && strings.TrimSpace(cells[col]) != "" {
			return false
		}
	}
	return known > 0
}

// compose puts headings on two rows together: those of a group, such as Price above Net
// and Gross, and those that reach over both rows. ok is false if the rows are not of
// that kind: then some column would have no heading, or two the same one.
func compose(upper, lower []string) (headings []string, ok bool) {
	width := max(len(upper), len(lower))
	at := func(cells []string, col int) string {
		if col >= len(cells) {
			return ""
		}
		return strings.TrimSpace(cells[col])
	}
	for width > 0 && at(upper, width-1) == "" && at(lower, width-1) == "" {
		width--
	}
	times := make(map[string]int)
	for col := range lower {
		times[heading.Key(lower[col])]++
	}
	groups, tall, within, told := 0, 0, 0, 0
	group, key := "", false           // key: a group begins above a column by which products are known
	under := make([]string, 0, width) // the group of each column
	for col := range width {
		up, low := at(upper, col), at(lower, col)
		if !short(up) || !short(low) {
			return nil, false
		}
		switch {
		case low == "":
			tall++
			group = ""
			headings, under = append(headings, up), append(under, "")
			continue
		case up != "":
			groups++
			group = up
			key = key || keys.Has(heading.Field(low))
		case group != "":
			within++
		}
		if group != "" && times[heading.Key(low)] > 1 {
			told++
			low = group + " " + low
		}
		headings, under = append(headings, low), append(under, group)
	}
	if tall > 0 {
		// The groups end where a heading reaches over both rows, so that they can be told.
		for col, group := range under {
			if group != "" && heading.Field(headings[col]) == catalogue.Unknown && !strings.HasPrefix(headings[col], group) {
				headings[col] = group + " " + headings[col]
			}
		}
	}
	if groups == 0 || within == 0 || tall+told == 0 || tall == 0 && key {
		return nil, false // or it may be a line of decoration
	}
	var seen []string
	for _, h := range headings {
		key := heading.Key(h)
		if key == "" || slices.Contains(seen, key) {
			return nil, false
		}
		seen = append(seen, key)
	}
	return headings, true
}

// keys are the fields by which products are known.
var keys = catalogue.FieldsOf(catalogue.SKU, catalogue.Barcode, catalogue.Title)

// short reports whether a text may be a heading: not long, and without a number.
func short(s string) bool {
	return utf8.RuneCountInString(s) <= 40 && !strings.ContainsFunc(s, unicode.IsDigit)
}
