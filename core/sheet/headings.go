package sheet

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"zetanum/core/barcode"
	"zetanum/core/catalogue"
	"zetanum/core/heading"
)

// hints returns all that was said about headings.
func (t *Table) hints() map[string]catalogue.Field {
	if len(t.opt.Hints) == 0 {
		return t.opt.Fields
	}
	all := maps.Clone(t.opt.Hints)
	maps.Copy(all, t.opt.Fields)
	return all
}

// said returns how many cells are headings that the user has named.
func (t *Table) said(cells []string) (n int) {
	for h := range t.hints() {
		for _, c := range cells {
			if heading.Key(h) == heading.Key(c) {
				n++
			}
		}
	}
	return n
}

// headingReach is how far down the headings are looked for.
const headingReach = 30

// chooseHeading finds the heading row among the first rows of the table and
// says what its columns mean: the first row with most known headings, if there
// are at least two or the user named one. A row with more of them is another table's
// if rows with numbers stand between the two.
func (t *Table) chooseHeading(rows []catalogue.Row) (h int, err error) {
	h, most := -1, 0
	first, numbers := -1, false
	list := t.opt.List && slices.ContainsFunc(rows, func(row catalogue.Row) bool { return row.Cell(1) != "" })
	for i := range rows[:min(len(rows), headingReach)] {
		if rows[i].Blank() || list && rows[i].Cell(1) == "" {
			continue
		}
		if first < 0 {
			first = i
		}
		said := 2 * t.said(rows[i].Cells)
		if n := heading.CountOver(rows[i].Cells, most-said) + said; n > most {
			if most >= 2 && numbers {
				break
			}
			h, most, numbers = i, n, false
		}
		numbers = numbers || hasNumbers(rows[i].Cells)
	}
	if first < 0 && t.skipped == 0 {
		return 0, t.fail(ErrNoTable, "it has only blank rows", "Name another file or, in a workbook, another sheet with the setting ‹sheet›.")
	}
	if (most < 2 || list) && h != first {
		h = first
	}
	switch n := t.opt.HeadingRow; {
	case n == 0 && most == 0 && bareCodes(rows):
		err := t.makeUp(rows)
		if err == nil && t.Columns.Fields[0] == catalogue.Unknown {
			t.Columns.Fields[0], t.ByCells = catalogue.Barcode, []int{0}
		}
		return -1, err
	case t.opt.NoHeadings:
		return -1, t.makeUp(rows)
	case n-t.skipped > len(rows) || n > 0 && rows[n-t.skipped-1].Blank():
		return 0, t.fail(ErrBlankRow, fmt.Sprintf("row %d", n), "Name the row that has the headings with the setting ‹heading-row›.")
	case n > 0:
		h, most = n-t.skipped-1, max(most, 1)
	}
	if at := t.opt.Form.in(rows); at >= 0 && t.skipped == 0 && t.opt.HeadingRow == 0 {
		h, most, t.InForm = at, max(most, 2), true
	}
	t.Columns.Added = 0
	headings, above := rows[h].Cells, h
	if t.opt.HeadingRow == 0 && !list && !t.InForm {
		headings, above, h = t.onTwoRows(rows, h)
	}
	t.Heads = nil
	for i := above; i <= h; i++ {
		t.Heads = append(t.Heads, lineOf(&rows[i]))
	}
	t.Columns.Headings = headings
	t.Columns.Fields = heading.Fields(headings, t.hints())
	t.Heading = t.skipped + h + 1
	t.ByCells = nil
	if t.lookBeneath(rows[h+1:]); t.InForm {
		t.Beneath = t.opt.Form.beneath(rows[h+1:], t.Heading, t.Columns.Fields)
	}
	t.findByCells(rows[h+1:])
	if most < 2 && t.opt.HeadingRow == 0 && !t.opt.AnyHeadings && heading.LooksLikeProduct(headings) {
		most, t.ByCells = 0, nil
	}
	if most == 0 && len(t.ByCells) == 0 && !t.opt.AnyHeadings {
		return 0, t.fail(ErrHeadings, "row "+fmt.Sprint(t.Heading)+" reads: "+catalogue.Shorten(strings.Join(rows[h].Cells, ", "), 80),
			t.ifNone(&rows[h])+`If these are the headings, say what one means with the setting ‹field› "HEADING=FIELD"; the fields are: `+
				strings.Join(catalogue.FieldNames(), " ")+".")
	}
	for said := range t.opt.Fields {
		if !t.has(said) {
			return 0, t.fail(ErrNoColumn, said, "The headings are: "+strings.Join(rows[h].Cells, ", ")+".")
		}
	}
	t.Preamble = nil
	for i := range rows[:above] {
		t.Preamble = append(t.Preamble, lineOf(&rows[i]))
	}
	return h, nil
}

