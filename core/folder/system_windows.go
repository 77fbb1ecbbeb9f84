package folder

import (
	"errors"
	"strings"

	"golang.org/x/sys/windows"
)

// syncDir does nothing: this system flushes names by itself.
func syncDir(string) error { return nil }

// IsInUse reports whether an error says that another program has a file open, so that
// it can be neither read nor replaced.
func IsInUse(err error) bool {
	return errors.Is(err, windows.ERROR_SHARING_VIOLATION) || errors.Is(err, windows.ERROR_LOCK_VIOLATION)
}

// isBarred reports whether a folder cannot be renamed or removed, as is so while a file in
// it is open.
func isBarred(err error) bool { return IsInUse(err) || errors.Is(err, windows.ERROR_ACCESS_DENIED) }

// isOpen reports whether another program has a file open.
func isOpen(path string) bool {
	name, err := windows.UTF16PtrFromString(path)
	if err != nil {
		return false
	}
	file, err := windows.CreateFile(name, windows.GENERIC_READ, 0, nil, windows.OPEN_EXISTING, windows.FILE_ATTRIBUTE_NORMAL, 0)
	if err != nil {
		return IsInUse(err)
	}
	windows.CloseHandle(file)
	return false
}

// SameName reports whether two names are those of the same file of a folder.
func SameName(a, b string) bool { return strings.EqualFold(a, b) }

// CheckName returns an error if no file or folder can have this path here.
func CheckName(path string) error { return checkName(path) }
