package pattern

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"zetanum/core/text"
	"zetanum/core/title"
)

// A narrowing is a word behind the name of a slot.
type narrowing struct {
	name   string
	counts bool // a number stands behind it
	do     func(text string, n int) string
	style  title.Style // of the language of the pattern, if do is nil
}

// words are those that may stand behind a name.
var words = []narrowing{
	{name: "upper", counts: false, do: func(t string, _ int) string { return strings.ToUpper(t) }},
	{name: "lower", counts: false, do: func(t string, _ int) string { return strings.ToLower(t) }},
	{name: "title", style: title.Title},
	{name: "sentence", style: title.Sentence},
	{name: "letters", counts: false, do: func(t string, _ int) string { return only(t, unicode.IsLetter) }},
	{name: "digits", counts: false, do: func(t string, _ int) string { return only(t, unicode.IsDigit) }},
	{name: "ascii", counts: false, do: func(t string, _ int) string { return strings.Join(strings.Fields(text.ASCII(t)), " ") }},
	{name: "slug", counts: false, do: func(t string, _ int) string { return text.Slug(t) }},
	{name: "slug-letters", counts: false, do: func(t string, _ int) string { return text.SlugLetters(t) }},
	{name: "within", counts: true, do: within},
	{name: "initials", counts: false, do: initials},
	{name: "words", counts: true, do: func(t string, n int) string {
		f := strings.Fields(t)
		return strings.Join(f[:min(n, len(f))], " ")
	}},
	{name: "word", counts: true, do: func(t string, n int) string {
		if f := strings.Fields(t); n <= len(f) {
			return f[n-1]
		}
		return ""
	}},
	{name: "first", counts: true, do: func(t string, n int) string {
		runes := []rune(t)
		return string(runes[:min(n, len(runes))])
	}},
	{name: "last", counts: true, do: func(t string, n int) string {
		runes := []rune(t)
		return string(runes[max(0, len(runes)-n):])
	}},
	{name: "skip", counts: true, do: func(t string, n int) string {
		runes := []rune(t)
		return string(runes[min(n, len(runes)):])
	}},
	{name: "pad", counts: true, do: func(t string, n int) string {
		return strings.Repeat("0", max(0, n-utf8.RuneCountInString(t))) + t
	}},
}

// Words names the words that may stand behind a name: those with an N have a number behind them.
func Words() string {
	var names []string
	for _, w := range words {
		if w.counts {
			w.name += " N"
		}
		names = append(names, w.name)
	}
	return strings.Join(names, ", ")
}

func wordNames() (names []string) {
	for _, w := range words {
		names = append(names, w.name)
	}
	return names
}

// within returns as many whole words as fit into so many characters, with what stands between them; of a first
// word that does not fit, what does. A dash ends a word, too.
func within(t string, n int) string {
	runes := []rune(t)
	if len(runes) <= n {
		return t
	}
	part := func(c rune) bool { return unicode.IsSpace(c) || unicode.Is(unicode.Pd, c) }
	end := n
	ends := func(at int) bool { // a word ends before it
		return part(runes[at]) || unicode.IsPunct(runes[at]) && (at+1 == len(runes) || part(runes[at+1]))
	}
	for end > 0 && !ends(end) {
		end--
	}
	for end > 0 && (part(runes[end-1]) || unicode.IsPunct(runes[end-1])) {
		end--
	}
	if end == 0 {
		end = n
	}
	return string(runes[:end])
}

// initials returns the first letter or digit of each word.
func initials(t string, _ int) string {
	var b strings.Builder
	inside := false
	for _, c := range t {
		part := unicode.IsLetter(c) || unicode.IsDigit(c)
		if part && !inside {
			b.WriteRune(c)
		}
		inside = part || inside && unicode.IsMark(c) || c == '\'' || c == '’'
	}
	return b.String()
}

func only(t string, keep func(rune) bool) string {
	return strings.Map(func(r rune) rune {
		if keep(r) {
			return r
		}
		return -1
	}, t)
}
