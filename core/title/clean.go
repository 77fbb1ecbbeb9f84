package title

import (
	"cmp"
	_ "embed"
	"regexp"
	"slices"
	"strings"
	"sync"
	"unicode"
	"unicode/utf8"

	"zetanum/core/lazy"
	"zetanum/core/markup"
	"zetanum/core/text"
)

//go:embed promotion.txt
var promotionText string

// praise returns phrases that praise, in small letters, by their first words, the longest first, and the last words of them.
var praise = sync.OnceValues(func() (promotions map[string][]string, praising map[string]bool) {
	by, last := make(map[string][]string), make(map[string]bool)
	for line := range lines(promotionText) {
		_, phrases, _ := strings.Cut(line, " ")
		for p := range strings.SplitSeq(phrases, "|") {
			words := tokens(p)
			first, end := words[0].text, words[len(words)-1].text
			by[first], last[end] = append(by[first], p), true
		}
	}
	for _, list := range by {
		slices.SortFunc(list, func(a, b string) int { return cmp.Or(cmp.Compare(len(b), len(a)), cmp.Compare(a, b)) })
	}
	return by, last
})

// mostRounds is how often a title is cleaned until nothing is left to be done.
const mostRounds = 6

// Clean takes off what does not belong into a title: markup, phrases that praise, at its ends, words that stand twice,
// stray punctuation and brackets that hold nothing or are left open.
func (w *Words) Clean(s string) string {
	for range mostRounds {
		before := s
		s = withoutMarkup(s)
		s = w.withoutPromotion(s)
		s = w.withoutDoubles(s)
		s = brackets(s)
		s = punctuation(s)
		if s == before {
			break
		}
	}
	return s
}

// instead is what stands in the place of the tags of an element: nothing within a line, and a space where a new one begins. Other
// tags are none of HTML: <M>.
var instead = func() map[string]string {
	m := make(map[string]string)
	for by, names := range map[string]string{
		"":  "a abbr b big em font i mark s small span strike strong sub sup tt u",
		" ": "br center div h1 h2 h3 h4 h5 h6 hr img li ol p table tbody td th tr ul",
	} {
		for name := range strings.FieldsSeq(names) {
			m[name] = by
		}
	}
	return m
}()

// withoutMarkup takes tags out and writes entities as the characters that they stand for.
func withoutMarkup(s string) string {
	if strings.IndexByte(s, '<') >= 0 {
		s = withoutTags(s)
	}
	if strings.IndexByte(s, '&') >= 0 {
		s = strings.ReplaceAll(text.Entities(s), "\u00a0", " ")
	}
	return spaced(s)
}

func withoutTags(s string) string {
	var b strings.Builder
	for sc := markup.NewScanner(s); sc.Next(); {
		t := sc.Token()
		if by, is := instead[t.Name()]; is && t.Whole {
			b.WriteString(by)
		} else {
			b.WriteString(t.Raw)
		}
	}
	return b.String()
}

// spaced leaves one space where there are several, and none at the ends.
func spaced(s string) string {
	if !strings.Contains(s, "  ") && strings.TrimSpace(s) == s {
		return s
	}
	return strings.Join(strings.FieldsFunc(s, func(r rune) bool { return r == ' ' || r == '\t' || r == '\n' || r == '\r' }), " ")
}

// isDecoration reports whether a character decorates what praises.
func isDecoration(r rune) bool {
	return unicode.IsSpace(r) || strings.ContainsRune("!¡*#~+=|[](){}<>«»-–—:,;._/\\\"“”„", r) || r >= 0x2022 && r <= 0x2027 || isEmoji(r)
}

