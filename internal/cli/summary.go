package cli

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/charset"
	"zetanum/core/fetch"
	"zetanum/core/line"
	"zetanum/core/repair"
	"zetanum/core/text"
	"zetanum/internal/proof"
	"zetanum/internal/terminal"
)

// A summary tells a person what became of a file.
type summary struct {
	*terminal.Printer
	r      *repair.Result
	folder bool // a folder was written
	piped  bool // ready.csv went to standard output
}

func (s summary) print() {
	s.source()
	s.verdict()
	s.own()
	s.trusted()
	s.stored()
	s.rules()
	s.repaired()
	s.open()
	s.noticed()
	s.files()
}

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
	where := fmt.Sprintf("headings in row %d", src.Heading)
	switch {
	case src.Heading == 0:
		where = "no headings"
	case src.Rows > 1:
		where = fmt.Sprintf("headings in rows %d and %d, put together", src.Heading-1, src.Heading)
	}
	p.Line(p.Faint(src.Kind + "; " + where))
	if src.Doubt != "" {
		p.WrapHanging("", "  ", p.Open(src.Doubt))
	}
	if len(src.Beside) > 0 {
		p.WrapHanging("", "  ", p.Faint("other files in the archive, not read: "+strings.Join(src.Beside, ", ")+" (-member NAME reads one)"))
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
	if n := src.Merged; n > 0 {
		p.WrapHanging("", "  ", p.Faint(plural(n, "area", "areas")+" of merged cells; what they say stands in the first cell only (fill_merged = true under [sheet] fills it down)"))
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
	return slices.ContainsFunc(src.Preamble, func(cells []string) bool {
		return slices.ContainsFunc(cells, func(c string) bool {
			name, value, found := strings.Cut(c, "=")
			return found && name != "" && value != "" && !strings.ContainsAny(c, " \t\n")
		})
	})
}

// joined returns the filled cells of a row on one line.
func joined(cells []string) string {
	return strings.Join(slices.DeleteFunc(slices.Clone(cells), func(c string) bool { return strings.TrimSpace(c) == "" }), ", ")
}

func (s summary) verdict() {
	c := s.r.Counts()
	var sentence string
	switch {
	case c.Read == 0:
		sentence = "There are no rows below the headings."
	case s.r.Settings.Sample > 0:
		sentence = fmt.Sprintf("A sample of %s with %s is ready for a trial import; the other rows are set aside.",
			s.Good(plural(s.r.Report.Products, "product", "products")), plural(c.Ready, "row", "rows"))
	case c.Held+c.Ready == 0:
		sentence = s.Open("No row is ready to import: all of them are set aside, with the reason.")
	case c.Held == 0 && c.Aside > 0:
		repaired := was(c.Changed, "cell") + " repaired"
		if c.Changed == 0 {
			repaired = "nothing had to be repaired"
		}
		sentence = s.Good(fmt.Sprintf("%s of %s %s ready to import, the others are set aside; %s.", thousands(c.Ready), plural(c.Read, "row", "rows"), be(c.Ready), repaired))
	case c.Held == 0 && c.Changed == 0:
		sentence = s.Good(fmt.Sprintf("%s ready to import, and nothing had to be repaired.", allRows(c.Ready)))
	case c.Held == 0:
		sentence = s.Good(fmt.Sprintf("%s ready to import; %s repaired.", allRows(c.Ready), was(c.Changed, "cell")))
	case c.Ready == 0 && c.Held > 0:
		sentence = s.Open("No row is ready to import: something is open in each of them.")
	default:
		sentence = fmt.Sprintf("%s of %s %s ready to import. %s",
			s.Good(thousands(c.Ready)), plural(c.Read, "row", "rows"), be(c.Ready), s.Open(held(c.Held)))
	}
	s.Line()
	s.Line(sentence)
	s.Linef("read %s = ready %s + held %s + set aside %s", thousands(c.Read), thousands(c.Ready), thousands(c.Held), thousands(c.Aside))
	if r := s.r.Report; r.Added+r.Joined > 0 {
		s.Linef("written %s = ready %s + added %s − joined %s", thousands(c.Ready+r.Added-r.Joined), thousands(c.Ready), thousands(r.Added), thousands(r.Joined))
	}
	if r := s.r.Report; r.Products > 0 {
		s.Line(s.Faint(fmt.Sprintf("%s, %s of them held%s", plural(r.Products, "product", "products"), thousands(r.HeldProducts), rowsOf(s.r, r.Products))))
	}
}

// rowsOf says what rows the products have, if not one each.
func rowsOf(r *repair.Result, products int) string {
	var parts []string
	if r.Variants != products {
		parts = append(parts, plural(r.Variants, "variant", "variants"))
	}
	if r.ImageRows > 0 {
		parts = append(parts, plural(r.ImageRows, "row", "rows")+" with another image")
	}
	if parts == nil {
		return ""
	}
	return "; " + strings.Join(parts, ", ")
}

func allRows(n int) string {
	if n == 1 {
		return "The only row is"
	}
	return "All " + thousands(n) + " rows are"
}

func held(n int) string {
	if n == 1 {
		return "1 is held, because something in it is open."
	}
	return thousands(n) + " are held, because something in them is open."
}

func be(n int) string {
	if n == 1 {
		return "is"
	}
	return "are"
}

func was(n int, what string) string {
	if n == 1 {
		return "1 " + what + " was"
	}
	return thousands(n) + " " + what + "s were"
}

// own says that the file is a copy of what an earlier run wrote.
func (s summary) own() {
	if s.r.Rulebook != "" {
		s.Line(s.Faint("rulebook: " + s.r.Rulebook))
	}
	for _, note := range s.r.Notes {
		s.WrapHanging("", "", s.Faint(note))
	}
	if n := s.r.Moved; n > 0 {
		s.Line(s.Faint("rows of products stood apart; to bring them together " + plural(n, "row was", "rows were") + " moved, the numbers are those of the file"))
	}
	if s.r.Own != "" {
		s.WrapHanging("", "", fmt.Sprintf("This is our own output, saved again since. What it lost by that is restored from %s.", s.r.Own))
	}
	if s.r.NotRestored != "" {
		s.WrapHanging("", "", s.Open("This looks like our own output, saved again since, but what it lost by that could not be restored: ")+s.r.NotRestored)
	}
}

// rules says how many rows each rule has touched.
func (s summary) rules() {
	if len(s.r.Rows) == 0 {
		return
	}
	s.Head("What the rules did, in rows")
	for _, rows := range s.r.Rows {
		s.WrapHanging(s.Good(fmt.Sprintf("%5s", thousands(rows.Rows)))+"  ", "         ", rows.Rule)
		for i := range s.r.Borrowed {
			if b := &s.r.Borrowed[i]; b.Rule == rows.Rule {
				s.borrowed(b)
			}
		}
	}
}

// borrowed says what came of a loan.
func (s summary) borrowed(b *repair.Borrowed) {
	var parts []string
	say := func(n int, one, many string) {
		if n > 0 {
			parts = append(parts, plural(n, one, many))
		}
	}
	if b.Alike > 0 {
		parts = append(parts, thousands(b.Alike)+" of them by a key that is spelt otherwise")
	}
	say(b.Unmatched, "row is not in it", "rows are not in it")
	say(b.Unasked, "of its rows is not here", "of its rows are not here")
	say(b.Filled, "cell filled", "cells filled")
	say(b.Same, "was the same", "were the same")
	say(b.Kept, "differs and stays", "differ and stay")
	say(b.Twice, "open, because it has several values", "open, because it has several values")
	more := ""
	if parts != nil {
		more = "; " + strings.Join(parts, ", ")
	}
	s.WrapHanging("       ", "         ", fmt.Sprintf("%s: %s matched%s", b.From, plural(b.Matched, "row", "rows"), more))
	for _, t := range b.Taken {
		text := fmt.Sprintf("%s from its column %q, for example %s", t.Name, t.Heading, visible(t.Sample, 40))
		if len(t.Alike) > 0 {
			text += " (not from " + strings.Join(t.Alike, " or ") + ")"
		}
		s.WrapHanging("         ", "           ", s.Faint(text))
	}
	if len(b.Hidden) > 0 {
		s.WrapHanging("         ", "           ", s.Faint("not shown in that workbook: "+strings.Join(b.Hidden, ", ")))
	}
}

func (s summary) trusted() {
	for _, t := range s.r.Trusted {
		note := ""
		if t.Damaged > 0 {
			note = fmt.Sprintf("; %s damaged there too and not believed", plural(t.Damaged, "code is", "codes are"))
		}
		s.Line(s.Faint(fmt.Sprintf("trusted: %s, %s with a whole barcode%s", t.Name, plural(t.Whole, "row", "rows"), note)))
	}
}

// stored says that a workbook still has what it does not show.
func (s summary) stored() {
	for _, m := range s.r.Models {
		if n := m.Model.Stored; n > 0 {
			s.WrapHanging("", "", fmt.Sprintf("Column %s stores %s with all digits, whatever the workbook shows.",
				s.r.Source.Columns.Headings[m.Col], s.Good(plural(int(n), "barcode as a number", "barcodes as numbers"))))
		}
	}
}

func (s summary) repaired() {
	if len(s.r.Report.Repaired) == 0 {
		return
	}
	s.Head("Repaired in the rows that are ready")
	for _, c := range s.r.Report.Repaired {
		e := c.Examples[0]
		s.Linef("%s  %s: %s  %s", s.Good(fmt.Sprintf("%5s", thousands(c.Cells))), proof.Heading(s.r, c.Col), c.Rule.Entry().Title, s.Faint(c.Ground.String()))
		source := ""
		if e.Text != "" {
			source = " (" + e.Text + ")"
		}
		s.WrapHanging("       ", "       ", fmt.Sprintf("row %d: %s → %s%s", e.Row, visible(e.Cell, 40), visible(e.After, 40), source))
	}
}

// open lists what holds rows back, what unlocks most first.
func (s summary) open() {
	var open []line.FindingCount
	for _, f := range s.r.Report.Found {
		if f.Code.Entry().Severity == catalogue.Error {
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
		s.Linef("%s  %s: %s%s  %s", s.Open(fmt.Sprintf("%5s", thousands(f.Cells))), proof.Heading(s.r, f.Col), entry.Title, frees(&f), s.Faint(f.Code.String()))
		e := f.Examples[0]
		s.WrapHanging("       ", "       ", fmt.Sprintf("row %d: %s", e.Row, e.Text))
		s.WrapHanging("       → ", "         ", entry.Do)
		for _, q := range s.r.Questions() {
			if q.Code == f.Code && q.Col == f.Col {
				s.ask(&q)
			}
		}
	}
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
	if q.Code == catalogue.ValueUnlisted {
		what = "value"
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
		if entry.Severity == catalogue.Error {
			continue
		}
		list := rowList(f.Examples)
		if f.Cells > len(f.Examples) {
			list += ", …"
		}
		rows = append(rows, []string{thousands(f.Cells), proof.Heading(s.r, f.Col), entry.Title, entry.Severity.String(), list})
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
		s.WrapHanging("? ", "  ", fmt.Sprintf("%s: %s %s. If yes: add -yes %s", proof.Heading(s.r, q.Col), q.Ask, strings.Join(likely, ", "), yesTo(s.r, &q)))
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

func (s summary) files() {
	switch {
	case s.piped:
		return
	case !s.folder:
		s.Line()
		s.Line("Nothing was written: this was a check.")
		return
	}
	c := s.r.Counts()
	s.Head("Written to " + s.r.Folder)
	for _, e := range s.r.Edited {
		s.WrapHanging("", "", s.Open("Not replaced, because it was edited since: ")+e)
	}
	if s.r.Kept {
		s.WrapHanging("", "", s.Open("The output of an earlier run was kept: ")+"it is of the same file as it was before somebody saved it again, and more of its rows were ready. Name it with -trust to take the lost codes from it.")
	}
	rows := [][]string{
		{"ready.csv", plural(c.Ready+s.r.Report.Added-s.r.Report.Joined, "row", "rows") + " for the importer" + encoded(s.r) + kept(s.r)},
	}
	for _, form := range s.r.Settings.As {
		rows = append(rows, []string{repair.ReadyName(form), formWords[form]})
	}
	if s.r.Settings.Look {
		rows = append(rows, []string{repair.LookName, "the same to look at, not for import"})
	}
	if s.r.Source.Address != "" {
		rows = append(rows, []string{fetch.Prefix + s.r.Source.Name, "the file as it was fetched"})
	}
	rows = append(rows, [][]string{
		{"held.csv", plural(c.Held, "row", "rows") + " held back, with the reason"},
		{"aside.csv", plural(c.Aside, "row", "rows") + " set aside, with the reason"},
		{"review.xlsx", "the same to look at"},
		{"changes.jsonl", plural(c.Changed, "change", "changes") + ", for programs"},
	}...)
	for i := range s.r.Borrowed {
		b := &s.r.Borrowed[i]
		if b.NotIn != "" {
			rows = append(rows, []string{b.NotIn, plural(s.r.Listed(b.NotIn), "row", "rows") + " of this file that " + b.From + " does not have"})
		}
		if b.OnlyIn != "" {
			rows = append(rows, []string{b.OnlyIn, plural(b.Unasked, "row", "rows") + " of " + b.From + " that this file does not have"})
		}
	}
	if n := s.r.Listed(repair.UnknownName); n > 0 {
		rows = append(rows, []string{repair.UnknownName, plural(n, "cell", "cells") + " with what the lists of the rulebook do not have"})
	}
	if n := s.r.Listed(repair.LostName); n > 0 {
		rows = append(rows, []string{repair.LostName, plural(n, "barcode", "barcodes") + " to ask the supplier for; the answer goes into -trust"})
	}
	if n := s.r.Listed(repair.MissingName); n > 0 {
		rows = append(rows, []string{repair.ScanName, plural(n, "product", "products") + " without a barcode, to scan into; then name it with -trust"})
	}
	s.Table(&terminal.Table{Rows: rows})
	s.WrapHanging("", "", s.Bold("Do not open ready.csv in a spreadsheet program")+": opening and saving it there is how barcodes get lost. Look at review.xlsx.")
}

// formWords say what the forms are in which what is ready is written.
var formWords = map[string]string{
	"tsv": "the same with tabs between the cells", "xlsx": "the same as a workbook, all cells as text",
	"ods": "the same as an OpenDocument spreadsheet, all cells as text", "jsonl": "the same as JSON Lines, all cells as text",
}

// encoded says in which encoding the file for the importer is, if not in UTF-8.
func encoded(r *repair.Result) string {
	if c := r.Settings.Book.Target.Charset(); c != charset.UTF8 {
		return ", in " + c.String()
	}
	return ""
}

// visible shortens a cell and shows what cannot be seen in it.
func visible(cell string, n int) string {
	if cell == "" {
		return "(empty)"
	}
	return catalogue.Shorten(text.Visible(cell), n)
}

func thousands(n int) string { return catalogue.Thousands(uint64(n)) }

func fileSize(n int64) string {
	switch {
	case n < 1<<10:
		return fmt.Sprintf("%d bytes", n)
	case n < 1<<20:
		return fmt.Sprintf("%.1f KB", float64(n)/(1<<10))
	}
	return fmt.Sprintf("%.1f MB", float64(n)/(1<<20))
}
