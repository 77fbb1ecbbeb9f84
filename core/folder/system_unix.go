//go:build !windows

package folder

import (
	"os"

	"zetanum/core/disk"
)

// syncDir flushes the names in a folder to the disk.
func syncDir(dir string) error {
	d, err := os.Open(dir)
	if err != nil {
		return err
	}
	defer d.Close()
	return disk.Flush(d)
}

// Here a file that another program has open can be read, and its folder be replaced.

// IsInUse reports whether an error says that another program has a file open, so that
// it can be neither read nor replaced.
func IsInUse(error) bool { return false }

func isBarred(error) bool { return false }
func isOpen(string) bool  { return false }

// SameName reports whether two names are those of the same file of a folder.
func SameName(a, b string) bool { return a == b }

// CheckName returns an error if no file or folder can have this path here.
func CheckName(string) error { return nil }
