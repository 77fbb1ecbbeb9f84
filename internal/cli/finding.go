package cli

import (
	"flag"
	"fmt"
	"io"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/text"
	"zetanum/internal/terminal"
)

type findingCommand struct {
	all bool
}

func (*findingCommand) about() about {
	return about{
		name: "finding", args: "[CODE]",
		short: "explain what a finding means and what to do",
		long: "Says what a finding means, gives an example and says what to do. Without a code it lists all findings; with -all it " +
			"writes the reference page as Markdown.",
		examples: []string{"zetanum finding", "zetanum finding barcode.rounded"},
	}
}

func (o *findingCommand) flags(f *flag.FlagSet) {
	f.BoolVar(&o.all, "all", false, "write all of them as one Markdown page")
}

func (o *findingCommand) run(s *session, names []string) (int, error) {
	if o.all {
		return exitOK, writeFindings(s.stdout)
	}
	p := s.printer()
	if len(names) == 0 {
		t := &terminal.Table{Headings: []string{"code", "severity", "what"}}
		for _, c := range catalogue.Codes() {
			t.Rows = append(t.Rows, []string{c.String(), c.Entry().Severity.String(), c.Entry().Title})
		}
		p.Table(t)
		p.Line()
		p.Line("“zetanum finding CODE” explains one.")
		s.suggest("zetanum finding", catalogue.Codes()[0].String())
		return exitOK, nil
	}
	for i, name := range names {
		code, ok := catalogue.FindCode(name)
		if !ok {
			return exitUsage, &usageError{fmt.Sprintf("there is no finding %q", name), nearestFinding(name)}
		}
		if i > 0 {
			p.Line()
		}
		e := code.Entry()
		p.Linef("%s  %s", p.Bold(e.Name), p.Faint(e.Severity.String()+": "+severityMeans[e.Severity]))
		p.Wrap("", e.Title+".")
		p.Line()
		p.WrapHanging("says      ", "          ", blanked(e.Sentence))
		p.WrapHanging("example   ", "          ", terminal.Typed(e.Example))
		p.WrapHanging("what now  ", "          ", terminal.Typed(e.Do))
		before := "answers   "
		for _, a := range answersTo(code) {
			p.WrapHanging(before, "          ", fmt.Sprintf("%s  %s", p.Bold(a.command), a.does))
			before = "          "
		}
	}
	group, _, _ := strings.Cut(names[len(names)-1], ".")
	if s.suggest("zetanum help jobs"); len(findJobs([]string{group})) > 0 {
		s.suggest("zetanum help jobs", group)
	}
	return exitOK, nil
}

// A commandAnswer is a command that answers a finding, and what it does.
type commandAnswer struct{ command, does string }

// answersTo returns the answers that a finding takes.
func answersTo(code catalogue.Code) (list []commandAnswer) {
	name := code.String()
	for _, a := range []struct {
		answer        catalogue.Answer
		command, does string
	}{
		{catalogue.Yes, "-yes " + name, "writes what is likely"},
		{catalogue.No, "-no " + name, "leaves it open, and asks no more"},
		{catalogue.Blank, "-answer " + name + ":blank", "writes the cells empty"},
		{catalogue.Keep, "-answer " + name + ":keep", "lets them go out as they are"},
		{catalogue.LeaveOut, "-answer " + name + ":aside", "sets the products aside"},
		{catalogue.Hold, "-hold " + name, "holds the products back"},
	} {
		if code.Takes(a.answer) && (a.answer != catalogue.Hold || code.Entry().Severity < catalogue.Error) {
			list = append(list, commandAnswer{a.command, a.does})
		}
	}
	if value := code.Entry().Value; value != "" {
		list = append(list, commandAnswer{"-answer " + name + ":" + value, "takes that"})
	}
	return list
}

var severityMeans = map[catalogue.Severity]string{
	catalogue.Error:   "holds the product back",
	catalogue.Warning: "holds nothing back, but look at it",
	catalogue.Note:    "for your information",
}

// blanked writes an ellipsis where a sentence has the facts of a case.
func blanked(sentence string) string {
	var b strings.Builder
	for {
		i := strings.IndexByte(sentence, '{')
		j := strings.IndexByte(sentence, '}')
		if i < 0 || j < i {
			b.WriteString(sentence)
			return b.String()
		}
		b.WriteString(sentence[:i] + "…")
		sentence = sentence[j+1:]
	}
}

func nearestFinding(name string) string {
	best, distance := "", len(name)/2+1
	for _, c := range catalogue.Codes() {
		if d := text.Edits(strings.ToLower(name), c.String()); d < distance {
			best, distance = c.String(), d
		}
	}
	if best == "" {
		return "“zetanum finding” lists them."
	}
	return fmt.Sprintf("Did you mean %s? “zetanum finding” lists them.", best)
}

// writeFindings writes the reference page of all findings and rules.
func writeFindings(w io.Writer) error {
	var b strings.Builder
	b.WriteString("# Findings and repairs\n\nWritten by `zetanum finding -all`; do not edit by hand.\n\n" +
		"A finding is something noticed about a cell, a row or a product. An *error* holds the product back until it is settled; a " +
		"*warning* or a *note* holds nothing back.\n")
	for _, severity := range []catalogue.Severity{catalogue.Error, catalogue.Warning, catalogue.Note} {
		fmt.Fprintf(&b, "\n## %ss\n", strings.ToUpper(severity.String()[:1])+severity.String()[1:])
		for _, c := range catalogue.Codes() {
			e := c.Entry()
			if e.Severity != severity {
				continue
			}
			fmt.Fprintf(&b, "\n### `%s`\n\n%s.\n\n", e.Name, strings.ToUpper(e.Title[:1])+e.Title[1:])
			fmt.Fprintf(&b, "- Says: %s\n- Example: `%s`\n- What now: %s\n", blanked(e.Sentence), terminal.Typed(e.Example),
				terminal.Typed(e.Do))
			if answers := answersTo(c); answers != nil {
				b.WriteString("- Answers:")
				for i, a := range answers {
					if i > 0 {
						b.WriteByte(';')
					}
					fmt.Fprintf(&b, " `%s` %s", a.command, a.does)
				}
				b.WriteString("\n")
			}
		}
	}
	b.WriteString("\n## Repairs\n\nEvery change carries its ground: *certain*, the content or arithmetic proves it; *backed*, a second " +
		"source says the same. " +
		"What is only *likely* is said, never written.\n\n| rule | what it does |\n|---|---|\n")
	for _, r := range catalogue.Rules() {
		fmt.Fprintf(&b, "| `%s` | %s |\n", r, r.Entry().Title)
	}
	_, err := io.WriteString(w, b.String())
	return err
}
