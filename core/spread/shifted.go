package spread

import (
	"runtime"
	"slices"
	"sync"

	"golang.org/x/sync/errgroup"
)

// A Shift says that the numbers of a stretch of rows look as if they stood so many rows too high or too low.
type Shift struct {
	Columns     []int // of the table
	First, Last int   // rows
	By          int   // rows that they have to be moved down; up if it is below 0
	Shop        bool  // what the shop has shows it
	Shown       int   // rows that show it
}

const (
	mostShift   = 2   // rows by which a stretch is shifted at most
	farthest    = 4   // deviations: what is farther is as bad as this
	leastShown  = 6   // rows in which it matters whether it is shifted
	leastGain   = 16  // deviations by which all of them together are nearer
	betterBy    = 30  // percent by which they are nearer to their middles when moved
	drag        = 30  // hundredths of a deviation that a row has to be nearer
	mattersFrom = 2   // deviations between what two rows should have
	mostCut     = 200 // hundredths of a decade: what is further off is as bad as this
)

// An expectation says what a number should be in each row, and how much it may differ.
type expectation struct {
	level []Level // None where nobody knows
	wide  []Level
}

// A ground is what the numbers of a column are expected by.
type ground struct {
	x, y int // the column, and the one with which it is in step; -1 for its categories
}

// A candidate is a stretch that may be shifted.
type candidate struct {
	ground
	by, first, last int // indexes of rows
	shown, gain     int
}

// shifts returns the stretches that are shifted.
func (r *rows) shifts(l *lookout) (found []Shift) {
	type look struct {
		ground
		by   int
		seen candidate
	}
	var looks []look
	for x, column := range r.columns {
		if column.Of >= 0 {
			continue
		}
		for _, y := range l.grounds(x) {
			for by := -mostShift; by <= mostShift; by++ {
				if by != 0 {
					looks = append(looks, look{ground: ground{x, y}, by: by})
				}
			}
		}
	}
	var group errgroup.Group
	group.SetLimit(runtime.GOMAXPROCS(0))
	apart := sync.Pool{New: func() any { own := *r; own.counts = nil; return &own }} // each has its own scratch
	for i := range looks {
		group.Go(func() error {
			own := apart.Get().(*rows)
			if c, is := own.candidate(looks[i].ground, looks[i].by); is {
				looks[i].seen = c
			}
			apart.Put(own)
			return nil
		})
	}
	group.Wait()        // none fails
	var all []candidate // the best of each column
	for _, look := range looks {
		switch n := len(all) - 1; {
		case look.seen.gain == 0:
		case n < 0 || all[n].x != look.x:
			all = append(all, look.seen)
		case look.seen.gain > all[n].gain:
			all[n] = look.seen
		}
	}
	all = r.settle(all)
	for _, c := range all {
		r.extend(&c)
		first, last := int(r.numbers[c.first]), int(r.numbers[c.last])
		shop := c.y >= 0 && r.columns[c.y].Of >= 0
		// Columns that were moved together are one.
		at := slices.IndexFunc(found, func(s Shift) bool { return s.By == c.by && near(s.First, first) && near(s.Last, last) })
		if at < 0 {
			found = append(found, Shift{[]int{c.x}, first, last, c.by, shop, c.shown})
			continue
		}
		s := &found[at]
		s.Columns, s.Shop = append(s.Columns, c.x), s.Shop || shop
		if c.shown > s.Shown {
			s.First, s.Last, s.Shown = first, last, c.shown
		}
	}
	return found
}

// extend takes in the rows behind a stretch, and those that are empty at its ends, that say nothing else: what has been moved is mostly all
// that stands below.
func (r *rows) extend(c *candidate) {
	e, ok := r.expect(c.ground, r.moved(*c))
	if !ok {
		return
	}
	levels := r.levels[c.x]
	for i, to := c.last+1, c.last; i < len(levels); i++ {
		here, there, ok := r.distances(c.x, i, c.by, e)
		if ok && here < there-drag {
			break
		}
		if ok && here > there {
			to = i
		}
		if c.last = to; i == len(levels)-1 || levels[i] == None && i >= len(levels)-max(c.by, 0)-1 {
			c.last = i
		}
	}
	for i := 0; i < -c.by && c.first > 0 && levels[c.first-1] == None; i++ {
		c.first--
	}
}

// grounds returns by what the numbers of a column are expected: by their categories, what the shop has, and the columns that are most in step.
func (l *lookout) grounds(x int) (all []int) {
	if l.columns[x].Role != Stock {
		all = append(all, -1)
	}
	best := -1
	for y, other := range l.columns {
		switch {
		case y == x || !l.canBeInStep(l.columns[x], other):
		case other.Of >= 0:
			all = append(all, y)
		case l.steps[x][y].Count >= leastInStep && (best < 0 || l.steps[x][y].Wide < l.steps[x][best].Wide || l.steps[x][y].Count > 2*l.steps[x][best].Count):
			best = y
		}
	}
	if best >= 0 {
		all = append(all, best)
	}
	return all
}

func near(a, b int) bool { return max(a-b, b-a) <= 3 }

// settle drops of two columns that are in step, of which each looks as if it was moved against the other, the one whose numbers fit their
// categories as they stand.
func (r *rows) settle(all []candidate) []candidate {
	for i := 0; i < len(all); i++ {
		a := all[i]
		for j := i + 1; j < len(all); j++ {
			b := all[j]
			if a.by != -b.by || 2*(min(a.last, b.last)-max(a.first, b.first)) < min(a.last-a.first, b.last-b.first) {
				continue
			}
			if r.fits(a) >= r.fits(b) {
				all = slices.Delete(all, j, j+1)
			} else {
				all = slices.Delete(all, i, i+1)
			}
			i = -1
			break
		}
	}
	return all
}

