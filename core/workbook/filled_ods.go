package workbook

import (
	"bufio"
	"bytes"
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
)

// An openFiller fills a spreadsheet of OpenDocument, all of whose sheets are in one document. Rows and cells that are the same stand there once;
// where products go, they are written apart.
type openFiller struct {
	*Filling
	book  *Book
	doc   []byte
	rows  []openRow // from that on into which the first product goes
	last  int       // the last row of the sheet that is there
	end   int       // where further ones go
	edits []edit

	pattern openRow // which says how rows of products look
	plain   bool    // it is no sample: of the look of samples only the formats count, where it has none
	sample  openRow
	columns []openColumn
	styles  openStyles
	text    string // the style of text that is added

	out    *bufio.Writer
	buf    []byte
	at     int // up to where the document is written
	on     int // in which of the rows the last product went
	blanks int // cells without anything in them that have still to be written
	look   openLook
	put    func(row, col int, text string)
}

// An openRow is a row, or several that are the same.
type openRow struct {
	from, to    int // in the document
	inner       [2]int
	first, last int
	attrs       string // but how often it stands there
	style       string // of its cells
	cells       []openSpan
}

// An openSpan is a cell of a row, or several that are the same.
type openSpan struct {
	first, last int
	inner       [2]int // what is in it
	attrs       string // but how often it stands there, and over how many it spans
	look        openLook
	formula     string // the attributes that are about it
	covered     bool
	filled      bool
	notes       [][2]int // beside the text: before it
	drawings    [][2]int // and behind it
}

// An openLook is what stays of a cell whatever is in it.
type openLook struct{ style, asks string }

type openColumn struct {
	first, last int
	style       string
}

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

