// Package text puts right what any cell with words may need: stray spaces and
// characters that nobody can see.
package text

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"zetanum/core/catalogue"
)

// A Scope says how much of a cell may be altered.
type Scope uint8

// The scopes.
const (
	Edges   Scope = iota // spaces at both ends and invisible characters: harmless anywhere
	Lines                // also runs of spaces within; line breaks stay
	OneLine              // also line breaks, which become spaces
)

// Tidy returns the cell without stray spaces and invisible characters, and
// which of the two it found. A cell that needs nothing is returned as it is,
// without an allocation.
//
// Every kind of space becomes a plain one, a run of them a single one, except
// the ideographic space. Zero-width spaces and joiners, soft hyphens, directional
// marks and control characters are taken out, but not where they may mean something:
// joiners beside letters that join (Arabic, Indic scripts, emoji), directional
// marks in a cell with right-to-left letters, and what may be a trace of a wrong
// decoding: soft hyphens beside signs and capitals that are no ASCII, and the control
// characters from U+0080 to U+009F.
func Tidy(s string, scope Scope) (out string, spaces, invisible bool) {
	if !catalogue.Has(s, catalogue.Untidy) || inOrder(s, scope) || !utf8.ValidString(s) {
		return s, false, false
	}
	seen := withoutInvisible(s)
	out = withoutStraySpaces(seen, scope)
	return out, out != seen, seen != s
}

// inOrder reports whether a look at the bytes shows that nothing needs doing.
func inOrder(s string, scope Scope) bool {
	if s[0] <= ' ' || s[len(s)-1] <= ' ' {
		return false
	}
	before := byte(0)
	for i := range len(s) {
		switch c := s[i]; {
		case c < ' ' || c == 0x7f:
			return false
		case c == ' ' && before == ' ' && scope != Edges:
			return false
		case c < utf8.RuneSelf:
		case (c == 0xa0 || c == 0xad) && before == 0xc2, // no-break space, soft hyphen
			c == 0x9a && before == 0xe1,                // U+1680
			(c == 0x80 || c == 0x81) && before == 0xe2, // U+2000 to U+207F
			c == 0xbb && before == 0xef:                // U+FEFF
			return false
		}
		before = s[i]
	}
	return true
}

// withoutInvisible takes out what nobody can see and nothing needs.
func withoutInvisible(s string) string {
	rtl := strings.IndexFunc(s, isRTL) >= 0
	var b strings.Builder
	copied := 0
	for i, r := range s {
		if isInvisible(r) && !means(s, i, r, rtl) {
			b.WriteString(s[copied:i])
			copied = i + utf8.RuneLen(r)
		}
	}
	if copied == 0 {
		return s
	}
	b.WriteString(s[copied:])
	return b.String()
}

// withoutStraySpaces trims the text and, if the scope allows, makes every run
// of spaces a single plain one.
func withoutStraySpaces(s string, scope Scope) string {
	s = strings.TrimFunc(s, func(r rune) bool { return isSpace(r) || isBreak(r) })
	if scope == Edges {
		return s
	}
	var b strings.Builder
	b.Grow(len(s))
	for i := 0; i < len(s); {
		end, breaks := whiteRun(s, i, scope)
		switch {
		case end == i:
			_, size := utf8.DecodeRuneInString(s[i:])
			end = i + size
			b.WriteString(s[i:end])
		case breaks:
			// Spaces beside a line break go, the break itself stays.
			b.WriteString(strings.Map(func(r rune) rune {
				if isSpace(r) {
					return -1
				}
				return r
			}, s[i:end]))
		default:
			b.WriteByte(' ')
		}
		i = end
	}
	return b.String()
}

// whiteRun returns the end of the white space at i, and whether it holds line
// breaks that have to stay.
func whiteRun(s string, i int, scope Scope) (end int, breaks bool) {
	for end = i; end < len(s); {
		r, size := utf8.DecodeRuneInString(s[end:])
		if !isSpace(r) && !isBreak(r) {
			break
		}
		breaks = breaks || isBreak(r) && scope == Lines
		end += size
	}
	return end, breaks
}

func isBreak(r rune) bool { return r == '\n' || r == '\r' }

func isSpace(r rune) bool {
	switch {
	case r == ' ', r == '\t', r == '\v', r == '\f', r == 0xa0:
		return true
	case r < 0x2000:
		return r == 0x1680
	}
	return r <= 0x200a || r == 0x202f || r == 0x205f
}

func isInvisible(r rune) bool {
	switch {
	case r < 0x20 || r == 0x7f:
		return r != '\t' && r != '\n' && r != '\r'
	case r < 0x200b:
		return r == 0xad
	}
	return r <= 0x200f || r >= 0x202a && r <= 0x202e || r >= 0x2060 && r <= 0x2064 ||
		r >= 0x2066 && r <= 0x2069 || r == 0xfeff
}

// means reports whether the invisible character at i may mean something.
func means(s string, i int, r rune, rtl bool) bool {
	switch {
	case r == 0x200c || r == 0x200d: // joiners
		before, _ := utf8.DecodeLastRuneInString(s[:i])
		after, _ := utf8.DecodeRuneInString(s[i+utf8.RuneLen(r):])
		return i > 0 && joins(before) || joins(after)
	case r == 0x200e || r == 0x200f || r >= 0x202a && r <= 0x202e || r >= 0x2066 && r <= 0x2069:
		return rtl
	case r == 0xad: // soft hyphen
		before, _ := utf8.DecodeLastRuneInString(s[:i])
		after, _ := utf8.DecodeRuneInString(s[i+utf8.RuneLen(r):])
		return i > 0 && !besideHyphen(before) || i+utf8.RuneLen(r) < len(s) && !besideHyphen(after)
	}
	return false
}

// besideHyphen reports whether a soft hyphen beside r is only a hyphen: beside ASCII,
// small letters, and letters that no encoding of a single byte makes of UTF-8.
func besideHyphen(r rune) bool {
	return r < utf8.RuneSelf || isSpace(r) || isInvisible(r) || unicode.IsLower(r) || r > 0x24f && unicode.IsLetter(r)
}

// joins reports whether a joiner beside r may mean something: beside anything
// but Latin, Greek and Cyrillic letters, digits, punctuation and spaces.
func joins(r rune) bool {
	return r > 0x52f && r != utf8.RuneError && !unicode.In(r, unicode.Latin, unicode.Greek, unicode.Cyrillic) && !isSpace(r) &&
		!isInvisible(r)
}

func isRTL(r rune) bool {
	return r >= 0x590 && r <= 0x8ff || r >= 0xfb1d && r <= 0xfdff || r >= 0xfe70 && r <= 0xfefc
}
