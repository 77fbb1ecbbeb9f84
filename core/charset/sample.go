package charset

import (
	"bytes"
	"math"
	"slices"
	"strings"
	"unicode/utf8"
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
	best.Charset = s.alike(units, best.Charset, left)
	second := math.Inf(-1)
	for _, c := range left {
		if all[c] > second && differ(units, best.Charset, c) {
			second, best.Second = all[c], c
		}
	}
	best.Margin = all[best.Charset] - second
	if mostly {
		// They may be of no encoding at all: what is left of a letter or a digit that was
		// broken on the way.
		without := fit(units, func(token string) string { return strings.ToValidUTF8(token, noCharacter) })
		best.Lost = s.bad < 2 || without > all[best.Charset] || s.bad < few && !pasted(units, best.Charset)
		best.Margin = min(best.Margin, math.Abs(all[best.Charset]-without))
	}
	best.Mixed = s.good >= 3 && s.good*50 >= s.bad && s.mixed(best.Charset)
	return best
}

// few is how many words that are not UTF-8 are too few for their signs to say something, in
// a file that is; one word is too few for anything.
const few = 5

// pasted reports whether signs in words that are not UTF-8 are such as come in with a text
// that is pasted; others may as well be what is left of a letter or a digit that was
// broken on the way.
func pasted(units []*unit, c Charset) bool {
	return !slices.ContainsFunc(units, func(u *unit) bool {
		return slices.ContainsFunc(u.tokens, func(token string) bool {
			return strings.ContainsFunc(c.Read(token), func(r rune) bool {
				return r >= utf8.RuneSelf && !letter(r) && !strings.ContainsRune("’–“”€™„‘…—•", r)
			})
		})
	})
}

// alike returns the best of the encodings that read the lines that are not UTF-8 as the
// same text: the one in which what was misread in the others makes best sense.
func (s *Sample) alike(units []*unit, best Charset, list []Charset) Charset {
	spoilt := unitsOf(slices.Concat(s.whole, s.lines), false)
	if len(spoilt) == 0 {
		return best
	}
	of := func(c Charset) float64 {
		return prior(c) + fit(spoilt, func(token string) string {
			text := c.Read(token)
			if m, ok := Mend(text); ok {
				return m.Text
			}
			return text
		})
	}
	top := of(best) + Thin
	for _, c := range list {
		if c != best && !differ(units, best, c) {
			if score := of(c); score > top {
				top, best = score, c
			}
		}
	}
	return best
}

// mixed reports whether the lines that are UTF-8 make better sense so than in the
// encoding of the others, and none of their words is one that was misread as still
// another encoding: what comes of that can look like UTF-8.
func (s *Sample) mixed(other Charset) bool {
	units := unitsOf(slices.Concat(s.whole, s.lines), false)
	return len(units) > 0 && fit(units, UTF8.Read) > fit(units, other.Read)+Thin && !slices.ContainsFunc(units, func(u *unit) bool {
		return slices.ContainsFunc(u.tokens, func(token string) bool {
			m, ok := Mend(other.Read(token))
			return ok && m.Text != token && likelihood(m.Text) > likelihood(token)+Thin
		})
	})
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
	case singles()[c] != nil:
		return singles()[c].prior
	case slices.Contains(easterns, c):
		return -2
	}
	return named
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
