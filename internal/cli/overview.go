package cli

import (
	"fmt"
	"path/filepath"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/line"
	"zetanum/core/repair"
	"zetanum/internal/terminal"
)

// screenLines is how many lines of a screen of 24 are taken, besides the command before and the one behind.
const screenLines = 22

// overview says the most important of a file on one screen: what it is, how much of it is ready, what holds the rest and what a repair would do.
func (o *inspectCommand) overview(s *session, file string) error {
	opt, err := o.options(s, file, "")
	if err != nil {
		return err
	}
	var r *repair.Result
	var found []repair.Beside
	why, err := s.follow(&opt, false, func() (err error) {
		if r, err = repair.Run(s.ctx, opt); err == nil {
			found = lookBeside(r, r.Report.Lacking)
		}
		return err
	})
	if err != nil {
		return err
	}
	r.NotFollowed = why
	v := overview{r: r, beside: found, offers: s.offers}
	s.suggest(o.repairs(file, opt.Sheet))
	if file != "-" && (r.Report.Held > 0 || v.orders() > 0 || len(found) > 0) {
		s.suggest("zetanum begin -ask", strings.Join(o.source(file, opt.Sheet), " "))
	}
	s.printer().FitIn(screenLines-3, 8, v.print)
	return nil
}

// An overview is what is said of a file on one screen.
type overview struct {
	r      *repair.Result
	beside []repair.Beside
	offers bool // in a window of its own, where no command is typed
}

// orders returns how many kinds of things were found that an order would mend.
func (v *overview) orders() (n int) {
	for i := range v.r.Report.Found {
		if f := &v.r.Report.Found[i]; f.Code.Entry().Order != "" && f.Open() > 0 {
			n++
		}
	}
	return n
}

// print prints it; level by level less.
func (v overview) print(p *terminal.Printer, level int) (besides int) {
	most := 6 - level/2 // of each list
	r, c := v.r, v.r.Counts()
	src := &r.Source
	p.Line(p.Bold(src.Name), "  ", p.Faint(p.Cut(fmt.Sprintf("%s, %s, %s", fileSize(src.Size), headingsIn(src), src.Kind), len(src.Name)+2)))
	switch {
	case src.Doubt != "":
		p.WrapHanging("", "  ", p.Open(terminal.Typed(src.Doubt)))
	case len(src.Others) > 0:
		p.Line(p.Faint(p.Cut("other sheets, not read: "+strings.Join(src.Others, ", ")+" (-sheet NAME reads one)", 0)))
	case len(src.Beside) > 0:
		p.Line(p.Faint(p.Cut("other files in the archive, not read: "+strings.Join(src.Beside, ", ")+" (-member NAME reads one)", 0)))
	}
	if r.NotFollowed != "" {
		p.WrapHanging("", "  ", p.Open(r.NotFollowed))
	} else if r.Rulebook != "" {
		p.Line(p.Faint(p.Cut("by the rulebook "+r.Rulebook, 0)))
	}
	p.Line()
	says := fmt.Sprintf("%s, %s, %s: ", plural(c.Read, "row", "rows"), plural(c.Products, "product", "products"), plural(src.Columns.Own(), "column", "columns"))
	parts := []string{p.Good(thousands(c.Ready) + " ready to import")}
	if c.Held > 0 {
		parts = append(parts, p.Open(thousands(c.Held)+" held"))
	}
	if c.Aside > 0 {
		parts = append(parts, thousands(c.Aside)+" set aside")
	}
	p.Wrap("", says+strings.Join(parts, ", ")+".")
	held := r.Holding()
	if len(held) > 0 {
		p.Head("What holds rows back, and how many")
		for i := range held[:min(most, len(held))] {
			f := &held[i]
			line := fmt.Sprintf("%s: %s", r.Heading(f.Col), f.Code.Entry().Title)
			if f.Unlocks < f.Holds && f.Unlocks > 0 {
				line += fmt.Sprintf(" (alone %s of them)", thousands(f.Unlocks))
			}
			p.Line(p.Open(fmt.Sprintf("%5s", thousands(f.Holds))), "  ", p.Cut(line, 7))
		}
		v.more(p, len(held)-most)
	}
	for _, b := range v.beside {
		what := "whole codes"
		if src.Columns.Fields[b.Col] != catalogue.Barcode {
			what = src.Columns.Headings[b.Col]
		}
		p.WrapHanging("", "  ", fmt.Sprintf("%s, beside it, has %s for %s of these %s.", filepath.Base(b.Path), what, p.Good(thousands(b.Has)), plural(b.Of, "SKU", "SKUs")))
	}
	repaired := slices.Clone(r.Report.Repaired)
	slices.SortStableFunc(repaired, func(a, b line.RepairCount) int { return b.Cells - a.Cells })
	if most = 4 - level/2; len(repaired) > 0 && most > 0 {
		p.Head("What a repair mends in the others")
		for i := range repaired[:min(most, len(repaired))] {
			e := &repaired[i]
			line := fmt.Sprintf("%s: %s", r.Heading(e.Col), e.Rule.Entry().Title)
			p.Line(p.Good(fmt.Sprintf("%5s", thousands(e.Cells))), "  ", p.Cut(line, 7))
			if i < 2-level {
				cell, after := fromDifference(e.Examples[0].Cell, e.Examples[0].After)
				p.Line("       ", p.Faint(p.Cut(fmt.Sprintf("row %d: %s → %s", e.Examples[0].Row, visible(cell, 28), visible(after, 28)), 7)))
			}
		}
		v.more(p, len(repaired)-most)
	}
	noticed := 0
	for i := range r.Report.Found {
		if f := &r.Report.Found[i]; f.Holds == 0 {
			noticed++
		}
	}
	if noticed > 0 {
		text := fmt.Sprintf("Noticed besides: %s", plural(noticed, "kind of thing", "kinds of things"))
		if n := v.orders(); n > 0 {
			text += fmt.Sprintf(", %s of which can be put in order", thousands(n))
		}
		p.Line(p.Faint(p.Cut(text+".", 0)))
	}
	if !v.offers {
		p.Line(p.Faint("The columns: -all. All that was found: zetanum check."))
	}
	return 0
}

func (*overview) more(p *terminal.Printer, n int) {
	if n > 0 {
		p.Line("       ", p.Faint(plural(n, "more kind", "more kinds")))
	}
}

// headingsIn says where the headings are.
func headingsIn(src *repair.Source) string {
	switch {
	case src.Heading == 0:
		return "no headings"
	case src.Rows > 1:
		return fmt.Sprintf("headings in rows %d and %d, put together", src.Heading-1, src.Heading)
	}
	return fmt.Sprintf("headings in row %d", src.Heading)
}
