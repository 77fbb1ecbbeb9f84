package workbook

import (
	"archive/zip"
	"cmp"
	"errors"
	"fmt"
	"io"
	"net/url"
	"path"
	"strconv"
	"strings"

	"github.com/klauspost/compress/flate"
	"golang.org/x/text/encoding/unicode"
	"golang.org/x/text/transform"
)

// A Book is a workbook, open for reading.
type Book struct {
	Sheets []*Sheet

	archive *zip.Reader
	ods     bool                 // it is in OpenDocument
	main    string               // the name of the part with the sheets
	styles  string               // that of the part with the styles; "" if there is none
	stream  []byte               // of a binary workbook; nil if it is none
	files   map[string]*zip.File // by name, in small letters
	epoch   epoch
	shown   []shown // by style: what a number of it is
	strings string  // the name of the part with the texts that cells share
	shared  *shared // nil until they are needed

	// Why there are no styles and no shared texts, if cells ask for them; of a workbook of XML.
	lostStyles, lostTexts error
}

// Binary is how binary workbooks begin, as other compound files do.
const Binary = "\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1"

// A Sheet is a sheet of a workbook with cells.
type Sheet struct {
	Name   string
	Hidden bool // it is not shown

	// What is known when its rows have been read.
	HiddenColumns []Range // not shown
	HiddenRows    int     // rows with cells that are not shown, filtered ones included
	Filtered      bool    // a filter is set
	Merged        []Area
	Pictures      []Picture

	part string
	lost error // why it has no part
	at   int   // in the stream
}

// A Range is a stretch of columns, counted from 1, ends included.
type Range struct{ From, To int }

// An Area is a rectangle of cells, counted from 1, ends included.
type Area struct{ Col, Row, ToCol, ToRow int }

