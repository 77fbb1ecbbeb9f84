package cli

import (
	"fmt"
	"math"
	"path/filepath"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/charset"
	"zetanum/core/export"
	"zetanum/core/fetch"
	"zetanum/core/line"
	"zetanum/core/repair"
	"zetanum/core/returned"
	"zetanum/core/sections"
	"zetanum/core/steps"
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
	all    bool // nothing is left out
	beside []repair.Beside
	form   string   // that lies beside it
	notes  []string // about the file, with what to type
	detail
}

// A detail is how much of each part of a summary is shown.
type detail struct {
	answered int // of what is open, with what to do about it
	open     int
	examples int // of what is repaired, with an example
	repaired int
	noticed  int
}

// details are tried until a screen holds the whole.
var details = []detail{{4, 16, 8, 8, 12}, {3, 12, 4, 8, 8}, {2, 10, 3, 6, 6}, {2, 8, 2, 6, 4}, {1, 8, 2, 6, 4}, {1, 7, 2, 5, 0}, {1, 6, 1, 5, 0},
	{1, 5, 1, 4, 0}}

// nextLines is how many lines the next command takes below it.
const nextLines = 3

// everything is shown where nothing is left out.
const everything = math.MaxInt

// print writes the summary so that a screen holds it, if all of it is not wanted.
func (s summary) print(p *terminal.Printer) {
	s.beside, s.form = lookBeside(s.r, s.r.Report.Lacking), lookForForm(s.r)
	for _, note := range s.r.Notes {
		s.notes = append(s.notes, terminal.Typed(note))
	}
	if s.all {
		s.Printer, s.detail = p, detail{everything, everything, everything, everything, everything}
		s.parts()
		return
	}
	p.Fit(len(details), func(p *terminal.Printer, level int) (besides int) {
		s.Printer, s.detail = p, details[level]
		s.parts()
		if s.small() { // its rows are shown
			return s.r.Counts().Read - nextLines
		}
		return -nextLines
	})
}

func (s summary) parts() {
	s.source()
	s.verdict()
	s.own()
	s.trusted()
	s.stored()
	s.rules()
	s.attributes()
	s.repaired()
	s.ready()
	s.open()
	s.targets()
	beside(s.Printer, s.r, s.beside)
	formBeside(s.Printer, s.form)
	s.update()
	s.noticed()
	s.proposed()
	s.files()
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
		repaired := was(c.Repaired, "cell") + " repaired"
		if c.Changed == 0 {
			repaired = "nothing had to be repaired"
		}
		sentence = s.Good(fmt.Sprintf("%s of %s %s ready to import, the others are set aside; %s.", thousands(c.Ready), plural(c.Read, "row", "rows"), be(c.Ready), repaired))
	case c.Held == 0 && c.Changed == 0:
		sentence = s.Good(fmt.Sprintf("%s ready to import, and nothing had to be repaired.", allRows(c.Ready)))
	case c.Held == 0:
		sentence = s.Good(fmt.Sprintf("%s ready to import; %s repaired.", allRows(c.Ready), was(c.Repaired, "cell")))
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
		s.Linef("written %s = ready %s + added %s − joined %s", thousands(c.Ready+r.Added-r.Joined), thousands(c.Ready), thousands(r.Added),
			thousands(r.Joined))
	}
	if r := s.r.Report; r.Products > 0 {
		s.Line(s.Faint(fmt.Sprintf("%s, %s of them held%s", plural(r.Products, "product", "products"), thousands(r.HeldProducts),
			rowsOf(s.r, r.Products))))
		s.unseen()
	}
}

// mostUnseen is how many columns are named that are not looked at.
const mostUnseen = 6

