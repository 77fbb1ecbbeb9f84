package workbook

import (
	"archive/zip"
	"bufio"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"unicode/utf8"

	"github.com/klauspost/compress/flate"
)

// ErrNoRoom says that a workbook cannot hold what is to be written.
var ErrNoRoom = errors.New("a workbook cannot hold it")

// MostText is the most characters that programs keep in a cell.
const MostText = 32767

// A Writer writes a workbook of Office Open XML with one sheet, row by row. All its
// cells are text, so that no program makes numbers of codes; the first rows are bold and
// stay in sight.
type Writer struct {
	archive *zip.Writer
	out     *bufio.Writer
	buf     []byte
	rows    int
	heads   int
}

// A Layout says how a sheet is laid out.
type Layout struct {
	Heads  int   // how many first rows are headings or stand above them
	Widths []int // of the columns, in characters; columns behind them are of a middling width
}

// newArchive begins an archive that is compressed quickly.
func newArchive(w io.Writer) *zip.Writer {
	archive := zip.NewWriter(w)
	archive.RegisterCompressor(zip.Deflate, func(w io.Writer) (io.WriteCloser, error) { return flate.NewWriter(w, 1) })
	return archive
}

const xmlHead = `<?xml version="1.0" encoding="UTF-8" standalone="yes"?>` + "\n"

// NewWriter begins a workbook with a sheet of that name.
func NewWriter(w io.Writer, sheet string, layout Layout) (*Writer, error) {
	heads := layout.Heads
	archive := newArchive(w)
	const main, office, rel = "http://schemas.openxmlformats.org/spreadsheetml/2006/main", "http://schemas.openxmlformats.org/officeDocument/2006/relationships", "http://schemas.openxmlformats.org/package/2006/relationships"
	const content = "application/vnd.openxmlformats-officedocument.spreadsheetml."
	for _, part := range [][2]string{
		{"[Content_Types].xml", `<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" ContentType="application/xml"/>` +
			`<Override PartName="/xl/workbook.xml" ContentType="` + content + `sheet.main+xml"/><Override PartName="/xl/worksheets/sheet1.xml" ContentType="` + content + `worksheet+xml"/><Override PartName="/xl/styles.xml" ContentType="` + content + `styles+xml"/></Types>`},
		{"_rels/.rels", `<Relationships xmlns="` + rel + `"><Relationship Id="rId1" Type="` + office + `/officeDocument" Target="xl/workbook.xml"/></Relationships>`},
		{"xl/workbook.xml", `<workbook xmlns="` + main + `" xmlns:r="` + office + `"><sheets><sheet name="` + string(appendEscaped(nil, sheet)) + `" sheetId="1" r:id="rId1"/></sheets></workbook>`},
		{"xl/_rels/workbook.xml.rels", `<Relationships xmlns="` + rel + `"><Relationship Id="rId1" Type="` + office + `/worksheet" Target="worksheets/sheet1.xml"/><Relationship Id="rId2" Type="` + office + `/styles" Target="styles.xml"/></Relationships>`},
		{"xl/styles.xml", `<styleSheet xmlns="` + main + `"><fonts count="2"><font><sz val="10"/><name val="Arial"/></font><font><b/><sz val="10"/><name val="Arial"/></font></fonts><fills count="3"><fill><patternFill patternType="none"/></fill><fill><patternFill patternType="gray125"/></fill><fill><patternFill patternType="solid"><fgColor rgb="FFFFF2CC"/></patternFill></fill></fills><borders count="1"><border/></borders>` +
			`<cellStyleXfs count="1"><xf/></cellStyleXfs><cellXfs count="4"><xf/><xf numFmtId="49" applyNumberFormat="1" applyAlignment="1"><alignment vertical="top"/></xf><xf numFmtId="49" fontId="1" applyNumberFormat="1" applyFont="1"/><xf numFmtId="49" fillId="2" applyNumberFormat="1" applyFill="1" applyAlignment="1"><alignment vertical="top"/></xf></cellXfs></styleSheet>`},
	} {
		f, err := archive.Create(part[0])
		if err != nil {
			return nil, err
		}
		if _, err := io.WriteString(f, xmlHead+part[1]); err != nil {
			return nil, err
		}
	}
	f, err := archive.Create("xl/worksheets/sheet1.xml")
	if err != nil {
		return nil, err
	}
	out := bufio.NewWriterSize(f, 1<<18)
	pane := ""
	if heads > 0 {
		pane = fmt.Sprintf(`<pane ySplit="%d" topLeftCell="A%d" activePane="bottomLeft" state="frozen"/>`, heads, heads+1)
	}
	columns := ""
	for i, width := range layout.Widths {
		columns += fmt.Sprintf(`<col min="%d" max="%d" width="%d" customWidth="1"/>`, i+1, i+1, width)
	}
	if columns != "" {
		columns = "<cols>" + columns + "</cols>"
	}
	_, err = out.WriteString(xmlHead + `<worksheet xmlns="` + main + `"><sheetViews><sheetView workbookViewId="0">` + pane + `</sheetView></sheetViews><sheetFormatPr defaultRowHeight="15" defaultColWidth="18"/>` + columns + `<sheetData>`)
	return &Writer{archive: archive, out: out, heads: heads}, err
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
	w.rows++
	if err := room(w.rows, cells); err != nil {
		return err
	}
	plain := byte('1')
	if w.rows <= w.heads {
		plain = '2'
	}
	b := append(strconv.AppendInt(append(w.buf[:0], `<row r="`...), int64(w.rows), 10), `">`...)
	for i, cell := range cells {
		if cell == "" {
			continue
		}
		style := plain
		if slices.Contains(marked, i) {
			style = '3'
		}
		b = appendColumn(append(b, `<c r="`...), i)
		b = append(append(append(strconv.AppendInt(b, int64(w.rows), 10), `" s="`...), style), `" t="inlineStr"><is><t xml:space="preserve">`...)
		b = append(appendEscaped(b, cell), `</t></is></c>`...)
	}
	w.buf = append(b, `</row>`...)
	_, err := w.out.Write(w.buf)
	return err
}

// Close ends the workbook.
func (w *Writer) Close() error {
	w.out.WriteString(`</sheetData></worksheet>`)
	return errors.Join(w.out.Flush(), w.archive.Close())
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
	for i, r := range s {
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
	}
	return dst
}

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
