package charset

import (
	"encoding/binary"
	"math/bits"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"
	"unsafe"

	"golang.org/x/text/encoding/charmap"
)

// A misreading is an encoding in which UTF-8 is often read by mistake. Its bytes
// without a character are taken for the control characters of the same number,
// which is how most programs pass them on.
type misreading struct {
	name  string
	bit   uint8
	runes [128]rune // by byte from 0x80
	bytes map[rune]byte
	plain bool // single pairs of its characters stand in honest texts, too
}

// misreadings are the encodings in the order in which they are tried.
var misreadings = []*misreading{
	newMisreading("Windows-1252", charmap.Windows1252, false),
	newMisreading("ISO-8859-1", charmap.ISO8859_1, false),
	newMisreading("Mac Roman", charmap.Macintosh, false),
	newMisreading("code page 437", charmap.CodePage437, false),
	newMisreading("code page 850", charmap.CodePage850, false),
	newMisreading("Windows-1250", charmap.Windows1250, true),
	newMisreading("Windows-1251", charmap.Windows1251, true),
}

// Misreadings returns the names of the encodings that are undone.
func Misreadings() (names []string) {
	for _, m := range misreadings {
		names = append(names, m.name)
	}
	return names
}

func newMisreading(name string, c *charmap.Charmap, plain bool) *misreading {
	m := &misreading{name: name, bytes: make(map[rune]byte, 128), plain: plain}
	for i := range m.runes {
		r := c.DecodeByte(byte(0x80 + i))
		if r == utf8.RuneError {
			r = rune(0x80 + i)
		}
		m.runes[i] = r
		m.bytes[r] = byte(0x80 + i)
	}
	return m
}

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
func Mend(s string) (m Mended, ok bool) {
	if misread(s) == 0 {
		return m, false
	}
	best, ok := undo(s, misreadings, 1)
	if !ok {
		if best, ok = undoWords(s, misreadings); !ok {
			return m, false
		}
	}
	best.Exact = !best.weak && !best.ambiguous && !best.lost
	return best.Mended, true
}

// MendAs is [Mend] for a text of which it is known from others beside it what it
// was read as.
func MendAs(s, as string) (m Mended, ok bool) {
	at := slices.IndexFunc(misreadings, func(m *misreading) bool { return m.name == as })
	if at < 0 || misread(s)&misreadings[at].bit == 0 {
		return m, false
	}
	best, ok := undo(s, misreadings[at:at+1], 1)
	if !ok {
		if best, ok = undoWords(s, misreadings[at:at+1]); !ok {
			return m, false
		}
	}
	best.Exact = !best.ambiguous && !best.lost
	return best.Mended, true
}

// A part is what a character can be, in the bytes of each of the misreadings: the first
// of a sequence of UTF-8, by its length, or one that goes on with it. They are sets of
// misreadings, one a bit.
type part struct{ first2, first3, first4, more uint8 }

// parts are those of the characters that misreadings have, the others in rareParts.
var (
	parts     [0x2600]part
	rareParts = make(map[rune]part)
)

func init() {
	for n, m := range misreadings {
		m.bit = 1 << n
		for i, r := range m.runes {
			p := rareParts[r]
			if int(r) < len(parts) {
				p = parts[r]
			}
			switch c := 0x80 + i; {
			case c < 0xc0:
				p.more |= m.bit
			case c >= 0xc2 && c < 0xe0:
				p.first2 |= m.bit
			case c >= 0xe0 && c < 0xf0:
				p.first3 |= m.bit
			case c >= 0xf0 && c < 0xf5:
				p.first4 |= m.bit
			}
			if int(r) < len(parts) {
				parts[r] = p
			} else {
				rareParts[r] = p
			}
		}
	}
}

