package steps

import (
	"encoding/binary"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/heading"
	"zetanum/core/line"
)

// A headRow is a row that has the headings of another table than that which is read.
type headRow struct {
	row   int
	title int // the row above it that has its name alone, or 0
	names string
	sure  bool // it needs no gap above it
	open  bool // whether there is a gap above it, or above its title, depends on the rows before the first
}

// first is the first row of the table.
func (h *headRow) first() int {
	if h.title > 0 {
		return h.title
	}
	return h.row
}

// heads is what the survey learns of other tables among the rows: their headings stand
// behind a gap, in rows that are no products, or are known so well that they need none.
type heads struct {
	columns *catalogue.Columns
	sku     int
	rows    []headRow

	firstRow, lastRow int
	lastIsName        bool // the last row has one cell only
	lastAfterGap      bool // and there is a gap above it; not known of the first row
}

func (h *heads) Learn(p *catalogue.Product) {
	for _, row := range p.Rows {
		name := false
		if cell := row.Cell(h.sku); heading.MayName(cell) {
			if cell == "" && row.Blank() {
				continue // it is the gap
			}
			name = heading.IsName(row.Cells)
			h.look(row)
		}
		if h.firstRow == 0 {
			h.firstRow = row.Number
		}
		h.lastAfterGap = h.lastRow > 0 && row.Number != h.lastRow+1
		h.lastRow, h.lastIsName = row.Number, name
	}
}

func (h *heads) look(row *catalogue.Row) {
	filled, known, words := heading.AnotherTable(row.Cells, h.columns)
	if !known && !words {
		return
	}
	one := headRow{row: row.Number, names: strings.Clone(headingsOf(row)), sure: known && filled > 2}
	if one.follows(h) {
		h.rows = append(h.rows, one)
	}
}

// follows says what is known of the gap above a row that follows others; it reports
// whether the row may be one of headings.
func (r *headRow) follows(before *heads) bool {
	switch first := r.first(); {
	case before.lastRow == 0:
		r.open = true
	case before.lastRow != first-1:
		r.open = false
	case r.title > 0 || !before.lastIsName:
		r.open, r.title = false, 0
		return r.sure
	case before.lastRow == before.firstRow:
		r.open, r.title = true, before.lastRow
	case before.lastAfterGap:
		r.open, r.title = false, before.lastRow
	default:
		r.open = false
		return r.sure
	}
	return true
}

func (h *heads) Merge(next line.Aggregate) {
	n := next.(*heads)
	if n.lastRow == 0 {
		return
	}
	for _, one := range n.rows {
		if !one.open || one.follows(h) {
			h.rows = append(h.rows, one)
		}
	}
	if n.lastAfterGap = n.lastAfterGap || n.firstRow == n.lastRow && h.lastRow > 0 && n.firstRow != h.lastRow+1; h.firstRow == 0 {
		h.firstRow = n.firstRow
	}
	h.lastRow, h.lastIsName, h.lastAfterGap = n.lastRow, n.lastIsName, n.lastAfterGap
}

// Place counts rows from the top of the sheet.
func (h *heads) Place(above int) {
	if h.lastRow == 0 {
		return
	}
	for i := range h.rows {
		if h.rows[i].row += above; h.rows[i].title > 0 {
			h.rows[i].title += above
		}
	}
	h.firstRow, h.lastRow = h.firstRow+above, h.lastRow+above
}

func (h *heads) AppendBinary(b []byte) ([]byte, error) {
	flag := func(is bool) {
		if is {
			b = append(b, 1)
		} else {
			b = append(b, 0)
		}
	}
	for i := range h.rows {
		one := &h.rows[i]
		b = binary.AppendUvarint(binary.AppendUvarint(b, uint64(one.row)), uint64(one.title))
		b = append(b, one.names...)
		flag(one.sure)
		flag(one.open)
	}
	b = binary.AppendUvarint(binary.AppendUvarint(b, uint64(h.firstRow)), uint64(h.lastRow))
	flag(h.lastIsName)
	flag(h.lastAfterGap)
	return b, nil
}

// of returns the headings of the table that a row is of; nil if it is that which is read.
// The first rows of a sheet are not of another one.
func (h *heads) of(row int) *headRow {
	at, exact := slices.BinarySearchFunc(h.rows, row, func(one headRow, row int) int { return one.first() - row })
	if !exact {
		at--
	}
	for ; at >= 0; at-- {
		if !h.rows[at].open {
			return &h.rows[at]
		}
	}
	return nil
}

// Begins returns the rows with which other tables begin: what stands there does not go on
// with the product above.
func (h *heads) Begins() (rows []int) {
	for i := range h.rows {
		if !h.rows[i].open {
			rows = append(rows, h.rows[i].first())
		}
	}
	return rows
}

// OtherTables returns the rows with the headings of other tables; ok is false if the aggregate
// is not the one that learns of them.
func OtherTables(learned line.Aggregate) (rows []int, ok bool) {
	h, ok := learned.(*heads)
	if !ok {
		return nil, false
	}
	for i := range h.rows {
		if !h.rows[i].open {
			rows = append(rows, h.rows[i].row)
		}
	}
	return rows, true
}

// headingsOf returns what stands in a row of headings.
func headingsOf(row *catalogue.Row) string {
	var names []string
	for _, cell := range row.Cells {
		if cell = strings.TrimSpace(cell); cell != "" {
			names = append(names, cell)
		}
	}
	return catalogue.Shorten(strings.Join(names, ", "), 80)
}
