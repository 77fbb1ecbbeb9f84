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
	if s == "" {
		return false
	}
	if s[0] == ' ' || s[len(s)-1] == ' ' {
		return true
	}
	data := unsafe.Slice(unsafe.StringData(s), len(s))
	carry := uint64(0) // 0x80 if the byte before is a space
	i := 0
	for ; i+8 <= len(data); i += 8 {
		w := binary.LittleEndian.Uint64(data[i:])
		if (w|(w-0x20*ones)&^w)&highs != 0 || equal(w, 0x7f*ones) != 0 {
			return true
		}
		spaces := equal(w, 0x20*ones)
		if spaces&(spaces<<8|carry) != 0 {
			return true
		}
		carry = spaces >> 56
	}
	space := carry != 0
	for ; i < len(data); i++ {
		c := data[i]
		if c < ' ' || c >= 0x7f || c == ' ' && space {
			return true
		}
		space = c == ' '
	}
	return false
}

// equal returns 0x80 in every byte in which the ASCII texts w and pattern agree.
func equal(w, pattern uint64) uint64 {
	x := w ^ pattern
	return ^((x&lows + lows) | x | lows)
}
