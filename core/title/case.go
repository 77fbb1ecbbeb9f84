package title

import (
	"strings"
	"unicode"
	"unicode/utf8"
)

// A token is a word, or what stands between words.
type token struct {
	text string
	word bool
	kept bool // it is how it is written, as a brand or a model number
}

// tokens takes a text apart: words are letters, digits and marks with the apostrophes between them.
func tokens(s string) (list []token) {
	from, word := 0, false
	flush := func(to int) {
		if to > from {
			list = append(list, token{text: s[from:to], word: word})
		}
		from = to
	}
	for i, r := range s {
		part := unicode.IsLetter(r) || unicode.IsDigit(r) || unicode.IsMark(r) && word
		if !part && word && isApostrophe(r) { // within a word
			next, _ := utf8.DecodeRuneInString(s[i+utf8.RuneLen(r):])
			part = unicode.IsLetter(next)
		}
		if part != word {
			flush(i)
			word = part
		}
	}
	flush(len(s))
	return list
}

func isApostrophe(r rune) bool { return r == '\'' || r == '’' }

// MostlyCapitals reports whether of three letters of a title at least two are capitals, as far as its beginning tells.
func MostlyCapitals(s string) bool {
	upper, lower := 0, 0
	s = s[:min(len(s), beginning)]
	for _, r := range s {
		switch {
		case r < utf8.RuneSelf && r >= 'a' && r <= 'z', r >= utf8.RuneSelf && unicode.IsLower(r):
			lower++
		case r < utf8.RuneSelf && r >= 'A' && r <= 'Z', r >= utf8.RuneSelf && unicode.IsUpper(r):
			upper++
		}
	}
	return upper > 2*lower
}

// beginning is how many bytes of a title tell whether it is written in capitals, mostly.
const beginning = 40

// Shouts reports whether a title is written in capitals: all of its words but those that are always so.
func (w *Words) Shouts(s string) bool {
	upper, lower := 0, 0
	for _, r := range s {
		switch {
		case r < utf8.RuneSelf && r >= 'a' && r <= 'z', r >= utf8.RuneSelf && unicode.IsLower(r):
			lower++
		case r < utf8.RuneSelf && r >= 'A' && r <= 'Z', r >= utf8.RuneSelf && unicode.IsUpper(r):
			upper++
		}
	}
	if lower > upper {
		return false // as nearly all are
	}
	capitals := 0
	list := tokens(s)
	for i := range list {
		t := &list[i]
		if !t.word || !isWord(t.text) {
			continue
		}
		if _, is := w.written(w.lower(t.text)); is {
			continue
		}
		switch n := utf8.RuneCountInString(t.text); {
		case !isUpper(t.text):
			if n > 1 || !unicode.IsUpper([]rune(t.text)[0]) {
				return false
			}
		case n >= 4 || n >= 2 && hasVowel(t.text):
			capitals++
		}
	}
	return capitals > 0
}

// isWord reports whether a token has letters and no digit.
func isWord(s string) bool {
	return strings.IndexFunc(s, unicode.IsDigit) < 0
}

// isUpper reports whether all letters of a text are capitals; ß has none that people use.
func isUpper(s string) bool {
	some := false
	for _, r := range s {
		switch {
		case r == 'ß' || !unicode.IsLetter(r):
		case !unicode.IsUpper(r):
			return false
		default:
			some = true
		}
	}
	return some
}

const vowels = "aeiouyäöüáàâãåæéèêëęíìîïóòôõøœúùûýıąAEIOUYÄÖÜÁÀÂÃÅÆÉÈÊËĘÍÌÎÏÓÒÔÕØŒÚÙÛÝİĄ"

func hasVowel(s string) bool { return strings.ContainsAny(s, vowels) }

// Case writes a title in a style; one that shouts becomes sentence or title style where only what shouts is touched.
// brand is that of the product, which keeps its writing unless it shouts itself.
func (w *Words) Case(s string, style, shoutingAs Style, brand string) string {
	if style == AsIs || style == "" {
		return s
	}
	whole := w.Shouts(s)
	shouts := whole || w.loud && style == Shouting && MostlyCapitals(s)
	switch {
	case style == Shouting && !shouts:
		return w.quieten(s, brand)
	case style == Shouting:
		if style = shoutingAs; style != Sentence {
			style = Title
		}
	}
	list := tokens(s)
	w.keep(list, whole, w.phraseOf(brand))
	if w.lang == "de" && style == Sentence && shouts {
		style = Title // nobody can tell which of the words are nouns
	}
	first := true
	for i := range list {
		t := &list[i]
		if !t.word {
			first = first || style == Title && strings.HasPrefix(t.text, ": ")
			continue
		}
		if !t.kept {
			t.text = w.inStyle(list, i, style, first, shouts)
		}
		first = false
	}
	return joined(list)
}

