package sheet

import (
	"bufio"
	"encoding/binary"
	"errors"
	"io"
	"math"
	"os"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/charset"
)

// A Member says to which product a row belongs.
type Member struct {
	Key   uint64 // of the product; 0 if the row goes with the one above it
	Alone bool   // it has no key, and is a product of its own
	Lead  bool   // it has what the first row of a product has
}

// Regroup brings rows that belong together but stand apart to the first of them, the lead
// row before the others, and returns how many have moved. The rows keep their numbers.
// Without any the table stays as it is; otherwise its rows are written down in their new
// order. It remembers a few bytes of each row.
func (t *Table) Regroup(member func(*catalogue.Row) Member) (moved int, err error) {
	var order []uint32
	err = t.eachAsIs(func(rows func(func(*catalogue.Row) error) error) error {
		var of []uint32 // the group of each row
		var leads []bool
		group := make(map[uint64]uint32)
		groups, now := uint32(1), uint32(0) // rows above the first product are a group
		if err := rows(func(row *catalogue.Row) error {
			m := Member{}
			if !row.Blank() && !t.beneath(row.Number) {
				m = member(row)
			}
			switch known, there := group[m.Key]; {
			case m.Alone:
				now, groups = groups, groups+1
			case m.Key == 0:
			case there:
				now = known
			default:
				now, groups = groups, groups+1
				group[m.Key] = now
			}
			of, leads = append(of, now), append(leads, m.Lead)
			return nil
		}); err != nil {
			return err
		}
		order, moved = ordered(of, leads, groups)
		return nil
	})
	if err != nil || moved == 0 {
		return 0, err
	}
	return moved, t.rewrite(order, nil)
}

// Amend puts other cells into rows: put may change those of any. The rows keep their numbers.
func (t *Table) Amend(put func(*catalogue.Row)) error { return t.rewrite(nil, put) }

// ordered returns the rows in the order of their groups, and how many stand in another
// place then.
func ordered(of []uint32, leads []bool, groups uint32) (order []uint32, moved int) {
	from := make([]uint32, groups+1)
	for _, g := range of {
		from[g+1]++
	}
	for g := range groups {
		from[g+1] += from[g]
	}
	order = make([]uint32, len(of))
	next := append([]uint32(nil), from...)
	for i, g := range of {
		order[next[g]] = uint32(i)
		next[g]++
	}
	for g := range groups {
		rows := order[from[g]:from[g+1]]
		for n, i := range rows {
			if g > 0 && leads[i] {
				copy(rows[1:n+1], rows[:n])
				rows[0] = i
				break
			}
		}
	}
	for at, i := range order {
		if uint32(at) != i {
			moved++
		}
	}
	return order, moved
}

// eachAsIs reads all rows below the headings, with foreign bytes as they are: do is called
// with what gives them, and again if the sheet turns out to be in another form.
func (t *Table) eachAsIs(do func(rows func(func(*catalogue.Row) error) error) error) error {
	for {
		err := do(func(add func(*catalogue.Row) error) error {
			var failed error
			err := t.each(func(s string) string { return s }, func(row *catalogue.Row) {
				if failed == nil {
					failed = add(row)
				}
			})
			return errors.Join(err, failed)
		})
		var surprise *Surprise
		if !errors.As(err, &surprise) {
			return err
		}
		if err := t.Adopt(surprise); err != nil {
			return err
		}
	}
}

// EachAsIs is [Table.Each] with foreign bytes as they are: as a [Splitter] gives them.
func (t *Table) EachAsIs(reset func(), add func(*catalogue.Row)) error {
	return t.eachAsIs(func(rows func(func(*catalogue.Row) error) error) error {
		reset()
		return rows(func(row *catalogue.Row) error {
			add(row)
			return nil
		})
	})
}

// rewrite writes the rows down in that order, or as they come, with what put makes of them, and
// reads them from there from now on.
func (t *Table) rewrite(order []uint32, put func(*catalogue.Row)) error {
	if !t.Form.Spooled && t.Transcoded == charset.UTF8 && t.Member == "" {
		sum := xxhash.New()
		if _, err := io.Copy(sum, io.NewSectionReader(t.file, 0, math.MaxInt64)); err != nil {
			return t.fail(err, "", "")
		}
		t.BookSum = sum.Sum64()
	}
	t.was = t.Kind()
	asTheyCome, err := os.CreateTemp(t.opt.Spool, ".zetanum-spool-*")
	if err != nil {
		return err
	}
	defer func() {
		asTheyCome.Close()
		os.Remove(asTheyCome.Name())
	}()
	out := bufio.NewWriterSize(asTheyCome, 1<<20)
	ends := make([]int64, 0, len(order)+1)
	ends = append(ends, 0)
	var buf []byte
	err = t.each(func(s string) string { return s }, func(row *catalogue.Row) {
		if put != nil {
			put(row)
		}
		buf = appendNumbered(buf[:0], row)
		out.Write(buf)
		ends = append(ends, ends[len(ends)-1]+int64(len(buf)))
	})
	if err = errors.Join(err, out.Flush()); err != nil {
		return err
	}
	if order == nil {
		order = make([]uint32, len(ends)-1)
		for i := range order {
			order[i] = uint32(i)
		}
	}
	if len(ends) != len(order)+1 {
		return ErrChanged
	}
	_, done := t.giveUp()
	defer done()
	spool, err := t.newSpool()
	if err != nil {
		return err
	}
	out.Reset(spool)
	piece := make([]byte, 1<<18)
	for at := 0; at < len(order); {
		// What follows one another is copied at once.
		first := at
		for at++; at < len(order) && order[at] == order[at-1]+1; at++ {
		}
		for from, to := ends[order[first]], ends[order[at-1]+1]; from < to; {
			rows := piece[:min(int64(len(piece)), to-from)]
			if _, err := asTheyCome.ReadAt(rows, from); err != nil {
				return err
			}
			out.Write(rows) // its error comes with Flush
			from += int64(len(rows))
		}
	}
	if err := out.Flush(); err != nil {
		return err
	}
	t.start, t.Extent = 0, ends[len(ends)-1]
	t.Form = Form{Encoding: t.Form.Encoding, Separator: t.Form.Separator, Columns: t.Form.Columns, LineEnd: t.Form.LineEnd, Spooled: true,
		Numbered: true}
	t.Form.Charset = charset.UTF8
	return nil
}

// appendNumbered appends a row in the form of spooled ones, with twice its number before it, and
// one more if a quotation mark strayed in it.
func appendNumbered(dst []byte, row *catalogue.Row) []byte {
	var body []byte
	number := uint64(row.Number) << 1
	if row.Stray {
		number |= 1
	}
	body = binary.AppendUvarint(body, number)
	for i, cell := range row.Cells {
		n := uint64(len(cell)) << len(spooled)
		for bit, m := range spooled {
			if row.Marks[i]&m != 0 {
				n |= 1 << bit
			}
		}
		body = append(binary.AppendUvarint(body, n), cell...)
	}
	return append(binary.AppendUvarint(dst, uint64(len(body))), body...)
}
