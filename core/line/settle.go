package line

import (
	"bytes"
	"cmp"
	"encoding/binary"
	"math"
	"slices"

	"zetanum/core/spill"
)

// settle says what becomes of the rows. The error is one of the files; close must be called
// in any case.
func (c *claims) settle() (*settled, error) {
	err := c.settleRepeats()
	if err == nil {
		err = c.settleChosen()
	}
	if err == nil {
		err = c.settleOwned()
	}
	if err == nil {
		c.settled.clashes, err = c.clash.Table()
		err = cmp.Or(err, c.clash.Close())
	}
	if err == nil {
		c.settled.passed, err = c.passes.Table()
		err = cmp.Or(err, c.passes.Close(), c.differ.Flush())
	}
	if c.sample.want > 0 {
		c.sampled = c.sample.chosen()
	}
	for _, s := range []interface{ Close() error }{&c.rows, &c.owned, &c.chosen, &c.clash, &c.passes, &c.cells} {
		err = cmp.Or(err, s.Close())
	}
	return &c.settled, err
}

func (s *settled) close() error {
	return cmp.Or(s.clashes.Close(), s.passed.Close(), s.differ.Close())
}

// settleRepeats finds the rows that repeat another.
func (c *claims) settleRepeats() error {
	inOrder := spill.Sorter{Dir: c.dir}
	defer inOrder.Close()
	var last spill.Record
	var first claimant
	err := c.rows.Each(func(r *spill.Record) error {
		by := readRecord(r, rowKeySize)
		if first.row == 0 || !bytes.Equal(last[:rowKeySize], r[:rowKeySize]) {
			last, first = *r, by
			return nil
		}
		c.sample.drop(int(by.product))
		return inOrder.Add(newRecord(nil, by.seq, int(by.row), int(first.row), 0))
	})
	if err = cmp.Or(err, c.rows.Close()); err != nil {
		return err
	}
	repeated := c.again
	// those puts in the rows behind rows whose marks came before one.
	those := func(seq, first uint32) {
		for len(repeated) > 0 && repeated[0].seq <= seq {
			of := repeated[0].row
			if repeated[0].seq == seq {
				of = first
			}
			for row := repeated[0].row + 1; row <= repeated[0].to; row++ {
				c.duplicates.add(row, of)
			}
			repeated = repeated[1:]
		}
	}
	err = inOrder.Each(func(r *spill.Record) error {
		by := readRecord(r, 0)
		if by.seq > 0 {
			those(by.seq-1, 0)
		}
		c.duplicates.add(by.row, by.product)
		those(by.seq, by.product)
		return nil
	})
	if len(repeated) > 0 {
		those(math.MaxUint32, 0)
	}
	return err
}