// praises reports whether what stands around a phrase tells that it is no part of the title: marks in a row, brackets, a bar or
// pictures; or, if it is in capitals, a single mark or a dash.
func praises(phrase, before, after string) bool {
	around := before + after
	marks := 0
	for _, r := range around {
		if strings.ContainsRune("!¡*#~=+<>«»", r) {
			marks++
		}
	}
	switch {
	case marks >= 2, strings.Contains(around, "|"), strings.ContainsFunc(around, isEmoji):
		return true
	case strings.ContainsAny(before, "([{") && strings.ContainsAny(after, ")]}"):
		return true
	case marks > 0 && (dashed(before) || dashed(after)):
		return true
	case !isUpper(phrase):
		return false
	}
	return marks > 0 || strings.Contains(around, ":") || dashed(before) || dashed(after) || strings.Contains(before, ", ")
}

// dashed reports whether a dash stands in a text with a space beside it.
func dashed(s string) bool {
	for _, dash := range []string{"-", "–", "—"} {
		if strings.Contains(s, " "+dash) || strings.Contains(s, dash+" ") {
			return true
		}
	}
	return false
}

// withoutPromotion takes what praises off the ends of a title.
func (w *Words) withoutPromotion(s string) string {
	for range mostRounds {
		before := s
		s = w.praisedBefore(s)
		s = w.praisedBehind(s)
		s = marks(s)
		if s == before {
			break
		}
	}
	return s
}

// marks takes exclamation marks and stars in a row off the ends.
func marks(s string) string {
	t := strings.TrimSpace(s)
	front, back := strings.TrimLeft(t, "!*¡#~ "), strings.TrimRight(t, "!*#~ ")
	if n := countMarks(t[:len(t)-len(front)]); front != "" && (n >= 2 || n == 1 && strings.HasPrefix(t, "* ") || n == 1 && strings.HasPrefix(t, "! ")) {
		t = front
		back = strings.TrimRight(t, "!*#~ ")
	}
	if n := countMarks(t[len(back):]); back != "" && (n >= 2 || n == 1 && strings.ContainsAny(t[len(back):], "*~")) {
		t = back
	}
	return t
}

func countMarks(s string) int { return utf8.RuneCountInString(strings.ReplaceAll(s, " ", "")) }

// ofWord reports whether a character is part of a word, and parts whether it parts words.
func ofWord(r rune) bool { return unicode.IsLetter(r) || unicode.IsDigit(r) || unicode.IsMark(r) }
func parts(r rune) bool  { return !ofWord(r) && !isApostrophe(r) }

// phraseIn returns how long the phrase is with which a text in small letters begins, 0 if it begins with none.
func phraseIn(lower string) int {
	end := strings.IndexFunc(lower, parts)
	if end < 0 {
		end = len(lower)
	}
	promotions, _ := praise()
	for _, p := range promotions[lower[:end]] {
		if strings.HasPrefix(lower, p) {
			next, _ := utf8.DecodeRuneInString(lower[len(p):])
			if !ofWord(next) {
				return len(p)
			}
		}
	}
	return 0
}

// longestPhrase is how many bytes a phrase has at most, in any case.
const longestPhrase = 64

// phraseBegins returns how many bytes the phrase has with which a text begins, in any case, 0 if it begins with none.
func (w *Words) phraseBegins(s string) (n int) {
	s = s[:min(len(s), longestPhrase)]
	lower := w.lower(s)
	if n := phraseIn(lower); n == 0 || n <= len(s) && w.lower(s[:n]) == lower[:n] {
		return n
	}
	for i := range s { // letters of other lengths
		if lower := w.lower(s[:i]); i > 0 && phraseIn(lower+" ") == len(lower) {
			n = i
		}
	}
	return n
}

func (w *Words) praisedBefore(s string) string {
	start := strings.IndexFunc(s, func(r rune) bool { return !isDecoration(r) })
	if start < 0 {
		return s
	}
	rest := s[start:]
	n := w.phraseBegins(rest)
	if n == 0 {
		return s
	}
	end := strings.IndexFunc(rest[n:], func(r rune) bool { return !isDecoration(r) })
	if end < 0 {
		return s // there is nothing else
	}
	between := rest[n : n+end]
	if !praises(rest[:n], s[:start], between) {
		return s
	}
	// An opening bracket belongs to what follows.
	return strings.TrimLeftFunc(rest[n:], func(r rune) bool {
		return isDecoration(r) && r != '(' && r != '[' && r != '"' && r != '„' && r != '«'
	})
}

