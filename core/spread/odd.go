package spread

import "slices"

// An Odd number is ten, a hundred or a thousand times what the others say, or that part of it.
type Odd struct {
	Row      int
	Column   int // of the table
	Tens     int // how many decades it is too large; below 0 too small
	Level    Level
	Category uint64 // its hash; 0 for none

	// By is the column that says so, with which the others of the column are in step; -1 if only the category says so. Against is how many
	// others there are, and Usual where these are: the level of the category, or how many hundredths of a decade they are above By.
	By      int
	Against int
	Usual   Level
}

// What is needed to call a number odd.
const (
	leastInCategory = 8  // others in its category
	leastInStep     = 10 // others that are in step with another column
	inStep          = 25 // hundredths of a decade: how wide the spread between two columns may be that are in step
	backs           = 30 // within which another column backs a number
	oddDeviations   = 5  // deviations from the middle
	together        = 3  // tenths of the way that another number of the row has to go along, so that it is an odd product and no odd number
	mostOdd         = 20 // one of so many in a column, at most, is odd; more are how it is
)

// lookout finds odd numbers.
type lookout struct {
	*rows
	cats  [][]Spread // by column
	whole []Spread
	steps [][]Spread // between two columns
}

func newLookout(r *rows) *lookout {
	some := r // enough to see how the whole is
	if len(r.numbers) > manyRows {
		some = r.windows(windows, inWindow)
	}
	l := &lookout{rows: r, cats: make([][]Spread, len(r.columns)), whole: make([]Spread, len(r.columns)), steps: make([][]Spread, len(r.columns))}
	for x, column := range r.columns {
		if column.Role == Stock {
			continue
		}
		value := func(i int) (Level, bool) { return r.levels[x][i], r.levels[x][i].Is() }
		l.whole[x], l.cats[x], l.steps[x] = some.overall(func(i int) (Level, bool) { return some.levels[x][i], some.levels[x][i].Is() }), r.byCategory(value), make([]Spread, len(r.columns))
		for y, other := range r.columns {
			if y < x && l.canBeInStep(column, other) {
				l.steps[x][y] = some.overall(func(i int) (Level, bool) { return some.between(x, y, i) })
				s := l.steps[x][y]
				l.steps[y][x] = Spread{-s.Middle, s.Wide, s.Count}
			}
		}
	}
	return l
}

// canBeInStep reports whether two columns may be in step: amounts of money, or what the sheet and the shop have of one thing.
func (l *lookout) canBeInStep(a, b Column) bool {
	switch {
	case a.Of >= 0 && b.Of >= 0:
		return false
	case a.Of >= 0 || b.Of >= 0:
		return a.Role == b.Role
	}
	return a.Role.isMoney() && b.Role.isMoney()
}

// between returns how far the number of a column is above that of another in a row.
func (r *rows) between(x, y, i int) (Level, bool) {
	a, b := r.levels[x][i], r.levels[y][i]
	return a - b, a.Is() && b.Is()
}

// odd returns the odd numbers of a column, in the order of their rows, and how many numbers it has. Those of stretches that are shifted are passed
// over.
func (l *lookout) odd(x int, passed func(x, i int) bool) (found []Odd, filled int) {
	if l.columns[x].Of >= 0 || l.columns[x].Role == Stock {
		return nil, 0
	}
	for i := range l.numbers {
		if level := l.levels[x][i]; level.Is() {
			filled++
			if o, is := l.at(x, i); is && !passed(x, i) {
				found = append(found, o)
			}
		}
	}
	return found, filled
}

// at judges one number.
func (l *lookout) at(x, i int) (o Odd, is bool) {
	o = Odd{Row: int(l.numbers[i]), Column: x, By: -1, Level: l.levels[x][i]}
	if c := l.category[i]; c >= 0 {
		o.Category = l.hashes[c]
	}
	for y := range l.columns {
		step := l.steps[x][y]
		if step.Count < leastInStep || step.Wide > inStep {
			continue
		}
		d, both := l.between(x, y, i)
		if !both {
			continue
		}
		d -= step.Middle
		if abs(d) <= max(oddDeviations*step.Wide, backs) {
			return o, false
		}
		if tens := l.tens(x, d, step.Wide); tens != 0 && l.blame(x, y, i) {
			o.By, o.Against, o.Usual, o.Tens = y, step.Count-1, step.Middle, tens
			is = true
		}
	}
	if is {
		return o, true
	}
	c := l.category[i]
	if c < 0 || l.cats[x][c].Count <= leastInCategory {
		return o, false
	}
	spread := l.cats[x][c]
	d := l.levels[x][i] - spread.Middle
	if o.Tens = l.tens(x, d, spread.Wide); o.Tens == 0 {
		return o, false
	}
	for y := range l.columns {
		if y == x || l.columns[y].Of >= 0 || l.columns[y].Role == Stock || l.cats[y][c].Count <= leastInCategory || !l.levels[y][i].Is() {
			continue
		}
		if e := l.levels[y][i] - l.cats[y][c].Middle; (e < 0) == (d < 0) && 10*abs(e) >= together*abs(d) {
			return o, false // an odd product
		}
	}
	o.Against, o.Usual = spread.Count-1, spread.Middle
	return o, true
}

// blame reports whether of two numbers that are not in step the first is the one that is odd: it is further from where it should be.
func (l *lookout) blame(x, y, i int) bool {
	if l.columns[y].Of >= 0 {
		return true
	}
	return l.away(x, i) > l.away(y, i)
}

// away returns how far a number is from its category, or from the column where that says nothing.
func (l *lookout) away(x, i int) Level {
	if c := l.category[i]; c >= 0 && l.cats[x][c].Count >= 4 {
		return abs(l.levels[x][i] - l.cats[x][c].Middle)
	}
	return abs(l.levels[x][i] - l.whole[x].Middle)
}

// tens returns how many decades a distance is, 0 if it is none that can be told from the spread. Weights are in another unit: a thousand
// times as much.
func (l *lookout) tens(x int, d, wide Level) int {
	if abs(d) < oddDeviations*wide {
		return 0
	}
	from, farthest := Level(1), Level(30)
	if l.columns[x].Role == Weight {
		from, farthest = 3, 45
	}
	for tens := from; tens <= 3; tens++ {
		if abs(abs(d)-100*tens) <= min(farthest, max(20, 5*wide/2)) {
			if d < 0 {
				return int(-tens)
			}
			return int(tens)
		}
	}
	return 0
}

func abs(l Level) Level { return max(l, -l) }

// sortOdd puts odd numbers in the order of their rows.
func sortOdd(all []Odd) {
	slices.SortFunc(all, func(a, b Odd) int {
		if a.Row != b.Row {
			return a.Row - b.Row
		}
		return a.Column - b.Column
	})
}
