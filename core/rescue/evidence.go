package rescue

import (
	"math"

	"zetanum/core/barcode"
)

// Evidence is what follows from a whole column.
type Evidence struct {
	*Model
	rules    Rules
	accepts  [barcode.SSCC + 1]bool     // by kind
	plain    bool                       // nothing is to be said of any whole code of the column
	cap      [barcode.MaxDigits + 1]int // by length: numbers of at most so many significant digits were rounded
	damaged  bool                       // numbers of the column have lost digits, whatever their length
	upc      bool                       // at least a fifth of the cells are whole UPC-A codes
	stripped bool                       // the column went through numbers and no code kept its leading zero
}

// Weigh draws the conclusions from the tallies of a column, for a shop with
// these rules.
func (m *Model) Weigh(rules Rules) *Evidence {
	e := &Evidence{Model: m, rules: rules}
	for _, kind := range barcode.Kinds() {
		e.accepts[kind] = rules.Accepts(kind)
	}
	e.plain = len(rules.Accept) == 0
	for class, n := range m.Classes {
		e.plain = e.plain && (n == 0 || barcode.Class(class) == barcode.Ordinary || barcode.Class(class) == barcode.Demo)
	}
	for l := range m.Sci {
		for k := 1; k < len(m.Sci[l]); k++ {
			e.damaged = e.damaged || m.Sci[l][k].all() > 0
		}
		if mayBeCode(l) {
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

// mayBeCode reports whether a whole number of that length can be a code, or one
// without its leading zeros.
func mayBeCode(length int) bool { return length >= 7 && length <= 14 }

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

// lucky reports whether no more than two in a thousand of the passing cells of
// a class can have passed by luck, to judge by those that fail: wrong numbers
// pass one time in ten, so there are about as many lucky ones as a ninth of the
// fails.
func (c count) lucky() bool { return float64(c.Fail)/9 <= 0.002*float64(c.Pass) }

// stands reports whether enough cells of a class pass that chance explains them
// in no more than one column in 100,000.
func (c count) stands() bool { return c.Pass >= 5 && c.lucky() }

// fails reports whether a class of at least so many cells passes about as often
// as wrong numbers do.
func (c count) fails(atLeast uint64) bool {
	return c.all() >= atLeast && c.Fail*5 >= c.all()*4
}

// mostly reports whether four in five cells of the column are of a class.
func (e *Evidence) mostly(class count) bool { return class.all()*5 >= e.Cells*4 }

// padded reports whether numbers of that length are UPC-A codes without their
// leading zeros. Fewer than five do where none fails: three, if the cells themselves
// show that they went through numbers, which wrong numbers would all pass in one column in
// a thousand; one, where the column is known to hold UPC-A codes and to have gone
// through numbers.
func (e *Evidence) padded(length int) bool {
	class := e.Whole[length]
	if length <= 10 {
		if e.Mod11[length].Fail == 0 {
			return false // perhaps ISBN-10s
		}
		if e.twoKinds(length) && class.Pass-e.Both[length] >= 3 {
			return true
		}
	}
	return class.stands() || class.Fail == 0 && (e.Through[length].Pass >= 3 || class.Pass > 0 && e.upc && e.stripped)
}

// twoKinds reports whether numbers of that length, 9 or 10, are ISBN-10s and UPC-A codes
// without their zeros beside each other: next to none is neither. Wrong numbers are neither
// in eight of ten cases, so those that are neither measure those that are one by luck.
func (e *Evidence) twoKinds(length int) bool {
	upc, book := e.Whole[length].Pass, e.Mod11[length].Pass
	return count{upc + book - e.Both[length], e.Neither[length]}.stands()
}

// isbn reports whether numbers of that length, 9 or 10, are ISBN-10s: all of
// them pass mod 11, which wrong numbers do one time in eleven, at least five do
// or one ends in X, which no other code does, and they do not all pass mod 10,
// as UPC-A codes without zeros would.
func (e *Evidence) isbn(length int) bool {
	class := e.Mod11[length]
	if e.twoKinds(length) && class.Pass-e.Both[length] >= 3 {
		return true
	}
	return class.lucky() && class.Pass > 0 && (class.Pass >= 5 || e.Xs > 0) && e.Whole[length].Fail > 0
}

// shortest reports whether the programs that printed the numbers of that length
// left out nothing but zeros: nine in ten numbers have all of their digits then,
// as of codes nine in ten do not end in a zero. Mantissas of many lengths are no
// such sign, since rounded ones end in zeros just as often; and a mantissa that
// shows a zero at its end was printed with a fixed number of decimals.
func (e *Evidence) shortest(length int) bool {
	full, some := e.Sci[length][0].all(), uint64(0)
	for k := 1; k < len(e.Sci[length]); k++ {
		some += e.Sci[length][k].all()
	}
	return e.Fixed == 0 && full >= 4 && some*5 <= full
}
