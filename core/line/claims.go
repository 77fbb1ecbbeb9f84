package line

// claims is the writer's memory of what products have claimed as their own:
// sixteen bytes and some room for each value and each row, so it grows with the
// sheet, but not with what the cells hold.
type claims struct {
	values [claimKinds]table // x is the first row of the product
	rows   table             // x is the rest of the fingerprint
	sample sampler
	settled
	gone    int    // the last row that was found to be a duplicate
	touched uint64 // keeps touching from being optimised away
}

// settled is what a look at all repaired values changes.
type settled struct {
	fates  map[int]lateFate // by row
	chosen map[int]bool     // the first rows of the products in the sample; nil: all
}

// A lateFate is what only the look at the whole sheet says of a row.
type lateFate struct {
	duplicateOf int // the row that this one repeats, or 0
	clashes     []clash
}

// A clash is a value that another product claims too.
type clash struct {
	kind  ClaimKind
	key   uint64
	other int // a row of the other product
}

// newClaims returns an empty memory for a sheet of so many rows.
func newClaims(rows int) *claims {
	c := &claims{rows: newTable(rows)}
	for i := range c.values {
		c.values[i] = newTable(rows)
	}
	return c
}

func (c *claims) table(kind ClaimKind) *table {
	if kind == markRow {
		return &c.rows
	}
	return &c.values[kind]
}

// ahead is how many marks are looked up before the first of them is entered.
const ahead = 16

// enter takes down the marks of the next part.
func (c *claims) enter(marks []mark) {
	for len(marks) > 0 {
		some := marks[:min(len(marks), ahead)]
		marks = marks[len(some):]
		// The tables are much larger than what the processor keeps at hand, so
		// each look-up waits for memory. Touching the places of several marks
		// first lets it wait for all of them at once.
		touched := uint64(0)
		for i := range some {
			if some[i].kind != markLook {
				touched += c.table(some[i].kind).touch(some[i].key[0])
			}
		}
		c.touched += touched
		for i := range some {
			c.enterOne(&some[i])
		}
	}
}

func (c *claims) enterOne(m *mark) {
	switch {
	case m.kind == markLook:
		if m.row != c.gone {
			c.sample.add(m.key[0], m.row)
		}
		return
	case m.kind == markRow:
		if first, again := c.rows.enter(m.key[0], uint32(m.key[1]), uint32(m.row), true); again {
			c.setLate(m.row, m.product, func(f *lateFate) { f.duplicateOf = int(first.row) })
			c.gone = m.row
		}
		return
	case m.row == c.gone:
		return // a row that is set aside claims nothing
	}
	first, claimed := c.values[m.kind].enter(m.key[0], uint32(m.product), uint32(m.row), false)
	if !claimed || int(first.x) == m.product {
		return
	}
	c.setLate(m.row, m.product, func(f *lateFate) { f.add(m.kind, m.key[0], int(first.row)) })
	c.setLate(int(first.row), int(first.x), func(f *lateFate) { f.add(m.kind, m.key[0], m.row) })
}

// add notes a clash, of several over one value only the first.
func (f *lateFate) add(kind ClaimKind, key uint64, other int) {
	for _, known := range f.clashes {
		if known.kind == kind && known.key == key {
			return
		}
	}
	f.clashes = append(f.clashes, clash{kind, key, other})
}

// settle says what has to be done once more, if anything.
func (c *claims) settle() *settled {
	if c.sample.want > 0 {
		c.chosen = c.sample.chosen()
	} else if len(c.fates) == 0 {
		return nil
	}
	return &c.settled
}

func (c *claims) setLate(row, product int, change func(*lateFate)) {
	c.sample.drop(product)
	if c.fates == nil {
		c.fates = make(map[int]lateFate)
	}
	f := c.fates[row]
	change(&f)
	c.fates[row] = f
}

// A table remembers, for each key, the row that was entered first. It is an
// open-addressed hash table whose entries lie side by side, four in a line of
// the processor's cache, because looking up is all that the writer does.
type table struct {
	entries []entry
	used    int
}

type entry struct {
	key    uint64
	row, x uint32 // row is never 0
}

func newTable(n int) table {
	size := 1024
	for size < n+n/2 {
		size *= 2
	}
	return table{entries: make([]entry, size)}
}

func (t *table) slot(key uint64) int {
	return int(key * 0x9e3779b97f4a7c15 >> 32 & uint64(len(t.entries)-1))
}

// touch reads where a key would be.
func (t *table) touch(key uint64) uint64 { return t.entries[t.slot(key)].key }

// enter returns the entry of a key, or enters it and returns false. With whole,
// x is part of the key.
func (t *table) enter(key uint64, x, row uint32, whole bool) (first entry, found bool) {
	for i := t.slot(key); ; i = (i + 1) & (len(t.entries) - 1) {
		e := &t.entries[i]
		if e.row == 0 {
			*e = entry{key, row, x}
			if t.used++; t.used*4 > len(t.entries)*3 {
				t.grow()
			}
			return entry{}, false
		}
		if e.key == key && (!whole || e.x == x) {
			return *e, true
		}
	}
}

func (t *table) grow() {
	old := t.entries
	t.entries = make([]entry, 2*len(old))
	for _, e := range old {
		if e.row == 0 {
			continue
		}
		i := t.slot(e.key)
		for t.entries[i].row != 0 {
			i = (i + 1) & (len(t.entries) - 1)
		}
		t.entries[i] = e
	}
}
