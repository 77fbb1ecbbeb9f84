package repair

import (
	"path/filepath"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/line"
	"zetanum/core/sections"
	"zetanum/core/sheet"
	"zetanum/core/workbook"
)

// A Question is what is likely for many cells of a column and can be settled with
// one answer.
type Question struct {
	*line.FindingCount
	Ask string
}

// Likely returns examples of what a yes would write.
func (q *Question) Likely() (examples []line.Example) {
	for _, e := range q.Examples {
		if e.After != "" {
			examples = append(examples, e)
		}
	}
	return examples
}

// Questions returns what can be asked and has not been answered, in the order of the columns.
func (r *Result) Questions() (list []Question) {
	for i := range r.Report.Found {
		f := &r.Report.Found[i]
		if ask := f.Code.Entry().Ask; ask != "" && f.Proposed > 0 && f.Open() > 0 && !r.Told(f) {
			list = append(list, Question{f, ask})
		}
	}
	return list
}

// Said returns what a person has said to findings: in the rulebook, and to this run.
func (r *Result) Said() catalogue.Decisions {
	return slices.Concat(r.Settings.Book.Answers.Decisions(), r.Settings.Said)
}

// Told reports whether the question of a finding has been answered with no.
func (r *Result) Told(f *line.FindingCount) bool {
	heading := ""
	if f.Col >= 0 {
		heading = r.Source.Columns.Headings[f.Col]
	}
	d, ok := r.Said().Said(f.Code, heading, "", "")
	return ok && d.Answer == catalogue.No
}

// Changed returns how often a rule has changed cells of the same column on the same ground; nil if it has not.
func (r *Result) Changed(c *line.RepairCount) *line.RepairCount {
	for i := range r.Report.Repaired {
		if o := &r.Report.Repaired[i]; o.Rule == c.Rule && o.Ground == c.Ground && o.Col == c.Col {
			return o
		}
	}
	return nil
}

// Holding returns what is open and holds rows, what holds most of them first.
func (r *Result) Holding() []line.FindingCount {
	held := slices.DeleteFunc(slices.Clone(r.Report.Found), func(f line.FindingCount) bool { return f.Holds == 0 || f.Open() == 0 })
	slices.SortStableFunc(held, func(a, b line.FindingCount) int { return b.Holds - a.Holds })
	return held
}

// Heading returns the heading of a column, or words for a row as a whole.
func (r *Result) Heading(col int) string {
	if col < 0 || col >= len(r.Source.Columns.Headings) {
		return sections.RowColumn
	}
	if h := r.Source.Columns.Headings[col]; strings.TrimSpace(h) != "" {
		return catalogue.OneLine(h)
	}
	return "(column " + workbook.ColumnName(col) + ", no heading)"
}

// Ready reads back what is ready of a small file.
func (r *Result) Ready() (columns catalogue.Columns, rows [][]string, err error) {
	if r.Folder == "" {
		return columns, nil, nil
	}
	path := filepath.Join(r.Folder, line.FileNames[0])
	table, err := sheet.Open(path, sheet.Options{Reading: r.Settings.Book.Target.Reading(), AnyHeadings: true, Form: r.Settings.Book.FormRows()})
	if err != nil {
		return columns, nil, err
	}
	defer table.Close()
	return table.Columns, table.Sample[min(len(table.Beneath), len(table.Sample)):], nil // those of the form are no products
}

// Listed returns how many lines the list of that name has.
func (r *Result) Listed(name string) int {
	for i, l := range r.Lists {
		if l.Name == name && i < len(r.Report.Listed) {
			return r.Report.Listed[i]
		}
	}
	return 0
}

// ForUpdate returns the headings of the prices and of the stock in which nothing is held: with
// the SKU they make an update file. It is nil if there are none, or no SKU.
func (r *Result) ForUpdate() (headings []string) {
	columns := &r.Source.Columns
	if columns.First(catalogue.SKU) < 0 {
		return nil
	}
	for _, f := range []catalogue.Field{catalogue.Price, catalogue.SalePrice, catalogue.ListPrice, catalogue.WholesalePrice, catalogue.FloorPrice, catalogue.Cost, catalogue.Stock} {
		for _, col := range columns.All(f) {
			held := slices.ContainsFunc(r.Report.Found, func(c line.FindingCount) bool { return c.Col == col && c.Severity == catalogue.Error })
			if col < columns.Own() && !held {
				headings = append(headings, columns.Headings[col])
			}
		}
	}
	return headings
}
