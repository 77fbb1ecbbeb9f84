// Package asking puts what a rulebook could order as questions, and writes the answers into a rulebook that reads as if a person had written it.
//
// Nothing of what an answer does is foretold: it is tried. The file is repaired by the rulebook as it stands, and by the same with the answer in
// it, without writing anything, and what differs is what the answer does. A question whose answers do nothing is not put.
package asking

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/folder"
	"zetanum/core/line"
	"zetanum/core/repair"
	"zetanum/core/rulebook"
	"zetanum/core/sections"
	"zetanum/core/target"
	"zetanum/core/template"
)

// examples is how many rows can be shown of what a question is about, besides the one that is shown first.
const examples = 10

// A Talk asks about one file. Each answer is in its rulebook on the disk before the next question is put, so that it may be left at any.
type Talk struct {
	ctx  context.Context
	opt  repair.Options
	bar  Bar
	path string // of the rulebook
	text []byte // of it, as it stands
	new  bool   // it was not there before

	now  outcome        // what the file comes to by it
	seen *sections.Seen // what a look at the file found; nil before one, and where an answer makes another of it

	given sections.Given
	past  []past
	later []string // the names of questions that were put off
}

// A past is how things were before an answer.
type past struct {
	question sections.Question
	text     []byte
	new      bool
	now      outcome
	later    int
}

// An outcome is what a file comes to by a rulebook.
type outcome struct {
	*repair.Result
	unfilled error // what a template demands and nothing fills, so that it was repaired without that; nil if there is nothing
}

// A Bar shows how far a run is; stop takes it away.
type Bar func() (progress func(stage string, done, total int64), stop func())

// Begin looks at a file, by the rulebook of that path if it is there. The orders that follow from what is given without a question are written at
// once, unless a template among it demands what nothing fills yet. bar shows how far each run is; nil for nothing.
func Begin(ctx context.Context, opt repair.Options, path string, given sections.Given, bar Bar) (*Talk, error) {
	t := &Talk{ctx: ctx, opt: opt, path: path, given: given, bar: bar}
	t.opt.Examples = examples + 1
	content, err := os.ReadFile(path)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		t.new, t.text = true, []byte(fmt.Sprintf("# How this shop wants its catalogue, by what was answered about %s.\n", filepath.Base(opt.Input)))
	case err != nil:
		return nil, err
	default:
		t.text = content
	}
	begun := t.text
	if given.Export != "" {
		t.put(sections.Present(given.Export))
	}
	if given.Template != "" {
		v, err := t.see()
		if err != nil {
			return nil, err
		}
		t.put(sections.Sure(v))
	}
	if t.now, err = t.run(t.text); err == nil && t.now.unfilled == nil && !bytes.Equal(t.text, begun) {
		err = t.save() // what was named stands in it, whatever is answered
	}
	return t, err
}

// put adds orders that need no answer, where the rulebook does not say something else.
func (t *Talk) put(orders []sections.Sayable) {
	for _, o := range orders {
		var left []rulebook.Line
		for _, l := range o.Order.Lines {
			if one := (rulebook.Order{Table: o.Order.Table, Lines: []rulebook.Line{l}}); !rulebook.Has(t.text, one) {
				left = append(left, l)
			}
		}
		if o.Order.Lines = left; left != nil {
			t.text = rulebook.Add(t.text, o.Order, o.Says, sections.Places())
		}
	}
}

// Path returns the name of the rulebook.
func (t *Talk) Path() string { return t.path }

// Written reports whether the rulebook is on the disk: whether anything has been answered.
func (t *Talk) Written() bool { return !t.new }

// Now returns what the file comes to by the rulebook as it stands.
func (t *Talk) Now() *repair.Result { return t.now.Result }

