package sections

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/reference"
	"zetanum/core/template"
)

// Seen is what a look at a file found that a rulebook could say something about.
type Seen struct {
	File    string
	Columns []SeenColumn
	Found   []SeenFinding
	Form    bool     // it is a platform's form, filled in: its columns are as they must be
	Trusted []string // sheets that lie beside the file and may have whole codes

	Pattern string // of SKUs, which fits the file

	Phrases []Phrase // that stand in many descriptions

	Tongues []string // some of the languages in which rows are, as a column says, by their codes

	KeyLike string // a column that seems to say which rows are one product

	// Template is what an import template is called from the rulebook, "" if there is none; Platform is what was learnt of it, Offers are what
	// fills its columns as Matches say.
	Template string
	Platform *template.Template
	Offers   []template.Offer
	Matches  []template.Match

	// Export is a good export of the shop, or "", and Shop what it shows.
	Export string
	Shop   []reference.Studied
}

// A SeenColumn is a column of the file.
type SeenColumn struct {
	Heading string
	Field   catalogue.Field
	Filled  int
	Example string
	Same    bool   // all cells that are not empty say the same, and some are empty
	Needed  bool   // it is a key, an option, or marked as one that must be there
	Ratio   string // what it reckons from the price and the cost; "" if nothing
}

// A SeenFinding is how often something was found in a column.
type SeenFinding struct {
	Code   catalogue.Code
	Column string
	Cells  int
}

// has reports whether the file has a field.
func (s *Seen) has(f catalogue.Field) bool {
	return slices.ContainsFunc(s.Columns, func(c SeenColumn) bool { return c.Field == f })
}

// isColumn reports whether a heading is that of one of some fields.
func (s *Seen) isColumn(heading string, fields ...catalogue.Field) bool {
	return slices.ContainsFunc(s.Columns, func(c SeenColumn) bool { return c.Heading == heading && slices.Contains(fields, c.Field) })
}

// spelt returns how many cells of a field are spelt otherwise than most.
func (s *Seen) spelt(field catalogue.Field) (n int) {
	for _, f := range s.Found {
		if f.Code == catalogue.ValueSpelling && s.isColumn(f.Column, field) {
			n += f.Cells
		}
	}
	return n
}

// cells returns in how many cells something was found.
func (s *Seen) cells(code catalogue.Code) (n int) {
	for _, f := range s.Found {
		if f.Code == code {
			n += f.Cells
		}
	}
	return n
}

// Begin writes a rulebook to start from. Every order in it is a comment, because
// it is a judgement: as it stands the rulebook changes nothing.
func Begin(s *Seen) string {
	b := new(Draft)
	if s.File == "" {
		b.line("# How this shop wants its catalogue.")
	} else {
		b.line("# How this shop wants its catalogue: a rulebook for %s.", clean(s.File))
	}
	b.line("# Take the # off a line to give the order. The command ‹help rulebook› explains every key.")
	for _, section := range new(Book).reading() {
		section.Begin(s, b)
	}
	return b.String()
}

// A Draft is a rulebook that is being begun.
type Draft struct{ strings.Builder }

func (b *Draft) line(format string, args ...any) { fmt.Fprintf(b, format+"\n", args...) }

// clean makes a text fit for a comment.
func clean(s string) string {
	return strings.Map(func(r rune) rune {
		if r < ' ' || r == 0x7f || r == '\ufffd' {
			return ' '
		}
		return r
	}, catalogue.Shorten(s, 60))
}

// quoted writes a text as a TOML string.
func quoted(s string) string {
	var b strings.Builder
	b.WriteByte('"')
	for _, r := range s {
		switch {
		case r == '"' || r == '\\':
			b.WriteByte('\\')
			b.WriteRune(r)
		case r < ' ' || r == 0x7f:
			fmt.Fprintf(&b, `\u%04X`, r)
		default:
			b.WriteRune(r)
		}
	}
	b.WriteByte('"')
	return b.String()
}

// wrapped puts words together in lines.
func wrapped(words []string, width int) (lines []string) {
	line := ""
	for _, w := range words {
		if line != "" && len(line)+1+len(w) > width {
			lines, line = append(lines, line), ""
		}
		if line != "" {
			line += " "
		}
		line += w
	}
	return append(lines, line)
}

func plural(n int, word string) string {
	if n == 1 {
		return "1 " + word
	}
	return strconv.Itoa(n) + " " + word + "s"
}
