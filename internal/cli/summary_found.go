package cli

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/line"
	"zetanum/core/repair"
	"zetanum/internal/terminal"
)

// open lists what holds rows back, what unlocks most first, and what else is asked.
func (s summary) open() {
	open, asked := s.openEntries()
	if len(open) == 0 {
		return
	}
	if open[0].Severity == catalogue.Error {
		s.Head("Open, what frees most rows first")
	} else {
		s.Head("To decide, holds nothing back")
	}
	lets := false
	for i := range open {
		f := &open[i]
		if i == s.detail.open {
			break
		}
		s.WrapHanging(s.Open(fmt.Sprintf("%5s", thousands(f.Open())))+"  ", strings.Repeat(" ", 7), fmt.Sprintf("%s: %s%s  %s", s.r.Heading(f.Col),
			f.Code.Entry().Title, frees(f), s.Faint(f.Code.String())))
		if i < s.answered {
			lets = s.entry(f, asked) || lets
		}
	}
	switch left := len(open) - s.detail.open; {
	case left > 0:
		s.more(plural(left, "more kind", "more kinds") + ", and what to do about each")
	case s.answered < len(open):
		s.more("what to do about the others")
	}
	if lets {
		s.WrapHanging("", "", s.Faint("blank writes the cells empty, keep leaves them as they are, aside leaves their products out; -remember keeps "+
			"the answers for the next file."))
	}
}

// openEntries returns what is open, and the questions.
func (s summary) openEntries() (open []line.FindingCount, asked []repair.Question) {
	asked = s.r.Questions()
	for _, f := range s.r.Report.Found {
		isAsked := slices.ContainsFunc(asked, func(q repair.Question) bool { return q.Code == f.Code && q.Col == f.Col })
		if f.Severity == catalogue.Error || isAsked {
			open = append(open, f)
		}
	}
	slices.SortStableFunc(open, func(a, b line.FindingCount) int {
		return cmp.Or(cmp.Compare(b.Severity, a.Severity), b.Unlocks-a.Unlocks, b.Holds-a.Holds)
	})
	return open, asked
}

// entry says of what is open an example, what to do, and how it is answered. It reports
// whether products can be let go.
func (s summary) entry(f *line.FindingCount, asked []repair.Question) (lets bool) {
	e := f.Examples[0]
	s.WrapHanging("       ", "       ", fmt.Sprintf("row %d: %s", e.Row, e.Text))
	s.WrapHanging("       → ", "         ", terminal.Typed(f.Code.Entry().Do))
	for _, q := range asked {
		if q.Code == f.Code && q.Col == f.Col {
			s.ask(&q)
		}
	}
	var ways []string
	for _, answer := range []catalogue.Answer{catalogue.Blank, catalogue.Keep, catalogue.LeaveOut} {
		if f.Severity == catalogue.Error && f.Code.Takes(answer) && !(answer == catalogue.Blank && (f.Col < 0 || s.r.TellApart.Has(f.Col))) {
			ways = append(ways, ":"+answer.String())
		}
	}
	if ways == nil {
		return false
	}
	s.Linef("         or let go: -answer %s", strings.Join(append([]string{quoted(answerTo(s.r, f) + ways[0])}, ways[1:]...), ", "))
	return true
}

// more says that some of a part are not shown.
func (s summary) more(what string) { s.Line("       " + s.Faint("-all shows "+what)) }

// update offers a file of prices and stock alone, where rows are held for cells that need not be
// in it.
func (s summary) update() {
	n := s.r.Report.HeldByCells
	if n == 0 || len(s.r.Settings.Only) > 0 || s.r.Settings.Book.Target.HasForm() {
		return
	}
	names := s.r.ForUpdate()
	if names == nil {
		return
	}
	s.Line(rowsAre(n) + " free in an update file that has these columns alone:")
	s.Line("  add ", s.Bold("-only "+quoted(strings.Join(names, ","))))
}

// ask puts what is likely as one question for the whole column.
func (s summary) ask(q *repair.Question) {
	var likely []string
	for _, e := range q.Likely() {
		likely = append(likely, fmt.Sprintf("%s → %s", visible(e.Cell, 40), visible(e.After, 40)))
	}
	free := ""
	if q.Severity == catalogue.Error {
		free = " and " + rowsAre(q.Unlocks) + " free"
	}
	s.WrapHanging("       ? ", "         ", fmt.Sprintf("%s Then %s (%s)%s.", q.Ask, codesAre(q), strings.Join(likely, ", "), free))
	to := quoted(answerTo(s.r, q.FindingCount))
	s.Linef("         If yes: add -yes %s; if no: -no %s", to, to)
}

// answerTo is what -yes, -no and -answer take to answer a finding; the column is named where
// the same is open in several.
func answerTo(r *repair.Result, f *line.FindingCount) string {
	columns := 0
	for i := range r.Report.Found {
		if r.Report.Found[i].Code == f.Code {
			columns++
		}
	}
	if columns < 2 && len(r.Models) < 2 || f.Col < 0 {
		return f.Code.String()
	}
	return f.Code.String() + "=" + r.Heading(f.Col)
}

