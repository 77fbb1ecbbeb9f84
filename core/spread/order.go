package spread

import "slices"

// A Swap says that in a stretch of rows two columns look as if they stood in one another's place.
type Swap struct {
	Lower, Upper int // columns of the table, as their headings say
	First, Last  int // rows
	Rows         int // how many of them show it
}

// leastSwapped is how many rows show it, less three times those that show the contrary.
const leastSwapped = 6

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
	var runs Runs
	for i := from; i < to; i++ {
		switch a, b := r.levels[x][i], r.levels[y][i]; {
		case a.Is() && b.Is() && a > b, sale && a.Is() && b == None:
			runs.Add(i+1, 1)
		case a.Is() && b.Is() && a < b:
			runs.Add(i+1, 0)
		}
	}
	best := &runs.Best
	if best.Score < leastSwapped || most == 0 {
		return nil
	}
	first, last := best.First-1, best.Last-1
	found = append(found, Swap{Lower: x, Upper: y, First: int(r.numbers[first]), Last: int(r.numbers[last]), Rows: best.Strays()})
	found = append(found, r.swapped(x, y, from, first, most-1)...)
	return append(found, r.swapped(x, y, last+1, to, most-len(found))...)
}
