package proof

import (
	"errors"
	"path/filepath"

	"zetanum/core/catalogue"
	"zetanum/core/repair"
	"zetanum/core/sections"
	"zetanum/core/sheet"
	"zetanum/core/workbook"
)

// scanList turns the list of products without a barcode into a workbook to scan
// into: its cells are typed as text, so that no code becomes a number, and the
// cursor waits in the first empty one.
func scanList(dir string, r *repair.Result) error {
	if r.Listed(sections.MissingName) == 0 {
		return nil
	}
	form := r.Source.Form
	form.Spooled = false
	table, err := sheet.Reopen(filepath.Join(dir, sections.MissingName), form)
	if err != nil {
		return err
	}
	defer table.Close()
	columns, n := 0, 0
	err = table.Each(func() { n = 0 }, func(row *catalogue.Row) {
		if n++; n == 1 {
			columns = len(row.Cells)
		}
	})
	if err != nil {
		return err
	}
	layout := workbook.Layout{Name: "Scan list", Heads: 1, Print: true, Cursor: columns}
	for i := range columns {
		width := 16
		switch i {
		case columns - 1:
			width = 24
		case 1:
			width = 44
		}
		layout.Widths = append(layout.Widths, width)
	}
	return writeBook(filepath.Join(dir, sections.ScanName), r.Date, []workbook.Layout{layout}, func(w *writer) {
		err := table.Each(func() { n = 0 }, func(row *catalogue.Row) {
			style := workbook.Plain
			if n++; n == 1 {
				style = workbook.Band
			}
			cells := make([]string, columns)
			for i := range cells {
				cells[i] = row.Cell(i)
			}
			if n <= workbook.MostRows {
				w.add(style, cells...)
			}
		})
		w.err = errors.Join(w.err, err)
	})
}