// read takes what a tag says of styles.
func (s *openStyles) read(t *token) {
	kind, is := map[string]format{"text-style": formatText, "date-style": formatDate, "number-style": formatNumber, "currency-style": formatNumber, "percentage-style": formatNumber,
		"time-style": formatNumber, "boolean-style": formatNumber}[string(t.name)]
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
	for i := range f.rows {
		row := &f.rows[i]
		if i == 0 {
			f.pattern = *row
		}
		from := max(row.first, f.First)
		for !f.Own && from < row.last && f.isSample(from) {
			from++
		}
		if !f.plain && !f.Own && !f.isSample(from) && f.looks(row) {
			f.pattern, f.plain = *row, true
		}
		if len(f.Samples) > 0 && row.first <= slices.Min(f.Samples) && row.last >= slices.Min(f.Samples) {
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

// copyTo copies the document up to a place.
func (f *openFiller) copyTo(to int) {
	var edits []edit
	for _, e := range f.edits {
		if e.from >= f.at && e.from < to {
			edits = append(edits, edit{e.from - f.at, e.to - f.at, e.with})
		}
	}
	f.out.Write(edited(f.doc[f.at:to], edits))
	f.at = to
}

// enter copies what stands before a row, which is then written in another way.
func (f *openFiller) enter(row int) {
	f.on = row
	if row == len(f.rows) {
		f.copyTo(f.end)
		return
	}
	f.copyTo(f.rows[row].from)
	f.at = f.rows[row].to
}

// write writes the document.
func (f *openFiller) write(out *bufio.Writer, each func(do func([]Fill) error) error) error {
	f.out = out
	f.enter(0)
	if len(f.rows) > 0 {
		f.same(&f.rows[0], f.rows[0].first, f.First-1)
	} else if f.last < f.First-1 {
		f.row("", f.First-1-f.last)
		f.blank(openLook{}, 1)
		f.close()
	}
	number := f.First
	err := each(func(cells []Fill) error {
		if f.on < len(f.rows) && f.rows[f.on].last < number {
			f.enter(f.on + 1)
		}
		number++
		return f.product(number-1, cells)
	})
	switch {
	case err != nil:
		return err
	case number != f.First+f.Rows:
		return fmt.Errorf("%w: there are %d rows, and not %d", ErrUnfillable, number-f.First, f.Rows)
	}
	for f.on < len(f.rows) {
		row := &f.rows[f.on]
		for from := max(row.first, number); from <= row.last; {
			to := row.last
			for _, sample := range f.Samples {
				switch {
				case sample == from && !f.Own:
					to = from
				case sample > from && !f.Own:
					to = min(to, sample-1)
				}
			}
			if f.isSample(from) {
				f.emptied(row, from, to)
			} else {
				f.same(row, from, to)
			}
			from = to + 1
		}
		f.enter(f.on + 1)
	}
	f.copyTo(len(f.doc))
	return nil
}

// row begins a row, or several that are the same.
func (f *openFiller) row(attrs string, n int) {
	f.buf = append(append(f.buf[:0], `<table:table-row`...), attrs...)
	f.buf = append(f.times("rows", n), '>')
}

// times appends how often a row or cell stands there.
func (f *openFiller) times(what string, n int) []byte {
	if n < 2 {
		return f.buf
	}
	return append(strconv.AppendInt(append(append(append(f.buf, ` table:number-`...), what...), `-repeated="`...), int64(n), 10), '"')
}

func (f *openFiller) close() {
	f.flush()
	f.buf = append(f.buf, `</table:table-row>`...)
	f.out.Write(f.buf)
}

// same writes rows as they stand in the form.
func (f *openFiller) same(row *openRow, from, to int) {
	switch {
	case from > to:
	case from == row.first && to == row.last:
		f.out.Write(f.doc[row.from:row.to])
	default:
		f.row(row.attrs, to-from+1)
		f.buf = append(f.buf, f.doc[row.inner[0]:row.inner[1]]...)
		if row.inner[0] == row.inner[1] {
			f.blank(openLook{}, 1)
		}
		f.close()
	}
}

// emptied writes rows of samples.
func (f *openFiller) emptied(row *openRow, from, to int) {
	f.row(row.attrs, to-from+1)
	for i := range row.cells {
		c := &row.cells[i]
		f.keep(c, c.last-c.first+1, true)
	}
	if row.cells == nil {
		f.blank(openLook{}, 1)
	}
	f.close()
}

// blank writes cells without anything in them.
func (f *openFiller) blank(look openLook, n int) {
	if look != f.look {
		f.flush()
	}
	f.look = look
	f.blanks += n
}

// flush writes those that wait.
func (f *openFiller) flush() {
	if f.blanks > 0 {
		f.cell(f.look, f.blanks)
		f.buf = append(f.buf, "/>"...)
		f.blanks = 0
	}
}

// cell writes the begin of a cell.
func (f *openFiller) cell(look openLook, n int) {
	f.buf = append(f.buf, `<table:table-cell`...)
	if look.style != "" {
		f.buf = append(appendEscaped(append(f.buf, ` table:style-name="`...), look.style), '"')
	}
	if look.asks != "" {
		f.buf = append(appendEscaped(append(f.buf, ` table:content-validation-name="`...), look.asks), '"')
	}
	f.buf = f.times("columns", n)
}

// stretches appends stretches of the document.
func (f *openFiller) stretches(list [][2]int) {
	for _, s := range list {
		f.buf = append(f.buf, f.doc[s[0]:s[1]]...)
	}
}

// keep writes cells as they stand in the form: of a sample only the formula and the look, and of a formula not what it came to, which is made anew.
func (f *openFiller) keep(c *openSpan, n int, sample bool) {
	aside := c.notes != nil || c.drawings != nil
	if (c.covered || sample && c.filled || !c.filled) && c.formula == "" && !aside {
		f.blank(c.look, n)
		return
	}
	f.flush()
	if c.formula == "" && !sample && !c.covered {
		f.buf = append(append(f.buf, `<table:table-cell`...), c.attrs...)
		f.buf = append(f.times("columns", n), '>')
		f.buf = append(f.buf, f.doc[c.inner[0]:c.inner[1]]...)
	} else {
		f.cell(c.look, n)
		f.buf = append(append(f.buf, c.formula...), '>')
		f.stretches(c.notes)
		f.stretches(c.drawings)
	}
	f.buf = append(f.buf, `</table:table-cell>`...)
}

// product writes the row of a product.
func (f *openFiller) product(number int, cells []Fill) error {
	there, sample := f.on < len(f.rows), f.isSample(number)
	other := f.plain && sample // it does not look as a product should
	own := openRow{attrs: f.pattern.attrs, style: f.pattern.style}
	if there {
		own = f.rows[f.on]
	}
	if other {
		own.attrs, own.style = f.pattern.attrs, f.pattern.style
	}
	f.row(attrsBut([]byte(own.attrs), "visibility"), 1)
	mine, like := own.cells, f.pattern.cells
	for col := 1; col <= len(f.Columns); col++ {
		c, look := spanAt(&mine, col), openLook{}
		if p := spanAt(&like, col); p != nil {
			look = p.look
		}
		if c != nil {
			look.asks = cmp.Or(c.look.asks, look.asks)
			if !other {
				look.style = cmp.Or(c.look.style, look.style)
			}
		}
		switch {
		case f.fills(col):
			if err := f.fill(number, col, look, own.style, c, &cells[col-1]); err != nil {
				return err
			}
		case c != nil && (!other || c.formula != ""):
			f.keep(c, 1, sample)
		default:
			f.blank(look, 1)
		}
	}
	behind := f.pattern.cells
	if there {
		behind = own.cells
	}
	for i := range behind {
		c := &behind[i]
		switch n := c.last - max(c.first-1, len(f.Columns)); {
		case n <= 0:
		case there:
			f.keep(c, n, sample)
		default:
			f.blank(c.look, n)
		}
	}
	f.close()
	return nil
}

// spanAt takes the cell of a column off the begin of a list.
func spanAt(list *[]openSpan, col int) *openSpan {
	for len(*list) > 0 && (*list)[0].last < col {
		*list = (*list)[1:]
	}
	if len(*list) > 0 && (*list)[0].first <= col {
		return &(*list)[0]
	}
	return nil
}

// fill writes a cell of a product; byRow is the style that cells of its row have, and c what stands there in the form, if anything.
func (f *openFiller) fill(row, col int, look openLook, byRow string, c *openSpan, with *Fill) error {
	var notes, drawings [][2]int
	if c != nil {
		notes, drawings = c.notes, c.drawings
	}
	if with.Text == "" && notes == nil && drawings == nil {
		f.blank(look, 1)
		return nil
	}
	f.flush()
	style := cmp.Or(look.style, byRow)
	if style == "" {
		if i := slices.IndexFunc(f.columns, func(c openColumn) bool { return col >= c.first && col <= c.last }); i >= 0 {
			style = f.columns[i].style
		}
	}
	shown := f.styles.of(style)
	if shown == formatGeneral && f.plain {
		list := f.sample.cells
		if s := spanAt(&list, col); s != nil {
			switch is := f.styles.of(s.look.style); is {
			case formatDate:
				shown, style, look.style = is, s.look.style, s.look.style
			case formatText:
				shown = is
			}
		}
	}
	kind := ` office:value-type="string"`
	value := ""
	switch {
	case with.Text == "":
		kind = ""
	case with.Value == "" || shown == formatText:
	case !with.Date && shown != formatDate:
		kind, value = ` office:value-type="float" office:value="`, with.Value
	case with.Date && shown == formatDate:
		kind, value = ` office:value-type="date" office:date-value="`, with.Value
	}
	if value == "" && with.Text != "" {
		if style == "" || style == "Default" || with.Code && shown != formatText {
			look.style = f.text
		}
		if err := errors.Join(room(row, []string{with.Text}), openRoom(row, col, with.Text)); err != nil {
			return err
		}
	}
	f.cell(look, 1)
	f.buf = append(f.buf, kind...)
	switch {
	case value != "":
		f.buf = append(append(f.buf, value...), '"')
	case strings.IndexByte(with.Text, '\t') >= 0:
		f.buf = appendStringValue(f.buf, with.Text)
	}
	f.buf = append(f.buf, '>')
	f.stretches(notes)
	if with.Text != "" {
		f.buf = append(appendParagraphs(append(f.buf, `<text:p>`...), with.Text), `</text:p>`...)
	}
	f.stretches(drawings)
	f.buf = append(f.buf, `</table:table-cell>`...)
	switch {
	case with.Text == "":
	case value != "":
		f.put(row, col, value)
	default:
		f.put(row, col, openBreaks(with.Text))
	}
	return nil
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
