package cli

import (
	"errors"
	"flag"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"zetanum/core/asking"
	"zetanum/core/folder"
	"zetanum/core/reference"
	"zetanum/core/repair"
	"zetanum/core/rulebook"
	"zetanum/core/sections"
	"zetanum/core/sheet"
	"zetanum/core/template"
	"zetanum/internal/terminal"
)

type beginCommand struct {
	sourceFlags
	out      string
	from     string
	template string
	done     string
	present  string
	ask      bool
}

func (*beginCommand) about() about {
	return about{
		name: "begin", args: "[FILE]",
		short: "write a rulebook to start from",
		long: "Looks at a file and writes a rulebook for it, zetanum.toml beside the file: the headings that are not recognised, and " +
			"the orders that make sense for what was found. " +
			"Each of them is a comment, because it is a judgement: as it stands the rulebook changes nothing, and meets a file with " +
			"other headings with what differs. With -from it learns from a good export of the shop, too: which brands and categories " +
			"there are and how they are spelt, and how prices, dates, tags, yes and no are written; then FILE may be left out. " +
			"With -template it says what of the file fills which column of an import template; what is sure is no comment then. " +
			"With -done it learns from what was made of FILE by hand, such as the last upload: which column came of which, and how, so that a " +
			"repair does it again. " +
			"A rulebook that is there already is not overwritten. " +
			"With -ask nobody need know what a rulebook is: what was found is put as questions, those first that touch most rows, each with a row of the file, " +
			"before and after. What is answered is in the rulebook at once, so that it can be left at any question; asked again, it asks only what is new.",
		examples: []string{"zetanum begin -ask saltmarsh-export.csv -out saltmarsh.toml",
			"zetanum begin hollowbrook-prices.csv -out hollowbrook.toml",
			"zetanum begin hollowbrook-prices.csv -from shop-brands.csv -out shop.toml",
			"zetanum begin hollowbrook-prices.csv -template shop-form.xlsx -out form.toml",
			"zetanum begin wick-and-wax.xlsx -done combley-now.csv -out again.toml"},
	}
}

func (o *beginCommand) flags(f *flag.FlagSet) {
	f.BoolVar(&o.ask, "ask", false, "ask about what was found, and write the answers as orders; a rulebook that is there is added to")
	f.StringVar(&o.present, "present", "", "with -ask, what the shop has now, a `FILE` that it has exported")
	f.StringVar(&o.out, "out", "", "write the rulebook `FILE`, or to standard output with -out -")
	f.StringVar(&o.from, "from", "", "learn how the shop writes things from a good export, `FILE`")
	f.StringVar(&o.template, "template", "", "say what fills the columns of an import template, `FORM`")
	f.StringVar(&o.done, "done", "", "learn what was done by hand from what was made of the file, such as the last upload, `FILE`")
	o.sourceFlags.flags(f)
}

func (o *beginCommand) run(s *session, files []string) (int, error) {
	if !o.ask && (len(files) > 1 || len(files) == 0 && o.from == "") {
		return exitUsage, usagef("name one file to begin with, or a good export of the shop with -from, or both")
	}
	if o.ask && (len(files) != 1 || files[0] == "-") {
		return exitUsage, usagef("-ask asks about one file; name it, because standard input has the answers")
	}
	path := o.out
	if path == "" {
		path = rulebook.Name
		if file := append(files, o.from)[0]; file != "-" {
			path = filepath.Join(filepath.Dir(file), rulebook.Name)
		}
	}
	if o.template != "" && (len(files) == 0 || files[0] == "-") {
		return exitUsage, usagef("-template says what of a file fills the template; name the file")
	}
	if o.ask {
		return o.talk(s, files[0], path)
	}
	if o.done != "" {
		if len(files) == 0 || files[0] == "-" || o.from != "" {
			return exitUsage, usagef("-done learns what was made of a file; name that file, and leave -from out")
		}
		return o.redo(s, files[0], path)
	}
	if o.present != "" {
		return exitUsage, usagef("-present goes with -ask")
	}
	found := new(sections.Seen)
	if len(files) == 1 {
		var err error
		if found, err = o.look(s, files[0]); err != nil {
			return exitFailed, err
		}
	}
	if o.from != "" {
		if err := study(found, o.from, filepath.Dir(path)); err != nil {
			return exitFailed, err
		}
	}
	if o.template != "" {
		var err error
		if found.Template, err = rulebook.NameFrom(o.template, filepath.Dir(path)); err != nil {
			return exitFailed, err
		}
	}
	text := terminal.Typed(sections.Begin(found))
	if path == "-" {
		_, err := fmt.Fprint(terminal.Data(s.stdout), text)
		return exitOK, err
	}
	if status, err := writeNew(path, text); err != nil {
		return status, err
	}
	p := s.printer()
	if o.template == "" {
		p.Linef("%s  written; every order in it is a comment until you take the # off", p.Bold(path))
	} else {
		p.Linef("%s  written; what is sure to fill the template is an order, all else is a comment until you take the # off", p.Bold(path))
		decide(p, found.Platform, found.Offers, found.Matches)
	}
	next := "zetanum repair FILE"
	if len(files) == 1 {
		next = o.repairs(files[0], o.sheet)
	}
	if o.out != "" {
		next += " -rules " + quoted(path)
	}
	if o.template != "" && slices.ContainsFunc(found.Matches, func(m template.Match) bool { return m.Ask && m.From < 0 }) {
		next = fmt.Sprintf("zetanum begin -ask %s -template %s -out %s", strings.Join(o.source(files[0], o.sheet), " "), quoted(o.template), quoted(path))
	}
	s.suggest(next)
	return exitOK, nil
}

// look looks at the file that the rulebook is for.
func (o *beginCommand) look(s *session, file string) (*sections.Seen, error) {
	opt, err := o.options(s, file, "")
	if err != nil {
		return nil, err
	}
	opt.Book = sections.Book{}
	var look, check *repair.Result
	err = s.do(&opt, func() (err error) {
		if look, err = repair.Look(s.ctx, opt); err == nil && opt.Input != "-" {
			check, err = repair.Run(s.ctx, opt)
		}
		return err
	})
	if err != nil {
		return nil, err
	}
	found := asking.See(look, check)
	if check != nil {
		found.Trusted = asking.SheetsBeside(file)
	}
	if o.template != "" {
		if found.Platform, err = template.Learn(o.template); err != nil {
			return nil, err
		}
		found.Offers = template.OffersOf(&look.Source.Columns, look.Sample)
		found.Matches = found.Platform.Match(found.Offers)
	}
	return found, nil
}

// study learns from a good export; its name is written so that it is found from
// the folder of the rulebook.
func study(found *sections.Seen, export, beside string) error {
	temp, err := folder.NewTemp()
	if err != nil {
		return err
	}
	defer temp.Remove()
	if found.Shop, _, err = reference.Study(export, sheet.Options{Spool: temp.Dir}); err != nil {
		return err
	}
	found.Export, err = rulebook.NameFrom(export, beside)
	return err
}

// writeNew writes a file that is not there yet.
func writeNew(path, text string) (int, error) {
	f, err := os.OpenFile(path, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o666)
	if errors.Is(err, fs.ErrExist) {
		return exitUsage, usagef("%s is there already and is not overwritten; name another with -out, or print it with -out -", path)
	}
	if err != nil {
		return exitFailed, err
	}
	_, err = f.WriteString(text)
	if err := errors.Join(err, f.Close()); err != nil {
		return exitFailed, err
	}
	return exitOK, nil
}
