package cli

import (
	_ "embed"
	"flag"
	"fmt"
	"io"
	"regexp"
	"runtime"

	"zetanum/core/sections"
	"zetanum/internal/terminal"
)

type helpCommand struct {
	noFlags
}

func (*helpCommand) about() about {
	return about{
		name: "help", args: "[COMMAND]",
		short:    "explain a command",
		long:     "Lists the commands, or explains one and its flags.",
		examples: []string{"zetanum help repair", "zetanum help jobs", "zetanum help rulebook"},
	}
}

type versionCommand struct {
	noFlags
}

func (*versionCommand) about() about {
	return about{
		name:     "version",
		short:    "print the version",
		long:     "Prints the version of the program and the system it was built for.",
		examples: []string{"zetanum version"},
	}
}

func (o *helpCommand) run(s *session, names []string) (int, error) {
	p := s.printer()
	if len(names) > 0 && names[0] == "rulebook" {
		_, err := io.WriteString(s.stdout, terminal.Typed(sections.Reference()))
		return exitOK, err
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
	return exitOK, nil
}

//go:embed jobs.md
var jobsText string

// checked fits what the page says to its test: the file on which lines of a rulebook are tried, and what
// comes of it.
var checked = regexp.MustCompile(`<!-- .* -->\n\n`)

// jobs returns the page of jobs.
func jobs() string { return checked.ReplaceAllString(jobsText, "") }

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

func (*versionCommand) run(s *session, _ []string) (int, error) {
	_, err := fmt.Fprintf(s.stdout, "zetanum %s %s/%s\n", Version, runtime.GOOS, runtime.GOARCH)
	return exitOK, err
}
