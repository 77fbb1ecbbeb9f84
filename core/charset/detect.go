package charset

import (
	"bytes"
	"math"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"zetanum/core/language"
)

// A Sample is what is known of the bytes of a file whose encoding is looked for: how
// much of it is UTF-8, and some of the lines that are not ASCII.
type Sample struct {
	lines []byte // that are not UTF-8 to their end
	whole []byte // that are
	rest  []byte // the beginning of a line whose end has not been seen
	seen  [256]bool

	// Stretches of bytes beyond ASCII that are UTF-8, and those that are not.
	good, bad int
	// Cut is how many bytes at the end of the file begin a character of UTF-8 that is
	// not whole.
	Cut int
}

// How much of a file is kept: of the first lines beyond ASCII, and of later ones that
// have a byte which those do not have.
const (
	sampleSize = 48 << 10
	sampleMost = 96 << 10
	wholeSize  = 16 << 10
	longLine   = 16 << 10
)

// Add takes the bytes that follow.
func (s *Sample) Add(data []byte) {
	if len(s.rest) > 0 {
		end := bytes.IndexByte(data, '\n') + 1
		if end == 0 && len(s.rest)+len(data) < longLine {
			s.rest = append(s.rest, data...)
			return
		}
		if end == 0 {
			end = min(len(data), longLine)
		}
		s.rest = append(s.rest, data[:end]...)
		s.line(s.rest)
		s.rest, data = s.rest[:0], data[end:]
	}
	for len(data) > 0 {
		end := bytes.IndexByte(data[:min(len(data), longLine)], '\n') + 1
		switch {
		case end > 0:
		case len(data) < longLine:
			s.rest = append(s.rest, data...)
			return
		default:
			end = longLine
		}
		s.line(data[:end])
		data = data[end:]
	}
}

// End says that all bytes have been added.
func (s *Sample) End() {
	if s.Cut = cutAt(s.rest); s.Cut > 0 {
		good, bad := runs(s.rest[:len(s.rest)-s.Cut])
		if good += s.good; good == 0 || good < 2*(s.bad+bad) {
			s.Cut = 0 // the last letter of a file that is no UTF-8
		}
	}
	s.line(s.rest[:len(s.rest)-s.Cut])
	s.rest = s.rest[:0]
}

func (s *Sample) line(line []byte) {
	if isASCII(line) {
		return
	}
	good, bad := runs(line)
	s.good += good
	if s.bad += bad; bad == 0 {
		if len(s.whole) < wholeSize {
			s.whole = append(append(s.whole, line...), '\n')
		}
		return
	}
	fresh := false
	for _, b := range line {
		if b >= utf8.RuneSelf && !s.seen[b] {
			s.seen[b], fresh = true, true
		}
	}
	if len(s.lines) < sampleSize || fresh && len(s.lines) < sampleMost {
		s.lines = append(s.lines, line...)
		if line[len(line)-1] != '\n' {
			s.lines = append(s.lines, '\n')
		}
	}
}

func isASCII(data []byte) bool {
	_, high := nextRun(data)
	return high == 0
}

// A Guess is what a sample says of the encoding.
type Guess struct {
	Charset Charset
	Second  Charset // the next best of those that read something else
	// Margin is by how much the first one is better, as the natural logarithm of a
	// ratio of probabilities; below [Thin] it is open which of the two is right.
	Margin float64
	// Mixed says that a part of the file is UTF-8.
	Mixed bool
	// Lost says that the bytes that are not UTF-8 make no sense in any encoding: each
	// stands for a character that is lost.
	Lost bool
}

// Thin is the margin below which the evidence is thin.
const Thin = 5

