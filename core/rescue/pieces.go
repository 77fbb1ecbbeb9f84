package rescue

import (
	"slices"
	"strings"

	"zetanum/core/barcode"
	"zetanum/core/lazy"
)

// pieces reads digits with hyphens, spaces or other marks between them. Marks
// within one code are dropped; several codes are told apart before any digits
// are brought together. bare says that nothing was taken off before.
func pieces(s string, bare bool) Reading {
	parts := split(s)
	hyphens := strings.Count(s, "-") == 3 && len(parts) == 4
	x := false
	if n := len(parts); n > 0 {
		last := parts[n-1]
		if end := len(last) - 1; last[end]|0x20 == 'x' {
			x = true
			if parts[n-1] = last[:end]; end == 0 {
				parts = parts[:n-1]
			}
		}
	}
	codes, long := 0, 0
	var first barcode.Code
	same := true
	for _, p := range parts {
		if !allDigits(p) {
			return Reading{Form: Nothing}
		}
		if len(p) >= 7 {
			long++
		}
		if c, ok := code(p); ok {
			if codes == 0 {
				first = c
			}
			same = same && c.Key() == first.Key()
			codes++
		}
	}
	switch {
	case len(parts) == 0:
		return Reading{Form: Nothing}
	case x:
		r := endsInX(strings.Join(parts, ""), bare && len(parts) == 1, isHalves(parts, 3))
		r.Book = hyphens && r.Length == 10
		return r
	case len(parts) > 1 && codes == len(parts) && same:
		return Reading{Form: Repeated, N: first.Number(), Length: first.Len()}
	case len(parts) > 1 && (long > 1 || codes > 0):
		return Reading{Form: TwoCodes}
	case isDate(parts):
		return Reading{Form: Replaced}
	case len(parts) > 1 && strings.ContainsAny(s, "/;,|+"):
		return Reading{Form: Nothing}
	}
	r := digits(strings.Join(parts, ""), Dressed, false)
	r.Halves = strings.Contains(s, "-") && isHalves(parts, 4)
	r.Book = hyphens && r.Length == 10 && len(parts[3]) == 1
	return r
}

// code reads digits as the code that they are by themselves. Eight that begin
// with 0 are a UPC-E, since no EAN-8 does.
func code(digits string) (barcode.Code, bool) {
	if len(digits) == 8 && digits[0] == '0' {
		c, err := barcode.ParseAs(barcode.UPCE, digits)
		return c, err == nil
	}
	c, err := barcode.Parse(digits)
	return c, err == nil
}

// split takes a text with marks apart, and takes labels off.
func split(s string) []string {
	parts := strings.FieldsFunc(s, func(r rune) bool { return strings.ContainsRune(" -/;,|+", r) })
	whole := parts[:0]
	for _, p := range parts {
		if p = p[len(label().FindString(p)):]; p != "" {
			whole = append(whole, p)
		}
	}
	return whole
}

func isHalves(parts []string, second int) bool {
	return len(parts) == 2 && len(parts[0]) == 4 && len(parts[1]) == second
}

// endsInX reads digits that an X stood behind: only ISBN-10s and ISSNs end so.
func endsInX(s string, plain, halves bool) Reading {
	n, ok := barcode.Number(s)
	if !ok || len(s) != 9 && len(s) != 7 {
		return Reading{Form: Nothing}
	}
	form := Dressed
	if plain {
		form = Plain
	}
	return Reading{Form: form, N: n, Length: len(s) + 1, X: true, Halves: halves}
}

// Codes returns the codes of a cell that holds several, each once, in their
// order; nil if anything else is in it.
func Codes(cell string) []barcode.Code {
	s, ok := ascii(cell)
	if !ok {
		return nil
	}
	var codes []barcode.Code
	for _, p := range split(s) {
		c, ok := code(p)
		if !ok {
			return nil
		}
		if !slices.ContainsFunc(codes, func(o barcode.Code) bool { return o.Key() == c.Key() }) {
			codes = append(codes, c)
		}
	}
	return codes
}

// isDate reports whether digits with marks between them read like a date: of
// the many codes of eight digits that could be written so, few are.
func isDate(parts []string) bool {
	if len(parts) != 3 {
		return false
	}
	a, b, c := len(parts[0]), len(parts[1]), len(parts[2])
	return b <= 2 && (a == 4 && c <= 2 || a <= 2 && (c == 4 || c == 2))
}

// run is digits that may be a code of more than eight.
var run = lazy.New(`[0-9]{12,}`)

// among looks for a whole code among words: the only run of so many digits.
func among(cell string) Reading {
	runs := run.FindAllString(cell, 2)
	if len(runs) != 1 {
		return Reading{Form: Nothing}
	}
	c, err := barcode.Parse(runs[0])
	if err != nil {
		return Reading{Form: Nothing}
	}
	return Reading{Form: Among, N: c.Number(), Length: c.Len()}
}
