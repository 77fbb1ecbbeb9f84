package line

import (
	"errors"
	"os"
	"path/filepath"
	"sync"
	"sync/atomic"
)

// files are the outputs of a run while they are written.
type files struct {
	open [outputs]*os.File // nil: not written

	// What has been written of the largest file is brought to the disk while
	// more is being written, so that little is left to wait for at the end.
	since    int64 // bytes written since the last time
	busy     atomic.Bool
	flushing sync.WaitGroup
}

// flushEvery is how many bytes are written between two times.
const flushEvery = 64 << 20

func (r *Run) newFiles(dir string) (*files, error) {
	f := new(files)
	if dir == "" {
		return f, nil
	}
	for i, name := range FileNames {
		file, err := os.Create(filepath.Join(dir, name))
		if err != nil {
			f.close()
			return nil, err
		}
		f.open[i] = file
		if _, err := file.WriteString(r.head(i)); err != nil {
			f.close()
			return nil, err
		}
	}
	return f, nil
}

// add writes the outputs of the next part.
func (f *files) add(out *result) error {
	for i, file := range f.open {
		if file == nil {
			continue
		}
		if _, err := file.Write(out.bytes[i]); err != nil {
			return err
		}
	}
	file := f.open[ready]
	f.since += int64(len(out.bytes[ready]))
	if file != nil && f.since >= flushEvery && f.busy.CompareAndSwap(false, true) {
		f.since = 0
		f.flushing.Go(func() {
			file.Sync() // if it fails, so will the last one, whose error counts
			f.busy.Store(false)
		})
	}
	return nil
}

// close lets the files go; it may be called more than once.
func (f *files) close() error {
	f.flushing.Wait()
	var all error
	for i, file := range f.open {
		if file != nil {
			all = errors.Join(all, file.Close())
			f.open[i] = nil
		}
	}
	return all
}
