package wording

import (
	"regexp/syntax"
	"strings"
	"unicode"

	"zetanum/core/text"
)

// needed is what stands in every text that a pattern fits, as far as that is easily seen. Looking
// for it first is much faster than the pattern.
type needed struct {
	literals    []string // anywhere
	first, last string   // at the beginning of the text, and at its end; "" if nothing need be
	anyCase     string   // anywhere, whatever its case; "" if nothing need be
	small       string   // the same as [text.Small] makes it
	rare        text.Rare
}

// neededBy returns what a pattern needs.
func neededBy(pattern string) (n needed) {
	re, err := syntax.Parse(pattern, syntax.Perl)
	if err != nil {
		return n
	}
	re = re.Simplify()
	n.add(re)
	if n.anyCase != "" {
		n.small, n.rare = text.Small(n.anyCase), text.RareOf(n.anyCase, true)
	}
	if re.Op != syntax.OpConcat {
		return n
	}
	if subs := re.Sub; len(subs) > 1 {
		if subs[0].Op == syntax.OpBeginText {
			n.first = literal(subs[1])
		}
		if subs[len(subs)-1].Op == syntax.OpEndText {
			n.last = literal(subs[len(subs)-2])
		}
	}
	return n
}

// literal returns the text that an expression is; "" if it is none, or its case does not matter.
func literal(re *syntax.Regexp) string {
	if re.Op != syntax.OpLiteral || re.Flags&syntax.FoldCase != 0 {
		return ""
	}
	return string(re.Rune)
}

func (n *needed) add(re *syntax.Regexp) {
	switch re.Op {
	case syntax.OpLiteral:
		if text := literal(re); text != "" {
			n.literals = append(n.literals, text)
		} else if stretch := anyCase(re.Rune); len(stretch) > len(n.anyCase) {
			n.anyCase = stretch
		}
	case syntax.OpCapture, syntax.OpPlus:
		n.add(re.Sub[0])
	case syntax.OpRepeat:
		if re.Min > 0 {
			n.add(re.Sub[0])
		}
	case syntax.OpConcat:
		for _, sub := range re.Sub {
			n.add(sub)
		}
	}
}

// anyCase returns the longest stretch of a text of which [text.Small] makes the same in whatever case. A k is in none, because the sign
// for Kelvin is one, and no ß, which is longer if it is large.
func anyCase(runes []rune) (longest string) {
	stretch := ""
	for _, r := range runes {
		if stretch += string(r); !bytesAlike(r) {
			stretch = ""
		}
		if len(stretch) > len(longest) {
			longest = stretch
		}
	}
	return longest
}

// bytesAlike reports whether [text.Small] makes the same of a letter in all its cases.
func bytesAlike(r rune) bool {
	small := text.Small(string(r))
	for other := unicode.SimpleFold(r); other != r; other = unicode.SimpleFold(other) {
		if text.Small(string(other)) != small {
			return false
		}
	}
	return true
}

// key returns the longest of what is needed anywhere, in whatever case.
func (n *needed) key() string {
	longest := n.anyCase
	for _, l := range n.literals {
		if len(l) > len(longest) {
			longest = l
		}
	}
	return longest
}

// within reports whether all that is needed stands in a text somewhere.
func (n *needed) within(s string) bool {
	for _, l := range n.literals {
		if !strings.Contains(s, l) {
			return false
		}
	}
	return n.anyCase == "" || n.rare.Find(s, len(n.small), func(there string) bool { return text.BeginsSmall(there, n.small) }) >= 0
}

// mayFit reports whether the pattern can fit a text, of which what is needed stands where it has to.
func (n *needed) mayFit(s string) bool {
	return strings.HasSuffix(s, n.last) && strings.HasPrefix(s, n.first) && n.within(s)
}
