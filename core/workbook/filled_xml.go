package workbook

import (
	"bufio"
	"bytes"
	"fmt"
	"path"
	"slices"
	"strconv"
	"strings"
	"time"
)

// A filler fills a workbook of Office Open XML.
type filler struct {
	*Filling
	book    *Book
	doc     []byte // the sheet
	prefix  string // of its names: "x:"
	rows    map[int]preparedRow
	last    int // the last row that is prepared
	head    int // where the data of the sheet begin
	tail    int // and end
	columns []columnStyle
	edits   []edit

	pattern preparedRow // which says how rows of products look
	plain   bool        // it is no sample: of the look of samples only the formats count, where it has none
	sample  preparedRow

	formats []format // by style
	text    int      // the style of text that is added
	out     *bufio.Writer
	buf     []byte
	put     func(row, col int, text string)
}

// A preparedRow is a row of the form into which a product goes, or a sample.
type preparedRow struct {
	attrs string // those of the row, but its number
	cells []preparedCell
}

type preparedCell struct {
	col      int
	style    int // -1 if it has none
	formula  bool
	filled   bool
	from, to int
	value    [2]int // where the element of the value begins and ends; 0 if there is none
}

type columnStyle struct{ from, to, style int }

// A format is what a style makes of what is entered.
type format uint8

const (
	formatGeneral format = iota
	formatText
	formatDate
	formatNumber
)

// addStyle adds the style of cells that are text, and finds out what the others are. Number format 49 is the built-in one for text (ECMA-376,
// Part 1, 18.8.30); the cells may be written into where the sheet is protected.
func (f *filler) addStyle(changed map[string][]byte) error {
	f.text = -1
	if f.book.styles == "" || f.book.file(f.book.styles) == nil {
		return nil
	}
	doc, err := f.book.whole(f.book.styles)
	if err != nil {
		return err
	}
	custom := make(map[int]string)
	var edits []edit
	inCells, count, open := false, 0, [2]int{}
	var tag []byte
	err = eachTag(doc, func(t *token, from, to int) error {
		switch {
		case t.kind == startTag && t.is("numFmt"):
			id, _ := strconv.Atoi(t.attr("numFmtId"))
			custom[id] = t.attr("formatCode")
		case t.kind == startTag && t.is("cellXfs") && !t.empty:
			inCells, tag, open = true, doc[from:to], [2]int{from, to}
		case t.kind == endTag && t.is("cellXfs"):
			inCells = false
			prefix := prefixOf(doc[from+1:])
			xf := `<` + prefix + `xf numFmtId="49" fontId="0" fillId="0" borderId="0" xfId="0" applyNumberFormat="1" applyProtection="1"><` + prefix + `protection locked="0"/></` + prefix + `xf>`
			edits = append(edits, edit{open[0], open[1], withAttr(tag, "count", strconv.Itoa(count+1))}, edit{from, from, xf})
			f.text = count
		case t.kind == startTag && inCells && t.is("xf"):
			count++
			id, _ := strconv.Atoi(t.attr("numFmtId"))
			f.formats = append(f.formats, formatOf(id, custom[id]))
		}
		return nil
	})
	if err != nil {
		return err
	}
	changed[strings.ToLower(f.book.styles)] = edited(doc, edits)
	return nil
}

// formatOf returns what a number format makes of what is entered.
func formatOf(id int, custom string) format {
	switch {
	case id == 49 || custom == "@", id == 9 || id == 10 || strings.Contains(custom, "%"): // percent, too: 19 would be shown as 1900 %
		return formatText
	case shownBy(id, custom) == asDate:
		return formatDate
	case id == 0 || strings.EqualFold(custom, "general"):
		return formatGeneral
	}
	return formatNumber
}

