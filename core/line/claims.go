package line

// claims gathers what suspect rows claim as their own, in the order of the
// sheet. A sheet that was pasted twice makes suspects of all its rows, so what
// is kept of a row that clashes with none is small.
type claims struct {
	rows   map[[2]uint64]uint32 // by fingerprint: the first row
	owners map[claimed]claimant
	shared map[claimed][]claimant // all claimants, where there are several
	order  []claimed              // the shared values in the order in which they became so
	sample sampler
	settled
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
	duplicates map[uint32]uint32 // rows that repeat another: that one
	clashes    map[uint32][]clash
	chosen     map[int]bool // the first rows of the products in the sample; nil: all
}

// A clash is a value that another product claims too.
type clash struct {
	kind  ClaimKind
	col   int
	other int // a row of the other product
}

func newClaims(sample int) *claims {
	return &claims{
		rows:    make(map[[2]uint64]uint32),
		owners:  make(map[claimed]claimant),
		shared:  make(map[claimed][]claimant),
		sample:  sampler{want: sample},
		settled: settled{duplicates: make(map[uint32]uint32), clashes: make(map[uint32][]clash)},
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
				c.duplicates[row] = first
				c.sample.drop(m.product)
			} else {
				c.rows[m.key] = row
			}
		default:
			if _, gone := c.duplicates[row]; !gone { // a row that is set aside claims nothing
				c.claim(claimed{m.kind, m.key[0]}, claimant{row, uint32(m.product), uint16(m.col)})
			}
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
	for _, v := range c.order {
		list := c.shared[v]
		for _, mine := range list {
			for _, other := range list {
				if other.product == mine.product {
					continue
				}
				c.clashes[mine.row] = append(c.clashes[mine.row], clash{v.kind, int(mine.col), int(other.row)})
				c.sample.drop(int(mine.product))
				break
			}
		}
	}
	if c.sample.want > 0 {
		c.chosen = c.sample.chosen()
	}
	return &c.settled
}
