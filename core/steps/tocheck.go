package steps

import (
	"cmp"
	"slices"
	"strconv"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/line"
)

// ToCheckName is the list of what was found in numbers and dates, and of what stands in the wrong column: all rows, where elsewhere only
// examples are shown.
const ToCheckName = "to-check.csv"

// listed are the kinds of findings that are in it, by the first part of their names, and single ones.
var listed = func() []bool {
	m := make([]bool, len(catalogue.Codes())+1)
	m[catalogue.VariantNoPrice], m[catalogue.TitleMarkup], m[catalogue.RowSwapped] = true, true, true
	for _, code := range catalogue.Codes() {
		switch kind, _, _ := strings.Cut(code.String(), "."); kind {
		case "price", "stock", "measure", "date", "cell":
			m[code] = code.Entry().Severity != catalogue.Note
		}
	}
	m[catalogue.ColumnShifted], m[catalogue.ColumnMixed], m[catalogue.ValueMisplaced] = true, true, true
	return m
}()

// ToCheck is the step that enters them: the row, the last one where it is a stretch, what the product is known by, the heading, the cell, and
// what was found.
func ToCheck(s *Sheet, known []string) line.Step {
	c, cols := &s.Columns, s.known()
	list := s.List(line.List{Name: ToCheckName, Headings: slices.Concat([]string{"Row", "Last row"}, known, []string{"Column", "Value", "What"})})
	step := line.Step{Name: NameToCheck, New: Always(func(p *catalogue.Product, log *line.Log) {
		if log.Judging() || !slices.ContainsFunc(log.Findings, isListed) {
			return
		}
		found := slices.DeleteFunc(slices.Clone(log.Findings), func(f catalogue.Finding) bool { return !isListed(f) })
		slices.SortStableFunc(found, func(a, b catalogue.Finding) int { return cmp.Compare(a.Row, b.Row) })
		for n := range found {
			f := &found[n]
			i := slices.IndexFunc(p.Rows, func(r *catalogue.Row) bool { return r.Number == f.Row && r.Made == 0 })
			if i < 0 {
				continue
			}
			cells := append(make([]string, 0, len(cols)+5), strconv.Itoa(f.Row), "")
			if f.Code.Stretch() {
				cells[1] = strconv.Itoa(f.Facts.Row)
			}
			for _, col := range cols {
				cells = append(cells, p.Rows[i].Cell(col))
			}
			heading := ""
			if f.Col >= 0 {
				heading = c.Headings[f.Col]
			}
			log.Enter(list, i, append(cells, heading, f.Cell, f.Sentence())...)
		}
	})}
	step.Glances.Add(cols...)
	return step
}

func isListed(f catalogue.Finding) bool { return listed[f.Code] && f.Severity() != catalogue.Note }
