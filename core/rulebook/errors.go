package rulebook

import (
	"errors"
	"fmt"
	"path/filepath"
	"strings"

	"zetanum/core/catalogue"
)

// ErrWrong is wrapped by every error about what a rulebook says.
var ErrWrong = errors.New("the rulebook is wrong")

// A Problem is something wrong in a section.
type Problem struct {
	Part string // the table in which it stands: "columns.fill"
	N    int    // which of several tables of that name, from 1; 0 if there can be only one
	catalogue.Problem
}

// In says that problems stand in the table of a name, of several in the nth.
func In(part string, n int, list []catalogue.Problem) (problems []Problem) {
	for _, p := range list {
		problems = append(problems, Problem{part, n, p})
	}
	return problems
}

// An Error says what is wrong in a rulebook, and where. It wraps [ErrWrong], and Err.
type Error struct {
	File         string
	Line, Column int // 0 if they are not known
	Problem
	Text  string // what is wrong, if it is no problem of a section
	Shown string // the place in the file, drawn
	Sheet string // the name of the sheet that the rulebook does not fit, "" if it is wrong whatever the sheet
	Err   error  // why it does not fit; nil otherwise

	several bool // there can be several tables of the name
}

// Error writes “list.csv, with the rulebook zetanum.toml, line 9: [[rows]], no. 2: …”.
func (e *Error) Error() string {
	var b strings.Builder
	switch {
	case e.Sheet != "" && e.File != "":
		fmt.Fprintf(&b, "%s, with the rulebook %s", e.Sheet, filepath.Base(e.File))
	case e.Sheet != "":
		b.WriteString(e.Sheet)
	default:
		b.WriteString(e.File)
	}
	if e.Line > 0 {
		fmt.Fprintf(&b, ", line %d", e.Line)
	}
	if e.Column > 0 {
		fmt.Fprintf(&b, ", column %d", e.Column)
	}
	if b.Len() > 0 {
		b.WriteString(": ")
	}
	if e.Err == nil {
		fmt.Fprintf(&b, "%v: ", ErrWrong)
	}
	b.WriteString(e.said())
	if e.Shown != "" {
		b.WriteString("\n" + e.Shown)
	}
	return b.String()
}

// said says what is wrong, and in which table.
func (e *Error) said() string {
	if e.Text != "" {
		return e.Text
	}
	where := "[" + e.Part + "]"
	if e.several {
		where = "[" + where + "]"
	}
	if e.N > 0 {
		where += " no. " + fmt.Sprint(e.N)
	}
	if e.Err != nil {
		said := e.Err.Error()
		if strings.Contains(said, "["+e.Part) {
			return said // it says so itself
		}
		return where + ": " + said
	}
	return fmt.Sprintf("%s %s: %s", where, e.Key, catalogue.Shorten(e.Problem.Text, mostSaid))
}

// Is reports whether it is about what a rulebook says.
func (e *Error) Is(target error) bool { return target == ErrWrong }

// Unwrap returns why the rulebook does not fit.
func (e *Error) Unwrap() error { return e.Err }

// mostProblems is how many problems an error names.
const mostProblems = 10

// Errors are several things that are wrong in a rulebook.
type Errors []*Error

// Error writes them on lines of their own, at most ten.
func (list Errors) Error() string {
	var b strings.Builder
	for i, e := range list {
		if i > 0 {
			b.WriteByte('\n')
		}
		if i == mostProblems {
			fmt.Fprintf(&b, "and %d more", len(list)-mostProblems)
			break
		}
		b.WriteString(e.Error())
	}
	return b.String()
}

// Is reports whether it is about what a rulebook says.
func (list Errors) Is(target error) bool { return target == ErrWrong }
