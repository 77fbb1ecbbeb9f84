package line

import (
	"slices"
	"strconv"
	"strings"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/charset"
	"zetanum/core/folder"
	"zetanum/core/sheet"
	"zetanum/core/text"
)

// The outputs of a run.
const (
	ready = iota
	held
	aside
	changes
	outputs
)

// FileNames are the names of the outputs: rows for the importer, rows held
// back, rows that are no product, and every change.
var FileNames = [outputs]string{"ready.csv", "held.csv", "aside.csv", "changes.jsonl"}

// LongName is the file of the long texts of changes.
const LongName = "changes.long.jsonl"

// LookName is the file with the rows for the importer as [sheet.AppendSpooled] has them:
// before its cells each has the number of the row, that of the first row of its product, and the
// places of cells that were changed, counted from 0, with spaces between them.
const LookName = folder.Temporary + "look"

// Output says what is written for the importer.
type Output struct {
	Columns []OutColumn         // which columns, in which order; nil: all as they are
	Plain   bool                // without headings, and without rows that are empty in these columns
	Away    catalogue.ColumnSet // columns that do not go out, nor what is made of them: what is wrong with their cells holds nothing
	Leave   catalogue.ColumnSet // columns that go out as they are in the source, whatever the steps make of them
	SortBy  []int               // columns by which the products are sorted; nil: as they come
	BOM     bool                // with a byte order mark
	Bare    bool                // without headings, as the source

	// Style and LineEnd are how the rows are written; as those of the source, if nothing
	// is said.
	sheet.Style
	LineEnd string

	// FirstRows keeps the rows above the headings, and those under them that are no
	// products but belong to the headings.
	FirstRows bool

	// Form is what stands above the rows in place of the headings; nothing does if it has no rows.
	Form Form

	// Look keeps the rows in the file [LookName], too, with their numbers and what was
	// changed in them.
	Look bool

	// Cuts notes how much of what goes out each product takes, so that it can be cut between two.
	Cuts bool

	// Charset is the encoding in which they go out.
	Charset charset.Charset
	// Encode appends rows in the encoding in which they go out; nil for UTF-8.
	Encode func(dst, rows []byte) ([]byte, error)

	form  *sheet.Form
	count int   // of the columns of the source
	anew  bool  // its rows are written otherwise than those of the source
	runs  []int // by column that goes out: how many from it on follow one another in the source, too
}

// A Cut is how much of what goes out is one product, and the file into which it goes, if there are several.
type Cut struct {
	Bytes, Rows int
	Into        string
}

// narrow leaves out columns of which nothing has to go out.
func (o *Output) narrow(differ, stay catalogue.ColumnSet, headings []string) {
	var kept []OutColumn
	for n := range o.Count() {
		out := OutColumn{Col: n}
		if o.Columns != nil {
			out = o.Columns[n]
		} else {
			out.Heading = headings[n]
		}
		if differ.Has(out.Col) || stay.Has(out.Col) {
			kept = append(kept, out)
		}
	}
	if len(kept) > 0 && len(kept) < o.Count() {
		o.Columns = kept
		o.lay()
	}
}

// lay notes which columns follow one another.
func (o *Output) lay() {
	o.runs = make([]int, o.Count())
	for n := len(o.runs) - 1; n >= 0; n-- {
		if o.runs[n] = 1; n+1 < len(o.runs) && o.Col(n+1) == o.Col(n)+1 {
			o.runs[n] += o.runs[n+1]
		}
	}
}

// A Form is what stands above the rows: those up to the headings, and those below them.
type Form struct {
	Head         string
	Above, Below int // rows
}

// begin prepares the output for a source.
func (o *Output) begin(form *sheet.Form, count int) {
	o.form, o.count = form, count
	if o.Separator == 0 {
		o.Separator = form.Separator
	}
	if o.LineEnd == "" {
		o.LineEnd = form.LineEnd
	}
	if o.Quote == 0 {
		o.Quote = '"'
	}
	o.anew = o.Separator != form.Separator || o.Quote != '"' || o.Quotes != sheet.QuotesAsWere || o.Charset.Wide()
	o.lay()
}

// An OutColumn is a column that goes out under a heading.
type OutColumn struct {
	Col     int
	Heading string
}

