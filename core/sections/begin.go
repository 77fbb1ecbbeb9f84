package sections

import (
	"fmt"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/redo"
	"zetanum/core/reference"
	"zetanum/core/rulebook"
	"zetanum/core/target"
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

	Rows   int          // of the file
	Keys   []SeenKey    // in a file without SKUs, columns that could tell its rows apart
	Beside []SeenBeside // sheets beside the file that have what is open or missing in it

	Given // what goes with the file

	// Offers are what fills the columns of the template, as Matches say.
	Offers  []template.Offer
	Matches []template.Match

	// Filling is what fills the columns of the template by the rulebook as it stands, and InForm that.
	Filling map[string][]target.Fill
	InForm  *template.Template
}

// Given is what somebody has named that goes with a file.
type Given struct {
	// Template is what an import template is called from the rulebook, "" if there is none; Platform is what was learnt of it.
	Template string
	Platform *template.Template

	// Export is a good export of the shop, or "", and Shop what it shows.
	Export string
	Shop   []reference.Studied

	// Learned is what was learnt of what was made of the file by hand; nil if nothing was.
	Learned *redo.Learned
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

// A SeenKey is a column with another value in each of so many rows.
type SeenKey struct {
	Column   string
	Distinct int
}

// A SeenBeside is a sheet, by its name beside the file, that has so many values of a column, of those that were looked for there.
type SeenBeside struct {
	Sheet, Column string
	Barcodes      bool
	Has, Of       int
}

// A SeenFinding is how often something was found in a column, and what is open of it.
type SeenFinding struct {
	Code   catalogue.Code
	Column string // "(row)" for whole rows
	Cells  int
	Holds  int      // rows
	Likely int      // cells for which one value is likely
	Open   bool     // some are not answered
	Told   bool     // its question was answered with no
	Needed bool     // no answer writes its cells empty
	Values []string // some of the cells, each once
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

// quoted writes a text as TOML does.
func quoted(s string) string { return rulebook.Quoted(s) }

func plural(n int, word string) string {
	if n == 1 {
		return "1 " + word
	}
	for _, between := range []string{" of ", " to "} {
		if head, tail, ok := strings.Cut(word, between); ok {
			return plural(n, head) + between + tail
		}
	}
	if stem, ok := strings.CutSuffix(word, "ry"); ok {
		return catalogue.Thousands(uint64(n)) + " " + stem + "ries"
	}
	return catalogue.Thousands(uint64(n)) + " " + word + "s"
}
