package line

import "zetanum/core/sheet"

// suspects finds the rows that may have to be held, or set aside, because of
// another row: those that share a key with one. It remembers every key, so it
// grows with the sheet, by about twelve bytes a key, but not with what the cells
// hold.
//
// It is an open-addressed hash table whose entries lie side by side, eight in a
// line of the processor's cache, because looking up is all that is done. An
// entry keeps half of a key, the other half says where it lies; if two keys are
// taken for the same, which among millions hardly happens, their rows are looked
// at more closely for nothing.
type suspects struct {
	tables  [][]suspect // the last one is filled, those before are full
	used    int         // of the last table
	rows    []uint64    // a bit for each row, by its number
	touched uint32      // keeps touching from being optimised away

	anywhere bool // rows do not lie in the order of their numbers
}

type suspect struct {
	key uint32
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
	s.tables = append(s.tables, make([]suspect, size))
	s.used = 0
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
		last := s.tables[len(s.tables)-1]
		for i := range some {
			s.touched += last[some[i].key&uint64(len(last)-1)].key
		}
		for i := range some {
			s.enterOne(some[i].key, some[i].row+uint32(before))
		}
	}
}

func (s *suspects) enterOne(key uint64, row uint32) {
	half := uint32(key >> 32)
	for t, table := range s.tables {
		mask := uint64(len(table) - 1)
		i := key & mask
		for table[i].row != 0 && table[i].key != half {
			i = (i + 1) & mask
		}
		switch {
		case table[i].row == row:
			return
		case table[i].row != 0:
			s.mark(table[i].row)
			s.mark(row)
			return
		case t == len(s.tables)-1:
			table[i] = suspect{half, row}
			if s.used++; s.used*4 > len(table)*3 {
				s.expect(len(table))
			}
			return
		}
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
	if s.anywhere {
		return true
	}
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

// different returns how many different keys rows have.
func different(keys []rowKey) int {
	seen := make(map[uint64]bool, len(keys))
	for _, k := range keys {
		seen[k.key] = true
	}
	return len(seen)
}

// expectedKeys is how many different keys the whole sheet will have, to judge by its
// first part.
func expectedKeys(table *sheet.Table, part *sheet.Part, keys int) int {
	if part.Size == 0 {
		return 0
	}
	return int(float64(keys) * float64(table.Extent) / float64(part.Size))
}
