package line

import (
	"bufio"
	"cmp"
	"errors"
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

// A sorting keeps rows as they come until they are written in order.
type sorting struct {
	file *os.File
	keys []sortKey
}

// newSorting creates the file in which they wait.
func newSorting(dir, name string) (*sorting, error) {
	file, err := os.Create(filepath.Join(dir, name))
	if err != nil {
		return nil, err
	}
	return &sorting{file: file}, nil
}

// add keeps the rows of products.
func (s *sorting) add(rows []byte, keys []sortKey) error {
	s.keys = append(s.keys, keys...)
	_, err := s.file.Write(rows)
	return err
}

// write writes the rows in order, and calls each for each product. Products that are sorted by the same stay in their order.
func (s *sorting) write(write func([]byte) error, each func(*sortKey) error) error {
	type piece struct {
		*sortKey
		from int64
	}
	pieces := make([]piece, len(s.keys))
	from := int64(0)
	for i := range s.keys {
		pieces[i] = piece{&s.keys[i], from}
		from += int64(s.keys[i].bytes)
	}
	slices.SortStableFunc(pieces, func(a, b piece) int { return a.compare(b.sortKey) })
	out := bufio.NewWriterSize(writerFunc(func(b []byte) (int, error) { return len(b), write(b) }), 1<<20)
	for _, p := range pieces {
		if _, err := io.Copy(out, io.NewSectionReader(s.file, p.from, int64(p.bytes))); err != nil {
			return err
		}
		if err := each(p.sortKey); err != nil {
			return err
		}
	}
	return cmp.Or(out.Flush(), s.close())
}

// close takes the file away; it may be called more than once.
func (s *sorting) close() error {
	if s.file == nil {
		return nil
	}
	name := s.file.Name()
	err := errors.Join(s.file.Close(), os.Remove(name))
	s.file = nil
	return err
}

// sort writes the rows for the importer in order, out of the file in which they
// stand as they came.
func (f *files) sort() error {
	for i := range f.branches {
		if err := f.branches[i].sort(); err != nil {
			return err
		}
	}
	if f.sorting == nil {
		return nil
	}
	return f.sorting.write(func(b []byte) error { return f.write(ready, b) }, func(k *sortKey) error {
		if f.run.Output.Cuts {
			f.cuts = append(f.cuts, Cut{k.bytes, len(k.rows), k.into})
		}
		return f.place(k.rows)
	})
}

type writerFunc func([]byte) (int, error)

func (w writerFunc) Write(b []byte) (int, error) { return w(b) }
