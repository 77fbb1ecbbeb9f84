// Package language says how well words fit the languages that goods are described in,
// by the letters that stand side by side in them. It knows no words: what it knows are
// shares of letters, of pairs of them and of three in a row, counted by cmd/letters.
package language

import (
	"bytes"
	"compress/gzip"
	_ "embed"
	"io"
	"math"
	"slices"
	"strconv"
	"strings"
	"sync"
	"unicode"
)

//go:embed letters.txt.gz
var packed []byte

// How probable things are that no table has.
const (
	anyLetter   = 3e-6 // a letter of its script that a language does not have
	otherScript = 1e-9 // a letter of another one, within a word
	// How many letters must have been counted behind one, or behind two, for what was
	// counted to weigh as much as what the shorter rows say.
	trustPairs, trustThrees = 25, 12
)

// A Model is what is known of all the languages.
type Model struct {
	Codes   []string // the languages of alphabets, as ISO 639-1 has them
	Wide    []map[rune]float64
	scripts []*script
}

// A script has the languages that are written in one, side by side in every row of its
// tables: what a letter says, it says of all of them at once.
type script struct {
	from, to     int // the languages among the codes
	id           int // see [ScriptOf]
	ones         map[rune]int32
	one, behind  []float32 // by letter: how frequent it is; what another loses behind it that has not been seen there
	pairs        map[uint64]int32
	pair, back   []float32 // by pair: how probable the second is; what a third loses that has not been seen there
	threes       map[uint64]int32
	three        []threeOf
	none, others []float32
}

// threeOf is how probable a letter is behind two others in a language; next is the place
// of that of the next language, 0 if there is none.
type threeOf struct {
	language int32
	p        float32
	next     int32
}

const edge = '^'

// key packs letters that stand side by side.
func key(before, last, r rune) uint64 { return uint64(before)<<42 | uint64(last)<<21 | uint64(r) }

// Load returns the model; it is read once.
var Load = sync.OnceValue(func() *Model {
	in, err := gzip.NewReader(bytes.NewReader(packed))
	if err != nil {
		panic(err)
	}
	data, err := io.ReadAll(in)
	if err != nil {
		panic(err)
	}
	return parse(string(data))
})

// A counted is what the file has of a language.
type counted struct {
	total float64   // letters that were counted
	rows  [3][]gram // single letters, pairs, and three in a row
}

// A gram is some letters in a row, with their share.
type gram struct {
	key   uint64
	share float64
}

// first is the key without its last letter, and last that letter.
func (g gram) first() uint64 { return g.key >> 21 }
func (g gram) last() rune    { return rune(g.key & (1<<21 - 1)) }

// parse reads the tables, which come in the order of the scripts.
func parse(data string) *Model {
	m := &Model{}
	var tables []*counted
	for line := range strings.Lines(data) {
		code, rest, _ := strings.Cut(line, " ")
		kind, rest, _ := strings.Cut(rest, " ")
		total, rest, _ := strings.Cut(rest, " ")
		switch {
		case code == "#":
		case kind == "wide":
			shares := make(map[rune]float64)
			for _, g := range grams(rest) {
				shares[g.last()] = g.share
			}
			m.Wide = append(m.Wide, shares)
		default:
			if kind == "1" {
				n, _ := strconv.ParseFloat(total, 64)
				m.Codes = append(m.Codes, code)
				tables = append(tables, &counted{total: n})
			}
			tables[len(tables)-1].rows[kind[0]-'1'] = grams(rest)
		}
	}
	for from := 0; from < len(tables); {
		to := from + 1
		for to < len(tables) && tables[to].script() == tables[from].script() {
			to++
		}
		m.scripts = append(m.scripts, newScript(from, tables[from:to]))
		from = to
	}
	return m
}

// grams reads letters with their parts of a million, such as “ab12 cd7”.
func grams(s string) []gram {
	list := make([]gram, 0, strings.Count(s, " ")+1)
	k, n := uint64(0), 0
	for _, r := range s {
		switch {
		case r >= '0' && r <= '9':
			n = n*10 + int(r-'0')
		case r > ' ':
			k = k<<21 | uint64(r)
		default:
			list = append(list, gram{k, float64(n) / 1_000_000})
			k, n = 0, 0
		}
	}
	return list
}

// script tells the languages of different scripts apart, by the script of the letter
// that is the most frequent.
func (c *counted) script() (s int) {
	best := 0.0
	for _, g := range c.rows[0] {
		if g.key != edge && g.share > best {
			best, s = g.share, ScriptOf(g.last())
		}
	}
	return s
}

