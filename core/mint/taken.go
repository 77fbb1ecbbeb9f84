package mint

import (
	"encoding/binary"
	"slices"
	"unicode/utf8"

	"zetanum/core/pattern"
)

// A Shape is where in codes of a pattern the counter stands.
type Shape struct {
	Folding
	counter int // its characters, 0 for any number of them, -1 if there is none
	tail    int // characters behind it, -1 if that differs
}

// ShapeOf returns the shape of the codes of a pattern.
func ShapeOf(p *pattern.Pattern, f Folding) Shape {
	s := Shape{Folding: f, counter: -1}
	if !p.Counts() {
		return s
	}
	if s.counter, s.tail = p.CounterPlace(); f == AsItems {
		s.tail = 0 // the check digit is taken off
	}
	return s
}

// SeriesShape is the shape of codes of any series: every run of digits may be a counter.
func SeriesShape(f Folding) Shape { return Shape{Folding: f, tail: -1} }

// Taken are codes that may not be issued, and the highest number that each counter has reached. It
// is an ordered monoid.
type Taken struct {
	Shape
	codes []uint64          // hashes
	heads map[uint64]uint64 // by hashes of the text before a counter
}

// NewTaken begins with no codes.
func NewTaken(s Shape) *Taken { return &Taken{Shape: s, heads: make(map[uint64]uint64)} }

// Add takes a code down, whatever pattern it is of.
func (t *Taken) Add(code string) {
	folded := t.of(code)
	if folded == "" {
		return
	}
	t.codes = append(t.codes, hash(folded))
	t.head(folded, code)
}

// AddHashes takes codes down of which only the hashes are known, as an [Issuer] gathers them.
func (t *Taken) AddHashes(codes []uint64) { t.codes = append(t.codes, codes...) }

// head takes down how far the counter has come of which a code may be.
func (t *Taken) head(folded, code string) {
	if t.counter < 0 {
		return
	}
	if t.Folding == AsItems {
		code = folded // digits all
	}
	if t.tail >= 0 {
		end := len(code)
		for range t.tail {
			if end == 0 {
				return
			}
			_, size := utf8.DecodeLastRuneInString(code[:end])
			end -= size
		}
		t.number(folded, code, end)
		return
	}
	for end := 1; end <= len(code); end++ { // every run of digits may be one
		if isDigit(code[end-1]) && (end == len(code) || !isDigit(code[end])) {
			t.number(folded, code, end)
		}
	}
}

func isDigit(c byte) bool { return c >= '0' && c <= '9' }

// number takes down the number that ends at a byte of a code.
func (t *Taken) number(folded, code string, end int) {
	from := end
	for from > 0 && isDigit(code[from-1]) && (t.counter == 0 || end-from < t.counter) && end-from < 18 {
		from--
	}
	if from == end || t.counter > 0 && end-from != t.counter {
		return
	}
	var n uint64
	for _, c := range []byte(code[from:end]) {
		n = 10*n + uint64(c-'0')
	}
	before := utf8.RuneCountInString(code[:from])
	at := 0
	for range before {
		_, size := utf8.DecodeRuneInString(folded[at:])
		at += size
	}
	h := hash(folded[:at])
	t.heads[h] = max(t.heads[h], n)
}

// Below says that the items of a prefix that are below a number are taken.
func (t *Taken) Below(prefix string, item uint64) {
	head := t.headOf(prefix)
	t.heads[head] = max(t.heads[head], item-1)
}

// Prefix returns a hash of what stands before the items of a prefix.
func (t *Taken) Prefix(prefix string) uint64 { return t.headOf(prefix) }

// Knows reports whether there is a barcode of a prefix.
func (t *Taken) Knows(prefix string) bool {
	_, there := t.heads[t.headOf(prefix)]
	return there
}

// headOf returns a hash of what stands before the item, as in twelve digits without the check digit,
// or in the seven of the short ones.
func (s *Shape) headOf(prefix string) uint64 {
	if len(prefix)+s.counter != 7 {
		prefix = "0" + prefix
		prefix = prefix[max(0, len(prefix)-(12-s.counter)):]
	}
	return hash(prefix)
}

// Merge adds what follows.
func (t *Taken) Merge(next *Taken) {
	t.codes = append(t.codes, next.codes...)
	for h, n := range next.heads {
		t.heads[h] = max(t.heads[h], n)
	}
}

// AppendBinary appends what is taken.
func (t *Taken) AppendBinary(b []byte) ([]byte, error) {
	codes := slices.Clone(t.codes)
	slices.Sort(codes)
	for _, c := range codes {
		b = binary.BigEndian.AppendUint64(b, c)
	}
	heads := make([]uint64, 0, len(t.heads))
	for h := range t.heads {
		heads = append(heads, h)
	}
	slices.Sort(heads)
	for _, h := range heads {
		b = binary.BigEndian.AppendUint64(binary.BigEndian.AppendUint64(b, h), t.heads[h])
	}
	return b, nil
}
