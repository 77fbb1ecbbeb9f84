package reference

import (
	"strings"
	"unicode"
)

// LookAlikes returns the headings that could be taken for another: one contains the
// other, whatever stands between their letters.
func LookAlikes(headings []string, heading string) (alike []string) {
	mine := lettersOf(heading)
	for _, h := range headings {
		if h != heading && alikeLetters(mine, lettersOf(h)) {
			alike = append(alike, h)
		}
	}
	return alike
}

func lettersOf(s string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsLetter(r) {
			return unicode.ToLower(r)
		}
		return -1
	}, s)
}

func alikeLetters(one, other string) bool {
	return len(one) >= 4 && len(other) >= 4 && (strings.Contains(one, other) || strings.Contains(other, one))
}

// mostAlike is how many headings are compared each with each other.
const mostAlike = 2000

// AlikeGroups returns groups of headings that could be taken for one another; none if
// there are very many headings.
func AlikeGroups(headings []string) (groups [][]string) {
	if len(headings) > mostAlike {
		return nil
	}
	letters := make([]string, len(headings))
	for i, h := range headings {
		letters[i] = lettersOf(h)
	}
	seen := make(map[string]bool)
	for i, h := range headings {
		if seen[h] {
			continue
		}
		group := []string{h}
		for j, other := range headings {
			if other != h && alikeLetters(letters[i], letters[j]) {
				group = append(group, other)
			}
		}
		if len(group) > 1 {
			groups = append(groups, group)
			for _, g := range group {
				seen[g] = true
			}
		}
	}
	return groups
}
