package text

import "strings"

// Edits returns how many characters must be added, removed or exchanged to make
// one text of the other.
func Edits(a, b string) int {
	x, y := []rune(a), []rune(b)
	row := make([]int, len(y)+1)
	for j := range row {
		row[j] = j
	}
	for i := range x {
		diagonal := row[0]
		row[0] = i + 1
		for j := range y {
			cost := diagonal
			if x[i] != y[j] {
				cost++
			}
			diagonal = row[j+1]
			row[j+1] = min(cost, row[j]+1, diagonal+1)
		}
	}
	return row[len(y)]
}

// Nearest returns the known name that is nearest to a text, "" if none is nearer
// than a third of its length, and at least two edits.
func Nearest(text string, known []string) string {
	best, least := "", max(2, len(text)/3)+1
	text = strings.ToLower(text)
	for _, k := range known {
		if d := Edits(text, strings.ToLower(k)); d < least {
			best, least = k, d
		}
	}
	return best
}

// DidYouMean returns ` (did you mean "…"?)` with the nearest of the known names,
// or "".
func DidYouMean(text string, known []string) string {
	if n := Nearest(text, known); n != "" {
		return ` (did you mean "` + n + `"?)`
	}
	return ""
}
