package cli

import (
	"cmp"
	"errors"
	"flag"
	"fmt"
	"path/filepath"
	"slices"
	"strings"

	"zetanum/core/export"
	"zetanum/core/fetch"
	"zetanum/core/folder"
	"zetanum/core/line"
	"zetanum/core/repair"
	"zetanum/core/rulebook"
	"zetanum/core/sections"
	"zetanum/core/sheet"
	"zetanum/core/target"
	"zetanum/internal/proof"
	"zetanum/internal/terminal"
)

type repairCommand struct {
	repairFlags
	as         string
	look       bool
	proof      bool
	proofRows  int
	proofSKUs  listFlag
	loadImages bool
	rehearse   bool
	clip       bool
	out        string
}

func (*repairCommand) about() about {
	return about{
		name: "repair", args: "FILE…",
		short: "repair files, and write what is ready and what is held",
		long: "Repairs each file and writes a folder beside it, NAME.repaired. In it are ready.csv for the importer, held.csv with the rows in which something is open, " +
			"and aside.csv with rows that are no products. review.xlsx shows the same to look at, and changes.jsonl has every change. Where " +
			"there is cause, lost-barcodes.csv is for the supplier, and scan-list.xlsx has the products without a barcode. " +
			"The file itself is never touched. Only what is proved is written: what the cell or the column shows, or a sheet named with " +
			"-trust; what is likely is put as one question for a column, which -yes answers. " +
			"A folder in which a file has been edited since is never replaced. The exit status is 0 if nothing is held, 1 if something is.",
		examples: []string{"zetanum repair saltmarsh-export.csv",
			"zetanum repair saltmarsh-export.csv -trust stock-take.xlsx -out repaired",
			"zetanum repair hollowbrook-autumn.csv -rules hollowbrook-autumn.toml -as xlsx",
			"zetanum repair millbrook-texts.csv -rules millbrook-texts.toml -proof",
			"zetanum repair saltmarsh-export.csv -only barcode -out barcodes-only",
			"zetanum repair hollowbrook-prices.csv -set \"Min price = Price EUR + 15%\" -out with-minimum"},
	}
}

func (o *repairCommand) flags(f *flag.FlagSet) {
	o.repairFlags.flags(f)
	f.StringVar(&o.as, "as", "", "write what is ready in other forms, too, `FORM,…`: tsv, xlsx, ods, or xls for importers that take nothing else, "+
		"in which all cells are text, or jsonl")
	f.BoolVar(&o.look, "look", false, "write look.xlsx, too: what is ready, to look at, with a colour where something was changed")
	f.BoolVar(&o.proof, "proof", false, "write proof.html, too: some products that differ, as a shopper would see them, before and after")
	f.IntVar(&o.proofRows, "proof-rows", 0, "with -proof: show `N` products (default: 12)")
	f.Var(&o.proofSKUs, "proof-sku", "with -proof: show the product with this `SKU` in any case; may be given several times")
	f.BoolVar(&o.loadImages, "load-images", false, "with -proof: let the page fetch the pictures (default: nothing is fetched)")
	f.BoolVar(&o.keep, "remember", false, "write the answers of this run, and what was set, into the rulebook, so that they need not be given again")
	f.BoolVar(&o.rehearse, "rehearse", false, "play the import of what is ready through, too, as “zetanum rehearse” does")
	f.BoolVar(&o.clip, "clip", false, "repair the cells that were copied, with their headings, and put them back on the clipboard, each row in its place; where they are pasted "+
		"the cells must be set to text first, or the spreadsheet program spoils long codes anew")
	f.StringVar(&o.out, "out", "", "write the folder `DIR`, or ready.csv alone to standard output with -out -")
}

type checkCommand struct {
	repairFlags
}

func (*checkCommand) about() about {
	return about{
		name: "check", args: "FILE…",
		short: "say what repair would do, and write nothing",
		long: "Does all that repair does and says the same, but writes nothing. The exit status is 0 if nothing would be held, 1 if " +
			"something would.",
		examples: []string{"zetanum check saltmarsh-export.csv", "zetanum check saltmarsh-export.csv -json"},
	}
}

