package folder

import (
	"errors"
	"syscall"
)

// syncDir does nothing: this system flushes names by itself.
func syncDir(string) error { return nil }

// Errors of this system that mean that another program has the file open.
const (
	errorAccessDenied     = syscall.Errno(5)
	errorSharingViolation = syscall.Errno(32)
)

func isSharingViolation(err error) bool {
	return errors.Is(err, errorSharingViolation) || errors.Is(err, errorAccessDenied)
}
