package line

// claims is the writer's memory of what products have claimed as their own: a
// number for each value and each row, so it grows with the sheet, but not with
// what the cells hold.
type claims struct {
	values [claimKinds]map[uint64]owner
	rows   map[[2]uint64]uint32
	sample sampler
	settled
	gone int // the last row that was found to be a duplicate
}

// settled is what a look at all repaired values changes.
type settled struct {
	fates  map[int]lateFate // by row
	chosen map[int]bool     // the first rows of the products in the sample; nil: all
}

// An owner is the first row that claimed a value, and its product.
type owner struct {
	row, product uint32
	col          uint16
}

// A lateFate is what only the look at the whole sheet says of a row.
type lateFate struct {
	duplicateOf int // the row that this one repeats, or 0
	clashes     []clash
}

// A clash is a value that another product claims too.
type clash struct {
	kind  ClaimKind
	col   int
	other int // a row of the other product
}

// newClaims returns an empty memory for a sheet of so many rows.
func newClaims(rows int) *claims {
	c := &claims{rows: make(map[[2]uint64]uint32, rows)}
	for i := range c.values {
		c.values[i] = make(map[uint64]owner, rows)
	}
	return c
}

// enter takes down the marks of the next part.
func (c *claims) enter(marks []mark) {
	for i := range marks {
		m := &marks[i]
		switch m.kind {
		case markLook:
			if m.row != c.gone {
				c.sample.add(m.key[0], m.row)
			}
			continue
		case markRow:
			if first, again := c.rows[m.key]; again {
				c.setLate(m.row, m.product, func(f *lateFate) { f.duplicateOf = int(first) })
				c.gone = m.row
			} else {
				c.rows[m.key] = uint32(m.row)
			}
			continue
		}
		if m.row == c.gone {
			continue // a row that is set aside claims nothing
		}
		first, claimed := c.values[m.kind][m.key[0]]
		switch {
		case !claimed:
			c.values[m.kind][m.key[0]] = owner{uint32(m.row), uint32(m.product), uint16(m.col)}
		case int(first.product) != m.product:
			c.setLate(m.row, m.product, func(f *lateFate) { f.clashes = append(f.clashes, clash{m.kind, m.col, int(first.row)}) })
			c.setLate(int(first.row), int(first.product), func(f *lateFate) {
				for _, known := range f.clashes {
					if known.kind == m.kind {
						return
					}
				}
				f.clashes = append(f.clashes, clash{m.kind, int(first.col), m.row})
			})
		}
	}
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
