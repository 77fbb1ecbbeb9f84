package rescue

import (
	"math"

	"zetanum/core/barcode"
	"zetanum/core/catalogue"
)

// A Verdict is what may be said about one reading.
type Verdict struct {
	Ground  catalogue.Ground // Certain: Code may be written. Likely: it may be proposed
	Rule    catalogue.Rule   // what brought the code back; NoRule if the cell is right as it stands
	Code    barcode.Code     // the zero value if nothing may even be proposed
	Finding catalogue.Code   // NoFinding if all is well
	Facts   catalogue.Facts
}

// Whole reports whether the code is known.
func (v *Verdict) Whole() bool { return v.Finding == catalogue.NoFinding }

// Intact reports whether the cell is right as it stands.
func (v *Verdict) Intact() bool { return v.Whole() && v.Rule == catalogue.NoRule }

// Evidence is what follows from a whole column.
type Evidence struct {
	*Model
	cap      [barcode.MaxDigits + 1]int // by length: numbers of at most so many significant digits were rounded
	damaged  bool                       // numbers of the column have lost digits, whatever their length
	upc      bool                       // at least a fifth of the cells are whole UPC-A codes
	stripped bool                       // the column went through numbers and no code kept its leading zero
}

// Weigh draws the conclusions from the tallies of a column.
func (m *Model) Weigh() *Evidence {
	e := &Evidence{Model: m}
	for l := range m.Sci {
		for k := 1; k < len(m.Sci[l]); k++ {
			e.damaged = e.damaged || m.Sci[l][k].all() > 0
		}
		if barcode.LegalLength(l) {
			e.cap[l] = m.roundedTo(l)
			for s := 1; s <= l-flatAlone; s++ {
				e.damaged = e.damaged || m.Ends[l][s] > 0
			}
			e.damaged = e.damaged || e.cap[l] > 0
		}
	}
	e.upc = m.Whole[12].Pass*5 >= m.Cells && m.Whole[12].Pass > 0
	e.stripped = m.Numbers > 0 && m.Zeros == 0
	return e
}

// flatAlone is the number of zeros at the end that no other evidence is needed
// for: one code in a million ends so. flatWithCause is the number that counts
// when the column has other damage, or several products share the number.
const (
	flatAlone     = 6
	flatWithCause = 4
)

// roundedTo returns the largest number of significant digits, below the length
// l, that more whole numbers of that length have than chance explains, 0 if
// there is none. Of codes that were never rounded 9 in 10^(l-c+1) have exactly
// c significant digits, so the count is held against a Poisson distribution of
// that mean, and p < 1e-6 counts. (Counting numbers with at most c digits
// instead would let many numbers rounded to six condemn the one in ten that
// ends in a single zero by nature.)
func (m *Model) roundedTo(l int) int {
	n := float64(m.Whole[l].all())
	for c := l - 1; c >= 1; c-- {
		seen := m.Ends[l][c]
		if seen > 0 && poissonTail(seen, 0.9*n*math.Pow10(c-l)) < 1e-6 {
			return c
		}
	}
	return 0
}

// poissonTail returns the probability of at least x events where mean are
// expected.
func poissonTail(x uint64, mean float64) float64 {
	if float64(x) <= mean {
		return 1
	}
	lg, _ := math.Lgamma(float64(x) + 1)
	term := math.Exp(float64(x)*math.Log(mean) - mean - lg)
	sum := 0.0
	for k := float64(x) + 1; term > sum*1e-9 && term > 0; k++ {
		sum += term
		term *= mean / k
	}
	return sum
}

// Decide gives a reading its verdict. What each rule writes as certain is
// wrong in at most one cell in a thousand, or only where the code was wrong
// before the damage; the bound stands with the rule.
func (e *Evidence) Decide(r Reading) Verdict {
	switch r.Form {
	case Empty:
		return open(catalogue.BarcodeMissing, catalogue.Facts{})
	case Nothing:
		return open(catalogue.BarcodeNotACode, catalogue.Facts{})
	case TwoCodes:
		return open(catalogue.BarcodeTwoCodes, catalogue.Facts{})
	case OddTail:
		return open(catalogue.BarcodeTail, catalogue.Facts{})
	}
	if r.Form == TooLong || r.Length > 15 {
		return open(catalogue.BarcodeTooLong, catalogue.Facts{Digits: r.Length})
	}
	if r.Missing > 0 {
		return e.rounded(r)
	}
	if !barcode.LegalLength(r.Length) {
		return e.short(r)
	}
	return e.whole(r)
}

