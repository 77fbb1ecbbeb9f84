package cli

import (
	"cmp"
	"fmt"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"zetanum/core/asking"
	"zetanum/core/catalogue"
	"zetanum/core/line"
	"zetanum/core/repair"
	"zetanum/core/rulebook"
	"zetanum/core/sections"
	"zetanum/core/target"
	"zetanum/core/template"
	"zetanum/internal/terminal"
)

// mostAsked is how many questions are put at a time.
const mostAsked = 10

// A talk puts questions to a person, line by line.
type talk struct {
	*session
	*terminal.Printer
	*asking.Talk
	echo   bool     // what is answered is not seen by itself
	orders int      // that were given
	begun  bool     // it has been said how answers are given
	most   int      // after how many questions it was asked last whether to go on
	idle   []string // the names of questions whose answers do nothing
}

// talk asks what a rulebook is to order, and writes it.
func (o *beginCommand) talk(s *session, file, path string) (int, error) {
	switch {
	case o.from != "":
		return exitUsage, usagef("-ask goes without -from; name what the shop has exported with -present")
	case path == "-":
		return exitUsage, usagef("-ask writes the rulebook as it is answered; name a file with -out")
	}
	opt, err := o.options(s, file, "")
	if err != nil {
		return exitFailed, err
	}
	var given sections.Given
	if given.Export, err = nameFrom(o.present, path); err != nil {
		return exitFailed, err
	}
	switch {
	case o.done != "": // what was made by hand says what fills its columns
		learnt, err := o.learn(file)
		if err != nil {
			return exitFailed, err
		}
		if given.Learned = learnt.Learned; !isThere(path) {
			if status, err := o.relearn(s, file, path, learnt); status != exitOK || err != nil {
				return status, err
			}
			s.printer().Line()
		}
	case o.template == target.Self:
		given.Template = target.Self
		given.Platform, err = template.LearnOwn(file)
	case o.template != "":
		if given.Template, err = nameFrom(o.template, path); err == nil {
			given.Platform, err = template.Learn(o.template)
		}
	}
	if err != nil {
		return exitFailed, err
	}
	t := &talk{session: s, Printer: s.printer(), echo: !terminal.IsTyped(s.stdin)}
	if t.Talk, err = asking.Begin(s.ctx, opt, path, given, func() (func(string, int64, int64), func()) {
		bar := terminal.NewBar(s.stderr)
		return bar.Update, bar.Stop
	}); err != nil {
		if wrongRules(err) {
			return exitUsage, usagef("%v", err)
		}
		return exitFailed, err
	}
	before := t.Now().Counts()
	t.Linef("%s: %s", t.Bold(file), stands(t.Now()))
	stopped, err := t.rounds()
	if err != nil {
		return exitFailed, err
	}
	t.end(before, stopped)
	next := o.repairs(file, o.sheet)
	if t.Unfilled() != nil {
		next = "zetanum begin -ask " + strings.Join(o.source(file, o.sheet), " ")
		for _, f := range [][2]string{{"template", o.template}, {"present", o.present}, {"done", o.done}, {"out", o.out}} {
			if f[1] != "" {
				next += " -" + f[0] + " " + quoted(f[1])
			}
		}
		s.suggest(next)
		return exitHeld, nil
	}
	if o.out != "" && t.Written() {
		next += " -rules " + quoted(path)
	}
	s.suggest(next)
	return exitOK, nil
}

// nameFrom returns the name of a file so that it is found from the folder of a rulebook, "" if none is named.
func nameFrom(file, path string) (string, error) {
	if file == "" {
		return "", nil
	}
	return rulebook.NameFrom(file, filepath.Dir(path))
}

// stands says how many rows are ready, and held.
func stands(r *repair.Result) string {
	c := r.Counts()
	says := fmt.Sprintf("%s of %s ready to import", thousands(c.Ready), plural(c.Read, "row is", "rows are"))
	if c.Held > 0 {
		says += fmt.Sprintf(", %s held", thousands(c.Held))
	}
	if c.Aside > 0 {
		says += fmt.Sprintf(", %s set aside", thousands(c.Aside))
	}
	return says + "."
}