// answers writes what was answered as on the command line.
func answers(said catalogue.Decisions) string {
	words := make([]string, 0, len(said))
	for _, d := range said {
		to := d.Finding.String()
		if d.Column != "" {
			to += "=" + d.Column
		}
		switch answer := max(d.Answer, catalogue.Yes); {
		case d.Value != "":
			words = append(words, "-answer "+quoted(to+":"+d.Value))
		case answer.Frees():
			words = append(words, "-answer "+quoted(to+":"+answer.String()))
		default:
			words = append(words, "-"+answer.String()+" "+quoted(to))
		}
	}
	return strings.Join(words, ", ")
}

// codesAre says what a yes would settle.
func codesAre(q *repair.Question) string {
	what, done := "code", "known"
	area, _, _ := strings.Cut(q.Code.String(), ".")
	switch {
	case q.Code.Stretch():
		what, done = "stretch", "exchanged"
	case q.Code == catalogue.ValueUnlisted:
		what = "value"
	case q.Code == catalogue.BarcodeSaysNone:
		what = "cell"
	case area == "price":
		what = "price"
	case q.Code > catalogue.MemoryNear:
		what = "text"
	}
	many := what + "s"
	if q.Code.Stretch() {
		many = what + "es"
	}
	return plural(q.Proposed, what+" is "+done, many+" are "+done)
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
	switch {
	case f.Severity < catalogue.Error:
		return " (holds nothing back)"
	case f.Unlocks == f.Open():
		return ""
	case f.Unlocks == 0:
		return " (frees no row by itself)"
	}
	return fmt.Sprintf(" (settling it frees %s)", plural(f.Unlocks, "row", "rows"))
}

// noticed lists what holds nothing, and what was answered.
func (s summary) noticed() {
	var rows [][]string
	asked := s.r.Questions()
	for i := range s.r.Report.Found {
		f := &s.r.Report.Found[i]
		if f.Code.Entry().Order != "" {
			continue // it is listed as proposed
		}
		if f.Severity == catalogue.Error || slices.ContainsFunc(asked, func(q repair.Question) bool { return q.Code == f.Code && q.Col == f.Col }) {
			continue // it is listed as open
		}
		list := rowList(f.Examples)
		if f.Cells > len(f.Examples) {
			list += ", …"
		}
		severity := f.Severity.String()
		switch {
		case f.Blanked > 0:
			severity = "empty, as answered"
		case f.Kept > 0:
			severity = "kept, as answered"
		}
		rows = append(rows, []string{thousands(f.Cells), s.r.Heading(f.Col), f.Code.Entry().Title, severity, list})
	}
	if rows == nil {
		return
	}
	if s.detail.noticed == 0 {
		s.Line()
		s.Line(s.Bold("Noticed, holds nothing back: "), plural(len(rows), "kind", "kinds"), s.Faint("; -all shows them"))
		return
	}
	s.Head("Noticed, holds nothing back")
	left := max(0, len(rows)-s.detail.noticed)
	rows = rows[:len(rows)-left]
	s.Table(&terminal.Table{Headings: []string{"times", "column", "what", "severity", "where"}, Right: []int{0}, Rows: rows})
	if left > 0 {
		s.more(plural(left, "more kind", "more kinds"))
	}
}

// proposed lists what orders would do that nobody has given.
func (s summary) proposed() {
	var list []*line.FindingCount
	for i := range s.r.Report.Found {
		if f := &s.r.Report.Found[i]; f.Code.Entry().Order != "" && f.Severity != catalogue.Error {
			list = append(list, f)
		}
	}
	if list == nil {
		return
	}
	if s.detail.noticed == 0 {
		s.Line()
		s.Line(s.Bold("Orders that would have something to do: "), strconv.Itoa(len(list)), s.Faint("; -all shows them"))
		return
	}
	s.Head("Orders that would have something to do; zetanum begin -ask asks for them")
	for _, f := range list {
		s.WrapHanging(s.Good(fmt.Sprintf("%5s", thousands(f.Cells)))+"  ", "         ", s.r.Heading(f.Col)+": "+s.Bold(f.Code.Entry().Order))
		at := slices.IndexFunc(f.Examples, func(e line.Example) bool { return e.After != "" })
		if at < 0 {
			at = 0
		}
		if e := f.Examples[at]; e.After != "" || e.Cell != "" {
			s.WrapHanging("       ", "         ", fmt.Sprintf("row %d: %s → %s", e.Row, shownCell(e.Cell), shownCell(e.After)))
		}
	}
}

// shownCell returns a cell as a summary shows it beside another.
func shownCell(cell string) string {
	if cell == "" {
		return "(empty)"
	}
	return catalogue.OneLine(catalogue.Shorten(cell, 60))
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