func open(code catalogue.Code, facts catalogue.Facts) Verdict {
	return Verdict{Finding: code, Facts: facts}
}

// formRules says which rule brings a whole number back from its form.
var formRules = [Nothing + 1]catalogue.Rule{
	Dressed:    catalogue.RuleUndress,
	Tailed:     catalogue.RuleTail,
	Grouped:    catalogue.RuleGrouping,
	Scientific: catalogue.RuleScientific,
}

// whole judges a number of legal length without missing digits. Its digits are
// those of the cell, so writing them is never wrong; what is to be found out is
// whether they are those of the code.
func (e *Evidence) whole(r Reading) Verdict {
	if v, flat := e.flattened(r); flat {
		return v
	}
	class := e.Whole[r.Length]
	if r.Length == 12 && class.all() >= 10 && class.Fail*5 >= class.all()*4 {
		// Wrong numbers pass one time in ten; here those that pass are no more
		// than that.
		return open(catalogue.BarcodeNoCheckDigit, catalogue.Facts{
			Low: r.N * 10, High: r.N*10 + 9, Candidates: 1, Digits: r.Length, Length: r.Length + 1,
			Other: barcode.Pad(r.N*10+uint64(barcode.CheckDigit(r.N)), r.Length+1),
		})
	}
	code, err := barcode.FromNumber(r.N, r.Length)
	if err != nil {
		if r.Length == 8 && r.N < barcode.Pow10(7) {
			return open(catalogue.BarcodeOtherKind, catalogue.Facts{Digits: 8, Other: "a UPC-E code"})
		}
		return open(catalogue.BarcodeCheckDigit, catalogue.Facts{Right: byte('0' + barcode.CheckDigit(r.N/10))})
	}
	return Verdict{Ground: catalogue.Certain, Rule: formRules[r.Form], Code: code}
}

// flattened recognises numbers that were rounded and then filled with zeros.
// A code that ends in six zeros by nature is one in a million; in four, one in
// ten thousand, which is held only where the column gives cause.
func (e *Evidence) flattened(r Reading) (Verdict, bool) {
	if r.N%10 != 0 {
		return Verdict{}, false
	}
	s := r.significant()
	zeros := r.Length - s
	shared := e.Rounded.Count(r.N) > 1
	switch {
	case s <= e.cap[r.Length]:
		s = e.cap[r.Length]
	case zeros >= flatAlone:
	case zeros >= flatWithCause && (e.damaged || shared):
	default:
		return Verdict{}, false
	}
	finding := catalogue.BarcodeFlattened
	if shared {
		finding = catalogue.BarcodeShared
	}
	return e.lost(finding, r.N, r.Length, r.Length-s), true
}

// rounded judges a number whose last digits are not in the cell.
func (e *Evidence) rounded(r Reading) Verdict {
	if r.Missing == 1 && barcode.LegalLength(r.Length) && r.N/10%100 != 0 {
		// The number with a zero at its end is the only valid one within half
		// a unit, whether the program printed the shortest form, rounded or cut
		// off, unless the mantissa ends in 00. But if the column was rounded to
		// this many digits and the code was invalid to begin with, it would be
		// wrong (1.8% of cells where 2% are invalid); a neighbour printed with
		// all its digits shows that it was not.
		if code, err := barcode.FromNumber(r.N, r.Length); err == nil {
			if e.Sci[r.Length][0].all() > 0 {
				return Verdict{Ground: catalogue.Certain, Rule: catalogue.RuleZeroFilled, Code: code}
			}
			v := e.lost(catalogue.BarcodeZeroFilled, r.N, r.Length, 1)
			v.Ground, v.Code, v.Facts.Other = catalogue.Likely, code, code.String()
			return v
		}
	}
	return e.lost(catalogue.BarcodeRounded, r.N, r.Length, r.Missing)
}

