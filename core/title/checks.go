package title

import (
	_ "embed"
	"maps"
	"strings"
	"unicode"
	"unicode/utf8"

	"zetanum/core/glance"
)

//go:embed staff.txt
var staffText string

// staff are phrases of suppliers to their own people, by their first word, in small letters.
var staff = func() map[string][][]string {
	by := make(map[string][][]string)
	for line := range lines(staffText) {
		_, phrases, _ := strings.Cut(line, " ")
		for p := range strings.SplitSeq(phrases, "|") {
			words := strings.Fields(p)
			by[words[0]] = append(by[words[0]], words)
		}
	}
	return by
}()

// firstOfStaff are their first words.
var firstOfStaff = glance.NewKnown(maps.Keys(staff))

// mayBegin reports whether a phrase may begin with the letters from a place of a text to another; plain says that they are ASCII.
func mayBegin(s string, at, end int, plain bool) bool {
	switch {
	case end-at < 2:
		return end < len(s) && (s[end] == '\'' || !plain)
	case !plain || end < len(s) && (s[end] == '\'' || s[end]-'0' < 10):
		return firstOfStaff.Begins(s[at], s[at+1])
	}
	return firstOfStaff.May(s[at], s[at+1], end-at)
}

// Staff returns what a supplier says in a title to his own people, "" if there is nothing: do not order.
func Staff(s string) string {
	for i := 0; i < len(s); i++ {
		if !inWord[s[i]] {
			continue
		}
		end, plain := i, true
		for ; end < len(s) && inWord[s[end]]; end++ {
			plain = plain && s[end] < utf8.RuneSelf
		}
		if mayBegin(s, i, end, plain) {
			if phrase := phraseOfStaff(s, i); phrase != "" {
				return phrase
			}
		}
		i = end
	}
	return ""
}

// inWord are the bytes of letters.
var inWord = func() (in [256]bool) {
	for c := range in {
		in[c] = isLetterByte(byte(c)) || c >= utf8.RuneSelf
	}
	return in
}()

// phraseOfStaff returns the phrase that begins at a place, "" if none does.
func phraseOfStaff(s string, at int) string {
	from, end := nextWord(s, at)
	if end-from < shortestAlone && !goesOn(s, end) {
		return ""
	}
	var scratch [64]byte
	for _, phrase := range staff[string(lowered(scratch[:0], s[from:end]))] {
		last := end
		for _, word := range phrase[1:] {
			begin, next := nextWord(s, last)
			if begin == next || string(lowered(scratch[:0], s[begin:next])) != word {
				last = -1
				break
			}
			last = next
		}
		if last > 0 {
			return s[from:last]
		}
	}
	return ""
}

// shortestAlone is how many bytes a phrase of one word has at least.
const shortestAlone = 8

// goesOn reports whether another word follows at once.
func goesOn(s string, at int) bool {
	return at+1 < len(s) && (s[at] == ' ' || s[at] == '-') && (isLetterByte(s[at+1]) || s[at+1] >= utf8.RuneSelf)
}

// nextWord returns where the next word of a text stands, from a place on; both ends are the same if there is none.
func nextWord(s string, at int) (from, end int) {
	from = len(s)
	for i := at; i < len(s); {
		r, size := rune(s[i]), 1
		if r >= utf8.RuneSelf {
			r, size = utf8.DecodeRuneInString(s[i:])
		}
		switch inside := isLetterByte(s[i]) || r >= '0' && r <= '9' || isApostrophe(r) || r >= utf8.RuneSelf && ofWord(r); {
		case inside && from == len(s):
			from = i
		case !inside && from < len(s):
			return from, i
		}
		i += size
	}
	return from, len(s)
}

// lowered appends a word in small letters, with the plain apostrophe.
func lowered(b []byte, word string) []byte {
	for _, r := range word {
		switch {
		case r == '’':
			r = '\''
		case r == 'İ':
			r = 'i'
		case r < utf8.RuneSelf && r >= 'A' && r <= 'Z':
			r += 'a' - 'A'
		case r >= utf8.RuneSelf:
			r = unicode.ToLower(r)
		}
		b = utf8.AppendRune(b, r)
	}
	return b
}

// IsDigits reports whether a title has digits and no letter.
func IsDigits(s string) bool {
	digit := false
	for _, r := range s {
		if unicode.IsLetter(r) {
			return false
		}
		digit = digit || unicode.IsDigit(r)
	}
	return digit
}

// leastLetters is how many letters and digits a title has at least that says what a product is.
const leastLetters = 3

// IsShort reports whether a title is too short to say what a product is. A sign of a script that writes words in one counts
// for more.
func IsShort(s string) bool {
	n := 0
	for _, r := range s {
		switch {
		case unicode.Is(unicode.Han, r) || unicode.Is(unicode.Hangul, r):
			n += leastLetters
		case unicode.IsLetter(r), unicode.IsDigit(r):
			n++
		}
		if n >= leastLetters {
			return false
		}
	}
	return true
}
