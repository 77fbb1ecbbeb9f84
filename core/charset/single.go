package charset

import (
	"sync"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"
)

// A single is an encoding of one byte a character.
type single struct {
	runes [128]rune // by byte from 0x80; 0 where there is no character
	texts [128]string
	prior float64 // how much more seldom than the first it is, as a logarithm
}

// named is the prior of an encoding that is read if somebody names it, but is not looked
// for: hardly a file is in it, and it differs little from others.
const named = -1e9

// singles are the encodings of one byte, by charset.
var singles = sync.OnceValue(func() *[numCharsets]*single {
	var list [numCharsets]*single
	for c, from := range map[Charset]struct {
		charmap *charmap.Charmap
		prior   float64
	}{
		Windows1252: {charmap.Windows1252, 0}, Windows1250: {charmap.Windows1250, -1}, Windows1251: {charmap.Windows1251, -1},
		Windows1253: {charmap.Windows1253, -1}, Windows1254: {charmap.Windows1254, -1.5}, Windows1255: {charmap.Windows1255, -1.5},
		Windows1256: {charmap.Windows1256, -1.5}, Windows1257: {charmap.Windows1257, -1.5}, Windows1258: {charmap.Windows1258, -2.5},
		Windows874: {charmap.Windows874, -1.5},
		ISO8859_2:  {charmap.ISO8859_2, -2}, ISO8859_3: {charmap.ISO8859_3, named}, ISO8859_4: {charmap.ISO8859_4, named},
		ISO8859_5: {charmap.ISO8859_5, -2.5}, ISO8859_6: {charmap.ISO8859_6, -3}, ISO8859_7: {charmap.ISO8859_7, -2},
		ISO8859_8: {charmap.ISO8859_8, named}, ISO8859_9: {charmap.ISO8859_9, -2.5}, ISO8859_10: {charmap.ISO8859_10, named},
		ISO8859_13: {charmap.ISO8859_13, -3.5}, ISO8859_14: {charmap.ISO8859_14, named}, ISO8859_15: {charmap.ISO8859_15, -2},
		ISO8859_16: {charmap.ISO8859_16, named}, MacRoman: {charmap.Macintosh, -2.5}, MacCyrillic: {charmap.MacintoshCyrillic, named},
		CodePage437: {charmap.CodePage437, -3}, CodePage850: {charmap.CodePage850, -2.5}, CodePage852: {charmap.CodePage852, -2.5},
		CodePage855: {charmap.CodePage855, named}, CodePage858: {charmap.CodePage858, -3.5}, CodePage860: {charmap.CodePage860, named},
		CodePage862: {charmap.CodePage862, named}, CodePage863: {charmap.CodePage863, named}, CodePage865: {charmap.CodePage865, -3.5},
		CodePage866: {charmap.CodePage866, -2}, KOI8R: {charmap.KOI8R, -2}, KOI8U: {charmap.KOI8U, -2.5},
	} {
		var runes [128]rune
		for i := range runes {
			runes[i] = from.charmap.DecodeByte(byte(0x80 + i))
		}
		list[c] = newSingle(runes[:], from.prior)
	}
	for c, from := range map[Charset]struct {
		table string
		prior float64
	}{
		MacCentralEurope: {macCentralEurope, -3}, CodePage737: {codePage737, -2.5}, CodePage775: {codePage775, -3},
		CodePage857: {codePage857, -3}, CodePage861: {codePage861, -3.5}, CodePage869: {codePage869, -3.5},
	} {
		list[c] = newSingle([]rune(from.table), from.prior)
	}
	return &list
})

// newSingle returns the encoding that has these characters.
func newSingle(runes []rune, prior float64) *single {
	s := &single{prior: prior}
	for i, r := range runes {
		if r == utf8.RuneError {
			// As the WHATWG Encoding standard has it, the control character of the
			// same number.
			s.texts[i] = string(rune(0x80 + i))
			continue
		}
		s.runes[i], s.texts[i] = r, string(r)
	}
	return s
}