// usualProof is how many products the page shows to look at.
const usualProof = 12

func (o *repairCommand) run(s *session, files []string) (int, error) {
	if o.clip {
		return o.clipboard(s, files)
	}
	if o.out != "" && len(files) > 1 {
		return exitUsage, usagef("-out names the output of one file; there are %d", len(files))
	}
	if o.out == "-" && o.json {
		return exitUsage, usagef("-out - and -json both want standard output")
	}
	proofed := o.proof || o.proofRows > 0 || len(o.proofSKUs) > 0 || o.loadImages
	if o.out == "-" && (strings.Contains(o.as, ",") || o.look || proofed) {
		more := "-look"
		if proofed {
			more = "-proof"
		}
		return exitUsage, usagef("-out - writes one file to standard output; name one form with -as, and leave %s out", more)
	}
	if o.rehearse && (o.out == "-" || o.json || o.plain) {
		return exitUsage, usagef("-rehearse goes without -out -, -json and -plain")
	}
	if o.proofRows < 0 {
		return exitUsage, usagef("-proof-rows %d: it is a number of products", o.proofRows)
	}
	if o.out != "" && o.out != "-" {
		if edited, err := folder.Edited(filepath.Clean(o.out)); err == nil && len(edited) == 1 && edited[0] == "." {
			return exitUsage, usagef("-out %s: this is not a folder that a repair has written; name a new or an empty one", o.out)
		}
	}
	as := splitList(o.as)
	switch {
	case slices.ContainsFunc(as, func(f string) bool { return !slices.Contains(target.Forms, f) }):
		return exitUsage, usagef("-as %s: what is ready can be written as %s", o.as, strings.Join(target.Forms, ", "))
	case o.as != "" && o.plain:
		return exitUsage, usagef("-as goes without -plain")
	}
	if o.rehearse {
		o.then = o.playThrough
	}
	return o.each(s, files, func(opt *repair.Options) {
		opt.As, opt.Look, opt.Review = as, o.look, proof.Review
		if proofed {
			opt.Proof = &repair.Proof{SamplesWanted: export.SamplesWanted{Most: cmp.Or(o.proofRows, usualProof), SKUs: o.proofSKUs},
				Write: proof.Page{LoadImages: o.loadImages}.Write}
		}
		switch o.out {
		case "":
			opt.Target = opt.Folder()
		case "-":
			opt.Stdout = terminal.Data(s.stdout)
		default:
			opt.Target = filepath.Clean(o.out)
		}
	})
}

// playThrough plays the import of what is ready through, for each target.
func (o *repairCommand) playThrough(s *session, file string, r *repair.Result) (int, error) {
	var names []string
	if r.Settings.Book.Target.HasForm() || o.template != "" || len(r.Targets) == 0 {
		names = append(names, line.FileNames[0])
	}
	for i := range r.Targets {
		if r.Targets[i].None {
			continue
		}
		names = append(names, "ready-"+r.Targets[i].Name+".csv")
	}
	status := exitOK
	for _, name := range names {
		s.printer().Line()
		command := &rehearseCommand{rules: o.rules, all: o.all}
		if command.rules == "" {
			command.rules = sections.Find(file)
		}
		if name == line.FileNames[0] {
			command.template = o.template
		}
		if command.template == target.Self {
			command.template = file
		}
		got, err := command.run(s, []string{filepath.Join(r.Folder, name)})
		if err != nil {
			return got, err
		}
		status = max(status, got)
	}
	return status, nil
}

func (o *checkCommand) run(s *session, files []string) (int, error) {
	return o.each(s, files, func(*repair.Options) {})
}

