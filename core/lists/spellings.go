package lists

import (
	"cmp"
	"encoding/binary"
	"maps"
	"slices"
	"strings"
	"sync"
	"unicode"
	"unicode/utf8"

	"github.com/cespare/xxhash/v2"
)

// Spellings counts how the values of a column are written. It is merged in any
// way with the same result, and remembers at most as many values as [Spellings.Most]
// says: those whose hashes come first.
type Spellings struct {
	By *SpeltBy // nil: values are compared by [SpellingKey]

	groups map[string]*spelt // by what the spellings of one value have in common
	quick  map[string]*int   // by spelling
	cut    uint64            // no hash beyond it is remembered; 0: any
	over   bool
}

// SpeltBy says how the spellings of a column are compared.
type SpeltBy struct {
	Key    func(string) string // what the spellings of one value have in common
	Behind func(string) string // a value that another may stand for if it is known, too; may be nil
	First  []string            // spellings that are right, however many rows have others
	keys   map[string]string   // of First
	once   sync.Once
}

// first returns the spelling that is right whatever most rows have, "" if none is known.
func (b *SpeltBy) first(key string) string {
	if b == nil {
		return ""
	}
	b.once.Do(func() {
		b.keys = make(map[string]string)
		for _, v := range b.First {
			enter(b.keys, b.Key(v), v)
		}
	})
	return b.keys[key]
}

func (s *Spellings) key(value string) string {
	if s.By != nil {
		return s.By.Key(value)
	}
	return SpellingKey(value)
}

type spelt struct {
	hash   uint64
	counts map[string]*int
}

// Most is how many different values, and how many spellings of one, are
// remembered.
const (
	Most          = 10_000
	mostSpellings = 50
)

// Add counts a value, without spaces at its ends.
func (s *Spellings) Add(value string) { s.add(value, 1) }

func (s *Spellings) add(value string, n int) {
	if count, ok := s.quick[value]; ok {
		*count += n
		return
	}
	key := s.key(value)
	if key == "" {
		return
	}
	g := s.groups[key]
	if g == nil {
		hash := xxhash.Sum64String(key)
		if s.cut != 0 && hash > s.cut {
			return
		}
		if s.groups == nil {
			s.groups, s.quick = make(map[string]*spelt), make(map[string]*int)
		}
		g = &spelt{hash: hash, counts: make(map[string]*int)}
		s.groups[key] = g
		if len(s.groups) > 2*Most {
			s.prune()
			if s.groups[key] == nil {
				return
			}
		}
	}
	value = strings.Clone(value)
	count := new(int)
	*count = n
	g.counts[value] = count
	s.quick[value] = count
	if len(g.counts) > 2*mostSpellings {
		s.pruneSpellings(g)
	}
}

// prune forgets the values beyond the first ones.
func (s *Spellings) prune() {
	for _, g := range s.groups {
		s.pruneSpellings(g)
	}
	if len(s.groups) <= Most {
		return
	}
	s.over = true
	keys := slices.SortedFunc(maps.Keys(s.groups), func(a, b string) int {
		return cmp.Or(cmp.Compare(s.groups[a].hash, s.groups[b].hash), strings.Compare(a, b))
	})
	s.cut = s.groups[keys[Most-1]].hash
	for _, key := range keys[Most:] {
		for v := range s.groups[key].counts {
			delete(s.quick, v)
		}
		delete(s.groups, key)
	}
}

func (s *Spellings) pruneSpellings(g *spelt) {
	if len(g.counts) <= mostSpellings {
		return
	}
	values := slices.SortedFunc(maps.Keys(g.counts), func(a, b string) int {
		return cmp.Or(cmp.Compare(xxhash.Sum64String(a), xxhash.Sum64String(b)), strings.Compare(a, b))
	})
	for _, v := range values[mostSpellings:] {
		delete(s.quick, v)
		delete(g.counts, v)
	}
}

