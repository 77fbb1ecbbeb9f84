package line

import "zetanum/core/sheet"

// suspects finds the rows that may have to be held, or set aside, because of
// another row: those that share a key with one. It remembers every key, so it
// grows with the sheet, by about twenty-five bytes a key, but not with what the
// cells hold.
//
// It is an open-addressed hash table whose entries lie side by side, four in a
// line of the processor's cache, because looking up is all that is done. Keys
// are taken for what they are: if two values should have the same, their rows
// are looked at more closely for nothing.
type suspects struct {
	entries []suspect
	used    int
	rows    []uint64 // a bit for each row, by its number
	touched uint64   // keeps touching from being optimised away
}

type suspect struct {
	key uint64
	row uint32 // never 0
}

// A rowKey is a key that a row of a part has.
type rowKey struct {
	key uint64
	row uint32
}

// expect makes room for so many keys.
func (s *suspects) expect(n int) {
	size := 1024
	for size < n+n/2 {
		size *= 2
	}
	s.entries = make([]suspect, size)
}

// ahead is how many keys are looked up before the first of them is entered.
const ahead = 16

// enter takes down the keys of a part; before is the number of the row above
// it.
func (s *suspects) enter(keys []rowKey, before int) {
	for len(keys) > 0 {
		some := keys[:min(len(keys), ahead)]
		keys = keys[len(some):]
		// The table is much larger than what the processor keeps at hand, so
		// each look-up waits for memory. Touching the places of several keys
		// first lets it wait for all of them at once.
		mask := uint64(len(s.entries) - 1)
		for i := range some {
			s.touched += s.entries[some[i].key&mask].key
		}
		for i := range some {
			s.enterOne(some[i].key, some[i].row+uint32(before))
		}
	}
}

func (s *suspects) enterOne(key uint64, row uint32) {
	mask := uint64(len(s.entries) - 1)
	for i := key & mask; ; i = (i + 1) & mask {
		e := &s.entries[i]
		if e.row == 0 {
			*e = suspect{key, row}
			if s.used++; s.used*4 > len(s.entries)*3 {
				s.grow()
			}
			return
		}
		if e.key == key {
			if e.row != row {
				s.mark(e.row)
				s.mark(row)
			}
			return
		}
	}
}

func (s *suspects) grow() {
	old := s.entries
	s.entries = make([]suspect, 2*len(old))
	mask := uint64(len(s.entries) - 1)
	for _, e := range old {
		if e.row == 0 {
			continue
		}
		i := e.key & mask
		for s.entries[i].row != 0 {
			i = (i + 1) & mask
		}
		s.entries[i] = e
	}
}

func (s *suspects) mark(row uint32) {
	for int(row>>6) >= len(s.rows) {
		s.rows = append(s.rows, make([]uint64, 1+len(s.rows)/2)...)
	}
	s.rows[row>>6] |= 1 << (row & 63)
}

func (s *suspects) has(row int) bool {
	return row>>6 < len(s.rows) && s.rows[row>>6]&(1<<(row&63)) != 0
}

// any reports whether a part has suspects.
func (s *suspects) any(part *PartIndex) bool {
	for row := part.Before + 1; row <= part.Before+part.Rows; row++ {
		if row&63 == 0 && row>>6 < len(s.rows) && s.rows[row>>6] == 0 {
			row += 63
			continue
		}
		if s.has(row) {
			return true
		}
	}
	return false
}

// expectedKeys is how many keys the whole sheet will have, to judge by its
// first part.
func expectedKeys(table *sheet.Table, part *sheet.Part, keys int) int {
	if part.Size == 0 {
		return 0
	}
	return int(float64(keys) * float64(table.Size) / float64(part.Size))
}