// rounds puts all questions, some at a time, and reports whether somebody stopped it.
func (t *talk) rounds() (stopped bool, err error) {
	var again *sections.Question // the one to which somebody has gone back
	for put := 0; ; {
		open, err := t.open(again)
		if err != nil {
			return false, err
		}
		if len(open) == 0 {
			if put == 0 || !t.goesBack() {
				return false, nil
			}
			if again, err = t.back(&put); err != nil || again == nil {
				return false, err
			}
			continue
		}
		if t.pauses(put, len(open)) {
			return true, nil
		}
		said, err := t.question(&open[0], put+1, put+len(open))
		if err != nil {
			return false, err
		}
		again = nil
		switch said {
		case saidStop:
			return true, nil
		case saidBack:
			if again, err = t.back(&put); err != nil {
				return false, err
			}
			if again == nil {
				t.Line(indent, "This is the first one.")
				again = &open[0]
			}
		case saidAnswer:
			put++
		case saidNothing:
			t.idle = append(t.idle, open[0].Name)
		}
	}
}

// pauses says before the first question how answers are given, asks after some whether to go on, and reports whether that is not wanted.
func (t *talk) pauses(put, left int) bool {
	switch {
	case put == 0 && !t.begun:
		t.begun = true
		t.Wrap("", fmt.Sprintf("%s. Answer y (yes), n (no), s (show ten rows), w (why it is asked), l (later), b (back to the last one) or q (stop). "+
			"What is answered is in %s at once.", plural(left, "question", "questions"), t.Path()))
	case put > 0 && put%mostAsked == 0 && put > t.most:
		t.most = put
		t.Line()
		t.Ask("", fmt.Sprintf("%s put, %s left. Go on?", plural(put, "question is", "questions are"), thousands(left)), "[y/n]")
		answer, ok := t.answer()
		return !ok || !strings.HasPrefix(strings.ToLower(answer), "y") && answer != ""
	}
	return false
}

// goesBack asks once all is asked whether somebody wants to go back.
func (t *talk) goesBack() bool {
	t.Line()
	t.Ask("", "That was the last one. Enter ends it, b goes back to it.", "[Enter/back]")
	answer, ok := t.answer()
	return ok && answer != "" && strings.HasPrefix("back", strings.ToLower(answer))
}

// back takes the last answer back, and returns its question; nil if there is none.
func (t *talk) back(put *int) (*sections.Question, error) {
	question, ok, err := t.Back()
	if !ok || err != nil {
		return nil, err
	}
	*put--
	return &question, nil
}

// open returns the questions that are open, without those whose answers do nothing; the one to which somebody has gone back is the first.
func (t *talk) open(again *sections.Question) ([]sections.Question, error) {
	open, err := t.Questions()
	open = slices.DeleteFunc(open, func(q sections.Question) bool {
		return again != nil && q.Name == again.Name || slices.Contains(t.idle, q.Name)
	})
	if again != nil {
		open = slices.Insert(open, 0, *again)
	}
	return open, err
}

// What came of a question.
type said uint8

const (
	saidNothing said = iota // it was not put, because it does nothing
	saidAnswer
	saidBack
	saidStop
)

