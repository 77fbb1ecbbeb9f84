package text

import (
	"fmt"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"
)

// Visible returns a text in which one can see what cannot be seen: signs for
// line breaks, tabs, no-break spaces and stray spaces, and the numbers of
// invisible characters, of accents that should be one with their letter, of letters of
// another script that look like those of their word, and of bytes that are no text.
func Visible(s string) string {
	var b strings.Builder
	var single []rune
	if _, text, _ := MixedWord(s); text != "" {
		single = []rune(text)
	}
	n := -1
	for i, r := range s {
		n++
		switch {
		case single != nil && single[n] != r: // it looks like another
			fmt.Fprintf(&b, "<%04X>", r)
		case isBreak(r):
			b.WriteString("⏎")
		case r == '\t':
			b.WriteString("⇥")
		case r == 0xa0:
			b.WriteString("⍽")
		case r == ' ' && (i == 0 || i == len(s)-1 || s[i-1] == ' ' || s[i+1] == ' '):
			b.WriteString("␣")
		case r == utf8.RuneError && s[i] != 0xef: // a byte that is no UTF-8
			fmt.Fprintf(&b, "<%02X>", s[i])
		case isInvisible(r), r >= 0x300 && r < 0x370 && !norm.NFC.IsNormalString(s):
			fmt.Fprintf(&b, "<%04X>", r)
		default:
			b.WriteRune(r)
		}
	}
	return b.String()
}
