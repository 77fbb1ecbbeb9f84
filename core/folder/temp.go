package folder

import (
	"errors"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/gofrs/flock"
)

// A Temp is a folder for what is needed for a while. A lock beside it says that it is in use,
// so that the next run can tell it from what a run that was killed has left. The lock is held
// before the folder is there: a folder whose lock is free is in use by nobody.
type Temp struct {
	Dir  string
	lock *flock.Flock
}

const (
	tempLock = "zetanum-*.lock"
	idle     = time.Hour // after which a lock with no folder is of a run that was killed while it made or removed one
)

// NewTemp makes such a folder in that of the system for temporary files, and takes away
// those that nobody uses any more.
func NewTemp() (*Temp, error) {
	sweep()
	f, err := os.CreateTemp("", tempLock)
	if err != nil {
		return nil, err
	}
	f.Close()
	t := &Temp{folderOf(f.Name()), flock.New(f.Name())}
	if err = t.lock.Lock(); err == nil { // which another run has for a moment, while it looks whether it is in use
		err = os.Mkdir(t.Dir, 0o700)
	}
	if err != nil {
		t.lock.Close()
		os.Remove(f.Name())
		return nil, err
	}
	return t, nil
}

// Remove takes the folder away.
func (t *Temp) Remove() error {
	err := os.RemoveAll(t.Dir)
	t.lock.Close()
	removeLock(t.lock.Path())
	return err
}

// removeLock removes a lock, which not every system does while another run has it open for a moment.
func removeLock(path string) {
	for range 20 {
		if err := os.Remove(path); err == nil || errors.Is(err, fs.ErrNotExist) {
			return
		}
		time.Sleep(time.Millisecond)
	}
}

// sweep takes away the folders of runs that were killed.
func sweep() {
	locks, _ := filepath.Glob(filepath.Join(os.TempDir(), tempLock))
	for _, path := range locks {
		if _, err := os.Stat(folderOf(path)); errors.Is(err, fs.ErrNotExist) {
			if info, err := os.Stat(path); err != nil || time.Since(info.ModTime()) < idle {
				continue // it is being made, or removed
			}
		}
		lock := flock.New(path, flock.SetFlag(os.O_RDWR)) // and not made anew where it is gone meanwhile
		free, err := lock.TryLock()
		over := err == nil && free && os.RemoveAll(folderOf(path)) == nil
		lock.Close()
		if over {
			removeLock(path)
		}
	}
}

func folderOf(lock string) string { return strings.TrimSuffix(lock, ".lock") }