// Open reads what a workbook says of itself. The error wraps one of this package's.
func Open(r io.ReaderAt, size int64) (*Book, error) {
	magic := make([]byte, len(Binary))
	if _, err := r.ReadAt(magic, 0); err == nil && string(magic) == Binary {
		return openBinary(r)
	}
	archive, err := zip.NewReader(r, size)
	if err != nil {
		return nil, fmt.Errorf("%w: %v", ErrNotWorkbook, err)
	}
	archive.RegisterDecompressor(zip.Deflate, func(r io.Reader) io.ReadCloser { return flate.NewReader(r) })
	b := &Book{archive: archive, files: make(map[string]*zip.File)}
	for _, f := range archive.File {
		b.files[strings.ToLower(strings.TrimPrefix(strings.ReplaceAll(f.Name, `\`, "/"), "/"))] = f
	}
	if b.isODS() {
		return b, b.readContents()
	}
	main := "xl/workbook.xml"
	rels, err := b.relations("")
	for _, rel := range rels {
		switch {
		case !strings.HasSuffix(rel.kind, "/officeDocument"):
		case rel.lost == nil:
			main = rel.target
		case b.file(main) == nil:
			return nil, rel.lost
		}
	}
	if b.file(main) == nil {
		return nil, cmp.Or(err, fmt.Errorf("%w: it has no %s", ErrNotWorkbook, main))
	}
	b.main = main
	return b, b.readMain(main)
}

// Ending returns how names of files end that are like the workbook: xlsx, xlsm if it has macros, ods, or xls.
func (b *Book) Ending() string {
	switch {
	case b.stream != nil:
		return "xls"
	case b.ods:
		return "ods"
	case b.file(path.Join(path.Dir(b.main), "vbaProject.bin")) != nil:
		return "xlsm"
	}
	return "xlsx"
}

func (b *Book) file(name string) *zip.File { return b.files[strings.ToLower(name)] }

// A relation leads from one part to another.
type relation struct {
	id, kind, target string
	lost             error // why it leads to no part
}

// relations returns those of a part; of the whole, if it is called "". The error says that
// they are damaged; there may be none.
func (b *Book) relations(part string) (list []relation, err error) {
	dir, name := path.Split(part)
	rels := path.Join(dir, "_rels", name+".rels")
	if b.file(rels) == nil {
		return nil, nil
	}
	err = b.tags(rels, func(t *token) error {
		if !t.is("Relationship") {
			return nil
		}
		target := strings.ReplaceAll(t.attr("Target"), `\`, "/")
		rel := relation{id: t.attr("Id"), kind: t.attr("Type"), target: path.Join(dir, target)}
		if strings.HasPrefix(target, "/") {
			rel.target = path.Clean(target)[1:]
		}
		if plain, err := url.PathUnescape(rel.target); err == nil && b.file(rel.target) == nil {
			rel.target = plain // it is an address
		}
		switch {
		case t.attr("TargetMode") == "External", strings.HasPrefix(rel.target, "../"):
			rel.lost = fmt.Errorf("%w: its relation %s (%s) leads out of it, to %s", ErrDamaged, rel.id, path.Base(rel.kind), t.attr("Target"))
		case b.file(rel.target) == nil:
			rel.lost = fmt.Errorf("%w: its relation %s (%s) leads to %s, which it does not have", ErrDamaged, rel.id, path.Base(rel.kind), rel.target)
		}
		list = append(list, rel)
		return nil
	})
	return list, err
}

// errEnough ends the reading of a part.
var errEnough = errors.New("enough")

// tags calls do with the tags with which elements of a part begin.
func (b *Book) tags(part string, do func(*token) error) error {
	return b.tokens(part, func(t *token) error {
		if t.kind != startTag {
			return nil
		}
		return do(t)
	})
}

// tokens calls do with all that a part is made of.
func (b *Book) tokens(part string, do func(*token) error) error {
	r, err := b.open(part)
	if err != nil {
		return err
	}
	defer r.Close()
	s := newScanner(r)
	var t token
	for {
		if err := s.next(&t); err != nil {
			if errors.Is(err, io.EOF) {
				return nil
			}
			return fmt.Errorf("%s: %w", part, err)
		}
		if err := do(&t); err != nil {
			if errors.Is(err, errEnough) {
				return nil
			}
			return err
		}
	}
}

// readMain reads the names of the sheets, and how dates are counted.
func (b *Book) readMain(main string) error {
	rels, err := b.relations(main)
	if err != nil { // or what is lost would not be missed
		return err
	}
	byID := make(map[string]relation, len(rels))
	b.lostTexts = fmt.Errorf("%w: no relation of %s leads to them", ErrDamaged, main)
	styles := ""
	for _, rel := range rels {
		byID[rel.id] = rel
		switch {
		case strings.HasSuffix(rel.kind, "/styles"):
			styles, b.lostStyles = rel.target, rel.lost
		case strings.HasSuffix(rel.kind, "/sharedStrings"):
			b.strings, b.lostTexts = rel.target, rel.lost
		}
	}
	err = b.tags(main, func(t *token) error {
		switch {
		case t.is("workbookPr"):
			if isTrue(t.attr("date1904")) {
				b.epoch = epoch1904
			}
		case t.is("sheet"):
			id := t.attr("id")
			rel, ok := byID[id]
			switch {
			case !ok:
				rel.lost = fmt.Errorf("%w: %s has no relation %q, which should lead to it", ErrDamaged, main, id)
			case !strings.HasSuffix(rel.kind, "/worksheet"):
				return nil // a chart
			}
			state := t.attr("state")
			b.Sheets = append(b.Sheets, &Sheet{Name: t.attr("name"), Hidden: state != "" && state != "visible", part: rel.target, lost: rel.lost})
		}
		return nil
	})
	if err != nil {
		return err
	}
	if len(b.Sheets) == 0 {
		return fmt.Errorf("%w: it has no sheets", ErrNotWorkbook)
	}
	if styles == "" || b.lostStyles != nil {
		return nil
	}
	b.styles = styles
	return b.readStyles(styles)
}

func isTrue(s string) bool { return s == "1" || s == "true" || s == "on" }

// readStyles finds out what the numbers of each style are.
func (b *Book) readStyles(part string) error {
	formats := make(map[int]string)
	inCells := false
	return b.tags(part, func(t *token) error {
		switch {
		case t.is("numFmt"):
			id, _ := strconv.Atoi(t.attr("numFmtId"))
			formats[id] = t.attr("formatCode")
		case t.is("cellXfs"):
			inCells = true
		case t.is("cellStyles"), t.is("dxfs"):
			inCells = false
		case inCells && t.is("xf"):
			id, _ := strconv.Atoi(t.attr("numFmtId"))
			b.shown = append(b.shown, shownBy(id, formats[id]))
		}
		return nil
	})
}

// open opens a part, unpacked and in UTF-8.
func (b *Book) open(part string) (io.ReadCloser, error) {
	f := b.file(part)
	if f == nil {
		return nil, fmt.Errorf("%w: it has no %s", ErrDamaged, part)
	}
	if f.UncompressedSize64 > MostBytes || f.UncompressedSize64 > 64<<20 && f.UncompressedSize64/MostRatio > f.CompressedSize64 {
		return nil, fmt.Errorf("%w: %s has %d bytes, unpacked from %d", ErrTooLarge, part, f.UncompressedSize64, f.CompressedSize64)
	}
	r, err := f.Open()
	if err != nil {
		return nil, fmt.Errorf("%w: %s: %v", ErrDamaged, part, err)
	}
	bounded := &boundedReader{r: r, part: part, left: int64(f.UncompressedSize64)}
	return struct {
		io.Reader
		io.Closer
	}{transform.NewReader(bounded, unicode.BOMOverride(transform.Nop)), r}, nil
}

// A boundedReader reads a part that is no larger than its archive says.
type boundedReader struct {
	r    io.Reader
	part string
	left int64
}

func (b *boundedReader) Read(p []byte) (int, error) {
	n, err := b.r.Read(p)
	if b.left -= int64(n); b.left < 0 {
		return 0, fmt.Errorf("%w: %s is larger than the archive says", ErrTooLarge, b.part)
	}
	if err != nil && !errors.Is(err, io.EOF) {
		err = fmt.Errorf("%w: %s: %v", ErrDamaged, b.part, err)
	}
	return n, err
}
