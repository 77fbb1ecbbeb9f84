package workbook

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"strings"
)

// openDocument is how the media type of spreadsheets in OpenDocument begins.
const openDocument = "application/vnd.oasis.opendocument.spreadsheet"

// isODS reports whether the archive is a spreadsheet in OpenDocument: its first file
// says so (Part 2, 3.3).
func (b *Book) isODS() bool {
	f := b.file("mimetype")
	if f == nil || b.file("content.xml") == nil {
		return false
	}
	r, err := f.Open()
	if err != nil {
		return false
	}
	defer r.Close()
	kind, _ := io.ReadAll(io.LimitReader(r, 100))
	return strings.HasPrefix(string(kind), openDocument)
}

// readContents lists the sheets of a spreadsheet in OpenDocument.
func (b *Book) readContents() error {
	b.ods = true
	encrypted := false
	b.tags("META-INF/manifest.xml", func(t *token) error {
		encrypted = encrypted || t.is("encryption-data")
		return nil
	})
	if encrypted {
		return ErrPassword
	}
	hidden := make(map[string]bool) // styles of tables
	style := ""
	err := b.tags("content.xml", func(t *token) error {
		switch string(t.name) {
		case "style":
			style = t.attr("name")
		case "table-properties":
			hidden[style] = t.attr("display") == "false"
		case "table":
			b.Sheets = append(b.Sheets, &Sheet{Name: t.attr("name"), Hidden: hidden[t.attr("style-name")], part: "content.xml"})
		}
		return nil
	})
	if err == nil && len(b.Sheets) == 0 {
		err = fmt.Errorf("%w: it has no sheets", ErrNotWorkbook)
	}
	return err
}

// mostRepeated is how many cells a sheet may have of which rows are repeated.
const mostRepeated = 50_000_000

// An odsReader reads the rows of a sheet in OpenDocument.
type odsReader struct {
	*rowReader
	rows    int // read, those that are repeated counted as often
	cols    int // of the row
	cells   int // in all rows
	columns int // that have been declared
}

// read looks for the sheet and reads its rows.
func (r *odsReader) read() error {
	depth := 0 // of tables: there may be one within another
	ours := false
	for {
		if err := r.next(&r.t); err != nil {
			if errors.Is(err, io.EOF) {
				if depth > 0 {
					return fmt.Errorf("%w: it ends in the middle of a table", ErrDamaged)
				}
				return nil
			}
			return err
		}
		switch {
		case r.t.is("table"):
			switch {
			case r.t.kind == endTag:
				if depth--; ours && depth == 0 {
					return nil
				}
			case r.t.kind == startTag && !r.t.empty:
				if depth++; depth == 1 {
					ours = r.t.attr("name") == r.sheet.Name
				}
			}
		case !ours || depth != 1 || r.t.kind != startTag:
		case r.t.is("table-column"):
			n := r.repeated("number-columns-repeated", MostColumns-r.columns)
			if v := r.t.attr("visibility"); v == "collapse" || v == "filter" {
				r.sheet.HiddenColumns = append(r.sheet.HiddenColumns, Range{r.columns + 1, r.columns + n})
			}
			r.columns += n
		case r.t.is("table-row"):
			if err := r.oneRow(); err != nil {
				return err
			}
		}
	}
}

// repeated returns how often what has begun stands there, at most as often as there is
// room.
func (r *odsReader) repeated(name string, room int) int {
	return max(0, min(room, max(1, number([]byte(r.t.attr(name))))))
}

// oneRow reads a row, and gives it as often as it is repeated; one without cells is not
// given at all.
func (r *odsReader) oneRow() error {
	n := r.repeated("number-rows-repeated", MostRows-r.rows)
	visibility := r.t.attr("visibility")
	r.row = Row{Cells: r.row.Cells[:0], Hidden: visibility == "collapse" || visibility == "filter"}
	r.sheet.Filtered = r.sheet.Filtered || visibility == "filter"
	r.buf, r.cols = r.buf[:0], 0
	if !r.t.empty {
		for {
			if err := r.must(); err != nil {
				return err
			}
			if r.t.kind == endTag && r.t.is("table-row") {
				break
			}
			if r.t.kind == startTag && (r.t.is("table-cell") || r.t.is("covered-table-cell")) {
				if err := r.oneCell(); err != nil {
					return fmt.Errorf("row %d: %w", r.rows+1, err)
				}
			}
		}
	}
	if r.cells += n * len(r.row.Cells); n > 1 && r.cells > mostRepeated {
		return fmt.Errorf("%w: repeated rows of more than %d million cells", ErrTooLarge, mostRepeated/1_000_000)
	}
	first := r.rows + 1
	r.rows += n
	if len(r.row.Cells) == 0 {
		return nil
	}
	r.finish()
	for i := range n {
		r.row.Number = first + i
		if r.row.Hidden {
			r.sheet.HiddenRows++
		}
		if err := r.do(&r.row); err != nil {
			return err
		}
	}
	return nil
}

