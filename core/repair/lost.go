package repair

import (
	"fmt"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/reference"
	"zetanum/core/steps"
	"zetanum/core/text"
)

// lostTexts looks in the trusted sheets for the texts of cells of which characters are
// lost.
func (r *runner) lostTexts() error {
	sku := r.table.Columns.First(catalogue.SKU)
	if len(r.trusted) == 0 || sku < 0 {
		return nil
	}
	some, err := r.table.Contains(text.Lost)
	if err != nil || !some {
		return err
	}
	texts := new(steps.Texts)
	lost := make(map[reference.TextPlace]string)
	prepare := r.table.Rejoin()
	err = r.table.Each(func() { clear(lost) }, func(row *catalogue.Row) {
		if prepare != nil {
			prepare(row)
		}
		for col := range min(len(row.Cells), len(r.table.Columns.Headings)) {
			cell, kind := row.Cells[col], r.table.Columns.Kind(col)
			if kind == catalogue.CodeKind || row.Cell(sku) == "" || !strings.Contains(cell, text.Lost) {
				continue
			}
			lost[reference.TextPlace{SKU: strings.Clone(row.Cell(sku)), Col: col}] = strings.Clone(texts.Clean(cell, kind))
		}
	})
	if err != nil || len(lost) == 0 {
		return err
	}
	r.backed = make(map[reference.TextPlace]steps.BackedText)
	clean := func(text string, col int) string { return texts.Clean(text, r.table.Columns.Kind(col)) }
	for _, s := range r.trusted {
		err := s.Texts(&r.table.Columns, lost, clean, func(at reference.TextPlace, whole string, row int) {
			if b, had := r.backed[at]; had && b.Text != whole {
				whole = "" // they do not agree
			} else if had {
				return
			}
			r.backed[at] = steps.BackedText{Lost: lost[at], Text: whole, Source: fmt.Sprintf("%s, row %d", s.Name, row)}
		})
		if err != nil {
			return err
		}
	}
	return nil
}
