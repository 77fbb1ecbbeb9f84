package redo

import (
	"slices"

	"zetanum/core/catalogue"
	"zetanum/core/sheet"
)

// mostRows is how many rows of a file are looked at: what was done by hand was done to all.
const mostRows = 20_000

// Load reads a file.
func Load(path string, opt sheet.Options) (*Table, error) {
	opt.AnyHeadings = true
	table, err := sheet.Open(path, opt)
	if err != nil {
		return nil, err
	}
	defer table.Close()
	own := table.Columns.Own()
	t := &Table{Name: table.Name, Headings: table.Columns.Headings[:own], Fields: table.Columns.Fields[:own]}
	err = table.EachProduct(func() { t.Rows, t.Numbers = nil, nil }, func(row *catalogue.Row) {
		if row.Blank() || len(t.Rows) == mostRows {
			return
		}
		cells := slices.Clone(row.Cells)
		for i := range cells {
			cells[i] = string([]byte(cells[i])) // of the part, which is not kept
		}
		t.Rows, t.Numbers = append(t.Rows, cells), append(t.Numbers, row.Number)
	})
	return t, err
}
