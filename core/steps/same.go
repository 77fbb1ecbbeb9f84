package steps

import (
	"encoding/binary"
	"maps"
	"slices"
)

// Same counts in how many products a text stands, by a hash of it. It is an ordered monoid.
type Same struct{ counts map[uint64]int32 }

// mostSame is how many different texts are counted; nothing is said of files that have more.
const mostSame = 1 << 20

// Add takes so many products in that have a text.
func (s *Same) Add(hash uint64, n int32) {
	if s.counts == nil {
		s.counts = make(map[uint64]int32)
	}
	if len(s.counts) < mostSame || s.counts[hash] > 0 {
		s.counts[hash] += n
	}
}

// Join takes in what the products behind have.
func (s *Same) Join(next *Same) {
	for hash, n := range next.counts {
		s.Add(hash, n)
	}
}

// Count returns how many products have a text, 0 if there were too many to count.
func (s *Same) Count(hash uint64) int {
	if len(s.counts) >= mostSame {
		return 0
	}
	return int(s.counts[hash])
}

// AppendBinary appends the counts.
func (s *Same) AppendBinary(b []byte) ([]byte, error) {
	for _, hash := range slices.Sorted(maps.Keys(s.counts)) {
		b = binary.AppendUvarint(binary.AppendUvarint(b, hash), uint64(s.counts[hash]))
	}
	return b, nil
}
