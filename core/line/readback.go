package line

import (
	"context"
	"errors"
	"fmt"
	"path/filepath"
	"strings"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/sheet"
)

// ErrReadBack says that a file, read again, does not say what was written.
var ErrReadBack = errors.New("read back, it does not say what was written")

// Written sums up the rows for the importer. It does not depend on their order.
type Written struct {
	Rows  int
	Codes uint64 // a checksum of the codes that stand together in rows
}

func (w *Written) merge(o Written) {
	w.Rows += o.Rows
	w.Codes += o.Codes
}

// codeCells are the columns of codes among those that go out.
type codeCells struct {
	cols    []int // of the sheet
	places  []int // among those that go out
	count   int   // of all that go out
	scratch []byte
}

// codes returns the columns of codes.
func (o *Output) codes(columns *catalogue.Columns) (c codeCells) {
	add := func(place, col int) {
		if columns.Kind(col) == catalogue.CodeKind {
			c.cols, c.places = append(c.cols, col), append(c.places, place)
		}
		c.count++
	}
	if o.Columns == nil {
		for col := range o.count {
			add(col, col)
		}
	}
	for i, out := range o.Columns {
		add(i, out.Col)
	}
	return c
}

// add enters a row, given its codes.
func (w *Written) add(c *codeCells, code func(n int) string) {
	b := c.scratch[:0]
	for n := range c.cols {
		b = append(append(b, code(n)...), 0)
	}
	c.scratch = b
	w.Rows++
	w.Codes += xxhash.Sum64(b)
}

// ReadBack reads what was written for the importer from the folder again, after
// [Run.Do], and compares it: every byte, how many rows there are, how many cells each
// has, and the codes. The error wraps [ErrReadBack] if anything differs.
func (r *Run) ReadBack(ctx context.Context, dir string, wrote Written) error {
	if err := r.readBack(ctx, dir, FileNames[ready], &r.Output, r.headSize, r.readySum, wrote); err != nil {
		return err
	}
	for i := range r.Branches {
		b := &r.Branches[i]
		if err := r.readBack(ctx, dir, b.ReadyName(), &b.Output, b.HeadSize, b.Sum, b.Report.Written); err != nil {
			return err
		}
	}
	return nil
}

func (r *Run) readBack(ctx context.Context, dir, name string, o *Output, head int64, checksum uint64, wrote Written) error {
	t, err := sheet.OpenWritten(filepath.Join(dir, name), head, o.Style, o.Charset, dir)
	if err != nil {
		return fmt.Errorf("%s: %w", name, err)
	}
	defer t.Close()
	split, err := t.Split(func(row *catalogue.Row) bool { return row != nil }, sheet.PartSize)
	if err != nil {
		return err
	}
	scanners := make([]*sheet.Scanner, r.Workers)
	codes := make([]codeCells, r.Workers)
	for i := range scanners {
		scanners[i], codes[i] = t.Form.Scanner(""), o.codes(&r.Table.Columns)
		scanners[i].Doubled = true
	}
	var read Written
	err = ordered(ctx, r.Workers, split.Next, partSize, func(worker int, part *sheet.Part) (sum Written, err error) {
		var row catalogue.Row
		sc, c := scanners[worker], &codes[worker]
		sc.Reset(part.Data)
		for sc.Next(&row) {
			if len(row.Cells) != c.count {
				return sum, fmt.Errorf("%s: %w: a row has %d cells instead of %d", name, ErrReadBack, len(row.Cells), c.count)
			}
			sum.add(c, func(n int) string {
				code := row.Cells[c.places[n]]
				if row.Marks[c.places[n]]&catalogue.Quoted != 0 {
					code = strings.ReplaceAll(code, `""`, `"`)
				}
				return code
			})
		}
		return sum, nil
	}, func(sum Written) error {
		read.merge(sum)
		return nil
	})
	switch {
	case err != nil:
		return err
	case !t.Form.Spooled && split.Sum() != checksum:
		return fmt.Errorf("%s: %w: its bytes are others", name, ErrReadBack)
	case read.Rows != wrote.Rows:
		return fmt.Errorf("%s: %w: it has %d rows instead of %d", name, ErrReadBack, read.Rows, wrote.Rows)
	case read.Codes != wrote.Codes:
		return fmt.Errorf("%s: %w: codes in it are others", name, ErrReadBack)
	}
	return nil
}
