// Package disk makes sure that what was written outlives a power cut.
package disk

import "os"

// Flush waits until all that was written to a file, or the names in a folder, are on the disk.
func Flush(f *os.File) error {
	if !flushes {
		return nil
	}
	return f.Sync()
}
