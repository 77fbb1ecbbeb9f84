package folder

import (
	"os"
	"path/filepath"

	"github.com/gofrs/flock"
)

// A Temp is a folder for what is needed for a while. A lock says that it is in use, so that
// the next run can tell it from what a run that was killed has left.
type Temp struct {
	Dir  string
	lock *flock.Flock
}

const (
	tempName = "zetanum-*"
	lockName = ".lock"
)

// NewTemp makes such a folder in that of the system for temporary files, and takes away
// those that nobody uses any more.
func NewTemp() (*Temp, error) {
	sweep()
	dir, err := os.MkdirTemp("", tempName)
	if err != nil {
		return nil, err
	}
	t := &Temp{dir, flock.New(filepath.Join(dir, lockName))}
	if _, err := t.lock.TryLock(); err != nil {
		os.RemoveAll(dir)
		return nil, err
	}
	return t, nil
}

// Remove takes the folder away.
func (t *Temp) Remove() error {
	t.lock.Close()
	return os.RemoveAll(t.Dir)
}

// sweep takes away the folders of runs that were killed. One without a lock is another
// program's, or is being made.
func sweep() {
	dirs, _ := filepath.Glob(filepath.Join(os.TempDir(), tempName))
	for _, dir := range dirs {
		path := filepath.Join(dir, lockName)
		if _, err := os.Stat(path); err != nil {
			continue
		}
		lock := flock.New(path)
		if free, err := lock.TryLock(); err == nil && free {
			lock.Close()
			os.RemoveAll(dir)
		}
	}
}