// prefixOf returns the prefix of the name of a tag, with its colon; of an end tag, behind the slash.
func prefixOf(b []byte) string {
	b = bytes.TrimPrefix(b, []byte("/"))
	end := bytes.IndexAny(b, " \t\r\n/>")
	if end < 0 {
		return ""
	}
	if i := bytes.IndexByte(b[:end], ':'); i >= 0 {
		return string(b[:i+1])
	}
	return ""
}

// extended returns areas that are about the rows of products, down to the last of them.
func (f *filler) extended(refs string) string {
	list := strings.Fields(refs)
	for i, ref := range list {
		a, ok := ParseArea(ref)
		if !ok || !f.grows(a) {
			continue
		}
		list[i] = fmt.Sprintf("%s%d:%s%d", ColumnName(a.Col-1), a.Row, ColumnName(a.ToCol-1), f.lastRow())
	}
	return strings.Join(list, " ")
}

// amongRows reports whether an area is one of the rows into which products go, or in which samples stand.
func (f *filler) amongRows(ref string) bool {
	a, ok := ParseArea(ref)
	last := f.lastRow()
	if len(f.Samples) > 0 {
		last = max(last, slices.Max(f.Samples))
	}
	return ok && a.Row >= f.First && a.Row <= last
}

// prepare finds out what is in the form, and what else of it becomes other.
func (f *filler) prepare(part string, changed map[string][]byte) (dropped string, err error) {
	if err := f.addStyle(changed); err != nil {
		return "", err
	}
	if err := f.look(); err != nil {
		return "", err
	}
	if err := f.tables(part, changed); err != nil {
		return "", err
	}
	return f.dropChain(changed)
}

