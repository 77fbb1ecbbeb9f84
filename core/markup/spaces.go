package markup

import (
	"strings"
	"unicode/utf8"
)

// spaces are spaces that follow one another.
type spaces struct {
	n       int
	nobreak bool // the last is one at which lines do not end
}

func (s *spaces) add(t string) {
	s.n += utf8.RuneCountInString(t)
	if t != "" {
		s.nobreak = t[len(t)-1] == 0xa0
	}
}

func (s *spaces) text() string {
	if s.n == 1 && s.nobreak {
		return noBreak
	}
	return " "
}

// noBreak is a space at which lines do not end.
const noBreak = "\u00a0"

// spaceAt returns how many bytes a space at the beginning of a text has, 0 if there is none.
func spaceAt(s string) int {
	if s == "" {
		return 0
	}
	switch c := s[0]; {
	case c == ' ' || c == '\t' || c == '\n' || c == '\r' || c == '\f':
		return 1
	case c == 0xc2 && len(s) > 1 && s[1] == 0xa0:
		return 2
	}
	return 0
}

// isBlank reports whether there is nothing but spaces in a text.
func isBlank(s string) bool {
	for s != "" {
		n := spaceAt(s)
		if n == 0 {
			return false
		}
		s = s[n:]
	}
	return true
}

// trim takes the spaces apart that stand at the ends of a text.
func trim(s string) (lead, words, trail string) {
	lead, words = trimLeft(s)
	end := len(words)
	for end > 0 {
		c := words[end-1]
		if c == ' ' || c == '\t' || c == '\n' || c == '\r' || c == '\f' {
			end--
		} else if c == 0xa0 && end > 1 && words[end-2] == 0xc2 {
			end -= 2
		} else {
			break
		}
	}
	return lead, words[:end], words[end:]
}

// trimLeft takes the spaces apart that stand at the beginning of a text.
func trimLeft(s string) (lead, rest string) {
	at := 0
	for n := spaceAt(s); n > 0; n = spaceAt(s[at:]) {
		at += n
	}
	return s[:at], s[at:]
}

// visible takes out control characters that are no spaces: nobody sees them, and not every parser keeps them.
func visible(s string) string {
	if strings.Contains(s, "\u2028") || strings.Contains(s, "\u2029") { // ends of lines, which HTML does not know
		s = strings.NewReplacer("\u2028", " ", "\u2029", " ").Replace(s)
	}
	for i := range len(s) {
		if c := s[i]; c < ' ' && c != '\t' && c != '\n' && c != '\r' && c != '\f' || c == 0x7f {
			return strings.Map(func(r rune) rune {
				if r < ' ' && r != '\t' && r != '\n' && r != '\r' && r != '\f' || r == 0x7f {
					return -1
				}
				return r
			}, s)
		}
	}
	return s
}

// oneSpace writes one space for several.
func oneSpace(s string) string {
	for i := 0; i < len(s); i++ {
		c := s[i]
		switch {
		case c < ' ', c == ' ' && spaceAt(s[i+1:]) > 0, c == 0xc2 && i+1 < len(s) && s[i+1] == 0xa0 && spaceAt(s[i+2:]) > 0:
			return spaced(s, i)
		}
	}
	return s
}

func spaced(s string, from int) string {
	var b strings.Builder
	b.Grow(len(s))
	b.WriteString(s[:from])
	for i := from; i < len(s); {
		var some spaces
		for n := spaceAt(s[i:]); n > 0; n = spaceAt(s[i:]) {
			some.add(s[i : i+n])
			i += n
		}
		if some.n > 0 {
			b.WriteString(some.text())
			continue
		}
		b.WriteByte(s[i])
		i++
	}
	return b.String()
}
