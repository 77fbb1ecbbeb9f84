package sheet

import (
	"strings"
	"unsafe"
)

// A room is memory for the text of a part, and for those of its cells that are not in it as they are.
type room struct {
	text  []byte
	cells [][]byte // what is to be spoilt besides
}

// cellRoom is how much memory is taken at a time for cells.
const cellRoom = 64 << 10

// newRoom returns a room with n bytes for a text.
func newRoom(n int) *room { return &room{text: unset(n)} }

// more returns a piece of memory for cells of which one needs n bytes.
func (r *room) more(n int) []byte {
	b := unset(max(cellRoom, n))
	if spoils && r != nil {
		r.cells = append(r.cells, b)
	}
	return b[:0]
}

// spoil writes over everything in the room, so that whoever still looks at it does not find what was there.
func (r *room) spoil() {
	for _, b := range append(r.cells, r.text[:cap(r.text)]) {
		for i := range b {
			b[i] = '\a'
		}
	}
}

// Release says that nobody looks at the text of the part again, nor at cells that were read of it. What goes on needing a cell has to have a
// copy of it (strings.Clone), or the whole part stays in memory.
func (p *Part) Release() {
	if spoils && p.room != nil {
		p.room.spoil()
	}
	p.room, p.Data = nil, ""
}

// unset returns n bytes of new memory that, other than those of make, have not
// been set to zero: they are about to be read into, and for whole files zeroing
// costs as much as checksums. A [strings.Builder] has such memory.
func unset(n int) []byte {
	var b strings.Builder
	b.Grow(n + 1)
	b.WriteByte(0) // or the text would be empty and have no address
	return unsafe.Slice(unsafe.StringData(b.String()), n)
}
