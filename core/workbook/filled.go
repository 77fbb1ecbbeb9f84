package workbook

import (
	"archive/zip"
	"bufio"
	"bytes"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
)

// ErrUnfillable says why a workbook cannot be filled.
var ErrUnfillable = errors.New("the workbook cannot be filled")

// A Filling says where rows go in a workbook that is a form.
type Filling struct {
	Sheet   string
	First   int // the row of the first of them, from 1
	Rows    int // how many there are
	Samples []int
	Own     bool // what stands in the rows from the first on goes, like samples
	// Columns are those that are filled, by their places from the first on; what stands in others stays there, but in samples.
	Columns []bool
}

// A Fill is what goes into a cell.
type Fill struct {
	Text string // as people see it
	// Value is the same as a number, 12.5, or a date, 2025-03-31, if it is one and the cell may have it so; "" if it goes in as a text.
	Value string
	Date  bool // Value is a date
	Code  bool // it stays a text whoever edits it
}

// An edit puts something else in place of a stretch of a document.
type edit struct {
	from, to int
	with     string
}

// Fill writes a form of Office Open XML or OpenDocument with rows in it. Everything else in it is as it was: of the sheet only the cells of these
// rows are others, and where areas end that are about them; other parts of the archive are copied, but for one style that is added, and the
// list of the order in which formulas are calculated, which is left out. each calls do with the cells of one row after the other; put is told
// what a reader finds in the cells, such as [Book.Rows], by row and column. The error wraps [ErrUnfillable] if that cannot be done.
func (b *Book) Fill(w io.Writer, f Filling, each func(do func([]Fill) error) error, put func(row, col int, text string)) error {
	if b.archive == nil {
		return fmt.Errorf("%w: only those of Office Open XML and OpenDocument can", ErrUnfillable)
	}
	for name := range b.files {
		if strings.HasPrefix(name, "_xmlsignatures/") || strings.EqualFold(name, "META-INF/documentsignatures.xml") {
			return fmt.Errorf("%w: it is signed, and the signature would be wrong", ErrUnfillable)
		}
	}
	at := slices.IndexFunc(b.Sheets, func(s *Sheet) bool { return s.Name == f.Sheet })
	if at < 0 || b.Sheets[at].lost != nil {
		return fmt.Errorf("%w: it has no sheet %s", ErrUnfillable, f.Sheet)
	}
	if f.First+f.Rows-1 > MostRows {
		return fmt.Errorf("%w: sheets have %d rows at most", ErrNoRoom, MostRows)
	}
	sheet := b.Sheets[at]
	doc, err := b.whole(sheet.part)
	if err != nil {
		return err
	}
	var form interface {
		prepare(part string, changed map[string][]byte) (dropped string, err error)
		write(*bufio.Writer, func(do func([]Fill) error) error) error
	}
	if b.ods {
		form = &openFiller{Filling: &f, doc: doc, book: b, put: put}
	} else {
		form = &filler{Filling: &f, doc: doc, book: b, rows: make(map[int]preparedRow), put: put}
	}
	changed := make(map[string][]byte) // parts, by their names in small letters
	dropped, err := form.prepare(sheet.part, changed)
	if err != nil {
		return err
	}
	archive := newArchive(w)
	if comment := b.archive.Comment; comment != "" {
		if err := archive.SetComment(comment); err != nil {
			return err
		}
	}
	names := make(map[string]bool)
	for _, member := range b.archive.File {
		name := strings.ToLower(strings.TrimPrefix(strings.ReplaceAll(member.Name, `\`, "/"), "/"))
		content, other := changed[name]
		if names[name] {
			return fmt.Errorf("%w: it has two parts %s", ErrDamaged, member.Name)
		}
		names[name] = true
		switch {
		case name == dropped && dropped != "":
			continue
		case name == strings.ToLower(sheet.part):
		case !other:
			if err := archive.Copy(member); err != nil {
				return fmt.Errorf("%s: %w", member.Name, err)
			}
			continue
		}
		header := member.FileHeader
		out, err := archive.CreateHeader(&zip.FileHeader{Name: header.Name, Method: zip.Deflate, Modified: header.Modified, ExternalAttrs: header.ExternalAttrs, CreatorVersion: header.CreatorVersion})
		if err != nil {
			return err
		}
		if other {
			if _, err := out.Write(content); err != nil {
				return err
			}
			continue
		}
		buffered := bufio.NewWriterSize(out, 1<<18)
		if err := errors.Join(form.write(buffered, each), buffered.Flush()); err != nil {
			return err
		}
	}
	return archive.Close()
}

// lastRow returns the row of the last product.
func (f *Filling) lastRow() int { return f.First + f.Rows - 1 }

// isSample reports whether what stands in a row does not stay there.
func (f *Filling) isSample(row int) bool { return f.Own || slices.Contains(f.Samples, row) }

// fills reports whether a column, from 1, is filled.
func (f *Filling) fills(col int) bool { return col <= len(f.Columns) && f.Columns[col-1] }

// grows reports whether an area is about the rows of products, and ends before the last of them.
func (f *Filling) grows(a Area) bool {
	return a.Row <= f.First && a.ToRow >= f.First && a.ToRow < f.lastRow()
}

// taken says that something stands in the way of a product.
func (f *Filling) taken(row int) error {
	return fmt.Errorf("%w: in row %d of the sheet %s something stands that is no sample, and only %d rows fit above it. Take it out of the form, or send fewer rows at a time",
		ErrUnfillable, row, f.Sheet, row-f.First)
}

// whole returns a part.
func (b *Book) whole(part string) ([]byte, error) {
	in, err := b.open(part)
	if err != nil {
		return nil, err
	}
	defer in.Close()
	return io.ReadAll(in)
}

// eachTag calls do with the tags of a document, and where they stand in it.
func eachTag(doc []byte, do func(t *token, from, to int) error) error {
	var t token
	for at := 0; ; {
		open := bytes.IndexByte(doc[at:], '<')
		if open < 0 {
			return nil
		}
		from := at + open
		rest := doc[from:]
		end := -1
		for _, other := range [][2]string{{"<!--", "-->"}, {"<![CDATA[", "]]>"}, {"<?", "?>"}} {
			if bytes.HasPrefix(rest, []byte(other[0])) {
				if end = bytes.Index(rest, []byte(other[1])); end < 0 {
					return fmt.Errorf("%w: it ends in the middle of a tag", ErrDamaged)
				}
				end += len(other[1])
				break
			}
		}
		if end >= 0 {
			at = from + end
			continue
		}
		quote := byte(0)
		for i := 1; i < len(rest) && end < 0; i++ {
			switch c := rest[i]; {
			case quote != 0:
				if c == quote {
					quote = 0
				}
			case c == '"' || c == '\'':
				quote = c
			case c == '>':
				end = i
			}
		}
		if end < 0 {
			return fmt.Errorf("%w: it ends in the middle of a tag", ErrDamaged)
		}
		if at = from + end + 1; rest[1] == '!' {
			continue
		}
		if err := cutTag(&t, rest[1:end]); err != nil {
			return err
		}
		if err := do(&t, from, at); err != nil {
			return err
		}
	}
}

// withAttr returns a tag with another value of an attribute.
func withAttr(tag []byte, name, value string) string {
	for at := 0; ; {
		i := bytes.Index(tag[at:], []byte(name+"="))
		if i < 0 {
			return string(tag)
		}
		i += at
		at = i + len(name) + 1
		if i == 0 || !isSpace(tag[i-1]) || at >= len(tag) {
			continue
		}
		end := bytes.IndexByte(tag[at+1:], tag[at])
		if end < 0 {
			return string(tag)
		}
		return string(tag[:at+1]) + value + string(tag[at+1+end:])
	}
}

// edited returns a document with edits, which do not overlap.
func edited(doc []byte, edits []edit) []byte {
	slices.SortStableFunc(edits, func(a, b edit) int { return a.from - b.from })
	var out []byte
	at := 0
	for _, e := range edits {
		if e.from < at { // in a damaged one
			continue
		}
		out = append(append(out, doc[at:e.from]...), e.with...)
		at = e.to
	}
	return append(out, doc[at:]...)
}
