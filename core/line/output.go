package line

import (
	"slices"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/sheet"
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

// Output says what is written for the importer.
type Output struct {
	Columns []OutColumn // which columns, in which order; nil: all as they are
	Plain   bool        // without headings, and without rows that are empty in these columns
	SortBy  []int       // columns by which the products are sorted; nil: as they come
	BOM     bool        // with a byte order mark
	Bare    bool        // without headings, as the source

	// Separator and LineEnd are how the rows are written; as those of the source, if
	// nothing is said.
	Separator byte
	LineEnd   string

	// Encode appends rows in the encoding in which they go out; nil for UTF-8.
	Encode func(dst, rows []byte) ([]byte, error)

	form  *sheet.Form
	count int  // of the columns of the source
	anew  bool // its rows are separated otherwise than those of the source
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
	o.anew = o.Separator != form.Separator
}

// An OutColumn is a column that goes out under a heading.
type OutColumn struct {
	Col     int
	Heading string
}

// appendReady appends a row as it goes to the importer.
func (o *Output) appendReady(dst []byte, part *sheet.Part, row *catalogue.Row) []byte {
	if o.Columns == nil && !row.Dirty && !row.Stray && !row.Mended && !o.form.Spooled && len(row.Cells) == o.count && !o.anew {
		if o.LineEnd == o.form.LineEnd {
			return append(dst, part.Data[row.Whole.From:row.End]...)
		}
		return append(append(dst, part.Data[row.Whole.From:row.Whole.To]...), o.LineEnd...)
	}
	if o.Columns == nil {
		for col := range o.count {
			dst = o.appendCell(dst, part, row, col, col == 0)
		}
	} else {
		if o.Plain && !slices.ContainsFunc(o.Columns, func(out OutColumn) bool { return row.Cell(out.Col) != "" }) {
			return dst
		}
		for i := 0; i < len(o.Columns); i++ {
			col := o.Columns[i].Col
			dst = o.appendCell(dst, part, row, col, i == 0)
			// What follows as it follows in the source is copied with it.
			last := col
			for o.raw(row, last) && i+1 < len(o.Columns) && o.Columns[i+1].Col == last+1 && o.raw(row, last+1) && row.Spans[last].To+1 == row.Spans[last+1].From {
				last++
				i++
			}
			if last > col {
				dst = append(dst, part.Data[row.Spans[col].To:row.Spans[last].To]...)
			}
		}
	}
	return append(dst, o.LineEnd...)
}

// hashes returns a hash of each cell that would go out, 0 of those that are empty.
func (o *Output) hashes(row *catalogue.Row) []uint32 {
	n := o.count
	if o.Columns != nil {
		n = len(o.Columns)
	}
	list := make([]uint32, n)
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

// heading returns the heading of one of the columns that go out.
func (o *Output) heading(n int, columns *catalogue.Columns) string {
	if o.Columns != nil {
		return o.Columns[n].Heading
	}
	return columns.Headings[n]
}

// raw reports whether a cell is written as it stands in the source.
func (o *Output) raw(row *catalogue.Row, col int) bool {
	return col < len(row.Cells) && !o.form.Spooled && !o.anew && !row.Stray && !row.Mended && row.Marks[col]&catalogue.Altered == 0
}

func (o *Output) appendCell(dst []byte, part *sheet.Part, row *catalogue.Row, col int, first bool) []byte {
	if !first {
		dst = append(dst, o.Separator)
	}
	switch {
	case col >= len(row.Cells):
		return dst
	case o.raw(row, col):
		span := row.Spans[col]
		return append(dst, part.Data[span.From:span.To]...)
	}
	return sheet.AppendCell(dst, row.Cells[col], row.Marks[col], o.Separator)
}

// appendLine appends a line of a list.
func appendLine(dst []byte, cells []string, form *sheet.Form) []byte {
	for i, cell := range cells {
		if i > 0 {
			dst = append(dst, form.Separator)
		}
		dst = sheet.AppendText(dst, cell, form.Separator)
	}
	return append(dst, form.LineEnd...)
}

// head returns the first line of an output.
func (r *Run) head(output int) string {
	form := &r.Table.Form
	var line []byte
	if output == ready && r.Output.BOM || output != ready && form.BOM {
		line = append(line, "\ufeff"...)
	}
	switch {
	case output == changes, output == ready && (r.Output.Plain || r.Output.Bare):
		return ""
	case output >= outputs:
		return string(appendLine(line, r.Course.Lists[output-outputs].Headings, form))
	case output == held || output == aside:
		line = append(line, "Row"...)
		line = append(line, form.Separator)
		line = append(line, "Reason"...)
		line = append(line, form.Separator)
		line = append(line, r.Table.HeadLine...)
	case r.Output.Columns != nil:
		for i, out := range r.Output.Columns {
			if i > 0 {
				line = append(line, r.Output.Separator)
			}
			line = sheet.AppendText(line, out.Heading, r.Output.Separator)
		}
	case r.Output.anew:
		for i, h := range r.Table.Columns.Headings[:r.Output.count] {
			if i > 0 {
				line = append(line, r.Output.Separator)
			}
			line = sheet.AppendText(line, h, r.Output.Separator)
		}
	default:
		line = append(line, r.Table.HeadLine...)
	}
	if output == ready {
		return string(line) + r.Output.LineEnd
	}
	return string(line) + form.LineEnd
}
