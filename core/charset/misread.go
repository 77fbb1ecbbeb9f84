package charset

import (
	"encoding/binary"
	"math/bits"
	"slices"
	"strings"
	"sync"
	"unicode/utf8"
	"unsafe"

	"golang.org/x/text/encoding/charmap"
)

// A misreading is an encoding in which UTF-8 is often read by mistake. Its bytes
// without a character are taken for the control characters of the same number,
// which is how most programs pass them on.
type misreading struct {
	name  string
	bit   uint8     // 0 for those that are undone only where it is known that a text was read so
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

// asked are the other encodings of one byte a character, by name. A text is taken for
// misread as one of them only if others beside it were: the file itself is in it.
var asked = sync.OnceValue(func() map[string]*misreading {
	list := make(map[string]*misreading)
	for c, s := range singles() {
		name := Charset(c).String()
		if s == nil || slices.ContainsFunc(misreadings, func(m *misreading) bool { return m.name == name }) {
			continue
		}
		m := &misreading{name: name, bytes: make(map[rune]byte, 128), plain: true}
		for i, text := range s.texts {
			m.runes[i], _ = utf8.DecodeRuneInString(text)
			m.bytes[m.runes[i]] = byte(0x80 + i)
		}
		list[name] = m
	}
	return list
})

// may reports whether a text can have been read as the encoding; it is wrong at times.
func (m *misreading) may(s string) bool { return m.bit == 0 || misread(s)&m.bit != 0 }

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
