package mint

import (
	"errors"
	"math"
	"slices"
	"strconv"
	"strings"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/barcode"
	"zetanum/core/pattern"
)

// Errors of a code that is not issued.
var (
	// ErrTaken says that a draft has nothing open in it that could tell it from a code that is there.
	ErrTaken = errors.New("there is such a code already")
	// ErrExhausted says that all codes of a draft are there already.
	ErrExhausted = errors.New("all codes that the pattern can make are there already")
)

// An Issuer issues codes. No two of them are read alike, nor is one like those that are taken.
type Issuer struct {
	Shape
	taken   *set
	heads   map[uint64]uint64 // as of [Taken]: the highest number of each counter
	next    map[uint64]*series
	Gathers bool     // what is issued is gathered in Fresh
	Fresh   []uint64 // hashes of codes that were issued
	Issued  int
	Avoided int // codes that were passed over because they are taken

	pieces []pattern.Piece // of the draft, used again
	buf    []byte          // for the code
}

// series is how far a counter has come in a run.
type series struct {
	draft   pattern.Draft // the first
	most    uint64
	last    uint64
	wrapped bool // it has reached its end, and goes through what was left out
	full    bool
}

// NewIssuer returns one that issues none of what is taken; so many codes will be wanted.
func NewIssuer(taken *Taken, wanted int) *Issuer {
	i := &Issuer{Shape: taken.Shape, taken: newSet(len(taken.codes) + wanted), heads: taken.heads, next: make(map[uint64]*series)}
	for _, h := range taken.codes {
		i.taken.add(h)
	}
	return i
}

// mostTries is how many codes are drawn before it is said that there are no more.
const mostTries = 10_000

// Issue settles what is open in a draft. seed is of what tells the product apart: for the same
// one the same is drawn. The error is [ErrTaken], [ErrExhausted] or [ErrCheck].
func (i *Issuer) Issue(d pattern.Draft, seed uint64) (string, error) {
	pieces := i.pieces[:0]
	open, optional := false, false
	d.Pieces(func(p pattern.Piece) {
		pieces = append(pieces, p)
		telling := p.Kind != 0 && p.Kind < pattern.Check372
		optional = optional || p.Optional
		open = open || telling && !p.Optional
	})
	i.pieces = pieces
	if !open {
		code, err := i.write(pieces, false, 0, seed)
		if err != nil || i.claim(code) {
			return code, err
		}
		if !optional {
			return code, ErrTaken
		}
		open = true
	}
	head, counter, counts := i.counterOf(pieces)
	if counts {
		return i.count(d, pieces, head, counter, optional, seed)
	}
	for try := range uint64(mostTries) {
		code, err := i.write(pieces, optional, 0, draw(seed, try))
		if err != nil || i.claim(code) {
			return code, err
		}
	}
	return "", ErrExhausted
}

// count issues the next code of a counter.
func (i *Issuer) count(d pattern.Draft, pieces []pattern.Piece, head uint64, counter int, optional bool, seed uint64) (string, error) {
	s := i.next[head]
	if s == nil {
		s = &series{draft: d, last: i.heads[head], most: math.MaxUint64}
		if counter > 0 {
			s.most = barcode.Pow10(counter) - 1
		}
		if optional {
			s.last = max(s.last, 1) // the one without a number is the first
		}
		i.next[head] = s
	}
	for !s.full {
		if s.last >= s.most {
			if s.full = s.wrapped || i.Folding == AsItems; s.full { // an item that was left out may be on sale elsewhere
				break
			}
			s.last, s.wrapped = 0, true
		}
		s.last++
		code, err := i.write(pieces, optional, s.last, draw(seed, 0))
		if err != nil || i.claim(code) {
			return code, err
		}
	}
	return "", ErrExhausted
}

// Head returns a hash of what stands before the counter of a draft; counts is false if it has none, or only
// one in an optional part.
func (i *Issuer) Head(d pattern.Draft) (head uint64, counts bool) {
	var pieces []pattern.Piece
	d.Pieces(func(p pattern.Piece) { pieces = append(pieces, p) })
	head, _, counts = i.counterOf(pieces)
	return head, counts
}

// Raise says how far a counter has come elsewhere.
func (i *Issuer) Raise(head, last uint64) {
	i.heads[head] = max(i.heads[head], last)
	if s := i.next[head]; s != nil && !s.wrapped {
		s.last = max(s.last, last)
	}
}

// Reached returns how far counters have come.
func (i *Issuer) Reached(heads []uint64) map[uint64]uint64 {
	reached := make(map[uint64]uint64, len(heads))
	for _, head := range heads {
		reached[head] = i.heads[head]
		if s := i.next[head]; s != nil {
			if reached[head] = s.last; s.wrapped {
				reached[head] = s.most
			}
		}
	}
	return reached
}

// mostHeads is how many counters of a file are remembered at most that nothing is issued of.
const mostHeads = 1000

// Heads returns the counters that the file has, if they are not too many: codes of which are not always
// numbers have as many as there are codes.
func (i *Issuer) Heads() (heads []uint64) {
	if len(i.heads) <= mostHeads {
		for head := range i.heads {
			heads = append(heads, head)
		}
	}
	return heads
}

// Hash returns a hash of a code as it is compared.
func (i *Issuer) Hash(code string) uint64 { return HashOf(i.Folding, code) }

// Claim reports whether a code that was issued before is free here, and takes it.
func (i *Issuer) Claim(code string) bool {
	free := i.claim(code)
	if free {
		i.Issued--
	}
	return free
}

