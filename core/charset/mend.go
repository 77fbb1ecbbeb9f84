package charset

import (
	"slices"
	"strings"
	"unicode/utf8"
)

// Mended is a text whose bytes were UTF-8 and had been read as another encoding.
type Mended struct {
	Text   string
	As     string // what it had been read as, the last time
	Layers int    // how often
	// Exact says that the text is certain. Otherwise it is likely: a character was
	// lost on the way, or too little of the text shows that it was misread.
	Exact bool
	Part  bool // only some of its words had been misread
}

// mostLayers is how often a text can have been misread.
const mostLayers = 3

// Mend undoes wrong decodings of a text. ok is false if there is nothing to undo,
// as in every text that is honest: MAÇÃ, SÃO, Â and ½ stay.
//
// A text that was misread has, in the bytes of the encoding it was read as, the
// form of UTF-8 throughout, and what comes of it makes sense: characters that are
// in use, words in one script, capitals where they may stand.
//
// What was misread more often than the rest of the text is undone with it: mending a text
// twice is mending it once.
func Mend(s string) (m Mended, ok bool) {
	return toTheEnd(s, mendOnce)
}

// toTheEnd mends a text, and what comes of it, as long as something is to be undone.
func toTheEnd(s string, once func(string) (Mended, bool)) (m Mended, ok bool) {
	if m, ok = once(s); !ok {
		return m, false
	}
	for m.Layers < mostLayers {
		again, more := once(m.Text)
		if !more {
			break
		}
		m = Mended{Text: again.Text, As: m.As, Layers: m.Layers + again.Layers, Exact: m.Exact && again.Exact, Part: true}
	}
	return m, true
}

func mendOnce(s string) (m Mended, ok bool) {
	if misread(s) == 0 {
		return m, false
	}
	best, ok := undoAny(s, misreadings)
	if !ok || honest(s, best.Text) {
		return m, false
	}
	if best.weak && likelihood(best.Text) > likelihood(s)+farLikelier {
		best.weak = false
	}
	best.Exact = !best.weak && !best.ambiguous && !best.lost
	return best.Mended, true
}

// MendAs is [Mend] for a text of which it is known from others beside it what it
// was read as.
func MendAs(s, as string) (m Mended, ok bool) {
	one := asked()[as]
	if at := slices.IndexFunc(misreadings, func(m *misreading) bool { return m.name == as }); at >= 0 {
		one = misreadings[at]
	}
	if one == nil {
		return m, false
	}
	return toTheEnd(s, func(s string) (m Mended, ok bool) {
		if !one.may(s) {
			return m, false
		}
		best, ok := undoAny(s, []*misreading{one})
		if !ok || honest(s, best.Text) {
			return m, false
		}
		best.Exact = !best.ambiguous && !best.lost
		return best.Mended, true
	})
}

// undoAny undoes misreadings of the whole text or, if that makes no sense, of its words.
func undoAny(s string, as []*misreading) (candidate, bool) {
	if best, ok := undo(s, as, 1); ok {
		return best, true
	}
	return undoParts(s, as)
}

// A candidate is a text that may have been meant.
type candidate struct {
	Mended
	rare      int  // characters that are in use, but seldom, and capitals where none should be
	from      int  // how many bytes of the misread text it stands for, if it is a word
	weak      bool // an honest text might look like it
	ambiguous bool // another text makes as good a sense
	lost      bool // a character had to be guessed
}

// undo returns the text that makes best sense, undoing this misreading, as one of
// some encodings, and those below it.
func undo(s string, as []*misreading, layer int) (best candidate, ok bool) {
	can := misread(s)
	for _, m := range as {
		if m.bit != 0 && can&m.bit == 0 {
			continue
		}
		text, sequences, lost, fits := m.reread(s)
		if !fits {
			continue
		}
		one := candidate{Mended: Mended{Text: text, As: m.name, Layers: layer}, weak: m.plain && sequences == 1 && !odd(s), lost: lost}
		if layer < mostLayers && misread(text) != 0 {
			if below, deeper := undo(text, as, layer+1); deeper {
				below.weak, below.lost, below.As = below.weak && one.weak, below.lost || lost, m.name
				one = below
			} else if _, sequences, _, fits := m.reread(text); fits && sequences > 1 {
				continue // it is not undone to the end
			}
		}
		if one.rare, fits = sense(one.Text, sequences); !fits || layer == 1 && one.weak && calms(s, one.Text) {
			continue
		}
		switch {
		case !ok || one.rare < best.rare || one.rare == best.rare && best.lost && !one.lost:
			best, ok = one, true
		case one.Text == best.Text:
			best.weak = best.weak && one.weak
			best.ambiguous = best.ambiguous && one.ambiguous
		case one.rare == best.rare && one.lost == best.lost:
			best.ambiguous = true
		}
	}
	return best, ok
}

