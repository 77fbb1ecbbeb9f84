package charset

import (
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"
)

// A single is an encoding of one byte a character.
type single struct {
	runes [128]rune // by byte from 0x80; 0 where there is no character
	texts [128]string
	prior float64 // how much more seldom than the first it is, as a logarithm
}

// rune returns the character of a byte, 0 if it has none.
func (s *single) rune(b byte) rune {
	if b < utf8.RuneSelf {
		return rune(b)
	}
	return s.runes[b-0x80]
}

// singles are the encodings of one byte, by charset.
var singles = func() (list [numCharsets]*single) {
	for c, from := range map[Charset]struct {
		charmap *charmap.Charmap
		prior   float64
	}{
		Windows1252: {charmap.Windows1252, 0}, Windows1250: {charmap.Windows1250, -2}, Windows1251: {charmap.Windows1251, -2},
		Windows1253: {charmap.Windows1253, -2}, Windows1254: {charmap.Windows1254, -2.5}, Windows1255: {charmap.Windows1255, -2.5},
		Windows1257: {charmap.Windows1257, -4}, Windows1258: {charmap.Windows1258, -4},
		ISO8859_2: {charmap.ISO8859_2, -3.5}, ISO8859_5: {charmap.ISO8859_5, -4}, ISO8859_7: {charmap.ISO8859_7, -3.5},
		ISO8859_9:  {charmap.ISO8859_9, -4},
		ISO8859_15: {charmap.ISO8859_15, -3.5}, ISO8859_16: {charmap.ISO8859_16, -5}, MacRoman: {charmap.Macintosh, -4},
		CodePage437: {charmap.CodePage437, -4.5}, CodePage850: {charmap.CodePage850, -4}, CodePage852: {charmap.CodePage852, -4},
		CodePage866: {charmap.CodePage866, -3.5},
		KOI8R:       {charmap.KOI8R, -3}, KOI8U: {charmap.KOI8U, -3.5},
	} {
		s := &single{prior: from.prior}
		for i := range s.runes {
			r := from.charmap.DecodeByte(byte(0x80 + i))
			if r == utf8.RuneError {
				// As the WHATWG Encoding standard has it, the control character of the
				// same number.
				s.texts[i] = string(rune(0x80 + i))
				continue
			}
			s.runes[i], s.texts[i] = r, string(r)
		}
		list[c] = s
	}
	return list
}()