// look goes through the sheet.
func (f *filler) look() error {
	var row *preparedRow
	var cell *preparedCell
	number, col := 0, 0
	inSqref, merged, mergedTag, links := -1, 0, [2]int{-1, 0}, [2]int{-1, 0}
	left, leftLinks := 0, 0
	f.head = -1
	note := func(from, to int, with string) {
		if with != string(f.doc[from:to]) {
			f.edits = append(f.edits, edit{from, to, with})
		}
	}
	err := eachTag(f.doc, func(t *token, from, to int) error {
		name := string(t.name)
		switch {
		case f.head < 0 || f.tail > 0: // outside of the rows
			switch {
			case t.kind == startTag && name == "sheetData":
				f.prefix = prefixOf(f.doc[from+1:])
				if f.head = to; t.empty {
					f.edits = append(f.edits, edit{from, to, "<" + f.prefix + "sheetData>"})
					f.tail = to
				}
			case t.kind == startTag && name == "dimension":
				if a, ok := ParseArea(t.attr("ref")); ok {
					a.ToRow, a.ToCol = max(a.ToRow, f.lastRow()), max(a.ToCol, len(f.Columns))
					note(from, to, withAttr(f.doc[from:to], "ref", fmt.Sprintf("%s%d:%s%d", ColumnName(a.Col-1), a.Row, ColumnName(a.ToCol-1), a.ToRow)))
				}
			case t.kind == startTag && name == "col":
				if style, err := strconv.Atoi(t.attr("style")); err == nil {
					first, _ := strconv.Atoi(t.attr("min"))
					last, _ := strconv.Atoi(t.attr("max"))
					f.columns = append(f.columns, columnStyle{first, last, style})
				}
			case t.kind == startTag && (name == "dataValidation" || name == "conditionalFormatting") && t.attr("sqref") != "":
				note(from, to, withAttr(f.doc[from:to], "sqref", f.extended(t.attr("sqref"))))
			case t.kind == startTag && name == "autoFilter":
				note(from, to, withAttr(f.doc[from:to], "ref", f.extended(t.attr("ref"))))
			case name == "sqref" && t.kind == startTag && !t.empty:
				inSqref = to
			case name == "sqref" && t.kind == endTag && inSqref >= 0:
				note(inSqref, from, f.extended(string(f.doc[inSqref:from])))
				inSqref = -1
			case name == "mergeCells" && t.kind == startTag && !t.empty:
				mergedTag = [2]int{from, to}
			case name == "mergeCell" && t.kind == startTag:
				if f.amongRows(t.attr("ref")) {
					f.edits = append(f.edits, edit{from, f.endOf(to, t), ""})
					merged++
				} else {
					left++
				}
			case name == "mergeCells" && t.kind == endTag && merged > 0 && mergedTag[0] >= 0:
				f.emptied(mergedTag, from, to, left)
				mergedTag[0] = -1
			case name == "hyperlinks" && t.kind == startTag && !t.empty:
				links = [2]int{from, to}
			case name == "hyperlink" && t.kind == startTag:
				if f.amongRows(t.attr("ref")) {
					f.edits = append(f.edits, edit{from, f.endOf(to, t), ""})
				} else {
					leftLinks++
				}
			case name == "hyperlinks" && t.kind == endTag && leftLinks == 0 && links[0] >= 0:
				f.emptied(links, from, to, 0)
				links[0] = -1
			}
		case name == "sheetData" && t.kind == endTag:
			f.tail = from
		case name == "row" && t.kind == startTag:
			if number++; t.attr("r") != "" {
				number, _ = strconv.Atoi(t.attr("r"))
			}
			if col = 0; number < f.First {
				f.head, row = to, nil
				return nil
			}
			row = &preparedRow{attrs: rowAttrs(t.attrs)}
			f.last = max(f.last, number)
			if t.empty {
				f.rows[number], row = *row, nil
			}
		case name == "row" && t.kind == endTag:
			if row == nil {
				f.head = to
				return nil
			}
			f.rows[number] = *row
			row = nil
		case row == nil:
			f.head = to
		case name == "c" && t.kind == startTag:
			c := preparedCell{style: -1, from: from, to: to}
			if c.col, _ = place([]byte(t.attr("r"))); c.col == 0 {
				c.col = col + 1
			}
			col = c.col
			if style, err := strconv.Atoi(t.attr("s")); err == nil {
				c.style = style
			}
			if row.cells = append(row.cells, c); !t.empty {
				cell = &row.cells[len(row.cells)-1]
			}
		case name == "c" && t.kind == endTag && cell != nil:
			cell.to, cell = to, nil
		case cell != nil && t.kind == startTag && name == "f":
			cell.formula = true
		case cell != nil && t.kind == startTag && (name == "v" || name == "is"):
			if cell.filled = true; name == "v" {
				cell.value[0] = from
				if t.empty {
					cell.value[1] = to
				}
			}
		case cell != nil && t.kind == endTag && name == "v":
			cell.value[1] = to
		}
		return nil
	})
	switch {
	case err != nil:
		return fmt.Errorf("sheet %s: %w", f.Sheet, err)
	case f.head < 0 || f.tail == 0:
		return fmt.Errorf("sheet %s: %w: it has no rows", f.Sheet, ErrDamaged)
	}
	f.pattern = f.rows[f.First]
	for number := f.First; number <= f.last && !f.Own; number++ {
		if row := f.rows[number]; !f.isSample(number) && f.looks(&row) {
			f.pattern, f.plain = row, true
			break
		}
	}
	if f.plain && len(f.Samples) > 0 {
		f.sample = f.rows[slices.Min(f.Samples)]
	}
	return f.room()
}

// looks reports whether a row has cells that are prepared for a product, and nothing in them.
func (f *filler) looks(row *preparedRow) (styled bool) {
	for _, c := range row.cells {
		if f.fills(c.col) {
			if c.filled && !c.formula {
				return false
			}
			styled = styled || c.style >= 0
		}
	}
	return styled
}

// endOf returns where an element ends that has nothing in it, behind its tag.
func (f *filler) endOf(to int, t *token) int {
	if t.empty {
		return to
	}
	if end := bytes.IndexByte(f.doc[to:], '>'); end >= 0 {
		return to + end + 1
	}
	return to
}

