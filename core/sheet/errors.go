package sheet

import (
	"errors"
	"io/fs"
	"syscall"
)

// What a file may be instead of a table.
var (
	ErrEmpty       = errors.New("the file is empty")
	ErrFolder      = errors.New("this is a folder, not a file")
	ErrBinary      = errors.New("this is not a table")
	ErrPage        = errors.New("this is a web page without a list of products")
	ErrJSON        = errors.New("this is no list of objects in JSON")
	ErrPassword    = errors.New("this is a workbook that is protected with a password")
	ErrOldWorkbook = errors.New("this is a workbook of a kind that was written until 1996")
	ErrNoTable     = errors.New("no table was found")
	ErrNoSheets    = errors.New("it is no workbook that can be read, and has no sheets")
	ErrNoSheet     = errors.New("there is no sheet of that name")
	ErrTooWide     = errors.New("the table has too many columns")
	ErrRowTooLarge = errors.New("a single row has more than 16 megabytes")
	ErrMembers     = errors.New("it is not clear which file of the archive is meant")
	ErrNoMember    = errors.New("the archive has no such file")
	ErrNoArchive   = errors.New("it is no archive")
	ErrNotBook     = errors.New("it is no workbook, and has no sheets")
	ErrUnpacked    = errors.New("the archive unpacks to more than is read")
	ErrSpread      = errors.New("it has next to nothing but empty cells")
	ErrHeadings    = errors.New("none of the headings is known")
	ErrNoColumn    = errors.New("there is no such column")
	ErrBlankRow    = errors.New("the row of the headings is empty")
)

// An Error says which file cannot be read, why, and what to do about it.
type Error struct {
	File string
	Err  error
	More string // what was seen, in words; may be empty
	Do   string // what to do next
}

// Error returns the whole message, on one line.
func (e *Error) Error() string {
	s := e.File + ": " + e.Err.Error()
	if e.More != "" {
		s += " (" + e.More + ")"
	}
	if e.Do != "" {
		s += ". " + e.Do
	}
	return s
}

// toDo says what to do about an error where who comes upon it knows no better.
func toDo(err error) string {
	var path *fs.PathError
	switch {
	case errors.Is(err, ErrRowTooLarge):
		return "Look for a cell that holds a whole file, or for a quotation mark that is never closed."
	case errors.Is(err, ErrSpread), errors.Is(err, ErrNoTable):
		return "Save what is meant in a file of its own, with its headings above it, and name that."
	case errors.Is(err, syscall.ENOSPC):
		return "Make room on the disk, and try again."
	case errors.As(err, &path):
		return "Copy the file to a disk of this machine, and name the copy."
	}
	return ""
}

// Unwrap returns the error within.
func (e *Error) Unwrap() error { return e.Err }