// each repairs or checks files one after the other; the exit status is the worst.
func (o *repairFlags) each(s *session, files []string, aim func(*repair.Options)) (int, error) {
	if o.with != "" && len(files) > 1 {
		return exitUsage, usagef("-with takes one file that comes back; there are %d", len(files))
	}
	if len(files) == 0 {
		return exitUsage, usagef("name a file, or - for standard input")
	}
	status := exitOK
	var failed error
	var results []*repair.Result
	ahead := new(sheet.Ahead)
	defer ahead.Close()
	for i, file := range files {
		opt, err := o.options(s, file)
		if err != nil {
			return exitFailed, err
		}
		if opt.Ahead = ahead; i+1 < len(files) {
			opt.Next = files[i+1]
		}
		aim(&opt)
		var result *repair.Result
		var count *repair.CountError
		why, err := s.follow(&opt, o.rules != "", func() (err error) {
			result, err = repair.Run(s.ctx, opt)
			return err
		})
		if result != nil {
			result.NotFollowed = why
		}
		switch {
		case err != nil && wrongRules(err):
			return exitUsage, usagef("%v", err)
		case errors.As(err, &count) && len(files) == 1:
			return exitHeld, err
		case err != nil && len(files) == 1:
			return exitFailed, err
		case errors.As(err, &count):
			failed = errors.Join(failed, err)
			status = max(status, exitHeld)
			continue
		case err != nil:
			failed = errors.Join(failed, err)
			status = exitFailed
			continue
		}
		if result.Report.Held > 0 {
			status = max(status, exitHeld)
		}
		if o.json {
			results = append(results, result)
			continue
		}
		printer := s.printer()
		if opt.Stdout != nil {
			printer = terminal.NewPrinter(s.stderr, s.plain)
		}
		if i > 0 {
			printer.Line()
		}
		if o.keep {
			if result.Remembered, err = o.remember(file, result.Set); err != nil {
				return exitFailed, err
			}
		}
		summary{r: result, folder: opt.Target != "", piped: opt.Stdout != nil, all: o.all}.print(printer)
		if opt.Target != "" {
			s.made = result.Folder
		}
		if opt.Stdout == nil {
			o.follows(s, file, opt.Target != "", result)
		}
		if o.then != nil {
			then, err := o.then(s, file, result)
			if err != nil {
				return then, err
			}
			status = max(status, then)
		}
	}
	if o.json {
		if err := s.printJSON(results, len(files)); err != nil {
			return exitFailed, err
		}
	}
	return status, failed
}

// follows says what comes after a repair, or a check: the questions, where something is held; the rehearsal, where it is known by what; or a look at
// what is ready, which needs no spreadsheet program.
func (o *repairFlags) follows(s *session, file string, written bool, r *repair.Result) {
	book := &r.Settings.Book
	ready := filepath.Join(r.Folder, line.FileNames[0])
	if export.OnlyParts(r.Parts) {
		ready = filepath.Join(r.Folder, r.Parts[0].Name)
	}
	switch {
	case !written:
		var words []string
		for i, word := range s.args {
			switch {
			case i == 0 && word == "check":
				word = "repair"
			case word == "-check":
				continue
			}
			words = append(words, quoted(word))
		}
		s.suggest("zetanum", strings.Join(words, " "))
	case r.Report.Held > 0 && file != "-" && r.Settings.With == "" && !fetch.IsAddress(file):
		words := append([]string{"zetanum begin -ask"}, o.source(file, o.sheet)...)
		if o.rules != "" {
			words = append(words, "-out", quoted(o.rules))
		}
		s.suggest(words...)
	case r.Report.Ready == 0:
		s.suggest("zetanum inspect", quoted(file))
	case book.Form != nil || book.Shop.Export != "":
		s.suggest(rehearses(r, ready)...)
	default:
		s.suggest("zetanum inspect", quoted(ready))
	}
}

// remember writes the answers, and what was set, into the rulebook of a file, which is made if there is none, and
// returns its name.
func (o *repairFlags) remember(file string, set []rulebook.Order) (path string, err error) {
	path = o.rulebook(file)
	if len(o.said) > 0 {
		err = sections.Remember(path, o.said)
	}
	if err == nil && set != nil {
		err = sections.Keep(path, set, "")
	}
	return path, err
}

// rulebook returns the name of the rulebook of a file, whether it is there yet or not.
func (o *repairFlags) rulebook(file string) string {
	path := cmp.Or(o.rules, sections.Find(file))
	switch {
	case path != "":
		return path
	case file == "-" || fetch.IsAddress(file):
		return rulebook.Name
	}
	return filepath.Join(filepath.Dir(file), rulebook.Name)
}

func plural(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%s %s", thousands(n), many)
}
