package line

import (
	"bufio"
	"cmp"
	"io"
	"os"
	"path/filepath"
	"slices"

	"golang.org/x/text/collate"
	"golang.org/x/text/language"

	"zetanum/core/catalogue"
)

// A sortKey is a product that goes out, with what it is sorted by and how many
// bytes its rows take.
type sortKey struct {
	cells []string // as collation keys
	bytes int
	into  string
	rows  []int32 // the numbers of its rows
}

func (k *sortKey) compare(o *sortKey) int {
	for i := range k.cells {
		if c := cmp.Compare(k.cells[i], o.cells[i]); c != 0 {
			return c
		}
	}
	return 0
}

// A sorter makes sort keys, for one worker. Letters are in the order of the
// Unicode collation algorithm's root, which most languages share, and numbers in
// texts count as numbers.
type sorter struct {
	columns []int
	collate *collate.Collator
	buffer  collate.Buffer
}

func newSorter(columns []int) *sorter {
	if len(columns) == 0 {
		return nil
	}
	return &sorter{columns: columns, collate: collate.New(language.Und, collate.Numeric)}
}

// key makes the key of a product from the first of its rows that goes out.
func (s *sorter) key(row *catalogue.Row, bytes int) sortKey {
	k := sortKey{bytes: bytes}
	for _, col := range s.columns {
		k.cells = append(k.cells, string(s.collate.KeyFromString(&s.buffer, row.Cell(col))))
		s.buffer.Reset()
	}
	return k
}

// unsortedName is the file that takes the rows for the importer until they are
// sorted.
const unsortedName = ".zetanum-unsorted"

// sort writes the rows for the importer in order, out of the file in which they
// stand as they came. Products that are sorted by the same stay in their order.
func (f *files) sort() error {
	if f.unsorted == nil {
		return nil
	}
	type piece struct {
		*sortKey
		from int64
	}
	pieces := make([]piece, len(f.keys))
	from := int64(0)
	for i := range f.keys {
		pieces[i] = piece{&f.keys[i], from}
		from += int64(f.keys[i].bytes)
	}
	slices.SortStableFunc(pieces, func(a, b piece) int { return a.compare(b.sortKey) })
	out := bufio.NewWriterSize(writerFunc(func(b []byte) (int, error) { return len(b), f.write(ready, b) }), 1<<20)
	for _, p := range pieces {
		if _, err := io.Copy(out, io.NewSectionReader(f.unsorted, p.from, int64(p.bytes))); err != nil {
			return err
		}
		if err := f.place(p.rows); err != nil {
			return err
		}
		if f.run.Output.Cuts {
			f.cuts = append(f.cuts, Cut{p.bytes, len(p.rows), p.into})
		}
	}
	if err := out.Flush(); err != nil {
		return err
	}
	name := f.unsorted.Name()
	err := f.unsorted.Close()
	f.unsorted = nil
	return cmp.Or(err, os.Remove(name))
}

type writerFunc func([]byte) (int, error)

func (w writerFunc) Write(b []byte) (int, error) { return w(b) }

// beginSorting opens the file for the rows as they come.
func (f *files) beginSorting() (err error) {
	f.unsorted, err = os.Create(filepath.Join(f.dir, unsortedName))
	return err
}
