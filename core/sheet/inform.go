package sheet

import (
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/heading"
)

// FormRows are the rows of a form into which products are entered: a file that has them is in that form.
type FormRows struct {
	Rows     [][]string // from the first row of the form on
	Headings int        // which of them has the headings, from 1
	Samples  [][]string // rows that may stand under them and are no products
	Filled   bool       // it is the file itself, of which only the rows above its products are known
}

// in returns which of the first rows of a file has the headings of the form, -1 if none has them all.
func (f *FormRows) in(rows []catalogue.Row) int {
	if f == nil || f.Headings > len(f.Rows) {
		return -1
	}
	return slices.IndexFunc(rows[:min(len(rows), headingReach)], func(row catalogue.Row) bool { return sameCells(row.Cells, f.Rows[f.Headings-1]) })
}

// beneath returns the rows under the headings that are those of the form. above is the number of the row of the headings.
func (f *FormRows) beneath(rows []catalogue.Row, above int, fields []catalogue.Field) (list []Beneath) {
	for i := range rows {
		code := catalogue.NoFinding
		switch at := f.Headings + i; {
		case at < len(f.Rows) && sameCells(rows[i].Cells, f.Rows[at]):
			code = catalogue.RowGuide
		case slices.ContainsFunc(f.Samples, func(sample []string) bool { return sameCells(rows[i].Cells, sample) }):
			code = catalogue.RowExample
		case f.Filled && heading.Beneath(rows[i].Cells, fields) == catalogue.RowExample:
			code = catalogue.RowExample
		default:
			return list
		}
		if !rows[i].Blank() {
			list = append(list, Beneath{above + i + 1, code, lineOf(&rows[i])})
		}
	}
	return list
}

// sameCells reports whether two rows have the same cells, but for spaces around them and empty ones at the end.
func sameCells(a, b []string) bool {
	filled := false
	for i := range max(len(a), len(b)) {
		x, y := "", ""
		if i < len(a) {
			x = strings.TrimSpace(a[i])
		}
		if i < len(b) {
			y = strings.TrimSpace(b[i])
		}
		if x != y {
			return false
		}
		filled = filled || x != ""
	}
	return filled
}