// Guess returns the encoding in which the lines that are not UTF-8 make best sense.
func (s *Sample) Guess() Guess {
	best := Guess{Charset: UTF8, Second: Windows1252, Margin: math.Inf(1)}
	if s.bad == 0 {
		return best
	}
	units := unitsOf(s.lines, true)
	mostly := s.MostlyUTF8()
	first := units[:min(len(units), 40)]
	quick := scores(first, candidates(), mostly)
	top := math.Inf(-1)
	for _, score := range quick {
		top = max(top, score)
	}
	var left []Charset
	for _, c := range candidates() {
		if quick[c] > top-60 {
			left = append(left, c)
		}
	}
	all := quick
	if len(first) < len(units) {
		all = scores(units, left, mostly)
	}
	best.Charset = left[0]
	for _, c := range left {
		if all[c] > all[best.Charset] {
			best.Charset = c
		}
	}
	second := math.Inf(-1)
	for _, c := range left {
		if all[c] > second && differ(units, best.Charset, c) {
			second, best.Second = all[c], c
		}
	}
	best.Margin = all[best.Charset] - second
	if mostly {
		// They may be of no encoding at all.
		without := fit(units, func(token string) string { return strings.ToValidUTF8(token, noCharacter) })
		best.Lost = without > all[best.Charset]
		best.Margin = min(best.Margin, math.Abs(all[best.Charset]-without))
		if s.bad < few && !pasted(units, best.Charset) {
			best.Margin = 0
		}
	}
	best.Mixed = s.good >= 3 && s.good*10 >= s.bad && s.mixed(best.Charset)
	return best
}

// few is how many words that are not UTF-8 are too few to say something of signs.
const few = 3

// pasted reports whether signs in words that are not UTF-8 are such as come in with a text
// that is pasted; others may as well be what is left of a letter or a digit that was
// broken on the way.
func pasted(units []*unit, c Charset) bool {
	return !slices.ContainsFunc(units, func(u *unit) bool {
		return slices.ContainsFunc(u.tokens, func(token string) bool {
			return strings.ContainsFunc(c.DecodeRest(token), func(r rune) bool {
				return r >= utf8.RuneSelf && !letter(r) && !strings.ContainsRune("’–“”€™„‘…—•", r)
			})
		})
	})
}

// mixed reports whether the lines that are UTF-8 make better sense so than in the
// encoding of the others, be it with wrong decodings undone.
func (s *Sample) mixed(other Charset) bool {
	units := unitsOf(slices.Concat(s.whole, s.lines), false)
	if len(units) == 0 {
		return false
	}
	return fit(units, UTF8.Read) > fit(units, other.Read)+Thin
}

// MostlyUTF8 reports whether most of what is no ASCII is UTF-8, so that the rest will
// have been pasted in from elsewhere.
func (s *Sample) MostlyUTF8() bool { return s.good >= 3 && s.good >= 2*s.bad }

// Whole reports whether all of it is UTF-8, but for a character that is cut at the end.
func (s *Sample) Whole() bool { return s.bad == 0 }

// candidates are the encodings that are looked for.
func candidates() (list []Charset) {
	for c := Windows1252; c < numCharsets; c++ {
		if prior(c) > named {
			list = append(list, c)
		}
	}
	return list
}

// prior returns how much more seldom than the first an encoding is.
func prior(c Charset) float64 {
	switch {
	case c == UTF8:
		return 0
	case singles[c] != nil:
		return singles[c].prior
	case slices.Contains(easterns, c):
		return -2
	}
	return named
}

// A unit is a stretch of a line, such as a cell, with bytes that are no UTF-8.
type unit struct {
	text   string
	theta  []float64 // how probable it is that it is in a language, as a logarithm, from its words of ASCII
	tokens []string  // what stands between spaces and the like, and has bytes beyond ASCII
}

// mostUnits is how many units are looked at.
const mostUnits = 400

// unitsOf cuts lines up, into those units beyond ASCII that are UTF-8 or those that are
// not, each once.
func unitsOf(lines []byte, notUTF8 bool) (units []*unit) {
	model := language.Load()
	seen := make(map[string]bool)
	for line := range strings.Lines(string(lines)) {
		whole := asciiWords(model, line)
		last := byte(0)
		for _, text := range splitBytes(line, func(b byte) bool {
			cut := b == ',' || b == ';' || b == '\t' || b == '"' || b < ' ' || b == '|' && last < utf8.RuneSelf
			last = b
			return cut
		}) {
			good, bad := runs(text)
			if good+bad == 0 || notUTF8 != (bad > 0) || seen[text] || len(units) == mostUnits {
				continue
			}
			seen[text] = true
			u := &unit{text: text, theta: asciiWords(model, text)}
			for i := range whole {
				u.theta[i] += 0.3 * whole[i]
			}
			for _, token := range splitBytes(text, func(b byte) bool { return b <= ' ' }) {
				if !isASCII([]byte(token)) && !(notUTF8 && good >= bad && utf8.ValidString(token)) {
					u.tokens = append(u.tokens, token)
				}
			}
			units = append(units, u)
		}
	}
	return units
}

