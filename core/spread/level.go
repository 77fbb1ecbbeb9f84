// Package spread looks at numbers beside their neighbours: the other products of a category, the other columns of a row, the rows above and
// below, and what the shop has had. It finds numbers that are ten, a hundred or a thousand times what they should be, columns that stand in
// one another's place, and stretches of a column that stand a row too high or too low.
//
//	t := spread.New(columns)
//	t.Add(row, category, levels)
//	for _, o := range t.Judge().Odd { … }
//
// It knows of a number only its [Level], a whole number, so that what it finds does not depend on the machine, nor on how the sheet was cut.
package spread

import (
	"math/bits"
	"slices"
)

// A Level is how large a number is: hundredths of a decade above or below 1, so that 200 is 100 and -100 is 0.1. It is exact: the same on
// every machine.
type Level int16

// What has no level. Levels that are open come after those that are not.
const (
	None   Level = -1 << 15 // nothing stands there
	Unread Level = None + 1 // something that is no number
	Nought Level = None + 2 // 0, or less

	least Level = -2500 // below which there are none
)

// openComma and openPoint are added to the level of a number whose only mark, a comma or a point, may stand before decimals or between
// thousands; it is the level of the larger number.
const (
	openComma = 8192
	openPoint = 16384
)

// Is reports whether it is the level of a number.
func (l Level) Is() bool { return l >= least }

// LevelOf returns the level of coef · 10^exp.
func LevelOf(coef uint64, exp int) Level {
	if coef == 0 {
		return Nought
	}
	if coef >= pow10[19] {
		coef, exp = coef/10, exp+1
	}
	digits := decimals(coef)
	full := coef * pow10[19-digits]
	k := int(nearby[full>>53])
	if k < len(hundredths) && hundredths[k] <= full {
		k++
	}
	return Level(max(int(least), min(4000, 100*(digits-1+exp)+k)))
}

// nearby are how many hundredths lie below the numbers of nineteen digits with these first eleven bits, for certain: there may be one more,
// because such numbers are no more than a hundredth of the least of them apart.
var nearby = func() (n [2048]uint8) {
	for first := range n {
		k, _ := slices.BinarySearch(hundredths[:], uint64(first)<<53)
		n[first] = uint8(k)
	}
	return n
}()

// Open returns the level of a number that is open: it may be a thousandth of it if the mark stands before decimals.
func (l Level) Open(mark rune) Level {
	switch {
	case !l.Is():
		return l
	case mark == ',':
		return l + openComma
	}
	return l + openPoint
}

// settled returns the level of a number in a column in which a mark stands before decimals; none if nobody knows.
func (l Level) settled(decimal rune) Level {
	mark := rune(0)
	switch {
	case l >= openPoint+least:
		l, mark = l-openPoint, '.'
	case l >= openComma+least:
		l, mark = l-openComma, ','
	default:
		return l
	}
	switch decimal {
	case 0:
		return Unread
	case mark:
		return l - 300
	}
	return l
}

// decimals returns how many digits a number has.
func decimals(n uint64) int {
	d := bits.Len64(n) * 1233 >> 12
	if d < len(pow10) && n >= pow10[d] {
		d++
	}
	return d
}

var pow10 = func() (p [20]uint64) {
	p[0] = 1
	for i := 1; i < len(p); i++ {
		p[i] = 10 * p[i-1]
	}
	return p
}()
