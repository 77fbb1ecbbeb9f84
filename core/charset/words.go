package charset

import (
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"
)

// undoParts returns the text in which the words are as they were meant that were
// misread, while others beside them were not.
func undoParts(s string, as []*misreading) (best candidate, ok bool) {
	for {
		text, one, found := undoSpan(s, as)
		if !found {
			break
		}
		one.ambiguous = one.ambiguous || ok && (best.ambiguous || one.As != best.As)
		s, best, ok = text, one, true
	}
	words, more, garbled := undoWords(s, as)
	switch {
	case garbled:
		return best, false
	case more && ok:
		words.ambiguous = words.ambiguous || best.ambiguous || words.As != best.As
		fallthrough
	case more:
		best, ok = words, true
	case ok:
		best.Text = s
	}
	best.Part = true
	if ok {
		_, ok = sense(best.Text, 0)
	}
	return best, ok && oneScript(best.Text)
}

// undoSpan undoes the longest stretch of words side by side that were all misread, with
// words of ASCII between them.
func undoSpan(s string, as []*misreading) (text string, best candidate, ok bool) {
	for _, m := range as {
		from, to, high := -1, 0, 0
		try := func() bool {
			if high < 2 || to-from == len(s) {
				return false
			}
			one, fits := undo(s[from:to], as, 1)
			if ok = fits && !one.weak && !one.lost && one.rare == 0; ok {
				text, best = s[:from]+one.Text+s[to:], one
			}
			return ok
		}
		at := 0
		for word := range strings.SplitAfterSeq(s, " ") {
			_, sequences, lost, fits := m.reread(strings.TrimSuffix(word, " "))
			switch {
			case fits && sequences > 0 && !lost:
				if from < 0 {
					from = at
				}
				to, high = at+len(strings.TrimSuffix(word, " ")), high+1
			case isASCII([]byte(word)):
			default:
				if try() {
					return text, best, true
				}
				from, high = -1, 0
			}
			at += len(word)
		}
		if try() {
			return text, best, true
		}
	}
	return "", best, false
}

// undoWords returns the text in which single words are as they were meant that were
// misread; garbled says that others seem to have been misread, too.
func undoWords(s string, as []*misreading) (best candidate, ok, garbled bool) {
	var b strings.Builder
	copied := 0
	sure := slices.ContainsFunc(strings.FieldsFunc(s, func(r rune) bool { return r < utf8.RuneSelf && !isAlphanumeric(byte(r)) }), func(word string) bool {
		_, one, ok := undoWord(word, as, false)
		return ok && (one.As == "Windows-1252" || one.As == "ISO-8859-1")
	})
	for from := 0; from < len(s); {
		to := from
		for to < len(s) && (s[to] >= utf8.RuneSelf || isAlphanumeric(s[to])) {
			to++
		}
		if to == from {
			from++
			continue
		}
		at, one, found := undoWord(s[from:to], as, sure)
		if found {
			b.WriteString(s[copied : from+at])
			b.WriteString(one.Text)
			copied = from + at + one.from
			switch {
			case !ok:
				best, ok = one, true
			case one.As != best.As:
				best.ambiguous = true
			}
			best.ambiguous = best.ambiguous || one.ambiguous
			best.Layers = max(best.Layers, one.Layers)
		} else if !garbled && slices.ContainsFunc(as, func(m *misreading) bool { return m.may(s[from:to]) }) {
			garbled = slices.ContainsFunc(as, func(m *misreading) bool {
				_, sequences, _, fits := m.reread(s[from:to])
				return fits && sequences > 0
			})
		}
		from = to
	}
	b.WriteString(s[copied:])
	best.Text = b.String()
	return best, ok, garbled
}

