package workbook

import (
	"bytes"
	"fmt"
	"slices"
	"strconv"
	"strings"
)

// openPrefixes are the usual prefixes of names, and what they stand for (Part 3, 1.4).
var openPrefixes = [][2]string{
	{"office", "urn:oasis:names:tc:opendocument:xmlns:office:1.0"}, {"table", "urn:oasis:names:tc:opendocument:xmlns:table:1.0"}, {"text", "urn:oasis:names:tc:opendocument:xmlns:text:1.0"},
	{"style", "urn:oasis:names:tc:opendocument:xmlns:style:1.0"}, {"number", "urn:oasis:names:tc:opendocument:xmlns:datastyle:1.0"},
}

// openStyles say what styles of cells make of what is entered. What a document has of its own goes before what is common to all.
type openStyles struct {
	part string // which is read
	data map[string]format
	base map[string][2]string // by name: the format of numbers, and the style on which it is based
	open string               // the format of numbers that is read
}

// openFormats are what formats of numbers make of what is entered, by the names of their tags; percent as in [formatOf].
var openFormats = map[string]format{
	"text-style": formatText, "date-style": formatDate, "number-style": formatNumber, "currency-style": formatNumber, "percentage-style": formatText,
	"time-style": formatNumber, "boolean-style": formatNumber,
}

// read takes what a tag says of styles.
func (s *openStyles) read(t *token) {
	kind, is := openFormats[string(t.name)]
	switch {
	case t.kind != startTag:
	case is:
		s.open = s.part + t.attr("name")
		s.data[s.open] = kind
	case t.is("map") && s.data[s.open] == formatText:
		s.data[s.open] = formatNumber // one for numbers, whose last part says what becomes of texts
	case t.is("style"):
		if s.open = ""; t.attr("family") == "table-cell" {
			s.base[t.attr("name")] = [2]string{s.part + t.attr("data-style-name"), t.attr("parent-style-name")}
		}
	}
}

// of returns what a style makes of what is entered.
func (s *openStyles) of(name string) format {
	for range 10 {
		style, there := s.base[name]
		if kind, is := s.data[style[0]]; is || !there {
			return kind
		}
		name = style[1]
	}
	return formatGeneral
}

// prepare finds out what is in the form.
func (f *openFiller) prepare(string, map[string][]byte) (dropped string, err error) {
	f.styles = openStyles{"common ", make(map[string]format), make(map[string][2]string), ""}
	if f.book.file("styles.xml") != nil {
		if err := f.book.tags("styles.xml", func(t *token) error { f.styles.read(t); return nil }); err != nil {
			return "", err
		}
	}
	f.styles.part = ""
	if err := f.survey(); err != nil {
		return "", fmt.Errorf("sheet %s: %w", f.Sheet, err)
	}
	first := -1 // sample
	if len(f.Samples) > 0 {
		first = slices.Min(f.Samples)
	}
	if len(f.rows) > 0 {
		f.pattern = f.rows[0]
	}
	for i := range f.rows {
		row := &f.rows[i]
		from := max(row.first, f.First)
		for !f.Own && from < row.last && f.isSample(from) {
			from++
		}
		if !f.plain && !f.Own && !f.isSample(from) && f.looks(row) {
			f.pattern, f.plain = *row, true
		}
		if row.first <= first && row.last >= first {
			f.sample = *row
		}
		for number := max(row.first, f.First); number <= min(row.last, f.lastRow()); number++ {
			if f.isSample(number) {
				continue
			}
			for _, c := range row.cells {
				for col := c.first; col <= min(c.last, len(f.Columns)) && c.filled && c.formula == ""; col++ {
					if f.fills(col) {
						return "", f.taken(number)
					}
				}
			}
		}
	}
	return "", nil
}

// looks reports whether a row has cells that are prepared for a product, and nothing in them.
func (f *openFiller) looks(row *openRow) (styled bool) {
	for _, c := range row.cells {
		for col := c.first; col <= min(c.last, len(f.Columns)); col++ {
			if f.fills(col) {
				if c.filled && c.formula == "" {
					return false
				}
				styled = styled || c.look.style != ""
			}
		}
	}
	return styled
}

