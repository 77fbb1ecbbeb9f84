// Package glance says at one look over many cells what is in none of them, so that each need
// not be looked at by itself. It looks with the wide registers of the processor; where there are none that it
// knows, it says nothing, and all is looked at as if there were no such look.
package glance

import (
	"encoding/binary"
	"strings"
	"unsafe"
)

// Seen says what is among the bytes of cells that stand side by side.
type Seen uint32

// What may be seen.
const (
	High   Seen = 1 << iota // a byte that is not ASCII
	Odd                     // one that is no printing character of ASCII: High, or a control character
	Double                  // a space behind a space
	Amp                     // &

	Anything = High | Odd | Double | Amp
)

// width is how many bytes are looked at at once.
const width = 32

// Cells returns what is seen in data[from:to]: [Anything] where that cannot be said fast.
func Cells(data string, from, to int) (seen Seen) {
	if !wide || to <= width || from >= to {
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
		seen |= Seen(pairs(pointer(data, from+1), n))
	}
	return seen
}

// Words returns a place in s from at on, at least 1, before which there are only words: printing characters
// of ASCII but <, > and &, and single spaces. It is not behind the first of something else, but may be at at.
func Words(s string, at int) int {
	if !wide || at+width > len(s) {
		return at
	}
	return at + words(pointer(s, at), len(s)-at)
}

// Index is [strings.Index] of a text that has two bytes next to one another which are rare in other texts: those of it at a place.
func Index(s, of string, at int) int {
	from := 0 // before it the two do not stand
	for wide && from+width < len(s)-1 {
		from += pair(pointer(s, from), len(s)-from, of[at], of[at+1])
		if i := from - at; i >= 0 && i+len(of) <= len(s) && s[i:i+len(of)] == of {
			return i
		}
		from++
	}
	from = max(0, from-at)
	if i := strings.Index(s[from:], of); i >= 0 {
		return from + i
	}
	return -1
}

// Some returns which of four bytes stand in s: a bit for each, the lowest for the first.
func Some(s string, of [4]byte) (there uint32) {
	if wide && len(s) >= width {
		return some(pointer(s, 0), len(s), binary.LittleEndian.Uint32(of[:]))
	}
	for i, c := range of {
		if strings.IndexByte(s, c) >= 0 {
			there |= 1 << i
		}
	}
	return there
}

// Undouble writes s with each pair of quotation marks as one, in room for all of s, and returns how many bytes that are. Behind them anything
// may have been written.
func Undouble(to []byte, s string) (n int) {
	to = to[:len(s)]
	if wide && len(s) >= width {
		at := 0
		at, n = undouble(&to[0], pointer(s, 0), len(s))
		s = s[at:]
	}
	for {
		i := strings.IndexByte(s, '"')
		if i < 0 {
			return n + copy(to[n:], s)
		}
		n += copy(to[n:], s[:i+1])
		if s = s[i+1:]; s != "" && s[0] == '"' {
			s = s[1:]
		}
	}
}

// Ends are where the cells of rows end.
type Ends struct {
	cells [most]uint32 // where each ends
	rows  [most]uint32 // how many cells have ended with each row
	found int          // cells
	n     int          // rows
	next  int          // row
	taken uint32       // how many cells are of rows before the next

	looked int    // at so many bytes
	within uint64 // all ones within quotation marks
	begins uint64 // 1 where a cell may begin, or a mark be doubled, with the next byte
	closed uint64 // 1 where a mark has closed just before the next byte
}

const (
	most  = 1024     // cells that are found at once
	reach = 32 << 10 // how far they are looked for
	block = 64       // bytes that are looked at at once
)

// Find looks for the ends of the cells of rows in data, of which the first begins at from: separators and ends of line outside of
// quotation marks. It stops where it cannot be said fast how it goes on. Of a cell that begins with a quotation mark and ends
// there it has seen that each mark within it is doubled and that behind the last stands the end of the cell, or a
// carriage return and the end of line, and of others that they have no marks.
func (e *Ends) Find(data string, from int, separator, eol byte) {
	e.Forget()
	if !bits {
		return
	}
	e.found, e.within, e.begins, e.closed = 0, 0, 1, 0
	n := min(len(data)-from, reach)
	ends(pointer(data, from), n, separator, eol, uint32(from), e)
	if rest := n - e.looked; rest > 0 && rest < block && n < reach {
		var last [2 * block]byte // with something behind it that is nothing
		at := from + e.looked
		copy(last[:], data[at:at+rest])
		ends(&last[0], len(last), separator, eol, uint32(at), e)
	}
}

// Next returns where each cell of the next row ends; nothing if it is not known.
func (e *Ends) Next() (cells []uint32) {
	if e.next == e.n {
		return nil
	}
	from := e.taken
	e.taken = e.rows[e.next]
	e.next++
	return e.cells[from:e.taken]
}

// Forget forgets all.
func (e *Ends) Forget() { e.next, e.n, e.taken = 0, 0, 0 }

func pointer(s string, at int) *byte {
	return (*byte)(unsafe.Add(unsafe.Pointer(unsafe.StringData(s)), at))
}
