package catalogue

import (
	"math/bits"
	"slices"
)

// A ColumnSet is a set of columns by their numbers, those of the sheet first and then those
// that are added. The zero ColumnSet is empty.
type ColumnSet struct{ bits []uint64 }

// ColumnsOf returns the set of the given columns; a negative one, which stands for a column
// that is not there, is left out.
func ColumnsOf(cols ...int) (s ColumnSet) {
	s.Add(cols...)
	return s
}

// FirstColumns returns the set of the first n columns.
func FirstColumns(n int) (s ColumnSet) {
	for col := range n {
		s.Add(col)
	}
	return s
}

// Add puts columns into the set; negative ones are left out.
func (s *ColumnSet) Add(cols ...int) {
	for _, col := range cols {
		if col < 0 {
			continue
		}
		for len(s.bits) <= col/64 {
			s.bits = append(s.bits, 0)
		}
		s.bits[col/64] |= 1 << (col % 64)
	}
}

// AddAll puts the columns of another set into the set.
func (s *ColumnSet) AddAll(o ColumnSet) {
	for len(s.bits) < len(o.bits) {
		s.bits = append(s.bits, 0)
	}
	for i, b := range o.bits {
		s.bits[i] |= b
	}
}

// Has reports whether a column is in the set.
func (s ColumnSet) Has(col int) bool {
	return col >= 0 && col/64 < len(s.bits) && s.bits[col/64]&(1<<(col%64)) != 0
}

// Both returns the columns that are in both sets.
func (s ColumnSet) Both(o ColumnSet) (both ColumnSet) {
	n := min(len(s.bits), len(o.bits))
	both.bits = slices.Clone(s.bits[:n])
	for i := range both.bits {
		both.bits[i] &= o.bits[i]
	}
	return both
}

// Without returns the columns that are in the set and not in the other.
func (s ColumnSet) Without(o ColumnSet) (rest ColumnSet) {
	rest.bits = slices.Clone(s.bits)
	for i := range min(len(rest.bits), len(o.bits)) {
		rest.bits[i] &^= o.bits[i]
	}
	return rest
}

// List returns the columns of the set from left to right.
func (s ColumnSet) List() []int {
	var list []int
	for i, b := range s.bits {
		for ; b != 0; b &= b - 1 {
			list = append(list, 64*i+bits.TrailingZeros64(b))
		}
	}
	return list
}

// Empty reports whether no column is in the set.
func (s ColumnSet) Empty() bool { return s.Last() < 0 }

// Last returns the column of the set that is farthest to the right, -1 if it is empty.
func (s ColumnSet) Last() int {
	for i := len(s.bits) - 1; i >= 0; i-- {
		if b := s.bits[i]; b != 0 {
			return 64*i + 63 - bits.LeadingZeros64(b)
		}
	}
	return -1
}