// survey goes through the document.
func (f *openFiller) survey() error {
	var row *openRow
	var cell *openSpan
	begun, styled, ours, depth, level, child, text, cols := false, false, false, 0, 0, 0, 0, 0
	times := func(t *token, attr string, room int) int {
		return max(0, min(room, max(1, number([]byte(t.attr(attr))))))
	}
	err := eachTag(f.doc, func(t *token, from, to int) error {
		name, start := string(t.name), t.kind == startTag
		if !begun {
			begun = true
			return f.declare(t, to)
		}
		if cell != nil {
			switch {
			case t.kind == endTag && level == 0:
				cell.inner[1], cell = from, nil
				return nil
			case t.kind == endTag:
				level--
			case level == 0:
				child, text = from, to
			}
			if start && !t.empty {
				level++
			}
			if level > 0 {
				return nil
			}
			switch name { // which has ended
			case "p", "h":
				cell.filled = cell.filled || t.kind == endTag && from > text
			case "annotation", "detective":
				cell.notes = append(cell.notes, [2]int{child, to})
			default:
				cell.drawings = append(cell.drawings, [2]int{child, to})
			}
			return nil
		}
		switch {
		case name == "table" && !start:
			depth--
		case name == "table" && !t.empty:
			if depth++; depth == 1 {
				ours = t.attr("name") == f.Sheet
			}
		case name == "automatic-styles" && (!start || t.empty), name == "body" && start && !styled:
			if styled {
				break
			}
			styled = true
			f.addStyle(name, t, from, to)
		case start && (name == "database-range" || name == "conditional-format"):
			eachWholeAttr(t.attrs, func(whole, name, _ []byte) {
				if after := f.extended(t.attr("target-range-address")); string(name) == "target-range-address" && after != t.attr("target-range-address") {
					at, _, _ := strings.Cut(string(whole), "=")
					f.edits = append(f.edits, edit{from, to, withAttr(f.doc[from:to], at, string(appendEscaped(nil, after)))})
				}
			})
		case depth == 0:
			f.styles.read(t)
		case !ours || depth > 1:
		case start && name == "table-column":
			n := times(t, "number-columns-repeated", MostColumns)
			first := 1
			if len(f.columns) > 0 {
				first += f.columns[len(f.columns)-1].last
			}
			f.columns = append(f.columns, openColumn{first, first + n - 1, t.attr("default-cell-style-name")})
		case start && name == "table-row":
			first := f.last + 1
			f.last += times(t, "number-rows-repeated", MostRows-f.last)
			f.end, row, cols = to, nil, 0
			if f.last < f.First {
				break
			}
			f.rows = append(f.rows, openRow{from: from, to: to, inner: [2]int{to, to}, first: first, last: f.last, attrs: attrsBut(t.attrs, "number-rows-repeated"), style: t.attr("default-cell-style-name")})
			if !t.empty {
				row = &f.rows[len(f.rows)-1]
			}
		case name == "table-row":
			if f.end = to; row != nil {
				row.to, row.inner[1], row = to, from, nil
			}
		case !start && name == "table-header-rows" && f.last > 0:
			f.end = to
		case row != nil && start && (name == "table-cell" || name == "covered-table-cell"):
			n := times(t, "number-columns-repeated", MostColumns-cols)
			c := openSpan{first: cols + 1, last: cols + n, inner: [2]int{to, to}, covered: name == "covered-table-cell", look: openLook{t.attr("style-name"), t.attr("content-validation-name")}}
			c.attrs = attrsBut(t.attrs, "number-columns-repeated", "number-columns-spanned", "number-rows-spanned")
			eachWholeAttr(t.attrs, func(whole, name, value []byte) {
				switch string(name) {
				case "formula", "number-matrix-columns-spanned", "number-matrix-rows-spanned":
					c.formula += " " + string(whole)
				case "value-type":
					c.filled = c.filled || string(value) != "string"
				case "string-value":
					c.filled = c.filled || len(value) > 0
				}
			})
			cols += n
			if row.cells = append(row.cells, c); !t.empty {
				cell, level = &row.cells[len(row.cells)-1], 0
			}
		}
		return nil
	})
	if err == nil && f.last == 0 {
		err = fmt.Errorf("%w: it has no rows", ErrDamaged)
	}
	return err
}

