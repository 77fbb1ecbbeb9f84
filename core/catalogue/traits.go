package catalogue

import (
	"encoding/binary"
	"strings"
	"unsafe"
)

const (
	ones  = 0x0101010101010101
	highs = 0x8080808080808080
	lows  = ^uint64(highs)
)

// Traits say what characters a cell has. They are asked of a row ([Row.Has]), so that it does
// not matter to those who ask how, and when, it is found out.
type Traits uint16

// The traits.
const (
	HighBytes   Traits = 1 << iota // bytes that are not ASCII
	Controls                       // control characters, line breaks and tabs among them
	EdgeSpace                      // a space at its beginning or end
	DoubleSpace                    // two spaces side by side
	Ampersand                      // &
	LessThan                       // <
	Exponent                       // E+, as programs print large numbers
	NoDigit                        // any byte that is not one of the digits 0 to 9

	// Untidy cells are worth a closer look; none of these is in most.
	Untidy = HighBytes | Controls | EdgeSpace | DoubleSpace
	// Markup may be in a cell.
	Markup = Ampersand | LessThan
)

// Has reports whether the cell of a column has any of the traits; one that is not there has
// none.
func (r *Row) Has(col int, any Traits) bool {
	if col < 0 || col >= len(r.Cells) {
		return false
	}
	if r.Lacks != 0 && r.Marks[col]&Altered == 0 {
		switch any &^ r.Lacks {
		case 0:
			return false
		case EdgeSpace:
			return AtEdge(r.Cells[col])
		}
	}
	return Has(r.Cells[col], any)
}

// Calm reports whether it is seen at once that no cell of the row has any of the traits.
func (r *Row) Calm(any Traits) bool { return any&^r.Lacks == 0 && !r.Dirty }

// AtEdge reports whether a text begins or ends with a space.
func AtEdge(s string) bool { return s != "" && (s[0] == ' ' || s[len(s)-1] == ' ') }

// Has reports whether a text has any of the traits.
func Has(s string, any Traits) bool {
	switch any {
	case Untidy:
		return untidy(s)
	case HighBytes:
		return !IsASCII(s)
	case Untidy | Ampersand:
		return untidy(s) || strings.IndexByte(s, '&') >= 0
	}
	if any&Exponent != 0 && strings.Contains(s, "E+") {
		return true
	}
	if any&EdgeSpace != 0 && AtEdge(s) {
		return true
	}
	for i := range len(s) {
		if traitsOf[s[i]]&any != 0 || any&DoubleSpace != 0 && i > 0 && s[i] == ' ' && s[i-1] == ' ' {
			return true
		}
	}
	return false
}

// traitsOf are the traits of single bytes.
var traitsOf = func() (t [256]Traits) {
	for c := range t {
		switch {
		case c >= 0x80:
			t[c] = HighBytes
		case c < ' ' || c == 0x7f:
			t[c] = Controls
		case c == '&':
			t[c] = Ampersand
		case c == '<':
			t[c] = LessThan
		}
		if c < '0' || c > '9' {
			t[c] |= NoDigit
		}
	}
	return t
}()

// untidy is Has for Untidy: it looks at eight bytes at once.
func untidy(s string) bool {
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

// IsASCII reports whether a text has no other characters.
func IsASCII(s string) bool {
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