// bareCodes reports whether rows are a bare list: one column of codes, with one in the first row, where headings
// would be.
func bareCodes(rows []catalogue.Row) bool {
	codes, filled := 0, 0
	for i := range rows {
		if rows[i].Blank() {
			continue
		}
		if len(rows[i].Cells) != 1 {
			return false
		}
		filled++
		if _, err := barcode.Parse(strings.TrimSpace(rows[i].Cells[0])); err == nil {
			codes++
		} else if filled == 1 {
			return false
		}
	}
	return codes > 0 && 10*codes >= bareShare*filled
}

// bareShare is which share of the rows, in tenths, are codes in a bare list of them.
const bareShare = 7

// hasNumbers reports whether at least two cells of a row are filled, and one begins with a
// digit, as headings seldom do.
func hasNumbers(cells []string) bool {
	filled, some := 0, false
	for _, cell := range cells {
		if cell = strings.TrimSpace(cell); cell != "" {
			filled++
			some = some || cell[0] >= '0' && cell[0] <= '9'
		}
	}
	return some && filled >= 2
}

// makeUp gives a table without headings some, and says what its columns mean.
func (t *Table) makeUp(rows []catalogue.Row) error {
	width := 0
	for i := range rows {
		width = max(width, len(rows[i].Cells))
	}
	t.Columns = catalogue.Columns{}
	for col := range width {
		t.Columns.Headings = append(t.Columns.Headings, fmt.Sprintf("Column %d", col+1))
	}
	t.Columns.Fields = heading.Fields(t.Columns.Headings, t.hints())
	t.Heading, t.Heads, t.Preamble, t.Beneath, t.ByCells = 0, nil, nil, nil, nil
	t.findByCells(rows)
	for h := range t.opt.Fields {
		if !t.has(h) {
			return t.fail(ErrNoColumn, h,
				"Without headings the columns are called Column 1 to "+t.Columns.Headings[width-1]+".")
		}
	}
	return nil
}

// ifNone says what to do if a row that was taken for the headings is none.
func (t *Table) ifNone(row *catalogue.Row) string {
	for _, cell := range row.Cells {
		if strings.IndexFunc(cell, func(r rune) bool { return r >= '0' && r <= '9' }) >= 0 {
			return `If the table has no headings, say so with the setting ‹no-headings›, and what its columns mean with the setting ‹field› "Column 1=sku". `
		}
	}
	return ""
}

func (t *Table) has(h string) bool {
	for _, g := range t.Columns.Headings {
		if heading.Key(g) == heading.Key(h) {
			return true
		}
	}
	return false
}

// findByCells looks for the meaning of columns that the headings do not name, and for
// columns that hold something else than their headings say.
func (t *Table) findByCells(rows []catalogue.Row) {
	t.ByCells, t.Unlike, t.Sample = nil, nil, nil
	for i := range rows {
		t.Sample = append(t.Sample, rows[i].Cells)
	}
	found := make(map[catalogue.Field][]int)
	t.settle()
	for c, f := range t.Columns.Fields {
		cells := t.sampled(c)
		if f == catalogue.Stock && heading.AreYesNo(cells) && !t.isSaid(c) { // whether there is any, not how much
			if f = catalogue.InStock; t.Columns.First(f) >= 0 {
				f = catalogue.Unknown
			}
			t.Columns.Fields[c] = f
		}
		holds, n, filled := heading.ContentsOf(cells)
		if means := holds.Field(); f == catalogue.Unknown && means != catalogue.Unknown {
			found[means] = append(found[means], c)
		}
		if holds.Unlike(f) {
			at := slices.IndexFunc(cells, func(cell string) bool { return strings.TrimSpace(cell) != "" })
			t.Unlike = append(t.Unlike, Unlike{Col: c, Holds: holds.String(), Cells: n, Of: filled, Row: t.Heading + 1 + at,
				Example: cells[at]})
		}
	}
	t.inOtherTongues()
	for f, cols := range found {
		switch {
		case t.Columns.First(f) >= 0:
			continue
		case f == catalogue.Images:
			cols = cols[:1] // the product's own
		case f != catalogue.Barcode && len(cols) > 1:
			continue // nobody can tell which
		}
		for _, c := range cols {
			t.takeFor(c, f)
		}
	}
	slices.Sort(t.ByCells)
}

// Unlike is a column that holds something else than its heading says, to judge by the
// first rows.
type Unlike struct {
	Col       int
	Holds     string // what it holds
	Cells, Of int    // how many of the filled cells that were looked at
	Row       int    // the first of them
	Example   string
}
