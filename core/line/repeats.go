package line

import (
	"cmp"
	"slices"
)

// repeats says of rows which one they repeat. Sheets repeat rows in stretches: one row again
// and again, or a part of the sheet once more; so stretches are what is kept.
type repeats struct {
	stretches []stretch
	others    map[uint32]uint32 // rows that were not added in order
}

// A stretch is rows side by side that repeat one row, or rows side by side.
type stretch struct{ from, to, first, step uint32 }

// add enters a row that repeats another.
func (r *repeats) add(row, first uint32) {
	if n := len(r.stretches); n > 0 {
		last := &r.stretches[n-1]
		switch {
		case row <= last.to:
			if r.others == nil {
				r.others = make(map[uint32]uint32)
			}
			r.others[row] = first
			return
		case row == last.to+1 && last.from == last.to && (first == last.first || first == last.first+1):
			last.to, last.step = row, first-last.first
			return
		case row == last.to+1 && last.from < last.to && first == last.first+last.step*(row-last.from):
			last.to = row
			return
		}
	}
	r.stretches = append(r.stretches, stretch{from: row, to: row, first: first})
}

// of returns the row that a row repeats.
func (r *repeats) of(row uint32) (first uint32, ok bool) {
	at, found := slices.BinarySearchFunc(r.stretches, row, func(s stretch, row uint32) int { return cmp.Compare(s.from, row) })
	if !found {
		at--
	}
	if at >= 0 && row <= r.stretches[at].to {
		return r.stretches[at].first + r.stretches[at].step*(row-r.stretches[at].from), true
	}
	first, ok = r.others[row]
	return first, ok
}

// any reports whether there are any.
func (r *repeats) any() bool { return len(r.stretches) > 0 }
