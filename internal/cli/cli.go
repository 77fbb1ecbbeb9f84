// Package cli turns command lines into calls and results into words. It
// computes nothing about products.
package cli

import (
	"bufio"
	"context"
	"errors"
	"flag"
	"fmt"
	"io"
	"os"
	"os/signal"
	"slices"
	"strings"
	"syscall"
	"time"

	"zetanum/core/folder"
	"zetanum/core/heading"
	"zetanum/core/text"
	"zetanum/internal/terminal"
)

// Version is the version of the program.
const Version = "0.1.0"

// commit is that from which a release was built; a build says it itself otherwise.
var commit string

// The exit statuses.
const (
	exitOK     = 0 // nothing is held
	exitHeld   = 1 // something is held
	exitUsage  = 2 // wrong use
	exitFailed = 3 // a file could not be read or written
)

// A session is one call of the program and what surrounds it.
type session struct {
	ctx    context.Context
	stdin  io.Reader
	stdout io.Writer
	stderr io.Writer
	now    func() time.Time
	plain  bool // no colours
	offers bool // the next command is offered, and need not be named

	typed chan string // the lines that are typed; nil until one is read

	args []string // of the command line, for the next one
	next string   // the next command, "" if none is known
	made string   // the folder that was written last
}

// suggest says which command comes next; it is the last line of what is said.
func (s *session) suggest(words ...string) { s.next = strings.Join(words, " ") }

// line reads the next line that is typed, without the spaces around it; ok is false at the end of what can be typed, and when the program is to stop.
func (s *session) line() (line string, ok bool) {
	if s.typed == nil {
		s.typed = make(chan string)
		go func() { // which waits for a key whatever happens
			defer close(s.typed)
			for lines := bufio.NewScanner(s.stdin); lines.Scan(); {
				s.typed <- lines.Text()
			}
		}()
	}
	select {
	case line, ok = <-s.typed:
		return strings.TrimSpace(line), ok
	case <-s.ctx.Done():
		return "", false
	}
}

// A command is one of the program's commands. It declares its own flags, and is made anew for
// each call, so that it can keep what they say.
type command interface {
	about() about
	flags(*flag.FlagSet)
	run(*session, []string) (int, error)
}

// about is what the help says of a command.
type about struct {
	name     string
	args     string // what stands behind the name
	short    string // what it does, in a few words
	long     string // what it does, in sentences
	examples []string
}

// noFlags is a command without flags.
type noFlags struct{}

func (noFlags) flags(*flag.FlagSet) {}

// commands returns all commands in the order of the help.
func commands() []command {
	return []command{
		new(inspectCommand), new(repairCommand), new(checkCommand), new(mintCommand), new(linksCommand), new(rehearseCommand), new(watchCommand), new(registerCommand), new(beginCommand), new(barcodeCommand),
		new(findingCommand), new(demoCommand), new(helpCommand), new(completionCommand), new(versionCommand),
	}
}

func findCommand(name string) command {
	for _, c := range commands() {
		if c.about().name == name {
			return c
		}
	}
	return nil
}

// Main runs the program with the arguments and streams of the process and
// returns its exit status.
func Main() int {
	if os.Getenv("GOGC") == "" {
		boundGarbage()
	}
	guardMemory()
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM, syscall.SIGHUP)
	defer stop()
	s := &session{ctx: ctx, stdin: os.Stdin, stdout: os.Stdout, stderr: os.Stderr, now: time.Now, plain: os.Getenv("NO_COLOR") != ""}
	if hasOwnWindow() {
		return s.inWindow(os.Args[1:])
	}
	return s.run(os.Args[1:])
}

// run carries out one command line.
func (s *session) run(args []string) int {
	outer := s.args
	s.args, s.next = args, ""
	status, err := s.dispatch(args)
	if s.next != "" && err == nil && !s.offers {
		p := s.printer()
		p.Head("Next")
		p.Line("  ", p.Bold(s.next))
	}
	s.args, s.next = outer, ""
	var usage *usageError
	switch {
	case err == nil:
	case errors.As(err, &usage):
		fmt.Fprintln(terminal.Messages(s.stderr), "zetanum: "+terminal.Typed(usage.Error()))
		return exitUsage
	case errors.Is(err, context.Canceled):
		fmt.Fprintln(s.stderr, "zetanum: stopped; nothing was written")
		return exitFailed
	default:
		message := terminal.Typed(err.Error())
		if folder.IsInUse(err) && !errors.Is(err, folder.ErrInUse) {
			message += "\nAnother program has the file open and lets nobody else read it. Close it there, or save a copy under another name and name that."
		}
		fmt.Fprintln(terminal.Messages(s.stderr), "zetanum: "+message)
		if status == exitOK {
			return exitFailed
		}
	}
	return status
}

