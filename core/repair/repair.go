// Package repair assembles the line for one file and runs it.
package repair

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io/fs"
	"maps"
	"path/filepath"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/charset"
	"zetanum/core/export"
	"zetanum/core/fetch"
	"zetanum/core/folder"
	"zetanum/core/line"
	"zetanum/core/reference"
	"zetanum/core/sections"
	"zetanum/core/sheet"
	"zetanum/core/steps"
)

// Run repairs one file. Nothing appears unless all of it does.
func Run(ctx context.Context, opt Options) (result *Result, err error) {
	given := opt.Book
	if opt.Book, err = opt.Book.WithForm(opt.Input); err != nil {
		return nil, err
	}
	dir, temp := "", opt.Temp
	var job *folder.Job
	if opt.Target != "" && opt.Stdout == nil {
		if job, err = folder.Begin(opt.Target); err != nil {
			if errors.Is(err, fs.ErrPermission) {
				return nil, fmt.Errorf("%s: there is no right to write here; name another folder with the setting ‹out› (%w)", opt.Target,
					err)
			}
			return nil, fmt.Errorf("%s: %w", opt.Target, err)
		}
		dir, temp = job.Dir(), job.Dir()
		defer func() {
			if err != nil {
				job.Abort()
			}
		}()
	} else if opt.Stdout != nil {
		dir = temp
	}
	r := &runner{opt: opt, book: opt.Book.Recorded(&given), result: &Result{Rulebook: opt.Book.Path, Date: opt.Date}}
	if job != nil {
		r.into = dir
	}
	table, err := r.open(ctx, temp)
	if err != nil {
		return nil, err
	}
	defer table.Close()
	if opt.Next != "" {
		opt.Ahead.Begin(opt.Next, r.sheetOptions(""))
	}
	if err := r.set(); err != nil {
		return nil, err
	}
	defer func() { err = cmp.Or(err, r.closeRegister()) }()
	if err := r.openRegister(ctx); err != nil {
		return nil, err
	}
	if err := r.sources(ctx, temp); err != nil {
		return nil, err
	}
	if err := r.lenders(ctx, temp); err != nil {
		return nil, err
	}
	if err := r.lostTexts(); err != nil {
		return nil, r.named(err)
	}
	if err := r.once(); err != nil {
		return nil, err
	}
	if err := r.comeBack(temp); err != nil {
		return nil, err
	}
	if err := r.fit(temp); err != nil {
		return nil, r.named(err)
	}
	defer r.sheet.Close()
	if r.result.Moved, err = r.sheet.Regroup(); err != nil {
		return nil, r.named(err)
	}
	if err := r.survey(ctx, false); err != nil {
		return nil, err
	}
	if err := r.repair(ctx, dir); err != nil {
		return nil, err
	}
	// Before the folder appears nothing in it may be open: not every system takes away what is.
	r.sheet.Close()
	if err := table.Close(); err != nil {
		return nil, err
	}
	if job == nil {
		if opt.Stdout != nil {
			err = r.export(ctx, dir)
		}
		if _, closed := r.finish(); err != nil || closed != nil || opt.Stdout == nil {
			return r.result, errors.Join(err, closed)
		}
		name := line.FileNames[0]
		if forms := opt.forms(); len(opt.As) > 0 && len(forms) > 0 {
			name = export.Name(forms[0])
		}
		if err := r.issue(ctx); err != nil {
			return nil, err
		}
		return r.result, r.deliver(filepath.Join(dir, name))
	}
	return r.result, r.commit(ctx, job)
}

// A runner repairs one file.
type runner struct {
	opt         Options
	book        sections.Book // as it is recorded
	table       *sheet.Table
	fetched     *fetch.File // nil if the source is no address
	result      *Result
	trusted     reference.Sheets
	backed      map[reference.TextPlace]steps.BackedText // by the cells of which characters are lost
	issuing     *issuing                                 // nil without a register
	remembering *remembering                             // of barcodes, likewise
	asLeft      bool                                     // the source is our own output as it was left
	told        *sections.Told                           // of the source of that
	linksUsed   *LinksUsed                               // nil if no results of links are taken
	into        string                                   // the folder of the run; "" if none appears

	anyHeadings bool     // none of them need be known
	ourHeadings []string // those of columns that a repair writes for people

	sheet    *sections.Sheet // the table with the rulebook
	pipeline *line.Pipeline
	finish   func() (map[string]uint64, error) // closes the outputs
	run      *line.Run                         // that wrote them
}

