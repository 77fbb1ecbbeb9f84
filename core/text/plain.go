package text

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/width"
)

// curly are the quotation marks that have a plain form in ASCII. Guillemets have none.
var curly = strings.NewReplacer("“", `"`, "”", `"`, "„", `"`, "‟", `"`, "‘", "'", "’", "'", "‚", "'", "‛", "'")

// PlainQuotes returns a text with plain quotation marks and apostrophes in place of
// curly ones.
func PlainQuotes(s string) string { return curly.Replace(s) }

// PlainWidth returns a text with the plain forms of full-width letters, digits and
// signs (Unicode Standard Annex #11), if nothing else in it is of East Asia.
func PlainWidth(s string) string {
	wide := false
	for _, r := range s {
		switch {
		case isFullWidth(r):
			wide = true
		case r >= 0x2e80 && r < 0xa4d0 && r != 0x3000 || r >= 0x1100 && r < 0x1200 || r >= 0xac00 && r < 0xd7b0 ||
			r >= 0xf900 && r < 0xfb00 || r >= 0xff00 && r < 0xfff0 || unicode.Is(unicode.Han, r):
			return s
		}
	}
	if !wide || !utf8.ValidString(s) {
		return s
	}
	return strings.Map(func(r rune) rune {
		switch {
		case r == 0x3000:
			return ' '
		case isFullWidth(r):
			if plain := []rune(width.Narrow.String(string(r))); len(plain) == 1 {
				return plain[0]
			}
		}
		return r
	}, s)
}

// isFullWidth reports whether a character is one of Latin texts in the width of an
// ideograph.
func isFullWidth(r rune) bool {
	return r >= 0xff01 && r <= 0xff5e || r >= 0xffe0 && r <= 0xffe6
}