func joined(list []token) string {
	var b strings.Builder
	for i := range list {
		b.WriteString(list[i].text)
	}
	return b.String()
}

// keep marks the words that keep their writing, and gives it to those whose is known.
func (w *Words) keep(list []token, shouts bool, own []phrase) {
	for i := 0; i < len(list); i++ {
		t := &list[i]
		if !t.word || t.kept {
			continue
		}
		lower := w.lower(t.text)
		n := w.phraseAt(own, list, i)
		if n == 0 {
			n = w.phraseAt(w.phrases[lower], list, i)
		}
		if n > 0 {
			i += n - 1
			continue
		}
		if text, is := w.written(lower); is {
			t.text, t.kept = text, true
			continue
		}
		switch {
		case strings.IndexFunc(t.text, unicode.IsDigit) >= 0:
			t.kept = true // a model number
		case w.isUnit(list, i):
			t.text, t.kept = w.unit(t.text), true
		case w.isRoman(list, i):
			t.text, t.kept = strings.ToUpper(t.text), true
		case w.between(list, i):
			t.text, t.kept = lower, true
		case w.hyphened(list, i):
			t.kept = true
		case !shouts && innerCapitals(t.text):
			t.kept = true
		case isUpper(t.text) && utf8.RuneCountInString(t.text) >= 2 && !hasVowel(t.text) && !w.small[lower]:
			t.kept = true // an acronym
		}
	}
}

// mostOwn is how many brands of products are remembered as phrases.
const mostOwn = 4096

// phraseOf returns a brand as a phrase, none if it is no name.
func (w *Words) phraseOf(brand string) []phrase {
	if brand == "" {
		return nil
	}
	w.mu.RLock()
	p, there := w.own[brand]
	w.mu.RUnlock()
	if there {
		return p
	}
	brand = strings.Clone(brand)
	p = w.brandPhrase(brand)
	w.mu.Lock()
	if len(w.own) < mostOwn {
		w.own[brand] = p
	}
	w.mu.Unlock()
	return p
}

// brandPhrase returns a brand as a phrase, none if it is empty, shouts, or is written in signs.
func (w *Words) brandPhrase(brand string) []phrase {
	brand = strings.TrimSpace(brand)
	if brand == "" || isUpper(brand) && utf8.RuneCountInString(brand) >= shoutedLetters {
		return nil
	}
	p := phrase{text: strings.Fields(brand)}
	for _, part := range p.text {
		if list := tokens(part); len(list) != 1 || !list[0].word {
			return nil
		}
		p.lower = append(p.lower, w.lower(part))
	}
	return []phrase{p}
}

// phraseAt gives a phrase of several words its writing if it begins at a token, and returns how many tokens it takes.
func (w *Words) phraseAt(phrases []phrase, list []token, at int) int {
	for _, p := range phrases {
		n := 0
		for n < len(p.lower) && at+2*n < len(list) && (n == 0 || list[at+2*n-1].text == " ") && w.lower(list[at+2*n].text) == p.lower[n] {
			n++
		}
		if n < len(p.lower) {
			continue
		}
		for k := range n {
			list[at+2*k].text, list[at+2*k].kept = p.text[k], true
		}
		return 2*n - 1
	}
	return 0
}

// isUnit reports whether a word is a unit behind a number.
func (w *Words) isUnit(list []token, i int) bool {
	if i < 2 || w.unit(list[i].text) == "" {
		return false
	}
	before := list[i-2].text
	last, _ := utf8.DecodeLastRuneInString(before)
	if i+2 < len(list) && w.small[w.lower(list[i].text)] && strings.Trim(list[i+2].text, "0123456789") == "" {
		return false // 2 w 1
	}
	return list[i-2].word && unicode.IsDigit(last) && strings.TrimSpace(list[i-1].text) == ""
}

// isRoman reports whether a word is a roman numeral: in capitals, or small behind a word that counts.
func (w *Words) isRoman(list []token, i int) bool {
	s := list[i].text
	if len(s) < 2 || strings.Trim(s, "IVXLCivxlc") != "" || !roman(strings.ToUpper(s)) {
		return false
	}
	behind := i >= 2 && counting[w.lower(list[i-2].text)]
	return behind || isUpper(s) && !alsoWords[strings.ToUpper(s)] && (strings.Trim(s, "IVX") == "" || len(s) >= 4)
}

