package sheet

import (
	"strings"
	"sync"
	"unsafe"
)

// A room is memory for the text of a part, and for those of its cells that are not in it as they are. It is used again for
// another part when that one is released.
type room struct {
	text  []byte
	cells [][]byte // pieces of cellRoom bytes
	used  int      // how many of them
}

const (
	// cellRoom is how much memory is taken at a time for cells.
	cellRoom = 64 << 10
	// mostRoom is how large a room may be to be kept, in bytes of its text and of its cells.
	mostRoom = 2 * (PartSize + lookAhead)
)

var rooms sync.Pool

// newRoom returns a room with at least n bytes for a text.
func newRoom(n int) *room {
	r, _ := rooms.Get().(*room)
	if r == nil {
		r = new(room)
	}
	if cap(r.text) < n {
		r.text = unset(max(n, PartSize+lookAhead))
	}
	return r
}

// more returns a piece of memory for cells of which one needs n bytes.
func (r *room) more(n int) []byte {
	if r == nil || n > cellRoom {
		return unset(max(cellRoom, n))[:0]
	}
	if r.used == len(r.cells) {
		r.cells = append(r.cells, unset(cellRoom))
	}
	r.used++
	return r.cells[r.used-1][:0]
}

// release gives the room back, if it is of the size of most.
func (r *room) release() {
	if spoils {
		r.spoil()
	}
	if cap(r.text) <= mostRoom && len(r.cells)*cellRoom <= mostRoom {
		r.used = 0
		rooms.Put(r)
	}
}

// spoil writes over everything in the room, so that whoever still looks at it does not find what was there.
func (r *room) spoil() {
	for _, b := range append(r.cells, r.text[:cap(r.text)]) {
		for i := range b {
			b[i] = '\a'
		}
	}
}

// Release says that nobody looks at the text of the part again, nor at cells that were read of it: its memory is used for
// another part. What goes on needing a cell has to have a copy of it (strings.Clone).
func (p *Part) Release() {
	if p.room != nil {
		p.room.release()
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
