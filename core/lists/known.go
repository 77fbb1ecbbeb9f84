package lists

import (
	"strings"
	"sync"
	"sync/atomic"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"

	"zetanum/core/catalogue"
	"zetanum/core/text"
)

// A Match says how a value fits a list.
type Match uint8

// The ways in which a value fits a list.
const (
	NoMatch Match = iota
	Exact         // it is in the list
	Folded        // it is in the list but for case, spaces, accents and punctuation
	Near          // one value of the list differs from it by a small slip
)

// Known are the values that a field may have. It is safe for many goroutines.
type Known struct {
	values []string
	exact  map[string]bool
	folded map[string]string // "" where several values fold to one
	spelt  map[string]string // by what their spellings have in common, likewise

	near  sync.Map // what was found for values that are not in the list
	nears atomic.Int64
}

// mostNears is how many values that are not in a list are remembered.
const mostNears = 1 << 14

// NewKnown takes the values of a list. Empty ones count for nothing.
func NewKnown(values []string) *Known {
	k := &Known{exact: make(map[string]bool), folded: make(map[string]string), spelt: make(map[string]string)}
	for _, v := range values {
		v = strings.TrimSpace(v)
		if v == "" || k.exact[v] {
			continue
		}
		k.values = append(k.values, v)
		k.exact[v] = true
		enter(k.folded, Fold(v), v)
		enter(k.spelt, SpellingKey(v), v)
	}
	return k
}

func enter(values map[string]string, key, v string) {
	if _, twice := values[key]; twice {
		v = ""
	}
	values[key] = v
}

// Values returns the list.
func (k *Known) Values() []string { return k.values }

// Match looks for a value in the list and returns the value of the list that it
// stands for, "" if there is none or more than one.
func (k *Known) Match(value string) (string, Match) {
	if k.exact[value] {
		return value, Exact
	}
	if v, there := k.folded[Fold(value)]; there {
		if v == "" {
			return "", NoMatch // it may be either
		}
		return v, Folded
	}
	if v := k.spelt[SpellingKey(value)]; v != "" {
		return v, Folded
	}
	if found, ok := k.near.Load(value); ok {
		v := found.(string)
		if v == "" {
			return "", NoMatch
		}
		return v, Near
	}
	v := Slip(value, k.values)
	if k.nears.Add(1) <= mostNears {
		k.near.Store(strings.Clone(value), v)
	}
	if v == "" {
		return "", NoMatch
	}
	return v, Near
}

// plainLetters are letters with a mark that Unicode does not take for an accent.
var plainLetters = map[rune]string{'ø': "o", 'ł': "l", 'đ': "d", 'ð': "d", 'ħ': "h", 'ı': "i", 'ß': "ss", 'æ': "ae", 'œ': "oe", 'þ': "th"}

// Fold returns a text in a form in which case, spaces and accents do not count.
func Fold(s string) string {
	var b strings.Builder
	b.Grow(len(s))
	if !catalogue.IsASCII(s) {
		s = norm.NFKD.String(s)
	}
	for _, r := range s {
		switch {
		case unicode.IsSpace(r), unicode.Is(unicode.Mn, r):
		default:
			r = unicode.ToLower(unicode.ToUpper(r))
			if plain, ok := plainLetters[r]; ok {
				b.WriteString(plain)
			} else {
				b.WriteRune(r)
			}
		}
	}
	return b.String()
}

// Slip returns the known text of which another is a likely slip of the keyboard: one
// character more, less or other, of texts longer than eight characters two, and
// only where no digit differs. It is "" if there is none, or more than one. Texts
// of less than four characters are not misspelt: S is no slip of XS.
func Slip(value string, known []string) string {
	fold := Fold(value)
	size := utf8.RuneCountInString(fold)
	if size < 4 {
		return ""
	}
	most := 1
	if size > 8 {
		most = 2
	}
	digits := digitsOf(value)
	best, least := "", most+1
	for _, k := range known {
		if d := len(k) - len(value); d > 8 || d < -8 {
			continue
		}
		f := Fold(k)
		if d := utf8.RuneCountInString(f) - size; d > most || -d > most || digitsOf(k) != digits {
			continue
		}
		switch d := text.Edits(fold, f); {
		case d < least:
			best, least = k, d
		case d == least && least <= most:
			best = ""
		}
	}
	return best
}

// digitsOf returns the words of a text that have digits in them.
func digitsOf(s string) string {
	var numbers []string
	for _, word := range strings.Fields(strings.ToLower(s)) {
		if strings.ContainsFunc(word, unicode.IsDigit) {
			numbers = append(numbers, word)
		}
	}
	return strings.Join(numbers, " ")
}