// emptied takes an element out in which nothing is left, or says how much is left in it.
func (f *filler) emptied(tag [2]int, from, to, left int) {
	if left > 0 {
		f.edits = append(f.edits, edit{tag[0], tag[1], withAttr(f.doc[tag[0]:tag[1]], "count", strconv.Itoa(left))})
		return
	}
	f.edits = slices.DeleteFunc(f.edits, func(e edit) bool { return e.from >= tag[0] && e.to <= to })
	f.edits = append(f.edits, edit{tag[0], to, ""})
}

// rowAttrs returns the attributes of a row that another may have, too.
func rowAttrs(attrs []byte) string {
	var b strings.Builder
	for _, name := range []string{"spans", "s", "customFormat", "ht", "customHeight"} {
		eachAttr(attrs, func(n, v []byte) {
			if string(n) == name {
				fmt.Fprintf(&b, ` %s="%s"`, name, v)
			}
		})
	}
	return b.String()
}

// room looks whether the rows fit: where something stands that is no sample, nothing goes.
func (f *filler) room() error {
	for number := f.First; number <= min(f.last, f.lastRow()); number++ {
		if f.isSample(number) {
			continue
		}
		for _, c := range f.rows[number].cells {
			if f.fills(c.col) && c.filled && !c.formula {
				return f.taken(number)
			}
		}
	}
	return nil
}

// tables lets the table of the sheet reach to the last row.
func (f *filler) tables(part string, changed map[string][]byte) error {
	rels, err := f.book.relations(part)
	if err != nil && len(rels) == 0 {
		return nil // it has none
	}
	for _, rel := range rels {
		if !strings.HasSuffix(rel.kind, "/table") || rel.lost != nil || f.book.file(rel.target) == nil {
			continue
		}
		doc, err := f.book.whole(rel.target)
		if err != nil {
			return err
		}
		var edits []edit
		err = eachTag(doc, func(t *token, from, to int) error {
			if t.kind != startTag || !t.is("table") && !t.is("autoFilter") {
				return nil
			}
			ref := t.attr("ref")
			after := f.extended(ref)
			if after == ref {
				return nil
			}
			if totals, _ := strconv.Atoi(t.attr("totalsRowCount")); totals > 0 {
				return fmt.Errorf("%w: the table %s has a row of totals, and %d rows do not fit above it", ErrUnfillable, t.attr("displayName"), f.Rows)
			}
			edits = append(edits, edit{from, to, withAttr(doc[from:to], "ref", after)})
			return nil
		})
		if err != nil {
			return err
		}
		if edits != nil {
			changed[strings.ToLower(rel.target)] = edited(doc, edits)
		}
	}
	return nil
}

// dropChain leaves the list out of the order in which formulas are calculated, which programs make anew; it returns its name in small letters.
func (f *filler) dropChain(changed map[string][]byte) (dropped string, err error) {
	rels, _ := f.book.relations(f.book.main)
	for _, rel := range rels {
		if strings.HasSuffix(rel.kind, "/calcChain") && rel.lost == nil {
			dropped = strings.ToLower(rel.target)
		}
	}
	if dropped == "" || f.book.file(dropped) == nil {
		return "", nil
	}
	for _, in := range []struct{ part, tag string }{
		{path.Join(path.Dir(f.book.main), "_rels", path.Base(f.book.main)+".rels"), "Relationship"}, {"[Content_Types].xml", "Override"},
	} {
		doc, err := f.book.whole(in.part)
		if err != nil {
			return "", err
		}
		var edits []edit
		err = eachTag(doc, func(t *token, from, to int) error {
			if t.kind == startTag && t.is(in.tag) && (strings.HasSuffix(t.attr("Type"), "/calcChain") || strings.EqualFold(strings.TrimPrefix(t.attr("PartName"), "/"), dropped)) {
				edits = append(edits, edit{from, to, ""})
			}
			return nil
		})
		if err != nil {
			return "", err
		}
		changed[strings.ToLower(in.part)] = edited(doc, edits)
	}
	return dropped, nil
}

