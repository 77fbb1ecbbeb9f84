package line

import "slices"

// claims gathers what suspect rows claim as their own, in the order of the
// sheet. A sheet that was pasted twice makes suspects of all its rows, so what
// is kept of a row that clashes with none is small.
type claims struct {
	rows   map[[2]uint64]uint32 // by fingerprint: the first row
	owners map[claimed]claimant
	shared map[claimed][]claimant // all claimants, where there are several
	order  []claimed              // the shared values in the order in which they became so
	sample sampler
	kinds  []Claim
	keeps  bool                    // rows that repeat another go out, unless another is chosen
	chosen map[claimed][]candidate // where one row of several is chosen
	picked []claimed               // their values, in order
	settled
}

// A candidate is a row of which one with its value is kept.
type candidate struct {
	row, product uint32
	cells        []uint32
}

// full returns how many cells are not empty.
func (c *candidate) full() (n int) {
	for _, hash := range c.cells {
		if hash != 0 {
			n++
		}
	}
	return n
}

// passed is why a row is not kept: another is, and the columns in which it says something
// else than that one. An empty cell says nothing.
type passed struct {
	kept   uint32
	differ []int // among those that go out
}

type claimed struct {
	kind ClaimKind
	key  uint64
}

// A claimant is a row that claims a value.
type claimant struct {
	row, product uint32
	col          uint16
}

// settled is what a look at the whole sheet says of its rows.
type settled struct {
	duplicates repeats // rows that repeat another: that one
	clashes    map[uint32][]clash
	passed     map[uint32]passed
	sampled    map[int]bool // the first rows of the products in the sample; nil: all
}

// A clash is a value that another product claims too.
type clash struct {
	kind  ClaimKind
	col   int
	other int // a row of the other product
}

func newClaims(sample int, kinds []Claim) *claims {
	return &claims{
		kinds:   kinds,
		chosen:  make(map[claimed][]candidate),
		rows:    make(map[[2]uint64]uint32),
		owners:  make(map[claimed]claimant),
		shared:  make(map[claimed][]claimant),
		sample:  sampler{want: sample},
		settled: settled{clashes: make(map[uint32][]clash), passed: make(map[uint32]passed)},
	}
}

// enter takes down the marks of the next part.
func (c *claims) enter(marks []mark) {
	for i := range marks {
		m := &marks[i]
		row := uint32(m.row)
		switch m.kind {
		case markLook:
			c.sample.add(m.key[0], m.row)
		case markRow:
			if first, again := c.rows[m.key]; again {
				c.duplicates.add(row, first)
				c.sample.drop(m.product)
			} else {
				c.rows[m.key] = row
			}
		default:
			if _, again := c.duplicates.of(row); again && !(c.keeps && c.kinds[m.kind].Choose != ChooseNone) {
				continue // a row that is set aside claims nothing
			}
			v := claimed{m.kind, m.key[0]}
			if c.kinds[m.kind].Choose == ChooseNone {
				c.claim(v, claimant{row, uint32(m.product), uint16(m.col)})
				continue
			}
			if c.chosen[v] == nil {
				c.picked = append(c.picked, v)
			}
			c.chosen[v] = append(c.chosen[v], candidate{row, uint32(m.product), m.cells})
		}
	}
}

func (c *claims) claim(v claimed, by claimant) {
	owner, taken := c.owners[v]
	switch {
	case !taken:
		c.owners[v] = by
	case c.shared[v] == nil:
		c.order = append(c.order, v)
		c.shared[v] = []claimant{owner, by}
	default:
		c.shared[v] = append(c.shared[v], by)
	}
}

// settle says what becomes of the rows.
func (c *claims) settle() *settled {
	for _, v := range c.picked {
		c.choose(c.kinds[v.kind].Choose, c.chosen[v])
	}
	for _, v := range c.order {
		list := slices.DeleteFunc(c.shared[v], func(by claimant) bool {
			_, gone := c.passed[by.row]
			return gone
		})
		// The first of another product: for all but those of the first product it is the first.
		differs := slices.IndexFunc(list, func(by claimant) bool { return by.product != list[0].product })
		if differs < 0 {
			continue
		}
		for _, mine := range list {
			other := list[0]
			if mine.product == other.product {
				other = list[differs]
			}
			c.clashes[mine.row] = append(c.clashes[mine.row], clash{v.kind, int(mine.col), int(other.row)})
			c.sample.drop(int(mine.product))
		}
	}
	if c.sample.want > 0 {
		c.sampled = c.sample.chosen()
	}
	return &c.settled
}

// choose passes over all rows with one value but the one to keep. Rows that an
// earlier choice has passed over are no candidates.
func (c *claims) choose(how Choice, list []candidate) {
	list = slices.DeleteFunc(list, func(by candidate) bool {
		_, gone := c.passed[by.row]
		return gone
	})
	if len(list) < 2 {
		return
	}
	best := 0
	for i := range list {
		if how == ChooseLast || how == ChooseFullest && list[i].full() > list[best].full() {
			best = i
		}
	}
	kept := &list[best]
	for i := range list {
		if i == best {
			continue
		}
		p := passed{kept: kept.row}
		for n, hash := range list[i].cells {
			if n < len(kept.cells) && hash != 0 && hash != kept.cells[n] {
				p.differ = append(p.differ, n)
			}
		}
		c.passed[list[i].row] = p
		if list[i].product != kept.product {
			c.sample.drop(int(list[i].product))
		}
	}
}