// run repairs the file by the text of a rulebook, and writes nothing. As long as a template demands what nothing fills, it is repaired without that.
func (t *Talk) run(text []byte) (o outcome, err error) {
	opt, done, err := t.options(text)
	if err != nil {
		return o, err
	}
	defer done()
	if o.Result, err = repair.Run(t.ctx, opt); errors.Is(err, sections.ErrUnfilled) {
		o.unfilled, opt.Book.Target = err, target.Rules{}
		o.Result, err = repair.Run(t.ctx, opt)
	}
	return o, err
}

// Unfilled returns why no file can be made in the form of the template yet, nil if it can.
func (t *Talk) Unfilled() error { return t.now.unfilled }

// options returns those of a run by the text of a rulebook, with a folder for what is needed for a while.
func (t *Talk) options(text []byte) (opt repair.Options, done func(), err error) {
	book, err := sections.Parse(t.path, text)
	if err != nil {
		return opt, nil, err
	}
	temp, err := folder.NewTemp()
	if err != nil {
		return opt, nil, err
	}
	opt = t.opt
	opt.Book, opt.Temp, done = *book, temp.Dir, func() { temp.Remove() }
	if t.bar != nil {
		progress, stop := t.bar()
		opt.Progress, done = progress, func() { stop(); temp.Remove() }
	}
	return opt, done, nil
}

// see looks at the file by the rulebook as it stands, or takes what a look has found before.
func (t *Talk) see() (*sections.Seen, error) {
	if t.seen == nil {
		opt, done, err := t.options(t.text)
		if err != nil {
			return nil, err
		}
		defer done()
		opt.Book.Target = target.Rules{} // which is no matter of what the file has
		look, err := repair.Look(t.ctx, opt)
		if err != nil {
			return nil, err
		}
		v := See(look, t.now.Result)
		if t.now.Result != nil {
			beside(v, t.now.Result, filepath.Dir(t.path), opt.Temp)
		}
		if v.Given = t.given; v.Platform != nil {
			v.Offers = template.OffersOf(&look.Source.Columns, look.Sample)
			v.Matches = v.Platform.Match(v.Offers)
		}
		t.seen = v
	}
	if t.now.Result != nil {
		check(t.seen, t.now.Result)
	}
	return t.seen, nil
}

// Questions returns the questions that are open, those that touch most rows first.
func (t *Talk) Questions() (open []sections.Question, err error) {
	v, err := t.see()
	if err != nil {
		return nil, err
	}
	for _, q := range sections.Questions(v) {
		if !slices.Contains(t.later, q.Name) && !t.said(&q) {
			open = append(open, q)
		}
	}
	return open, nil
}

// looked are the tables whose orders make another of what a look finds.
var looked = []string{"headings", "products", "options", "sheet"}

// said reports whether the rulebook says already what an answer would say, or something else in its place, or that it is left as it is.
func (t *Talk) said(q *sections.Question) bool {
	says := func(o rulebook.Order) bool { return rulebook.Has(t.text, o) }
	return slices.ContainsFunc(q.Leave(), says) || slices.ContainsFunc(q.Keys, says) || slices.ContainsFunc(q.Ways, func(w sections.Way) bool { return slices.ContainsFunc(w.Orders, says) })
}

// An Effect is what an answer does.
type Effect struct {
	Cells    int // that are changed, and were not
	Examples []line.Example
	result   outcome
	text     []byte
	look     bool // what a look finds is another by it
}

