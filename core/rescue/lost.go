package rescue

import (
	"zetanum/core/barcode"
	"zetanum/core/catalogue"
)

// lost says between which numbers the code lies.
func lost(finding catalogue.Code, n uint64, length, missing int) Verdict {
	low, high := around(n, missing)
	return open(finding, catalogue.Facts{
		Low: low, High: high, Candidates: barcode.CountValid(low, high),
		Digits: length - missing, Length: length,
	})
}

// propose makes a verdict of what is likely.
func propose(v Verdict, rule catalogue.Rule, code barcode.Code) Verdict {
	v.Ground, v.Rule, v.Code, v.Facts.Other = catalogue.Likely, rule, code, code.String()
	v.Facts.Proposed = v.Facts.Other
	return v
}

// Fits reports whether a code from a second source agrees with what is left in
// a cell of a code that was not decided. Nothing contradicts it where nothing
// is left.
func Fits(cell string, r Reading, v *Verdict, code barcode.Code) bool {
	switch {
	case r.Form == Empty || r.Form == Nothing || r.Form == Replaced || v.Finding == catalogue.BarcodePlaceholder:
		return true
	case r.Form == TwoCodes:
		for _, c := range Codes(cell) {
			if c.Key() == code.Key() {
				return true
			}
		}
		return false
	case r.Form == Among:
		return r.N == code.Key()
	case r.Form == OddTail || r.Form == TooLong:
		return false
	case v.Facts.High > 0 && v.Facts.Low <= code.Number() && code.Number() <= v.Facts.High:
		return true
	}
	// Whatever the digits can be read as: the ISBN-13 of an ISBN-10, too.
	fits := false
	if r.Missing == 0 {
		r.Keys(false, func(key uint64) { fits = fits || key == code.Key() })
	}
	return fits
}

// Near reports whether two numbers of the same length are one slip of the hand
// apart: one digit is wrong, or two neighbours stand in the wrong order.
func Near(a, b uint64, length int) bool {
	var places [barcode.MaxDigits]int
	n := 0
	for i := range length {
		if a/barcode.Pow10(i)%10 != b/barcode.Pow10(i)%10 {
			places[n] = i
			n++
		}
	}
	switch n {
	case 1:
		return true
	case 2:
		i, j := places[0], places[1]
		digit := func(n uint64, i int) uint64 { return n / barcode.Pow10(i) % 10 }
		return j == i+1 && digit(a, i) == digit(b, j) && digit(a, j) == digit(b, i)
	}
	return false
}

// Candidates calls yield with each code that a number between low and high, of
// that length, may have been, in order, until it returns false. A number that was
// rounded up to a power of ten had one digit less.
func Candidates(low, high uint64, length int, yield func(barcode.Code) bool) {
	for n := low; n <= high; n++ {
		l := length
		if n < barcode.Pow10(length-1) {
			l--
		}
		if code, err := barcode.FromNumber(n, l); err == nil && !yield(code) {
			return
		}
	}
}

// Flattened returns how many whole numbers of that length were rounded and
// filled up with zeros, as far as their number shows it.
func (e *Evidence) Flattened(length int) (n uint64) {
	if !mayBeCode(length) {
		return 0
	}
	for s := 0; s < length; s++ {
		if s <= e.cap[length] || length-s >= flatAlone {
			n += e.Ends[length][s]
		}
	}
	return n
}
