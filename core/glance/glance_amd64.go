//go:build amd64 && !purego

package glance

import "golang.org/x/sys/cpu"

var wide = cpu.X86.HasAVX2

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
