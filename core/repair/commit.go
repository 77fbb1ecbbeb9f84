package repair

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"golang.org/x/sync/errgroup"

	"zetanum/core/export"
	"zetanum/core/fetch"
	"zetanum/core/folder"
	"zetanum/core/line"
	"zetanum/core/register"
	"zetanum/core/steps"
	"zetanum/core/target"
	"zetanum/core/template"
	"zetanum/core/workbook"
)

func (r *runner) settings() Settings {
	s := Settings{Sheet: r.opt.Sheet, Member: r.opt.Member, Reading: r.opt.Reading, Only: r.opt.Only, Plain: r.opt.Plain, As: r.opt.forms(),
		Look: r.opt.Look, Sample: r.opt.Sample, Said: r.opt.Said, Set: r.opt.Set, ReplaceCodes: r.opt.ReplaceCodes, CodesOnly: r.opt.CodesOnly, Links: r.linksUsed, Book: r.book.WithFiles(filepath.Base)}
	s.Book.Barcode.Trusted = nil
	if at := cmp.Or(r.opt.Register, r.opt.Book.Register.At); register.IsServer(at) {
		s.Book.Register.At = register.Shown(at) // nothing secret is recorded
	} else if at != "" {
		s.Book.Register.At = filepath.Base(at)
	}
	if r.result.Own != "" {
		s.Earlier = filepath.Base(r.result.Own)
	}
	if r.opt.Book.Path != "" {
		s.Rulebook = filepath.Base(r.opt.Book.Path)
	}
	for _, path := range r.opt.trust() {
		s.Trust = append(s.Trust, filepath.Base(path))
	}
	if r.opt.With != "" {
		s.With = filepath.Base(r.opt.With)
		for _, path := range r.opt.Returned {
			s.Returned = append(s.Returned, filepath.Base(path))
		}
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
	group.Go(func() error { return r.writeReturned(job.Dir()) })
	if r.opt.Review != nil {
		group.Go(func() error { return r.opt.Review(job.Dir(), r.result) })
	}
	if err := group.Wait(); err != nil {
		return err
	}
	if err := r.onlyParts(job); err != nil {
		return err
	}
	source := manifestSource{r.result.Source.Name, liesAt(r.opt.Target, r.result.Source.Path), r.result.Source.Address, r.result.Source.Sheet, r.result.Source.Heading, nil,
		r.result.Source.Size, r.result.Source.Sum}
	for _, aggregate := range r.result.Survey.Learned {
		if rows, ok := steps.OtherTables(aggregate); ok {
			source.Tables = rows
		}
	}
	counts := r.result.Counts()
	job.Replaces = func(run json.RawMessage) bool {
		var older manifest
		if json.Unmarshal(run, &older) != nil || !older.Source.sameTable(&source) {
			return false
		}
		set := &r.result.Settings
		if older.Settings.With != set.With || !slices.Equal(older.Settings.Returned, set.Returned) {
			return false // people's work is in it, or goes into this one
		}
		// A file that was saved again and lost codes by it must not take the place
		// of what was got out of it before.
		// (A shorter list of the same name is a new list, not such a file.)
		worse := older.Source.Sum != source.Sum && older.Counts.Products == counts.Products && older.Counts.Ready > counts.Ready
		r.result.Kept = r.result.Kept || worse
		return !worse
	}
	var err error
	var traces []trace
	for _, t := range r.result.Report.Traces {
		traces = append(traces, trace{t})
	}
	defer func() {
		if r.opt.With != "" {
			r.result.Edited = nil // what came back was edited there
		}
	}()
	if err := r.issue(ctx); err != nil {
		return err
	}
	r.result.Place, err = job.Commit(manifest{r.opt.Version, r.opt.Date, source, r.result.Settings, counts, r.result.Register, traces, r.sheet.Told})
	return err
}

// onlyParts lets parts take the place of what was cut because it is more than an importer takes: whoever uploads it shall not take the whole.
func (r *runner) onlyParts(job *folder.Job) error {
	take := func(name string, head int64, parts []export.Part) error {
		if !export.OnlyParts(parts) {
			return nil
		}
		var names []string
		for _, p := range parts {
			names = append(names, p.Name)
		}
		return job.InParts(name, head, names)
	}
	head, _ := r.run.Cuts()
	err := take(line.FileNames[0], head, r.result.Parts)
	for i := range r.run.Branches {
		b := &r.run.Branches[i]
		if r.result.Targets[i].None {
			err = errors.Join(err, job.Drop(b.ReadyName()), job.Drop(b.HeldName()))
			continue
		}
		err = errors.Join(err, take(b.ReadyName(), b.HeadSize, r.result.Targets[i].Parts))
	}
	return err
}

// liesAt returns the way from an output folder to its source, if that does not lie beside it.
func liesAt(dir, source string) string {
	if source == "-" || dir == "" || fetch.IsAddress(source) {
		return ""
	}
	dir, err1 := filepath.Abs(dir)
	source, err2 := filepath.Abs(source)
	if err1 != nil || err2 != nil || filepath.Dir(dir) == filepath.Dir(source) {
		return ""
	}
	way, err := filepath.Rel(dir, source)
	if err != nil {
		return ""
	}
	return filepath.ToSlash(way)
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

// forms returns the forms besides CSV in which what is ready is written.
func (o *Options) forms() []string {
	forms := o.As
	if o.As == nil && !o.Plain {
		forms = o.Book.Target.As
	}
	return o.withForm(forms, o.Book.Form)
}

// withForm returns forms with that of a template that is a workbook.
func (o *Options) withForm(forms []string, form *template.Template) []string {
	if form != nil && form.Kind != "" && (o.As == nil || len(o.As) > 0) && len(o.Only) == 0 {
		forms = append(slices.Clip(forms), export.FormOf(form)) // as the platform gave it out
	}
	return export.Forms(forms)
}

// export reads back what was written for the importer, and writes it in the other forms that are
// wanted.
func (r *runner) export(ctx context.Context, dir string) error {
	if err := r.run.ReadBack(ctx, dir, r.result.Report.Written); err != nil {
		return err
	}
	ready := r.ready(dir, line.FileNames[0], &r.run.Output, &r.opt.Book.Target, r.result.Report.Written.Rows, 0)
	head, cuts := r.run.Cuts()
	var err error
	if r.result.Parts, err = r.exportReady(ready, &r.opt.Book.Target, head, cuts, r.opt.forms()); err != nil {
		return err
	}
	for i := range r.run.Branches {
		b := &r.run.Branches[i]
		at := r.sheet.TargetAt(i)
		rules := &r.opt.Book.Targets[at].Rules
		going := r.ready(dir, b.ReadyName(), &b.Output, rules, b.Report.Written.Rows, at+1)
		t := &r.result.Targets[i]
		if t.None = r.opt.Book.Spreads() && b.Report.Written.Rows == 0 && b.Report.Held == 0; t.None {
			continue
		}
		t.As = r.opt.withForm(rules.As, r.opt.Book.Forms[at])
		if t.Parts, err = r.exportReady(going, rules, b.HeadSize, b.Cuts, t.As); err != nil {
			return fmt.Errorf("%s: %w", b.Name, err)
		}
	}
	if r.opt.Look {
		if err := ready.Look(); err != nil {
			return fmt.Errorf("%s: %w", export.LookName, err)
		}
	}
	if r.opt.Proof == nil {
		return nil
	}
	samples, err := ready.Samples(r.opt.Proof.SamplesWanted)
	if err != nil {
		return err
	}
	r.result.Samples = samples
	return r.opt.Proof.Write(dir, r.result, samples)
}

// ready returns what was written for a target, by its number, 0 for [target].
func (r *runner) ready(dir, name string, out *line.Output, rules *target.Rules, rows, n int) *export.Ready {
	above, below := out.HeadRows(r.table)
	ready := &export.Ready{
		Path: filepath.Join(dir, name), Output: out, Above: above, Below: below, Columns: &r.table.Columns, Sample: r.table.Sample,
		Source: r.table.Name, Date: r.opt.Date, Sheet: rules.Sheet, Rows: rows, Filled: r.sheet.FormFilled(n),
	}
	if ready.Filled != nil {
		if ready.Template = r.opt.Book.Form; n > 0 {
			ready.Template = r.opt.Book.Forms[n-1]
		}
	}
	return ready
}

// exportReady cuts what was written for a target into parts, if it is more than that takes, and writes it in other forms.
func (r *runner) exportReady(ready *export.Ready, rules *target.Rules, head int64, cuts []line.Cut, forms []string) (parts []export.Part, err error) {
	limits := rules.Limits
	if most := workbook.MostXLSRows - ready.Above - ready.Below; slices.Contains(forms, "xls") && (limits.Rows == 0 || limits.Rows > most) {
		limits.Rows = most
	}
	if ready.Output.Cuts {
		if parts, err = ready.Cut(limits, head, cuts, forms); err != nil || len(parts) > 0 {
			return parts, err // which have the forms
		}
	}
	for _, form := range forms {
		if err := ready.Write(form); err != nil {
			return nil, err
		}
	}
	return nil, nil
}

// A Proof says of which products a page is written to be looked at, and writes it.
type Proof struct {
	export.SamplesWanted
	Write func(dir string, r *Result, samples *export.Samples) error
}