// fit fits the table to the rulebook.
func (r *runner) fit(temp string) (err error) {
	var remembers steps.Register
	var barcodes steps.Memory
	if r.issuing != nil {
		remembers, barcodes = r.issuing, r.newMemory()
	}
	opened, err := r.opened()
	if err != nil {
		return err
	}
	r.sheet, err = sections.Open(r.table, &r.opt.Book, sections.Settings{
		Register: remembers, Memory: barcodes,
		Input: r.opt.Input, Temp: temp, Into: r.into, Said: r.opt.Said, Only: r.opt.Only, Plain: r.opt.Plain, Trusted: r.trusted, Backed: r.backed,
		Returned: r.result.Returned, Ours: r.ourHeadings, Date: r.opt.Date, ReplaceCodes: r.opt.ReplaceCodes, CodesOnly: r.opt.CodesOnly,
		AsLeft: r.told, Opened: opened,
	})
	if err != nil {
		return err
	}
	for _, s := range r.sheet.Trusted {
		r.result.Trusted = append(r.result.Trusted, TrustedSheet{Name: s.Name, Path: s.Path(), Rows: s.Rows, Whole: s.Whole, Damaged: s.Damaged, Restored: s.Restored, Until: s.Until})
	}
	return nil
}

// set puts what is set besides the rulebook to it.
func (r *runner) set() error {
	if len(r.opt.Set) == 0 {
		return nil
	}
	with, orders, err := r.opt.Book.With(r.opt.Set, &r.table.Columns)
	if err != nil {
		return fmt.Errorf("%s: %w", r.table.Name, err)
	}
	r.opt.Book, r.result.Set = with, orders
	return nil
}

func (r *runner) sheetOptions(temp string) sheet.Options {
	fields, hints := r.opt.Book.Fields()
	maps.Copy(fields, r.opt.Fields)
	return sheet.Options{Sheet: r.opt.Sheet, Member: r.opt.Member, Fields: fields, Hints: hints, Reading: r.opt.Reading, Stdin: r.opt.Stdin, Called: r.opt.Called,
		Spool: temp, MostRows: r.opt.MostRows, AnyHeadings: r.anyHeadings, Form: r.opt.Book.FormRows()}
}

func (r *runner) open(ctx context.Context, temp string) (*sheet.Table, error) {
	opt := r.sheetOptions(temp)
	if r.opt.Input != "-" {
		of, name := copyOf(r.opt.Input)
		itself := name != "" && of.run.Source.Name == filepath.Base(r.opt.Input) && of.run.Source.Sum == of.files[name] // in which nothing was changed
		if r.asLeft = name != "" && !itself; r.asLeft {
			r.told = &of.run.Told
			for h, name := range r.told.Fields {
				if f, ok := catalogue.ParseField(name); ok {
					opt.Hints[h] = f
				}
			}
		}
		opt.Reading = cmp.Or(opt.Reading, reading(of, name))
	}
	path := r.opt.Input
	if r.fetched != nil {
		path = r.fetched.Path
	} else if fetch.IsAddress(path) {
		file, err := fetch.Fetcher{Local: r.opt.AllowLocal}.Get(ctx, path, temp)
		if err != nil {
			return nil, err
		}
		r.fetched, path = file, file.Path
	}
	open := sheet.Open
	if r.opt.Ahead != nil {
		open = r.opt.Ahead.Open
	}
	table, err := open(path, opt)
	if err != nil {
		return nil, err
	}
	r.table = table
	if r.fetched != nil {
		table.Name, table.Changed = r.fetched.Name, r.fetched.Changed
	}
	return table, nil
}

// lineOptions returns how the line is to run a stage. What was done before it
// and what comes after it, in bytes, count for the progress.
func (r *runner) lineOptions(stage string, before, after int64) line.Options {
	opt := line.Options{Workers: max(r.opt.Workers, 1), PartSize: r.opt.PartSize, Examples: r.opt.Examples}
	if r.opt.Progress != nil {
		opt.Progress = func(done, total int64) { r.opt.Progress(stage, before+done, before+total+after) }
	}
	return opt
}

