package cli

import (
	"errors"
	"flag"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"

	"zetanum/core/folder"
	"zetanum/core/reference"
	"zetanum/core/repair"
	"zetanum/core/rulebook"
	"zetanum/core/sections"
	"zetanum/core/sheet"
	"zetanum/core/template"
	"zetanum/internal/proof"
	"zetanum/internal/terminal"
)

type beginCommand struct {
	sourceFlags
	out      string
	from     string
	template string
	done     string
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
			"A rulebook that is there already is not overwritten.",
		examples: []string{"zetanum begin hollowbrook-prices.csv -out hollowbrook.toml",
			"zetanum begin hollowbrook-prices.csv -from shop-brands.csv -out shop.toml",
			"zetanum begin hollowbrook-prices.csv -template shop-form.xlsx -out form.toml",
			"zetanum begin wick-and-wax.xlsx -done combley-now.csv -out again.toml"},
	}
}

func (o *beginCommand) flags(f *flag.FlagSet) {
	f.StringVar(&o.out, "out", "", "write the rulebook `FILE`, or to standard output with -out -")
	f.StringVar(&o.from, "from", "", "learn how the shop writes things from a good export, `FILE`")
	f.StringVar(&o.template, "template", "", "say what fills the columns of an import template, `FORM`")
	f.StringVar(&o.done, "done", "", "learn what was done by hand from what was made of the file, such as the last upload, `FILE`")
	o.sourceFlags.flags(f)
}

func (o *beginCommand) run(s *session, files []string) (int, error) {
	if len(files) > 1 || len(files) == 0 && o.from == "" {
		return exitUsage, usagef("name one file to begin with, or a good export of the shop with -from, or both")
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
	if o.done != "" {
		if len(files) == 0 || files[0] == "-" || o.from != "" {
			return exitUsage, usagef("-done learns what was made of a file; name that file, and leave -from out")
		}
		return o.redo(s, files[0], path)
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
		if found.Template, err = fromFolder(o.template, filepath.Dir(path)); err != nil {
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
	p.Head("Next")
	p.Line("  ", next)
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
	found := seen(file, look, check)
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
	found.Export, err = fromFolder(export, beside)
	return err
}

// fromFolder returns the name of a file so that it is found from a folder.
func fromFolder(file, folder string) (string, error) {
	whole, err := filepath.Abs(file)
	if err != nil {
		return "", err
	}
	if folder, err = filepath.Abs(folder); err != nil {
		return "", err
	}
	if near, err := filepath.Rel(folder, whole); err == nil {
		return filepath.ToSlash(near), nil
	}
	return filepath.ToSlash(file), nil
}

// seen gathers what a rulebook could say something about.
func seen(file string, look, check *repair.Result) *sections.Seen {
	v := &sections.Seen{File: look.Source.Name, KeyLike: look.KeyLike, Tongues: look.Tongues()}
	if len(look.Patterns) > 0 {
		v.Pattern = look.Patterns[0].From
	}
	columns := &look.Source.Columns
	v.Form = len(look.Source.Preamble)+len(look.Source.Beneath) > 0
	for i, h := range columns.Headings[:columns.Own()] {
		v.Columns = append(v.Columns, sections.SeenColumn{Heading: h, Field: columns.Fields[i], Filled: look.Fill[i].Filled,
			Example: look.InOrder(i), Same: look.SaysTheSame(i), Needed: look.Needs(i)})
	}
	if check == nil {
		return v
	}
	for _, f := range check.Report.Found {
		v.Found = append(v.Found, sections.SeenFinding{Code: f.Code, Column: proof.Heading(check, f.Col), Cells: f.Cells})
	}
	for _, own := range check.OwnRatios {
		v.Columns[own.Col].Ratio = own.Ratio.String()
	}
	v.Trusted, v.Phrases = sheetsBeside(file), check.Phrases
	return v
}

// maxBeside is the size of the largest file that is looked at beside another.
const maxBeside = 20 << 20

// sheetsBeside returns the files beside one that could be trusted for codes:
// they have a column of barcodes, and one of SKUs or titles.
func sheetsBeside(file string) (names []string) {
	temp, err := folder.NewTemp()
	if err != nil {
		return nil
	}
	defer temp.Remove()
	entries, _ := os.ReadDir(filepath.Dir(file))
	for _, e := range entries {
		ext := filepath.Ext(e.Name())
		info, err := e.Info()
		if err != nil || info.Size() > maxBeside || e.IsDir() || e.Name() == filepath.Base(file) ||
			!slices.Contains([]string{".csv", ".xlsx", ".tsv"}, ext) || len(names) == 10 {
			continue
		}
		if sheet.HasCodes(filepath.Join(filepath.Dir(file), e.Name()), temp.Dir) {
			names = append(names, e.Name())
		}
	}
	return names
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
