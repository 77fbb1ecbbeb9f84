package cli

import (
	"cmp"
	"context"
	_ "embed"
	"errors"
	"flag"
	"fmt"
	"io"
	"runtime"
	"runtime/debug"
	"slices"
	"strings"
	"time"

	"zetanum/core/lazy"
	"zetanum/core/sections"
	"zetanum/internal/licences"
	"zetanum/internal/terminal"
)

type helpCommand struct {
	noFlags
}

func (*helpCommand) about() about {
	return about{
		name: "help", args: "[COMMAND]",
		short: "explain a command",
		long: "Lists the commands, or explains one and its flags. “help jobs” shows how jobs are done, and “help jobs price” those that have to do with prices. " +
			"“help rulebook” explains every key of a rulebook; “help man” is all commands as a page for man.",
		examples: []string{"zetanum help repair", "zetanum help jobs price", "zetanum help jobs", "zetanum help rulebook", "zetanum help man"},
	}
}

type versionCommand struct{ licences bool }

func (*versionCommand) about() about {
	return about{
		name:     "version",
		short:    "print the version",
		long:     "Prints the version of the program, the system it was built for, the commit it was built from, and the version of Go. With -licences it prints the licences of all that is built in.",
		examples: []string{"zetanum version", "zetanum version -licences"},
	}
}

func (o *versionCommand) flags(f *flag.FlagSet) {
	f.BoolVar(&o.licences, "licences", false, "print the licences of all that is built in")
}

func (o *helpCommand) run(s *session, names []string) (int, error) {
	p := s.printer()
	if len(names) > 0 && names[0] == "rulebook" {
		_, err := io.WriteString(s.stdout, terminal.Typed(sections.Reference()))
		return exitOK, err
	}
	if len(names) > 0 && names[0] == "man" {
		_, err := io.WriteString(s.stdout, manPage(pageDate))
		return exitOK, err
	}
	if len(names) > 1 && names[0] == "jobs" {
		return searchJobs(s, names[1:])
	}
	if len(names) > 0 && names[0] == "jobs" {
		_, err := io.WriteString(s.stdout, jobs())
		return exitOK, err
	}
	if len(names) > 0 {
		c := findCommand(names[0])
		if c == nil {
			return exitUsage, &usageError{fmt.Sprintf("there is no command %q", names[0]), suggestion(names[0])}
		}
		printCommand(p, c)
		s.suggest(c.about().examples[0])
		return exitOK, nil
	}
	p.Wrap("", "Zetanum repairs product spreadsheets before they are imported into a shop. It writes only what it can prove, never touches the file it reads, and says about everything else what is known and what to do.")
	p.Head("Start with")
	p.Line("  zetanum FILE            look at a file; changes nothing")
	p.Line("  zetanum demo            lay out a damaged catalogue and repair it")
	p.Head("Commands")
	t := &terminal.Table{}
	for _, c := range commands() {
		a := c.about()
		t.Rows = append(t.Rows, []string{a.name + " " + a.args, a.short})
	}
	p.Table(t)
	p.Head("Exit status")
	p.Line("  0 nothing is held   1 something is held   2 wrong use   3 a file could not be read or written")
	p.Line()
	p.Line("“zetanum help COMMAND” explains one command and its flags, “zetanum help rulebook” every key of a rulebook, and “zetanum help jobs” how " +
		"jobs are done.")
	s.suggest("zetanum demo")
	return exitOK, nil
}

// welcome is what the program says by itself.
func (s *session) welcome() {
	p := s.printer()
	p.Line("Zetanum repairs product spreadsheets before they are imported into a shop:")
	p.Line("barcodes that a spreadsheet program spoilt, titles, tags, texts, links, prices.")
	p.Line("Only what is proved is written, and no file of yours is ever changed.")
	p.Line()
	t := &terminal.Table{}
	for _, row := range [][]string{
		{"look at a file", "zetanum stock.csv"},
		{"repair it", "zetanum repair stock.csv"},
		{"say how, by answering questions", "zetanum begin -ask stock.csv"},
		{"try the import before it is made", "zetanum rehearse ready.csv -present shop.csv"},
		{"see all of it on an example", "zetanum demo"},
	} {
		t.Rows = append(t.Rows, []string{row[0], p.Bold(row[1])})
	}
	p.Table(t)
	p.Line()
	p.Table(&terminal.Table{Rows: [][]string{
		{"zetanum help", "all commands; help COMMAND explains one"}, {"zetanum help jobs", "how jobs are done; help jobs price: those about prices"},
		{"zetanum finding CODE", "what a finding means and what to do about it"},
	}})
	s.suggest("zetanum demo")
}

