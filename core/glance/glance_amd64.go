//go:build amd64 && !purego

package glance

import "golang.org/x/sys/cpu"

var (
	wide = cpu.X86.HasAVX2
	bits = wide && cpu.X86.HasBMI1 && cpu.X86.HasPOPCNT
)

// pairs looks at n bytes from p on, at least one, each with the one before. It reads 33 bytes up to the last
// of them, if there are fewer.
//
//go:noescape
func pairs(p *byte, n int) uint32

// words returns how many of the n bytes from p on are words, or up to 31 fewer at their end. It
// reads the byte before p.
//
//go:noescape
func words(p *byte, n int) int

// ends looks at n bytes from p on, as far as they are whole blocks of 64, and enters where cells and rows end; the first of them is at place from. It goes on with what
// was found and seen before, and says how many bytes it looked at: fewer where there is room for fewer than 64 cells, or before the block in
// which a quotation mark stands in an odd place, or may do so, because the byte behind the block is not known.
//
//go:noescape
func ends(p *byte, n int, separator, eol byte, from uint32, e *Ends)

// pair returns where among n bytes from p on one byte stands before another, or a place before which it does not, at most 32 before the end.
//
//go:noescape
func pair(p *byte, n int, first, second byte) int

// some returns which of four bytes, the first the lowest, stand among the n bytes from p on, at least 32: a bit for each.
//
//go:noescape
func some(p *byte, n int, of uint32) uint32

// undouble writes what [Undouble] does of n bytes from p on, up to 31 before their end, and says how far it came. Where it writes there is room
// for all of them.
//
//go:noescape
func undouble(to, p *byte, n int) (at, written int)