// newScript makes the tables of the languages of a script, from that place of the codes
// on.
func newScript(from int, tables []*counted) *script {
	n := len(tables)
	s := &script{from: from, to: from + n, id: tables[0].script(), ones: make(map[rune]int32), pairs: make(map[uint64]int32, 4096),
		threes: make(map[uint64]int32, 4096*n), three: make([]threeOf, 1, 4096*n)}
	for _, c := range tables {
		for _, g := range c.rows[0] {
			if _, there := s.ones[g.last()]; !there {
				s.ones[g.last()] = int32(len(s.ones))
			}
		}
		for _, g := range c.rows[1] {
			if _, there := s.pairs[g.key]; !there {
				s.pairs[g.key] = int32(len(s.pairs))
			}
		}
	}
	constant := func(p float64) []float32 { return slices.Repeat([]float32{float32(math.Log(p))}, n) }
	s.none, s.others = constant(anyLetter), constant(otherScript)
	s.one, s.behind = slices.Repeat(s.none, len(s.ones)), make([]float32, n*len(s.ones))
	s.pair, s.back = make([]float32, n*len(s.pairs)), make([]float32, n*len(s.pairs))
	for i, c := range slices.Backward(tables) {
		s.fill(i, c)
	}
	return s
}

// fill enters what is known of a language: how probable each letter is, behind each other
// one and behind each pair, where what was counted often is trusted and the rest follows
// from what is known of fewer letters in a row.
func (s *script) fill(i int, c *counted) {
	n := s.to - s.from
	for _, g := range c.rows[0] {
		s.one[int(s.ones[g.last()])*n+i] = float32(math.Log(max(g.share, anyLetter)))
	}
	behind := make(map[uint64]float64) // by letter and by pair: the share of it with a letter behind it
	for _, g := range c.rows[1] {
		behind[g.first()] += g.share
	}
	shares := make([]float64, len(s.pairs))
	for _, g := range c.rows[1] {
		shares[s.pairs[g.key]] = g.share
	}
	trust, trustThree := trustPairs/c.total, trustThrees/c.total
	for r, row := range s.ones {
		s.behind[int(row)*n+i] = float32(math.Log(trust / (behind[uint64(r)] + trust)))
	}
	for k, row := range s.pairs {
		g := gram{key: k}
		one := math.Exp(float64(s.letter(g.last())[i]))
		s.pair[int(row)*n+i] = float32(math.Log((shares[row] + trust*one) / (behind[g.first()] + trust)))
	}
	clear(behind)
	for _, g := range c.rows[2] {
		behind[g.first()] += g.share
	}
	for k, row := range s.pairs {
		s.back[int(row)*n+i] = float32(math.Log(trustThree / (behind[k] + trustThree)))
	}
	for _, g := range c.rows[2] {
		p := 0.0
		if row, there := s.pairs[g.key&(1<<42-1)]; there {
			p = math.Exp(float64(s.pair[int(row)*n+i]))
		}
		p = (g.share + trustThree*p) / (behind[g.first()] + trustThree)
		s.three = append(s.three, threeOf{int32(i), float32(math.Log(p)), s.threes[g.key]})
		s.threes[g.key] = int32(len(s.three) - 1)
	}
}

// letter returns how frequent a letter is.
func (s *script) letter(r rune) []float32 {
	n := s.to - s.from
	row, there := s.ones[r]
	switch {
	case there:
		return s.one[int(row)*n:][:n]
	case ScriptOf(r) != s.id:
		return s.others
	}
	return s.none
}

// Word adds to sums, one for each language, the logarithm of how probable a word is in
// it; the word consists of letters, whose case does not count.
func (m *Model) Word(word string, sums []float64) {
	var in uint // the scripts of its letters, one a bit
	letters := 0
	for _, r := range word {
		in |= 1 << ScriptOf(r)
		letters++
	}
	for _, s := range m.scripts {
		out := sums[s.from:s.to]
		if in&(1<<s.id) == 0 {
			none := float64(letters+1) * float64(s.others[0])
			for i := range out {
				out[i] += none
			}
			continue
		}
		before, last := rune(0), rune(edge)
		for _, r := range word {
			r = unicode.ToLower(r)
			s.add(before, last, r, out)
			before, last = last, r
		}
		s.add(before, last, edge, out)
	}
}

// add adds how probable a letter is behind others; before is 0 at the beginning of a
// word.
func (s *script) add(before, last, r rune, out []float64) {
	n := len(out)
	row, there := s.pairs[key(0, last, r)]
	if !there {
		for i, p := range s.letter(r) {
			out[i] += float64(p)
		}
		if row, there = s.ones[last]; there {
			for i, p := range s.behind[int(row)*n:][:n] {
				out[i] += float64(p)
			}
		}
		return
	}
	pair := s.pair[int(row)*n:][:n]
	if row, there = s.pairs[key(0, before, last)]; !there {
		for i, p := range pair {
			out[i] += float64(p)
		}
		return
	}
	next := s.threes[key(before, last, r)]
	for i, p := range s.back[int(row)*n:][:n] {
		if three := s.three[next]; next > 0 && int(three.language) == i {
			out[i] += float64(three.p)
			next = three.next
			continue
		}
		out[i] += float64(p) + float64(pair[i])
	}
}

// ScriptOf tells the scripts of letters apart that do not stand in one word.
func ScriptOf(r rune) int {
	switch {
	case unicode.Is(unicode.Mn, r) && r < 0x370:
		return 0
	case r < 0x370 || r >= 0x1e00 && r < 0x1f00:
		return 0
	case r < 0x400:
		return 1
	case r < 0x530:
		return 2
	case r < 0x600:
		return 3
	case r < 0x900:
		return 4
	case r >= 0xe00 && r < 0xe80:
		return 5
	}
	return 6
}
