package wording

import (
	"regexp/syntax"
	"strings"
)

// needed is what stands in every text that a pattern fits, as far as that is easily seen. Looking
// for it first is much faster than the pattern.
type needed struct {
	literals    []string // anywhere
	first, last string   // at the beginning of the text, and at its end; "" if nothing need be
}

// neededBy returns what a pattern needs.
func neededBy(pattern string) (n needed) {
	re, err := syntax.Parse(pattern, syntax.Perl)
	if err != nil {
		return n
	}
	re = re.Simplify()
	n.add(re)
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

// within reports whether all that is needed stands in a text somewhere.
func (n *needed) within(text string) bool {
	for _, l := range n.literals {
		if !strings.Contains(text, l) {
			return false
		}
	}
	return true
}

// mayFit reports whether the pattern can fit a text, of which what is needed stands where it has to.
func (n *needed) mayFit(text string) bool {
	return strings.HasSuffix(text, n.last) && strings.HasPrefix(text, n.first) && n.within(text)
}