// declare sees to it that names have the usual prefixes, by the first tag of the document.
func (f *openFiller) declare(t *token, to int) error {
	stands := make(map[string]string)
	eachAttr(t.attrs, func(name, value []byte) { stands[string(name)] = string(value) })
	more := ""
	for _, p := range openPrefixes {
		switch at := stands["xmlns:"+p[0]]; at {
		case p[1]:
		case "":
			more += fmt.Sprintf(` xmlns:%s="%s"`, p[0], p[1])
		default:
			return fmt.Errorf("%w: in its content.xml %s: stands for %s", ErrUnfillable, p[0], at)
		}
	}
	if more != "" && !t.empty {
		f.edits = append(f.edits, edit{to - 1, to - 1, more})
	}
	return nil
}

// addStyle adds the style of cells that are text, which may be written into where the sheet is protected.
func (f *openFiller) addStyle(name string, t *token, from, to int) {
	for n := 1; ; n++ {
		f.text = fmt.Sprintf("text%d", n)
		_, style := f.styles.base[f.text]
		if _, data := f.styles.data[f.text]; !style && !data {
			break
		}
	}
	with := fmt.Sprintf(`<number:text-style style:name="%[1]s"><number:text-content/></number:text-style><style:style style:name="%[1]s" style:family="table-cell" style:parent-style-name="Default" style:data-style-name="%[1]s">`+
		`<style:table-cell-properties style:cell-protect="none"/></style:style>`, f.text)
	switch {
	case name == "body":
		with, to = "<office:automatic-styles>"+with+"</office:automatic-styles>", from
	case t.empty:
		with = "<office:automatic-styles>" + with + "</office:automatic-styles>"
	default:
		to = from
	}
	f.edits = append(f.edits, edit{from, to, with})
	f.styles.base[f.text], f.styles.data[f.text] = [2]string{f.text}, formatText
}

// extended returns areas that are about the rows of products, down to the last of them: 'A sheet'.A4:'A sheet'.C9.
func (f *openFiller) extended(refs string) string {
	var list []string
	from, quoted, colon := 0, false, -1
	for i := 0; i <= len(refs); i++ {
		switch {
		case i < len(refs) && refs[i] == '\'':
			quoted = !quoted
		case i < len(refs) && refs[i] == ':' && !quoted:
			colon = i
		case i == len(refs) || refs[i] == ' ' && !quoted:
			first := refs[from:i]
			last := first
			if colon > from {
				first, last = refs[from:colon], refs[colon+1:i]
			}
			dot := strings.LastIndexByte(first, '.')
			if dot < 0 {
				return refs
			}
			sheet := strings.TrimPrefix(first[:dot], "$")
			if strings.HasPrefix(sheet, "'") {
				sheet = strings.ReplaceAll(strings.Trim(sheet, "'"), "''", "'")
			}
			area := refs[from:i]
			if a, ok := ParseArea(first[dot+1:] + ":" + last[strings.LastIndexByte(last, '.')+1:]); ok && sheet == f.Sheet && f.grows(a) {
				area = first + ":" + strings.TrimRight(last, "0123456789") + strconv.Itoa(f.lastRow())
			}
			list = append(list, area)
			from, colon = i+1, -1
		}
	}
	return strings.Join(list, " ")
}

// attrsBut returns the attributes of a tag but some.
func attrsBut(attrs []byte, names ...string) string {
	var b bytes.Buffer
	eachWholeAttr(attrs, func(whole, name, _ []byte) {
		if !slices.Contains(names, string(name)) {
			b.WriteByte(' ')
			b.Write(whole)
		}
	})
	return b.String()
}