func (w *Words) praisedBehind(s string) string {
	end := strings.LastIndexFunc(s, func(r rune) bool { return !isDecoration(r) })
	if end < 0 {
		return s
	}
	_, size := utf8.DecodeRuneInString(s[end:])
	end += size
	word := strings.LastIndexFunc(s[:end], parts)
	if word >= 0 {
		_, size := utf8.DecodeRuneInString(s[word:])
		word += size
	}
	if _, praising := praise(); !praising[w.lower(s[max(word, 0):end])] {
		return s
	}
	after := s[end:]
	for i := range s[:end] {
		if i < end-longestPhrase {
			continue
		}
		before, _ := utf8.DecodeLastRuneInString(s[:i])
		if i == 0 || ofWord(before) {
			continue
		}
		lower := w.lower(s[i:end])
		if phraseIn(lower) != len(lower) {
			continue
		}
		front := strings.TrimRightFunc(s[:i], isDecoration)
		between := s[len(front):i]
		if front == "" || !praises(s[i:end], between, after) {
			return s
		}
		// A mark of the sentence or a closing bracket before it belongs to the title.
		keep := strings.IndexFunc(between, func(r rune) bool {
			return r != '!' && r != '?' && r != '.' && r != ')' && r != ']' && r != '"' && r != '“' && r != '»'
		})
		if keep > 0 && (between[0] == ')' || between[0] == ']' || between[0] == '?' || between[0] == '"') {
			front += between[:1]
		}
		return front
	}
	return s
}

// withoutDoubles takes out the second of two words that are the same and stand side by side.
func (w *Words) withoutDoubles(s string) string {
	if !perhapsDoubled(s) {
		return s
	}
	list := tokens(s)
	out := list[:0:0]
	for i := 0; i < len(list); i++ {
		t := list[i]
		n := len(out)
		if t.word && n >= 2 && out[n-1].text == " " && out[n-2].word && w.doubled(out[n-2].text, t.text) {
			out = out[:n-1] // and the space before it
			continue
		}
		out = append(out, t)
	}
	return joined(out)
}

// perhapsDoubled reports whether two words side by side begin and end alike, but for their case.
func perhapsDoubled(s string) bool {
	last := ""
	for rest := s; rest != ""; {
		word, more, _ := strings.Cut(rest, " ")
		if n := len(word); n > 1 && len(last) > 1 {
			// Of letters that are not ASCII nothing is known.
			same := func(a, b byte) bool { return a|0x20 == b|0x20 || a >= utf8.RuneSelf || b >= utf8.RuneSelf }
			if same(word[0], last[0]) || !isLetterByte(word[0]) || !isLetterByte(last[0]) {
				return true
			}
		}
		last, rest = word, more
	}
	return false
}

func isLetterByte(c byte) bool { return c|0x20 >= 'a' && c|0x20 <= 'z' }

func (w *Words) doubled(one, other string) bool {
	lower := w.lower(other)
	return w.lower(one) == lower && isWord(other) && utf8.RuneCountInString(other) >= 2 && !w.twice[lower] && !twiceOf()[lower] && !strings.ContainsAny(other, "'’")
}

// brackets drops those that hold nothing, and closes or drops those that stand alone.
func brackets(s string) string {
	if !strings.ContainsAny(s, "()[]{}") {
		return s
	}
	for i, pair := range []string{"()", "[]", "{}"} {
		open, shut := pair[:1], pair[1:]
		for n := 0; n < mostRounds && empty[i].MatchString(s); n++ {
			s = spaced(empty[i].ReplaceAllString(s, " "))
		}
		depth := 0
		var b strings.Builder
		for i := range len(s) {
			switch c := s[i : i+1]; {
			case c == open:
				depth++
			case c == shut && depth == 0 && !(i > 0 && (s[i-1] == ':' || s[i-1] == ';' || isDigitByte(s[i-1]) || isLetterByte(s[i-1]) && (i == 1 || s[i-2] == ' '))):
				continue // of a bracket that is not there
			case c == shut:
				depth = max(0, depth-1)
			}
			b.WriteByte(s[i])
		}
		if s = b.String(); depth > 0 {
			s = strings.TrimRight(s, " ") + strings.Repeat(shut, depth)
		}
	}
	return s
}

