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
	if !perhapsMeasured(s) {
		return s
	}
	var b strings.Builder
	done, at := 0, 0 // what is written, and looked at
	for {
		m := measure.FindStringSubmatchIndex(s[at:])
		if m == nil {
			b.WriteString(s[done:])
			return b.String()
		}
		number, space, unit := s[at+m[2]:at+m[3]], s[at+m[4]:at+m[5]], s[at+m[6]:at+m[7]]
		from, end := at+m[0], at+m[1]
		before, _ := utf8.DecodeLastRuneInString(s[:from])
		after, size := utf8.DecodeRuneInString(s[end:])
		at = end
		symbol := unitOf[strings.ToLower(unit)]
		if from > 0 && (unicode.IsLetter(before) || unicode.IsDigit(before) || strings.ContainsRune(".,/-_°#", before)) ||
			unicode.IsLetter(after) || unicode.IsDigit(after) || unicode.IsMark(after) || end < len(s) && strings.ContainsRune("-/²³", after) ||
			symbol == "" || w.doubtful(number, space, unit, symbol) {
			continue
		}
		b.WriteString(s[done:from])
		b.WriteString(strings.ReplaceAll(number, "X", "x"))
		b.WriteString(" " + symbol)
		if after == '.' && !strings.EqualFold(unit, symbol) {
			at += size // of the abbreviation
		}
		done = at
	}
}

// perhapsMeasured reports whether a letter, or a sign of a unit, stands behind a digit, or behind a space behind one.
func perhapsMeasured(s string) bool {
	digit, space := false, false
	for _, r := range s {
		switch {
		case r >= '0' && r <= '9':
			digit, space = true, false
		case (r == ' ' || r == '\t') && digit && !space:
			space = true
		case digit && (r >= utf8.RuneSelf || unicode.IsLetter(r)):
			return true
		default:
			digit = false
		}
	}
	return false
}

// doubtful reports whether what stands behind a number is perhaps no unit.
func (w *Words) doubtful(number, space, unit, symbol string) bool {
	switch {
	case symbol == "A", symbol == "N", symbol == "K": // a class, a size
		return unit != symbol || space == ""
	case symbol == "m" && unit == "M" && space == "" && number == "3": // a maker
		return true
	case symbol == "g": // 5G
		return unit == "G" && space == "" && len(number) == 1
	}
	return space != "" && w.small[w.lower(unit)] && unit != symbol // 2 w 1
}