// Try tries an answer. The error says why it does not go with the rulebook or the file.
func (t *Talk) Try(q *sections.Question, way *sections.Way, orders []rulebook.Order) (*Effect, error) {
	text, look := t.text, false
	says := strings.TrimSpace(q.Says + " " + q.Asks + " " + way.Answer())
	for i, o := range orders {
		if i > 0 && orders[i-1].Table == o.Table {
			says = ""
		}
		text, look = rulebook.Add(text, o, says, sections.Places()), look || slices.Contains(looked, o.Table)
	}
	result, err := t.run(text)
	if err != nil {
		return nil, err
	}
	e := &Effect{result: result, text: text, look: look}
	for i := range result.Report.Repaired {
		c := &result.Report.Repaired[i]
		before := t.now.Changed(c)
		if before != nil && before.Cells >= c.Cells {
			continue
		}
		e.Cells += c.Cells
		if before != nil {
			e.Cells -= before.Cells
		}
		if c.Ground == catalogue.Certain && before != nil { // in rows that were held before
			continue
		}
		for _, one := range c.Examples {
			if before == nil || !slices.Contains(before.Examples, one) {
				e.Examples = append(e.Examples, one)
			}
		}
	}
	return e, nil
}

// Does reports whether an answer does anything that shows in rows and, where the question is about a finding, anything about that.
func (t *Talk) Does(q *sections.Question, e *Effect) bool {
	was, is := t.now.Result, e.result.Result
	if q.Finding != catalogue.NoFinding && open(was, q) <= open(is, q) {
		return false
	}
	if was.Counts() != is.Counts() || e.Cells > 0 || len(was.Report.Found) != len(is.Report.Found) {
		return true
	}
	for i := range was.Report.Found {
		a, b := &was.Report.Found[i], &is.Report.Found[i]
		if a.Code != b.Code || a.Cells != b.Cells || a.Open() != b.Open() {
			return true
		}
	}
	return false
}

// open returns how many cells or rows are open of the finding that a question is about.
func open(r *repair.Result, q *sections.Question) (n int) {
	for i := range r.Report.Found {
		if f := &r.Report.Found[i]; f.Code == q.Finding && (q.Column == "" || r.Heading(f.Col) == q.Column) {
			n += f.Open()
		}
	}
	return n
}

// Of returns examples of what a question is about: what an answer changes, or what was found.
func (t *Talk) Of(q *sections.Question, e *Effect) (list []line.Example) {
	if e != nil {
		list = e.Examples
	}
	for i := range t.now.Report.Found {
		if f := &t.now.Report.Found[i]; len(list) == 0 && f.Code == q.Finding && (q.Column == "" || t.now.Heading(f.Col) == q.Column) {
			list = f.Examples
		}
	}
	return list[:min(len(list), examples+1)]
}

// Answer takes an answer down that has been tried.
func (t *Talk) Answer(q *sections.Question, e *Effect) error {
	t.remember(q)
	if t.text, t.now = e.text, e.result; e.look {
		t.seen = nil
	}
	return t.save()
}

// Leave takes down that things are to be left as they are.
func (t *Talk) Leave(q *sections.Question) error {
	t.remember(q)
	for _, o := range q.Leave() {
		t.text = rulebook.Add(t.text, o, q.Says+" "+q.Asks, sections.Places())
	}
	if q.No != nil {
		var err error
		if t.now, err = t.run(t.text); err != nil {
			return err
		}
	}
	return t.save()
}

// Later puts a question off: it is put again the next time.
func (t *Talk) Later(q *sections.Question) {
	t.remember(q)
	t.later = append(t.later, q.Name)
}

func (t *Talk) remember(q *sections.Question) {
	t.past = append(t.past, past{*q, t.text, t.new, t.now, len(t.later)})
}

// Back takes the last answer back, and returns its question; ok is false if there is none.
func (t *Talk) Back() (q sections.Question, ok bool, err error) {
	n := len(t.past)
	if n == 0 {
		return q, false, nil
	}
	p := t.past[n-1]
	t.past, t.text, t.now, t.later, t.seen = t.past[:n-1], p.text, p.now, t.later[:p.later], nil
	if p.new && !t.new {
		t.new = true
		return p.question, true, os.Remove(t.path)
	}
	if t.new {
		return p.question, true, nil
	}
	return p.question, true, t.save()
}

// save writes the rulebook.
func (t *Talk) save() error {
	t.new = false
	return sections.Write(t.path, t.text)
}
