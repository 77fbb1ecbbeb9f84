package title

import (
	"strings"
	"unicode"
	"unicode/utf8"
)

// unit returns the symbol of a unit, "" if it is none.
func (w *Words) unit(written string) string {
	var scratch [32]byte
	if len(written) > len(scratch)/2 {
		return ""
	}
	lower := lowered(scratch[:0], written)
	if symbol, is := w.units[string(lower)]; is {
		return symbol
	}
	return unitOf()[string(lower)]
}

// A measured is a number, or several with a sign of multiplication between them, with a unit behind it, and where it stands.
type measured struct {
	from, number, unit, end int // the number ends at number, and the unit begins at unit
}

// measureFrom finds the next number with letters behind it; ok is false if there is none.
func measureFrom(s string, at int) (m measured, ok bool) {
	for ; at < len(s); at++ {
		if !isDigitByte(s[at]) {
			continue
		}
		m = measured{from: at, number: numberEnd(s, at)}
		for {
			next := afterSpace(s, m.number)
			r, size := utf8.DecodeRuneInString(s[next:])
			if r != 'x' && r != 'X' && r != '×' {
				break
			}
			if next = afterSpace(s, next+size); next >= len(s) || !isDigitByte(s[next]) {
				break
			}
			m.number = numberEnd(s, next)
		}
		m.unit = afterSpace(s, m.number)
		m.end = m.unit
		for m.end < len(s) {
			r, size := utf8.DecodeRuneInString(s[m.end:])
			if !unicode.IsLetter(r) && !(r == '°' && m.end == m.unit) && !(m.end > m.unit && (r == '²' || r == '³')) {
				break
			}
			m.end += size
		}
		if m.end > m.unit {
			return m, true
		}
		at = m.number - 1
	}
	return m, false
}

// numberEnd returns where a number ends that begins at a digit.
func numberEnd(s string, at int) int {
	for at < len(s) && isDigitByte(s[at]) {
		at++
	}
	if at+1 < len(s) && (s[at] == '.' || s[at] == ',') && isDigitByte(s[at+1]) {
		for at++; at < len(s) && isDigitByte(s[at]); at++ {
		}
	}
	return at
}

// afterSpace returns the place behind one space, if there is one.
func afterSpace(s string, at int) int {
	if at < len(s) && (s[at] == ' ' || s[at] == '\t') {
		at++
	}
	return at
}

// Measures writes measures with the symbol of the unit and a space before it: 500ML becomes 500 ml.
func (w *Words) Measures(s string) string {
	if !perhapsMeasured(s) {
		return s
	}
	var b strings.Builder
	done, at := 0, 0 // what is written, and looked at
	for {
		m, ok := measureFrom(s, at)
		if !ok {
			if done == 0 {
				return s
			}
			b.WriteString(s[done:])
			return b.String()
		}
		number, space, unit := s[m.from:m.number], s[m.number:m.unit], s[m.unit:m.end]
		before, _ := utf8.DecodeLastRuneInString(s[:m.from])
		after, size := utf8.DecodeRuneInString(s[m.end:])
		at = m.end
		symbol := w.unit(unit)
		if symbol == "" || m.from > 0 && (unicode.IsLetter(before) || unicode.IsDigit(before) || strings.ContainsRune(".,/-_°#@", before)) ||
			unicode.IsDigit(after) || unicode.IsMark(after) || m.end < len(s) && strings.ContainsRune("-/²³_'’", after) ||
			w.doubtful(number, space, unit, symbol) {
			continue
		}
		b.WriteString(s[done:m.from])
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
