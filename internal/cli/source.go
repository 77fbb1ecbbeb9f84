package cli

import (
	"fmt"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/repair"
	"zetanum/core/sheet"
	"zetanum/internal/terminal"
)

func (s summary) source() { printSource(s.Printer, s.r) }

// printSource says which file was read, and as what.
func printSource(p *terminal.Printer, r *repair.Result) {
	src := &r.Source
	changed := ""
	if !src.Changed.IsZero() {
		changed = ", changed " + src.Changed.Format("2006-01-02 15:04")
	}
	p.Linef("%s  %s", p.Bold(src.Name), p.Faint(fileSize(src.Size)+changed))
	if src.Address != "" {
		p.WrapHanging("", "  ", p.Faint("fetched from "+src.Address))
	}
	p.Line(p.Faint(src.Kind + "; " + headingsIn(src)))
	if src.Doubt != "" {
		p.WrapHanging("", "  ", p.Open(terminal.Typed(src.Doubt)))
	}
	if len(src.Beside) > 0 {
		p.WrapHanging("", "  ", p.Faint("other files in the archive, not read: "+strings.Join(src.Beside, ", ")+
			" (-member NAME reads one)"))
	}
	if len(src.Others) > 0 {
		p.Line(p.Faint("other sheets, not read: " + strings.Join(src.Others, ", ") + " (-sheet NAME reads one)"))
	}
	printAround(p, src, r.Settings.Book.Target.FirstRows == "keep")
	if len(src.Hidden) > 0 {
		read := "but read like the others"
		if r.Settings.Book.Sheet.HiddenColumns == "drop" {
			read = "and left out"
		}
		p.WrapHanging("", "  ", "Not shown in the workbook, "+read+": "+strings.Join(src.Hidden, ", ")+".")
	}
	if n := src.HiddenRows; n > 0 {
		why := ""
		if src.Filtered {
			why = "; a filter is set"
		}
		read := "read like the others"
		if r.Settings.Book.Sheet.HiddenRows == "set-aside" {
			read = "set aside"
		}
		p.Line(p.Faint(plural(n, "row", "rows") + " that the workbook does not show, " + read + why))
	}
	if n := src.Blank; n > 0 {
		p.Line(p.Faint(thousands(n) + " blank rows at the end, left out"))
	}
	if n := src.Merged; n > 0 {
		p.WrapHanging("", "  ", p.Faint(plural(n, "area", "areas")+
			" of merged cells; what they say stands in the first cell only (fill_merged = true under [sheet] fills it down)"))
	}
	for _, col := range src.ByCells {
		p.Line(p.Faint(fmt.Sprintf("column %q is taken for %s, to judge by its cells", src.Columns.Headings[col], src.Columns.Fields[col])))
	}
}

// printAround says what stands around the headings and is no product.
func printAround(p *terminal.Printer, src *repair.Source, keeps bool) {
	if n := len(src.Preamble); n > 0 {
		p.Line(p.Faint(plural(n, "row", "rows") + " above the headings, not part of the table"))
	}
	for _, b := range src.Beneath {
		p.Line(p.Faint(fmt.Sprintf("row %d: %s (%s)", b.Row, b.Code.Entry().Title, visible(joined(b.Cells), 50))))
	}
	if isForm(src) && !keeps {
		p.WrapHanging("", "  ", "This looks like the form of a platform. If its importer wants the rows around the headings back, say first_rows = \"keep\" under [target].")
	}
}

// kept says how many rows around the headings go to the importer, too.
func kept(r *repair.Result) string {
	if n := r.KeptRows; n > 0 {
		return ", below " + plural(n, "row", "rows") + " that the form has around its headings"
	}
	return ""
}

// isForm reports whether a file looks like one that a platform gives out to be filled in:
// there are settings above the headings, or these are there once more as names.
func isForm(src *repair.Source) bool {
	for _, b := range src.Beneath {
		if b.Code == catalogue.RowNames {
			return true
		}
	}
	return slices.ContainsFunc(src.Preamble, func(line sheet.Line) bool {
		return slices.ContainsFunc(line.Cells, func(c string) bool {
			name, value, found := strings.Cut(c, "=")
			return found && name != "" && value != "" && !strings.ContainsAny(c, " \t\n")
		})
	})
}

// joined returns the filled cells of a row on one line.
func joined(cells []string) string {
	return strings.Join(slices.DeleteFunc(slices.Clone(cells), func(c string) bool { return strings.TrimSpace(c) == "" }), ", ")
}
