package charset

import (
	"strings"
	"unicode"
	"unicode/utf8"
)

// honest reports whether a text that could be undone is better left as it is: because it
// makes better sense so, or because letters of it have been made small since it was
// misread, so that something else would come of it than there was.
func honest(s, undone string) bool {
	return marked(s) && (mixesLatin(undone) || likelihood(s)+bestOfTwo > likelihood(undone)) || lowered(s, undone)
}

// By how much a text must be likelier for a letter and a sign to be taken for what is left
// of another letter, and to be certain where nothing but two characters speaks for it.
const (
	bestOfTwo   = 8
	farLikelier = 12
)

// marked reports whether all that seems misread in a text are capitals with a sign behind
// them that may stand behind a word: LÃ®, GRÅ™, Ø±.
func marked(s string) bool {
	found := false
	var before, last rune
	high := 0 // characters beyond ASCII side by side
	for i, r := range s {
		if r < utf8.RuneSelf {
			high = 0
		} else if high++; high >= 2 {
			next, _ := utf8.DecodeRuneInString(s[i+utf8.RuneLen(r):])
			if high > 2 || !unicode.IsUpper(last) || unicode.IsLower(before) || !strings.ContainsRune(behindWords, r) ||
				unicode.IsLetter(next) {
				return false
			}
			found = true
		}
		before, last = last, r
	}
	return found
}

// behindWords are the signs that stand behind words and letters.
const behindWords = "™®©ªº°…’‘“”«»–—·•±×÷¼½¾¹²³´\u00a0"

// lowered reports whether letters may have been made small since a text was misread: it
// has no capitals, and with a capital in place of one of them another text would come of
// it that is as likely.
func lowered(s, undone string) bool {
	if !strings.ContainsAny(s, small) || strings.ContainsFunc(s, unicode.IsUpper) {
		return false
	}
	this := likelihood(undone)
	for i, r := range s {
		if !strings.ContainsRune(small, r) {
			continue
		}
		capital := s[:i] + string(unicode.ToUpper(r)) + s[i+utf8.RuneLen(r):]
		if best, ok := undoAny(capital, misreadings); ok && best.Text != undone && likelihood(best.Text)+1 > this {
			return true
		}
	}
	return false
}

// small are the letters of Windows-1252 that go on with a character of UTF-8 and are
// another byte of one as capitals.
const small = "šœžÿ"
