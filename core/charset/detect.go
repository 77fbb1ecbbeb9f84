package charset

import (
	_ "embed"
	"encoding/binary"
	"math"
	"slices"
	"strconv"
	"strings"
	"sync"
	"unicode"
	"unicode/utf8"
)

// A Table counts the pairs of neighbouring bytes of a file of which at least one is
// no ASCII. What such bytes mean, as far as it can be known, follows from it; tables
// of stretches are merged in any way with the same result.
type Table struct {
	pairs [1 << 16]uint32 // by first and second byte
	Bytes int             // that are no ASCII
	last  byte

	// Sequences that are UTF-8, and bytes that are not.
	good, bad int
	want      int // bytes that the present sequence still needs
}

const highs = 0x8080808080808080

// Add counts the bytes that follow.
func (t *Table) Add(data []byte) {
	last := t.last
	for i := 0; i < len(data); {
		if last < utf8.RuneSelf && i+8 <= len(data) && binary.LittleEndian.Uint64(data[i:])&highs == 0 {
			i += 8
			last = data[i-1]
			continue
		}
		b := data[i]
		switch {
		case t.want > 0 && b&0xc0 == 0x80:
			if t.want--; t.want == 0 {
				t.good++
			}
		case b < utf8.RuneSelf:
			if t.want > 0 {
				t.bad++
			}
			t.want = 0
		case b >= 0xc2 && b < 0xe0:
			t.want = 1
		case b >= 0xe0 && b < 0xf0:
			t.want = 2
		case b >= 0xf0 && b < 0xf5:
			t.want = 3
		default:
			t.bad++
			t.want = 0
		}
		if b >= utf8.RuneSelf || last >= utf8.RuneSelf {
			t.pairs[uint(last)<<8|uint(b)]++
			if b >= utf8.RuneSelf {
				t.Bytes++
			}
		}
		last = b
		i++
	}
	t.last = last
}

// Merge adds the counts of a stretch that follows. The pair across the border is
// not counted.
func (t *Table) Merge(o *Table) {
	for i, n := range o.pairs {
		t.pairs[i] += n
	}
	t.Bytes += o.Bytes
	t.good += o.good
	t.bad += o.bad
	t.last = o.last
}

// A Guess is what a table says of the encoding.
type Guess struct {
	Charset Charset
	Second  Charset // the next best of those that read something else
	// Margin is by how much the first one is better, as the natural logarithm of a
	// ratio of probabilities; below [Thin] it is open which of the two is right.
	Margin float64
}

// Thin is the margin below which the evidence is thin.
const Thin = 4

// Guess returns the encoding of a single byte a character in which the text makes
// best sense.
func (t *Table) Guess() Guess {
	languages := load()
	best := Guess{Charset: Windows1252, Second: Windows1252, Margin: math.Inf(1)}
	if t.Bytes == 0 {
		return best
	}
	pairs := t.list()
	scores := make([]float64, numCharsets)
	for c := Windows1252; c < numCharsets; c++ {
		if singles[c] == nil {
			scores[c] = math.Inf(-1)
			continue
		}
		scores[c] = score(pairs, singles[c], languages) + singles[c].prior
		if c == Windows1252 || scores[c] > scores[best.Charset] {
			best.Charset = c
		}
	}
	second := math.Inf(-1)
	for c := Windows1252; c < numCharsets; c++ {
		if c != best.Charset && singles[c] != nil && scores[c] > second && differ(pairs, best.Charset, c) {
			second, best.Second = scores[c], c
		}
	}
	best.Margin = scores[best.Charset] - second
	return best
}

// MostlyUTF8 reports whether most of what is no ASCII is UTF-8, so that the rest will
// have been pasted in from elsewhere.
func (t *Table) MostlyUTF8() bool { return t.good >= 3 && t.good >= 2*t.bad }

// A pair is one of two bytes, with how often it occurs.
type pair struct {
	first, second byte
	count         float64
}

// list returns the pairs that occur.
func (t *Table) list() (pairs []pair) {
	for i, n := range t.pairs {
		if n > 0 {
			pairs = append(pairs, pair{byte(i >> 8), byte(i), float64(n)})
		}
	}
	return pairs
}

