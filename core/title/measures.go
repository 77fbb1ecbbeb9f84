package title

import (
	"cmp"
	"maps"
	"regexp"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"
)

// measure fits a number, or several with a sign of multiplication between them, with a unit behind it.
var measure = func() *regexp.Regexp {
	names := slices.SortedFunc(maps.Keys(unitOf), func(a, b string) int { return cmp.Or(cmp.Compare(len(b), len(a)), cmp.Compare(a, b)) })
	for i, n := range names {
		names[i] = regexp.QuoteMeta(n)
	}
	return regexp.MustCompile(`(?i)(\d+(?:[.,]\d+)?(?:\s?[x×]\s?\d+(?:[.,]\d+)?)*)(\s?)(` + strings.Join(names, "|") + `)\b`)
}()

// Measures writes measures with the symbol of the unit and a space before it: 500ML becomes 500 ml.
func (w *Words) Measures(s string) string {
	if strings.IndexFunc(s, unicode.IsDigit) < 0 {
		return s
	}
	var b strings.Builder
	for rest := s; ; {
		m := measure.FindStringSubmatchIndex(rest)
		if m == nil {
			b.WriteString(rest)
			return b.String()
		}
		number, unit := rest[m[2]:m[3]], rest[m[6]:m[7]]
		before, _ := utf8.DecodeLastRuneInString(b.String() + rest[:m[0]])
		after, size := utf8.DecodeRuneInString(rest[m[1]:])
		symbol := unitOf[strings.ToLower(unit)]
		if m[0] > 0 || b.Len() > 0 {
			if unicode.IsLetter(before) || unicode.IsDigit(before) || strings.ContainsRune(".,/-_°#", before) {
				symbol = ""
			}
		}
		if unicode.IsLetter(after) || unicode.IsDigit(after) || unicode.IsMark(after) || after == '-' || after == '/' || after == '²' || after == '³' {
			symbol = ""
		}
		if symbol == "" || w.doubtful(number, rest[m[4]:m[5]], unit, symbol) {
			b.WriteString(rest[:m[1]])
			rest = rest[m[1]:]
			continue
		}
		b.WriteString(rest[:m[2]])
		b.WriteString(strings.ReplaceAll(number, "X", "x"))
		b.WriteString(" " + symbol)
		rest = rest[m[1]:]
		if after == '.' && !strings.EqualFold(unit, symbol) {
			rest = rest[size:] // of the abbreviation
		}
	}
}

// doubtful reports whether what stands behind a number is perhaps no unit.
func (w *Words) doubtful(number, space, unit, symbol string) bool {
	switch {
	case symbol == "A", symbol == "N", symbol == "K": // a class, a size
		return unit != symbol || space == ""
	case symbol == "g": // 5G
		return unit == "G" && space == "" && len(number) == 1
	}
	return space != "" && w.small[w.lower(unit)] && unit != symbol // 2 w 1
}
