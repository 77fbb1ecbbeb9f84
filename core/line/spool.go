package line

import (
	"encoding/json"
	"errors"
	"io"
	"os"
	"path/filepath"
	"sync"
	"sync/atomic"
)

// A spool holds the outputs of the parts one behind the other, and the report
// of each part, so that a part can be replaced afterwards.
type spool struct {
	files  [outputs + 1]*os.File // the last one holds the reports; nil: not written
	parts  []partLengths
	read   partLengths // where the next part to be copied from here begins
	due    partLengths // what is to be copied from another spool
	suffix string      // of the names of its files
	flushing
}

// partLengths is how many bytes a part has in each file of a spool.
type partLengths [outputs + 1]int64

func (r *Run) newSpool(dir, temp, suffix string) (*spool, error) {
	s := &spool{suffix: suffix}
	var err error
	if s.files[outputs], err = os.CreateTemp(temp, ".zetanum-reports-*"); err != nil {
		return nil, err
	}
	if dir == "" {
		return s, nil
	}
	for i, name := range FileNames {
		f, err := os.OpenFile(filepath.Join(dir, name+suffix), os.O_RDWR|os.O_CREATE|os.O_TRUNC, 0o666)
		if err != nil {
			s.close()
			return nil, err
		}
		s.files[i] = f
		n, err := f.WriteString(r.head(i))
		if err != nil {
			s.close()
			return nil, err
		}
		s.read[i] = int64(n)
	}
	return s, nil
}

// flushing brings what has been written of a file to the disk while more is
// being written, so that little is left to wait for at the end.
type flushing struct {
	since int64 // bytes written since the last time
	busy  atomic.Bool
	group sync.WaitGroup
}

// flushEvery is how many bytes are written between two times.
const flushEvery = 64 << 20

func (f *flushing) flushNow(written int64, file *os.File) {
	f.since += written
	if file == nil || f.since < flushEvery || !f.busy.CompareAndSwap(false, true) {
		return
	}
	f.since = 0
	f.group.Go(func() {
		file.Sync() // if it fails, so will the last one, whose error counts
		f.busy.Store(false)
	})
}

// close lets the files go; it may be called more than once.
func (s *spool) close() error {
	s.group.Wait()
	var all error
	for i, f := range s.files {
		if f == nil {
			continue
		}
		all = errors.Join(all, f.Close())
		if i == outputs {
			all = errors.Join(all, os.Remove(f.Name()))
		}
		s.files[i] = nil
	}
	return all
}

// add writes the outputs of the next part.
func (s *spool) add(out *result) error {
	report, err := json.Marshal(&out.report)
	if err != nil {
		return err
	}
	var lengths partLengths
	for i, f := range s.files {
		if f == nil {
			continue
		}
		b := report
		if i < outputs {
			b = out.bytes[i]
		}
		if _, err := f.Write(b); err != nil {
			return err
		}
		lengths[i] = int64(len(b))
	}
	s.flushNow(lengths[ready], s.files[ready])
	s.parts = append(s.parts, lengths)
	return nil
}

// copyNext takes the next part over from another spool. It only notes what is
// to be copied: neighbouring parts are copied at once.
func (s *spool) copyNext(from *spool) {
	lengths := from.parts[len(s.parts)]
	for i, n := range lengths {
		s.due[i] += n
	}
	s.parts = append(s.parts, lengths)
}

// copyDue copies what has been noted.
func (s *spool) copyDue(from *spool) error {
	for i, f := range s.files {
		if f == nil || s.due[i] == 0 {
			continue
		}
		// From file to file, so that the system may do it by itself.
		if _, err := from.files[i].Seek(from.read[i], io.SeekStart); err != nil {
			return err
		}
		if _, err := io.CopyN(f, from.files[i], s.due[i]); err != nil {
			return err
		}
		if i == ready {
			s.flushNow(s.due[i], f)
		}
	}
	from.pass(s.due)
	s.due = partLengths{}
	return nil
}

// replaceNext adds another version of the next part than from has.
func (s *spool) replaceNext(from *spool, out *result) error {
	if err := s.copyDue(from); err != nil {
		return err
	}
	from.pass(from.parts[len(s.parts)])
	return s.add(out)
}

// pass moves the reading position behind a part.
func (s *spool) pass(lengths partLengths) {
	for i, n := range lengths {
		s.read[i] += n
	}
}

// finish closes the files, lets them take their names if they were the second
// version, and returns the report of the whole.
func (s *spool) finish(first *spool) (*Report, error) {
	total := new(Report)
	reports := json.NewDecoder(io.NewSectionReader(s.files[outputs], 0, 1<<62))
	for range s.parts {
		var part Report
		if err := reports.Decode(&part); err != nil {
			return nil, err
		}
		total.Merge(&part)
	}
	var names [outputs]string
	for i, f := range s.files[:outputs] {
		if f == nil {
			continue
		}
		names[i] = f.Name()
	}
	if err := s.close(); err != nil {
		return nil, err
	}
	if s == first {
		return total, nil
	}
	if err := first.close(); err != nil {
		return nil, err
	}
	for _, name := range names {
		if name == "" {
			continue
		}
		if err := os.Rename(name, name[:len(name)-len(s.suffix)]); err != nil {
			return nil, err
		}
	}
	return total, nil
}
