// Package charset says which encoding a text file is in, decodes it to UTF-8, and
// mends texts that somebody else has decoded wrongly: see [Mend].
//
// For now a file is UTF-8, with or without a byte order mark, if every byte of
// it fits, and Windows-1252 otherwise. UTF-16 is recognised, so that it can be
// refused by name.
package charset

import (
	"bytes"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"
)

// A Charset is a character encoding.
type Charset uint8

// The encodings.
const (
	UTF8 Charset = iota
	Windows1252
	UTF16 // recognised only
)

// String returns the usual name of the encoding.
func (c Charset) String() string {
	return [...]string{"UTF-8", "Windows-1252", "UTF-16"}[c]
}

// BOM is the byte order mark of UTF-8.
const BOM = "\ufeff"

// Detect looks at the first bytes of a file. more says that the file goes on
// behind them, so that a character may be cut at the end. Whether a file is
// UTF-8 to its end only reading it can tell: see [Valid].
func Detect(head []byte, more bool) (c Charset, bom bool) {
	switch {
	case bytes.HasPrefix(head, []byte(BOM)):
		return UTF8, true
	case bytes.HasPrefix(head, []byte{0xff, 0xfe}), bytes.HasPrefix(head, []byte{0xfe, 0xff}):
		return UTF16, true
	case looksUTF16(head):
		return UTF16, false
	}
	if more {
		for i := 0; i < utf8.UTFMax && len(head) > 0 && !utf8.RuneStart(head[len(head)-1]); i++ {
			head = head[:len(head)-1]
		}
		if len(head) > 0 && head[len(head)-1] >= utf8.RuneSelf {
			head = head[:len(head)-1]
		}
	}
	if utf8.Valid(head) {
		return UTF8, false
	}
	return Windows1252, false
}

// looksUTF16 reports whether every other byte of the head is nearly always
// NUL, as in Latin text of two bytes a character.
func looksUTF16(head []byte) bool {
	head = head[:min(len(head), 4096)]
	var nul [2]int
	for i, b := range head {
		if b == 0 {
			nul[i&1]++
		}
	}
	half := len(head) / 2
	return half >= 8 && (nul[0]*10 >= half*8 && nul[1]*10 <= half || nul[1]*10 >= half*8 && nul[0]*10 <= half)
}

// Decode returns the text in UTF-8. UTF-8 is returned as it is; of
// Windows-1252 the five bytes without a character become the control
// characters of the same number, as the WHATWG Encoding standard has it.
func (c Charset) Decode(b []byte) []byte {
	if c != Windows1252 {
		return b
	}
	out := make([]byte, 0, len(b)+len(b)/16+16)
	for _, x := range b {
		if x < utf8.RuneSelf {
			out = append(out, x)
		} else {
			out = append(out, windows1252[x-0x80]...)
		}
	}
	return out
}

// windows1252 holds the UTF-8 form of the bytes from 0x80.
var windows1252 = func() (t [128]string) {
	for i := range t {
		r := charmap.Windows1252.DecodeByte(byte(0x80 + i))
		if r == utf8.RuneError {
			r = rune(0x80 + i)
		}
		t[i] = string(r)
	}
	return t
}()