// A usageError says that the command line is wrong.
type usageError struct{ message, more string }

func (e *usageError) Error() string {
	if e.more == "" {
		return e.message
	}
	return e.message + "\n" + e.more
}

func usagef(format string, args ...any) error {
	return &usageError{message: fmt.Sprintf(format, args...)}
}

func (s *session) dispatch(args []string) (int, error) {
	if len(args) == 0 {
		s.welcome()
		return exitOK, nil
	}
	switch args[0] {
	case "-h", "-help", "--help":
		return s.call(findCommand("help"), args[1:])
	case "-version", "--version":
		return s.call(findCommand("version"), nil)
	}
	if c := findCommand(args[0]); c != nil {
		return s.call(c, args[1:])
	}
	if !looksLikeFile(args[0]) {
		return exitUsage, &usageError{
			message: fmt.Sprintf("there is no command and no file %q", args[0]),
			more:    suggestion(args[0]),
		}
	}
	return s.call(&inspectCommand{first: true}, args)
}

// looksLikeFile reports whether the first argument is meant as a file.
func looksLikeFile(arg string) bool {
	if arg == "-" || strings.HasPrefix(arg, "-") && len(arg) > 1 || strings.ContainsAny(arg, `./\`) {
		return true
	}
	_, err := os.Stat(arg)
	return err == nil
}

func suggestion(name string) string {
	best, distance := "", 3
	for _, c := range commands() {
		if own := c.about().name; text.Edits(name, own) < distance {
			best, distance = own, text.Edits(name, own)
		}
	}
	if best != "" {
		return fmt.Sprintf("Did you mean “zetanum %s”? “zetanum help” lists the commands.", best)
	}
	return "“zetanum help” lists the commands; “zetanum FILE” looks at a file."
}

// call parses the flags of a command, which may stand before, between or
// behind the files, and runs it.
func (s *session) call(c command, args []string) (int, error) {
	if len(args) > 0 {
		go heading.Prepare() // meanwhile: it takes a tenth of what a short list does
	}
	flags := newFlags(c)
	var files []string
	for {
		if err := flags.Parse(args); err != nil {
			if errors.Is(err, flag.ErrHelp) {
				return s.call(findCommand("help"), []string{c.about().name})
			}
			return exitUsage, &usageError{
				message: err.Error(),
				more:    fmt.Sprintf("“zetanum help %s” shows the flags of this command, and “zetanum help jobs” how jobs are done.", c.about().name),
			}
		}
		rest := flags.Args()
		if done := len(args) - len(rest); done > 0 && args[done-1] == "--" {
			files = append(files, rest...)
			break
		}
		if len(rest) == 0 {
			break
		}
		files = append(files, rest[0])
		args = rest[1:]
	}
	var nothing *flag.Flag // a flag that was given, and says nothing
	flags.Visit(func(f *flag.Flag) {
		if slices.Contains([]string{"heading-row", "sample"}, f.Name) && f.Value.String() == "0" {
			nothing = f
		}
	})
	if nothing != nil {
		return exitUsage, usagef("-%s 0 says nothing: rows and products are counted from 1", nothing.Name)
	}
	if slices.Contains(files, "") {
		return exitUsage, usagef("a file name is empty")
	}
	if strings.Contains(c.about().args, "FILE") {
		var err error
		if files, err = named(files); err != nil {
			return exitUsage, err
		}
	}
	return c.run(s, files)
}

func newFlags(c command) *flag.FlagSet {
	flags := flag.NewFlagSet(c.about().name, flag.ContinueOnError)
	flags.SetOutput(io.Discard)
	c.flags(flags)
	return flags
}

func (s *session) printer() *terminal.Printer { return terminal.NewPrinter(s.stdout, s.plain) }