func (r *runner) survey(ctx context.Context, only bool) error {
	opt := r.lineOptions("reading", 0, r.table.Extent)
	if only {
		opt = r.lineOptions("reading", 0, 0)
	}
	opt.LookOnly = only
	survey, err := line.Look(ctx, r.table, func() (pipeline *line.Pipeline, err error) {
		if r.pipeline, err = r.sheet.Line(only); err == nil && r.opt.hold != nil {
			r.opt.hold(r.pipeline, len(r.table.Columns.Headings))
		}
		return r.pipeline, err
	}, opt)
	if err == nil {
		err = r.sheet.Lent() // while the source was looked at
	}
	if err != nil {
		return r.named(err)
	}
	r.result.Lists = r.pipeline.Lists
	if r.issuing != nil {
		r.issuing.sum = survey.Sum
	}
	t := r.table
	r.result.Survey = survey
	sum := survey.Sum
	if t.Form.Spooled || t.Transcoded != charset.UTF8 || t.Member != "" {
		sum = t.BookSum
	}
	r.result.Source = Source{
		Path: t.Path, Name: t.Name, Sheet: t.Sheet, Others: t.Others, Beside: t.Beside, Size: t.Size, Changed: t.Changed,
		Sum: folder.FormatSum(sum), Kind: t.Kind(), Heading: t.Heading, Rows: len(t.Heads), Preamble: t.Preamble, Beneath: t.Beneath,
		Columns: t.Columns, Form: t.Form, ByCells: t.ByCells, Hidden: t.Hidden, HiddenRows: t.HiddenRows, Filtered: t.Filtered,
		Blank: t.Blank, Merged: t.Merged, Doubt: t.Doubt, Evidence: t.Evidence,
	}
	if f := r.fetched; f != nil {
		r.result.Source.Path, r.result.Source.Address = f.Address, f.Address
	}
	r.result.Unlike = r.unlike()
	for _, aggregate := range survey.Learned {
		if name, any, ok := steps.InShop(aggregate); ok && !any {
			r.sheet.Note("none of the SKUs is in %s, so that nothing can be said of variants that are left out", name)
		}
		if filled, ok := steps.Filled(aggregate); ok {
			r.sheet.Filled.AddAll(filled)
		}
		if col, model, ok := steps.Model(aggregate); ok {
			r.result.Models = append(r.result.Models, ColumnModel{Col: col, Model: model})
		}
	}
	return nil
}

func (r *runner) repair(ctx context.Context, dir string) error {
	out, err := r.sheet.Output()
	if err != nil {
		return err
	}
	out.Look = r.opt.Look || r.opt.Proof != nil
	out.Cuts = out.Cuts || slices.Contains(r.opt.forms(), "xls") // whose sheets have so many rows at most
	branches, err := r.sheet.Branches()
	if err != nil {
		return err
	}
	for i := range branches {
		branches[i].Output.Cuts = branches[i].Output.Cuts || slices.Contains(r.opt.Book.Targets[r.sheet.TargetAt(i)].As, "xls")
	}
	r.result.Notes = r.sheet.Notes
	r.result.Settings, r.result.TellApart, r.result.Required = r.settings(), r.sheet.NotEmptied(), r.sheet.Required
	run := &line.Run{
		Options:  r.lineOptions("repairing", r.table.Extent, 0),
		Table:    r.table,
		Pipeline: r.pipeline,
		Survey:   r.result.Survey,
		Sample:   r.opt.Sample,
		Output:   out,
		Branches: branches,
		Temp:     r.opt.Temp,
	}
	for _, f := range r.result.Unlike {
		if r.holdsAll(&f) {
			run.Holding = append(run.Holding, f.Finding)
		}
	}
	r.run = run
	if err := r.remember(); err != nil {
		return err
	}
	defer func() { r.result.written = run.Output }()
	r.result.Report, r.finish, err = run.Do(ctx, dir)
	if err != nil {
		return r.named(r.sheet.Misfit(err))
	}
	for i := range run.Branches {
		b := &run.Branches[i]
		r.result.Targets = append(r.result.Targets, TargetReport{Name: b.Name, Report: &b.Report})
	}
	if p := r.sheet.Prepared; p != nil {
		r.result.Prepared = &Prepared{strings.TrimSuffix(r.opt.Book.Images.Prepare, "/"), p.Copies()}
	}
	r.result.Phrases, r.result.OwnRatios = r.sheet.Phrases, r.sheet.OwnRatios
	for _, own := range r.sheet.OwnRatios {
		if slices.Contains(r.sheet.Out, own.Col) {
			r.result.Notes = append(r.result.Notes, fmt.Sprintf("“%s” is %s, and goes out with the rest; [columns] drop takes it out", r.table.Columns.Headings[own.Col], own.Ratio))
		}
	}
	for _, p := range r.result.Phrases[:min(len(r.result.Phrases), mostPhrases)] {
		r.result.Notes = append(r.result.Notes, fmt.Sprintf("“%s” stands in %d of %d descriptions; [[replace]] takes it out, and the command ‹begin› writes that rule", p.Text, p.Times, p.Of))
	}
	r.result.Variants, r.result.ImageRows = r.result.Report.Variants, r.result.Report.ImageRows
	if above, below := run.HeadRows(); above > 0 {
		r.result.KeptRows = above + below - 1
	}
	for _, f := range r.result.Unlike {
		if !r.holdsAll(&f) {
			r.result.Report.Add(&f.Finding, f.Cells)
		}
	}
	if failed := r.sheet.Orders.Failed; failed != nil {
		_, err := r.finish()
		return errors.Join(failed, err)
	}
	for _, m := range r.sheet.Orders.Minted {
		r.result.Minted = append(r.result.Minted, m.Did)
	}
	return r.countRows()
}

