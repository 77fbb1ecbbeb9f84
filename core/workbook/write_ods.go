package workbook

import (
	"archive/zip"
	"bufio"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"
	"unicode/utf8"
)

// An ODSWriter writes a spreadsheet of OpenDocument 1.3 with one sheet, row by row. All
// its cells are text; the first rows are bold and stay in sight. Line breaks of any kind
// become those that the standard has.
type ODSWriter struct {
	archive *zip.Writer
	out     *bufio.Writer
	behind  behindWriter // to which that writes
	buf     []byte
	rows    int
	heads   int
}

// NewODSWriter begins a spreadsheet with a sheet of so many columns.
func NewODSWriter(to io.Writer, columns int, layout Layout) (*ODSWriter, error) {
	heads := layout.Heads
	if columns > MostColumns {
		return nil, fmt.Errorf("%w: it has %d columns at most", ErrNoRoom, MostColumns)
	}
	archive := newArchive(to)
	name := string(appendEscaped(nil, layout.Name))
	const oasis = "urn:oasis:names:tc:opendocument:xmlns:"
	item := func(name, kind, value string) string {
		return `<config:config-item config:name="` + name + `" config:type="` + kind + `">` + value + `</config:config-item>`
	}
	split := ""
	if heads > 0 {
		split = item("VerticalSplitMode", "short", "2") + item("VerticalSplitPosition", "int", strconv.Itoa(heads)) +
			item("ActiveSplitRange", "short", "2") + item("PositionBottom", "int", strconv.Itoa(heads))
	}
	for _, part := range [][2]string{
		{"mimetype", openDocument},
		{"META-INF/manifest.xml", xmlHead + `<manifest:manifest xmlns:manifest="` + oasis +
			`manifest:1.0" manifest:version="1.3"><manifest:file-entry manifest:full-path="/" manifest:version="1.3" manifest:media-type="` + openDocument + `"/>` +
			`<manifest:file-entry manifest:full-path="content.xml" manifest:media-type="text/xml"/><manifest:file-entry manifest:full-path="settings.xml" manifest:media-type="text/xml"/></manifest:manifest>`},
		{"settings.xml", xmlHead + `<office:document-settings xmlns:office="` + oasis + `office:1.0" xmlns:config="` + oasis +
			`config:1.0" office:version="1.3"><office:settings><config:config-item-set config:name="ooo:view-settings"><config:config-item-map-indexed config:name="Views"><config:config-item-map-entry><config:config-item-map-named config:name="Tables"><config:config-item-map-entry config:name="` + name + `">` +
			split + `</config:config-item-map-entry></config:config-item-map-named></config:config-item-map-entry></config:config-item-map-indexed></config:config-item-set></office:settings></office:document-settings>`},
	} {
		method := zip.Deflate
		if part[0] == "mimetype" {
			method = zip.Store // so that it stands in the file as it is (Part 2, 3.3)
		}
		f, err := addPart(archive, part[0], method, layout.Date)
		if err != nil {
			return nil, err
		}
		if _, err := io.WriteString(f, part[1]); err != nil {
			return nil, err
		}
	}
	f, err := addPart(archive, "content.xml", zip.Deflate, layout.Date)
	if err != nil {
		return nil, err
	}
	widths, declared := "", ""
	for i, width := range layout.Widths[:min(len(layout.Widths), columns)] {
		widths += fmt.Sprintf(`<style:style style:name="c%d" style:family="table-column"><style:table-column-properties style:column-width="%.1fcm"/></style:style>`, i, 0.2*float64(width))
		declared += fmt.Sprintf(`<table:table-column table:style-name="c%d" table:default-cell-style-name="t"/>`, i)
	}
	if rest := columns - len(layout.Widths); rest > 0 || columns == 0 {
		declared += fmt.Sprintf(`<table:table-column table:style-name="c" table:default-cell-style-name="t" table:number-columns-repeated="%d"/>`, max(1, rest))
	}
	w := &ODSWriter{archive: archive, heads: heads}
	w.behind.reset(f)
	w.out = bufio.NewWriterSize(&w.behind, 1<<18)
	_, err = w.out.WriteString(xmlHead + `<office:document-content xmlns:office="` + oasis + `office:1.0" xmlns:table="` + oasis +
		`table:1.0" xmlns:text="` + oasis + `text:1.0" xmlns:style="` + oasis + `style:1.0" xmlns:number="` + oasis +
		`datastyle:1.0" xmlns:fo="` + oasis + `xsl-fo-compatible:1.0" office:version="1.3"><office:automatic-styles>` +
		`<number:text-style style:name="N1"><number:text-content/></number:text-style>` + widths +
		`<style:style style:name="c" style:family="table-column"><style:table-column-properties style:column-width="3.4cm"/></style:style>` +
		`<style:style style:name="t" style:family="table-cell" style:data-style-name="N1"><style:table-cell-properties style:vertical-align="top"/></style:style><style:style style:name="h" style:family="table-cell" style:data-style-name="N1"><style:text-properties fo:font-weight="bold"/></style:style></office:automatic-styles>` +
		`<office:body><office:spreadsheet><table:table table:name="` + name + `">` + declared)
	return w, err
}

