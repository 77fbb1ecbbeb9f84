package workbook

import (
	"archive/zip"
	"bufio"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"
	"unicode/utf8"

	"github.com/klauspost/compress/flate"
)

// ErrNoRoom says that a workbook cannot hold what is to be written.
var ErrNoRoom = errors.New("a workbook cannot hold it")

// MostText is the most characters that programs keep in a cell.
const MostText = 32767

// A Writer writes a workbook of Office Open XML, sheet after sheet and row by row. All its
// cells are text, so that no program makes numbers of codes. The same rows make the same
// bytes.
type Writer struct {
	archive *zip.Writer
	out     *bufio.Writer
	behind  behindWriter // to which that writes
	buf     []byte
	number  []byte // of the row
	sheets  []Layout
	sheet   int // which is written
	rows    int // of it
}

// A Layout says how a sheet is laid out.
type Layout struct {
	Name   string
	Heads  int   // how many first rows are headings or stand above them: bold, and they stay in sight
	Widths []int // of the columns, in characters; columns behind them are of a middling width
	Print  bool  // it is printed across, and as wide as a page
	// Cursor is the column, from 1, in whose first cell below the headings the cursor waits.
	Cursor int
	// Date is when the workbook was made, as YYYY-MM-DD; its first sheet says it.
	Date string
}

// A Style is how a cell looks.
type Style byte

// The styles.
const (
	Plain   Style = iota + 1 // at the top of its row
	Bold                     // a heading
	Marked                   // with a colour, to be looked at
	Band                     // a heading with a colour
	Title                    // bold and large
	Wrapped                  // its text goes on in further lines
)

// styles are the formats of cells in the order of their styles. Number format 49 is the built-in one
// for text (ECMA-376, Part 1, 18.8.30).
const styles = `<fonts count="3"><font><sz val="10"/><name val="Arial"/></font><font><b/><sz val="10"/><name val="Arial"/></font><font><b/><sz val="14"/><name val="Arial"/></font></fonts>` +
	`<fills count="4"><fill><patternFill patternType="none"/></fill><fill><patternFill patternType="gray125"/></fill>` +
	`<fill><patternFill patternType="solid"><fgColor rgb="FFFFF2CC"/></patternFill></fill><fill><patternFill patternType="solid"><fgColor rgb="FFE8E2D0"/></patternFill></fill></fills>` +
	`<borders count="1"><border/></borders><cellStyleXfs count="1"><xf/></cellStyleXfs><cellXfs count="7"><xf/>` +
	`<xf numFmtId="49" applyNumberFormat="1" applyAlignment="1"><alignment vertical="top"/></xf>` +
	`<xf numFmtId="49" fontId="1" applyNumberFormat="1" applyFont="1"/>` +
	`<xf numFmtId="49" fillId="2" applyNumberFormat="1" applyFill="1" applyAlignment="1"><alignment vertical="top"/></xf>` +
	`<xf numFmtId="49" fontId="1" fillId="3" applyNumberFormat="1" applyFont="1" applyFill="1"/>` +
	`<xf numFmtId="49" fontId="2" applyNumberFormat="1" applyFont="1"/>` +
	`<xf numFmtId="49" applyNumberFormat="1" applyAlignment="1"><alignment vertical="top" wrapText="1"/></xf></cellXfs>`

// newArchive begins an archive that is compressed quickly.
func newArchive(w io.Writer) *zip.Writer {
	archive := zip.NewWriter(w)
	archive.RegisterCompressor(zip.Deflate, func(w io.Writer) (io.WriteCloser, error) {
		if c, ok := compressors.Get().(*flate.Writer); ok {
			c.Reset(w)
			return &compressor{c}, nil
		}
		c, err := flate.NewWriter(w, 1)
		return &compressor{c}, err
	})
	return archive
}

// compressors are those of parts that are written, for the next: each has tables of more than a megabyte.
var compressors sync.Pool

// A compressor is given back when it is closed.
type compressor struct{ *flate.Writer }

