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

// lookBeside looks which other tables in the folder of a file have what is open or missing in it.
func lookBeside(r *repair.Result, lacking []line.Lack) []repair.Beside {
	if len(lacking) == 0 {
		return nil
	}
	temp, err := folder.NewTemp()
	if err != nil {
		return nil
	}
	defer temp.Remove()
	return r.LookBeside(lacking, temp.Dir)
}

// beside says which other tables have what is open or missing. Nothing is taken from them without being told to.
func beside(p *terminal.Printer, r *repair.Result, found []repair.Beside) {
	for _, b := range found {
		heading := r.Source.Columns.Headings[b.Col]
		what, order := "whole codes", "-trust "+quoted(b.Path)
		if r.Source.Columns.Fields[b.Col] != catalogue.Barcode {
			what, order = heading, "-borrow "+quoted(b.Path)+" -by sku -take "+quoted(heading)
		}
		p.WrapHanging("", "  ", fmt.Sprintf("%s, beside it, has %s for %s of these %s:", filepath.Base(b.Path), what,
			p.Good(thousands(b.Has)), plural(b.Of, "SKU", "SKUs")))
		p.Line("  add ", p.Bold(order))
	}
}

// lookForForm returns which template in the folder of a file has its headings; see [repair.Result.FormBeside].
func lookForForm(r *repair.Result) string {
	temp, err := folder.NewTemp()
	if err != nil {
		return ""
	}
	defer temp.Remove()
	return r.FormBeside(temp.Dir)
}

// formBeside says that a template has the headings of a file.
func formBeside(p *terminal.Printer, path string) {
	switch path {
	case "":
	case target.Self:
		p.WrapHanging("", "  ", "It is a form that is filled in, and says itself what must be filled and what it takes:")
		p.Line("  add ", p.Bold("-template "+target.Self))
	default:
		p.WrapHanging("", "  ", filepath.Base(path)+", beside it, is the form of this file, and says what must be filled and what it takes:")
		p.Line("  add ", p.Bold("-template "+quoted(path)))
	}
}
