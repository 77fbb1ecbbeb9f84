// Package workbook reads workbooks row by row: Office Open XML (ECMA-376, .xlsx),
// OpenDocument (ISO/IEC 26300, OpenDocument 1.3, .ods) and the binary ones before them
// (BIFF8, MS-XLS, .xls):
//
//	book, err := workbook.Open(file, size)
//	for _, s := range book.Sheets {
//		err = book.Rows(s, func(row *workbook.Row) error { … })
//	}
//
// What is read is what is stored, not what is shown: a number with all its digits,
// whatever its format. Memory does not grow with the rows, but for the texts that cells
// share. Inflating runs in a goroutine of its own while the rows are scanned.
//
// A file may be hostile: sizes are bounded where bytes are read, see the errors.
package workbook

import "errors"

// What can be wrong with a workbook; the errors that wrap these say where.
var (
	ErrNotWorkbook = errors.New("it is an archive, but no workbook")
	ErrDamaged     = errors.New("the workbook is damaged")
	ErrTooLarge    = errors.New("the workbook unpacks to more than is read")
	ErrDoctype     = errors.New("the workbook declares a document type, which no workbook has")
	ErrPassword    = errors.New("the workbook is protected with a password")
)

// The most that is read.
const (
	// MostBytes is how many bytes a part may unpack to, and MostRatio to how many
	// times its size, if it is larger than a few megabytes.
	MostBytes = 16 << 30
	MostRatio = 600
	// MostShared is how many bytes the texts that cells share may have.
	MostShared = 192 << 20
	// MostCell is how many bytes a cell or a tag may have.
	MostCell = 16 << 20
	// MostRows and MostColumns are those of the standard's programs.
	MostRows    = 1 << 20
	MostColumns = 1 << 14
)
