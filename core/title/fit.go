package title

import (
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"zetanum/core/text"
)

// Shorts are short forms of words, in the order in which they are used.
type Shorts struct {
	by map[string][]short // by the small letters of the first word
}

type short struct {
	nth   int
	lower []string // the tokens of the long form, in small letters
	text  string
}

// NewShorts returns short forms, each a long form and a short one.
func (w *Words) NewShorts(pairs [][]string) *Shorts {
	s := &Shorts{by: make(map[string][]short)}
	for i, pair := range pairs {
		one := short{nth: i, text: pair[1]}
		for _, t := range tokens(pair[0]) {
			one.lower = append(one.lower, w.lower(t.text))
		}
		if len(one.lower) > 0 {
			s.by[one.lower[0]] = append(s.by[one.lower[0]], one)
		}
	}
	return s
}

// Fit makes a title fit: with short forms, one after the other and only as far as needed, and, if cut says so, by leaving out
// what stands at its end. ok is false if it cannot, and then it returns the shortest that was reached.
func (w *Words) Fit(s string, l text.Limit, shorts *Shorts, cut bool) (fitted string, ok bool) {
	if l.Fits(s) {
		return s, true
	}
	if shorts != nil {
		for !l.Fits(s) {
			next, more := w.shorten(s, shorts)
			if !more {
				break
			}
			s = next
		}
	}
	if l.Fits(s) || !cut {
		return s, l.Fits(s)
	}
	if t := w.cut(s, l); t != "" {
		return t, true
	}
	return s, false
}

// shorten uses the first of the short forms of which the long one stands in a title.
func (w *Words) shorten(s string, shorts *Shorts) (string, bool) {
	list := tokens(s)
	var best *short
	at := 0
	for i := range list {
		if !list[i].word {
			continue
		}
		forms := shorts.by[w.lower(list[i].text)]
		for k := range forms {
			one := &forms[k]
			if (best == nil || one.nth < best.nth) && i+len(one.lower) <= len(list) && w.same(list[i:i+len(one.lower)], one.lower) {
				best, at = one, i
			}
		}
	}
	if best == nil {
		return s, false
	}
	form := best.text
	if strings.HasSuffix(form, ".") && at+len(best.lower) < len(list) && strings.HasPrefix(list[at+len(best.lower)].text, ".") {
		form = strings.TrimSuffix(form, ".")
	}
	if r, _ := utf8.DecodeRuneInString(list[at].text); at == 0 && unicode.IsUpper(r) {
		form = w.capital(form)
	}
	return joined(list[:at]) + form + joined(list[at+len(best.lower):]), true
}

func (w *Words) same(list []token, lower []string) bool {
	return slices.EqualFunc(list, lower, func(t token, l string) bool { return w.lower(t.text) == l })
}

// cut leaves out words at the end until a title fits; none stays open: no bracket, no sign that parts, no small word. It
// returns "" if nothing is left.
func (w *Words) cut(s string, l text.Limit) string {
	list, end := tokens(s), len(s)
	for n := len(list); n > 0; n-- {
		if n < len(list) {
			end -= len(list[n].text)
		}
		if n < len(list) && list[n].word && list[n-1].word || n < len(list) && !list[n].word && !strings.ContainsAny(list[n].text, " ,;") {
			continue // inside of a word with a sign in it
		}
		t := w.ended(s[:end])
		if t != "" && l.Fits(t) {
			return t
		}
	}
	return ""
}

// ended takes off the end of a text what cannot stand there.
func (w *Words) ended(s string) string {
	for {
		before := s
		for _, pair := range []string{"()", "[]", "{}"} {
			if open := strings.LastIndex(s, pair[:1]); open >= 0 && !strings.Contains(s[open:], pair[1:]) {
				s = s[:open]
			}
		}
		s = strings.TrimRightFunc(s, func(r rune) bool {
			return unicode.IsSpace(r) || strings.ContainsRune(",;:-–—|/&+\\•·=([{<„‚«¿¡@#", r)
		})
		last := s[strings.LastIndexByte(s, ' ')+1:]
		if lower := w.lower(last); len(last) < len(s) && (w.small[lower] || utf8.RuneCountInString(last) == 1 && unicode.IsLetter([]rune(last)[0])) {
			s = s[:len(s)-len(last)]
		}
		if s == before {
			return s
		}
	}
}

// CheckShorts says what is wrong with short forms.
func CheckShorts(pairs [][]string) string {
	for _, pair := range pairs {
		if len(pair) != 2 || strings.TrimSpace(pair[0]) == "" {
			return `is pairs of a long form and a short one: shorten = [["stainless steel", "st. steel"]]`
		}
	}
	at := slices.IndexFunc(pairs, func(p []string) bool { return utf8.RuneCountInString(p[1]) >= utf8.RuneCountInString(p[0]) })
	if at >= 0 {
		return "has " + pairs[at][1] + " for " + pairs[at][0] + ", which is not shorter"
	}
	return ""
}