// claim reports whether a code is free, and takes it.
func (i *Issuer) claim(code string) bool {
	h := i.Hash(code)
	if !i.taken.add(h) {
		i.Avoided++
		return false
	}
	if i.Issued++; i.Gathers {
		i.Fresh = append(i.Fresh, h)
	}
	return true
}

// counterOf returns a hash of what stands before the counter of a draft, and how many characters the
// counter has.
func (i *Issuer) counterOf(pieces []pattern.Piece) (head uint64, counter int, counts bool) {
	var b strings.Builder
	for _, p := range pieces {
		switch p.Kind {
		case 0:
			b.WriteString(p.Text)
		case pattern.Counter:
			if i.Folding == AsItems {
				return i.Shape.headOf(b.String()), p.N, true
			}
			return hash(Fold(b.String())), p.N, true
		}
	}
	return 0, 0, false
}

// write writes a code with what is open in it.
func (i *Issuer) write(pieces []pattern.Piece, optional bool, n, seed uint64) (string, error) {
	b := i.buf[:0]
	defer func() { i.buf = b }()
	for at, p := range pieces {
		if p.Optional && !optional {
			continue
		}
		switch p.Kind {
		case 0:
			b = append(b, p.Text...)
		case pattern.Counter:
			var digits [20]byte
			number := strconv.AppendUint(digits[:0], n, 10)
			for range p.N - len(number) {
				b = append(b, '0')
			}
			b = append(b, number...)
		case pattern.RandomDigits, pattern.RandomLetters, pattern.AllDigits, pattern.AllLetters:
			from := drawnFrom[p.Kind]
			for k := range p.N {
				b = append(b, from[draw(seed, uint64(at<<8|k)+1<<32)%uint64(len(from))])
			}
		default:
			c, err := CheckCharacter(p.Kind, string(b))
			if err != nil {
				return "", err
			}
			b = append(b, c)
		}
	}
	return string(b), nil
}

// Letters and Digits are of what drawn characters are: no vowels, which could make words, and nothing
// that is mistaken for something else.
const (
	Letters = "BCDFGHJKMNPQRSTVWXZ"
	Digits  = "23456789"
)

var drawnFrom = map[pattern.OpenKind]string{pattern.RandomDigits: Digits, pattern.RandomLetters: Letters, pattern.AllDigits: "0123456789",
	pattern.AllLetters: "ABCDEFGHIJKLMNOPQRSTUVWXYZ"}

// draw returns a number that looks drawn, the same for the same.
func draw(seed, n uint64) uint64 {
	var b [16]byte
	for k := range 8 {
		b[k], b[8+k] = byte(seed>>(8*k)), byte(n>>(8*k))
	}
	return xxhash.Sum64(b[:])
}

// A Use says how much of what a draft can be is used.
type Use struct {
	Draft      pattern.Draft
	Used, Most uint64
}

// Used returns for each text before a counter how far it has come, where the counter has an end.
func (i *Issuer) Used() (uses []Use) {
	for _, s := range i.next {
		if s.most != math.MaxUint64 {
			used := s.last
			if s.wrapped {
				used = s.most
			}
			uses = append(uses, Use{s.draft, used, s.most})
		}
	}
	slices.SortFunc(uses, func(a, b Use) int { return strings.Compare(string(a.Draft), string(b.Draft)) })
	return uses
}

// Provisional writes a draft as a code that stands for the one to come: one of its kind, a number for
// what is open.
func Provisional(d pattern.Draft, n uint64) string {
	var i Issuer
	var pieces []pattern.Piece
	d.Pieces(func(p pattern.Piece) {
		if p.Kind < pattern.Check372 {
			pieces = append(pieces, p)
		} else {
			pieces = append(pieces, pattern.Piece{Text: "0", Optional: p.Optional})
		}
		if p.Kind == pattern.Counter && p.N > 0 {
			n %= barcode.Pow10(p.N)
		}
	})
	code, _ := i.write(pieces, false, n, n)
	return code
}

// Shown writes a draft for people, with # for each character that is open.
func Shown(d pattern.Draft) string {
	var b strings.Builder
	d.Pieces(func(p pattern.Piece) {
		if b.WriteString(p.Text); p.Kind != 0 {
			b.WriteString(strings.Repeat("#", max(1, p.N)))
		}
	})
	return b.String()
}

// Capacity returns how many codes a draft can make, all that there are together; at most
// [math.MaxUint64].
func Capacity(d pattern.Draft) uint64 {
	all, more := uint64(1), uint64(1)
	some := false
	d.Pieces(func(p pattern.Piece) {
		n := uint64(1)
		switch p.Kind {
		case pattern.Counter:
			if n = math.MaxUint64; p.N > 0 {
				n = barcode.Pow10(p.N) - 1
			}
		case pattern.RandomDigits, pattern.RandomLetters, pattern.AllDigits:
			n = power(uint64(len(drawnFrom[p.Kind])), p.N)
		case pattern.AllLetters: // I and L are read as one
			n = power(uint64(len(drawnFrom[p.Kind])-1), p.N)
		}
		if p.Optional {
			more, some = times(more, n), true
		} else {
			all = times(all, n)
		}
	})
	if !some {
		return all
	}
	if more = times(all, more); more > math.MaxUint64-all {
		return math.MaxUint64
	}
	return all + more
}

func power(of uint64, n int) uint64 {
	p := uint64(1)
	for range n {
		p = times(p, of)
	}
	return p
}

func times(a, b uint64) uint64 {
	if a > 0 && b > math.MaxUint64/a {
		return math.MaxUint64
	}
	return a * b
}
