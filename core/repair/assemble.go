package repair

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/folder"
	"zetanum/core/line"
	"zetanum/core/reference"
	"zetanum/core/steps"
)

// assemble makes the course for the columns that the table has; to look only,
// with a step that counts what is filled.
func (r *runner) assemble(only bool) (*line.Course, error) {
	table := r.table
	c := &line.Course{Grouping: steps.Grouping(&table.Columns), Prepare: steps.Rejoin(table)}
	base := &table.Columns
	base.Headings, base.Fields, base.Added = base.Headings[:base.Own()], base.Fields[:base.Own()], 0
	plan, err := r.opt.Book.Columns.For(base)
	if err != nil {
		return nil, err
	}
	r.plan, r.result.Notes = plan, plan.Notes
	codes, err := r.codes()
	if err != nil {
		return nil, err
	}
	c.Lists = lists(&table.Columns)
	r.result.Lists = c.Lists
	c.Steps = append(c.Steps, steps.Shape(table), steps.Text(table), steps.SKUs(table, codes))
	for _, col := range table.Columns.All(catalogue.Barcode) {
		c.Steps = append(c.Steps, steps.Barcodes(table, col, codes))
	}
	base.Headings, base.Fields = append(base.Headings, plan.Added.Headings...), append(base.Fields, plan.Added.Fields...)
	base.Added = len(plan.Added.Headings)
	rows, err := steps.Rows(table, r.opt.Book.Rows)
	if err != nil {
		return nil, err
	}
	book := &r.opt.Book
	words, err := steps.Wording(table, &book.Columns, book.Replace, book.Around, len(book.Rows))
	if err != nil {
		return nil, err
	}
	c.Steps = append(c.Steps, steps.Columns(table, plan), words, rows)
	r.course = c
	if only {
		c.Steps = append(c.Steps, fillStep(table.Columns.Own()))
		return c, c.Check()
	}
	c.Whole = steps.NeedsAll(&table.Columns)
	for col, f := range table.Columns.Fields {
		if f == catalogue.Barcode || steps.Grouped.Has(f) {
			c.Prefix = max(c.Prefix, col+2) // and the cell behind it, for a number torn in two
		}
	}
	if len(r.trusted) > 0 {
		c.Prefix = max(c.Prefix, reference.NewWords(&table.Columns).Last()+2)
	}
	return c, c.Check()
}

// codes says how the codes are judged.
func (r *runner) codes() (*steps.Codes, error) {
	c := &steps.Codes{Rules: r.opt.Book.Barcode, Lost: listLost, Missing: listMissing}
	if len(r.trusted) > 0 {
		c.Source = r.trusted
	}
	c.Yes = r.opt.Yes
	named := slices.Sorted(maps.Keys(r.opt.Book.Barcode.Fill))
	if second := r.opt.Book.Barcode.Second; second != "" {
		named = append(named, second)
	}
	for _, a := range r.opt.Yes {
		if a.Column != "" {
			named = append(named, a.Column)
		}
	}
	for _, name := range named {
		if !slices.ContainsFunc(r.table.Columns.Headings, func(h string) bool { return columns.Same(h, name) }) {
			return nil, fmt.Errorf("the column %q: %w; the headings are: %s", name, ErrOnly, strings.Join(r.table.Columns.Headings, ", "))
		}
	}
	return c, nil
}

// The lists of a course.
const (
	listLost = iota
	listMissing
)

// LostName is the list of the codes that somebody has to be asked for.
// MissingName is that of the products without a barcode; what makes files for
// people turns it into the workbook ScanName, so that codes can be scanned into
// it.
const (
	LostName    = "lost-barcodes.csv"
	MissingName = folder.Temporary + "no-barcode.csv"
	ScanName    = "scan-list.xlsx"
)

func lists(in *catalogue.Columns) []line.List {
	var known []string
	for _, f := range steps.ListFields {
		if col := in.First(f); col >= 0 {
			known = append(known, in.Headings[col])
		}
	}
	return []line.List{
		listLost:    {Name: LostName, Headings: slices.Concat(known, []string{"Barcode", "What is known"})},
		listMissing: {Name: MissingName, Headings: slices.Concat(known, []string{"Barcode"})},
	}
}