// splitBytes is [strings.FieldsFunc] for bytes.
func splitBytes(s string, cut func(byte) bool) (list []string) {
	from := 0
	for i := range len(s) {
		if cut(s[i]) {
			if i > from {
				list = append(list, s[from:i])
			}
			from = i + 1
		}
	}
	if from < len(s) {
		list = append(list, s[from:])
	}
	return list
}

// asciiWords returns what the words of ASCII of a text say of its language.
func asciiWords(model *language.Model, text string) []float64 {
	sums := make([]float64, len(model.Codes), len(model.Codes)+len(model.Wide))
	for _, token := range splitBytes(text, func(b byte) bool { return b <= ' ' }) {
		if !isASCII([]byte(token)) {
			continue
		}
		for word := range strings.FieldsFuncSeq(token, func(r rune) bool { return !unicode.IsLetter(r) }) {
			if len(word) > 1 && len(word) == len(strings.Trim(token, ".,:!?()'")) {
				model.Word(word, sums)
			}
		}
	}
	top := slices.Max(sums)
	for i := range sums {
		sums[i] = 0.5 * (sums[i] - top)
	}
	for range model.Wide {
		sums = append(sums, -2)
	}
	return sums
}

// likelihood returns how well a text fits the language that it fits best, as the
// logarithm of a probability; texts are to be compared that differ in a few characters.
func likelihood(text string) float64 {
	model := language.Load()
	u := &unit{theta: asciiWords(model, text)}
	for _, token := range splitBytes(text, func(b byte) bool { return b <= ' ' }) {
		if !isASCII([]byte(token)) {
			u.tokens = append(u.tokens, token)
		}
	}
	return together([]*unit{u}, []reading{readTokens(model, u.tokens)})
}

// scores returns how well units read in each of some encodings fit the languages that
// they fit best, as the logarithm of a probability. What is pasted into a file in UTF-8
// is in a rare encoding still more rarely.
func scores(units []*unit, list []Charset, pasted bool) map[Charset]float64 {
	out := make(map[Charset]float64, len(list))
	for _, c := range list {
		out[c] = prior(c) + fit(units, c.Read)
		if pasted {
			out[c] += 2 * prior(c)
		}
	}
	return out
}

// fit returns how well units fit the languages that they fit best, as the logarithm of a
// probability; decode reads what stands between spaces in them.
func fit(units []*unit, decode func(token string) string) float64 {
	model := language.Load()
	texts := make([]reading, len(units))
	for i, u := range units {
		texts[i] = read(model, decode, u)
	}
	return together(units, texts)
}

// A reading is what a unit becomes in an encoding.
type reading struct {
	sums  []float64 // by language: how probable its words are, as a logarithm; nil if it has none
	fixed float64   // how probable the rest is
}