// counting are words that a numeral stands behind.
var counting = setOf("band", "bd", "teil", "volume", "vol", "tome", "tomo", "tom", "mark", "mk", "part", "cilt", "deel", "book", "livre", "libro", "livro", "księga", "siècle", "siglo", "secolo", "wiek", "yüzyıl", "kapitel", "chapter", "nr", "no")

// alsoWords are roman numerals that are words of one of the languages, too.
var alsoWords = setOf("MIX", "DI", "MI", "VI", "CI", "LI", "DIX", "MIL", "CIVIC", "VIVI", "DIL")

// roman reports whether capitals are a roman numeral as it is written.
func roman(s string) bool {
	for _, part := range []struct{ one, five, ten string }{{"C", "", ""}, {"X", "L", "C"}, {"I", "V", "X"}} {
		switch {
		case part.five == "":
			for n := 0; n < 3 && strings.HasPrefix(s, part.one); n++ {
				s = s[1:]
			}
		case strings.HasPrefix(s, part.one+part.ten), strings.HasPrefix(s, part.one+part.five):
			s = s[2:]
		default:
			s = strings.TrimPrefix(s, part.five)
			for n := 0; n < 3 && strings.HasPrefix(s, part.one); n++ {
				s = s[1:]
			}
		}
	}
	return s == ""
}

// between reports whether a small word stands between numbers: 2-in-1.
func (w *Words) between(list []token, i int) bool {
	number := func(k int) bool {
		return k >= 0 && k < len(list) && strings.Trim(list[k].text, "0123456789") == ""
	}
	return w.small[w.lower(list[i].text)] && i >= 2 && i+2 < len(list) && list[i-1].text == "-" && list[i+1].text == "-" && number(i-2) && number(i+2)
}

// hyphened reports whether a word is a part of a model number: MK-II, RS485-A, PD/2.
func (w *Words) hyphened(list []token, i int) bool {
	if utf8.RuneCountInString(list[i].text) > 3 || !isUpper(list[i].text) {
		return false
	}
	beside := func(sep, word int) bool {
		return sep >= 0 && word >= 0 && word < len(list) && (list[sep].text == "-" || list[sep].text == "/" || list[sep].text == ".") &&
			strings.IndexFunc(list[word].text, unicode.IsDigit) >= 0
	}
	letter := utf8.RuneCountInString(list[i].text) == 1 && i >= 2 && list[i-1].text == "-" && list[i-2].kept // USB-A
	return letter || beside(i-1, i-2) || beside(i+1, i+2)
}

// innerCapitals reports whether a word has a capital behind a small letter, or two large ones before small: eNektar, HONIGwerk.
func innerCapitals(s string) bool {
	upper, lower := 0, false
	for _, r := range s {
		switch {
		case isApostrophe(r):
			upper, lower = 0, false
		case unicode.IsUpper(r):
			if lower {
				return true
			}
			upper++
		case unicode.IsLetter(r):
			if upper > 1 && r != 'ß' {
				return true
			}
			lower = true
		}
	}
	return false
}

// inStyle writes a word that nothing else is known of.
func (w *Words) inStyle(list []token, i int, style Style, first, shouts bool) string {
	word := list[i].text
	if head, tail, mark := w.elided(word); mark != "" {
		headText, tailText := w.lower(head), tail
		if text, is := w.written(w.lower(tail)); is {
			tailText = text
		} else {
			tailText = w.one(tail, style, false, shouts)
		}
		if text, is := w.written(w.lower(word)); is {
			return text
		}
		if first {
			headText = w.capital(headText)
		}
		return headText + mark + tailText
	}
	if i > 0 && strings.HasSuffix(list[i-1].text, "'") && w.small["'"+w.lower(word)] {
		return w.lower(word) // 's avonds
	}
	return w.one(word, style, first, shouts)
}

// one writes a word without an apostrophe before it.
func (w *Words) one(word string, style Style, first, shouts bool) string {
	lower := w.lower(word)
	small := w.small[lower]
	switch {
	case w.lang == "de" && style == Sentence: // nouns keep their capitals
		if small && !first {
			return lower
		}
		if first {
			return w.capital(word)
		}
		return word
	case first, style == Title && !small:
		return w.capital(w.names(lower))
	case style == Sentence && shouts:
		if name := w.names(lower); name != lower {
			return w.capital(name)
		}
	case !shouts && style == Sentence && isUpper(word) && utf8.RuneCountInString(word) <= 4 && utf8.RuneCountInString(word) >= 2:
		return word // it may be an acronym
	}
	return lower
}

