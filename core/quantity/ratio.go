package quantity

import (
	"math/big"
	"strings"
)

// A Ratio is what a column of somebody's own may reckon from the price and the cost beside it.
type Ratio uint8

// The ratios. A margin is a part of the price, a markup one of the cost.
const (
	NoRatio Ratio = iota
	MarginPercent
	MarginShare
	MarkupPercent
	MarkupShare
	PriceOfCost // how many times the cost the price is
	PriceLess   // the price less the cost
	numRatios
)

var ratioNames = [...]string{"", "the margin in percent of the price", "the margin as a part of the price", "the markup in percent of the cost",
	"the markup as a part of the cost", "how many times the cost the price is", "the price less the cost"}

// String returns the ratio in words.
func (r Ratio) String() string { return ratioNames[r] }

// What is compared: numbers of so many digits that a hundred times them are whole numbers of 64 bits, and of more than one, which fits too much.
const (
	mostCompared  = 1e9
	leastCompared = 10
)

// ReadRatio reads a cell of a column of ratios; ok is false for one that is none, or below zero.
func ReadRatio(cell string, form Form) (n Number, ok bool) {
	p := ReadPrice(strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(cell), "%")), form)
	return p.Number, p.Is == Value
}

// terms returns what the ratio of a price and a cost in units of so many decimals is: a numerator and a denominator.
func (r Ratio) terms(price, cost int64, decimals int) (num, den int64) {
	switch r {
	case MarginPercent:
		return 100 * (price - cost), price
	case MarginShare:
		return price - cost, price
	case MarkupPercent:
		return 100 * (price - cost), cost
	case MarkupShare:
		return price - cost, cost
	case PriceOfCost:
		return price, cost
	}
	return price - cost, int64(pow10(decimals))
}

// Fits reports whether a number is the ratio of a price and a cost, rounded up or down to its decimals. known is false if that cannot be
// compared: there is no cost, the price is below it, or the number has one digit only.
func (r Ratio) Fits(n, price, cost Number) (fits, known bool) {
	decimals := max(price.Decimals(), cost.Decimals())
	p, ok := scaled(price, decimals)
	c, also := scaled(cost, decimals)
	if !ok || !also || c <= 0 || p < c {
		return false, false
	}
	behind := n.Decimals()
	num, den := r.terms(p, c, decimals)
	coef, ok := scaled(n, behind)
	if !ok || coef < leastCompared || behind > 4 {
		return false, false
	}
	// |coef / 10^behind - num / den| < 1 / 10^behind
	a, b := new(big.Int).Mul(big.NewInt(coef), big.NewInt(den)), new(big.Int).Mul(big.NewInt(num), new(big.Int).SetUint64(pow10(behind)))
	return a.Sub(a, b).CmpAbs(big.NewInt(den)) < 0, true
}

// Of returns the ratio of a price and a cost with as many decimals as a number has.
func (r Ratio) Of(n, price, cost Number) string {
	decimals := max(price.Decimals(), cost.Decimals())
	p, _ := scaled(price, decimals)
	c, _ := scaled(cost, decimals)
	num, den := r.terms(p, c, decimals)
	return Round(big.NewRat(num, den), n.Decimals(), HalfUp)
}

// scaled returns a number in units of its last decimal of so many.
func scaled(n Number, decimals int) (units int64, ok bool) {
	coef, exp := n.Scaled()
	if n.Sign() < 0 || coef > mostCompared || exp > 0 || decimals+exp < 0 || decimals+exp > 9 {
		return 0, false
	}
	u := coef * pow10(decimals+exp)
	return int64(u), u <= 1000*mostCompared
}

// Where a column has the ratio of two others.
const (
	leastRatios = 6  // rows that show it
	ratioShare  = 80 // percent of those that can be compared
)

// RatioOf returns what a column reckons from two others, to judge by rows that have what stands in it, the price and the cost, and how its
// numbers are written.
func RatioOf(rows [][3]string) (Ratio, Form) {
	var forms [3]Form
	for n := range forms {
		var marks Marks
		for _, row := range rows {
			marks.Learn(strings.TrimSuffix(row[n], "%"))
		}
		forms[n] = marks.Form()
	}
	for r := MarginPercent; r < numRatios; r++ {
		fit, all := 0, 0
		for _, row := range rows {
			n, ok := ReadRatio(row[0], forms[0])
			price, cost := ReadPrice(row[1], forms[1]), ReadPrice(row[2], forms[2])
			if !ok || price.Is != Value || cost.Is != Value {
				continue
			}
			if fits, known := r.Fits(n, price.Number, cost.Number); known {
				if all++; fits {
					fit++
				}
			}
		}
		if fit >= leastRatios && 100*fit >= ratioShare*all {
			return r, forms[0]
		}
	}
	return NoRatio, forms[0]
}