func (c *compressor) Close() error {
	err := c.Writer.Close()
	compressors.Put(c.Writer)
	c.Writer = nil
	return err
}

// addPart begins a part of a workbook that was made on a date.
func addPart(archive *zip.Writer, name string, method uint16, date string) (io.Writer, error) {
	made, err := time.Parse(time.DateOnly, date)
	if err != nil {
		made = time.Date(1980, 1, 1, 0, 0, 0, 0, time.UTC) // the first day that an archive has
	}
	header := &zip.FileHeader{Name: name, Method: method}
	header.SetMode(0o644)
	header.Modified = made
	return archive.CreateHeader(header)
}

const xmlHead = `<?xml version="1.0" encoding="UTF-8" standalone="yes"?>` + "\n"

// What the parts of a workbook are called in each other.
const (
	mainXML   = "http://schemas.openxmlformats.org/spreadsheetml/2006/main"
	officeXML = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
	relsXML   = "http://schemas.openxmlformats.org/package/2006/relationships"
	partXML   = "application/vnd.openxmlformats-officedocument.spreadsheetml."
)

// NewWriter begins a workbook with these sheets, at least one; rows go to the first until
// [Writer.Next].
func NewWriter(w io.Writer, sheets ...Layout) (*Writer, error) {
	var types, list, rels string
	for i, s := range sheets {
		n := strconv.Itoa(i + 1)
		types += `<Override PartName="/xl/worksheets/sheet` + n + `.xml" ContentType="` + partXML + `worksheet+xml"/>`
		list += `<sheet name="` + string(appendEscaped(nil, s.Name)) + `" sheetId="` + n + `" r:id="rId` + n + `"/>`
		rels += `<Relationship Id="rId` + n + `" Type="` + officeXML + `/worksheet" Target="worksheets/sheet` + n + `.xml"/>`
	}
	b := &Writer{archive: newArchive(w), out: bufio.NewWriterSize(nil, 1<<18), sheets: sheets, sheet: -1}
	for _, part := range [][2]string{
		{"[Content_Types].xml", `<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" ContentType="application/xml"/>` +
			`<Override PartName="/xl/workbook.xml" ContentType="` + partXML + `sheet.main+xml"/>` + types +
			`<Override PartName="/xl/styles.xml" ContentType="` + partXML + `styles+xml"/></Types>`},
		{"_rels/.rels", `<Relationships xmlns="` + relsXML + `"><Relationship Id="rId1" Type="` + officeXML +
			`/officeDocument" Target="xl/workbook.xml"/></Relationships>`},
		{"xl/workbook.xml", `<workbook xmlns="` + mainXML + `" xmlns:r="` + officeXML + `"><sheets>` + list + `</sheets></workbook>`},
		{"xl/_rels/workbook.xml.rels", `<Relationships xmlns="` + relsXML + `">` + rels + `<Relationship Id="rId` +
			strconv.Itoa(len(sheets)+1) + `" Type="` + officeXML + `/styles" Target="styles.xml"/></Relationships>`},
		{"xl/styles.xml", `<styleSheet xmlns="` + mainXML + `">` + styles + `</styleSheet>`},
	} {
		f, err := addPart(b.archive, part[0], zip.Deflate, sheets[0].Date)
		if err != nil {
			return nil, err
		}
		if _, err := io.WriteString(f, xmlHead+part[1]); err != nil {
			return nil, err
		}
	}
	return b, b.Next()
}