// Merge adds the counts of another stretch.
func (s *Spellings) Merge(o *Spellings) {
	s.over = s.over || o.over
	if o.cut != 0 && (s.cut == 0 || o.cut < s.cut) {
		s.cut = o.cut
		for key, g := range s.groups {
			if g.hash > s.cut {
				for v := range g.counts {
					delete(s.quick, v)
				}
				delete(s.groups, key)
			}
		}
	}
	for _, g := range o.groups {
		for v, n := range g.counts {
			s.add(v, *n)
		}
	}
	s.prune()
}

// AppendBinary writes the counts.
func (s *Spellings) AppendBinary(b []byte) ([]byte, error) {
	s.prune()
	for _, key := range slices.Sorted(maps.Keys(s.groups)) {
		for _, v := range slices.Sorted(maps.Keys(s.groups[key].counts)) {
			b = binary.AppendUvarint(b, uint64(len(v)))
			b = append(b, v...)
			b = binary.AppendUvarint(b, uint64(*s.groups[key].counts[v]))
		}
	}
	return b, nil
}

// A Spelling says what is better than a spelling, or as good.
type Spelling struct {
	Better string // that most rows have; "" if two are written as often
	Other  string // another spelling of the value
	Rows   int    // that have the better one, or the other
	Slip   bool   // Better is another value, of which this one is a likely slip
	Sure   bool   // Better is right, however many rows have it
}

// rare is how many times more often a value must occur than a likely slip of it.
const rare = 20

// mostCompared is how many values of a column are compared for slips.
const mostCompared = 400

// Judge returns, by spelling, what is to be said of those that are not the only
// ones of their value. It is nil if there were too many values to compare.
func (s *Spellings) Judge() map[string]Spelling {
	s.prune()
	if s.over {
		return nil
	}
	judged := make(map[string]Spelling)
	type value struct {
		text string
		rows int
	}
	var values []value
	for _, key := range slices.Sorted(maps.Keys(s.groups)) {
		counts := countsOf(s.groups[key])
		list := mostFirst(counts)
		rows := 0
		for _, n := range counts {
			rows += n
		}
		values = append(values, value{list[0], rows})
		right, sure := s.standsFor(key, list), true
		if right == "" && (len(list) < 2 || counts[list[0]] > counts[list[1]]) {
			right, sure, rows = list[0], false, counts[list[0]]
		}
		for _, v := range list {
			switch {
			case v == right:
			case right != "":
				judged[v] = Spelling{Better: right, Rows: rows, Sure: sure}
			case v == list[0]:
				judged[v] = Spelling{Other: list[1], Rows: counts[list[1]]}
			default:
				judged[v] = Spelling{Other: list[0], Rows: counts[list[0]]}
			}
		}
	}
	if len(values) > mostCompared {
		return judged
	}
	for _, v := range values {
		if v.rows > 2 {
			continue
		}
		var often []string
		for _, w := range values {
			if w.rows >= rare*v.rows {
				often = append(often, w.text)
			}
		}
		better := Slip(v.text, often)
		if better == "" {
			continue
		}
		for spelling := range s.groups[s.key(v.text)].counts {
			judged[spelling] = Spelling{Better: better, Slip: true}
		}
	}
	return judged
}

// standsFor returns what all spellings of a group are to be, whatever most of them are, "" if nothing says so: one that is right
// anyway, or another value that stands behind them.
func (s *Spellings) standsFor(key string, list []string) string {
	if s.By == nil {
		return ""
	}
	if right := s.By.first(key); right != "" {
		return right
	}
	if s.By.Behind == nil {
		return ""
	}
	behind := s.By.Behind(list[0])
	other := s.key(behind)
	if behind == "" || other == key {
		return ""
	}
	if right := s.By.first(other); right != "" {
		return right
	}
	if g := s.groups[other]; g != nil {
		counts := countsOf(g)
		if all := mostFirst(counts); len(all) < 2 || counts[all[0]] != counts[all[1]] {
			return all[0]
		}
	}
	return ""
}

