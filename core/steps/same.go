package steps

import (
	"encoding/binary"
	"slices"
)

// Same counts in how many products a text stands, by a hash of it. It is an ordered monoid.
type Same struct {
	counts byHash[int32]
	twice  bool // some text stands in several
}

// mostSame is how many different texts are counted; nothing is said of files that have more.
const mostSame = 1 << 20

// Add takes so many products in that have a text.
func (s *Same) Add(hash uint64, n int32) {
	if count := s.counts.enter(hash, mostSame); count != nil {
		*count += n
		s.twice = s.twice || *count > 1
	}
}

// Join takes in what the products behind have.
func (s *Same) Join(next *Same) { next.counts.each(func(hash uint64, n *int32) { s.Add(hash, *n) }) }

// Several returns how many products have a text, if several do; 0 if not, or if there were too many to count.
func (s *Same) Several(hash func() uint64) int {
	if !s.twice || s.counts.n >= mostSame {
		return 0
	}
	if count := s.counts.find(hash()); count != nil && *count > 1 {
		return int(*count)
	}
	return 0
}

// AppendBinary appends the counts.
func (s *Same) AppendBinary(b []byte) ([]byte, error) {
	for _, hash := range s.counts.sorted() {
		b = binary.AppendUvarint(binary.AppendUvarint(b, hash), uint64(*s.counts.find(hash)))
	}
	return b, nil
}

// byHash keeps something by hashes of 64 bits. They are mixed as they come, so that their lower bits say where each stands: what takes a
// map a third of a look at a list. 0 and 1 are the same hash.
type byHash[V any] struct {
	slots []slot[V]
	n     int
}

type slot[V any] struct {
	hash uint64 // 0 in one that is empty
	what V
}

// find returns what is kept by a hash, nil if nothing is. It may be changed, until something is entered.
func (t *byHash[V]) find(hash uint64) *V {
	if len(t.slots) == 0 {
		return nil
	}
	if s := t.at(max(hash, 1)); s.hash != 0 {
		return &s.what
	}
	return nil
}

// at returns where a hash stands or, if it does not, would.
func (t *byHash[V]) at(hash uint64) *slot[V] {
	mask := uint64(len(t.slots) - 1)
	for i := hash & mask; ; i = (i + 1) & mask {
		if s := &t.slots[i]; s.hash == hash || s.hash == 0 {
			return s
		}
	}
}

// enter returns what is kept by a hash, which is entered if it is not there; nil if there are as many as most already.
func (t *byHash[V]) enter(hash uint64, most int) *V {
	if kept := t.find(hash); kept != nil || t.n >= most {
		return kept
	}
	if 2*t.n >= len(t.slots) {
		old := t.slots
		t.slots = make([]slot[V], max(64, 2*len(old)))
		for _, s := range old {
			if s.hash != 0 {
				*t.at(s.hash) = s
			}
		}
	}
	t.n++
	s := t.at(max(hash, 1))
	s.hash = max(hash, 1)
	return &s.what
}

// each calls do with all that is kept.
func (t *byHash[V]) each(do func(hash uint64, what *V)) {
	for i := range t.slots {
		if s := &t.slots[i]; s.hash != 0 {
			do(s.hash, &s.what)
		}
	}
}

// sorted returns the hashes in their order.
func (t *byHash[V]) sorted() []uint64 {
	list := make([]uint64, 0, t.n)
	t.each(func(hash uint64, _ *V) { list = append(list, hash) })
	slices.Sort(list)
	return list
}