// Next begins the next sheet.
func (w *Writer) Next() error {
	if err := w.end(); err != nil {
		return err
	}
	w.sheet++
	w.rows = 0
	f, err := addPart(w.archive, "xl/worksheets/sheet"+strconv.Itoa(w.sheet+1)+".xml", zip.Deflate, w.sheets[0].Date)
	if err != nil {
		return err
	}
	w.behind.reset(f)
	w.out.Reset(&w.behind)
	l := &w.sheets[w.sheet]
	w.out.WriteString(xmlHead + `<worksheet xmlns="` + mainXML + `">`)
	if l.Print {
		w.out.WriteString(`<sheetPr><pageSetUpPr fitToPage="1"/></sheetPr>`)
	}
	w.out.WriteString(`<sheetViews><sheetView workbookViewId="0">`)
	if l.Heads > 0 {
		fmt.Fprintf(w.out, `<pane ySplit="%d" topLeftCell="A%d" activePane="bottomLeft" state="frozen"/>`, l.Heads, l.Heads+1)
	}
	if l.Cursor > 0 {
		cell := ColumnName(l.Cursor-1) + strconv.Itoa(l.Heads+1)
		fmt.Fprintf(w.out, `<selection pane="bottomLeft" activeCell="%s" sqref="%s"/>`, cell, cell)
	}
	w.out.WriteString(`</sheetView></sheetViews><sheetFormatPr defaultRowHeight="15" defaultColWidth="18"/>`)
	for i, width := range l.Widths {
		if i == 0 {
			w.out.WriteString("<cols>")
		}
		fmt.Fprintf(w.out, `<col min="%d" max="%d" width="%d" customWidth="1"/>`, i+1, i+1, width)
	}
	if len(l.Widths) > 0 {
		w.out.WriteString("</cols>")
	}
	_, err = w.out.WriteString("<sheetData>")
	return err
}

// end ends the sheet that is written.
func (w *Writer) end() error {
	if w.sheet < 0 {
		return nil
	}
	w.out.WriteString("</sheetData>")
	if w.sheets[w.sheet].Print {
		w.out.WriteString(`<pageSetup orientation="landscape" fitToHeight="0"/>`)
	}
	w.out.WriteString("</worksheet>")
	return errors.Join(w.out.Flush(), w.behind.wait())
}

// room returns an error that wraps [ErrNoRoom] if no workbook can hold a row of that number.
func room(row int, cells []string) error {
	switch {
	case row > MostRows:
		return fmt.Errorf("%w: it has %d rows at most", ErrNoRoom, MostRows)
	case len(cells) > MostColumns:
		return fmt.Errorf("%w: it has %d columns at most", ErrNoRoom, MostColumns)
	}
	for i, cell := range cells {
		if len(cell) > MostText && utf8.RuneCountInString(cell) > MostText {
			return fmt.Errorf("%w: the cell in column %d of row %d has more than %d characters", ErrNoRoom, i+1, row, MostText)
		}
	}
	return nil
}

// Row writes the next row. The error wraps [ErrNoRoom] where no workbook can hold it.
func (w *Writer) Row(cells []string) error { return w.RowMarked(cells, nil) }

// RowMarked writes the next row, with a colour in some columns, counted from 0.
func (w *Writer) RowMarked(cells []string, marked []int) error {
	style := Plain
	if w.rows < w.sheets[w.sheet].Heads {
		style = Bold
	}
	return w.row(cells, 0, false, func(col int) Style {
		if slices.Contains(marked, col) {
			return Marked
		}
		return style
	})
}

// RowStyled writes the next row in a style, with another one in one column, counted from 0. It is
// that many points high, or as high as its text if that is 0; empty cells have the style, too.
func (w *Writer) RowStyled(cells []string, height float64, style Style, other int, its Style) error {
	return w.row(cells, height, true, func(col int) Style {
		if col == other {
			return its
		}
		return style
	})
}

// row writes the next row.
func (w *Writer) row(cells []string, height float64, empty bool, style func(col int) Style) error {
	w.rows++
	if err := room(w.rows, cells); err != nil {
		return errors.Join(err, w.behind.wait())
	}
	b := strconv.AppendInt(append(w.buf[:0], `<row r="`...), int64(w.rows), 10)
	if height > 0 {
		b = append(strconv.AppendFloat(append(b, `" customHeight="1" ht="`...), height, 'f', -1, 64), `">`...)
	} else {
		b = append(b, `">`...)
	}
	number := strconv.AppendInt(w.number[:0], int64(w.rows), 10)
	w.number = number
	for i, cell := range cells {
		if cell == "" && !empty && style(i) != Marked {
			continue
		}
		b = append(appendColumn(append(b, `<c r="`...), i), number...)
		b = append(append(b, `" s="`...), '0'+byte(style(i)))
		if cell == "" {
			b = append(b, `"/>`...)
			continue
		}
		b = append(appendEscaped(append(b, `" t="inlineStr"><is><t xml:space="preserve">`...), cell), `</t></is></c>`...)
	}
	w.buf = append(b, `</row>`...)
	_, err := w.out.Write(w.buf)
	return err
}

