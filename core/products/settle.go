package products

import (
	"strings"
	"unicode/utf8"

	"zetanum/core/text"
)

// How rows that say different things of one product are settled.
const (
	AsLead  = "lead"    // what the lead row says
	Longest = "longest" // the longest of what they say
	AllOf   = "all"     // lists: everything that any of them says
)

// Settle returns what a product says in a column whose rows say different things; values
// are those of its rows that say anything, the lead row's first.
func Settle(how string, values []string) string {
	switch how {
	case Longest:
		longest := values[0]
		for _, v := range values[1:] {
			if utf8.RuneCountInString(v) > utf8.RuneCountInString(longest) {
				longest = v
			}
		}
		return longest
	case AllOf:
		return union(values)
	}
	return values[0]
}

// union puts lists in one cell each together: whatever any of them says, once, in the order
// in which it comes. What the first one says stays as it is written.
func union(lists []string) string {
	at, ok := text.FindList(text.TagMarks, lists...)
	if !ok {
		at = ","
	}
	seen := make(map[string]bool)
	var b strings.Builder
	b.WriteString(strings.TrimSpace(lists[0]))
	for i, list := range lists {
		for _, value := range at.Values(list) {
			key := strings.ToLower(value)
			if seen[key] {
				continue
			}
			if seen[key] = true; i > 0 {
				b.WriteString(string(at))
				if at.Spaced(lists[0]) || !strings.Contains(lists[0], string(at)) && at != "|" {
					b.WriteByte(' ')
				}
				b.WriteString(value)
			}
		}
	}
	return b.String()
}