// mostPhrases is how many sentences are named that stand in many descriptions.
const mostPhrases = 3

// holdsAll reports whether a finding about a column is to hold all products.
func (r *runner) holdsAll(f *ColumnFinding) bool {
	said, _ := r.sheet.Decisions.Said(f.Code, r.table.Columns.Headings[f.Col], "", "")
	return said.Answer == catalogue.Hold
}

// countRows takes down what the rules did, and refuses a number that the
// rulebook does not expect.
func (r *runner) countRows() error {
	touched := func(i int) int {
		if i < len(r.result.Report.Touched) {
			return r.result.Report.Touched[i]
		}
		return 0
	}
	for _, l := range r.sheet.Loans {
		if !l.Ordered {
			continue
		}
		b := Borrowed{
			Rule: l.BorrowRule.String(), From: l.Lender.Name, Rows: l.Lender.Rows, Hidden: l.Lender.Hidden, Until: l.Lender.Until, Taken: l.Taken,
			Matched: touched(l.First + sections.LoanMatched), Unmatched: touched(l.First + sections.LoanUnmatched),
			Alike: touched(l.First + sections.LoanAlike),
			Twice: touched(l.First + sections.LoanTwice), Filled: touched(l.First + sections.LoanFilled),
			Same: touched(l.First + sections.LoanSame), Kept: touched(l.First + sections.LoanOther),
		}
		if r.result.Listed(r.pipeline.Lists[l.NotIn].Name) > 0 {
			b.NotIn = r.pipeline.Lists[l.NotIn].Name
		}
		if b.Unasked = r.result.Listed(r.pipeline.Lists[l.NotIn+1].Name); b.Unasked > 0 {
			b.OnlyIn = r.pipeline.Lists[l.NotIn+1].Name
		}
		r.result.Borrowed = append(r.result.Borrowed, b)
	}
	for _, a := range r.sheet.Attributes {
		filled, of := a.Filled()
		r.result.Attributes = append(r.result.Attributes, Attribute{a.Heading, filled, of})
	}
	for i, rule := range r.sheet.Tally.Rules {
		n := touched(i)
		if rule.Filled > 0 && n > 0 && touched(rule.Filled-1) == 0 && !r.asLeft {
			r.result.Notes = append(r.result.Notes, fmt.Sprintf("the rule %q had no work: an earlier rule had filled its cells, %s of them; the "+
				"order in which they stand decides", rule.Words, catalogue.Thousands(uint64(n))))
		}
		if rule.Quiet {
			continue
		}
		r.result.Rows = append(r.result.Rows, RowCount{rule.Words, n})
		if r.asLeft && n == 0 {
			continue // it has been done before
		}
		if rule.Count > 0 && n != rule.Count {
			_, err := r.finish()
			return errors.Join(&CountError{rule.Words, rule.Did, n, rule.Count}, err)
		}
	}
	return nil
}

// A CountError says that a rule touched another number of rows than it says.
type CountError struct {
	Rule, Did string
	Rows      int
	Count     int
}

func (e *CountError) Error() string {
	return fmt.Sprintf("the rule %q has %s %s rows, and the rulebook says count = %d. Nothing was written. Look which rows are meant, "+
		"and mend the condition or the count",
		e.Rule, e.Did, catalogue.Thousands(uint64(e.Rows)), e.Count)
}

// named puts the name of the source before an error that does not have it.
func (r *runner) named(err error) error {
	if errors.Is(err, sheet.ErrChanged) {
		return &sheet.Error{File: r.table.Name, Err: err, Do: "Nothing was written. Run again when nobody is saving it."}
	}
	var named *sheet.Error
	if errors.Is(err, sheet.ErrRowTooLarge) && !errors.As(err, &named) {
		return &sheet.Error{File: r.table.Name, Err: err, Do: "Nothing was written. Look for a cell that holds a whole file, or for a " +
			"quotation mark that is never closed."}
	}
	return err
}
