package workbook

import (
	"bufio"
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
