package line

import (
	"cmp"
	"slices"
	"unicode/utf8"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
)

// sampler chooses products that differ for a trial import: it gathers the
// products that would go out by their look, and takes one of each look in turn.
type sampler struct {
	want  int
	looks map[uint64][]int // the first rows of products, at most twice as many as wanted
	order []uint64         // the looks in the order in which they came
	out   map[int]bool     // products that do not go out after all
}

// maxLooks bounds how many looks are told apart.
const maxLooks = 4096

func (s *sampler) add(look uint64, row int) {
	if s.looks == nil {
		s.looks = make(map[uint64][]int)
	}
	rows, known := s.looks[look]
	if !known {
		if len(s.order) == maxLooks {
			return
		}
		s.order = append(s.order, look)
	}
	// Of each look those are kept that come first when a hash of their rows is
	// ordered, so that the sample is spread over the sheet.
	at, _ := slices.BinarySearchFunc(rows, row, func(a, b int) int { return cmp.Compare(scatter(a), scatter(b)) })
	if at < 2*s.want {
		rows = slices.Insert(rows, at, row)
		s.looks[look] = rows[:min(len(rows), 2*s.want)]
	}
}

// drop takes a product out, by its first row.
func (s *sampler) drop(row int) {
	if s.want == 0 {
		return
	}
	if s.out == nil {
		s.out = make(map[int]bool)
	}
	s.out[row] = true
}

// chosen returns the first rows of the products in the sample.
func (s *sampler) chosen() map[int]bool {
	chosen := make(map[int]bool)
	for look, rows := range s.looks {
		s.looks[look] = slices.DeleteFunc(rows, func(row int) bool { return s.out[row] })
	}
	for round := 0; len(chosen) < s.want; round++ {
		before := len(chosen)
		for _, look := range s.order {
			if rows := s.looks[look]; round < len(rows) && len(chosen) < s.want {
				chosen[rows[round]] = true
			}
		}
		if len(chosen) == before {
			break
		}
	}
	return chosen
}

// lookOf returns a number that is equal for products that look alike: as many
// rows, the same cells filled, with the same kinds of characters, and altered.
func lookOf(p *catalogue.Product, scratch []byte) (uint64, []byte) {
	b := append(scratch[:0], byte(min(len(p.Rows), 4)))
	for i, cell := range p.Rows[0].Cells {
		kind := byte(p.Rows[0].Marks[i] & catalogue.Altered)
		if cell != "" {
			kind |= 0x80
		}
		for j := range len(cell) {
			switch c := cell[j]; {
			case c >= utf8.RuneSelf:
				kind |= 0x40
			case c == '<' || c == '&':
				kind |= 0x20
			}
		}
		b = append(b, kind)
	}
	return xxhash.Sum64(b), b
}