// together returns how probable some readings are, with languages that are as frequent as
// the other readings of the file say.
func together(units []*unit, texts []reading) float64 {
	if len(units) == 0 {
		return 0
	}
	n := len(units[0].theta)
	sum := make([]float64, n) // over the units, how probable it is that one is in a language
	weight := 0.0
	posts := make([][]float64, len(units))
	post := make([]float64, n)
	total := 0.0
	for range 3 {
		total = 0
		for i, u := range units {
			text := texts[i]
			total += text.fixed
			if text.sums == nil {
				continue
			}
			if posts[i] == nil {
				posts[i] = make([]float64, n)
			} else {
				weight--
				for l, p := range posts[i] {
					sum[l] -= p
				}
			}
			share := func(l int) float64 { return (sum[l] + unseen) / (weight + unseen*float64(n)) }
			norm := 0.0
			for l := range post {
				post[l] = share(l) * math.Exp(u.theta[l])
				norm += post[l]
			}
			top := math.Inf(-1)
			for l := range post {
				post[l] = math.Log(0.9*post[l]/norm+0.1*share(l)) + text.sums[l]
				top = max(top, post[l])
			}
			norm = 0
			for l, p := range post {
				if post[l] = 0; p > top-40 {
					post[l] = math.Exp(p - top)
					norm += post[l]
				}
			}
			total += top + math.Log(norm)
			weight++
			for l := range post {
				posts[i][l] = post[l] / norm
				sum[l] += post[l] / norm
			}
		}
	}
	return total
}

// unseen is how much a language counts that no unit is in, in units.
const unseen = 0.005

// read reads a unit, with wrong decodings in it undone if that makes better sense: what
// somebody else has spoilt says nothing of the encoding.
func read(model *language.Model, decode func(string) string, u *unit) (text reading) {
	tokens := make([]string, len(u.tokens))
	var undone []string
	for i, token := range u.tokens {
		tokens[i] = decode(token)
		if m, ok := Mend(tokens[i]); ok {
			if undone == nil {
				undone = slices.Clone(tokens)
			}
			undone[i] = m.Text
			text.fixed -= perUndone
		} else if undone != nil {
			undone[i] = tokens[i]
		}
	}
	straight := readTokens(model, tokens)
	if undone == nil {
		return straight
	}
	other := readTokens(model, undone)
	if other.fixed += text.fixed; other.best() > straight.best() {
		return other
	}
	return straight
}

// perUndone is what a word loses that has been misread; more than [Thin].
const perUndone = 6

// best returns how well a reading fits the language that it fits best.
func (r *reading) best() float64 {
	if r.sums == nil {
		return r.fixed
	}
	return r.fixed + slices.Max(r.sums)
}

// readTokens reads words.
func readTokens(model *language.Model, tokens []string) (text reading) {
	alphabets := len(model.Codes)
	var word []rune
	sums := func() []float64 {
		if text.sums == nil {
			text.sums = make([]float64, alphabets+len(model.Wide))
		}
		return text.sums
	}
	flush := func() {
		if len(word) > 0 {
			model.Word(string(word), sums()[:alphabets])
			for i := range model.Wide {
				sums()[alphabets+i] += logWord
				for _, r := range word {
					if r < utf8.RuneSelf {
						sums()[alphabets+i] += logAlphabet
					} else {
						sums()[alphabets+i] += logForeign
					}
				}
			}
			word = word[:0]
		}
	}
	for _, token := range tokens {
		last := rune(' ')
		for _, r := range token {
			switch {
			case eastern(r):
				flush()
				for i := range alphabets {
					sums()[i] += logForeign
				}
				for i, m := range model.Wide {
					sums()[alphabets+i] += math.Log(math.Max(m[r], rareIn(i, r)))
				}
			case letter(r):
				word = append(word, r)
				if r >= utf8.RuneSelf {
					text.fixed += logLetter
				}
			case r >= utf8.RuneSelf:
				flush()
				text.fixed += math.Log(shareSign * symbol(r))
			default:
				flush()
			}
			if r >= utf8.RuneSelf || last >= utf8.RuneSelf {
				text.fixed += beside(last, r)
			}
			last = r
		}
		flush()
	}
	return text
}

// Differs reports whether another encoding would read the bytes of a text otherwise, that
// is in UTF-8 by now, and what it would make of it.
func (c Charset) Differs(other Charset, s string) (text string, ok bool) {
	raw, _, ok := c.Append(nil, []byte(s))
	if !ok {
		return "", false
	}
	text = other.Read(string(raw))
	return text, text != s
}

// differ reports whether two encodings read some units as different texts.
func differ(units []*unit, a, b Charset) bool {
	return slices.ContainsFunc(units, func(u *unit) bool { return a.Read(u.text) != b.Read(u.text) })
}