// Close ends the workbook; sheets that were not begun are empty.
func (w *Writer) Close() error {
	for w.sheet+1 < len(w.sheets) {
		if err := w.Next(); err != nil {
			return err
		}
	}
	return errors.Join(w.end(), w.archive.Close())
}

// ColumnName returns the name of a column, counted from 0, as programs show it: A, B, and
// AA behind Z.
func ColumnName(col int) string { return string(appendColumn(nil, col)) }

// appendColumn appends the letters of a column, counted from 0.
func appendColumn(dst []byte, col int) []byte {
	if col >= 26 {
		dst = appendColumn(dst, col/26-1)
	}
	return append(dst, byte('A'+col%26))
}

// appendEscaped appends a text as XML has it, and the characters that XML cannot have,
// and what would be read as one of these, as ECMA-376 has them (Part 1, 22.9.2.19).
func appendEscaped(dst []byte, s string) []byte {
	from := 0 // what stands from there on is still to be appended as it is
	for i := 0; i < len(s); {
		c := s[i]
		if !toEscape[c] {
			i++
			continue
		}
		r, n := rune(c), 1
		if c >= utf8.RuneSelf {
			if r, n = utf8.DecodeRuneInString(s[i:]); (r != utf8.RuneError || n > 1) && !notInXML(r) {
				i += n
				continue
			}
		}
		dst = append(dst, s[from:i]...)
		switch {
		case r == '&':
			dst = append(dst, "&amp;"...)
		case r == '<':
			dst = append(dst, "&lt;"...)
		case r == '>':
			dst = append(dst, "&gt;"...)
		case r == '"':
			dst = append(dst, "&quot;"...)
		case notInXML(r):
			dst = fmt.Appendf(dst, "_x%04X_", r)
		case r == '_' && isEscape(s[i:]):
			dst = append(dst, "_x005F_"...)
		default:
			dst = utf8.AppendRune(dst, r)
		}
		i += n
		from = i
	}
	return append(dst, s[from:]...)
}

// toEscape are the bytes with which something begins that may not stand as it is.
var toEscape = func() (is [256]bool) {
	for c := range is {
		is[c] = c >= utf8.RuneSelf || notInXML(rune(c)) || strings.IndexByte(`&<>"_`, byte(c)) >= 0
	}
	return is
}()

// notInXML reports whether XML cannot have a character, or makes another of it.
func notInXML(r rune) bool {
	return r < ' ' && r != '\t' && r != '\n' || r == 0xfffe || r == 0xffff
}

// isEscape reports whether a text begins like _x000D_, or will when what follows is
// escaped.
func isEscape(s string) bool {
	if len(s) < 7 || s[1] != 'x' {
		return false
	}
	if r, _ := utf8.DecodeRuneInString(s[6:]); r != '_' && !notInXML(r) {
		return false
	}
	_, err := strconv.ParseUint(s[2:6], 16, 16)
	return err == nil
}

// mostSheetName is the most characters of the name of a sheet (ECMA-376 leaves it open; programs take 31).
const mostSheetName = 31

// SheetName returns the name of a sheet that a text makes: without what no name may have, and not too long.
func SheetName(text string) string {
	name := strings.Map(func(r rune) rune {
		if strings.ContainsRune(`[]:*?/\`, r) || r < ' ' {
			return ' '
		}
		return r
	}, text)
	name = strings.Trim(strings.TrimSpace(name), "'")
	for utf8.RuneCountInString(name) > mostSheetName {
		_, last := utf8.DecodeLastRuneInString(name)
		name = strings.TrimSpace(name[:len(name)-last])
	}
	return name
}
