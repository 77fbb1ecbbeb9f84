package text

import (
	"fmt"
	"strings"
)

// Visible returns a text in which one can see what cannot be seen: signs for
// line breaks, tabs, no-break spaces and stray spaces, and the numbers of
// invisible characters.
func Visible(s string) string {
	var b strings.Builder
	for i, r := range s {
		switch {
		case isBreak(r):
			b.WriteString("⏎")
		case r == '\t':
			b.WriteString("⇥")
		case r == 0xa0:
			b.WriteString("⍽")
		case r == ' ' && (i == 0 || i == len(s)-1 || s[i-1] == ' ' || s[i+1] == ' '):
			b.WriteString("␣")
		case isInvisible(r):
			fmt.Fprintf(&b, "<%04X>", r)
		default:
			b.WriteRune(r)
		}
	}
	return b.String()
}
