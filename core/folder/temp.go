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
	os.Remove(t.lock.Path())
	return err
}

// sweep takes away the folders of runs that were killed.
func sweep() {
	locks, _ := filepath.Glob(filepath.Join(os.TempDir(), tempLock))
	for _, path := range locks {
		lock := flock.New(path, flock.SetFlag(os.O_RDWR)) // and not made anew where it is gone meanwhile
		if free, err := lock.TryLock(); err != nil || !free {
			lock.Close()
			continue
		}
		info, err := lock.Stat()
		_, none := os.Stat(folderOf(path))
		being := errors.Is(none, fs.ErrNotExist) && err == nil && time.Since(info.ModTime()) < idle // made, or removed
		over := !being && os.RemoveAll(folderOf(path)) == nil
		lock.Close()
		if over {
			os.Remove(path)
		}
	}
}

func folderOf(lock string) string { return strings.TrimSuffix(lock, ".lock") }
