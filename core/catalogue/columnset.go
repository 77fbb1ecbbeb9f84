package catalogue

import (
	"math/big"
	"math/bits"
)

// A ColumnSet is a set of columns by their numbers, those of the sheet first and then those
// that are added. It is a value: a copy does not change with what it was copied from. The zero
// ColumnSet is empty.
type ColumnSet struct{ bits *big.Int } // never changed once it is there

// ColumnsOf returns the set of the given columns; a negative one, which stands for a column
// that is not there, is left out.
func ColumnsOf(cols ...int) (s ColumnSet) {
	s.Add(cols...)
	return s
}

// FirstColumns returns the set of the first n columns.
func FirstColumns(n int) ColumnSet {
	all := new(big.Int).Lsh(big.NewInt(1), uint(n))
	return ColumnSet{all.Sub(all, big.NewInt(1))}
}

// number returns the set as a number with a bit for each column.
func (s ColumnSet) number() *big.Int {
	if s.bits == nil {
		return new(big.Int)
	}
	return s.bits
}

// Add puts columns into the set; negative ones are left out.
func (s *ColumnSet) Add(cols ...int) {
	more := new(big.Int).Set(s.number())
	for _, col := range cols {
		if col >= 0 {
			more.SetBit(more, col, 1)
		}
	}
	s.bits = more
}

// AddAll puts the columns of another set into the set.
func (s *ColumnSet) AddAll(o ColumnSet) { s.bits = new(big.Int).Or(s.number(), o.number()) }

// Has reports whether a column is in the set.
func (s ColumnSet) Has(col int) bool {
	if col < 0 || s.bits == nil {
		return false
	}
	words := s.bits.Bits() // faster than to ask for the bit
	at := uint(col) / bits.UintSize
	return at < uint(len(words)) && words[at]>>(uint(col)%bits.UintSize)&1 != 0
}

// Both returns the columns that are in both sets.
func (s ColumnSet) Both(o ColumnSet) ColumnSet {
	return ColumnSet{new(big.Int).And(s.number(), o.number())}
}

// Without returns the columns that are in the set and not in the other.
func (s ColumnSet) Without(o ColumnSet) ColumnSet {
	return ColumnSet{new(big.Int).AndNot(s.number(), o.number())}
}

// List returns the columns of the set from left to right.
func (s ColumnSet) List() (list []int) {
	for col := range s.number().BitLen() {
		if s.Has(col) {
			list = append(list, col)
		}
	}
	return list
}

// Empty reports whether no column is in the set.
func (s ColumnSet) Empty() bool { return s.Last() < 0 }

// Last returns the column of the set that is farthest to the right, -1 if it is empty.
func (s ColumnSet) Last() int { return s.number().BitLen() - 1 }