// oneScript reports whether all letters of a text are Latin or of one other script;
// those of East Asia count as one.
func oneScript(text string) bool {
	var script *unicode.RangeTable
	east := false
	for _, r := range text {
		if r < utf8.RuneSelf || !unicode.IsLetter(r) || unicode.Is(unicode.Latin, r) || script != nil && unicode.Is(script, r) {
			continue
		}
		if script != nil || east && r < 0x2e80 {
			return false
		}
		if east = east || r >= 0x2e80; east {
			continue
		}
		for _, s := range unicode.Scripts {
			if unicode.Is(s, r) {
				script = s
			}
		}
	}
	return true
}

// undoWord returns what a word was that was misread, and where in it that begins:
// quotation marks and the like around it may be as they were meant. sure says that
// others beside it were misread, too, as Windows-1252: then signs and letters of
// Western Europe may come of it that do not look odd.
func undoWord(word string, as []*misreading, sure bool) (at int, one candidate, ok bool) {
	for slices.ContainsFunc(as, func(m *misreading) bool { return m.may(word) }) {
		if one, ok = undo(word, as, 1); ok {
			one.from = len(word)
			return at, one, !one.weak && !one.lost && one.rare == 0 && (odd(word) || long(word) || sure && isWestern(one.Text)) && fitting(one.Text)
		}
		last, size := utf8.DecodeLastRuneInString(word)
		if first, n := utf8.DecodeRuneInString(word); unicode.IsPunct(first) {
			word = word[n:]
			at += n
		} else if unicode.IsPunct(last) {
			word = word[:len(word)-size]
		} else {
			break
		}
	}
	return 0, one, false
}

// mixesLatin reports whether a text has letters of another script beside those of ASCII.
func mixesLatin(text string) bool {
	other, ascii := false, false
	for _, r := range text {
		ascii = ascii || r < utf8.RuneSelf && unicode.IsLetter(r)
		other = other || r >= utf8.RuneSelf && unicode.IsLetter(r) && !unicode.Is(unicode.Latin, r)
	}
	return other && ascii
}

// isWestern reports whether all characters of a text are among those of Windows-1252.
func isWestern(text string) bool {
	return !strings.ContainsFunc(text, func(r rune) bool {
		_, ok := westernBytes[r]
		return r >= utf8.RuneSelf && !ok
	})
}

var westernBytes = newMisreading("", charmap.Windows1252, false).bytes

func isAlphanumeric(c byte) bool {
	return c >= '0' && c <= '9' || c|0x20 >= 'a' && c|0x20 <= 'z'
}

// long reports whether a text has three characters side by side that are no ASCII,
// the second of which is no letter: so begin all of the signs of UTF-8 that have
// three bytes.
func long(s string) bool {
	var before, last rune
	for _, r := range s {
		if r >= utf8.RuneSelf && last >= utf8.RuneSelf && before >= utf8.RuneSelf && unicode.IsLetter(before) && !unicode.IsLetter(last) {
			return true
		}
		before, last = last, r
	}
	return false
}

// fitting reports whether the letters of a word fit together: no small one behind two
// capitals, as if IRMÃ» were misread, and none of another script behind ASCII.
func fitting(word string) bool {
	capitals, ascii := 0, false
	for _, r := range word {
		ascii = ascii || r < utf8.RuneSelf && unicode.IsLetter(r)
		switch {
		case unicode.IsLetter(r) && ascii && !unicode.Is(unicode.Latin, r), unicode.IsLower(r) && capitals > 1:
			return false
		case unicode.IsUpper(r):
			capitals++
		default:
			capitals = 0
		}
	}
	return true
}

// Garbled reports whether a text that [Mend] does not undo has words in it that seem
// to have been misread all the same: no language has them, and they hold whole
// sequences of UTF-8.
func Garbled(s string) bool {
	// In the last two, honest words of Slavic languages can look like that.
	can := func(s string) bool { return misread(s)&(1<<(len(misreadings)-2)-1) != 0 }
	if !can(s) {
		return false
	}
	words := strings.FieldsFunc(s, func(r rune) bool { return r < utf8.RuneSelf && !isAlphanumeric(byte(r)) })
	return slices.ContainsFunc(words, func(word string) bool { return can(word) && (odd(word) || long(word)) })
}
