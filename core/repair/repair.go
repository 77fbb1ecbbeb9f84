// Package repair assembles the line for one file and runs it.
package repair

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"golang.org/x/sync/errgroup"

	"zetanum/core/catalogue"
	"zetanum/core/charset"
	"zetanum/core/columns"
	"zetanum/core/condition"
	"zetanum/core/fetch"
	"zetanum/core/folder"
	"zetanum/core/heading"
	"zetanum/core/line"
	"zetanum/core/lists"
	"zetanum/core/products"
	"zetanum/core/reference"
	"zetanum/core/rulebook"
	"zetanum/core/sheet"
	"zetanum/core/steps"
)

// ErrOnly says that a name given with Only is neither a field nor a heading of
// the sheet.
var ErrOnly = errors.New("no such column")

// Run repairs one file. Nothing appears unless all of it does.
func Run(ctx context.Context, opt Options) (result *Result, err error) {
	dir, temp := "", opt.Temp
	var job *folder.Job
	if opt.Target != "" && opt.Stdout == nil {
		if job, err = folder.Begin(opt.Target); err != nil {
			if errors.Is(err, fs.ErrPermission) {
				return nil, fmt.Errorf("%s: there is no right to write here; name another folder with -out (%w)", opt.Target, err)
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
	r := &runner{opt: opt, result: &Result{Rulebook: opt.Book.Path}}
	table, err := r.open(ctx, temp)
	if err != nil {
		return nil, err
	}
	defer table.Close()
	defer r.returnLoans()
	if err := r.sources(ctx, temp); err != nil {
		return nil, err
	}
	if err := r.lostTexts(); err != nil {
		return nil, r.named(err)
	}
	if err := r.once(); err != nil {
		return nil, err
	}
	if err := r.lend(temp); err != nil {
		return nil, err
	}
	if err := r.regroup(); err != nil {
		return nil, r.named(err)
	}
	if err := r.survey(ctx, false); err != nil {
		return nil, err
	}
	if err := r.repair(ctx, dir); err != nil {
		return nil, err
	}
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
			name = ReadyName(forms[0])
		}
		return r.result, r.deliver(filepath.Join(dir, name))
	}
	return r.result, r.commit(ctx, job)
}

// Look reads a file once and says what is in it, without repairing anything.
func Look(ctx context.Context, opt Options) (*Result, error) {
	r := &runner{opt: opt, result: new(Result)}
	table, err := r.open(ctx, opt.Temp)
	if err != nil {
		return nil, err
	}
	defer table.Close()
	defer r.returnLoans()
	if err := r.lend(opt.Temp); err != nil {
		return nil, err
	}
	if err := r.survey(ctx, true); err != nil {
		return nil, err
	}
	seen := r.result.Survey.Lore[len(r.course.Steps)-1].(*fill)
	if col := products.KeyLike(&r.table.Columns, r.table.Sample); col >= 0 && r.opt.Book.Products.TogetherBy == "" {
		r.result.KeyLike = r.table.Columns.Headings[col]
	}
	r.result.Fill, r.result.Further, r.result.Variants, r.result.ImageRows = seen.counted(), seen.further, seen.variants, seen.images
	return r.result, nil
}

type runner struct {
	opt      Options
	table    *sheet.Table
	fetched  *fetch.File // nil if the source is no address
	course   *line.Course
	result   *Result
	trusted  reference.Sheets
	plan     *columns.Plan
	products *products.Plan // what the rows of products are
	tally    *steps.Tally
	order    *steps.Orders
	texts    *steps.Texts
	backed   map[reference.TextPlace]steps.BackedText // by the cells of which characters are lost
	asked    rulebook.Book                            // as it was given, with the names of its lists
	asLeft   bool                                     // the source is our own output as it was left

	loans     []*steps.Loan
	fields    map[string]steps.Field
	options   []*steps.Packed
	kin       *steps.Kin     // products that are made one; may be nil
	missed    []string       // what is to be noted of them
	shop      *products.Shop // what products are to have; may be nil
	codeLists []*lists.Codes
	clues     []*lists.Clues
	finish    func() (map[string]uint64, error) // closes the outputs
	run       *line.Run                         // that wrote them
}

// regroup brings rows of products together that stand apart, if the rulebook wants that.
func (r *runner) regroup() error {
	if !r.opt.Book.Products.Regroup {
		return nil
	}
	together, err := r.together()
	if err != nil {
		return err
	}
	r.result.Moved, err = r.table.Regroup(steps.Members(steps.NewKey(&r.table.Columns, together, r.kin)))
	return err
}

func (r *runner) sheetOptions(temp string) sheet.Options {
	fields, hints := r.opt.Book.Fields()
	maps.Copy(fields, r.opt.Fields)
	return sheet.Options{Sheet: r.opt.Sheet, Member: r.opt.Member, Fields: fields, Hints: hints, Reading: r.opt.Reading, Stdin: r.opt.Stdin, Spool: temp, MostRows: r.opt.MostRows}
}

func (r *runner) open(ctx context.Context, temp string) (*sheet.Table, error) {
	opt := r.sheetOptions(temp)
	opt.Reading = cmp.Or(opt.Reading, readingOf(r.opt.Input))
	path := r.opt.Input
	if fetch.IsAddress(path) {
		file, err := fetch.Get(ctx, path, temp)
		if err != nil {
			return nil, err
		}
		r.fetched, path = file, file.Path
	}
	table, err := sheet.Open(path, opt)
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
	opt := line.Options{Workers: max(r.opt.Workers, 1), PartSize: r.opt.PartSize}
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
	survey, err := line.Look(ctx, r.table, func() (*line.Course, error) { return r.assemble(only) }, opt)
	if err != nil {
		return r.named(err)
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
		Columns: t.Columns, Form: t.Form, ByCells: t.ByCells, Hidden: t.Hidden, HiddenRows: t.HiddenRows, Filtered: t.Filtered, Merged: t.Merged, Doubt: t.Doubt, Evidence: t.Evidence,
	}
	if f := r.fetched; f != nil {
		r.result.Source.Path, r.result.Source.Address = f.Address, f.Address
	}
	r.result.Unlike = r.unlike()
	for _, lore := range survey.Lore {
		if any, ok := steps.InShop(lore); ok && !any {
			r.result.Notes = append(r.result.Notes, fmt.Sprintf("none of the SKUs is in %s, so that nothing can be said of variants that are left out", r.shop.Name))
		}
		if col, model, ok := steps.Model(lore); ok {
			r.result.Models = append(r.result.Models, ColumnModel{Col: col, Model: model})
		}
	}
	return nil
}

func (r *runner) repair(ctx context.Context, dir string) error {
	out, err := r.output()
	if err != nil {
		return err
	}
	r.result.Settings = r.settings()
	run := &line.Run{
		Options: r.lineOptions("repairing", r.table.Extent, 0),
		Table:   r.table,
		Course:  r.course,
		Survey:  r.result.Survey,
		Sample:  r.opt.Sample,
		Output:  out,
	}
	r.run = run
	r.result.Report, r.finish, err = run.Do(ctx, dir)
	if err != nil {
		return r.named(err)
	}
	r.result.Variants, r.result.ImageRows = r.result.Report.Variants, r.result.Report.ImageRows
	if above, below := run.HeadRows(); above > 0 {
		r.result.KeptRows = above + below - 1
	}
	for _, f := range r.result.Unlike {
		r.result.Report.Add(&f.Finding, f.Cells)
	}
	if r.order.Failed != nil {
		_, err := r.finish()
		return errors.Join(r.order.Failed, err)
	}
	return r.countRows()
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
	for _, l := range r.order.Loans {
		b := Borrowed{
			Rule: l.BorrowRule.String(), From: l.Lender.Name, Rows: l.Lender.Rows, Matched: touched(l.First + steps.LoanMatched), Unmatched: touched(l.First + steps.LoanUnmatched),
			Alike: touched(l.First + steps.LoanAlike), Twice: touched(l.First + steps.LoanTwice), Filled: touched(l.First + steps.LoanFilled),
			Same: touched(l.First + steps.LoanSame), Kept: touched(l.First + steps.LoanOther), Hidden: l.Lender.Hidden, Taken: l.Taken,
		}
		if r.result.Listed(r.course.Lists[l.NotIn].Name) > 0 {
			b.NotIn = r.course.Lists[l.NotIn].Name
		}
		if b.Unasked = r.result.Listed(r.course.Lists[l.NotIn+1].Name); b.Unasked > 0 {
			b.OnlyIn = r.course.Lists[l.NotIn+1].Name
		}
		r.result.Borrowed = append(r.result.Borrowed, b)
	}
	for i, rule := range r.tally.Rules {
		n := touched(i)
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
	return fmt.Sprintf("the rule %q has %s %s rows, and the rulebook says count = %d. Nothing was written. Look which rows are meant, and mend the condition or the count",
		e.Rule, e.Did, catalogue.Thousands(uint64(e.Rows)), e.Count)
}

// named puts the name of the source before an error that does not have it.
func (r *runner) named(err error) error {
	if book := r.opt.Book.Path; book != "" && (errors.Is(err, columns.ErrWrong) || errors.Is(err, condition.ErrWrong)) {
		return fmt.Errorf("%s, with the rulebook %s: %w", r.table.Name, filepath.Base(book), err)
	}
	if errors.Is(err, sheet.ErrChanged) {
		return &sheet.Error{File: r.table.Name, Err: err, Do: "Nothing was written. Run again when nobody is saving it."}
	}
	if errors.Is(err, sheet.ErrRowTooLarge) {
		return &sheet.Error{File: r.table.Name, Err: err, Do: "Nothing was written. Look for a cell that holds a whole file, or for a quotation mark that is never closed."}
	}
	return err
}

// only returns the columns to write, those of the rulebook: the SKU and those
// named with Only, in their order; nil for all as they are.
func (r *runner) only() ([]line.OutColumn, error) {
	var out []line.OutColumn
	for _, o := range r.plan.Out {
		out = append(out, line.OutColumn(o))
	}
	if len(r.opt.Only) == 0 {
		return out, nil
	}
	if out == nil {
		for col, h := range r.table.Columns.Headings {
			out = append(out, line.OutColumn{Col: col, Heading: h})
		}
	}
	chosen := make(map[int]bool)
	if !r.opt.Plain {
		for _, col := range r.table.Columns.All(catalogue.SKU) {
			chosen[col] = true
		}
	}
	for _, name := range r.opt.Only {
		found := false
		field, isField := catalogue.ParseField(name)
		for _, o := range out {
			if isField && r.table.Columns.Fields[o.Col] == field || heading.Key(o.Heading) == heading.Key(name) {
				chosen[o.Col], found = true, true
			}
		}
		if !found {
			return nil, fmt.Errorf("-only %s: %w; the headings are: %s", name, ErrOnly, strings.Join(r.table.Columns.Headings, ", "))
		}
	}
	return slices.DeleteFunc(out, func(o line.OutColumn) bool { return !chosen[o.Col] }), nil
}

func (r *runner) settings() Settings {
	s := Settings{Sheet: r.opt.Sheet, Member: r.opt.Member, Reading: r.opt.Reading, Only: r.opt.Only, Plain: r.opt.Plain, As: r.opt.forms(), Look: r.opt.Look, Sample: r.opt.Sample, Yes: r.opt.Yes, Book: r.asked.WithFiles(filepath.Base)}
	s.Book.Barcode.Trusted = nil
	if r.result.Own != "" {
		s.Earlier = filepath.Base(r.result.Own)
	}
	if r.opt.Book.Path != "" {
		s.Rulebook = filepath.Base(r.opt.Book.Path)
	}
	for _, path := range r.opt.trust() {
		s.Trust = append(s.Trust, filepath.Base(path))
	}
	for h, f := range r.opt.Fields {
		if s.Fields == nil {
			s.Fields = make(map[string]string)
		}
		s.Fields[h] = f.String()
	}
	return s
}

func (r *runner) commit(ctx context.Context, job *folder.Job) error {
	// While the file for people is made the others go to the disk.
	var group errgroup.Group
	group.Go(func() error {
		sums, err := r.finish()
		for name, sum := range sums {
			if !strings.HasPrefix(name, folder.Temporary) {
				job.Settled(name, folder.FormatSum(sum))
			}
		}
		return err
	})
	group.Go(func() error { return r.export(ctx, job.Dir()) })
	if r.opt.Review != nil {
		group.Go(func() error { return r.opt.Review(job.Dir(), r.result) })
	}
	if err := group.Wait(); err != nil {
		return err
	}
	source := manifestSource{r.result.Source.Name, r.result.Source.Address, r.result.Source.Sheet, r.result.Source.Size, r.result.Source.Sum}
	counts := r.result.Counts()
	job.Replaces = func(run json.RawMessage) bool {
		var older manifest
		if json.Unmarshal(run, &older) != nil || older.Source.Name != source.Name {
			return false
		}
		// A file that was saved again and lost codes by it must not take the place
		// of what was got out of it before.
		// (A shorter list of the same name is a new list, not such a file.)
		worse := older.Source.Sum != source.Sum && older.Counts.Products == counts.Products && older.Counts.Ready > counts.Ready
		r.result.Kept = r.result.Kept || worse
		return !worse
	}
	var err error
	r.result.Folder, r.result.Edited, err = job.Commit(manifest{r.opt.Version, r.opt.Date, source, r.result.Settings, counts})
	return err
}

// deliver copies what is ready to where the user wants it.
func (r *runner) deliver(path string) error {
	f, err := os.Open(path)
	if err != nil {
		return err
	}
	defer f.Close()
	_, err = io.Copy(r.opt.Stdout, f)
	return err
}

// Target returns the output folder that belongs to an input file.
func Target(input string) string {
	switch {
	case input == "-":
		return "standard-input.repaired"
	case fetch.IsAddress(input):
		input = fetch.NameOf(input)
	}
	return strings.TrimSuffix(input, filepath.Ext(input)) + ".repaired"
}