// names writes the second capital of a name that begins with Mc.
func (w *Words) names(lower string) string {
	if rest, ok := strings.CutPrefix(lower, "mc"); ok && len(rest) >= 3 && w.lang != "tr" {
		return "mc" + w.capital(rest)
	}
	if rest, ok := strings.CutPrefix(lower, "o'"); ok && len(rest) >= 3 && rest != "clock" && (w.lang == "en" || w.lang == "") {
		return "o'" + w.capital(rest)
	}
	return lower
}

// elided cuts a word that begins with an article without its vowel: l'abeille, dell'apicoltore.
func (w *Words) elided(word string) (head, tail, mark string) {
	at := strings.IndexFunc(word, isApostrophe)
	if at < 1 {
		return "", "", ""
	}
	_, size := utf8.DecodeRuneInString(word[at:])
	head, mark, tail = word[:at], word[at:at+size], word[at+size:]
	if !elisions[w.lang][w.lower(head)] {
		return "", "", ""
	}
	return head, tail, mark
}

// elisions are what stands before an apostrophe, by language.
var elisions = map[string]map[string]bool{
	"fr": setOf("l", "d", "j", "m", "t", "s", "c", "n", "qu", "jusqu", "lorsqu", "puisqu", "quelqu"),
	"it": setOf("l", "d", "all", "dell", "dall", "nell", "sull", "coll", "un", "quest", "quell", "c", "s", "m", "t", "v", "bell", "sant"),
	"pt": setOf("d"), "es": setOf("d", "l"), "en": setOf("d", "l"), "de": setOf("d", "l"), "": setOf("d", "l"),
}

// quieten writes single words that shout in a quiet title like the others.
func (w *Words) quieten(s, brand string) string {
	row := 0 // of capitals
	for _, r := range s {
		if r < utf8.RuneSelf && r >= 'A' && r <= 'Z' || r >= utf8.RuneSelf && (unicode.IsUpper(r) || r == 'ß') {
			row++
		} else if row >= w.shouted() {
			break
		} else {
			row = 0
		}
	}
	if row < w.shouted() {
		return s
	}
	list := tokens(s)
	w.keep(list, false, w.phraseOf(brand))
	first := true
	sentence := w.shoutedWords(list)
	for i := range list {
		t := &list[i]
		if !t.word {
			continue
		}
		if !t.kept && isUpper(t.text) && (utf8.RuneCountInString(t.text) >= w.shouted() || sentence[i]) && !isPartOfName(list, i) && !strings.Contains(brand, t.text) {
			lower := w.lower(t.text)
			if first || w.lang == "de" {
				lower = w.capital(lower)
			}
			t.text = lower
		}
		first = false
	}
	// What is known keeps the writing that it has here: only what shouts is touched.
	old := tokens(s)
	for i := range list {
		if list[i].kept {
			list[i].text = old[i].text
		}
	}
	return joined(list)
}

// shoutedWords returns which words stand among three and more in capitals, of which one is a word for sure: DO NOT ORDER.
func (w *Words) shoutedWords(list []token) map[int]bool {
	var among map[int]bool
	for from := 0; from < len(list); from++ {
		end, words, sure := from, 0, false
		for end < len(list) && list[end].word && !list[end].kept && isUpper(list[end].text) {
			sure = sure || utf8.RuneCountInString(list[end].text) >= shoutedLetters
			if words++; end+1 >= len(list) || list[end+1].text != " " {
				end++
				break
			}
			end += 2
		}
		if words >= 3 && sure {
			for i := from; i < min(end, len(list)); i++ {
				if among == nil {
					among = make(map[int]bool)
				}
				among[i] = true
			}
		}
		from = max(from, end-1)
	}
	return among
}

// shoutedLetters is how many letters a word in capitals has at least that is no acronym.
const shoutedLetters = 5

// isPartOfName reports whether a word stands in a number or between signs as parts of names do.
func isPartOfName(list []token, i int) bool {
	for _, k := range []int{i - 1, i + 1} {
		if k >= 0 && k < len(list) && strings.ContainsAny(list[k].text, "-_/+&.") && !strings.Contains(list[k].text, " ") {
			return true
		}
	}
	return false
}
