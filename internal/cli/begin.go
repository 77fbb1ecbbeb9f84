package cli

import (
	"errors"
	"flag"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"

	"zetanum/core/repair"
	"zetanum/core/rulebook"
	"zetanum/core/sheet"
	"zetanum/internal/proof"
)

func beginCommand() *command {
	return &command{
		name: "begin", args: "FILE",
		short: "write a rulebook to start from",
		long: "Looks at a file and writes a rulebook for it, zetanum.toml beside the file: the headings that are not recognised, and the orders that make sense for what was found. " +
			"Each of them is a comment, because it is a judgement: as it stands the rulebook changes nothing. A rulebook that is there already is not overwritten.",
		flags: func(o *options, f *flag.FlagSet) {
			f.StringVar(&o.out, "out", "", "write the rulebook `FILE`, or to standard output with -out -")
			f.StringVar(&o.sheet, "sheet", "", "read the sheet `NAME` of a workbook")
			f.Var(&o.fields, "field", "say what a heading means, as `HEADING=FIELD`; may be given several times")
			f.IntVar(&o.workers, "workers", 2, "let `N` workers share the file")
		},
		run: (*session).begin,
	}
}

func (s *session) begin(o *options, files []string) (int, error) {
	if len(files) != 1 {
		return exitUsage, usagef("name one file to begin with")
	}
	opt, err := s.repair(o, files[0])
	if err != nil {
		return exitFailed, err
	}
	opt.Book = rulebook.Book{}
	var look, check *repair.Result
	err = s.do(&opt, func() (err error) {
		if look, err = repair.Look(s.ctx, opt); err == nil && opt.Input != "-" {
			check, err = repair.Run(s.ctx, opt)
		}
		return err
	})
	if err != nil {
		return exitFailed, err
	}
	text := rulebook.Begin(seen(files[0], look, check))
	path := o.out
	switch path {
	case "-":
		_, err := fmt.Fprint(s.stdout, text)
		return exitOK, err
	case "":
		path = rulebook.Name
		if files[0] != "-" {
			path = filepath.Join(filepath.Dir(files[0]), rulebook.Name)
		}
	}
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
	p := s.printer()
	p.Linef("%s  written; every order in it is a comment until you take the # off", p.Bold(path))
	next := "zetanum repair " + quoted(files[0])
	if o.out != "" {
		next += " -rules " + quoted(path)
	}
	p.Head("Next")
	p.Line("  ", next)
	return exitOK, nil
}

// seen gathers what a rulebook could say something about.
func seen(file string, look, check *repair.Result) *rulebook.Seen {
	v := &rulebook.Seen{File: look.Source.Name}
	columns := &look.Source.Columns
	for i, h := range columns.Headings[:columns.Own()] {
		v.Columns = append(v.Columns, rulebook.SeenColumn{Heading: h, Field: columns.Fields[i], Filled: look.Fill[i].Filled, Example: look.Fill[i].Example})
	}
	if check == nil {
		return v
	}
	for _, f := range check.Report.Found {
		v.Found = append(v.Found, rulebook.SeenFinding{Code: f.Code, Column: proof.Heading(check, f.Col), Cells: f.Cells})
	}
	v.Trusted = sheetsBeside(file)
	return v
}

// maxBeside is the size of the largest file that is looked at beside another.
const maxBeside = 20 << 20

// sheetsBeside returns the files beside one that could be trusted for codes:
// they have a column of barcodes, and one of SKUs or titles.
func sheetsBeside(file string) (names []string) {
	entries, _ := os.ReadDir(filepath.Dir(file))
	for _, e := range entries {
		ext := filepath.Ext(e.Name())
		info, err := e.Info()
		if err != nil || info.Size() > maxBeside || e.IsDir() || e.Name() == filepath.Base(file) || !slices.Contains([]string{".csv", ".xlsx", ".tsv"}, ext) || len(names) == 10 {
			continue
		}
		if sheet.HasCodes(filepath.Join(filepath.Dir(file), e.Name())) {
			names = append(names, e.Name())
		}
	}
	return names
}