// reread returns the text that the bytes of s in the encoding are as UTF-8, and of
// how many sequences it consists besides ASCII. lost says that a byte was not there
// any more and had to be guessed: a no-break space that has become a plain one, or
// one of those that have no character.
func (m *misreading) reread(s string) (text string, sequences int, lost, ok bool) {
	b := make([]byte, 0, len(s))
	want, honest := 0, 0 // bytes that the sequence still needs; no-break spaces that were not misread
	next := 0            // behind what stands for a byte that was lost
	for at, r := range s {
		if at < next {
			continue
		}
		c, there := byte(r), r < utf8.RuneSelf
		if !there {
			if c, there = m.bytes[r]; !there {
				return "", 0, false, false
			}
		}
		if want > 0 && (c < 0x80 || c >= 0xc0) {
			guess, eats := lostByte(b, s[at:])
			if guess == 0 {
				return "", 0, false, false
			}
			b, want, lost = append(b, guess), want-1, true
			if eats > 0 {
				next = at + eats
				continue
			}
		}
		switch {
		case c < 0x80:
		case want == 0 && r == '\u00a0' && c == 0xa0: // put there since
			b = append(b, 0xc2)
			honest++
		case want > 0:
			want--
		case c < 0xc2 || c > 0xf4:
			return "", 0, false, false
		case c < 0xe0:
			want = 1
		case c < 0xf0:
			want = 2
		default:
			want = 3
		}
		b = append(b, c)
	}
	if want > 0 {
		guess, _ := lostByte(b, "")
		if guess == 0 {
			return "", 0, false, false
		}
		b, lost = append(b, guess), true
	}
	if !utf8.Valid(b) {
		return "", 0, false, false
	}
	text = string(b)
	for _, r := range text {
		if r >= utf8.RuneSelf {
			sequences++
		}
	}
	// With nothing but what was guessed there is no sign of a misreading.
	sequences -= honest
	return text, sequences, lost, sequences > 0 && (!lost || sequences > 1)
}

// lostByte guesses the byte that is missing behind others, before the rest of a
// text, and how many bytes of that stand for it: spaces that were no-break ones,
// quotation marks and dashes that have been made plain.
func lostByte(before []byte, rest string) (guess byte, eats int) {
	n := len(before)
	last, two := byte(0), byte(0)
	if n >= 1 {
		last = before[n-1]
	}
	if n >= 2 {
		two = before[n-2]
	}
	switch {
	case last == 0xc3 && (rest == "" || rest[0] == ' '): // à, with a no-break space
		if strings.HasPrefix(rest, "  ") {
			return 0xa0, 1
		}
		return 0xa0, 0
	case last == 0xc2 && (rest == "" || rest[0] == ' '): // a no-break space
		return 0xa0, len(rest[:min(1, len(rest))])
	case last == 0xc3 && strings.HasPrefix(rest, "..."): // Å
		return 0x85, 3
	case last == 0xc3 && strings.HasPrefix(rest, "- "): // ×
		return 0x97, 1
	case last == 0xc3 && strings.HasPrefix(rest, "-"): // Ö
		return 0x96, 1
	case last == 0xc3 && strings.HasPrefix(rest, "'"): // Ñ
		return 0x91, 1
	case last == 0xe2 && (strings.HasPrefix(rest, "'¬") || strings.HasPrefix(rest, ",¬")): // €
		return 0x82, 1
	case two == 0xe2 && last == 0x80 && n >= 3 && dashed(before[n-3], rest): // a dash
		return 0x93, 1
	case two == 0xe2 && last == 0x80: // a closing quotation mark
		return 0x9d, 0
	case rest == "" || rest[0] < utf8.RuneSelf && !isAlphanumeric(rest[0]):
		return 0, 0
	// Bytes that Windows-1252 has no character for, dropped; of several letters the
	// one that is by far the most frequent.
	case last == 0xc4: // č
		return 0x8d, 0
	case last == 0xc5: // Ł
		return 0x81, 0
	case last == 0xc3 && (n == 1 || !isAlphanumeric(before[n-2])): // Á, at the beginning of a word
		return 0x81, 0
	}
	return 0, 0
}

// dashed reports whether a dash between spaces or digits may have stood where a text
// goes on with a plain quotation mark.
func dashed(before byte, rest string) bool {
	if len(rest) < 2 || rest[0] != '"' {
		return false
	}
	digit := func(c byte) bool { return c >= '0' && c <= '9' }
	return before == ' ' && rest[1] == ' ' || digit(before) && digit(rest[1])
}
