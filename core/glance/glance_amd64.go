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

// ends writes where cells end among the n bytes from p on, which is place from, to cells, and how many have ended with each row to rows. Of both there
// is room for so many, more than 64. It returns how many rows it saw the end of. It stops with the last 64 whole bytes, where there is room
// for fewer than 64 cells, or before the 64 bytes in which a quotation mark stands in an odd place.
//
//go:noescape
func ends(p *byte, n int, separator, eol byte, from uint32, cells, rows *uint32, room int) int
