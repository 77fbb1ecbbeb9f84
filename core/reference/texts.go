package reference

import (
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/heading"
	"zetanum/core/sheet"
	"zetanum/core/text"
)

// A TextPlace is a cell of a sheet, known by the SKU in its row.
type TextPlace struct {
	SKU string
	Col int
}

// Texts reads the sheet again for what cells of another were before characters of them
// were lost; lost has their texts and columns are those of that other sheet. found is
// called with each row that has such a text; clean is asked to put a text in order.
func (s *Sheet) Texts(columns *catalogue.Columns, lost map[TextPlace]string, clean func(text string, col int) string,
	found func(at TextPlace, text string, row int)) error {
	table, err := sheet.Open(s.path, s.opt)
	if err != nil {
		return err
	}
	defer table.Close()
	sku := table.Columns.First(catalogue.SKU)
	if sku < 0 {
		return nil
	}
	here := make(map[int]int) // the column that has the same, by that of the other sheet
	for at := range lost {
		here[at.Col] = sameColumn(&table.Columns, columns, at.Col)
	}
	return table.EachProduct(func() {}, func(row *catalogue.Row) {
		for col, own := range here {
			at := TextPlace{row.Cell(sku), col}
			cell, ok := lost[at]
			if !ok || own < 0 {
				continue
			}
			if whole := clean(row.Cell(own), col); text.Recovers(cell, whole) {
				at.SKU = strings.Clone(at.SKU)
				found(at, strings.Clone(whole), row.Number)
			}
		}
	})
}

// sameColumn returns the column that has the field of a column of another sheet, or its
// heading; -1 if there is none.
func sameColumn(own, other *catalogue.Columns, col int) int {
	if f := other.Fields[col]; f != catalogue.Unknown {
		return own.First(f)
	}
	for i, h := range own.Headings {
		if heading.Key(h) == heading.Key(other.Headings[col]) {
			return i
		}
	}
	return -1
}
