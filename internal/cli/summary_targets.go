package cli

import (
	"fmt"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/export"
	"zetanum/core/line"
	"zetanum/core/repair"
)

// mostOfTarget is how many kinds of what holds rows of a target are named.
const mostOfTarget = 3

// targets says what became of what goes to further targets.
func (s summary) targets() {
	if len(s.r.Targets) == 0 {
		return
	}
	s.Head("For further targets")
	for i := range s.r.Targets {
		t := &s.r.Targets[i]
		if t.None {
			continue
		}
		says := fmt.Sprintf("%s: read %s = ready %s + ", t.Name, thousands(t.Report.Rows), thousands(t.Report.Ready))
		held := "held " + thousands(t.Report.Held)
		if t.Report.Held > 0 {
			held = s.Open(held)
		}
		s.Linef("  %s%s + not for it %s", says, held, thousands(t.Report.Aside))
		shown := 0
		for _, f := range s.heldBy(t) {
			if shown++; shown > mostOfTarget && !s.all {
				s.more("more that holds rows of it")
				break
			}
			s.WrapHanging(s.Open(fmt.Sprintf("%5s", thousands(f.Cells)))+"  ", strings.Repeat(" ", 7), fmt.Sprintf("%s: %s  %s", s.r.Heading(f.Col), f.Code.Entry().Title, s.Faint(f.Code.String())))
			if len(f.Examples) > 0 {
				s.WrapHanging(strings.Repeat(" ", 7), strings.Repeat(" ", 7), fmt.Sprintf("row %d: %s", f.Examples[0].Row, f.Examples[0].Text))
			}
		}
	}
}

// heldBy returns what holds rows of a target, and no others.
func (s summary) heldBy(t *repair.TargetReport) (list []line.FindingCount) {
	for _, f := range t.Report.Found {
		if strings.HasPrefix(f.Code.String(), "target.") && f.Severity == catalogue.Error {
			list = append(list, f)
		}
	}
	return list
}

// targetFiles are the files of further targets, and what is in each.
func (s summary) targetFiles() (rows [][]string) {
	for i := range s.r.Targets {
		t := &s.r.Targets[i]
		if t.None {
			continue
		}
		n := plural(t.Report.Written.Rows, "row", "rows")
		if !export.OnlyParts(t.Parts) {
			rows = append(rows, []string{"ready-" + t.Name + ".csv", n + " for " + t.Name})
		}
		for _, form := range t.As {
			if t.Parts == nil {
				rows = append(rows, []string{"ready-" + t.Name + "." + form, "the same, as its form or as a table"})
			}
		}
		if parts := t.Parts; parts != nil {
			rows = append(rows, []string{parts[0].Name + " …", fmt.Sprintf("%s for %s in %s, one after the other", n, t.Name, plural(len(parts), "file", "files"))})
		}
		if t.Report.Held > 0 {
			rows = append(rows, []string{"held-" + t.Name + ".csv", plural(t.Report.Held, "row", "rows") + " held back from it, with the reason"})
		}
	}
	return rows
}