// Read returns a text in the encoding in UTF-8.
func (c Charset) Read(s string) string {
	switch {
	case c == UTF8:
		return strings.ToValidUTF8(s, lost)
	case !c.Wide():
		return string(c.Decode([]byte(s)))
	}
	text, _ := wides[c].NewDecoder().String(s)
	return text
}

// How probable things are that no table of letters says.
const (
	nothing   = 1e-10 // a byte without a character, or a control character
	shareSign = 0.2   // of what is no ASCII, the rest are letters
)

// highs are the bits by which bytes are beyond ASCII.
const highs = 0x8080808080808080

var (
	logLetter   = math.Log(1 - shareSign)
	logAlphabet = math.Log(1. / 25) // a letter of ASCII in a language of East Asia
	logWord     = math.Log(1e-2)    // a word of them
	logForeign  = math.Log(1e-9)    // one of East Asia in another
)

// symbols are the signs of texts about goods, with how frequent they are among the
// signs; others are rare.
var symbols = func() map[rune]float64 {
	m := make(map[rune]float64)
	for share, list := range map[float64]string{0.08: "’–", 0.05: "“”\u00a0°€£", 0.03: "®™©½×—„‘…«»", 0.012: "¼¾•·²³§±µ¿¡",
		0.004: "¢¥†‡ªº‚¹÷‰¶´¦"} {
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
	fullWidth  = 0.005
	unreadable = 1e-4 // a byte that is of no encoding, where most are

	// noCharacter stands for a byte that is of no encoding, in a file in UTF-8.
	noCharacter = "\U0010fffd"
)

func letter(r rune) bool {
	return r != 0 && (unicode.IsLetter(r) || unicode.Is(unicode.Mn, r)) && r != 'ª' && r != 'º'
}

// symbol returns the share of a sign among the signs.
func symbol(r rune) float64 {
	p := symbols[r]
	switch {
	case string(r) == noCharacter:
		return unreadable
	case r < 0xa0, r == utf8.RuneError, unicode.Is(unicode.Co, r):
		return nothing
	case p > 0:
		return p
	case r >= 0xff00 && r < 0xff60: // full width
		return fullWidth
	case r >= 0x2500 && r < 0x25a0:
		return boxSymbol
	}
	return rareSymbol
}

// beside returns what speaks against two characters side by side, as the logarithm
// of a ratio.
func beside(a, b rune) float64 {
	switch {
	case string(a) == noCharacter || string(b) == noCharacter:
		return 0
	case eastern(a) && letter(b) && b < utf8.RuneSelf, eastern(b) && letter(a) && a < utf8.RuneSelf:
		return -3
	case letter(a) && letter(b):
		switch {
		case unicode.IsLower(a) && unicode.IsUpper(b):
			return -7
		case unicode.IsUpper(a) && a >= utf8.RuneSelf && unicode.IsUpper(b) && b < utf8.RuneSelf:
			return 1.5
		case unicode.IsUpper(b) && b >= utf8.RuneSelf && unicode.IsUpper(a) && a < utf8.RuneSelf:
			return -0.5
		}
	case letter(a) && unicode.IsDigit(b) && a >= utf8.RuneSelf, letter(b) && unicode.IsDigit(a) && b >= utf8.RuneSelf:
		return -2
	case letter(a) && b >= utf8.RuneSelf && !strings.ContainsRune("’®™°©”»\u00a0²³‘ªº…", b):
		return -2.5
	case letter(b) && strings.ContainsRune("®™°©²³ªº", a), letter(a) && strings.ContainsRune("€£", b):
		return -5
	case letter(b) && a >= utf8.RuneSelf && !strings.ContainsRune("’“„«‘‚¿¡£€\u00a0•”µ", a):
		return -2.5
	case unicode.IsDigit(a) && strings.ContainsRune("°€£½¼¾×²³–\u00a0ªº", b), unicode.IsDigit(b) && strings.ContainsRune("€£×–±\u00a0", a):
		return 1
	case letter(b) && b >= utf8.RuneSelf && unicode.IsUpper(b):
		return -1.5
	}
	return 0
}
