package steps

import (
	"cmp"
	"encoding/binary"
	"slices"

	"zetanum/core/distinct"
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
	if !s.twice || len(s.counts.list) >= mostSame {
		return 0
	}
	if count := s.counts.find(hash()); count != nil && *count > 1 {
		return int(*count)
	}
	return 0
}

// AppendBinary appends the counts.
func (s *Same) AppendBinary(b []byte) ([]byte, error) {
	s.counts.sorted(func(hash uint64, n *int32) { b = binary.AppendUvarint(binary.AppendUvarint(b, hash), uint64(*n)) })
	return b, nil
}

// byHash keeps something by hashes of 64 bits, in the order in which they came; 0 and 1 are the same hash.
type byHash[V any] struct {
	places distinct.Keys // in list
	list   []hashed[V]
}

type hashed[V any] struct {
	hash uint64
	what V
}

// find returns what is kept by a hash, nil if nothing is. It may be changed, until something is entered.
func (t *byHash[V]) find(hash uint64) *V {
	if at := t.places.Find(max(hash, 1)); at >= 0 {
		return &t.list[at].what
	}
	return nil
}

// enter returns what is kept by a hash, which is entered if it is not there; nil if there are as many as most already.
func (t *byHash[V]) enter(hash uint64, most int) *V {
	hash = max(hash, 1)
	at := len(t.list)
	if at >= most {
		return t.find(hash)
	}
	if there := t.places.Add(hash, at); there >= 0 {
		return &t.list[there].what
	}
	t.list = append(t.list, hashed[V]{hash: hash})
	return &t.list[at].what
}

// each calls do with all that is kept.
func (t *byHash[V]) each(do func(hash uint64, what *V)) {
	for i := range t.list {
		do(t.list[i].hash, &t.list[i].what)
	}
}

// sorted calls do with all that is kept, in the order of the hashes.
func (t *byHash[V]) sorted(do func(hash uint64, what *V)) {
	in := byHash[V]{list: slices.Clone(t.list)}
	slices.SortFunc(in.list, func(a, b hashed[V]) int { return cmp.Compare(a.hash, b.hash) })
	in.each(do)
}