//go:embed jobs.md
var jobsText string

// checked fits what the page says to its test: the file on which lines of a rulebook are tried, and what
// comes of it.
var checked = lazy.New(`<!-- .* -->\n\n`)

// jobs returns the page of jobs.
func jobs() string { return checked.ReplaceAllString(jobsText, "") }

// mostJobs is how many jobs are shown whole that have the words that are looked for.
const mostJobs = 4

// findJobs returns the jobs that have all words: those first whose names have them.
func findJobs(words []string) []string {
	group, named, others := "", []string{}, []string{}
	for _, part := range strings.Split("\n"+jobs(), "\n#")[1:] {
		part = "#" + part
		if name, ok := strings.CutPrefix(part, "## "); ok {
			group, _, _ = strings.Cut(name, "\n")
			continue
		}
		title, _, _ := strings.Cut(part, "\n")
		has := func(text string) bool {
			text = strings.ToLower(text)
			return !slices.ContainsFunc(words, func(w string) bool { return !strings.Contains(text, strings.ToLower(w)) })
		}
		switch {
		case !strings.HasPrefix(part, "### "):
		case has(title + " " + group):
			named = append(named, part)
		case has(part):
			others = append(others, part)
		}
	}
	return append(named, others...)
}

// searchJobs shows the jobs that have all words.
func searchJobs(s *session, words []string) (int, error) {
	found := findJobs(words)
	if len(found) == 0 {
		return exitUsage, &usageError{fmt.Sprintf("no job has “%s”", strings.Join(words, " ")), "“zetanum help jobs” shows all of them."}
	}
	for _, job := range found[:min(mostJobs, len(found))] {
		if _, err := fmt.Fprintln(s.stdout, strings.TrimRight(job, "\n")+"\n"); err != nil {
			return exitFailed, err
		}
	}
	p := s.printer()
	if len(found) > mostJobs {
		p.Line("More that have it; a further word narrows them:")
		for _, job := range found[mostJobs:] {
			title, _, _ := strings.Cut(strings.TrimPrefix(job, "### "), "\n")
			p.Line("  ", title)
		}
	}
	s.suggest("zetanum help jobs")
	return exitOK, nil
}

// pageDate is the date that the page for man bears: that of the last change of what it says.
const pageDate = "December 1, 2026"

func printCommand(p *terminal.Printer, c command) {
	about, flags := c.about(), newFlags(c)
	some := false
	flags.VisitAll(func(*flag.Flag) { some = true })
	usage := "zetanum " + about.name
	if some {
		usage += " [flags]"
	}
	if about.args != "" {
		usage += " " + about.args
	}
	p.Line(p.Bold(usage))
	p.Line()
	p.Wrap("", about.long)
	p.Head("Examples, in the folder of the demo")
	for _, e := range about.examples {
		p.Line("  ", e)
	}
	if !some {
		return
	}
	p.Head("Flags, before or behind the files")
	flags.VisitAll(func(f *flag.Flag) {
		name, text := flag.UnquoteUsage(f)
		head := "  -" + f.Name
		if name != "" && name != "value" {
			head += " " + name
		}
		if len(head) < 24 {
			head = fmt.Sprintf("%-24s", head)
		} else {
			head += "  "
		}
		p.WrapHanging(head, "                        ", text)
	})
}

func (o *versionCommand) run(s *session, _ []string) (int, error) {
	if o.licences {
		_, err := io.WriteString(s.stdout, licences.Text)
		return exitOK, err
	}
	from := commit
	if info, ok := debug.ReadBuildInfo(); ok && from == "" {
		changed := ""
		for _, set := range info.Settings {
			switch {
			case set.Key == "vcs.revision":
				from = set.Value[:min(12, len(set.Value))]
			case set.Key == "vcs.modified" && set.Value == "true":
				changed = " with changes"
			}
		}
		from += changed
	}
	_, err := fmt.Fprintf(s.stdout, "zetanum %s %s/%s\ncommit %s\n%s\n", Version, runtime.GOOS, runtime.GOARCH, cmp.Or(from, "unknown"), runtime.Version())
	return exitOK, err
}

// Says returns what a command prints that needs no file, such as a page of the help.
func Says(args ...string) (string, error) {
	var out, errs strings.Builder
	s := &session{ctx: context.Background(), stdin: strings.NewReader(""), stdout: &out, stderr: &errs, now: time.Now, plain: true}
	if status := s.run(args); status != exitOK {
		return "", errors.New(strings.TrimSpace(errs.String()))
	}
	return out.String(), nil
}