// question puts a question until it is answered.
func (t *talk) question(q *sections.Question, nth, of int) (said, error) {
	var yes *asking.Effect
	if len(q.Ways) == 1 && q.Ways[0].Type == "" {
		var err error
		if yes, err = t.Try(q, &q.Ways[0], q.Ways[0].Orders); err != nil || !q.Blind && !t.Does(q, yes) {
			return saidNothing, t.stop() // it does not go with what was answered before, or does nothing any more
		}
	}
	t.Line()
	number := fmt.Sprintf("%d/%d", nth, of)
	t.WrapHanging(fmt.Sprintf("%-*s", len(indent), number), indent, t.Bold(q.Says))
	examples := t.Of(q, yes)
	if len(examples) > 0 {
		t.example(&examples[0])
	}
	for wrong := 0; ; {
		choose := t.ask(q, wrong > 0)
		answer, ok := t.answer()
		if !ok {
			t.Line()
			return saidStop, nil
		}
		word := strings.ToLower(answer)
		is := func(whole string) bool { return word != "" && strings.HasPrefix(whole, word) }
		switch n, err := strconv.Atoi(word); {
		case is("back"):
			return saidBack, nil
		case is("quit"), word == "stop":
			return saidStop, nil
		case is("later"):
			t.Later(q)
			return saidAnswer, nil
		case is("show"):
			t.show(examples)
		case is("why"):
			t.why(q)
		case is("no"), err == nil && n == len(q.Ways)+1:
			return saidAnswer, t.Leave(q)
		case is("yes") && !choose, err == nil && n > 0 && n <= len(q.Ways):
			way := &q.Ways[max(n, 1)-1]
			done, err := t.take(q, way, yes)
			if done || err != nil {
				return saidAnswer, err
			}
			if wrong++; wrong > mostWrong {
				return saidStop, nil
			}
		case wrong == mostWrong:
			t.Wrap(indent, t.Open("These are no answers."))
			return saidStop, nil
		default:
			wrong++
			t.Wrap(indent, t.Open("Answer with one of the letters or numbers in brackets, and Enter; b goes back, q stops."))
		}
	}
}

// mostWrong is after how many lines that are no answers it is stopped: somebody has piped in something else.
const mostWrong = 3

// indent is before all that is said of a question.
const indent = "       "

// ask asks, and reports whether one of several ways is to be chosen by its number.
func (t *talk) ask(q *sections.Question, again bool) (choose bool) {
	if len(q.Ways) == 1 && q.Ways[0].Type == "" {
		t.Ask(indent, q.Asks, "[y/n/show/why/later]")
		return false
	}
	answers := fmt.Sprintf("[1-%d/show/why/later]", len(q.Ways)+1)
	if again {
		t.Ask(indent, "", answers)
		return true
	}
	t.Wrap(indent, q.Asks)
	for i, way := range q.Ways {
		says := way.Says
		if way.Type != "" {
			says += " (to be typed)"
		}
		t.WrapHanging(fmt.Sprintf("%s%d  ", indent, i+1), indent+"   ", says)
	}
	t.Linef("%s%d  %s", indent, len(q.Ways)+1, cmp.Or(q.Stay, "leave it as it is"))
	t.Ask(indent, "", answers)
	return true
}

// answer reads an answer.
func (t *talk) answer() (string, bool) {
	answer, ok := t.line()
	if ok && t.echo {
		t.Line(terminal.Clean(answer))
	}
	return answer, ok
}

// take takes an answer, and reports whether that is done.
func (t *talk) take(q *sections.Question, way *sections.Way, tried *asking.Effect) (done bool, err error) {
	orders := way.Orders
	if way.Type != "" {
		t.Ask(indent, fmt.Sprintf("Type %s:", way.Type), "")
		typed, ok := t.answer()
		if !ok {
			return false, nil
		}
		if orders, err = way.With(typed); err != nil {
			t.Wrap(indent, t.Open("That does not go: ")+terminal.Typed(err.Error()))
			return false, nil
		}
		tried = nil
	}
	if tried == nil {
		if tried, err = t.Try(q, way, orders); err != nil {
			t.Wrap(indent, t.Open("That does not go: ")+terminal.Typed(err.Error()))
			return false, t.stop()
		}
	}
	if !q.Blind && !t.Does(q, tried) {
		t.Wrap(indent, t.Open("That would change nothing here; choose another answer."))
		return false, nil
	}
	was := t.Now().Counts()
	if err := t.Answer(q, tried); err != nil {
		return false, err
	}
	t.orders++
	if is := t.Now().Counts(); is.Ready != was.Ready || is.Held != was.Held || is.Aside != was.Aside {
		t.Wrap(indent, t.Good(stands(t.Now())))
	}
	return true, nil
}

