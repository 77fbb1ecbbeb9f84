package text

import (
	"encoding/binary"
	"unsafe"
)

const (
	ones  = 0x0101010101010101
	highs = 0x8080808080808080
	lows  = ^uint64(highs)
)

// Suspect reports whether anything in a cell is worth a closer look: a space at
// an end or beside another, a control character, or a byte that is not ASCII.
// It looks at eight bytes at once.
func Suspect(s string) bool {
	n := len(s)
	if n == 0 {
		return false
	}
	if s[0] == ' ' || s[n-1] == ' ' {
		return true
	}
	data := unsafe.Slice(unsafe.StringData(s), n)
	if n < 8 {
		space := false
		for _, c := range data {
			if c < ' ' || c >= 0x7f || c == ' ' && space {
				return true
			}
			space = c == ' '
		}
		return false
	}
	// Eight bytes overlap with the eight before in one, so that two spaces are
	// always seen together.
	last := odd(binary.LittleEndian.Uint64(data[n-8:]))
	for ; len(data) >= 29; data = data[28:] {
		if odd(binary.LittleEndian.Uint64(data))|odd(binary.LittleEndian.Uint64(data[7:]))|odd(binary.LittleEndian.Uint64(data[14:]))|odd(binary.LittleEndian.Uint64(data[21:])) != 0 {
			return true
		}
	}
	for ; len(data) > 8; data = data[7:] {
		last |= odd(binary.LittleEndian.Uint64(data))
	}
	return last != 0
}

// odd returns 0 if all of eight bytes are printing characters of ASCII or spaces, and
// no two spaces stand side by side. Where all are ASCII no sum of theirs here has a
// carry.
func odd(w uint64) uint64 {
	spaces := ^((w ^ 0x20*ones) + lows)
	return ((w | (w + ones) | ^(w + 0x60*ones)) | spaces&(spaces<<8)) & highs
}

// ASCII reports whether a text has no other characters.
func ASCII(s string) bool {
	data := unsafe.Slice(unsafe.StringData(s), len(s))
	for len(data) >= 32 {
		if (binary.LittleEndian.Uint64(data)|binary.LittleEndian.Uint64(data[8:])|binary.LittleEndian.Uint64(data[16:])|binary.LittleEndian.Uint64(data[24:]))&highs != 0 {
			return false
		}
		data = data[32:]
	}
	for len(data) >= 8 {
		if binary.LittleEndian.Uint64(data)&highs != 0 {
			return false
		}
		data = data[8:]
	}
	for _, c := range data {
		if c >= 0x80 {
			return false
		}
	}
	return true
}