// write writes the sheet.
func (f *filler) write(out *bufio.Writer, each func(do func([]Fill) error) error) error {
	f.out = out
	var before, behind []edit
	for _, e := range f.edits {
		if e.to <= f.head {
			before = append(before, e)
		} else {
			e.from, e.to = e.from-f.tail, e.to-f.tail
			behind = append(behind, e)
		}
	}
	f.out.Write(edited(f.doc[:f.head], before))
	n := 0
	err := each(func(cells []Fill) error {
		n++
		return f.row(f.First+n-1, cells)
	})
	switch {
	case err != nil:
		return err
	case n != f.Rows:
		return fmt.Errorf("%w: there are %d rows, and not %d", ErrUnfillable, n, f.Rows)
	}
	for number := f.lastRow() + 1; number <= f.last; number++ {
		row, there := f.rows[number]
		if !there {
			continue
		}
		f.open(number, row.attrs)
		for i := range row.cells {
			f.keep(number, &row.cells[i], f.isSample(number))
		}
		f.close()
	}
	if bytes.HasSuffix(f.doc[:f.head], []byte("/>")) && f.head == f.tail { // it had no rows
		f.out.WriteString("</" + f.prefix + "sheetData>")
	}
	_, err = f.out.Write(edited(f.doc[f.tail:], behind))
	return err
}

func (f *filler) open(number int, attrs string) {
	f.buf = append(append(append(append(f.buf[:0], '<'), f.prefix...), `row r="`...), strconv.Itoa(number)...)
	f.buf = append(append(append(f.buf, '"'), attrs...), '>')
}

func (f *filler) close() {
	f.buf = append(append(append(f.buf, "</"...), f.prefix...), "row>"...)
	f.out.Write(f.buf)
}

// keep writes a cell as it stands in the form: of a sample only its formula and its look, and of a formula not what it came to, which is made anew.
func (f *filler) keep(row int, c *preparedCell, sample bool) {
	switch {
	case c.formula && c.value[1] > 0:
		f.buf = append(append(f.buf, f.doc[c.from:c.value[0]]...), f.doc[c.value[1]:c.to]...)
	case c.filled && !c.formula && sample:
		if c.style >= 0 {
			f.cell(row, c.col, c.style)
			f.buf = append(f.buf, "/>"...)
		}
	default:
		f.buf = append(f.buf, f.doc[c.from:c.to]...)
	}
}

// cell writes the begin of a cell.
func (f *filler) cell(row, col, style int) {
	f.buf = append(append(append(f.buf, '<'), f.prefix...), `c r="`...)
	f.buf = strconv.AppendInt(appendColumn(f.buf, col-1), int64(row), 10)
	f.buf = append(f.buf, '"')
	if style >= 0 {
		f.buf = append(strconv.AppendInt(append(f.buf, ` s="`...), int64(style), 10), '"')
	}
}

// row writes the row of a product.
func (f *filler) row(number int, cells []Fill) error {
	prepared, there := f.rows[number]
	sample := f.isSample(number)
	other := f.plain && sample // it does not look as a product should
	if !there || other {
		prepared.attrs = f.pattern.attrs
	}
	f.open(number, prepared.attrs)
	last := len(f.Columns)
	for _, list := range [][]preparedCell{prepared.cells, f.pattern.cells} {
		if n := len(list); n > 0 {
			last = max(last, list[n-1].col)
		}
	}
	own, like := prepared.cells, f.pattern.cells
	for col := 1; col <= last; col++ {
		c, style := cellAt(&own, col), -1
		if p := cellAt(&like, col); p != nil {
			style = p.style
		}
		if c != nil && c.style >= 0 && !other {
			style = c.style
		}
		if !f.fills(col) {
			switch {
			case c != nil && (!other || c.formula):
				f.keep(number, c, sample)
			case (!there || other) && style >= 0:
				f.cell(number, col, style)
				f.buf = append(f.buf, "/>"...)
			}
			continue
		}
		if style < 0 {
			for _, s := range f.columns {
				if col >= s.from && col <= s.to {
					style = s.style
				}
			}
		}
		if err := f.fill(number, col, style, &cells[col-1]); err != nil {
			return err
		}
	}
	f.close()
	return nil
}

