package sheet

import (
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"zetanum/core/heading"
	"zetanum/core/language"
)

// otherTongue is from how much likelier on, as a logarithm, a text is in another language than
// its heading says, and sameName if it is the same in all languages, as names are; tongueCells
// is in how many texts that must be so at least.
const (
	otherTongue = 3.0
	sameName    = 9.0
	tongueCells = 4
)

// inOtherTongues looks for columns of a field in several languages whose texts are in the
// language of another of these columns: it has been copied, or two are swapped.
func (t *Table) inOtherTongues() {
	tongues := make(map[int]string)
	var codes []string
	for col, h := range t.Columns.Headings {
		if code, _ := heading.InTongue(h); code != "" {
			tongues[col] = code
			codes = append(codes, code)
		}
	}
	slices.Sort(codes)
	if codes = slices.Compact(codes); len(codes) < 2 {
		return
	}
	model := language.Load()
	sums := make([]float64, len(model.Codes))
	for col := range t.Columns.Headings {
		own := slices.Index(model.Codes, tongues[col])
		if own < 0 {
			continue
		}
		held, filled := make(map[string]int), 0
		first := make(map[string]int)
		for i := range t.Sample {
			if col >= len(t.Sample[i]) {
				continue
			}
			clear(sums)
			words := 0
			for _, w := range strings.FieldsFunc(t.Sample[i][col], func(r rune) bool { return !unicode.IsLetter(r) }) {
				if utf8.RuneCountInString(w) >= 2 {
					model.Word(strings.ToLower(w), sums)
					words++
				}
			}
			if words == 0 {
				continue
			}
			filled++
			best := own
			for _, code := range codes {
				if other := slices.Index(model.Codes, code); other >= 0 && sums[other] > sums[best] {
					best = other
				}
			}
			least := otherTongue
			if t.sameInAll(t.Sample[i], col, tongues) {
				least = sameName
			}
			if code := model.Codes[best]; sums[best] > sums[own]+least {
				if held[code]++; held[code] == 1 {
					first[code] = i
				}
			}
		}
		for _, code := range codes {
			if n := held[code]; n >= tongueCells && 100*n >= 60*filled {
				t.Unlike = append(t.Unlike, Unlike{Col: col, Holds: "texts in " + heading.TongueName(code), Cells: n, Of: filled,
					Row: t.Heading + 1 + first[code], Example: t.Sample[first[code]][col]})
				break
			}
		}
	}
}

// sameInAll reports whether all columns of a field in several languages have the same text.
func (t *Table) sameInAll(cells []string, col int, tongues map[int]string) bool {
	for other := range tongues {
		if t.Columns.Fields[other] == t.Columns.Fields[col] && (other >= len(cells) || cells[other] != cells[col]) {
			return false
		}
	}
	return true
}
