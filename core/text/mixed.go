package text

import (
	"strings"
	"unicode"
	"unicode/utf8"
)

// alike are letters that look the same in two scripts, in the upright forms of most
// typefaces: Latin, Cyrillic and Greek ones below one another.
var alike = [3][]rune{
	[]rune("AaBCcEeHIiJjKMNOopPSsTXxyYZdqwh" + "ABEHIKMNOPTXYZov"),
	[]rune("АаВСсЕеНІіЈјКМ\x00ОорРЅѕТХху\x00\x00ԁԛԝһ" + strings.Repeat("\x00", 16)),
	[]rune(strings.Repeat("\x00", 31) + "ΑΒΕΗΙΚΜΝΟΡΤΧΥΖον"),
}

const (
	latin = iota
	cyrillic
	greek
	others
)

// twins are the letters that look like another of another script, by both scripts.
var twins = func() (t [3][3]map[rune]rune) {
	for from := range t {
		for to := range t[from] {
			t[from][to] = make(map[rune]rune)
			for i, r := range alike[from] {
				if other := alike[to][i]; from != to && r != 0 && other != 0 {
					t[from][to][r] = other
				}
			}
		}
	}
	for latin, cyrillic := range t[latin][cyrillic] { // Greek and Cyrillic by way of Latin
		if greek, ok := t[0][2][latin]; ok {
			t[1][2][cyrillic], t[2][1][greek] = greek, cyrillic
		}
	}
	return t
}()

// LatinTwin returns the Latin letter that a Cyrillic or Greek one looks like, and any other character
// as it is.
func LatinTwin(r rune) rune {
	for _, from := range [...]int{cyrillic, greek} {
		if l, ok := twins[from][latin][r]; ok {
			return l
		}
	}
	return r
}

func scriptOf(r rune) int {
	switch {
	case unicode.Is(unicode.Latin, r):
		return latin
	case unicode.Is(unicode.Cyrillic, r):
		return cyrillic
	case unicode.Is(unicode.Greek, r):
		return greek
	}
	return others
}

// MixedWord returns the first word of a text in which letters of another script stand
// that look like its own, such as a Cyrillic а in Latin words, and the text with all
// such words in one script; "" in place of it if it is open which script is meant. ok
// is false if there is no such word. Letters that have no twin, as in kΩ and µm, are
// meant as they are.
func MixedWord(s string) (word, single string, ok bool) {
	if !mayMix(s) || !utf8.ValidString(s) {
		return "", "", false
	}
	var b strings.Builder
	open := false
	for rest := s; rest != ""; {
		end := strings.IndexFunc(rest, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsMark(r) })
		if end < 0 {
			end = len(rest)
		}
		if w := rest[:end]; mayMix(w) {
			meant, mixed := ofOneScript(w)
			if mixed && !ok {
				word, ok = w, true
			}
			open = open || mixed && meant == ""
			if meant != "" {
				w = meant
			}
			b.WriteString(w)
		} else {
			b.WriteString(w)
		}
		_, size := utf8.DecodeRuneInString(rest[end:])
		b.WriteString(rest[end : end+size])
		rest = rest[end+size:]
	}
	if !ok || open {
		return word, "", ok
	}
	return word, b.String(), true
}

// mayMix reports at little cost whether an ASCII letter stands beside a letter of the
// Greek or Cyrillic block, as far as bytes tell.
func mayMix(s string) bool {
	for i := 0; i < len(s); i++ {
		if s[i] < 0xcd || s[i] > 0xd4 {
			continue
		}
		if i > 0 && isASCIILetter(s[i-1]) || i+2 < len(s) && isASCIILetter(s[i+2]) {
			return true
		}
	}
	return false
}

func isASCIILetter(c byte) bool { return c|0x20 >= 'a' && c|0x20 <= 'z' }

// ofOneScript returns a word in the one script in which all its letters can be
// written, and whether it has letters of several; "" if there is no such script, or
// none that is likelier.
func ofOneScript(word string) (meant string, mixed bool) {
	var count [4]int
	for _, r := range word {
		if unicode.IsLetter(r) {
			count[scriptOf(r)]++
		}
	}
	best, likely := -1, 0
	for to := range 3 {
		if count[to] == 0 || count[others] > 0 {
			continue
		}
		if !strings.ContainsFunc(word, func(r rune) bool { return !hasTwin(r, to) }) {
			switch {
			case best < 0 || count[to] > count[best]:
				best, likely = to, 1
			case count[to] == count[best]:
				likely++
			}
		}
	}
	if best < 0 || max(count[latin], count[cyrillic], count[greek]) == count[latin]+count[cyrillic]+count[greek] || prefixed(word) {
		return "", false
	}
	if likely > 1 {
		return "", true
	}
	return strings.Map(func(r rune) rune {
		if from := scriptOf(r); from != best && unicode.IsLetter(r) {
			return twins[from][best][r]
		}
		return r
	}, word), true
}

// hasTwin reports whether a character is of a script, has a twin there, or is no
// letter.
func hasTwin(r rune, script int) bool {
	from := scriptOf(r)
	if from == script || !unicode.IsLetter(r) {
		return true
	}
	return from != others && twins[from][script][r] != 0
}

// prefixed reports whether a word is a capitalised one with a small Latin letter put
// before it on purpose, as in names of goods.
func prefixed(word string) bool {
	first, size := utf8.DecodeRuneInString(word)
	second, _ := utf8.DecodeRuneInString(word[size:])
	return unicode.IsLower(first) && unicode.IsUpper(second) && scriptOf(first) == latin && scriptOf(second) != latin
}
