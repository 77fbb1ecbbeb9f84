//go:build !windows

package folder

import "os"

// syncDir flushes the names in a folder to the disk.
func syncDir(dir string) error {
	d, err := os.Open(dir)
	if err != nil {
		return err
	}
	defer d.Close()
	return d.Sync()
}

func isSharingViolation(error) bool { return false }
