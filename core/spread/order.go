package spread

import "slices"

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

// mostSwaps is how many stretches are told of two columns.
const mostSwaps = 16

// swaps returns the stretches in which two columns are swapped. Where a cost stands in the place of a price, it is above the sale price between
// them, too, and that above the price: only the two that are farthest apart are told of.
func (r *rows) swaps() (found []Swap) {
	for apart := List - Cost; apart > 0; apart-- {
		for lower := Cost; lower+apart < Wholesale; lower++ {
			x, y := r.of(lower), r.of(lower+apart)
			if x < 0 || y < 0 {
				continue
			}
			for _, s := range r.swapped(x, y, 0, len(r.numbers), mostSwaps) {
				if !slices.ContainsFunc(found, func(other Swap) bool { return r.explains(other, s) }) {
					found = append(found, s)
				}
			}
		}
	}
	slices.SortStableFunc(found, func(a, b Swap) int { return a.First - b.First })
	return found
}

// explains reports whether one swap is the reason of another, of columns that stand nearer to one another.
func (r *rows) explains(wide, s Swap) bool {
	role := func(c int) Role { return r.columns[c].Role }
	return role(wide.Lower) <= role(s.Lower) && role(s.Upper) <= role(wide.Upper) && wide.First <= s.Last && s.First <= wide.Last
}

// swapped returns the longest stretches in which two columns are swapped among rows by their places, at most so many, in no order.
func (r *rows) swapped(x, y, from, to, most int) (found []Swap) {
	sale := r.columns[x].Role == Sale // there is none without a price
	sum, begun, best, all := 0, 0, 0, 0
	count, shown := 0, 0
	first, last := -1, -1
	for i := from; i < to; i++ {
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
			sum, begun, count = 0, i, 0
		}
		if worth > 0 {
			count++
		}
		if sum += worth; sum > best {
			best, first, last, shown = sum, begun, i, count
		}
	}
	if best < leastSwapped || most == 0 {
		return nil
	}
	found = append(found, Swap{Lower: x, Upper: y, First: int(r.numbers[first]), Last: int(r.numbers[last]), Rows: shown,
		Whole: from == 0 && to == len(r.numbers) && 10*shown >= 9*all})
	found = append(found, r.swapped(x, y, from, first, most-1)...)
	return append(found, r.swapped(x, y, last+1, to, most-len(found))...)
}
