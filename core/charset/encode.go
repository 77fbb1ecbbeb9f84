package charset

import (
	"bytes"
	"encoding/binary"
	"sync"
	"unicode/utf16"
	"unicode/utf8"
)

// bytesOf are the bytes of the characters of each encoding of one byte.
var bytesOf = sync.OnceValue(func() (list [numCharsets]map[rune]byte) {
	for c, s := range singles() {
		if s == nil {
			continue
		}
		list[c] = make(map[rune]byte, len(s.texts))
		for i, text := range s.texts {
			r, _ := utf8.DecodeRuneInString(text)
			list[c][r] = byte(utf8.RuneSelf + i)
		}
	}
	return list
})

// Has reports whether the encoding has a character.
func (c Charset) Has(r rune) bool {
	switch {
	case r < utf8.RuneSelf:
		return true
	case c == UTF8 || c.unicode():
		return r != utf8.RuneError
	case singles()[c] != nil:
		_, ok := bytesOf()[c][r]
		return ok
	}
	_, ok := c.encodeWide([]byte(string(r)))
	return ok
}

// encodeWide returns a text in an encoding of East Asia; ok is false if it would be
// read as another one.
func (c Charset) encodeWide(text []byte) (encoded []byte, ok bool) {
	encoded, err := wides[c].NewEncoder().Bytes(text)
	if err != nil {
		return nil, false
	}
	back, err := wides[c].NewDecoder().Bytes(encoded)
	return encoded, err == nil && bytes.Equal(back, text)
}

func (c Charset) unicode() bool { return c >= UTF16 && c <= UTF32BE }

// Marked reports whether files in the encoding may begin with a byte order mark.
func (c Charset) Marked() bool { return c == UTF8 || c.unicode() }

// Append appends a text in the encoding, without a byte order mark. If that does not
// have a character of it, ok is false and bad is the character.
func (c Charset) Append(dst []byte, text []byte) (out []byte, bad rune, ok bool) {
	switch {
	case c == UTF8:
		return append(dst, text...), 0, true
	case !utf8.Valid(text):
		return dst, utf8.RuneError, false
	case singles()[c] != nil:
		table := bytesOf()[c]
		for i := 0; i < len(text); {
			if text[i] < utf8.RuneSelf {
				dst = append(dst, text[i])
				i++
				continue
			}
			r, size := utf8.DecodeRune(text[i:])
			b, there := table[r]
			if !there {
				return dst, r, false
			}
			dst = append(dst, b)
			i += size
		}
		return dst, 0, true
	case c.unicode():
		for len(text) > 0 {
			r, size := utf8.DecodeRune(text)
			dst = c.appendUnicode(dst, r)
			text = text[size:]
		}
		return dst, 0, true
	}
	encoded, ok := c.encodeWide(text)
	if !ok {
		for _, r := range string(text) {
			if !c.Has(r) {
				return dst, r, false
			}
		}
		return dst, utf8.RuneError, false
	}
	return append(dst, encoded...), 0, true
}

func (c Charset) appendUnicode(dst []byte, r rune) []byte {
	var order binary.AppendByteOrder = binary.LittleEndian
	if c == UTF16BE || c == UTF32BE {
		order = binary.BigEndian
	}
	if c == UTF32 || c == UTF32BE {
		return order.AppendUint32(dst, uint32(r))
	}
	if first, second := utf16.EncodeRune(r); first != utf8.RuneError {
		return order.AppendUint16(order.AppendUint16(dst, uint16(first)), uint16(second))
	}
	return order.AppendUint16(dst, uint16(r))
}
