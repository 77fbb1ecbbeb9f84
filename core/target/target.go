// Package target fits what goes out to what the shop's importer takes: for now, to its
// encoding.
package target

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"

	"zetanum/core/catalogue"
	"zetanum/core/charset"
)

// Rules say what the file for the importer has to be: [target].
type Rules struct {
	// Encoding is that of the file; UTF-8 if nothing is said.
	Encoding string `toml:"encoding" json:"encoding,omitempty"`
	// BOM says whether the file begins with a byte order mark. If nothing is said,
	// it does in UTF-16, and in UTF-8 if the source does.
	BOM *bool `toml:"bom" json:"bom,omitempty"`
	// Separator is what separates the cells of the file: comma, semicolon, tab or
	// pipe; that of the source if nothing is said.
	Separator string `toml:"separator" json:"separator,omitempty"`
	// LineEnds are how its rows end: lf or crlf; as those of the source if nothing
	// is said, but never with a carriage return alone.
	LineEnds string `toml:"line_ends" json:"line_ends,omitempty"`
	// Instead are texts for characters that the encoding does not have, where
	// others are wanted than the usual ones.
	Instead map[string]string `toml:"instead" json:"instead,omitempty"`
}

// Charset returns the encoding.
func (r *Rules) Charset() charset.Charset {
	c, _ := charset.Parse(r.Encoding)
	return c
}

// Check returns what is wrong with the rules.
func (r *Rules) Check() (problems []catalogue.Problem) {
	wrong := func(key, format string, args ...any) {
		problems = append(problems, catalogue.Problem{Key: key, Text: fmt.Sprintf(format, args...)})
	}
	c, known := charset.Parse(r.Encoding)
	switch {
	case r.Encoding != "" && !known:
		wrong("encoding", "there is no encoding %q; those that can be written are: %s", r.Encoding, strings.Join(charset.Names(), ", "))
		return problems
	case r.BOM != nil && *r.BOM && !c.Marked():
		wrong("bom", "%s has no byte order mark; UTF-8 and UTF-16 have one", c)
	}
	if _, ok := separators[r.Separator]; r.Separator != "" && !ok {
		wrong("separator", "is comma, semicolon, tab or pipe")
	}
	if _, ok := lineEnds[r.LineEnds]; r.LineEnds != "" && !ok {
		wrong("line_ends", "is lf or crlf")
	}
	for _, of := range slices.Sorted(maps.Keys(r.Instead)) {
		in := r.Instead[of]
		switch {
		case utf8.RuneCountInString(of) != 1:
			wrong("instead", "%q is not one character", of)
		case !fits(c, in):
			wrong("instead", "%s has not all characters of %q, either", c, in)
		}
	}
	return problems
}

var (
	separators = map[string]byte{"comma": ',', "semicolon": ';', "tab": '\t', "pipe": '|'}
	lineEnds   = map[string]string{"lf": "\n", "crlf": "\r\n"}
)

// Form returns how the file is written that the source has written like this.
func (r *Rules) Form(separator byte, lineEnd string) (byte, string) {
	if s, ok := separators[r.Separator]; ok {
		separator = s
	}
	if e, ok := lineEnds[r.LineEnds]; ok {
		lineEnd = e
	} else if lineEnd == "\r" {
		lineEnd = "\r\n"
	}
	return separator, lineEnd
}

func fits(c charset.Charset, s string) bool {
	return !strings.ContainsFunc(s, func(r rune) bool { return !c.Has(r) })
}

// A Fitter fits texts to an encoding. It is used by many goroutines at once.
type Fitter struct {
	charset charset.Charset
	instead map[rune]string
}

// NewFitter returns one for the encoding of the rules; nil if there is nothing to fit.
func NewFitter(r *Rules) *Fitter {
	f := &Fitter{charset: r.Charset(), instead: make(map[rune]string)}
	if f.charset.Marked() {
		return nil
	}
	for of, in := range r.Instead {
		first, _ := utf8.DecodeRuneInString(of)
		f.instead[first] = in
	}
	return f
}

// Has reports whether the encoding has all characters of a text.
func (f *Fitter) Has(s string) bool {
	for i := range len(s) {
		if s[i] >= utf8.RuneSelf {
			return fits(f.charset, s)
		}
	}
	return true
}

// A StandIn is what stands for a character.
type StandIn struct {
	Of rune
	In string
}

// String returns "ł → l".
func (s StandIn) String() string { return string(s.Of) + " → " + s.In }

// Fit returns a text with something else in place of the characters that the encoding
// does not have, and what that is, each once: in HTML a reference, which shows the
// character itself. If nothing may stand for a character, ok is false and bad is the
// character.
func (f *Fitter) Fit(s string, html bool) (fitted string, stood []StandIn, bad rune, ok bool) {
	var b strings.Builder
	before := rune(0)
	for _, r := range s {
		in := string(r)
		if !f.charset.Has(r) {
			switch other, has := f.standIn(r); {
			case html && r != utf8.RuneError:
				in = fmt.Sprintf("&#%d;", r)
			case has:
				in = other
			default:
				return s, nil, r, false
			}
			if stand := (StandIn{r, in}); !slices.Contains(stood, stand) {
				stood = append(stood, stand)
			}
			if unicode.IsDigit(before) && unicode.Is(unicode.No, r) && strings.Contains(in, "/") {
				in = " " + in // 1½
			}
		}
		b.WriteString(in)
		before = r
	}
	return b.String(), stood, 0, true
}

// standIn returns what may stand for a character.
func (f *Fitter) standIn(r rune) (string, bool) {
	if in, ok := f.instead[r]; ok {
		return in, true
	}
	for _, in := range strings.Fields(usual[r]) {
		if fits(f.charset, in) {
			return in, true
		}
	}
	if unicode.IsSpace(r) || r >= 0x2000 && r <= 0x200a || r == 0x202f || r == 0x205f {
		return " ", true
	}
	if unicode.In(r, unicode.Cf) || r >= 0xfe00 && r <= 0xfe0f {
		return "", true // nobody sees it
	}
	if !unicode.In(r, unicode.Latin, unicode.Nd, unicode.No, unicode.P, unicode.S) {
		if unicode.Is(unicode.Mn, r) && unicode.Is(unicode.Inherited, r) && r < 0x370 {
			return "", true // an accent by itself
		}
		return "", false
	}
	plain := strings.Map(func(r rune) rune {
		if unicode.Is(unicode.Mn, r) {
			return -1
		}
		return r
	}, norm.NFKD.String(string(r)))
	return plain, plain != "" && plain != string(r) && fits(f.charset, plain)
}
