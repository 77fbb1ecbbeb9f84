package markup

// A document is the tree of a description: blocks in blocks, and in the innermost of them runs of text. It is held in slices that are used
// again for the next, with indexes for pointers; the root is block 0, which no other has in it, and so 0 is none.
type document struct {
	blocks  []block
	runs    []run
	formats []format // 0 is none
	images  []string // addresses of pictures that are moved elsewhere
}

// A block is a paragraph or the like, which has runs, or has others in it.
type block struct {
	class      class
	known      *known
	attributes string // as they are written
	level      int    // of a heading
	from, to   int    // of its runs

	first, last, next, prev, parent int

	item    int  // the depth of the item that a paragraph is, 0 for none; see [document.makeLists]
	ordered bool // it is numbered
	implied bool // no tag says that it is there
}

// A run is a piece of a line in one format.
type run struct {
	class  class  // inline for text, lineBreak, picture
	text   string // or the attributes of a picture
	format int
}

// A format is an element around a text, within others.
type format struct {
	known      *known
	attributes string
	in         int
	depth      int
}

func (d *document) reset() {
	d.blocks = append(d.blocks[:0], block{class: division})
	d.runs, d.images = d.runs[:0], d.images[:0]
	d.formats = append(d.formats[:0], format{})
}

// add puts a block at the end of another.
func (d *document) add(in int, b block) int {
	at := len(d.blocks)
	b.parent, b.prev = in, d.blocks[in].last
	d.blocks = append(d.blocks, b)
	if b.prev == 0 {
		d.blocks[in].first = at
	} else {
		d.blocks[b.prev].next = at
	}
	d.blocks[in].last = at
	return at
}

// remove takes a block out.
func (d *document) remove(at int) {
	b := d.blocks[at]
	if b.prev == 0 {
		d.blocks[b.parent].first = b.next
	} else {
		d.blocks[b.prev].next = b.next
	}
	if b.next == 0 {
		d.blocks[b.parent].last = b.prev
	} else {
		d.blocks[b.next].prev = b.prev
	}
}

// within opens a format within another; where it is open already there is nothing to open.
func (d *document) within(in int, k *known, attributes string) int {
	for f := in; f != 0; f = d.formats[f].in {
		if of := d.formats[f]; of.known == k && (attributes == "" || attributes == of.attributes || k.name == "a") {
			return in
		}
	}
	d.formats = append(d.formats, format{known: k, attributes: attributes, in: in, depth: d.formats[in].depth + 1})
	return len(d.formats) - 1
}

// path returns the formats in which a text stands, the outermost first.
func (d *document) path(to []int, f int) []int {
	to = to[:0]
	for range d.formats[f].depth {
		to = append(to, 0)
	}
	for ; f != 0; f = d.formats[f].in {
		to[d.formats[f].depth-1] = f
	}
	return to
}

// common returns the innermost format in which two texts stand both.
func (d *document) common(a, b int) int {
	for d.formats[a].depth > d.formats[b].depth {
		a = d.formats[a].in
	}
	for d.formats[b].depth > d.formats[a].depth {
		b = d.formats[b].in
	}
	for a != b {
		a, b = d.formats[a].in, d.formats[b].in
	}
	return a
}