// settleChosen chooses one row of each value of which one is kept, those values first that
// come first in the sheet.
func (c *claims) settleChosen() error {
	inOrder := spill.Sorter{Dir: c.dir}
	defer inOrder.Close()
	err := groups(&c.chosen, claimKeySize, func(by *claimant) bool {
		_, again := c.duplicates.of(by.row)
		return !again || c.keeps // a row that is set aside claims nothing
	}, func(of *spill.Record, list []claimant) error {
		key := append(binary.BigEndian.AppendUint32(nil, list[0].seq), of[0])
		for _, by := range list {
			if err := inOrder.Add(newRecord(key, by.seq, int(by.row), int(by.product), 0)); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	return groups(&inOrder, 5, func(by *claimant) bool { return !c.gone.has(by.row) }, func(of *spill.Record, list []claimant) error {
		return c.choose(c.kinds[of[4]].Choose, list)
	})
}

// choose passes over all rows with one value but the one to keep. Rows that an
// earlier choice has passed over are no candidates.
func (c *claims) choose(how Choice, list []claimant) error {
	list = slices.DeleteFunc(list, func(by claimant) bool { return c.gone.has(by.row) })
	if len(list) < 2 {
		return nil
	}
	best, fullest := 0, -1
	for i := range list {
		switch how {
		case ChooseLast:
			best = i
		case ChooseFullest:
			cells, err := c.cellsOf(list[i])
			if err != nil {
				return err
			}
			if n := full(cells); n > fullest {
				best, fullest = i, n
			}
		}
	}
	kept := list[best]
	cells, err := c.cellsOf(kept)
	if err != nil {
		return err
	}
	cells = slices.Clone(cells)
	for i, by := range list {
		if i == best {
			continue
		}
		mine, err := c.cellsOf(by)
		if err != nil {
			return err
		}
		c.hashes = c.hashes[:0]
		for n := 0; n < len(mine); n += 4 {
			if hash := mine[n : n+4]; !isEmpty(hash) && !bytes.Equal(hash, cells[n:n+4]) {
				c.hashes = binary.LittleEndian.AppendUint16(c.hashes, uint16(n/4))
			}
		}
		at, err := c.differ.Append(c.hashes)
		if err != nil {
			return err
		}
		var r spill.Record
		binary.BigEndian.PutUint32(r[:], by.row)
		binary.BigEndian.PutUint32(r[4:], kept.row)
		binary.BigEndian.PutUint64(r[8:], uint64(at))
		binary.BigEndian.PutUint32(r[16:], uint32(len(c.hashes)))
		if err := c.passes.Add(r); err != nil {
			return err
		}
		c.gone.add(by.row)
		if by.product != kept.product {
			c.sample.drop(int(by.product))
		}
	}
	return nil
}

func isEmpty(hash []byte) bool { return hash[0]|hash[1]|hash[2]|hash[3] == 0 }

// full returns how many cells are not empty.
func full(cells []byte) (n int) {
	for i := 0; i < len(cells); i += 4 {
		if !isEmpty(cells[i : i+4]) {
			n++
		}
	}
	return n
}

// settleOwned finds the values that several products claim.
func (c *claims) settleOwned() error {
	var last spill.Record
	var first, other claimant // of another product
	var same []claimant       // those of the first product, while there is no other
	second, among := uint32(0), 0
	add := func(mine, other *claimant) error {
		var r spill.Record // in each row those first that became so first
		binary.BigEndian.PutUint32(r[:], mine.row)
		binary.BigEndian.PutUint32(r[4:], second)
		r[8] = last[0]
		binary.BigEndian.PutUint32(r[9:], mine.seq)
		binary.BigEndian.PutUint16(r[13:], mine.col)
		binary.BigEndian.PutUint32(r[15:], other.row)
		c.sample.drop(int(mine.product))
		c.held.add(mine.product)
		return c.clash.Add(r)
	}
	err := c.owned.Each(func(r *spill.Record) error {
		by := readRecord(r, claimKeySize)
		if _, again := c.duplicates.of(by.row); again {
			return nil // a row that is set aside claims nothing
		}
		if among == 0 || !bytes.Equal(last[:claimKeySize], r[:claimKeySize]) {
			last, among, same, first, other = *r, 0, same[:0], claimant{}, claimant{}
		}
		if among++; among == 2 {
			second = by.seq
		}
		switch {
		case c.gone.has(by.row):
			return nil
		case first.row == 0:
			first = by
			same = append(same, by)
			return nil
		case other.row == 0 && by.product == first.product:
			same = append(same, by)
			return nil
		case other.row == 0:
			other = by
			for i := range same {
				if err := add(&same[i], &other); err != nil {
					return err
				}
			}
		}
		if by.product == first.product {
			return add(&by, &other)
		}
		return add(&by, &first)
	})
	return cmp.Or(err, c.owned.Close())
}

// A lookup says what is settled of rows, to one goroutine.
type lookup struct {
	*settled
	clashes, passed *spill.Finder
	records         []spill.Record
}

func (s *settled) lookup() *lookup {
	return &lookup{settled: s, clashes: s.clashes.Finder(), passed: s.passed.Finder()}
}

// clashesOf returns the clashes of a row.
func (l *lookup) clashesOf(row int) (list []clash, err error) {
	l.records, err = l.clashes.Find(uint32(row), l.records[:0])
	for i := range l.records {
		r := &l.records[i]
		list = append(list, clash{ClaimKind(r[8]), int(binary.BigEndian.Uint16(r[13:])), int(binary.BigEndian.Uint32(r[15:]))})
	}
	return list, err
}

// passedOver returns why a row is not kept; ok is false if it is.
func (l *lookup) passedOver(row int) (p passed, ok bool, err error) {
	l.records, err = l.passed.Find(uint32(row), l.records[:0])
	if err != nil || len(l.records) == 0 {
		return p, false, err
	}
	r := &l.records[0]
	p.kept = binary.BigEndian.Uint32(r[4:])
	columns, err := l.differ.At(int64(binary.BigEndian.Uint64(r[8:])), int(binary.BigEndian.Uint32(r[16:])))
	for i := 0; i < len(columns); i += 2 {
		p.differ = append(p.differ, int(binary.LittleEndian.Uint16(columns[i:])))
	}
	return p, true, err
}
