package text

import (
	"unicode/utf16"

	"github.com/rivo/uniseg"
)

// A Limit is how long texts are at most, in what is counted.
type Limit struct {
	Most int
	In   string // "utf-16" units or "bytes", as targets count; otherwise characters as people see them
}

// CountIn are what texts can be counted in.
var CountIn = []string{"characters", "utf-16", "bytes"}

// Len returns how long a text is.
func (l Limit) Len(s string) int {
	switch l.In {
	case "bytes":
		return len(s)
	case "utf-16":
		n := 0
		for _, r := range s {
			n += max(1, utf16.RuneLen(r))
		}
		return n
	}
	return uniseg.GraphemeClusterCount(s)
}

// Fits reports whether a text is not too long. What has so few bytes needs no counting.
func (l Limit) Fits(s string) bool { return len(s) <= l.Most || l.Len(s) <= l.Most }
