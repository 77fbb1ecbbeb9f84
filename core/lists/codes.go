package lists

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"unicode"
)

// ErrList is wrapped by every error about what stands in a list.
var ErrList = errors.New("the list is wrong")

// A Pair is a row of a list of two columns.
type Pair struct {
	Row        int
	Key, Value string
}

// Codes says what short codes stand for.
type Codes struct {
	values  map[string]string // by code, folded
	results map[string]bool   // what codes stand for, folded
}

func plain(s string) string { return strings.ToLower(strings.Join(strings.Fields(s), " ")) }

// NewCodes takes the pairs of a list. A code must not stand for two things, and
// what it stands for must not be another code: doing it twice would not be doing
// it once.
func NewCodes(pairs []Pair) (*Codes, error) {
	c := &Codes{values: make(map[string]string), results: make(map[string]bool)}
	rows := make(map[string]int)
	for _, p := range pairs {
		code := plain(p.Key)
		if code == "" || plain(p.Value) == "" {
			continue
		}
		if before, twice := c.values[code]; twice && before != p.Value {
			return nil, fmt.Errorf("%w: %q stands for %q in row %d and for %q in row %d", ErrList, p.Key, before, rows[code], p.Value,
				p.Row)
		}
		c.values[code], rows[code] = p.Value, p.Row
		c.results[plain(p.Value)] = true
	}
	for _, p := range pairs {
		if next, chain := c.values[plain(p.Value)]; chain && plain(p.Key) != "" && plain(next) != plain(p.Value) {
			return nil, fmt.Errorf("%w: in row %d %q stands for %q, which is itself a code, for %q in row %d; a second run would "+
				"change it again",
				ErrList, p.Row, p.Key, p.Value, next, rows[plain(p.Value)])
		}
	}
	return c, nil
}

// Len returns how many codes there are.
func (c *Codes) Len() int { return len(c.values) }

// Find returns what a code stands for. known is true, too, for what is no code but
// what one stands for.
func (c *Codes) Find(code string) (value string, known bool) {
	code = plain(code)
	if v, ok := c.values[code]; ok {
		return v, true
	}
	return "", c.results[code]
}

// Clues says which values words in a text speak for.
type Clues struct {
	first map[string][]clue // by the first word
	order map[string]int    // of values in the list
}

type clue struct {
	words []string
	value string
}

// NewClues takes the pairs of a list: words, and the value that they speak for.
func NewClues(pairs []Pair) (*Clues, error) { return newClues(pairs, true) }

// AnyClues takes the pairs of a list of which the first counts, where words speak for several values.
func AnyClues(pairs []Pair) *Clues {
	c, _ := newClues(pairs, false)
	return c
}

func newClues(pairs []Pair, strict bool) (*Clues, error) {
	c := &Clues{first: make(map[string][]clue), order: make(map[string]int)}
	seen := make(map[string]Pair)
	for _, p := range pairs {
		words := wordsOf(p.Key)
		if len(words) == 0 || strings.TrimSpace(p.Value) == "" {
			continue
		}
		key := strings.Join(words, " ")
		if before, twice := seen[key]; twice && !strict {
			continue
		} else if twice && before.Value != p.Value {
			return nil, fmt.Errorf("%w: %q speaks for %q in row %d and for %q in row %d", ErrList, p.Key, before.Value, before.Row, p.Value,
				p.Row)
		}
		seen[key] = p
		value := strings.TrimSpace(p.Value)
		if _, there := c.order[value]; !there {
			c.order[value] = len(c.order)
		}
		c.first[words[0]] = append(c.first[words[0]], clue{words, value})
	}
	return c, nil
}

// First returns the one of several values that stands first in the list.
func (c *Clues) First(values []string) string {
	return slices.MinFunc(values, func(a, b string) int { return c.order[a] - c.order[b] })
}

// Values returns the values that the words of a text speak for, in the order of
// the text, each once. Words that are part of a longer match do not count: "smoker
// box" is no smoker.
func (c *Clues) Values(text string) (values []string) {
	words := wordsOf(text)
	for i := 0; i < len(words); i++ {
		var best *clue
		for n := range c.first[words[i]] {
			k := &c.first[words[i]][n]
			if len(k.words) <= len(words)-i && (best == nil || len(k.words) > len(best.words)) && equal(k.words, words[i:]) {
				best = k
			}
		}
		if best == nil {
			continue
		}
		i += len(best.words) - 1
		known := false
		for _, v := range values {
			known = known || v == best.value
		}
		if !known {
			values = append(values, best.value)
		}
	}
	return values
}

func equal(words, text []string) bool {
	for i, w := range words {
		if text[i] != w {
			return false
		}
	}
	return true
}

// wordsOf returns the words of a text in small letters.
func wordsOf(text string) []string {
	return strings.FieldsFunc(strings.ToLower(text), func(r rune) bool {
		return !unicode.IsLetter(r) && !unicode.IsDigit(r) && !unicode.IsMark(r)
	})
}