// differ reports whether two encodings read a byte of some pairs as different
// characters.
func differ(pairs []pair, a, b Charset) bool {
	return slices.ContainsFunc(pairs, func(p pair) bool {
		return p.second >= utf8.RuneSelf && singles[a].runes[p.second-0x80] != singles[b].runes[p.second-0x80]
	})
}

// A model is how frequent letters and pairs of letters are in a language, as
// logarithms.
type model struct {
	letters map[rune]float64
	pairs   map[[2]rune]float64
	share   float64 // of letters among what is no ASCII; the rest are signs
	known   float64 // how much the pairs say, beside the letters; more the more were counted
}

//go:embed letters.txt
var lettersFile string

// load reads the models of all languages.
var load = sync.OnceValue(func() (models []*model) {
	var m *model
	var west []*model
	for line := range strings.Lines(lettersFile) {
		words := strings.Fields(line)
		if len(words) < 2 || words[0] == "#" || words[1] == "wide" {
			continue
		}
		pairs := words[1] == "pairs"
		if !pairs {
			counted, _ := strconv.ParseFloat(words[2], 64)
			words = words[1:]
			m = &model{make(map[rune]float64), make(map[[2]rune]float64), shareLetter, 0.7 * counted / (counted + 1500)}
			models = append(models, m)
			if strings.Contains(western, line[:3]) {
				west = append(west, m)
			}
		}
		for _, w := range words[2:] {
			at := strings.IndexFunc(w, unicode.IsDigit)
			n, _ := strconv.Atoi(w[at:])
			if runes := []rune(w[:at]); pairs && len(runes) == 2 {
				m.pairs[[2]rune{runes[0], runes[1]}] = float64(n) / 100_000
			} else if !pairs {
				m.letters[runes[0]] = float64(n) / 100_000
			}
		}
	}
	english := pool(west)
	english.share = 0.2
	models = append(models, pool(west), english)
	for _, m := range models {
		m.condition()
	}
	return models
})

// western are the languages of which some together make a model of their own: for
// texts in several of them, and for those of which few letters could be counted.
const western = "de fr es pt it nl sv da nb fi ca gl "

// pool returns a model of several languages.
func pool(list []*model) *model {
	p := &model{make(map[rune]float64), make(map[[2]rune]float64), shareLetter, 0.5}
	for _, m := range list {
		for r, share := range m.letters {
			p.letters[r] += share / float64(len(list))
		}
		for pair, share := range m.pairs {
			p.pairs[pair] += share / float64(len(list))
		}
	}
	return p
}

// condition makes of the shares of pairs how probable the second letter is behind
// the first.
func (m *model) condition() {
	behind := make(map[rune]float64)
	for pair, share := range m.pairs {
		behind[pair[0]] += share
	}
	for pair, share := range m.pairs {
		m.pairs[pair] = share / behind[pair[0]]
	}
}

// How probable things are that no table of letters says.
const (
	anyLetter   = 3e-5  // a letter that a language does not have
	nothing     = 1e-10 // a byte without a character, or a control character
	shareLetter = 0.75  // of what is no ASCII, in most languages; in English less
)

// symbols are the signs of texts about goods, with how frequent they are among the
// signs; others are rare.
var symbols = func() map[rune]float64 {
	m := make(map[rune]float64)
	for share, list := range map[float64]string{0.08: "’–", 0.05: "“”\u00a0°€£", 0.03: "®™©½×—„‘…", 0.012: "¼¾•·«»²³§±µ¿¡",
		0.004: "¢¥†‡ªº‚¹÷‰¶¨´`¸¦¬º¤"} {
		for _, r := range list {
			m[r] = share
		}
	}
	return m
}()

// rareSymbol is the share of a sign that is in none of the lists, and of one that
// draws tables.
const (
	rareSymbol = 0.0005
	boxSymbol  = 0.00001
)

