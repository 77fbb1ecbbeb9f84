package markup

import (
	"strings"
	"unicode"
	"unicode/utf8"
)

// A mark is what a line begins with that looks like an item of a list.
type mark struct {
	family family
	number int
	size   int // in bytes, without the spaces behind it
}

// A family of marks is what people use for one another.
type family uint8

const (
	noMark  family = iota
	dots           // • · ▪
	dashes         // - – ~
	stars          // *
	pluses         // +
	arrows         // → »
	ticks          // ✓
	crosses        // ✗, which says no: it is the mark of no item
	numbers        // 1. 2) (3) ④
)

// alwaysMarks begin an item also where no space stands behind them; the last are those of fonts of symbols.
const alwaysMarks = "•‣▪▫■□●○◦◾◼➢➤►▶▸❖◆◇\uf0b7\uf0a7\uf0d8\uf0fc"

// spacedMarks begin an item where a space stands behind them.
var spacedMarks = map[rune]family{'-': dashes, '–': dashes, '—': dashes, '~': dashes, '*': stars, '·': dots, '+': pluses, '→': arrows, '➔': arrows,
	'➜': arrows, '⇒': arrows, '»': arrows, '›': arrows, '✓': ticks, '✔': ticks, '☑': ticks, '✅': ticks, '✗': crosses, '✘': crosses, '✕': crosses,
	'❌': crosses, '☒': crosses}

// The digits in circles.
const firstCircled, lastCircled = '①', '⑳'

// markOf returns the mark with which a line begins.
func markOf(s string) (m mark) {
	if s == "" {
		return m
	}
	switch c := s[0]; {
	case c >= '0' && c <= '9', c == '(' && len(s) > 1 && s[1] >= '0' && s[1] <= '9':
		return numberOf(s)
	case c >= 'A' && c <= 'Z', c >= 'a' && c <= 'z', c == '<', c == '(', c == '"':
		return m
	}
	r, size := utf8.DecodeRuneInString(s)
	rest := s[size:]
	next, _ := utf8.DecodeRuneInString(rest)
	switch {
	case strings.ContainsRune(alwaysMarks, r):
		if next == utf8.RuneError || !strings.ContainsRune(alwaysMarks, next) {
			return mark{family: dots, size: size}
		}
	case r >= firstCircled && r <= lastCircled:
		return mark{numbers, int(r-firstCircled) + 1, size}
	case rest == "" || spaceAt(rest) > 0:
		m = mark{family: spacedMarks[r], size: size}
		if _, words := trimLeft(rest); m.family == noMark || m.family == pluses && words != "" && !beginsWithLetter(words) { // + 5 °C
			return mark{}
		}
		return m
	case r == '-' && unicode.IsLetter(next):
		return mark{family: dashes, size: size}
	}
	return mark{}
}

// numberOf returns the mark of a line that begins with a number: 1. 2) (3) 4.). Behind a full stop a letter may stand at once.
func numberOf(s string) mark {
	i := 0
	if s[0] == '(' {
		i = 1
	}
	n, from := 0, i
	for ; i < len(s) && i-from < 3 && s[i] >= '0' && s[i] <= '9'; i++ {
		n = n*10 + int(s[i]-'0')
	}
	switch {
	case i == len(s), from == 1 && s[i] != ')':
		return mark{}
	case from == 1:
		i++
	case strings.HasPrefix(s[i:], ".)"):
		i += 2
	case s[i] == '.' || s[i] == ')':
		i++
	default:
		return mark{}
	}
	if i == len(s) || spaceAt(s[i:]) > 0 || s[i-1] == '.' && beginsWithLetter(s[i:]) {
		return mark{numbers, n, i}
	}
	return mark{}
}

func beginsWithLetter(s string) bool {
	r, _ := utf8.DecodeRuneInString(s)
	return unicode.IsLetter(r)
}

// sameMarks returns how many of the first of some lines have marks of one family, and numbers from 1 on; 0 if only one has, or they are
// no marks of items.
func sameMarks(most int, markAt func(int) mark) (n int) {
	first := markAt(0)
	if first.family == noMark || first.family == crosses || first.family == numbers && first.number != 1 {
		return 0
	}
	for n = 1; n < most; n++ {
		m := markAt(n)
		if m.family == crosses && first.family == ticks {
			return 0 // of which some say no
		}
		if m.family != first.family || m.family == numbers && m.number != n+1 {
			break
		}
	}
	if n < 2 {
		return 0
	}
	return n
}

// nestedMarks returns how many of the first of some lines are a list in whose items others lie, which only their marks tell: dots or
// numbers, with two dashes or more behind each that has any. 0 if they are none.
func nestedMarks(most int, markAt func(int) mark) (n int) {
	first := markAt(0)
	if first.family != dots && (first.family != numbers || first.number != 1) {
		return 0
	}
	top, inside, lists := 1, 0, 0
	for n = 1; n < most; n++ {
		m := markAt(n)
		if m.family == first.family && (m.family != numbers || m.number == top+1) {
			if inside == 1 {
				return 0
			}
			inside = 0
			top++
		} else if m.family == dashes {
			if inside++; inside == 2 {
				lists++
			}
		} else {
			break
		}
	}
	if inside == 1 || top < 2 || lists == 0 {
		return 0
	}
	return n
}
