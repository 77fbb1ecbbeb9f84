package spread

import "sync"

// A Verdict is what is odd in a table.
type Verdict struct {
	Odd    []Odd // by their rows
	Swaps  []Swap
	Shifts []Shift
}

// Where there are many rows, all are only looked through for what is shifted if that is seen in some stretches of them.
const (
	manyRows = 1 << 16
	windows  = 64
	inWindow = 256
)

// Judge looks at all rows. decimals are the marks before decimals in the columns, 0 where nobody knows.
func (t *Table) Judge(decimals []rune) (v Verdict) {
	if t.rows == 0 {
		return v
	}
	r := t.all(decimals)
	l := newLookout(r)
	v.Swaps = r.swaps()
	if len(r.numbers) <= manyRows || len(r.windows(windows, inWindow).shifts(l)) > 0 {
		v.Shifts = r.shifts(l)
	}
	passed := func(x, i int) bool {
		for _, s := range v.Shifts {
			for _, c := range s.Columns {
				if c == x && int(r.numbers[i]) >= s.First && int(r.numbers[i]) <= s.Last {
					return true
				}
			}
		}
		return false
	}
	all, filled := make([][]Odd, len(r.columns)), make([]int, len(r.columns))
	var group sync.WaitGroup
	for x := range r.columns {
		group.Go(func() { all[x], filled[x] = l.odd(x, passed) })
	}
	group.Wait()
	for x, odd := range all {
		single := 0
		for n := range odd {
			if !inRun(odd, n) {
				single++
			}
		}
		if single <= 1 || mostOdd*single <= filled[x] {
			v.Odd = append(v.Odd, odd...)
		}
	}
	sortOdd(v.Odd)
	return v
}

// inRun reports whether an odd number stands beside others that are odd in the same way: a stretch in which something has been done.
func inRun(odd []Odd, n int) bool {
	run := 1
	for _, step := range []int{-1, 1} {
		for m := n + step; m >= 0 && m < len(odd) && odd[m].Tens == odd[n].Tens && abs(Level(odd[m].Row-odd[m-step].Row)) <= 2; m += step {
			run++
		}
	}
	return run >= 4
}