// score returns how well the text of some pairs, read in an encoding, fits the
// language that it fits best, as the logarithm of a probability.
func score(pairs []pair, s *single, languages []*model) float64 {
	sums := make([]float64, len(languages))
	fixed := 0.0
	for _, p := range pairs {
		n := p.count
		if n > 200 { // what is frequent says no more than that
			n = 200 + math.Sqrt(n-200)
		}
		a, b := s.rune(p.first), s.rune(p.second)
		if p.second >= utf8.RuneSelf {
			if letter(b) {
				low := unicode.ToLower(b)
				before := '^'
				if letter(a) {
					before = unicode.ToLower(a)
				}
				for l, m := range languages {
					sums[l] += n * m.log(low, [2]rune{before, low})
				}
			} else {
				share := symbol(b)
				for l, m := range languages {
					sums[l] += n * math.Log((1-m.share)*share)
				}
			}
			fixed += n * beside(a, b)
		}
		if p.first >= utf8.RuneSelf {
			if letter(a) && b < utf8.RuneSelf {
				pair, usual := [2]rune{unicode.ToLower(a), '^'}, 1./6
				if letter(b) {
					pair[1], usual = unicode.ToLower(b), 1./27
				}
				for l, m := range languages {
					sums[l] += n * math.Log(m.known*m.pairs[pair]/usual+1-m.known)
				}
			}
			if b < utf8.RuneSelf {
				fixed += n * beside(a, b)
			}
		}
	}
	best := math.Inf(-1)
	for _, sum := range sums {
		best = math.Max(best, sum)
	}
	return best + fixed
}

func letter(r rune) bool {
	return r != 0 && (unicode.IsLetter(r) || unicode.Is(unicode.Mn, r)) && r != 'ª' && r != 'º'
}

// log returns how probable a letter is in a language, beside another.
func (m *model) log(r rune, pair [2]rune) float64 {
	return math.Log(m.share * (m.known*m.pairs[pair] + (1-m.known)*math.Max(m.letters[r], anyLetter)))
}

// symbol returns the share of a sign among the signs.
func symbol(r rune) float64 {
	p := symbols[r]
	switch {
	case r < 0xa0:
		return nothing
	case p > 0:
		return p
	case r >= 0x2500 && r < 0x25a0:
		return boxSymbol
	}
	return rareSymbol
}

// beside returns what speaks against two characters side by side, as the logarithm
// of a ratio.
func beside(a, b rune) float64 {
	switch {
	case a == 0 || b == 0:
		return 0
	case letter(a) && letter(b):
		switch {
		case unicode.IsLower(a) && unicode.IsUpper(b):
			return -4
		case scriptOf(a) != scriptOf(b):
			return -6
		case unicode.IsUpper(a) && a >= utf8.RuneSelf && unicode.IsUpper(b) && b < utf8.RuneSelf:
			return 1.5
		case unicode.IsUpper(b) && b >= utf8.RuneSelf && unicode.IsUpper(a) && a < utf8.RuneSelf:
			return -0.5
		}
	case letter(a) && unicode.IsDigit(b) && a >= utf8.RuneSelf, letter(b) && unicode.IsDigit(a) && b >= utf8.RuneSelf:
		return -2
	case letter(a) && b >= utf8.RuneSelf && !strings.ContainsRune("’®™°©”»\u00a0²³‘ªº", b):
		return -2.5
	case letter(b) && a >= utf8.RuneSelf && !strings.ContainsRune("’“„«‘‚¿¡£€\u00a0•”µ", a):
		return -2.5
	case unicode.IsDigit(a) && strings.ContainsRune("°€£½¼¾×²³–\u00a0ªº", b), unicode.IsDigit(b) && strings.ContainsRune("€£×–±\u00a0", a):
		return 1
	case letter(b) && b >= utf8.RuneSelf && unicode.IsUpper(b):
		return -1.5
	}
	return 0
}

// scriptOf tells the scripts of letters apart that do not stand in one word.
func scriptOf(r rune) int {
	switch {
	case unicode.Is(unicode.Mn, r):
		return 0
	case r < 0x370 || r >= 0x1e00 && r < 0x1f00:
		return 0
	case r < 0x400:
		return 1
	case r < 0x530:
		return 2
	case r < 0x600:
		return 3
	}
	return 4
}
