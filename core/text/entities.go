package text

import (
	"strings"

	"zetanum/core/markup"
)

// Entities returns a plain text with the characters that HTML writes as &amp; or
// &#233;, in place of these names, also where they were written so twice. Only what
// HTML knows counts (HTML Living Standard, 13.5), and only with its semicolon.
func Entities(s string) string {
	for strings.Contains(s, "&") && strings.Contains(s, ";") {
		out := markup.Unescape(s)
		if out == s {
			break
		}
		s = out
	}
	return s
}