// appendReady appends a row as it goes to the importer.
func (o *Output) appendReady(dst []byte, part *sheet.Part, row *catalogue.Row) []byte {
	if o.whole(row) {
		if o.LineEnd == o.form.LineEnd && (row.End > row.Whole.To || o.SortBy == nil) {
			return append(dst, part.Data[row.Whole.From:row.End]...) // the last row of a file need not end, as in the source
		}
		return append(append(dst, part.Data[row.Whole.From:row.Whole.To]...), o.LineEnd...)
	}
	if o.Plain && o.Columns != nil && !slices.ContainsFunc(o.Columns, func(out OutColumn) bool { return row.Cell(out.Col) != "" }) {
		return dst
	}
	for i := 0; i < o.Count(); {
		if i > 0 {
			dst = append(dst, o.Separator)
		}
		span, next := o.copied(row, i)
		if next > i {
			dst = append(dst, part.Data[span.From:span.To]...)
		} else if col := o.Col(i); col < len(row.Cells) {
			dst = o.AppendCell(dst, row.Cells[col], row.Marks[col])
		} else {
			dst = o.AppendCell(dst, "", 0)
		}
		i = max(next, i+1)
	}
	return append(dst, o.LineEnd...)
}

// end ends the row with which dst ends, because another comes behind it: the last row of the source may have no end of its own. Rows
// begin at from.
func (o *Output) end(dst []byte, from int) []byte {
	if len(dst) == from || o.ended(dst) {
		return dst
	}
	return append(dst, o.LineEnd...)
}

// ended reports whether the row with which dst ends has an end.
func (o *Output) ended(dst []byte) bool {
	return strings.HasSuffix(o.LineEnd, string(dst[len(dst)-1:]))
}

// whole reports whether a row is written as it stands in the source, in one piece.
func (o *Output) whole(row *catalogue.Row) bool {
	return o.Columns == nil && !row.Dirty && !row.Stray && !row.Mended && !o.form.Spooled && len(row.Cells) == o.count && !o.anew
}

// hashes returns a hash of each cell that would go out, 0 of those that are empty.
func (o *Output) hashes(row *catalogue.Row) []uint32 {
	list := make([]uint32, o.Count())
	for i := range list {
		col := i
		if o.Columns != nil {
			col = o.Columns[i].Col
		}
		if cell := row.Cell(col); cell != "" {
			list[i] = max(1, uint32(xxhash.Sum64String(cell)))
		}
	}
	return list
}

// Count returns how many columns go out.
func (o *Output) Count() int {
	if o.Columns != nil {
		return len(o.Columns)
	}
	return o.count
}

// Col returns the column of the source, or beside it, that goes out as one of the columns.
func (o *Output) Col(n int) int {
	if o.Columns != nil {
		return o.Columns[n].Col
	}
	return n
}

// Heading returns the heading of one of the columns that go out.
func (o *Output) Heading(n int, columns *catalogue.Columns) string {
	if o.Columns != nil {
		return o.Columns[n].Heading
	}
	return columns.Headings[n]
}

// copied returns where in the source the bytes stand that are written as they are: those of one of the columns that go out, and of those behind it
// that follow there as here; next is the first that does not. It is the column itself if that is written anew.
func (o *Output) copied(row *catalogue.Row, i int) (span catalogue.Span, next int) {
	if o.form.Spooled || o.anew || row.Stray || row.Mended {
		return span, i
	}
	col := o.Col(i)
	if col >= len(row.Cells) || row.Marks[col]&catalogue.Altered != 0 {
		return span, i
	}
	from, end, marks, spans := col, min(col+o.runs[i], len(row.Cells)), row.Marks, row.Spans
	span = spans[col]
	for col++; col < end && marks[col]&catalogue.Altered == 0 && spans[col].From == span.To+1; col++ {
		span.To = spans[col].To
	}
	return span, i + col - from
}

// appendLine appends a line that is no row of the source, but of a list that people open in
// a spreadsheet program.
func appendLine(dst []byte, form *sheet.Form, cells ...string) []byte {
	for i, cell := range cells {
		if text.Formula(cell) {
			cells = slices.Clone(cells)
			for ; i < len(cells); i++ {
				cells[i] = text.Safe(cells[i])
			}
			break
		}
	}
	return append(form.AppendRow(dst, cells...), form.LineEnd...)
}

// head returns what an output begins with.
func (r *Run) head(output int) string {
	form := &r.Table.Form
	var line []byte
	if form.BOM {
		line = append(line, "\ufeff"...)
	}
	switch {
	case output == changes:
		return ""
	case output == ready:
		return r.Output.head(r.Table)
	case output == outputs+len(r.Pipeline.Lists):
		return "" // long texts
	case output >= outputs:
		return string(appendLine(line, form, r.Pipeline.Lists[output-outputs].Headings...))
	}
	line = append(form.AppendRow(line, "Row", "Reason"), form.Separator)
	return string(line) + r.Table.HeadLine + form.LineEnd
}

