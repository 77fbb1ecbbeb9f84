package proof

import (
	"cmp"
	"errors"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/repair"
	"zetanum/core/sheet"
	"zetanum/core/steps"
	"zetanum/core/workbook"
)

// mostFillers is the most sheets of the workbook to fill in; what others have to fill in stands on
// the last.
const mostFillers = 30

// toFill turns the list of values that are required and missing into a workbook to fill in, with a
// sheet for each supplier, which comes back with the row numbers that stand in it.
func toFill(dir string, r *repair.Result) error {
	if r.Listed(steps.ToFillName) == 0 {
		return nil
	}
	form := r.Source.Form
	form.Spooled = false
	table, err := sheet.Reopen(filepath.Join(dir, steps.ToFillName), form)
	if err != nil {
		return err
	}
	defer table.Close()
	rows := make(map[string][][]string)
	var names, headings []string
	n := 0
	err = table.Each(func() { n, names, rows = 0, nil, make(map[string][][]string) }, func(row *catalogue.Row) {
		cells := make([]string, len(row.Cells))
		for i, c := range row.Cells {
			cells[i] = strings.Clone(c)
		}
		if n++; n == 1 {
			headings = cells
			return
		}
		by := sheetName(cells[steps.ToFillBy])
		switch at := slices.IndexFunc(names, func(n string) bool { return strings.EqualFold(n, by) }); {
		case at >= 0:
			by = names[at]
		case len(names) == mostFillers:
			by = names[mostFillers-1]
		default:
			names = append(names, by)
		}
		rows[by] = append(rows[by], cells)
	})
	if err != nil {
		return err
	}
	required := len(headings) - r.Required
	var layouts []workbook.Layout
	for _, name := range names {
		layout := workbook.Layout{Name: name, Heads: 1, Print: true, Cursor: required - steps.ToFillRow + 1}
		for i := range headings[steps.ToFillRow:] {
			layout.Widths = append(layout.Widths, []int{8, 18, 44}[min(i, 2)])
		}
		layouts = append(layouts, layout)
	}
	return writeBook(filepath.Join(dir, steps.ToFillBook), r.Date, layouts, func(w *writer) {
		for i, name := range names {
			if i > 0 {
				w.next()
			}
			w.add(workbook.Band, headings[steps.ToFillRow:]...)
			for _, cells := range rows[name] {
				var marked []int
				for _, n := range strings.Fields(cells[steps.ToFillMissing]) {
					at, _ := strconv.Atoi(n)
					marked = append(marked, required-steps.ToFillRow+at)
				}
				fitted := make([]string, 0, len(cells))
				for _, c := range cells[steps.ToFillRow:] {
					fitted = append(fitted, fit(c))
				}
				w.err = errors.Join(w.err, w.book.RowMarked(fitted, marked))
			}
		}
	})
}

// sheetName returns how the sheet of a supplier is called.
func sheetName(supplier string) string {
	return cmp.Or(workbook.SheetName(supplier), "To fill in")
}
