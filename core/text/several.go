package text

import (
	"math"
	"math/bits"
)

// Each text is looked for by four bytes of it.
const (
	few    = 4 // bytes
	widest = 8 // the most bytes from one look at a text to the next
	dear   = 7 // how much longer it takes to look at each byte so than to look for one text by itself
)

// Several are texts that are looked for all at once, whatever the case of their letters: the time that it takes hardly grows with
// their number. A text is looked at every few bytes, as few as let none of them pass unseen. It is safe for many goroutines.
type Several struct {
	texts []Sought // as Small makes them
	step  int
	shift int     // what makes a number below the length of heads
	heads []int32 // by four bytes: where in parts the first stands that has them, behind a 1
	parts []part
}

// Sought is a text that is looked for.
type Sought struct {
	Text string
	Mark int // the number of what is marked where it stands; several texts may have the same
}

// part is where four bytes stand in a text that is looked for.
type part struct {
	text, at, next int32
}

// Marks are a bit for each mark.
type Marks []uint64

// NewMarks has room for so many marks.
func NewMarks(n int) Marks { return make(Marks, n/64+1) }

// Add marks one.
func (m Marks) Add(mark int) { m[mark/64] |= 1 << (mark % 64) }

// Next returns the first mark from a number on, -1 if there is none.
func (m Marks) Next(from int) int {
	for at := from / 64; at < len(m); at++ {
		here := m[at]
		if at == from/64 {
			here = here >> (from % 64) << (from % 64)
		}
		if here != 0 {
			return at*64 + bits.TrailingZeros64(here)
		}
	}
	return -1
}

// NewSeveral looks for texts. Those that are found sooner by themselves, because they are too short or too few, are left out and
// returned as alone.
func NewSeveral(texts []Sought) (s *Several, alone []Sought) {
	least := together(texts)
	s = &Several{step: min(widest, least-few+1)}
	for _, t := range texts {
		if len(t.Text) < least {
			alone = append(alone, t)
			continue
		}
		s.texts = append(s.texts, Sought{Small(t.Text), t.Mark})
	}
	size := max(10, min(16, bits.Len(uint(16*s.step*len(s.texts)))))
	s.heads, s.shift = make([]int32, 1<<size), 32-size
	for n, t := range s.texts {
		for at := range s.step {
			head := &s.heads[four(t.Text[at:])>>s.shift]
			s.parts = append(s.parts, part{int32(n), int32(at), *head})
			*head = int32(len(s.parts))
		}
	}
	return s, alone
}

// together returns from which length on texts are best looked for together.
func together(texts []Sought) (least int) {
	best := float64(len(texts)) // each by itself
	least = math.MaxInt
	for length := few; length < few+widest; length++ {
		takes := float64(dear) / float64(length-few+1)
		for _, t := range texts {
			if len(t.Text) < length {
				takes++
			}
		}
		if takes < best {
			least, best = length, takes
		}
	}
	return least
}

// four returns a number for four bytes, whatever the case of their letters, of which the upper bits are well mixed.
func four(b string) uint32 {
	_ = b[few-1]
	return (uint32(b[0]) | uint32(b[1])<<8 | uint32(b[2])<<16 | uint32(b[3])<<24 | 0x20202020) * 0x9e3779b1
}

// Find adds to found the marks of the texts that stand in one. Signs besides letters of which the bytes
// differ as those of letters do, such as @ and `, are taken for one another.
func (s *Several) Find(text string, found Marks) {
	if len(s.texts) == 0 {
		return
	}
	heads, shift := s.heads, s.shift&31
	for from := 0; from <= len(text)-few; from += s.step {
		if n := heads[four(text[from:])>>shift]; n > 0 {
			s.mark(text, from, n, found)
		}
	}
}

// mark marks the texts that stand where four bytes of them may stand, from a part on.
func (s *Several) mark(text string, from int, n int32, found Marks) {
	for ; n > 0; n = s.parts[n-1].next {
		p := &s.parts[n-1]
		if t := &s.texts[p.text]; from >= int(p.at) && BeginsSmall(text[from-int(p.at):], t.Text) {
			found.Add(t.Mark)
		}
	}
}

// Small returns a text so that its letters are small: those of ASCII and, because their bytes differ in the same way, most others of
// Latin. Some other signs become others, too.
func Small(s string) string {
	small := []byte(s)
	for i := range small {
		small[i] |= 0x20
	}
	return string(small)
}

// BeginsSmall reports whether a text begins with one that [Small] has made, whatever the case of its own.
func BeginsSmall(text, small string) bool {
	if len(text) < len(small) {
		return false
	}
	for i := range len(small) {
		if text[i]|0x20 != small[i] {
			return false
		}
	}
	return true
}
