package cli

import (
	"fmt"
	"path/filepath"

	"zetanum/core/catalogue"
	"zetanum/core/folder"
	"zetanum/core/line"
	"zetanum/core/repair"
	"zetanum/core/target"
	"zetanum/internal/terminal"
)

// beside says which other tables in the folder of a file have what is open or missing in it. Nothing is
// taken from them without being told to. It
// reports whether there is one.
func beside(p *terminal.Printer, r *repair.Result, lacking []line.Lack) (some bool) {
	if len(lacking) == 0 {
		return false
	}
	temp, err := folder.NewTemp()
	if err != nil {
		return false
	}
	defer temp.Remove()
	for _, b := range r.LookBeside(lacking, temp.Dir) {
		heading := r.Source.Columns.Headings[b.Col]
		what, order := "whole codes", "-trust "+quoted(b.Path)
		if r.Source.Columns.Fields[b.Col] != catalogue.Barcode {
			what, order = heading, "-borrow "+quoted(b.Path)+" -by sku -take "+quoted(heading)
		}
		p.WrapHanging("", "  ", fmt.Sprintf("%s, beside it, has %s for %s of these %s:", filepath.Base(b.Path), what,
			p.Good(thousands(b.Has)), plural(b.Of, "SKU", "SKUs")))
		p.Line("  add ", p.Bold(order))
		some = true
	}
	return some
}

// formBeside says which template in the folder of a file has its headings.
func formBeside(p *terminal.Printer, r *repair.Result) {
	temp, err := folder.NewTemp()
	if err != nil {
		return
	}
	defer temp.Remove()
	switch path := r.FormBeside(temp.Dir); path {
	case "":
	case target.Self:
		p.WrapHanging("", "  ", "It is a form that is filled in, and says itself what must be filled and what it takes:")
		p.Line("  add ", p.Bold("-template "+target.Self))
	default:
		p.WrapHanging("", "  ", filepath.Base(path)+", beside it, is the form of this file, and says what must be filled and what it takes:")
		p.Line("  add ", p.Bold("-template "+quoted(path)))
	}
}
