package spread

// A Swap says that in a stretch of rows two columns look as if they stood in one another's place.
type Swap struct {
	Lower, Upper int  // columns of the table, as their headings say
	First, Last  int  // rows
	Rows         int  // how many of them show it
	Whole        bool // it is all of the column
}

const (
	leastSwapped = 6 // rows that show it
	properCosts  = 3 // rows in order weigh so much against one that is not
)

// swaps returns the stretches in which two columns are swapped.
func (r *rows) swaps() (found []Swap) {
	for lower := Cost; lower < Wholesale; lower++ {
		for upper := lower + 1; upper < Wholesale; upper++ {
			x, y := r.of(lower), r.of(upper)
			if x < 0 || y < 0 {
				continue
			}
			if s, is := r.swapped(x, y); is {
				found = append(found, s)
			}
		}
	}
	return found
}

// swapped returns the longest stretch in which two columns are swapped.
func (r *rows) swapped(x, y int) (s Swap, is bool) {
	sale := r.columns[x].Role == Sale // there is none without a price
	sum, from, best, all := 0, 0, 0, 0
	count, shown := 0, 0
	first, last := -1, -1
	for i := range r.numbers {
		a, b := r.levels[x][i], r.levels[y][i]
		worth := 0
		switch {
		case a.Is() && b.Is() && a > b, sale && a.Is() && b == None:
			worth = 1
		case a.Is() && b.Is() && a < b:
			worth = -properCosts
		}
		if worth != 0 {
			all++
		}
		if sum <= 0 {
			if worth <= 0 {
				continue
			}
			sum, from, count = 0, i, 0
		}
		if worth > 0 {
			count++
		}
		if sum += worth; sum > best {
			best, first, last, shown = sum, from, i, count
		}
	}
	if best < leastSwapped {
		return s, false
	}
	return Swap{Lower: x, Upper: y, First: int(r.numbers[first]), Last: int(r.numbers[last]), Rows: shown, Whole: 10*shown >= 9*all}, true
}