// shown returns what a style makes of what is entered.
func (f *filler) shown(style int) format {
	if style >= 0 && style < len(f.formats) {
		return f.formats[style]
	}
	return formatGeneral
}

// asSample returns what becomes of what is entered into a cell whose style says nothing of it, as samples are written.
func (f *filler) asSample(col, style int) (format, int) {
	at, found := slices.BinarySearchFunc(f.sample.cells, col, func(c preparedCell, col int) int { return c.col - col })
	if !found {
		return formatGeneral, style
	}
	switch s := f.sample.cells[at].style; f.shown(s) {
	case formatDate:
		return formatDate, s
	case formatText:
		return formatText, style
	}
	return formatGeneral, style
}

// cellAt takes the cell of a column off the begin of a list.
func cellAt(list *[]preparedCell, col int) *preparedCell {
	for len(*list) > 0 && (*list)[0].col < col {
		*list = (*list)[1:]
	}
	if len(*list) > 0 && (*list)[0].col == col {
		return &(*list)[0]
	}
	return nil
}

// fill writes a cell of a product.
func (f *filler) fill(row, col, style int, c *Fill) error {
	if c.Text == "" {
		if style >= 0 {
			f.cell(row, col, style)
			f.buf = append(f.buf, "/>"...)
		}
		return nil
	}
	shown := f.shown(style)
	if shown == formatGeneral {
		shown, style = f.asSample(col, style)
	}
	value := ""
	switch {
	case c.Value == "" || shown == formatText:
	case !c.Date && shown != formatDate:
		value = c.Value
	case c.Date && shown == formatDate:
		if day, err := time.Parse(time.DateOnly, c.Value); err == nil {
			value = f.book.epoch.serial(day)
		}
	}
	if value != "" {
		f.cell(row, col, style)
		f.buf = append(append(append(append(f.buf, '>', '<'), f.prefix...), "v>"...), value...)
		f.buf = append(append(append(f.buf, "</"...), f.prefix...), "v></"...)
		f.buf = append(append(f.buf, f.prefix...), "c>"...)
		f.put(row, col, c.Value)
		return nil
	}
	if f.text >= 0 && (style <= 0 || c.Code && shown != formatText) {
		style = f.text
	}
	if err := room(row, []string{c.Text}); err != nil {
		return err
	}
	f.cell(row, col, style)
	f.buf = append(append(append(f.buf, ` t="inlineStr"><`...), f.prefix...), "is><"...)
	f.buf = append(append(f.buf, f.prefix...), `t xml:space="preserve">`...)
	f.buf = appendEscaped(f.buf, c.Text)
	for _, name := range []string{"t", "is", "c"} {
		f.buf = append(append(append(append(f.buf, "</"...), f.prefix...), name...), '>')
	}
	f.put(row, col, c.Text)
	return nil
}

// serial returns the number of a day.
func (e epoch) serial(day time.Time) string {
	base := time.Date(1899, 12, 30, 0, 0, 0, 0, time.UTC)
	if e == epoch1904 {
		base = time.Date(1904, 1, 1, 0, 0, 0, 0, time.UTC)
	}
	days := int(day.Sub(base).Hours() / 24)
	if days < 61 && e == epoch1900 || days < 0 {
		return "" // a day that programs count in other ways
	}
	return strconv.Itoa(days)
}