// Row writes the next row. The error wraps [ErrNoRoom] where no spreadsheet can hold it.
func (w *ODSWriter) Row(cells []string) error {
	w.rows++
	if err := room(w.rows, cells); err != nil {
		return errors.Join(err, w.behind.wait())
	}
	style := byte('t')
	if w.rows <= w.heads {
		style = 'h'
	}
	b := append(w.buf[:0], `<table:table-row>`...)
	empty := 0
	for i, cell := range cells {
		if cell == "" {
			empty++
			continue
		}
		if err := openRoom(w.rows, i+1, cell); err != nil {
			return errors.Join(err, w.behind.wait())
		}
		b = appendEmpty(b, empty)
		empty = 0
		b = append(append(append(b, `<table:table-cell table:style-name="`...), style), `" office:value-type="string"`...)
		if strings.IndexByte(cell, '\t') >= 0 {
			b = appendStringValue(b, cell) // some programs leave out tabs in paragraphs
		}
		b = append(b, `><text:p>`...)
		b = append(appendParagraphs(b, cell), `</text:p></table:table-cell>`...)
	}
	if len(cells) == empty {
		b = appendEmpty(b, max(1, empty)) // a row must have a cell
	}
	w.buf = append(b, `</table:table-row>`...)
	_, err := w.out.Write(w.buf)
	return err
}

// openRoom looks whether a spreadsheet can hold a cell.
func openRoom(row, col int, cell string) error {
	for i := range len(cell) {
		if c := cell[i]; c >= ' ' && c != 0xef { // with which U+FFFE begins
			continue
		}
		if r, _ := utf8.DecodeRuneInString(cell[i:]); notInXML(r) && r != '\r' {
			return fmt.Errorf("%w: the cell in column %d of row %d has the control character %U", ErrNoRoom, col, row, r)
		}
	}
	return nil
}

// openBreaks returns a cell with the line breaks that it has in a spreadsheet.
func openBreaks(cell string) string {
	if strings.IndexByte(cell, '\r') < 0 {
		return cell
	}
	return strings.NewReplacer("\r\n", "\n", "\r", "\n").Replace(cell)
}

// appendEmpty appends empty cells.
func appendEmpty(dst []byte, n int) []byte {
	switch n {
	case 0:
		return dst
	case 1:
		return append(dst, `<table:table-cell/>`...)
	}
	return append(strconv.AppendInt(append(dst, `<table:table-cell table:number-columns-repeated="`...), int64(n), 10), `"/>`...)
}

// appendParagraphs appends a text in the first paragraph, which has begun, and further
// ones: a line each. Spaces that would not count are said in words (Part 3, 6.1.2).
func appendParagraphs(dst []byte, s string) []byte {
	spaces := 0
	flush := func(end bool) {
		switch {
		case spaces == 0:
		case spaces == 1 && !end && dst[len(dst)-1] != '>':
			dst = append(dst, ' ')
		case spaces == 1:
			dst = append(dst, `<text:s/>`...)
		default:
			dst = append(strconv.AppendInt(append(dst, `<text:s text:c="`...), int64(spaces), 10), `"/>`...)
		}
		spaces = 0
	}
	for i := 0; i < len(s); {
		from := i
		for i < len(s) && inParagraphs[s[i]] {
			i++
		}
		if i > from {
			flush(false)
			dst = append(dst, s[from:i]...)
			continue
		}
		r, n := utf8.DecodeRuneInString(s[i:])
		i += n
		switch {
		case r == ' ':
			spaces++
			continue
		case r == '\r' && strings.HasPrefix(s[i:], "\n"):
			continue // the line feed counts
		case r == '\n' || r == '\r':
			flush(true)
			dst = append(dst, `</text:p><text:p>`...)
			continue
		}
		flush(false)
		switch r {
		case '\t':
			dst = append(dst, `<text:tab/>`...)
		case '&':
			dst = append(dst, "&amp;"...)
		case '<':
			dst = append(dst, "&lt;"...)
		case '>':
			dst = append(dst, "&gt;"...)
		default:
			dst = utf8.AppendRune(dst, r)
		}
	}
	flush(true)
	return dst
}

// inParagraphs are the bytes that stand in a paragraph as they are.
var inParagraphs = func() (is [256]bool) {
	for c := '!'; c < 0x7f; c++ {
		is[c] = c != '&' && c != '<' && c != '>'
	}
	return is
}()

// appendStringValue appends a text as the attribute that says it once more.
func appendStringValue(dst []byte, s string) []byte {
	dst = append(dst, ` office:string-value="`...)
	for i, r := range s {
		switch {
		case r == '\t':
			dst = append(dst, "&#9;"...)
		case r == '\r' && strings.HasPrefix(s[i+1:], "\n"):
		case r == '\n' || r == '\r':
			dst = append(dst, "&#10;"...)
		default:
			dst = appendEscaped(dst, string(r))
		}
	}
	return append(dst, '"')
}

// Close ends the spreadsheet.
func (w *ODSWriter) Close() error {
	w.out.WriteString(`</table:table></office:spreadsheet></office:body></office:document-content>`)
	return errors.Join(w.out.Flush(), w.behind.wait(), w.archive.Close())
}