// misread returns, at little cost, as which of the misreadings a text can have been
// read: those in which it has a whole sequence of UTF-8.
func misread(s string) (as uint8) {
	var one, two, three uint8 // in which a sequence lacks so many bytes
	data := unsafe.Slice(unsafe.StringData(s), len(s))
	for i := 0; i < len(s); {
		c := s[i]
		if c < utf8.RuneSelf {
			one, two, three = 0, 0, 0
			for i++; i+8 <= len(data); i += 8 {
				if high := binary.LittleEndian.Uint64(data[i:]) & highs; high != 0 {
					i += bits.TrailingZeros64(high) / 8
					break
				}
			}
			continue
		}
		if alone := i + 2; one|two|three == 0 && c < 0xe0 && alone < len(s) && s[alone] < utf8.RuneSelf {
			i = alone // as most letters are
			continue
		}
		r, size := utf8.DecodeRuneInString(s[i:])
		i += size
		p := part{}
		if int(r) < len(parts) {
			p = parts[r]
		} else {
			p = rareParts[r]
		}
		as |= one & p.more
		one, two, three = two&p.more|p.first2, three&p.more|p.first3, p.first4
	}
	return as
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
		if can&m.bit == 0 {
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

// undoWords returns the text in which the words are as they were meant that were
// misread, while others beside them were not.
func undoWords(s string, as []*misreading) (best candidate, ok bool) {
	var b strings.Builder
	copied, garbled := 0, false
	sure := slices.ContainsFunc(strings.FieldsFunc(s, func(r rune) bool { return r < utf8.RuneSelf && !isAlphanumeric(byte(r)) }), func(word string) bool {
		_, one, ok := undoWord(word, as, false)
		return ok && (one.As == "Windows-1252" || one.As == "ISO-8859-1")
	})
	for from := 0; from < len(s); {
		to := from
		for to < len(s) && (s[to] >= utf8.RuneSelf || isAlphanumeric(s[to])) {
			to++
		}
		if to == from {
			from++
			continue
		}
		at, one, found := undoWord(s[from:to], as, sure)
		if found {
			b.WriteString(s[copied : from+at])
			b.WriteString(one.Text)
			copied = from + at + one.from
			switch {
			case !ok:
				best, ok = one, true
			case one.As != best.As:
				best.ambiguous = true
			}
			best.ambiguous = best.ambiguous || one.ambiguous
			best.Layers = max(best.Layers, one.Layers)
		} else if !garbled && misread(s[from:to]) != 0 {
			garbled = slices.ContainsFunc(as, func(m *misreading) bool {
				_, sequences, _, fits := m.reread(s[from:to])
				return fits && sequences > 0
			})
		}
		from = to
	}
	b.WriteString(s[copied:])
	best.Text = b.String()
	best.Part = true
	if ok = ok && !garbled; ok {
		_, ok = sense(best.Text, 0)
	}
	return best, ok && oneScript(best.Text)
}

// oneScript reports whether all letters of a text are Latin or of one other script;
// those of East Asia count as one.
func oneScript(text string) bool {
	var script *unicode.RangeTable
	east := false
	for _, r := range text {
		if r < utf8.RuneSelf || !unicode.IsLetter(r) || unicode.Is(unicode.Latin, r) || script != nil && unicode.Is(script, r) {
			continue
		}
		if script != nil || east && r < 0x2e80 {
			return false
		}
		if east = east || r >= 0x2e80; east {
			continue
		}
		for _, s := range unicode.Scripts {
			if unicode.Is(s, r) {
				script = s
			}
		}
	}
	return true
}

// undoWord returns what a word was that was misread, and where in it that begins:
// quotation marks and the like around it may be as they were meant. sure says that
// others beside it were misread, too, as Windows-1252: then signs and letters of
// Western Europe may come of it that do not look odd.
func undoWord(word string, as []*misreading, sure bool) (at int, one candidate, ok bool) {
	for misread(word) != 0 {
		if one, ok = undo(word, as, 1); ok {
			one.from = len(word)
			return at, one, !one.weak && !one.lost && one.rare == 0 && (odd(word) || long(word) || sure && isWestern(one.Text)) && fitting(one.Text)
		}
		last, size := utf8.DecodeLastRuneInString(word)
		if first, n := utf8.DecodeRuneInString(word); unicode.IsPunct(first) {
			word = word[n:]
			at += n
		} else if unicode.IsPunct(last) {
			word = word[:len(word)-size]
		} else {
			break
		}
	}
	return 0, one, false
}

// isWestern reports whether all characters of a text are among those of Windows-1252.
func isWestern(text string) bool {
	return !strings.ContainsFunc(text, func(r rune) bool {
		_, ok := westernBytes[r]
		return r >= utf8.RuneSelf && !ok
	})
}

var westernBytes = newMisreading("", charmap.Windows1252, false).bytes

func isAlphanumeric(c byte) bool {
	return c >= '0' && c <= '9' || c|0x20 >= 'a' && c|0x20 <= 'z'
}

// long reports whether a text has three characters side by side that are no ASCII,
// the second of which is no letter: so begin all of the signs of UTF-8 that have
// three bytes.
func long(s string) bool {
	var before, last rune
	for _, r := range s {
		if r >= utf8.RuneSelf && last >= utf8.RuneSelf && before >= utf8.RuneSelf && unicode.IsLetter(before) && !unicode.IsLetter(last) {
			return true
		}
		before, last = last, r
	}
	return false
}

// fitting reports whether the letters of a word fit together: no small one behind two
// capitals, as if IRMÃ» were misread, and none of another script behind ASCII.
func fitting(word string) bool {
	capitals, ascii := 0, false
	for _, r := range word {
		ascii = ascii || r < utf8.RuneSelf && unicode.IsLetter(r)
		switch {
		case unicode.IsLetter(r) && ascii && !unicode.Is(unicode.Latin, r), unicode.IsLower(r) && capitals > 1:
			return false
		case unicode.IsUpper(r):
			capitals++
		default:
			capitals = 0
		}
	}
	return true
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

// calms reports whether small letters come of a text that had capitals only: what
// seems misread may be honest.
func calms(s, text string) bool {
	ascii := false
	for _, r := range s {
		if unicode.IsLower(r) {
			return false
		}
		ascii = ascii || r >= 'A' && r <= 'Z'
	}
	return ascii && strings.ContainsFunc(text, unicode.IsLower)
}

// sense reports whether a text makes sense, and how many seldom characters it has.
// Where very much speaks for it, that many sequences, a text that is not Latin may
// have a word in which somebody has mixed Latin letters.
func sense(text string, sequences int) (rare int, ok bool) {
	var word wordSense
	var before, last rune
	mixed, latin := 0, 0
	for _, r := range text {
		if !inUse(r) {
			return 0, false
		}
		if !word.add(r) {
			if mixed++; sequences < 6*mixed {
				return 0, false
			}
			word = wordSense{}
		}
		if sequences > 0 && unicode.IsLetter(r) {
			if unicode.Is(unicode.Latin, r) {
				latin++
			} else {
				latin--
			}
		}
		if seldom(r) || r >= utf8.RuneSelf && unicode.IsUpper(r) && unicode.IsLower(last) ||
			unicode.IsLower(r) && last >= utf8.RuneSelf && unicode.IsUpper(last) && unicode.IsUpper(before) {
			rare++
		}
		before, last = last, r
	}
	return rare + mixed, mixed == 0 || latin < 0
}

// seldom reports whether a character is in use, but in few languages or places:
// accents by themselves, letters of Esperanto, Sami and Livonian, signs of
// measurement and of tables.
func seldom(r rune) bool {
	switch {
	case r < 0x100:
		return false
	case r < 0x180:
		return strings.ContainsRune("ĈĉĊċĔĕĜĝĠġĤĥĦħĨĩĬĭĴĵĸĿŀŉŊŋŌōŎŏŔŕŖŗŜŝŢţŤťŦŧŬŭſ", r) && r != 'ť' && r != 'Ť' && r != 'ō' && r != 'Ō' && r != 'Ţ' && r != 'ţ' && r != 'ħ' && r != 'Ħ' && r != 'ġ' && r != 'ĩ' && r != 'Ĩ' && r != 'ċ'
	case r < 0x370:
		return !(r >= 0x218 && r <= 0x21b || r == 'ơ' || r == 'Ơ' || r == 'ư' || r == 'Ư' || r == 0x259)
	case r < 0x2000:
		return false
	case r < 0x20d0:
		return false
	}
	return r >= 0x2100 && r < 0x2e80 && r != '№' && r != '™' || r >= 0xa4d0 && r < 0xac00
}

// wordSense looks whether words are of one script.
type wordSense struct {
	script *unicode.RangeTable
	joined bool // the character before is a letter, or a mark on one
}

// scripts are those that do not stand together in one word.
var scripts = []*unicode.RangeTable{unicode.Latin, unicode.Cyrillic, unicode.Greek, unicode.Hebrew, unicode.Arabic, unicode.Armenian, unicode.Georgian, unicode.Thai, unicode.Devanagari}

// add takes the next character; false if it is of another script than the word
// before it.
func (w *wordSense) add(r rune) bool {
	if !unicode.IsLetter(r) {
		mark := unicode.IsMark(r)
		if mark && r >= 0x370 && r < 0x2000 && (!w.joined || w.script == unicode.Latin || w.script == unicode.Cyrillic || w.script == unicode.Greek) {
			return false // the vowel signs of other scripts do not stand on these letters
		}
		if !mark {
			w.script = nil
		}
		w.joined = mark && w.joined
		return true
	}
	w.joined = true
	if w.script != nil && unicode.Is(w.script, r) {
		return true
	}
	for _, s := range scripts {
		if unicode.Is(s, r) {
			if w.script != nil {
				return false
			}
			w.script = s
			return true
		}
	}
	return w.script == nil || r >= 0x2000 // letters of East Asia stand beside others
}

// inUse reports whether a character is one that texts have, as opposed to letters
// of phonetics, old languages and other seldom ones, to controls and to what has no
// character at all.
func inUse(r rune) bool {
	switch {
	case r < 0x80:
		return true
	case r < 0xa0:
		return false
	case r < 0x180: // Latin
		return true
	case r < 0x250:
		return r == 'ƒ' || r >= 0x1cd && r <= 0x1dc || r == 'ơ' || r == 'Ơ' || r == 'ư' || r == 'Ư' || r >= 0x218 && r <= 0x21b || r == 0x18f
	case r < 0x370: // phonetics, accents by themselves
		return r == 0x259 || r == 0x2bb || r == 0x2bc || r == 0x2c6 || r == 0x2c7 || r == 0x2dc || r >= 0x300 && r <= 0x304 || r >= 0x306 && r <= 0x30c || r == 0x323 || r == 0x327 || r == 0x328
	case r < 0x400: // Greek
		return r >= 0x384 && r <= 0x3ce || r == 0x37e
	case r < 0x530: // Cyrillic
		return r <= 0x45f || r >= 0x490 && r <= 0x4f9 || r == 0x462 || r == 0x463
	}
	return r != utf8.RuneError && !unicode.In(r, unicode.Co, unicode.Cs, unicode.Cc) && unicode.In(r, unicode.L, unicode.M, unicode.N, unicode.P, unicode.S, unicode.Zs, unicode.Cf)
}

// odd reports whether a text has a word that no language has: with a small letter
// before a capital that is no ASCII, or one behind such a capital that is not the
// first; with letters of two scripts; or with a sign between letters.
func odd(s string) bool {
	var word wordSense
	var before, last rune
	for _, r := range s {
		switch {
		case !word.add(r),
			unicode.IsUpper(r) && unicode.IsLower(last) && r >= utf8.RuneSelf,
			unicode.IsLower(r) && last >= utf8.RuneSelf && unicode.IsUpper(last) && unicode.IsUpper(before),
			strings.ContainsRune("ĂÄĹ", last) && strings.ContainsRune("śšťžźłąľż", r),
			(last == 'Ã' || last == 'Â') && strings.ContainsRune("œƒšžª\u00a0", r),
			drawn(last) && r >= utf8.RuneSelf && (unicode.IsLetter(before) || drawn(r)),
			drawn(before) && last >= utf8.RuneSelf && unicode.IsLetter(r),
			unicode.IsLetter(r) && last >= utf8.RuneSelf && unicode.In(last, unicode.S, unicode.Cc, unicode.Cf, unicode.N) && before >= utf8.RuneSelf && unicode.IsLetter(before),
			unicode.IsLower(r) && last >= utf8.RuneSelf && unicode.Is(unicode.P, last) && before >= utf8.RuneSelf && unicode.IsUpper(before):
			return true
		}
		before, last = last, r
	}
	return false
}

// drawn reports whether a character is one of those of tables and formulas that begin
// letters of UTF-8 read as Mac Roman or as an encoding of DOS.
func drawn(r rune) bool {
	return r == '√' || r == '¬' || r == '≈' || r >= 0x2500 && r < 0x2580
}

// Misread returns the texts that a text becomes when its bytes in UTF-8 are read as
// each of the encodings that are undone, by the name of the encoding.
func Misread(s string) map[string]string {
	texts := make(map[string]string, len(misreadings))
	for _, m := range misreadings {
		var b strings.Builder
		for i := range len(s) {
			if s[i] < utf8.RuneSelf {
				b.WriteByte(s[i])
			} else {
				b.WriteRune(m.runes[s[i]-0x80])
			}
		}
		texts[m.name] = b.String()
	}
	return texts
}

// Garbled reports whether a text that [Mend] does not undo has words in it that seem
// to have been misread all the same: no language has them, and they hold whole
// sequences of UTF-8.
func Garbled(s string) bool {
	// In the last two, honest words of Slavic languages can look like that.
	can := func(s string) bool { return misread(s)&(1<<(len(misreadings)-2)-1) != 0 }
	if !can(s) {
		return false
	}
	words := strings.FieldsFunc(s, func(r rune) bool { return r < utf8.RuneSelf && !isAlphanumeric(byte(r)) })
	return slices.ContainsFunc(words, func(word string) bool { return can(word) && (odd(word) || long(word)) })
}