// lost says between which numbers the code lies.
func (e *Evidence) lost(finding catalogue.Code, n uint64, length, missing int) Verdict {
	low, high := around(n, missing)
	v := open(finding, catalogue.Facts{
		Low: low, High: high, Candidates: barcode.CountValid(low, high),
		Digits: length - missing, Length: length,
	})
	if finding != catalogue.BarcodeRounded {
		return v
	}
	switch v.Facts.Candidates {
	case 0:
		v.Finding = catalogue.BarcodeNone
	case 1:
		// A check digit that has to fill in a digit confirms nothing.
		only := low
		for !barcode.Valid(only) {
			only++
		}
		if code, err := barcode.FromNumber(only, length); err == nil {
			v.Finding, v.Ground, v.Code, v.Facts.Other = catalogue.BarcodeOnlyOne, catalogue.Likely, code, code.String()
		}
	}
	return v
}

// short judges a whole number of a length that no code has: leading zeros may
// be missing.
func (e *Evidence) short(r Reading) Verdict {
	facts := catalogue.Facts{Low: r.N, High: r.N, Candidates: 1, Digits: r.Length, Length: 12}
	switch r.Length {
	case 6:
		facts.Other = "the core of a UPC-E code"
		return open(catalogue.BarcodeOtherKind, facts)
	case 7:
		facts.Other = "a UPC-E code without its leading zero, or a code with digits missing"
		return open(catalogue.BarcodeOtherKind, facts)
	case 10, 11:
	case 9:
		facts.Other = "an ISBN-10 without its first or last character, or a UPC-A code without leading zeros"
		return open(catalogue.BarcodeOtherKind, facts)
	default:
		return open(catalogue.BarcodeLength, facts)
	}
	code, err := barcode.FromNumber(r.N, 12)
	if err != nil || e.Zeros > 0 {
		// A column that has codes with leading zeros did not lose them.
		if r.Length == 10 && passesMod11(r.N) {
			facts.Other = "an ISBN-10"
			return open(catalogue.BarcodeOtherKind, facts)
		}
		return open(catalogue.BarcodeLength, facts)
	}
	if e.padded(r.Length) {
		return Verdict{Ground: catalogue.Certain, Rule: catalogue.RuleLeadingZero, Code: code}
	}
	facts.Other = code.String()
	v := open(catalogue.BarcodeLeadingZero, facts)
	v.Ground, v.Code = catalogue.Likely, code
	return v
}

// padded reports whether numbers of that length are UPC-A codes without their
// leading zeros. Among them lucky passes are a ninth of the fails; no more than
// two in a thousand are allowed, and at least five must pass, so that chance
// explains them once in 100,000 columns. Fewer do where the column is known
// to hold UPC-A codes and to have gone through numbers, and none fails.
func (e *Evidence) padded(length int) bool {
	class := e.Whole[length]
	if length == 10 && (class.Fail > 0 || e.Mod11*2 >= class.Pass) {
		return false // perhaps ISBN-10s
	}
	if float64(class.Fail)/9 > 0.002*float64(class.Pass) {
		return false
	}
	return class.Pass >= 5 || e.upc && e.stripped && class.Fail == 0
}

// MayStand reports whether any column at all would let the reading's number
// pass as the code.
func (r Reading) MayStand() bool {
	return r.N%barcode.Pow10(flatAlone) != 0 && r.Missing <= 1 && r.Form < TwoCodes
}

// Fits reports whether a code from a second source agrees with what is left of
// a code that was not decided. Nothing contradicts it where nothing is left.
func Fits(r Reading, v *Verdict, code barcode.Code) bool {
	switch r.Form {
	case Empty, Nothing:
		return true
	case TwoCodes, OddTail, TooLong:
		return false
	}
	switch v.Finding {
	case catalogue.BarcodeRounded, catalogue.BarcodeNoCheckDigit, catalogue.BarcodeOnlyOne, catalogue.BarcodeNone, catalogue.BarcodeFlattened, catalogue.BarcodeShared,
		catalogue.BarcodeZeroFilled, catalogue.BarcodeLeadingZero:
		return v.Facts.Low <= code.Number() && code.Number() <= v.Facts.High
	}
	return r.Missing == 0 && r.N == code.Number()
}

// Flattened returns how many whole numbers of that length were rounded and
// filled up with zeros, as far as their number shows it.
func (e *Evidence) Flattened(length int) (n uint64) {
	if !barcode.LegalLength(length) {
		return 0
	}
	for s := 0; s < length; s++ {
		if s <= e.cap[length] || length-s >= flatAlone {
			n += e.Ends[length][s]
		}
	}
	return n
}
