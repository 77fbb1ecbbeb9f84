package products

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"zetanum/core/heading"
)

// Shared takes the titles of products that are to be one apart: into what they share, and
// what is left of each, by which they differ: "Round veil, S" and "Round veil, M" share
// "Round veil" and leave S and M. ok is false if they share no word, or if nothing is left
// of one of them.
func Shared(titles []string) (common string, rest []string, ok bool) {
	if len(titles) < 2 {
		return "", nil, false
	}
	words := make([][]string, len(titles))
	for i, t := range titles {
		words[i] = strings.Fields(t)
	}
	same := func(at func(w []string) string) bool {
		first := strings.ToLower(at(words[0]))
		for _, w := range words[1:] {
			if strings.ToLower(at(w)) != first {
				return false
			}
		}
		return true
	}
	short := len(words[0])
	for _, w := range words {
		short = min(short, len(w))
	}
	front, back := 0, 0
	for front < short && same(func(w []string) string { return strings.Trim(w[front], separators) }) {
		front++
	}
	for front+back < short && same(func(w []string) string { return strings.Trim(w[len(w)-1-back], separators) }) {
		back++
	}
	for back > 0 && heading.IsUnit(strings.Trim(words[0][len(words[0])-back], separators)) {
		back-- // of the number before it
	}
	for _, w := range words {
		left := strings.TrimFunc(strings.Join(w[front:len(w)-back], " "), atEdge)
		if left == "" {
			return "", nil, false
		}
		rest = append(rest, left)
	}
	first := words[0]
	common = strings.TrimFunc(strings.Join(append(append([]string(nil), first[:front]...), first[len(first)-back:]...), " "), atEdge)
	if letter, n := utf8.DecodeRuneInString(common); unicode.IsLower(letter) && beginUpper(titles) {
		common = string(unicode.ToUpper(letter)) + common[n:]
	}
	return common, rest, strings.IndexFunc(common, unicode.IsLetter) >= 0
}

// beginUpper reports whether all titles begin with a capital.
func beginUpper(titles []string) bool {
	for _, t := range titles {
		if letter, _ := utf8.DecodeRuneInString(strings.TrimSpace(t)); !unicode.IsUpper(letter) {
			return false
		}
	}
	return true
}

// separators are what stands between a title and what tells it from others.
const separators = ",;:/|–—-()"

func atEdge(r rune) bool { return r == ' ' || strings.ContainsRune(separators, r) }
