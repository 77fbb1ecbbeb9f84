package charset

import (
	"bytes"
	"encoding/binary"
	"unicode"
	"unicode/utf16"
	"unicode/utf8"
)

// unicodeOf recognises UTF-16 and UTF-32, by their mark or, without one, by how the
// NULs lie: every table has separators and ends of lines, which are ASCII.
func unicodeOf(head []byte) (c Charset, bom, ok bool) {
	for _, mark := range []struct {
		bytes string
		Charset
	}{{"\xff\xfe\x00\x00", UTF32}, {"\x00\x00\xfe\xff", UTF32BE}, {"\xff\xfe", UTF16}, {"\xfe\xff", UTF16BE}} {
		if bytes.HasPrefix(head, []byte(mark.bytes)) {
			return mark.Charset, true, true
		}
	}
	head = head[:min(len(head), 8192)&^3]
	if len(head) < 16 {
		return UTF8, false, false
	}
	var nul [4]int
	for i, b := range head {
		if b == 0 {
			nul[i&3]++
		}
	}
	quarter := len(head) / 4
	switch {
	case nul[2]+nul[3] >= 2*quarter-quarter/8 && nul[0] == 0 && sensible(head, UTF32):
		return UTF32, false, true
	case nul[0]+nul[1] >= 2*quarter-quarter/8 && nul[3] == 0 && sensible(head, UTF32BE):
		return UTF32BE, false, true
	}
	even, odd := nul[0]+nul[2], nul[1]+nul[3]
	switch {
	case odd >= 4 && even*20 <= odd && sensible(head, UTF16):
		return UTF16, false, true
	case even >= 4 && odd*20 <= even && sensible(head, UTF16BE):
		return UTF16BE, false, true
	}
	return UTF8, false, false
}

// sensible reports whether bytes read as UTF-16 or UTF-32 are text: nearly no controls
// and nothing that is no character; and some ASCII, which tables have.
func sensible(data []byte, c Charset) bool {
	var runes []rune
	var order binary.ByteOrder = binary.LittleEndian
	if c == UTF16BE || c == UTF32BE {
		order = binary.BigEndian
	}
	if c == UTF32 || c == UTF32BE {
		for i := 0; i+4 <= len(data); i += 4 {
			runes = append(runes, rune(order.Uint32(data[i:])))
		}
	} else {
		var units []uint16
		for i := 0; i+2 <= len(data); i += 2 {
			units = append(units, order.Uint16(data[i:]))
		}
		runes = utf16.Decode(units)
	}
	odd, ascii := 0, 0
	for _, r := range runes {
		switch {
		case r == '\n' || r == '\r' || r == '\t' || r >= ' ' && r < 0x7f:
			ascii++
		case !utf8.ValidRune(r), r == utf8.RuneError, unicode.Is(unicode.C, r) && !unicode.Is(unicode.Cf, r),
			!unicode.In(r, unicode.L, unicode.M, unicode.N, unicode.P, unicode.S, unicode.Z, unicode.Cf):
			odd++
		}
	}
	return ascii*20 >= len(runes) && odd*50 <= len(runes)
}

// escaped reports whether a text of ASCII has the sequences in it by which ISO-2022-JP
// (RFC 1468) passes to Japanese and back.
func escaped(head []byte) bool {
	return (bytes.Contains(head, []byte("\x1b$B")) || bytes.Contains(head, []byte("\x1b$@"))) &&
		(bytes.Contains(head, []byte("\x1b(B")) || bytes.Contains(head, []byte("\x1b(J")))
}
