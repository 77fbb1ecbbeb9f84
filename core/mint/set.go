package mint

// A set has hashes, in a third of the room that a map takes: an open-addressed table, at most three quarters full.
type set struct {
	slots []uint64
	used  int
	zero  bool // it has the hash 0, which an empty slot is
}

// newSet returns an empty set with room for so many.
func newSet(n int) *set {
	size := 1024
	for size*3 < n*4 {
		size *= 2
	}
	return &set{slots: make([]uint64, size)}
}

// add adds a hash, and reports whether it was not there.
func (s *set) add(h uint64) bool {
	if h == 0 {
		fresh := !s.zero
		s.zero = true
		return fresh
	}
	if s.used*4 >= len(s.slots)*3 {
		old := s.slots
		s.slots, s.used = make([]uint64, 2*len(old)), 0
		for _, h := range old {
			if h != 0 {
				s.add(h)
			}
		}
	}
	mask := uint64(len(s.slots) - 1)
	i := h & mask
	for ; s.slots[i] != 0; i = (i + 1) & mask {
		if s.slots[i] == h {
			return false
		}
	}
	s.slots[i] = h
	s.used++
	return true
}
