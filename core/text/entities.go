package text

import (
	"html"
	"regexp"
	"strings"
)

var entity = regexp.MustCompile(`&(?:#[0-9]{1,7}|#[xX][0-9a-fA-F]{1,6}|[A-Za-z][A-Za-z0-9]{1,31});`)

// Entities returns a plain text with the characters that HTML writes as &amp; or
// &#233;, in place of these names, also where they were written so twice. Only what
// HTML knows counts (HTML Living Standard, 13.5), and only with its semicolon.
func Entities(s string) string {
	for strings.Contains(s, "&") && strings.Contains(s, ";") {
		out := entity.ReplaceAllStringFunc(s, html.UnescapeString)
		if out == s {
			break
		}
		s = out
	}
	return s
}
