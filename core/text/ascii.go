package text

import (
	_ "embed"
	"strings"
	"sync"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"

	"zetanum/core/catalogue"
)

//go:embed ascii.txt
var asciiText string

// asciiTable says how letters are written in ASCII, by one or two small ones.
var asciiTable = sync.OnceValue(func() map[string]string {
	table := make(map[string]string)
	for line := range strings.Lines(asciiText) {
		line = strings.TrimSuffix(line, "\n")
		if line == "" || line[0] == '#' {
			continue
		}
		letter, written, _ := strings.Cut(line, " ")
		table[norm.NFC.String(letter)] = written
	}
	return table
})

// ASCII writes a text in ASCII: accents are taken off, and other letters written as the table of the project
// says: Ł as L, ß as ss, Greek, Cyrillic and kana as they are usually written. Letters that it does not know are
// left out, and so are all other characters that are not ASCII; spaces become spaces.
func ASCII(s string) string {
	if catalogue.IsASCII(s) {
		return s
	}
	table := asciiTable()
	var b strings.Builder
	runes := []rune(norm.NFC.String(s))
	for i := 0; i < len(runes); i++ {
		r := runes[i]
		if r < utf8.RuneSelf {
			b.WriteRune(r)
			continue
		}
		if unicode.IsSpace(r) {
			b.WriteByte(' ')
			continue
		}
		if small := hiragana(unicode.ToLower(r)); i+1 < len(runes) {
			if two, ok := table[string([]rune{small, hiragana(unicode.ToLower(runes[i+1]))})]; ok {
				b.WriteString(asCased(two, r))
				i++
				continue
			}
		}
		if r == 'っ' || r == 'ッ' { // the consonant behind it is doubled
			if i+1 < len(runes) {
				if next := table[string(hiragana(runes[i+1]))]; next != "" {
					b.WriteByte(next[0])
				}
			}
			continue
		}
		b.WriteString(oneASCII(r, table))
	}
	return b.String()
}

// oneASCII writes one letter.
func oneASCII(r rune, table map[string]string) string {
	if written, ok := table[string(r)]; ok {
		return written
	}
	small := unicode.ToLower(r)
	if written, ok := table[string(hiragana(small))]; ok {
		return asCased(written, r)
	}
	var b strings.Builder
	for _, part := range norm.NFKD.String(string(r)) {
		switch {
		case part < utf8.RuneSelf:
			b.WriteRune(part)
		case unicode.Is(unicode.Mn, part):
		default:
			if written, ok := table[string(unicode.ToLower(part))]; ok && part != r {
				b.WriteString(asCased(written, part))
			}
		}
	}
	return b.String()
}

// asCased writes a capital first where the letter was one.
func asCased(written string, letter rune) string {
	if written == "" || !unicode.IsUpper(letter) {
		return written
	}
	return strings.ToUpper(written[:1]) + written[1:]
}

// hiragana returns the letter of hiragana for one of katakana.
func hiragana(r rune) rune {
	if r >= 'ァ' && r <= 'ヴ' {
		return r - ('ァ' - 'ぁ')
	}
	return r
}

// Slug writes a text so that it is safe in an address: small letters and digits of ASCII, with a dash for all
// that stands between them.
func Slug(s string) string {
	return dashed(strings.ToLower(ASCII(s)), func(r rune) bool { return r >= 'a' && r <= 'z' || r >= '0' && r <= '9' })
}

// SlugLetters is like [Slug], but leaves the letters of all scripts as they are, as an IRI may have them (RFC 3987).
func SlugLetters(s string) string {
	return dashed(strings.ToLower(Compose(s)), func(r rune) bool { return unicode.IsLetter(r) || unicode.IsDigit(r) || unicode.IsMark(r) })
}

// dashed writes what is kept of a text, with a dash for all that stands between.
func dashed(s string, keep func(rune) bool) string {
	var b strings.Builder
	dash := false
	for _, r := range s {
		switch {
		case unicode.IsMark(r) && (dash || b.Len() == 0): // of a character that is not kept
		case keep(r):
			if dash && b.Len() > 0 {
				b.WriteByte('-')
			}
			b.WriteRune(r)
			dash = false
		case r == '\'' || r == '’':
		default:
			dash = true
		}
	}
	return b.String()
}
