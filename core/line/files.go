package line

import (
	"errors"
	"os"
	"path/filepath"
	"sync"
	"sync/atomic"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/disk"
)

// files are the outputs of a run while they are written.
type files struct {
	open []*os.File // the outputs, and the lists in which anything is entered; nil: not written
	sums []*xxhash.Digest
	run  *Run
	dir  string
	look *os.File // nil if nobody wants to look

	cuts   []Cut   // of what goes to the importer, if they are wanted
	pieces []piece // of that

	// Where the products are sorted, what goes to the importer waits here.
	sorting *sorting

	branches []branchFiles

	// What has been written of the largest file is brought to the disk while
	// more is being written, so that little is left to wait for at the end.
	since    int64 // bytes written since the last time
	busy     atomic.Bool
	flushing sync.WaitGroup
}

// flushEvery is how many bytes are written between two times.
const flushEvery = 64 << 20

func (r *Run) newFiles(dir string) (*files, error) {
	n := outputs + len(r.Pipeline.Lists) + 1 // and long texts
	f := &files{open: make([]*os.File, n), sums: make([]*xxhash.Digest, n), run: r, dir: dir}
	var err error
	if f.branches, err = r.newBranchFiles(dir); err != nil {
		f.close()
		return nil, err
	}
	if dir == "" {
		return f, nil
	}
	for i := range outputs {
		if err := f.create(i); err != nil {
			f.close()
			return nil, err
		}
	}
	if r.Output.Look {
		if f.look, err = os.Create(filepath.Join(dir, LookName)); err != nil {
			f.close()
			return nil, err
		}
	}
	if r.Output.SortBy != nil {
		if f.sorting, err = newSorting(dir, unsortedName); err != nil {
			f.close()
			return nil, err
		}
	}
	return f, nil
}

// name returns the name of an output or list.
func (f *files) name(i int) string {
	if i < outputs {
		return FileNames[i]
	}
	if i == f.long() {
		return LongName
	}
	return f.run.Pipeline.Lists[i-outputs].Name
}

// long returns the number of the file of long texts.
func (f *files) long() int { return len(f.open) - 1 }

// place says of rows that they are the next of those that go out.
func (f *files) place(rows []int32) error {
	var b []byte
	for _, row := range rows {
		b = appendPlace(b, row)
	}
	return f.write(changes, b)
}

func (f *files) create(i int) error {
	file, err := os.Create(filepath.Join(f.dir, f.name(i)))
	if err != nil {
		return err
	}
	f.open[i], f.sums[i] = file, xxhash.New()
	head := []byte(f.run.head(i))
	if encode := f.run.Output.Encode; i == ready && encode != nil {
		if head, err = encode(nil, head); err != nil {
			return err
		}
	}
	if i == ready {
		f.run.headSize = int64(len(head))
		f.piece(head, xxhash.Sum64(head))
	}
	return f.write(i, head)
}

// piece notes the checksum of what is written next for the importer.
func (f *files) piece(b []byte, sum uint64) {
	if len(b) == 0 {
		return
	}
	var from int64
	if n := len(f.pieces); n > 0 {
		from = f.pieces[n-1].from + int64(f.pieces[n-1].size)
	}
	f.pieces = append(f.pieces, piece{from, len(b), sum})
}

// add writes the outputs of the next part.
func (f *files) add(out *result) error {
	for i := range out.branches {
		if err := f.branches[i].add(&out.branches[i]); err != nil {
			return err
		}
	}
	if f.dir == "" {
		return nil
	}
	if f.look != nil {
		if _, err := f.look.Write(out.look); err != nil {
			return err
		}
	}
	f.cuts = append(f.cuts, out.cuts...)
	for i := range outputs {
		if i == ready && f.sorting != nil {
			if err := f.sorting.add(out.bytes[i], out.keys); err != nil {
				return err
			}
			continue
		}
		if i == ready {
			f.piece(out.bytes[i], out.sum)
		}
		if err := f.write(i, out.bytes[i]); err != nil {
			return err
		}
	}
	for i, b := range out.lists {
		if len(b) == 0 {
			continue
		}
		if f.open[outputs+i] == nil {
			if err := f.create(outputs + i); err != nil {
				return err
			}
		}
		if err := f.write(outputs+i, b); err != nil {
			return err
		}
	}
	if len(out.long) > 0 {
		if f.open[f.long()] == nil {
			if err := f.create(f.long()); err != nil {
				return err
			}
		}
		if err := f.write(f.long(), out.long); err != nil {
			return err
		}
	}
	file := f.open[ready]
	f.since += int64(len(out.bytes[ready]))
	if f.since >= flushEvery && f.busy.CompareAndSwap(false, true) {
		f.since = 0
		f.flushing.Go(func() {
			disk.Flush(file) // if it fails, so will the last one, whose error counts
			f.busy.Store(false)
		})
	}
	return nil
}

// restChunk is how many bytes of a list are put together before they are written.
const restChunk = 1 << 16

// rest adds what the lists have to say when all rows are written.
func (f *files) rest(report *Report) error {
	for i, list := range f.run.Pipeline.Lists {
		if list.Rest == nil {
			continue
		}
		var failed error
		var b []byte
		write := func() {
			if f.dir != "" && failed == nil && len(b) > 0 {
				if f.open[outputs+i] == nil {
					failed = f.create(outputs + i)
				}
				if failed == nil {
					failed = f.write(outputs+i, b)
				}
			}
			b = b[:0]
		}
		err := list.Rest(func(cells ...string) {
			b = appendLine(b, &f.run.Table.Form, cells...)
			countUp(&report.Listed, i, 1)
			if len(b) > restChunk {
				write()
			}
		})
		write()
		if err := errors.Join(err, failed); err != nil {
			return err
		}
	}
	return nil
}

func (f *files) write(output int, b []byte) error {
	f.sums[output].Write(b) // does not fail
	_, err := f.open[output].Write(b)
	return err
}

// finish brings the files to the disk, closes them and returns the checksums of
// what was written, by name.
func (f *files) finish() (map[string]uint64, error) {
	sums := make(map[string]uint64)
	var all error
	for i, file := range f.open {
		if file != nil {
			all = errors.Join(all, disk.Flush(file))
			sums[f.name(i)] = f.sums[i].Sum64()
		}
	}
	for i := range f.branches {
		all = errors.Join(all, f.branches[i].close(sums))
	}
	return sums, errors.Join(all, f.close())
}

// close lets the files go; it may be called more than once.
func (f *files) close() error {
	f.flushing.Wait()
	var all error
	if f.look != nil {
		all = f.look.Close()
		f.look = nil
	}
	if f.sorting != nil {
		all = errors.Join(all, f.sorting.close())
		f.sorting = nil
	}
	for i := range f.branches {
		all = errors.Join(all, f.branches[i].close(nil))
	}
	for i, file := range f.open {
		if file != nil {
			all = errors.Join(all, file.Close())
			f.open[i] = nil
		}
	}
	return all
}