// stop returns an error if the program is to stop.
func (t *talk) stop() error { return t.ctx.Err() }

func (t *talk) example(e *line.Example) {
	cell, after := e.Cell, e.After
	if after != "" {
		cell, after = fromDifference(cell, after)
	}
	says := visible(cell, 60)
	if after != "" {
		says += " → " + visible(after, 60)
	}
	row := fmt.Sprintf("row %d", e.Row)
	t.WrapHanging(indent+t.Faint(row)+"  ", indent+strings.Repeat(" ", len(row)+2), says)
}

// fromDifference returns two texts from a little before the place where they begin to differ.
func fromDifference(a, b string) (string, string) {
	const before = 12 // characters
	was, is := []rune(a), []rune(b)
	n := 0
	for n < len(was) && n < len(is) && was[n] == is[n] {
		n++
	}
	if n < 2*before {
		return a, b
	}
	return "…" + string(was[n-before:]), "…" + string(is[n-before:])
}

// show shows rows of what a question is about.
func (t *talk) show(examples []line.Example) {
	if len(examples) < 2 {
		t.Line(indent, "There is no other row to show.")
	}
	list := slices.Clone(examples[min(1, len(examples)):])
	slices.SortFunc(list, func(a, b line.Example) int { return a.Row - b.Row })
	for i := range list {
		t.example(&list[i])
	}
}

// why says why a question is put.
func (t *talk) why(q *sections.Question) {
	if q.Finding != catalogue.NoFinding {
		t.finding(q.Finding)
		return
	}
	for _, way := range q.Ways {
		for _, o := range way.Orders {
			for _, l := range o.Lines {
				if says := sections.Says(o.Table, l.Key); says != "" {
					t.Wrap(indent, terminal.Typed(says))
					return
				}
			}
		}
	}
	t.Wrap(indent, "An order is written for it into the rulebook; “zetanum help rulebook” explains all of them.")
}

// finding says what a finding means.
func (t *talk) finding(code catalogue.Code) {
	e := code.Entry()
	t.WrapHanging(indent+t.Bold(e.Name)+"  ", indent, e.Title+", "+severityMeans[e.Severity])
	t.Wrap(indent, blanked(e.Sentence))
	t.Wrap(indent, terminal.Typed(e.Do))
}

// end says what the answers have come to, and what stays held.
func (t *talk) end(before repair.Counts, stopped bool) {
	t.Line()
	switch {
	case stopped:
		t.Line("Stopped. The same command goes on with what is not answered yet.")
	default:
		t.Line("Nothing is left to ask.")
	}
	if t.orders > 0 {
		t.Linef("%s has the answers: %s.", t.Bold(t.Path()), plural(t.orders, "order", "orders")+" more")
	}
	if err := t.Unfilled(); err != nil {
		t.Wrap("", t.Open("No file in the form of the template can be made yet: ")+terminal.Typed(err.Error()))
	}
	c := t.Now().Counts()
	if c.Ready != before.Ready || c.Held != before.Held || c.Aside != before.Aside {
		t.Linef("By them %s", stands(t.Now()))
		t.Line(t.Faint(fmt.Sprintf("Before, %s were ready, %s held, and %s set aside.", thousands(before.Ready), thousands(before.Held), thousands(before.Aside))))
	}
	if c.Held == 0 || stopped {
		return
	}
	t.Head("What stays held, and what to do about it")
	found := t.Now().Holding()
	for i := range found {
		f := &found[i]
		t.WrapHanging(t.Open(fmt.Sprintf("%5s", thousands(f.Holds)))+"  ", "       ", fmt.Sprintf("%s: %s", t.Now().Heading(f.Col), f.Code.Entry().Title))
		t.Wrap("       ", t.Faint(terminal.Typed(f.Code.Entry().Do)))
	}
}
