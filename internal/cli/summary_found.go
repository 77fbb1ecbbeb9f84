package cli

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/line"
	"zetanum/core/repair"
	"zetanum/internal/proof"
	"zetanum/internal/terminal"
)

// open lists what holds rows back, what unlocks most first.
func (s summary) open() {
	var open []line.FindingCount
	for _, f := range s.r.Report.Found {
		if f.Severity == catalogue.Error {
			open = append(open, f)
		}
	}
	if len(open) == 0 {
		return
	}
	slices.SortStableFunc(open, func(a, b line.FindingCount) int {
		return cmp.Or(b.Unlocks-a.Unlocks, b.Holds-a.Holds)
	})
	s.Head("Open, what frees most rows first")
	for _, f := range open {
		entry := f.Code.Entry()
		s.Linef("%s  %s: %s%s  %s", s.Open(fmt.Sprintf("%5s", thousands(f.Cells))), proof.Heading(s.r, f.Col), entry.Title, frees(&f),
			s.Faint(f.Code.String()))
		e := f.Examples[0]
		s.WrapHanging("       ", "       ", fmt.Sprintf("row %d: %s", e.Row, e.Text))
		s.WrapHanging("       → ", "         ", terminal.Typed(entry.Do))
		for _, q := range s.r.Questions() {
			if q.Code == f.Code && q.Col == f.Col {
				s.ask(&q)
			}
		}
	}
}

// update offers a file of prices and stock alone, where rows are held for cells that need not be
// in it.
func (s summary) update() {
	n := s.r.Report.HeldByCells
	if n == 0 || len(s.r.Settings.Only) > 0 {
		return
	}
	names := s.r.ForUpdate()
	if names == nil {
		return
	}
	s.WrapHanging("", "  ", fmt.Sprintf("%s free in an update file that has these columns alone: -only %s", rowsAre(n), quoted(strings.Join(names, ","))))
}

// ask puts what is likely as one question for the whole column.
func (s summary) ask(q *repair.Question) {
	var likely []string
	for _, e := range q.Likely() {
		likely = append(likely, fmt.Sprintf("%s → %s", visible(e.Cell, 40), e.After))
	}
	s.WrapHanging("       ? ", "         ", fmt.Sprintf("%s Then %s known (%s) and %s free.",
		q.Ask, codesAre(q), strings.Join(likely, ", "), rowsAre(q.Unlocks)))
	s.Linef("         If yes: add -yes %s", yesTo(s.r, q))
}

// yesTo is what -yes takes to answer a question; the column is named where there
// are several of barcodes, or several in which the same is asked.
func yesTo(r *repair.Result, q *repair.Question) string {
	columns := len(r.Models)
	if q.Code > catalogue.TrustByTitle { // no question about barcodes
		columns = 0
		for _, other := range r.Questions() {
			if other.Code == q.Code {
				columns++
			}
		}
	}
	if columns < 2 {
		return q.Code.String()
	}
	return quoted(q.Code.String() + "=" + proof.Heading(r, q.Col))
}

func codesAre(q *repair.Question) string {
	what := "code"
	switch {
	case q.Code == catalogue.ValueUnlisted:
		what = "value"
	case q.Code == catalogue.BarcodeSaysNone:
		what = "cell"
	case q.Code > catalogue.TrustByTitle:
		what = "text"
	}
	if q.Proposed == 1 {
		return "1 " + what + " is"
	}
	return thousands(q.Proposed) + " " + what + "s are"
}

func rowsAre(n int) string {
	if n == 1 {
		return "1 row is"
	}
	return thousands(n) + " rows are"
}

// frees says how many rows an answer would set free, where that is not one for
// each cell.
func frees(f *line.FindingCount) string {
	switch f.Unlocks {
	case f.Cells:
		return ""
	case 0:
		return " (frees no row by itself)"
	}
	return fmt.Sprintf(" (settling it frees %s)", plural(f.Unlocks, "row", "rows"))
}

func (s summary) noticed() {
	var rows [][]string
	for _, f := range s.r.Report.Found {
		entry := f.Code.Entry()
		if f.Severity == catalogue.Error {
			continue
		}
		list := rowList(f.Examples)
		if f.Cells > len(f.Examples) {
			list += ", …"
		}
		rows = append(rows, []string{thousands(f.Cells), proof.Heading(s.r, f.Col), entry.Title, f.Severity.String(), list})
	}
	if rows == nil {
		return
	}
	s.Head("Noticed, holds nothing back")
	s.Table(&terminal.Table{Headings: []string{"times", "column", "what", "severity", "where"}, Right: []int{0}, Rows: rows})
	for _, q := range s.r.Questions() {
		if q.Code.Entry().Severity == catalogue.Error {
			continue
		}
		var likely []string
		for _, e := range q.Likely() {
			likely = append(likely, fmt.Sprintf("%s → %s", visible(e.Cell, 40), visible(e.After, 40)))
		}
		s.WrapHanging("? ", "  ", fmt.Sprintf("%s: %s %s. If yes: add -yes %s", proof.Heading(s.r, q.Col), q.Ask,
			strings.Join(likely, ", "), yesTo(s.r, &q)))
	}
}

// rowList names the rows of examples in the order of the sheet.
func rowList(examples []line.Example) string {
	numbers := make([]int, 0, len(examples))
	for _, e := range examples {
		numbers = append(numbers, e.Row)
	}
	slices.Sort(numbers)
	return "row " + strings.Trim(strings.ReplaceAll(fmt.Sprint(numbers), " ", ", "), "[]")
}
