package cli

import (
	"flag"
	"fmt"
	"strings"

	"zetanum/core/rulebook"
)

// manPage writes the page of the program for man, in mdoc, from what the help is made of.
func manPage(date string) string {
	var b strings.Builder
	line := func(format string, args ...any) { fmt.Fprintf(&b, format+"\n", args...) }
	line(".Dd %s", date)
	line(".Dt ZETANUM 1")
	line(".Os")
	line(".Sh NAME")
	line(".Nm zetanum")
	line(".Nd repair product spreadsheets before they are imported into a shop")
	line(".Sh SYNOPSIS")
	line(".Nm zetanum")
	line(".Ar FILE")
	for _, c := range commands() {
		line(".Nm zetanum")
		line(".Cm %s", c.about().name)
		if some(c) {
			line(".Op Ar flags")
		}
		if args := c.about().args; args != "" {
			line(".Ar %s", roff(args))
		}
	}
	line(".Sh DESCRIPTION")
	line(".Nm")
	paragraph(&b, "repairs what a spreadsheet program and many hands have done to a product catalogue. It writes only what it can prove, never touches the file that it reads, "+
		"and says about everything else what is known and what to do.")
	line(".Sh COMMANDS")
	line("Flags may stand before, between or behind the files.")
	for _, c := range commands() {
		a := c.about()
		line(".Ss zetanum %s %s", a.name, roff(a.args))
		paragraph(&b, a.long)
		if some(c) {
			line(".Bl -tag -width Ds")
			newFlags(c).VisitAll(func(f *flag.Flag) {
				name, says := flag.UnquoteUsage(f)
				if name == "value" {
					name = ""
				}
				if name != "" {
					line(".It Fl %s Ar %s", f.Name, roff(name))
				} else {
					line(".It Fl %s", f.Name)
				}
				paragraph(&b, says)
			})
			line(".El")
		}
		line(".Pp")
		line("For example:")
		for _, e := range a.examples {
			line(".Dl %s", roff(e))
		}
	}
	line(".Sh ENVIRONMENT")
	line(".Bl -tag -width Ds")
	line(".It Ev NO_COLOR")
	line("If it is set, nothing is written in colour.")
	line(".It Ev GOGC , GOMEMLIMIT")
	line("Bound the memory that is used, as for every program of this make.")
	line("Without GOMEMLIMIT the bound is four fifths of what the container may have, or the machine has.")
	line(".El")
	line(".Sh FILES")
	line(".Bl -tag -width Ds")
	line(".It Pa zetanum.toml")
	line("The rulebook, beside the input or in the working folder:")
	line(".Nm")
	line(".Cm help rulebook")
	line("explains every key.")
	line(".It Pa NAME.repaired")
	line("The folder with what came of the file")
	line(".Pa NAME .")
	line(".El")
	line(".Sh EXIT STATUS")
	line(".Bl -tag -width Ds -compact")
	for _, s := range [][2]string{{"0", "nothing is held"}, {"1", "something is held"}, {"2", "wrong use, or a wrong rulebook"}, {"3", "a file could not be read or written"}} {
		line(".It %s", s[0])
		line("%s", s[1])
	}
	line(".El")
	return b.String()
}

// some reports whether a command has flags.
func some(c command) (has bool) {
	newFlags(c).VisitAll(func(*flag.Flag) { has = true })
	return has
}

// roff writes a text so that nothing in it is taken for a request.
func roff(s string) string {
	s = strings.NewReplacer(`\`, `\e`, "…", "...", "“", `\(lq`, "”", `\(rq`, "–", `\(en`, "→", `\(->`).Replace(s)
	if strings.HasPrefix(s, ".") || strings.HasPrefix(s, "'") {
		s = `\&` + s
	}
	return s
}

// manWidth is how long the lines of its text are at most.
const manWidth = 76

// paragraph writes sentences, each beginning a line of its own, as the form wants it.
func paragraph(b *strings.Builder, s string) {
	for _, sentence := range strings.SplitAfter(s, ". ") {
		for _, line := range rulebook.Wrapped(strings.Fields(sentence), manWidth) {
			fmt.Fprintln(b, roff(line))
		}
	}
}
