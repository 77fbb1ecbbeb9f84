package line

import (
	"bytes"
	"cmp"
	"encoding/binary"

	"zetanum/core/spill"
)

// claims gathers what suspect rows claim as their own, in the order of the
// sheet. A sheet that was pasted twice makes suspects of all its rows, so what
// is kept of them beyond a bound waits in files.
type claims struct {
	dir    string
	kinds  []Claim
	keeps  bool // rows that repeat another go out, unless another is chosen
	sample sampler
	rows   spill.Sorter // fingerprints
	owned  spill.Sorter // claims that only one product may have
	chosen spill.Sorter // claims of which one row is chosen
	cells  spill.Bytes  // of the rows of those
	hashes []byte
	seq    uint32 // marks so far
	last   mark   // the last fingerprint, and where the first of its stretch stands
	head   uint32
	again  []again
	width  int // cells of a row
	clash  spill.Sorter
	passes spill.Sorter
	settled
}

// A rowSet is a set of row numbers.
type rowSet []uint64

func (s *rowSet) add(row uint32) {
	for int(row/64) >= len(*s) {
		*s = append(*s, 0)
	}
	(*s)[row/64] |= 1 << (row % 64)
}

func (s rowSet) has(row uint32) bool {
	return int(row/64) < len(s) && s[row/64]&(1<<(row%64)) != 0
}

// again says of the rows behind one, up to another, that they repeat it: what was filled down
// needs nothing for each row.
type again struct{ seq, row, to uint32 }

// A claimant is a row that claims a value, or has a fingerprint.
type claimant struct {
	seq, row, product uint32
	col               uint16
}

// passed is why a row is not kept: another is, and the columns in which it says something
// else than that one. An empty cell says nothing.
type passed struct {
	kept   uint32
	differ []int // among those that go out
}

// A clash is a value that another product claims too.
type clash struct {
	kind  ClaimKind
	col   int
	other int // a row of the other product
}

// settled is what a look at the whole sheet says of its rows. It is safe for concurrent use.
type settled struct {
	duplicates repeats      // rows that repeat another: that one
	clashes    *spill.Table // row, order, kind, column, the other row
	passed     *spill.Table // row, the one that is kept, where the columns are, how many
	differ     spill.Bytes  // columns, two bytes each
	sampled    map[int]bool // the first rows of the products in the sample; nil: all
	gone       rowSet       // rows that are passed over
	held       rowSet       // the first rows of products that are held because of others
}

func newClaims(dir string, sample int, kinds []Claim) *claims {
	c := &claims{dir: dir, kinds: kinds, sample: sampler{want: sample}}
	for _, s := range []*spill.Sorter{&c.rows, &c.owned, &c.chosen, &c.clash, &c.passes} {
		s.Dir = dir
	}
	c.cells = spill.Bytes{Dir: dir, Most: 16 << 20}
	c.differ = spill.Bytes{Dir: dir, Most: 16 << 20}
	return c
}

// The records of rows and claims: the number of the kind and the key, by which those that
// belong together stand together, and then who has it, in the order of the sheet.
const (
	rowKeySize   = 8 + 4
	claimKeySize = 1 + 8
)

func newRecord(key []byte, seq uint32, row, product, col int) (r spill.Record) {
	b := append(r[:0], key...)
	b = binary.BigEndian.AppendUint32(b, seq)
	b = binary.BigEndian.AppendUint32(b, uint32(row))
	b = binary.BigEndian.AppendUint32(b, uint32(product))
	if len(b)+2 <= spill.Width {
		binary.BigEndian.AppendUint16(b, uint16(col))
	}
	return r
}

func readRecord(r *spill.Record, key int) (by claimant) {
	by.seq = binary.BigEndian.Uint32(r[key:])
	by.row = binary.BigEndian.Uint32(r[key+4:])
	by.product = binary.BigEndian.Uint32(r[key+8:])
	if key+14 <= spill.Width {
		by.col = binary.BigEndian.Uint16(r[key+12:])
	}
	return by
}

// enter takes down the marks of the next part.
func (c *claims) enter(marks []mark) error {
	for i := range marks {
		m := &marks[i]
		var err error
		var key [rowKeySize]byte
		switch {
		case m.kind == markLook:
			c.sample.add(m.key[0], m.row)
			continue
		case m.kind == markRow && m.key == c.last.key && m.row == c.last.row+1 && c.sample.want == 0:
			if n := len(c.again); n > 0 && c.again[n-1].to == uint32(c.last.row) {
				c.again[n-1].to++
			} else {
				c.again = append(c.again, again{c.head, uint32(c.last.row), uint32(m.row)})
			}
			c.last = *m
			continue
		case m.kind == markRow:
			c.last, c.head = *m, c.seq
			binary.BigEndian.PutUint64(key[:], m.key[0])
			binary.BigEndian.PutUint32(key[8:], uint32(m.key[1])+31*uint32(m.key[1]>>32))
			err = c.rows.Add(newRecord(key[:], c.seq, m.row, m.product, 0))
		default:
			if n := len(c.again); n > 0 && c.again[n-1].to == uint32(m.row) && !(c.keeps && c.kinds[m.kind].Choose != ChooseNone) {
				continue // a row that is set aside claims nothing
			}
			key[0] = byte(m.kind)
			binary.BigEndian.PutUint64(key[1:], m.key[0])
			to, seq := &c.owned, c.seq
			if c.kinds[m.kind].Choose != ChooseNone {
				to = &c.chosen
				seq, err = c.enterCells(m.cells)
			}
			err = cmp.Or(err, to.Add(newRecord(key[:claimKeySize], seq, m.row, m.product, m.col)))
		}
		if c.seq++; err != nil {
			return err
		}
	}
	return nil
}

// enterCells takes down the hashes of a row's cells and returns their number.
func (c *claims) enterCells(cells []uint32) (nth uint32, err error) {
	c.hashes, c.width = c.hashes[:0], len(cells)
	for _, hash := range cells {
		c.hashes = binary.LittleEndian.AppendUint32(c.hashes, hash)
	}
	at, err := c.cells.Append(c.hashes)
	return uint32(at / int64(max(1, 4*c.width))), err
}

// cellsOf returns the hashes of the cells of a row of which one is chosen, four bytes each.
func (c *claims) cellsOf(by claimant) ([]byte, error) {
	return c.cells.At(int64(by.seq)*int64(4*c.width), 4*c.width)
}

// groups calls do with those that have one key, if there are several, in order. Those that
// keep does not keep count for nothing.
func groups(s *spill.Sorter, key int, keep func(by *claimant) bool, do func(of *spill.Record, list []claimant) error) error {
	var last spill.Record
	var list []claimant
	end := func() error {
		if len(list) < 2 {
			return nil
		}
		return do(&last, list)
	}
	err := s.Each(func(r *spill.Record) error {
		if len(list) > 0 && !bytes.Equal(last[:key], r[:key]) {
			if err := end(); err != nil {
				return err
			}
			list = list[:0]
		}
		last = *r
		if by := readRecord(r, key); keep(&by) {
			list = append(list, by)
		}
		return nil
	})
	if err == nil {
		err = end()
	}
	return cmp.Or(err, s.Close())
}
