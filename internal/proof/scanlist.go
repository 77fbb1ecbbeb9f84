package proof

import (
	"path/filepath"

	"github.com/xuri/excelize/v2"

	"zetanum/core/catalogue"
	"zetanum/core/repair"
	"zetanum/core/sections"
	"zetanum/core/sheet"
)

// scanRows is how many rows a sheet of a workbook can have below its headings.
const scanRows = 1<<20 - 1

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
	book := excelize.NewFile()
	defer book.Close()
	styles, err := newStyles(book)
	if err != nil {
		return err
	}
	const name = "Scan list"
	if err := book.SetSheetName("Sheet1", name); err != nil {
		return err
	}
	if err := fitToPage(book, name); err != nil {
		return err
	}
	w, err := book.NewStreamWriter(name)
	if err != nil {
		return err
	}
	n, columns := 0, 0
	var failed error
	err = table.Each(func() { n = 0 }, func(row *catalogue.Row) {
		if failed != nil || n > scanRows {
			return
		}
		n++
		style := styles.text
		if n == 1 {
			style, columns = styles.head, len(row.Cells)
			failed = prepare(w, row.Cells)
		}
		cells := make([]any, columns)
		for i := range cells {
			cells[i] = excelize.Cell{StyleID: style, Value: fit(row.Cell(i))}
		}
		at, err := excelize.CoordinatesToCellName(1, n)
		if err == nil {
			err = w.SetRow(at, cells)
		}
		if failed == nil {
			failed = err
		}
	})
	if err != nil {
		return err
	}
	if failed != nil {
		return failed
	}
	if err := w.Flush(); err != nil {
		return err
	}
	return book.SaveAs(filepath.Join(dir, sections.ScanName))
}

// prepare sets what has to be said before the first row: how wide columns are,
// and that the headings stay in sight while the cursor stands in the first cell
// to scan into.
func prepare(w *excelize.StreamWriter, headings []string) error {
	for i := range headings {
		width := 16.0
		switch {
		case i == len(headings)-1:
			width = 24
		case i == 1:
			width = 44
		}
		if err := w.SetColWidth(i+1, i+1, width); err != nil {
			return err
		}
	}
	cell, err := excelize.CoordinatesToCellName(len(headings), 2)
	if err != nil {
		return err
	}
	return w.SetPanes(&excelize.Panes{Freeze: true, YSplit: 1, TopLeftCell: "A2", ActivePane: "bottomLeft",
		Selection: []excelize.Selection{{SQRef: cell, ActiveCell: cell, Pane: "bottomLeft"}}})
}