// unseen says what is not looked at in this file.
func (s summary) unseen() {
	columns := &s.r.Source.Columns
	var parts, names []string
	if columns.First(catalogue.Images) >= 0 {
		parts = append(parts, "whether pictures can be fetched (zetanum links opens them)")
	}
	for col, h := range columns.Headings[:columns.Own()] {
		if columns.Fields[col] == catalogue.Unknown && columns.Kind(col) == catalogue.AnyKind && strings.TrimSpace(h) != "" {
			names = append(names, h)
		}
	}
	if n := len(names); n > mostUnseen && !s.all {
		names = append(names[:mostUnseen], plural(n-mostUnseen, "more", "more"))
	}
	if names != nil {
		parts = append(parts, "what stands in "+strings.Join(names, ", ")+", whose meaning is not known")
	}
	if parts != nil {
		s.WrapHanging("", "  ", s.Faint("not looked at: "+strings.Join(parts, "; ")))
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
	if s.r.NotFollowed != "" {
		s.WrapHanging("", "  ", s.Open(s.r.NotFollowed))
	}
	if s.r.Rulebook != "" {
		s.Line(s.Faint("rulebook: " + s.r.Rulebook))
	}
	if r := s.r.Register; r != nil {
		text := "register: " + r.At
		if r.Noted > 0 {
			text += ", which remembers " + plural(r.Noted, "barcode", "barcodes") + " more"
		}
		s.Line(s.Faint(text))
	}
	if said := s.r.Said(); len(said) > 0 {
		text := "answered: " + answers(said)
		if s.r.Remembered != "" {
			text += "; remembered in " + s.r.Remembered
		}
		s.WrapHanging("", "  ", s.Faint(text))
	}
	s.set()
	for _, note := range s.notes {
		s.WrapHanging("", "", s.Faint(note))
	}
	if n := s.r.Moved; n > 0 {
		s.Line(s.Faint("rows of products stood apart; to bring them together " + plural(n, "row was", "rows were") +
			" moved, the numbers are those of the file"))
	}
	s.cameBack()
	if s.r.Own != "" {
		s.WrapHanging("", "", fmt.Sprintf("This is our own output, saved again since. What it lost by that is restored from %s.", s.r.Own))
	}
	if s.r.NotRestored != "" {
		s.WrapHanging("", "", s.Open("This looks like our own output, saved again since, but what it lost by that could not be restored: ")+
			terminal.Typed(s.r.NotRestored))
	}
}

// set shows the lines that would keep what was set besides the rulebook.
func (s summary) set() {
	switch {
	case s.r.Set == nil:
	case s.r.Remembered != "":
		s.Line(s.Faint("what was set is kept in " + s.r.Remembered))
	default:
		s.Line("These lines in a rulebook keep what was set (-remember writes them there):")
		for line := range strings.Lines(sections.Lines(s.r.Set)) {
			s.Line("  ", strings.TrimRight(line, "\n"))
		}
	}
}

// cameBack says what came of tables in which people have worked.
func (s summary) cameBack() {
	if r := s.r.Returned; r != nil {
		set := &s.r.Settings
		s.said(r)
		if n := r.Cells(); n == 0 && !r.Shop {
			s.WrapHanging("", "  ", s.Open("Nothing is mended in "+set.Returned[len(set.Returned)-1]+": all that it says stands in the source, too."))
		} else if n > 0 {
			s.WrapHanging("", "  ", s.Good(fmt.Sprintf("%s that %s mended in %s: put together with %s.", plural(n, "cell", "cells"), be(n),
				set.Returned[len(set.Returned)-1], set.With)))
		}
		if r.Spoilt > 0 {
			s.WrapHanging("", "  ", s.Faint(plural(r.Spoilt, "cell", "cells")+" that only a spreadsheet program has changed stay as they were"))
		}
		for _, m := range r.Missing {
			s.WrapHanging("", "  ", s.Open("not in the source: ")+m)
		}
	}
	if dir := s.r.CameBack; dir != "" {
		s.WrapHanging("", "  ", "This file has the columns of a table of ours for people; the row and the reason do not go out. To "+
			"put it together with the rows that are ready:")
		s.Line("  ", s.Bold("zetanum repair "+quoted(s.r.Source.Path)+" -with "+quoted(dir)))
	}
}

// said says what the shop has said of the rows that it was given.
func (s summary) said(r *returned.Rows) {
	var count [4]int
	for _, n := range r.Told() {
		count[r.Said(n).Outcome]++
	}
	if r.Shop || len(r.Told()) > 0 {
		s.WrapHanging("", "  ", fmt.Sprintf("The shop took %s, passed over %s and refused %s.", plural(count[returned.Taken], "row", "rows"),
			thousands(count[returned.Skipped]), s.Open(thousands(count[returned.Refused]))))
	}
}

// mostRules is up to how many rules each is named. Of more, those that touched no row are counted.
const mostRules = 30

// rules says how many rows each rule has touched.
func (s summary) rules() {
	if len(s.r.Rows) == 0 {
		return
	}
	s.Head("What the rules did, in rows")
	named, idle, left := 0, 0, 0
	for _, rows := range s.r.Rows {
		if len(s.r.Rows) > mostRules && !s.all {
			if rows.Rows == 0 {
				idle++
				continue
			}
			if named == mostRules {
				left++
				continue
			}
		}
		named++
		s.WrapHanging(s.Good(fmt.Sprintf("%5s", thousands(rows.Rows)))+"  ", "         ", rows.Rule)
		for i := range s.r.Borrowed {
			if b := &s.r.Borrowed[i]; b.Rule == rows.Rule {
				s.borrowed(b)
			}
		}
		for i := range s.r.Minted {
			if m := &s.r.Minted[i]; m.Rule == rows.Rule && m.Issued+m.Known > 0 {
				s.minted(m)
			}
		}
		s.reckoned(rows.Rule)
	}
	if idle > 0 {
		s.Line("    0  " + plural(idle, "rule that touched no row", "rules that touched no row"))
	}
	if idle+left > 0 {
		s.more(plural(idle+left, "more rule", "more rules"))
	}
}

// reckoned shows one row of a rule by which amounts are reckoned from others: 4.00, plus 15 % = 4.60.
func (s summary) reckoned(rule string) {
	columns := &s.r.Source.Columns
	for i := range s.r.Report.Repaired {
		c := &s.r.Report.Repaired[i]
		if c.Rule != catalogue.RuleAmount || c.Col < 0 || !strings.HasPrefix(rule, columns.Name(c.Col)+" from ") {
			continue
		}
		for _, e := range c.Examples {
			if e.Text != "" && e.After != "" {
				s.WrapHanging("       ", "         ", s.Faint(fmt.Sprintf("row %d: %s = %s", e.Row, strings.Replace(e.Text, ": ", ", ", 1), e.After)))
				return
			}
		}
	}
}

// attributes says how full the columns are by which buyers search.
func (s summary) attributes() { printAttributes(s.Printer, s.r.Attributes, len(s.r.Rows) > 0) }

// printAttributes says how full attributes are, unless all of them are full; after says that it comes behind a list.
func printAttributes(p *terminal.Printer, list []repair.Attribute, after bool) {
	var parts []string
	full := 0
	for _, a := range list {
		if a.Of == 0 {
			continue
		}
		share := 100 * a.Filled / a.Of
		if a.Filled == a.Of {
			full++
		} else if share == 0 && a.Filled > 0 {
			share = 1
		}
		parts = append(parts, fmt.Sprintf("%s %d %%", catalogue.Shorten(a.Column, 28), share))
	}
	if len(parts) > full {
		if after {
			p.Line()
		}
		p.WrapHanging("", "  ", "What buyers search by, filled: "+strings.Join(parts, ", "))
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
	s.WrapHanging("       ", "         ", fmt.Sprintf("%s: %s matched%s%s", b.From, plural(b.Matched, "row", "rows"), more, until(b.Until)))
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

// codesShown is how many of the codes of a rule are shown.
const codesShown = 3

// minted says which codes were made, and how many are left.
func (s summary) minted(m *steps.Minted) {
	shown := codesShown
	if s.r.Settings.CodesOnly {
		shown = len(m.Codes)
	}
	text := plural(m.Issued+m.Known, "code", "codes") + ": " + strings.Join(m.Codes[:min(shown, len(m.Codes))], ", ")
	if m.Issued+m.Known > min(shown, len(m.Codes)) {
		text += ", …"
	}
	if m.Known > 0 {
		text += "; " + plural(m.Known, "is", "are") + " what the register has for the product"
	}
	if m.Avoided > 0 {
		text += "; " + plural(m.Avoided, "other was", "others were") + " passed over, because there is such a code already"
	}
	s.WrapHanging("       ", "         ", s.Faint(text))
	if s.r.Settings.CodesOnly && m.Most > 0 && m.Most < math.MaxUint64 {
		s.Line("       " + s.Faint(catalogue.Thousands(m.Most)+" can be made for one beginning"))
	}
	for _, scarce := range m.Scarce {
		s.WrapHanging("       ", "         ", s.Open(fmt.Sprintf("of %s, %s of %s are used", scarce.Draft, catalogue.Thousands(scarce.Used),
			catalogue.Thousands(scarce.Most))))
	}
}

// until says that a sheet has another table from a row on, if it has.
func until(row int) string {
	if row == 0 {
		return ""
	}
	return fmt.Sprintf("; read up to row %s, where another table begins", catalogue.Thousands(uint64(row)))
}

func (s summary) trusted() {
	for _, t := range s.r.Trusted {
		note := ""
		if t.Restored > 0 {
			note = fmt.Sprintf(", %s of them restored there", thousands(t.Restored))
		}
		if t.Damaged > 0 {
			note += fmt.Sprintf("; %s damaged there too and not believed", plural(t.Damaged, "code is", "codes are"))
		}
		s.WrapHanging("", "  ", s.Faint(fmt.Sprintf("trusted: %s, %s with a whole barcode%s%s", t.Name, plural(t.Whole, "row", "rows"), note, until(t.Until))))
	}
	if n := len(s.r.Trusted); n > 0 && s.r.Source.Columns.First(catalogue.Barcode) < 0 && len(s.r.Borrowed) == 0 {
		by := "sku"
		if s.r.Source.Columns.First(catalogue.SKU) < 0 {
			by = "title"
		}
		s.WrapHanging("", "  ", fmt.Sprintf("This file has no column of barcodes, so that none can come back; this brings them in: %s",
			s.Bold("-borrow "+quoted(s.r.Trusted[n-1].Path)+" -by "+by+" -take barcode")))
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
	repaired := slices.Clone(s.r.Report.Repaired)
	slices.SortStableFunc(repaired, func(a, b line.RepairCount) int { return b.Cells - a.Cells })
	shown := min(len(repaired), s.detail.repaired)
	for i, c := range repaired[:shown] {
		s.Linef("%s  %s: %s  %s", s.Good(fmt.Sprintf("%5s", thousands(c.Cells))), s.r.Heading(c.Col), c.Rule.Entry().Title,
			s.Faint(c.Ground.String()))
		if i >= s.examples {
			continue
		}
		e, source := c.Examples[0], ""
		if e.Text != "" {
			source = " (" + e.Text + ")"
		}
		s.WrapHanging("       ", "       ", fmt.Sprintf("row %d: %s → %s%s", e.Row, visible(e.Cell, 40), visible(e.After, 40), source))
	}
	switch {
	case shown < len(repaired):
		s.more(plural(len(repaired)-shown, "more kind", "more kinds"))
	case s.examples < len(repaired):
		s.more("more examples")
	}
}

// small reports whether what is ready is shown whole.
func (s summary) small() bool { return s.r.Counts().Read <= mostRowsShown && !s.r.Settings.Plain }

// ready shows what is ready of a small file.
func (s summary) ready() {
	if !s.small() {
		return
	}
	if columns, rows, err := s.r.Ready(); err == nil {
		showRows(s.Printer, "Ready, under what the columns mean", &columns, rows, nil)
	}
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
	for _, e := range s.r.Open {
		s.WrapHanging("", "", s.Open("Not replaced, because another program has it open: ")+e+". Close it there, and the next run replaces it.")
	}
	if n := len(s.r.Others); n > 0 && s.r.Settings.With == "" {
		s.WrapHanging("", "", "The name has a number because "+s.r.Others[0]+" is the output of another file, or of mended rows, and stays.")
	}
	if s.r.Kept {
		s.WrapHanging("", "", s.Open("The output of an earlier run was kept: ")+
			"it is of the same file as it was before somebody saved it again, and more of its rows were ready. Name it with -trust to "+
			"take the lost codes from it.")
	}
	ready := plural(c.Ready+s.r.Report.Added-s.r.Report.Joined, "row", "rows")
	rows := [][]string{{"ready.csv", ready + " for the importer" + encoded(s.r) + kept(s.r)}}
	if parts := s.r.Parts; parts != nil {
		last := parts[len(parts)-1]
		rows[0][1] = ready + " in one file, all together"
		switch {
		case export.OnlyParts(parts):
			rows[0] = []string{parts[0].Name + " …", fmt.Sprintf("%s in %s for the importer, one after the other: the first has %s, %s %s", ready, plural(len(parts), "file", "files"),
				thousands(parts[0].Rows), last.Name, thousands(last.Rows))}
		case len(parts) <= mostParts:
			for _, p := range parts {
				rows = append(rows, []string{p.Name, plural(p.Rows, "row", "rows") + s.saysInto(p.Into)})
			}
		default:
			rows = append(rows, []string{parts[0].Name + " …", fmt.Sprintf("%s for the importer, one after the other: the first has %s, %s %s", plural(len(parts), "file", "files"), plural(parts[0].Rows, "row", "rows"),
				last.Name, thousands(last.Rows))})
		}
	}
	for _, form := range s.r.Settings.As {
		if s.r.Parts != nil {
			rows = append(rows, []string{strings.TrimSuffix(s.r.Parts[0].Name, ".csv") + "." + form + " …", formSays(s.r, form)})
			continue
		}
		rows = append(rows, []string{export.Name(form), formSays(s.r, form)})
	}
	rows = append(rows, s.targetFiles()...)
	if s.r.Settings.Look {
		rows = append(rows, []string{export.LookName, "the same to look at, not for import"})
	}
	if s.r.PricesDrawn {
		rows = append(rows, []string{proof.PricesPNG, "the prices by category, drawn, and in " + proof.PricesSVG})
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
	if n := s.r.Report.Long; n > 0 {
		rows = append(rows, []string{line.LongName, plural(n, "long text", "long texts") + " as they were, whole"})
	}
	if p := s.r.Samples; p != nil {
		rows = append(rows, []string{proof.PageName, fmt.Sprintf("%s of %s that differ, to look at in a browser", plural(len(p.Products), "product", "products"), thousands(p.Of))})
	}
	for i := range s.r.Borrowed {
		b := &s.r.Borrowed[i]
		if b.NotIn != "" {
			rows = append(rows, []string{b.NotIn, plural(s.r.Listed(b.NotIn), "row", "rows") + " of this file that " + b.From +
				" does not have"})
		}
		if b.OnlyIn != "" {
			rows = append(rows, []string{b.OnlyIn, plural(b.Unasked, "row", "rows") + " of " + b.From + " that this file does not have"})
		}
	}
	if p := s.r.Prepared; p != nil && p.Photos > 0 {
		rows = append(rows, []string{p.Folder + "/", plural(p.Photos, "photo", "photos") + " to put on the web before the import"})
	}
	for _, list := range listsBeside {
		if n := s.r.Listed(list.name); n > 0 {
			rows = append(rows, []string{list.name, plural(n, list.one, list.many) + list.says})
		}
	}
	if n := s.r.Listed(steps.ToFillName); n > 0 {
		rows = append(rows, []string{steps.ToFillBook, plural(n, "row", "rows") + " in which something required is missing, to fill in; it comes back with -with"})
	}
	if n := s.r.Listed(sections.MissingName); n > 0 {
		then := "then name it with -trust"
		if s.r.Source.Columns.First(catalogue.Barcode) < 0 {
			then = "it comes back with -borrow"
		}
		rows = append(rows, []string{sections.ScanName, plural(n, "product", "products") + " without a barcode, to scan into; " + then})
	}
	if n := s.r.Returned.Len(); s.r.Settings.With != "" {
		rows = append(rows, []string{repair.MendedName, plural(n, "row", "rows") + " that people have mended, for further runs"})
	}
	for _, table := range s.r.Shop {
		rows = append(rows, []string{table.Name, shopWords[table.Name] + ": " + plural(table.Rows, "row", "rows")})
	}
	s.List(rows)
	if c.Held > 0 {
		s.Line("What is held can be mended in a copy of held.csv, in any program; then:")
		s.Line("  ", s.Bold("zetanum repair COPY -with "+quoted(s.r.Folder)))
	}
	s.rehearsal(c.Ready)
	name := line.FileNames[0]
	if export.OnlyParts(s.r.Parts) {
		name = s.r.Parts[0].Name
	}
	s.WrapHanging("", "", s.Bold("Do not open "+name+" in a spreadsheet program")+
		": opening and saving it there is how barcodes get lost. Look at review.xlsx.")
}

// rehearsal names the command that says what the import will do, where it is known what that goes by.
func (s summary) rehearsal(ready int) {
	book := &s.r.Settings.Book
	if ready == 0 || book.Form == nil && book.Shop.Export == "" || len(s.r.Settings.Only) > 0 {
		return
	}
	words := rehearses(s.r, filepath.Join(s.r.Folder, line.FileNames[0]))
	if book.Shop.Export == "" {
		words = append(words, "-present EXPORT")
	}
	s.Line("What the import will do, beside what the shop has:")
	s.Line("  ", s.Bold(strings.Join(words, " ")))
}

// rehearses returns the words of the command that plays the import of what is ready through.
func rehearses(r *repair.Result, ready string) []string {
	words, form := []string{"zetanum rehearse", quoted(ready)}, r.Settings.Book.Form
	switch {
	case r.Rulebook != "":
		words = append(words, "-rules", quoted(r.Rulebook))
	case form != nil && !form.Own:
		words = append(words, "-template", quoted(form.Path))
	}
	return words
}

// listsBeside are the lists that may lie beside what is ready, and what they say.
var listsBeside = []struct{ name, one, many, says string }{
	{steps.ToCheckName, "line", "lines", " about prices, stocks, weights and dates: all that is to be looked at"},
	{sections.SupplierCodesName, "code", "codes", " with those of the suppliers, not for the importer"},
	{sections.RenewedName, "code", "codes", " that were replaced, each with the new one"},
	{sections.UnknownName, "cell", "cells", " that the lists and rules of the rulebook do not settle"},
	{sections.UnmappedName, "category", "categories", " that the list does not have, to be filled in and used as that"},
	{sections.LinksName, "address", "addresses", " in descriptions: what has to be there before the import"},
	{sections.WithoutPhotoName, "product", "products", " of which there is no photo"},
	{sections.UnusedPhotosName, "file", "files", " of the folder that no product is called like"},
	{sections.SeveralPhotosName, "file", "files", " that fit several products, and were given to none"},
	{sections.MissingAddressesName, "file", "files", " that products need, and that have no address"},
	{sections.UnusedAddressesName, "address", "addresses", " that no product has"},
	{sections.ToUploadName, "address", "addresses", " that have to be there before the import, each with its products"},
	{sections.DifferName, "cell", "cells", " that say something else of a product than its lead row, side by side"},
	{sections.AnsweredName, "cell", "cells", " that went out open or empty, as was answered"},
	{sections.NowhereName, "product", "products", " that go to none of the templates"},
	{sections.LostName, "barcode", "barcodes", " to ask the supplier for; the answer goes into -trust"},
}

// shopWords say what the tables are of what the shop has said.
var shopWords = map[string]string{
	repair.ShopName: "what the shop has said, for further runs", repair.ShopSkippedName: "what it passed over",
	repair.ShopRemarksName: "what it says of what it took", repair.ShopPicturesName: "what it says of pictures",
}

// mostParts is how many files are named into which what is ready was cut.
const mostParts = 8

// saysInto says what the products of a file have in common.
func (s *summary) saysInto(into string) string {
	if into == "" {
		return " for the importer"
	}
	by := s.r.Settings.Book.Target.By
	nothing := " with nothing under " + by
	if s.r.Settings.Book.Target.Split == "" {
		if into == steps.IntoOther {
			return nothing
		}
		return ": " + into
	}
	what, value, _ := strings.Cut(into, " ")
	says := " of products that the shop has"
	if what == steps.IntoNew {
		says = " of products that the shop does not have"
	}
	switch value {
	case "":
	case steps.IntoOther:
		says += nothing
	default:
		says += ": " + value
	}
	return says
}

// formSays says what a form is in which what is ready is written.
func formSays(r *repair.Result, form string) string {
	t := r.Settings.Book.Form
	switch {
	case t == nil || export.FormOf(t) != form:
		return formWords[form]
	case t.Kind == "xls":
		return "the form with them, as a workbook of the newer kind, all cells as text"
	case t.Kind == "xlsm":
		return "the form with them; all else in it is as it was, its macros too"
	}
	return "the form with them; all else in it is as it was"
}

// formWords say what the forms are in which what is ready is written.
var formWords = map[string]string{
	"tsv": "the same with tabs between the cells", "xlsx": "the same as a workbook, all cells as text",
	"xls": "the same as an old binary workbook, all cells as text", "ods": "the same as an OpenDocument spreadsheet, all cells as text", "jsonl": "the same as JSON Lines, all cells as text",
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