// fits returns how much nearer the numbers of a stretch are to their categories, or to what the shop has, when they are moved, in percent.
func (r *rows) fits(c candidate) int {
	if c.y >= 0 && r.columns[c.y].Of >= 0 {
		return 1000
	}
	c.y = -1
	before, after := r.compare(c)
	if before == 0 {
		return 0
	}
	return 100 * (before - after) / before
}

// moved returns what gives the numbers of a column by row if a stretch is moved.
func (r *rows) moved(c candidate) func(i int) (Level, bool) {
	levels := r.levels[c.x]
	return func(i int) (Level, bool) {
		switch from := i - c.by; {
		case from >= c.first && from <= c.last:
			return levels[from], levels[from].Is()
		case i >= c.first && i <= c.last:
			return None, false
		}
		return levels[i], levels[i].Is()
	}
}

// expect returns what is expected of a column whose numbers are these.
func (r *rows) expect(g ground, value func(i int) (Level, bool)) (e expectation, ok bool) {
	n := len(r.numbers)
	e = expectation{make([]Level, n), make([]Level, n)}
	if g.y >= 0 {
		step := r.overall(func(i int) (Level, bool) {
			a, ok := value(i)
			return a - r.levels[g.y][i], ok && r.levels[g.y][i].Is()
		})
		for i, v := range r.levels[g.y] {
			if e.level[i] = None; v.Is() {
				e.level[i], e.wide[i] = v+step.Middle, step.Wide
			}
		}
		return e, step.Count >= leastInStep
	}
	cats := r.byCategory(value)
	for i, c := range r.category {
		if e.level[i] = None; c >= 0 && cats[c].Count >= leastInCategory/2 {
			e.level[i], e.wide[i] = cats[c].Middle, cats[c].Wide
		}
	}
	return e, true
}

// candidate looks for a stretch of a column that is nearer to what is expected when it is moved.
func (r *rows) candidate(g ground, by int) (best candidate, is bool) {
	none := candidate{g, by, 0, -1, 0, 0}
	all := candidate{g, by, 0, len(r.numbers) - 1, 0, 0}
	for _, start := range []candidate{none, all} {
		e, ok := r.expect(g, r.moved(start))
		if !ok {
			continue
		}
		c, found := r.stretch(g, by, e)
		if !found {
			continue
		}
		if e, ok = r.expect(g, r.moved(c)); !ok { // what is expected when it stands where it belongs
			continue
		}
		if c, found = r.stretch(g, by, e); !found || c.gain <= best.gain {
			continue
		}
		if before, after := r.compare(c); 100*(before-after) >= betterBy*before {
			best, is = c, true
		}
	}
	return best, is
}

// compare returns how far the numbers of a stretch are from what is expected of them, all together in hundredths of a decade, as they stand,
// and when they are moved; each with what is expected then.
func (r *rows) compare(c candidate) (before, after int) {
	as, ok1 := r.expect(c.ground, r.moved(candidate{c.ground, c.by, 0, -1, 0, 0}))
	with, ok2 := r.expect(c.ground, r.moved(c))
	if !ok1 || !ok2 {
		return 0, 0
	}
	for i := c.first; i <= c.last; i++ {
		v, j := r.levels[c.x][i], i+c.by
		if !v.Is() || j < 0 || j >= len(r.numbers) || as.level[i] == None || with.level[j] == None {
			continue
		}
		before += int(min(mostCut, abs(v-as.level[i])))
		after += int(min(mostCut, abs(v-with.level[j])))
	}
	return before, after
}

// stretch returns the stretch of a column that is nearer to what is expected when it is moved, by most deviations.
func (r *rows) stretch(g ground, by int, e expectation) (c candidate, is bool) {
	sum, from, best := 0, 0, 0
	c = candidate{g, by, -1, -1, 0, 0}
	for i := range r.numbers {
		here, there, ok := r.distances(g.x, i, by, e)
		worth := 0
		if ok {
			worth = here - there - drag
		}
		if sum <= 0 {
			if worth <= 0 {
				continue
			}
			sum, from = 0, i
		}
		if sum += worth; sum > best {
			best, c.first, c.last = sum, from, i
		}
	}
	if best < 100*leastGain {
		return c, false
	}
	for i := c.first; i <= c.last; i++ {
		if _, _, ok := r.distances(g.x, i, by, e); ok && abs(e.level[i]-e.level[i+by]) >= mattersFrom*max(e.wide[i], e.wide[i+by]) {
			c.shown++
		}
	}
	c.gain = best
	return c, c.shown >= leastShown
}

// distances returns how far a number is from what its own row should have, and from what the row should have to which it would be moved, in
// hundredths of a deviation.
func (r *rows) distances(x, i, by int, e expectation) (here, there int, ok bool) {
	v, j := r.levels[x][i], i+by
	if !v.Is() || j < 0 || j >= len(r.numbers) || e.level[i] == None || e.level[j] == None {
		return 0, 0, false
	}
	wide := int(max(e.wide[i], e.wide[j]))
	here = min(100*farthest, 100*int(abs(v-e.level[i]))/wide)
	there = min(100*farthest, 100*int(abs(v-e.level[j]))/wide)
	return here, there, true
}
