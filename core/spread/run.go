package spread

import "encoding/binary"

// A Run is a stretch of rows in which most cells of a column are of another kind than the rest: those that are not weigh three times as much.
type Run struct {
	Score       int
	First, Last int // rows
	Counts      [MostKinds]int
}

// MostKinds is how many kinds of cells are told apart; the first one is what the column should have.
const MostKinds = 12

// properCells is how much a cell that is as it should be weighs against one that is not.
const properCells = 3

// Strays returns how many cells of a run are not as they should be.
func (r *Run) Strays() (n int) {
	for _, count := range r.Counts[1:] {
		n += count
	}
	return n
}

// better reports whether a run is more than another: of two that are as good the one that begins later, and of these the shorter one.
func (r *Run) better(than *Run) bool {
	if r.Score != than.Score {
		return r.Score > than.Score
	}
	return r.First > than.First || r.First == than.First && r.Last < than.Last
}

// join returns two runs that lie side by side as one; either may be empty.
func join(a, b *Run) Run {
	switch {
	case a.Last == 0:
		return *b
	case b.Last == 0:
		return *a
	}
	sum := Run{a.Score + b.Score, a.First, b.Last, a.Counts}
	for k, n := range b.Counts {
		sum.Counts[k] += n
	}
	return sum
}

// Runs find the run of a column: an ordered monoid. The zero value has seen nothing.
type Runs struct {
	all          Run // all cells
	Best         Run // the longest run
	front, ahead Run // the longest one from the first cell on, and up to the last one
}

// Add takes in a cell by its row, from 1, and its kind; 0 is what the column should have.
func (s *Runs) Add(row, kind int) {
	if kind != 0 || s.ahead.Last != 0 || s.all.First == 0 {
		s.add(row, kind)
		return
	}
	s.all.Counts[0]++ // as nearly all are
	s.all.Score -= properCells
	s.all.Last = row
}

func (s *Runs) add(row, kind int) {
	one := Run{Score: 1, First: row, Last: row}
	if kind == 0 {
		one.Score = -properCells
	}
	one.Counts[kind] = 1
	s.all, s.ahead = join(&s.all, &one), join(&s.ahead, &one)
	s.keep()
}

// keep sees to it that the longest runs are those.
func (s *Runs) keep() {
	if s.all.Score > s.front.Score {
		s.front = s.all
	}
	if s.ahead.Score <= 0 {
		s.ahead = Run{}
	}
	if s.ahead.better(&s.Best) {
		s.Best = s.ahead
	}
}

// Merge takes in what was seen of the rows below.
func (s *Runs) Merge(next *Runs) {
	if next.all.Last == 0 {
		return
	}
	crossing := join(&s.ahead, &next.front)
	for _, r := range []*Run{&next.Best, &crossing} {
		if r.better(&s.Best) {
			s.Best = *r
		}
	}
	if front := join(&s.all, &next.front); next.front.Last != 0 && front.Score > s.front.Score {
		s.front = front
	}
	ahead := join(&s.ahead, &next.all)
	if s.ahead.Last == 0 || ahead.Score <= next.ahead.Score {
		ahead = next.ahead
	}
	if s.ahead = ahead; s.ahead.Score <= 0 {
		s.ahead = Run{}
	}
	s.all = join(&s.all, &next.all)
}

// Place adds the number of the row above to those of all rows.
func (s *Runs) Place(above int) {
	for _, r := range []*Run{&s.all, &s.Best, &s.front, &s.ahead} {
		if r.Last > 0 {
			r.First, r.Last = r.First+above, r.Last+above
		}
	}
}

// Rest returns how many cells outside the longest run are as they should be, and how many are not.
func (s *Runs) Rest() (proper, strays int) {
	return s.all.Counts[0] - s.Best.Counts[0], s.all.Strays() - s.Best.Strays()
}

// AppendBinary appends what was seen.
func (s *Runs) AppendBinary(b []byte) []byte {
	for _, r := range []*Run{&s.all, &s.Best, &s.front, &s.ahead} {
		b = binary.AppendUvarint(binary.AppendUvarint(binary.AppendVarint(b, int64(r.Score)), uint64(r.First)), uint64(r.Last))
		for _, n := range r.Counts {
			b = binary.AppendUvarint(b, uint64(n))
		}
	}
	return b
}