// head returns what a file that goes out begins with.
func (o *Output) head(t *sheet.Table) string {
	var line []byte
	if o.BOM {
		line = append(line, "\ufeff"...)
	}
	if o.Plain || o.Bare {
		return ""
	}
	return string(o.appendHead(line, t))
}

// appendHead appends the headings of what goes to the importer, and what stands around
// them if that is kept.
func (o *Output) appendHead(dst []byte, t *sheet.Table) []byte {
	whole := func(line sheet.Line) {
		dst = append(o.AppendLine(dst, line), o.LineEnd...)
	}
	if o.Form.Above > 0 {
		return append(dst, o.Form.Head...)
	}
	if o.FirstRows {
		for _, line := range t.Preamble {
			whole(o.chosen(line))
		}
	}
	headings := sheet.Line{Cells: t.Columns.Headings[:o.count]}
	if len(t.Heads) == 1 {
		headings.Marks = t.Heads[0].Marks
	}
	switch {
	case o.Columns != nil:
		headings = o.inColumns(headings)
		for i, out := range o.Columns {
			headings.Cells[i] = out.Heading
		}
		whole(headings)
	case o.FirstRows && len(t.Heads) > 1:
		for _, line := range t.Heads {
			whole(line)
		}
	case o.anew, o.form.Spooled:
		whole(headings)
	default:
		dst = append(append(dst, t.HeadLine...), o.LineEnd...)
	}
	if o.FirstRows {
		for _, b := range t.Beneath {
			if b.Code != catalogue.RowExample {
				whole(o.inColumns(b.Line))
			}
		}
	}
	return dst
}

// chosen returns those cells of a row beside the headings that go out; all of them if
// most are empty or they are settings, Version=4, because they then belong to no column.
func (o *Output) chosen(line sheet.Line) sheet.Line {
	filled, settings := 0, false
	for _, c := range line.Cells {
		if c != "" {
			filled++
		}
		settings = settings || strings.Contains(c, "=")
	}
	if o.Columns == nil {
		return line
	}
	if settings || 2*filled < o.count {
		for len(line.Cells) > len(o.Columns) && line.Cells[len(line.Cells)-1] == "" {
			line.Cells = line.Cells[:len(line.Cells)-1]
		}
		return line
	}
	return o.inColumns(line)
}

// inColumns returns those cells of a row that stand in columns that go out.
func (o *Output) inColumns(line sheet.Line) (chosen sheet.Line) {
	if o.Columns == nil {
		return line
	}
	for _, out := range o.Columns {
		cell := ""
		if out.Col < len(line.Cells) {
			cell = line.Cells[out.Col]
		}
		chosen.Cells, chosen.Marks = append(chosen.Cells, cell), append(chosen.Marks, line.Mark(out.Col))
	}
	return chosen
}

// HeadRows returns how many rows there are up to the headings, and between them and the
// first product.
func (r *Run) HeadRows() (above, below int) { return r.Output.HeadRows(r.Table) }

// HeadRows returns how many rows there are up to the headings, and between them and the first product.
func (o *Output) HeadRows(t *sheet.Table) (above, below int) {
	if o.Plain || o.Bare {
		return 0, 0
	}
	if o.Form.Above > 0 {
		return o.Form.Above, o.Form.Below
	}
	above = 1
	if o.FirstRows {
		if above += len(t.Preamble); o.Columns == nil && len(t.Heads) > 1 {
			above++
		}
		for _, b := range t.Beneath {
			if b.Code != catalogue.RowExample {
				below++
			}
		}
	}
	return above, below
}

// appendLook appends a row to look at.
func (w *worker) appendLook(dst []byte, row *catalogue.Row, product int) []byte {
	o := &w.run.Output
	return sheet.AppendSpooled(dst, func(add func(string)) {
		add(strconv.Itoa(row.Number))
		add(strconv.Itoa(product))
		var changed []string
		for n := range o.Count() {
			for i := range w.log.Changes {
				if c := &w.log.Changes[i]; c.Row == row.Number && c.Made == row.Made && c.Col == o.Col(n) {
					changed = append(changed, strconv.Itoa(n))
					break
				}
			}
		}
		add(strings.Join(changed, " "))
		for n := range o.Count() {
			add(row.Cell(o.Col(n)))
		}
	})
}
