package line

// claims gathers what suspect rows claim as their own, in the order of the
// sheet.
type claims struct {
	rows   map[[2]uint64]int // by fingerprint: the first row
	values map[claimed][]claimant
	order  []claimed // the values in the order in which they came
	sample sampler
	gone   map[int]bool // rows that repeat another
	fates  map[int]lateFate
}

type claimed struct {
	kind ClaimKind
	key  uint64
}

// A claimant is a row that claims a value.
type claimant struct{ row, col, product int }

// settled is what a look at the whole sheet says of its rows.
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
	col   int
	other int // a row of the other product
}

func newClaims(sample int) *claims {
	return &claims{
		rows:   make(map[[2]uint64]int),
		values: make(map[claimed][]claimant),
		gone:   make(map[int]bool),
		fates:  make(map[int]lateFate),
		sample: sampler{want: sample},
	}
}

// enter takes down the marks of the next part.
func (c *claims) enter(marks []mark) {
	for _, m := range marks {
		switch m.kind {
		case markLook:
			c.sample.add(m.key[0], m.row)
		case markRow:
			if first, again := c.rows[m.key]; again {
				c.gone[m.row] = true
				c.fates[m.row] = lateFate{duplicateOf: first}
				c.sample.drop(m.product)
			} else {
				c.rows[m.key] = m.row
			}
		default:
			if c.gone[m.row] {
				continue // a row that is set aside claims nothing
			}
			v := claimed{m.kind, m.key[0]}
			if c.values[v] == nil {
				c.order = append(c.order, v)
			}
			c.values[v] = append(c.values[v], claimant{m.row, m.col, m.product})
		}
	}
}

// settle says what becomes of the rows.
func (c *claims) settle() *settled {
	for _, v := range c.order {
		list := c.values[v]
		for _, mine := range list {
			for _, other := range list {
				if other.product == mine.product {
					continue
				}
				f := c.fates[mine.row]
				f.clashes = append(f.clashes, clash{v.kind, mine.col, other.row})
				c.fates[mine.row] = f
				c.sample.drop(mine.product)
				break
			}
		}
	}
	s := &settled{fates: c.fates}
	if c.sample.want > 0 {
		s.chosen = c.sample.chosen()
	}
	return s
}
