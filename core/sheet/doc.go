// Package sheet finds and reads the tables in files, and writes tables.
//
// A CSV file is read as RFC 4180 describes it, with what the world adds:
//
//   - Cells are separated by a comma, a semicolon, a tab, a pipe, or a rarer character
//     with which the headings are known.
//   - Rows end with LF or CRLF; with a lone CR only in a file that has no LF
//     outside quotation marks.
//   - A cell that begins with a quotation mark goes on to the next one that
//     stands before a separator or the end of a row, so it may hold
//     separators and line breaks; two quotation marks in it mean one.
//   - A quotation mark anywhere else is a character like others.
//   - The text is in one of the encodings of [zetanum/core/charset]; which, its bytes and its
//     words say, or the caller.
//
// A file in which a quotation mark is never closed is read again with
// [Form.Lenient] set: a row that does not come out with the right number of
// cells is then taken line by line, the quotation mark as a character.
//
// Other files are brought to tables first: workbooks ([zetanum/core/workbook]), web pages,
// JSON, archives, and CSV of unusual flavours. See [Open].
//
// A [Table] is read in parts of about a megabyte. The first reading cuts them
// ([Splitter]) and notes where each lies, so that later readings can take them
// up in any order ([Table.Load]). What is not plain CSV is spooled once into
// rows of cells with their lengths before them; see spool.go.
//
// A row's number is the one that a spreadsheet program shows: the first row of
// the file is row 1, a row with line breaks in a cell counts once, blank rows
// count too.
package sheet
