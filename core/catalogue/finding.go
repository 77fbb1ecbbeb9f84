package catalogue

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
)

// A Severity says what a finding means for its row.
type Severity uint8

// The severities. Only an [Error] holds a row back.
const (
	Note Severity = iota
	Warning
	Error
)

// String returns "note", "warning" or "error".
func (s Severity) String() string { return [...]string{"note", "warning", "error"}[s] }

// A Ground says why a change is right.
type Ground uint8

// The grounds, weakest first. [Likely] is proposed, never written.
const (
	NoGround Ground = iota
	Likely
	Certain // the content or arithmetic proves it
	Backed  // a second source says the same
	Ordered // the rulebook says so
	Decided // a person said so
)

// String returns the ground's name in output and documentation.
func (g Ground) String() string { return groundNames[g] }

var groundNames = [...]string{"", "likely", "certain", "backed", "ordered", "decided"}

// MarshalText writes the ground's name.
func (g Ground) MarshalText() ([]byte, error) { return []byte(g.String()), nil }

// UnmarshalText reads what MarshalText writes.
func (g *Ground) UnmarshalText(text []byte) error {
	i := slices.Index(groundNames[:], string(text))
	if i < 0 {
		return fmt.Errorf("there is no ground %q", text)
	}
	*g = Ground(i)
	return nil
}

// Facts are the numbers and words behind a finding, from which its sentence
// is made. Which of them mean something depends on the finding.
type Facts struct {
	Low, High  uint64 // the numbers a damaged code may have been, ends included
	Candidates uint64 // how many valid codes lie between them
	Digits     int    // how many digits are left, or are there
	Length     int    // how many there were, or should be
	Right      byte   // the check digit that would be right, as a character
	Other      string // the other value, name or source
	Row        int    // the other row
	Proposed   string // what is likely, if a yes may write it
	Decides    string // a sentence: what would settle it
}

// A Finding is something noticed about a cell (Col ≥ 0), a row (Col < 0) or
// the whole sheet (Row 0).
type Finding struct {
	Code  Code
	Row   int // as the spreadsheet program shows it
	Col   int // from 0; -1 for the row as a whole
	Cell  string
	Facts Facts

	Answer Answer // what a person has said to it
}

// Severity returns the severity that the registry gives the finding, unless a person has
// said something else.
func (f *Finding) Severity() Severity {
	switch {
	case f.Answer == Hold:
		return Error
	case f.Answer.Frees() && !f.Code.SetsAside():
		return Note
	}
	return f.Code.Entry().Severity
}

// Sentence says in words what was found, without saying where.
func (f *Finding) Sentence() string {
	s := fill(f.Code.Entry().Sentence, f.Cell, &f.Facts)
	if f.Cell == "" {
		s = strings.TrimLeft(s, " ") // where it would begin with the cell
	}
	if f.Facts.Decides != "" {
		s += " " + f.Facts.Decides
	}
	return s
}

// fill replaces the names in braces in a sentence by what they stand for.
func fill(sentence, cell string, f *Facts) string {
	var b strings.Builder
	for {
		before, rest, found := strings.Cut(sentence, "{")
		b.WriteString(before)
		if !found {
			return b.String()
		}
		name, behind, _ := strings.Cut(rest, "}")
		b.WriteString(f.named(name, cell))
		sentence = behind
	}
}

// named returns a fact by its name in sentences.
func (f *Facts) named(name, cell string) string {
	switch name {
	case "cell":
		return OneLine(Shorten(cell, 60))
	case "low":
		return strconv.FormatUint(f.Low, 10)
	case "high":
		return strconv.FormatUint(f.High, 10)
	case "candidates":
		return Thousands(f.Candidates)
	case "digits":
		return strconv.Itoa(f.Digits)
	case "length":
		return strconv.Itoa(f.Length)
	case "right":
		return string(rune(f.Right))
	case "other":
		return OneLine(Shorten(f.Other, 120))
	case "row":
		return strconv.Itoa(f.Row)
	}
	return "{" + name + "}"
}

// Thousands writes n with commas between groups of three digits.
func Thousands(n uint64) string {
	s := strconv.FormatUint(n, 10)
	for i := len(s) - 3; i > 0; i -= 3 {
		s = s[:i] + "," + s[i:]
	}
	return s
}

// OneLine returns a text with its ends of lines as a sign.
func OneLine(s string) string {
	if !strings.ContainsAny(s, "\r\n") {
		return s
	}
	return lineEnds.Replace(s)
}

// SameHeading reports whether two texts name one heading: without regard to case, spaces around it, and whether a heading of several lines is
// written as it stands or as it is shown, on one line.
func SameHeading(a, b string) bool {
	return strings.EqualFold(strings.TrimSpace(OneLine(a)), strings.TrimSpace(OneLine(b)))
}

var lineEnds = strings.NewReplacer("\r\n", " ⏎ ", "\n", " ⏎ ", "\r", " ⏎ ")

// Shorten cuts a text to at most n characters, the last of them "…" if
// anything was cut.
func Shorten(s string, n int) string {
	if len(s) <= n {
		return s
	}
	count := 0
	cut := 0
	for i := range s {
		if count == n-1 {
			cut = i
		}
		count++
	}
	if count <= n {
		return s
	}
	return s[:cut] + "…"
}

// A Change is one cell that a rule altered.
type Change struct {
	Row    int
	Made   int // of a row that was made of that one, see [Row]; 0: of that one itself
	Col    int
	Before string
	After  string
	Rule   Rule
	Ground Ground
	Source string // for Backed: the sheet and row that say so
}