// oneCell reads a cell, and puts it as often as it is repeated.
func (r *odsReader) oneCell() error {
	n := r.repeated("number-columns-repeated", MostColumns-r.cols)
	covered := r.t.is("covered-table-cell")
	cell := Cell{Col: r.cols + 1, from: len(r.buf)}
	var kind, value string
	failed := false
	wide, high := 1, 1
	eachAttr(r.t.attrs, func(name, v []byte) {
		switch string(name) {
		case "value-type":
			if string(v) == "error" {
				failed = true
			} else {
				kind = string(v)
			}
		case "value", "date-value", "time-value", "boolean-value", "string-value":
			value = string(unescape(nil, v))
		case "formula":
			cell.Formula = true
		case "number-columns-spanned":
			wide = number(v)
		case "number-rows-spanned":
			high = number(v)
		}
	})
	if wide > 1 || high > 1 {
		r.sheet.Merged = append(r.sheet.Merged, Area{r.cols + 1, r.rows + 1, r.cols + wide, r.rows + high})
	}
	if !r.t.empty {
		if err := r.paragraphs(); err != nil {
			return err
		}
	}
	r.cols += n
	switch kind {
	case "float", "percentage", "currency":
		r.buf = append(r.buf[:cell.from], value...)
		r.number(&cell, 0)
	case "date":
		cell.Kind = Date
		day, time, _ := strings.Cut(strings.TrimSuffix(value, "Z"), "T")
		if time, _, _ = strings.Cut(time, "."); time != "" && time != "00:00:00" {
			day += " " + time
		}
		r.buf = append(r.buf[:cell.from], day...)
	case "time":
		cell.Kind = Date
		r.buf = append(r.buf[:cell.from], clock(value)...)
	case "boolean":
		cell.Kind = Bool
		r.buf = append(r.buf[:cell.from], strings.ToUpper(value)...)
	case "string":
		if value != "" {
			r.buf = append(r.buf[:cell.from], value...)
		}
	default:
		cell.Unknown = cell.Formula && len(r.buf) == cell.from
	}
	if failed {
		cell.Kind = Error
	}
	if cell.to = len(r.buf); covered || cell.to == cell.from && !cell.Formula {
		r.buf = r.buf[:cell.from]
		return nil
	}
	for range n {
		r.row.Cells = append(r.row.Cells, cell)
		cell.Col++
	}
	return nil
}

// clock makes 06:00:00 of PT06H00M00S.
func clock(value string) string {
	t := strings.NewReplacer("PT", "", "H", ":", "M", ":", "S", "").Replace(value)
	t, _, _ = strings.Cut(t, ".")
	return t
}

// paragraphs appends the text of a cell that has begun: its paragraphs, with line
// breaks between them, but no notes and drawings.
func (r *odsReader) paragraphs() error {
	from := len(r.buf)
	depth, inside, aside, paragraphs := 1, 0, 0, 0
	frame := "" // the name of the last
	for depth > 0 {
		if err := r.must(); err != nil {
			return err
		}
		switch r.t.kind {
		case someText:
			if inside > 0 && aside == 0 {
				r.buf = appendSpaced(r.buf, r.t.text, from)
			}
		case endTag:
			if depth == aside {
				aside = 0
			}
			if depth == inside {
				inside = 0
			}
			depth--
		case startTag:
			switch {
			case r.t.is("frame"):
				frame = r.t.attr("name")
			case r.t.is("image"):
				r.sheet.picture(Picture{Col: r.cols + 1, Row: r.rows + 1, Name: frame})
			}
			if aside == 0 && inside > 0 {
				switch string(r.t.name) {
				case "s":
					for range max(1, min(number([]byte(r.t.attr("c"))), 1<<16)) {
						r.buf = append(r.buf, ' ')
					}
				case "tab":
					r.buf = append(r.buf, '\t')
				case "line-break":
					r.buf = append(r.buf, '\n')
				}
			}
			if aside == 0 && inside == 0 && (r.t.is("p") || r.t.is("h")) {
				if paragraphs++; paragraphs > 1 {
					r.buf = append(r.buf, '\n')
				}
			}
			if r.t.empty {
				continue
			}
			depth++
			switch {
			case aside == 0 && (r.t.is("annotation") || r.t.is("frame") || r.t.is("shapes")):
				aside = depth
			case aside == 0 && inside == 0 && (r.t.is("p") || r.t.is("h")):
				inside = depth
			}
		}
		if len(r.buf)-from > MostCell {
			return fmt.Errorf("%w: a single cell of more than %d MB", ErrTooLarge, MostCell>>20)
		}
	}
	return nil
}

// appendSpaced appends a text in which runs of white space count as one space (Part 3,
// 6.1.2).
func appendSpaced(dst, text []byte, from int) []byte {
	first := true
	for part := range bytes.FieldsFuncSeq(text, func(r rune) bool { return r == ' ' || r == '\t' || r == '\n' || r == '\r' }) {
		if !first || isSpace(text[0]) && len(dst) > from && dst[len(dst)-1] != '\n' {
			dst = append(dst, ' ')
		}
		dst, first = unescape(dst, part), false
	}
	if len(text) > 0 && isSpace(text[len(text)-1]) && len(dst) > from && !isSpace(dst[len(dst)-1]) {
		dst = append(dst, ' ')
	}
	return dst
}
