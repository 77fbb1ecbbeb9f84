package charset

import (
	"strings"
	"unicode"
	"unicode/utf8"
)

// calms reports whether small letters come of a text that had capitals only: what
// seems misread may be honest.
func calms(s, text string) bool {
	ascii := false
	for _, r := range s {
		if unicode.IsLower(r) {
			return false
		}
		ascii = ascii || r >= 'A' && r <= 'Z'
	}
	return ascii && strings.ContainsFunc(text, unicode.IsLower)
}

// sense reports whether a text makes sense, and how many seldom characters it has.
// Where very much speaks for it, that many sequences, a text that is not Latin may
// have a word in which somebody has mixed Latin letters.
func sense(text string, sequences int) (rare int, ok bool) {
	var word wordSense
	var before, last rune
	mixed, latin := 0, 0
	for _, r := range text {
		if !inUse(r) {
			return 0, false
		}
		if !word.add(r) {
			if mixed++; sequences < 6*mixed {
				return 0, false
			}
			word = wordSense{}
		}
		if sequences > 0 && unicode.IsLetter(r) {
			if unicode.Is(unicode.Latin, r) {
				latin++
			} else {
				latin--
			}
		}
		if seldom(r) || r >= utf8.RuneSelf && unicode.IsUpper(r) && unicode.IsLower(last) ||
			unicode.IsLower(r) && last >= utf8.RuneSelf && unicode.IsUpper(last) && unicode.IsUpper(before) {
			rare++
		}
		before, last = last, r
	}
	return rare + mixed, mixed == 0 || latin < 0
}

// seldom reports whether a character is in use, but in few languages or places:
// accents by themselves, letters of Esperanto, Sami and Livonian, signs of
// measurement and of tables.
func seldom(r rune) bool {
	switch {
	case r < 0x100:
		return false
	case r < 0x180:
		return strings.ContainsRune("ĈĉĊċĔĕĜĝĠġĤĥĦħĨĩĬĭĴĵĸĿŀŉŊŋŌōŎŏŔŕŖŗŜŝŢţŤťŦŧŬŭſ", r) && r != 'ť' && r != 'Ť' && r != 'ō' && r != 'Ō' &&
			r != 'Ţ' && r != 'ţ' && r != 'ħ' && r != 'Ħ' && r != 'ġ' && r != 'ĩ' && r != 'Ĩ' && r != 'ċ'
	case r < 0x370:
		return !(r >= 0x218 && r <= 0x21b || r == 'ơ' || r == 'Ơ' || r == 'ư' || r == 'Ư' || r == 0x259)
	case r < 0x2000:
		return false
	case r < 0x20d0:
		return false
	}
	return r >= 0x2100 && r < 0x2e80 && r != '№' && r != '™' || r >= 0xa4d0 && r < 0xac00
}

// wordSense looks whether words are of one script.
type wordSense struct {
	script *unicode.RangeTable
	joined bool // the character before is a letter, or a mark on one
}

// scripts are those that do not stand together in one word.
var scripts = []*unicode.RangeTable{unicode.Latin, unicode.Cyrillic, unicode.Greek, unicode.Hebrew, unicode.Arabic, unicode.Armenian,
	unicode.Georgian, unicode.Thai, unicode.Devanagari}

// add takes the next character; false if it is of another script than the word
// before it.
func (w *wordSense) add(r rune) bool {
	if !unicode.IsLetter(r) {
		mark := unicode.IsMark(r)
		if mark && r >= 0x370 && r < 0x2000 && (!w.joined || w.script == unicode.Latin || w.script == unicode.Cyrillic ||
			w.script == unicode.Greek) {
			return false // the vowel signs of other scripts do not stand on these letters
		}
		if !mark {
			w.script = nil
		}
		w.joined = mark && w.joined
		return true
	}
	w.joined = true
	if w.script != nil && unicode.Is(w.script, r) {
		return true
	}
	for _, s := range scripts {
		if unicode.Is(s, r) {
			if w.script != nil {
				return false
			}
			w.script = s
			return true
		}
	}
	return w.script == nil || r >= 0x2000 // letters of East Asia stand beside others
}

// inUse reports whether a character is one that texts have, as opposed to letters
// of phonetics, old languages and other seldom ones, to controls and to what has no
// character at all.
func inUse(r rune) bool {
	switch {
	case r < 0x80:
		return true
	case r < 0xa0:
		return false
	case r < 0x180: // Latin
		return true
	case r < 0x250:
		return r == 'ƒ' || r >= 0x1cd && r <= 0x1dc || r == 'ơ' || r == 'Ơ' || r == 'ư' || r == 'Ư' || r >= 0x218 && r <= 0x21b ||
			r == 0x18f
	case r < 0x370: // phonetics, accents by themselves
		return r == 0x259 || r == 0x2bb || r == 0x2bc || r == 0x2c6 || r == 0x2c7 || r == 0x2dc || r >= 0x300 && r <= 0x304 ||
			r >= 0x306 && r <= 0x30c || r == 0x323 || r == 0x327 || r == 0x328
	case r < 0x400: // Greek
		return r >= 0x384 && r <= 0x3ce || r == 0x37e
	case r < 0x530: // Cyrillic
		return r <= 0x45f || r >= 0x490 && r <= 0x4f9 || r == 0x462 || r == 0x463
	}
	return r != utf8.RuneError && !unicode.In(r, unicode.Co, unicode.Cs, unicode.Cc) &&
		unicode.In(r, unicode.L, unicode.M, unicode.N, unicode.P, unicode.S, unicode.Zs, unicode.Cf)
}

// odd reports whether a text has a word that no language has: with a small letter
// before a capital that is no ASCII, or one behind such a capital that is not the
// first; with letters of two scripts; or with a sign between letters.
func odd(s string) bool {
	var word wordSense
	var before, last rune
	for _, r := range s {
		switch {
		case !word.add(r),
			unicode.IsUpper(r) && unicode.IsLower(last) && r >= utf8.RuneSelf,
			unicode.IsLower(r) && last >= utf8.RuneSelf && unicode.IsUpper(last) && unicode.IsUpper(before),
			strings.ContainsRune("ĂÄĹ", last) && strings.ContainsRune("śšťžźłąľż", r),
			(last == 'Ã' || last == 'Â') && strings.ContainsRune("œƒšžª\u00a0", r),
			drawn(last) && r >= utf8.RuneSelf && (unicode.IsLetter(before) || drawn(r)),
			drawn(before) && last >= utf8.RuneSelf && unicode.IsLetter(r),
			unicode.IsLetter(r) && last >= utf8.RuneSelf && unicode.In(last, unicode.S, unicode.Cc, unicode.Cf, unicode.N) &&
				before >= utf8.RuneSelf && unicode.IsLetter(before),
			unicode.IsLower(r) && last >= utf8.RuneSelf && unicode.Is(unicode.P, last) && before >= utf8.RuneSelf &&
				unicode.IsUpper(before):
			return true
		}
		before, last = last, r
	}
	return false
}

// drawn reports whether a character is one of those of tables and formulas that begin
// letters of UTF-8 read as Mac Roman or as an encoding of DOS.
func drawn(r rune) bool {
	return r == '√' || r == '¬' || r == '≈' || r >= 0x2500 && r < 0x2580
}
