package template

import (
	_ "embed"
	"regexp"
	"slices"
	"strings"
	"sync"
	"unicode"

	"zetanum/core/lazy"
)

//go:embed words.txt
var wordsFile string

// A lexicon is what forms say of their columns, by kind.
var lexicon = sync.OnceValue(func() map[string][]string {
	m := make(map[string][]string)
	for line := range strings.Lines(wordsFile) {
		kind, list, ok := strings.Cut(strings.TrimSpace(line), ":")
		if !ok || line[0] == '#' {
			continue
		}
		for word := range strings.SplitSeq(list, ",") {
			m[kind] = append(m[kind], plain(word))
		}
		slices.SortFunc(m[kind], func(a, b string) int { return len(b) - len(a) }) // the longer one is meant
	}
	return m
})

// plain returns a text in small letters, without brackets, stops and stars, and with single spaces.
func plain(s string) string {
	s = strings.Map(func(r rune) rune {
		switch {
		case strings.ContainsRune("()[]{}*!.:;\"“”„«»", r):
			return ' '
		case r == '’':
			return '\''
		}
		return unicode.ToLower(r)
	}, s)
	return strings.Join(strings.Fields(s), " ")
}

// is reports whether a text is one of the words of a kind, and nothing else.
func is(text, kind string) bool { return slices.Contains(lexicon()[kind], plain(text)) }

// says reports whether a text has one of the words of a kind in it, as whole words.
func says(text, kind string) bool {
	_, _, ok := around(plain(text), kind)
	return ok
}

// around cuts a plain text around the first of the words of a kind.
func around(text, kind string) (before, after string, ok bool) {
	at, length := -1, 0
	for _, word := range lexicon()[kind] {
		for from := 0; ; {
			i := strings.Index(text[from:], word)
			if i < 0 {
				break
			}
			i += from
			if whole(text, i, i+len(word)) {
				if at < 0 || i < at {
					at, length = i, len(word)
				}
				break
			}
			from = i + 1
		}
	}
	if at < 0 {
		return text, "", false
	}
	return text[:at], text[at+length:], true
}

// whole reports whether no letter stands right before or behind a part of a text.
func whole(text string, from, to int) bool {
	before, after := []rune(text[:from]), []rune(text[to:])
	return (len(before) == 0 || !unicode.IsLetter(before[len(before)-1])) && (len(after) == 0 || !unicode.IsLetter(after[0]))
}

// anyOf returns the words of a kind as a part of a pattern.
func anyOf(kind string) string {
	var list []string
	for _, w := range lexicon()[kind] {
		list = append(list, regexp.QuoteMeta(w))
	}
	return "(?:" + strings.Join(list, "|") + ")"
}

// technical fits a name as programs have them: item_name, k.sku, amt12.
var technical = lazy.New(`^[a-z][A-Za-z0-9]*([_.:#-][A-Za-z0-9]+)*$`)
