package sheet

import (
	"strings"

	"zetanum/core/catalogue"
)

// Swallowed returns the column of a cell that holds rows of its own table, because a
// quotation mark was not closed where it should be; -1 if there is none. A line of the cell
// is such a row if it has as many cells as there are headings, or its end and the beginning
// of the cell have together, and numbers and codes stand where they should.
func (t *Table) Swallowed(row *catalogue.Row) (col int) {
	width := t.Columns.Own()
	if t.Form.Spooled || width < 3 || row.Calm(catalogue.Controls) {
		return -1
	}
	for col := range min(len(row.Cells), width) {
		cell := row.Cells[col]
		if row.Marks[col]&catalogue.Quoted == 0 || strings.IndexByte(cell, t.Form.Separator) < 0 || strings.IndexByte(cell, '\n') < 0 && strings.IndexByte(cell, '\r') < 0 {
			continue
		}
		lines := strings.FieldsFunc(cell, func(r rune) bool { return r == '\n' || r == '\r' })
		for i, line := range lines {
			cells := t.cellsOf(line)
			switch {
			case i > 0 && len(cells) == width && t.typed(cells, 0),
				i > 0 && i == len(lines)-1 && len(cells) == col+1 && t.typed(cells, 0) && len(t.cellsOf(lines[0])) == width-col:
				return col
			}
		}
	}
	return -1
}

// cellsOf returns the cells of a line.
func (t *Table) cellsOf(line string) []string {
	form := t.Form
	form.Lenient, form.CR = false, false
	var row catalogue.Row
	form.Scanner(line).Next(&row)
	return row.Cells
}

// typed reports whether numbers and codes stand in some cells where the columns from that
// one on have them, and at least one does.
func (t *Table) typed(cells []string, from int) bool {
	found := false
	for i, cell := range cells {
		cell = strings.TrimSpace(cell)
		if cell == "" {
			continue
		}
		digits, others := 0, 0
		for j := range len(cell) {
			switch c := cell[j]; {
			case c >= '0' && c <= '9':
				digits++
			case strings.IndexByte(" .,+-E\u20ac$", c) < 0:
				others++
			}
		}
		switch t.Columns.Kind(from + i) {
		case catalogue.PriceKind, catalogue.NumberKind, catalogue.MeasureKind:
			if digits == 0 || others > 3 {
				return false
			}
			found = true
		case catalogue.CodeKind:
			if t.Columns.Fields[from+i] == catalogue.Barcode {
				if digits < 6 || others > 0 {
					return false
				}
				found = true
			}
		}
	}
	return found
}
