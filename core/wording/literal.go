package wording

import (
	"regexp/syntax"
	"strings"
)

// literalIn returns a text that stands in everything a pattern fits, the longest
// that is easily seen; "" if there is none. Looking for it first is much faster than
// the pattern.
func literalIn(pattern string) string {
	re, err := syntax.Parse(pattern, syntax.Perl)
	if err != nil {
		return ""
	}
	return longest(re.Simplify())
}

func longest(re *syntax.Regexp) (best string) {
	switch re.Op {
	case syntax.OpLiteral:
		if re.Flags&syntax.FoldCase == 0 {
			return string(re.Rune)
		}
	case syntax.OpCapture, syntax.OpPlus:
		return longest(re.Sub[0])
	case syntax.OpRepeat:
		if re.Min > 0 {
			return longest(re.Sub[0])
		}
	case syntax.OpConcat:
		for _, sub := range re.Sub {
			if text := longest(sub); len(text) > len(best) {
				best = text
			}
		}
	}
	return best
}

// mayFit reports whether a text can fit the pattern of a rule at all.
func (p *Replacer) mayFit(text string) bool {
	return p.literal == "" || strings.Contains(text, p.literal)
}
