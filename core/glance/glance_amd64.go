//go:build amd64 && !purego

package glance

import (
	"unsafe"

	"golang.org/x/sys/cpu"
)

// width is how many bytes are looked at at once.
const width = 32

// Cells returns what is seen in data[from:to]: [Anything] where that cannot be said fast.
func Cells(data string, from, to int) (seen Seen) {
	if !cpu.X86.HasAVX2 || to <= width || from >= to {
		return Anything
	}
	switch c := data[from]; { // has nothing before it
	case c >= 0x80:
		seen = High | Odd
	case c < ' ' || c == 0x7f:
		seen = Odd
	case c == '&':
		seen = Amp
	}
	if n := to - from - 1; n > 0 {
		seen |= Seen(pairs((*byte)(unsafe.Add(unsafe.Pointer(unsafe.StringData(data)), from+1)), n))
	}
	return seen
}

// pairs looks at n bytes from p on, at least one, each with the one before. It reads 33 bytes up to the last
// of them, if there are fewer.
//
//go:noescape
func pairs(p *byte, n int) uint32

// Words returns a place in s from at on, at least 1, before which there are only words: printing characters
// of ASCII but <, > and &, and single spaces. Where that place is may depend on the processor; none behind it that is
// the first of something else.
func Words(s string, at int) int {
	if !cpu.X86.HasAVX2 || at+width > len(s) {
		return at
	}
	return at + words((*byte)(unsafe.Add(unsafe.Pointer(unsafe.StringData(s)), at)), len(s)-at)
}

// words returns how many of the n bytes from p on are words, or up to 31 fewer at their end. It
// reads the byte before p.
//
//go:noescape
func words(p *byte, n int) int