// Values returns the spellings that have been counted, each with the one that most rows have of its value, in the order of their
// keys. Of a value with two that are as frequent that is the first of these, or it is left out, if that is to be settled.
func (s *Spellings) Values(settled bool) (pairs []Pair) {
	s.prune()
	for _, key := range slices.Sorted(maps.Keys(s.groups)) {
		counts := countsOf(s.groups[key])
		list := mostFirst(counts)
		right := s.standsFor(key, list)
		if right == "" && (len(list) < 2 || counts[list[0]] != counts[list[1]] || !settled) {
			right = list[0]
		}
		for _, v := range list {
			if right != "" {
				pairs = append(pairs, Pair{Key: v, Value: right})
			}
		}
	}
	return pairs
}

// Each calls do for every spelling, and how many rows have it, in the order of their keys; it is false if there were too many to know.
func (s *Spellings) Each(do func(value string, rows int)) bool {
	s.prune()
	if s.over {
		return false
	}
	for _, key := range slices.Sorted(maps.Keys(s.groups)) {
		for _, v := range slices.Sorted(maps.Keys(s.groups[key].counts)) {
			do(v, *s.groups[key].counts[v])
		}
	}
	return true
}

// Counts returns how many rows have each value, by its key.
func (s *Spellings) Counts() map[string]int {
	s.prune()
	counts := make(map[string]int, len(s.groups))
	for key, g := range s.groups {
		for _, n := range g.counts {
			counts[key] += *n
		}
	}
	return counts
}

// countsOf returns how often each spelling of a value stands there.
func countsOf(g *spelt) map[string]int {
	counts := make(map[string]int, len(g.counts))
	for v, n := range g.counts {
		counts[v] = *n
	}
	return counts
}

// mostFirst returns spellings, the most frequent first.
func mostFirst(counts map[string]int) []string {
	return slices.SortedFunc(maps.Keys(counts), func(a, b string) int { return cmp.Or(counts[b]-counts[a], strings.Compare(a, b)) })
}

// Over reports whether there were too many values to compare.
func (s *Spellings) Over() bool { return s.over }

// SpellingKey returns what the spellings of one value have in common: all but
// case, spaces and punctuation. Beside a digit punctuation counts, because 1.5 is
// not 15.
func SpellingKey(value string) string {
	var scratch [128]byte
	return string(AppendSpellingKey(scratch[:0], value))
}

// AppendSpellingKey appends the key of a spelling.
func AppendSpellingKey(b []byte, value string) []byte {
	last, digit := rune(-1), false // punctuation that has not been decided on, and whether a digit stood before it
	for _, r := range value {
		switch now := kindOf(r); now {
		case letterRune, digitRune:
			if last >= 0 && (digit || now == digitRune) {
				b = utf8.AppendRune(b, last)
			}
			last, digit = -1, now == digitRune
			if r < utf8.RuneSelf {
				if r >= 'A' && r <= 'Z' {
					r |= 0x20
				}
				b = append(b, byte(r))
				continue
			}
			if r = unicode.ToLower(r); r == 'ı' {
				r = 'i' // the small letter of I in Turkish, as i is elsewhere
			}
			b = utf8.AppendRune(b, r)
		case spaceRune:
			if last < 0 && digit {
				last = ' '
			}
		case jointRune:
			last = r
		default:
			b = utf8.AppendRune(b, r)
			last, digit = -1, false
		}
	}
	if last > ' ' && digit {
		b = utf8.AppendRune(b, last)
	}
	return b
}

// A runeKind is what a character is in a spelling.
type runeKind uint8

const (
	otherRune  runeKind = iota
	letterRune          // or a mark of one
	digitRune
	spaceRune
	jointRune // punctuation that stands between words, or within a number
)

// kindOf returns what a character is.
func kindOf(r rune) runeKind {
	if r >= 0 && r < utf8.RuneSelf {
		return asciiKinds[r]
	}
	return findKind(r)
}

var asciiKinds = func() (kinds [utf8.RuneSelf]runeKind) {
	for r := range kinds {
		kinds[r] = findKind(rune(r))
	}
	return kinds
}()

func findKind(r rune) runeKind {
	switch {
	case unicode.IsDigit(r):
		return digitRune
	case unicode.IsLetter(r), unicode.IsMark(r):
		return letterRune
	case unicode.IsSpace(r):
		return spaceRune
	case strings.ContainsRune(".,'’‘-–—_()", r):
		return jointRune
	}
	return otherRune
}