// empty fit brackets that hold nothing.
var empty = [3]*regexp.Regexp{regexp.MustCompile(`\(\s*\)`), regexp.MustCompile(`\[\s*\]`), regexp.MustCompile(`\{\s*\}`)}

func isDigitByte(c byte) bool { return c >= '0' && c <= '9' }

var (
	commas     = lazy.New(`\s*([,;])(?:\s*[,;])+`)
	dashes     = lazy.New(`(\s[-–—|•·/])(?:\s[-–—|•·/])+(\s|$)`)
	doubleDash = lazy.New(`(^|\s)-{2,}(\s|$)`)
	spaceComma = lazy.New(`\s+,`)
	dashComma  = lazy.New(`(?:\s[-–—|])+\s*,`)
	commaDash  = lazy.New(`,\s*[-–—|]\s+`)
)

// punctuation leaves one where several stand in a row, and none at the ends that would part something.
func punctuation(s string) string {
	if inRow(s) {
		s = spaceComma.ReplaceAllString(commas.ReplaceAllString(s, "$1"), ",")
		s = dashes.ReplaceAllString(doubleDash.ReplaceAllString(s, "$1-$2"), "$1$2")
		s = commaDash.ReplaceAllString(dashComma.ReplaceAllString(s, ","), ", ")
	}
	s = s[signsBefore(s):]
	if !strings.HasSuffix(s, "+/-") {
		s = strings.TrimRight(s, " ,;:|-–—_•·/\\=~")
	}
	return spaced(s)
}

// signsBefore returns how many bytes of signs stand at the beginning that would part something. The point of .5 mm, the minus of
// -20 °C and the sign of ~30 cm are part of the number.
func signsBefore(s string) int {
	rest := strings.TrimLeft(s, " ,;:|-–—_•·/\\.=~")
	n := len(s) - len(rest)
	sign, size := utf8.DecodeLastRuneInString(s[:n])
	if rest != "" && isDigitByte(rest[0]) && strings.ContainsRune("-–—.~", sign) && (n == size || s[n-size-1] == ' ') {
		return n - size
	}
	return n
}

// inRow reports whether two signs stand in a row, but for spaces, or a space before a comma.
func inRow(s string) bool {
	sign, space := false, false
	for _, r := range s {
		switch {
		case r == ' ' || r == '\t':
			space = true
			continue
		case strings.ContainsRune(",;-–—|•·/", r):
			if sign || space && r == ',' {
				return true
			}
			sign = true
		default:
			sign = false
		}
		space = false
	}
	return false
}

// isEmoji reports whether a character is a picture, or part of one.
func isEmoji(r rune) bool {
	switch {
	case r < 0x2190:
		return r == 0x200d || r == 0x20e3
	case r >= 0x1f000 && r <= 0x1faff, r >= 0x2600 && r <= 0x27bf, r >= 0x2b00 && r <= 0x2bff, r >= 0xfe00 && r <= 0xfe0f, r >= 0x2300 && r <= 0x23ff,
		r >= 0xe0020 && r <= 0xe007f:
		return true
	}
	return false
}

// WithoutEmoji takes pictures out.
func (w *Words) WithoutEmoji(s string) string {
	if strings.IndexFunc(s, isEmoji) < 0 {
		return s
	}
	return spaced(strings.Map(func(r rune) rune {
		if isEmoji(r) {
			return -1
		}
		return r
	}, s))
}
