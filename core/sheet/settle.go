package sheet

import (
	"zetanum/core/catalogue"
	"zetanum/core/heading"
)

// sampled returns the cells of a column in the first rows below the headings; those of rows that are no products
// are empty.
func (t *Table) sampled(col int) []string {
	cells := make([]string, 0, len(t.Sample))
	for _, row := range t.Sample {
		cell := ""
		if col < len(row) {
			cell = row[col]
		}
		if len(cells) < beneathReach && t.beneath(t.Heading+len(cells)+1) {
			cell = ""
		}
		cells = append(cells, cell)
	}
	return cells
}

// settle says which columns have a field where headings alone cannot: of several that mean the same it is the first,
// unless its cells are not what the field has and those of another are; one that names the product only has its number
// or its name, whichever stands below; and descriptions that are titles are these, if there are no others.
func (t *Table) settle() {
	var rows [][]string // of products
	for i, cells := range t.Sample {
		if i >= beneathReach || !t.beneath(t.Heading+i+1) {
			rows = append(rows, cells)
		}
	}
	columns := &t.Columns
	for other := range columns.Headings {
		f := t.meant(other)
		if c := columns.First(f); f != catalogue.Unknown && c >= 0 && !t.isSaid(c) && t.belies(rows, c, f) && t.fits(rows, other, f) {
			columns.Fields[c], columns.Fields[other] = catalogue.Unknown, f
		}
	}
	for c, h := range columns.Headings {
		was := columns.Fields[c]
		if was != catalogue.Unknown && was != catalogue.Title || !heading.NamesProduct(h) || t.isSaid(c) {
			continue
		}
		holds, _, _ := heading.ContentsOf(t.sampled(c))
		switch codes := heading.AreCodes(rows, c); {
		case codes && holds != heading.Barcodes && columns.First(catalogue.SKU) < 0 && heading.AllDiffer(rows, c):
			t.takeFor(c, catalogue.SKU)
		case codes:
			columns.Fields[c] = catalogue.Unknown
		case columns.First(catalogue.Title) < 0 && heading.AreNames(rows, c) && heading.AllDiffer(rows, c):
			t.takeFor(c, catalogue.Title)
		}
	}
	c := columns.First(catalogue.Description)
	if c < 0 || columns.First(catalogue.Title) >= 0 || t.isSaid(c) || !heading.AreTitles(rows, c) {
		return
	}
	t.takeFor(c, catalogue.Title)
	for other := range columns.Headings {
		if t.meant(other) == catalogue.Description && t.fits(rows, other, catalogue.Description) {
			columns.Fields[other] = catalogue.Description
			return
		}
	}
}

// isSaid reports whether the user has said what a column means.
func (t *Table) isSaid(col int) bool { return t.said(t.Columns.Headings[col:col+1]) > 0 }

// takeFor gives a column a field to judge by its cells.
func (t *Table) takeFor(col int, f catalogue.Field) {
	t.Columns.Fields[col] = f
	t.ByCells = append(t.ByCells, col)
}

// meant returns what the heading of a column means that has no field, as another column has it.
func (t *Table) meant(col int) catalogue.Field {
	if t.Columns.Fields[col] != catalogue.Unknown || t.isSaid(col) {
		return catalogue.Unknown
	}
	return heading.Field(t.Columns.Headings[col])
}

// belies reports whether a column has something else than that field has.
func (t *Table) belies(rows [][]string, col int, f catalogue.Field) bool {
	holds, _, _ := heading.ContentsOf(t.sampled(col))
	return holds.Unlike(f) || f == catalogue.Title && heading.AreCodes(rows, col)
}

// fits reports whether a column has what that field has.
func (t *Table) fits(rows [][]string, col int, f catalogue.Field) bool {
	_, _, filled := heading.ContentsOf(t.sampled(col))
	return filled > 0 && !t.belies(rows, col, f) && (f != catalogue.Title || heading.AreNames(rows, col))
}
