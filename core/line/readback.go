package line

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"unsafe"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/glance"
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

// add enters the codes of a row.
func (w *Written) add(c *codeCells, code func(n int) string) {
	b := c.scratch[:0]
	for n := range c.cols {
		b = append(append(b, code(n)...), 0)
	}
	c.scratch = b
	w.Codes += xxhash.Sum64(b)
}

// proves reports whether each row can be read back where it is written: what is written later does not
// change it, nor where it stands.
func (o *Output) proves() bool {
	return o.Encode == nil && o.Quote == '"' && o.SortBy == nil
}

// A proof reads rows back that have just been written.
type proof struct {
	output  *Output
	scanner *sheet.Scanner
	read    catalogue.Row
}

func newProof(o *Output) *proof {
	form := sheet.Form{Separator: o.Separator, LineEnd: o.LineEnd, CR: o.LineEnd == "\r"}
	p := &proof{output: o, scanner: form.Scanner("")}
	p.scanner.Doubled = true
	return p
}

// row returns an error if the row of a part that was written from that byte on cannot be read again as it is. One that was copied as
// a whole was read from the same bytes.
func (p *proof) row(written []byte, from int, part *sheet.Part, row *catalogue.Row) error {
	o := p.output
	if from > 0 && !o.ended(written[:from]) {
		return fmt.Errorf("row %d: %w: the row before it does not end", row.Number, ErrReadBack)
	}
	if o.whole(row) {
		return nil
	}
	text := unsafe.String(&written[from], len(written)-from)
	if p.plainly(text, part, row) {
		return nil
	}
	p.scanner.Reset(text)
	if !p.scanner.Next(&p.read) || p.scanner.Open || p.scanner.Pos() != len(written)-from || len(p.read.Cells) != o.Count() {
		return fmt.Errorf("row %d: %w: it is not one row of %d cells", row.Number, ErrReadBack, o.Count())
	}
	for n, cell := range p.read.Cells {
		col := o.Col(n)
		if _, next := o.copied(row, n); next > n {
			continue
		}
		if p.read.Marks[n]&catalogue.Quoted != 0 {
			cell = strings.ReplaceAll(cell, `""`, `"`)
		}
		if cell != row.Cell(col) {
			return fmt.Errorf("row %d, column %d: %w", row.Number, n+1, ErrReadBack)
		}
	}
	return nil
}

// plainly reports whether a row is seen to be written as it is: each cell has the bytes that it was read from, or says what it should, and between
// them stands what must. Otherwise it may still be.
func (p *proof) plainly(text string, part *sheet.Part, row *catalogue.Row) bool {
	o := p.output
	if o.LineEnd != o.form.LineEnd { // with which a cell as it was read may end otherwise
		return false
	}
	for n := 0; n < o.Count(); {
		if n > 0 {
			if text == "" || text[0] != o.Separator {
				return false
			}
			text = text[1:]
		}
		ok := false
		span, next := o.copied(row, n)
		switch {
		case next > n:
			text, ok = strings.CutPrefix(text, part.Data[span.From:span.To])
		case text != "" && text[0] == '"':
			text, ok = cutQuoted(text[1:], row.Cell(o.Col(n)))
		default:
			cell := row.Cell(o.Col(n))
			if glance.Some(cell, [4]byte{o.Separator, '\n', '\r', '\n'}) == 0 {
				text, ok = strings.CutPrefix(text, cell)
			}
		}
		if !ok {
			return false
		}
		n = max(next, n+1)
	}
	return text == o.LineEnd
}

// cutQuoted returns a text without the cell with which it begins, behind its first quotation mark, and whether it is that one.
func cutQuoted(text, cell string) (rest string, ok bool) {
	for {
		i := strings.IndexByte(cell, '"')
		if i < 0 {
			if text, ok = strings.CutPrefix(text, cell); !ok {
				return text, false
			}
			return strings.CutPrefix(text, `"`)
		}
		if len(text) < i+2 || text[:i+1] != cell[:i+1] || text[i+1] != '"' {
			return text, false
		}
		text, cell = text[i+2:], cell[i+1:]
	}
}

// ReadBack reads what was written for the importer from the folder again, after
// [Run.Do], and compares it: every byte, and, where rows were brought to another order or encoding once
// they were written, how many there are, how many cells each has, and the codes. (The others have been read
// right after each was written.) The error wraps [ErrReadBack] if anything differs.
func (r *Run) ReadBack(ctx context.Context, dir string, wrote Written) error {
	var err error
	if r.proves {
		err = r.compare(ctx, filepath.Join(dir, FileNames[ready]))
	} else {
		err = r.readBack(ctx, dir, FileNames[ready], &r.Output, r.headSize, r.readySum, wrote)
	}
	if err != nil {
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

// A piece is a stretch of what was written at once.
type piece struct {
	from int64
	size int
	sum  uint64
}

// compare compares the bytes of the file for the importer with those that were written.
func (r *Run) compare(ctx context.Context, path string) error {
	differs := fmt.Errorf("%s: %w: its bytes are others", filepath.Base(path), ErrReadBack)
	file, err := os.Open(path)
	if err != nil {
		return err
	}
	defer file.Close()
	info, err := file.Stat()
	if err != nil {
		return err
	}
	var size int64
	if n := len(r.pieces); n > 0 {
		size = r.pieces[n-1].from + int64(r.pieces[n-1].size)
	}
	if info.Size() != size {
		return differs
	}
	rooms := make([][]byte, r.Workers)
	next := 0
	return ordered(ctx, r.Workers, func() (*piece, error) {
		if next == len(r.pieces) {
			return nil, io.EOF
		}
		next++
		return &r.pieces[next-1], nil
	}, nil, func(worker int, p *piece) (struct{}, error) {
		rooms[worker] = slices.Grow(rooms[worker][:0], p.size)[:p.size]
		if _, err := file.ReadAt(rooms[worker], p.from); err != nil {
			return struct{}{}, err
		}
		if xxhash.Sum64(rooms[worker]) != p.sum {
			return struct{}{}, differs
		}
		return struct{}{}, nil
	}, func(struct{}) error { return nil })
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
		part.Read(&t.Form)
		var row catalogue.Row
		sc, c := scanners[worker], &codes[worker]
		sc.Reset(part.Data)
		for sc.Next(&row) {
			if len(row.Cells) != c.count {
				return sum, fmt.Errorf("%s: %w: a row has %d cells instead of %d", name, ErrReadBack, len(row.Cells), c.count)
			}
			sum.Rows++
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
