package text

import (
	"strings"

	"golang.org/x/text/unicode/norm"
)

// Compose returns a text in Unicode's normalization form C, in which a letter and the
// accent that stands behind it by itself are one character (Unicode Standard Annex
// #15). The two look alike and are not equal when texts are compared.
//
// Compatibility ideographs stay, which the form would make other ones: names are
// written with them. A text that is in order is returned as it is, without an
// allocation.
func Compose(s string) string {
	if norm.NFC.IsNormalString(s) {
		return s
	}
	var b strings.Builder
	for rest := s; rest != ""; {
		end := strings.IndexFunc(rest, isCompatibilityIdeograph)
		if end < 0 {
			end = len(rest)
		}
		b.WriteString(norm.NFC.String(rest[:end]))
		rest = rest[end:]
		end = len(rest) - len(strings.TrimLeftFunc(rest, isCompatibilityIdeograph))
		b.WriteString(rest[:end])
		rest = rest[end:]
	}
	if out := b.String(); strings.Count(out, grapheme) == strings.Count(s, grapheme) {
		return out
	}
	return s // dozens of accents on one letter, which the library parts
}

// grapheme is the grapheme joiner.
const grapheme = "\u034f"

func isCompatibilityIdeograph(r rune) bool {
	return r >= 0xf900 && r < 0xfb00 || r >= 0x2f800 && r < 0x2fa20
}
