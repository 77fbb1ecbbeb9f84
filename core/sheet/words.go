package sheet

import (
	"encoding/binary"
	"math/bits"
	"unsafe"
)

// A pair of bytes at which an unquoted cell ends, each eight times over, so
// that eight bytes can be looked at at once.
type stops struct{ a, b uint64 }

const (
	ones  = 0x0101010101010101
	highs = 0x8080808080808080
)

func newStops(a, b byte) stops { return stops{uint64(a) * ones, uint64(b) * ones} }

// index returns where the first of the two bytes is in s from pos on, len(s) if
// there is none. Of the bits that mark zero bytes below only the lowest can be
// trusted, and no other is needed.
func (t stops) index(s string, pos int) int {
	data := unsafe.Slice(unsafe.StringData(s), len(s))
	for ; pos+8 <= len(data); pos += 8 {
		w := binary.LittleEndian.Uint64(data[pos:])
		x, y := w^t.a, w^t.b
		if found := ((x-ones)&^x | (y-ones)&^y) & highs; found != 0 {
			return pos + bits.TrailingZeros64(found)>>3
		}
	}
	for ; pos < len(data); pos++ {
		if c := data[pos]; c == byte(t.a) || c == byte(t.b) {
			return pos
		}
	}
	return pos
}
