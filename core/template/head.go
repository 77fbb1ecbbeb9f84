package template

import (
	"fmt"
	"slices"
	"strings"

	"zetanum/core/sheet"
	"zetanum/core/workbook"
)

// head returns how many rows stand above the products, with their headings: samples are none of them.
func (t *Template) head() int {
	if t.Export {
		return t.Headings
	}
	rows := t.First - 1
	for _, r := range t.Samples {
		rows = min(rows, r-1)
	}
	return max(rows, t.Headings)
}

// Head returns what stands above the products, in UTF-8, for a text file that is written in a style: the bytes of the form if it is a text file
// that is written so, and its rows otherwise. above is how many rows that are up to the headings, below how many under them.
func (t *Template) Head(style sheet.Style, lineEnd string) (text string, above, below int) {
	if own := t.Text; own != nil && own.Separator == style.Separator && own.Quote == style.Quote && own.LineEnd == lineEnd && len(own.ends) >= len(t.above) {
		from := 0
		for n := range t.above {
			record := own.whole[from:own.ends[n]]
			blank := strings.Count(record[:len(record)-len(strings.TrimLeft(record, "\r\n"))], "\n") // which are no records
			if from = own.ends[n]; n < t.Headings {
				above += blank + 1
			} else {
				below += blank + 1
			}
		}
		if text = own.whole[:from]; !strings.HasSuffix(text, lineEnd) {
			text += lineEnd
		}
		return text, above, below
	}
	var b []byte
	for _, row := range t.above {
		for len(row) < len(t.Columns) {
			row = append(slices.Clip(row), "")
		}
		b = append(style.AppendRow(b, row...), lineEnd...)
	}
	return string(b), min(t.Headings, len(t.above)), max(0, len(t.above)-t.Headings)
}

// FormRows returns the rows of the form by which a file in it is known.
func (t *Template) FormRows() *sheet.FormRows {
	f := &sheet.FormRows{Rows: t.above, Headings: t.Headings, Filled: t.Own}
	if !t.Export {
		f.Samples = t.samples
	}
	return f
}

// Filling says where rows go in the form, if it is a workbook. filled are the columns that something fills.
func (t *Template) Filling(rows int, filled []bool) workbook.Filling {
	return workbook.Filling{Sheet: t.Sheet, First: t.head() + 1, Rows: rows, Samples: t.Samples, Own: t.Own, Columns: filled}
}

// LeavesOut reports whether columns can be left out of the form: it is nothing but one row of headings.
func (t *Template) LeavesOut() bool { return t.Kind == "" && len(t.above) == 1 }

// Without returns the form without some columns, by their places.
func (t *Template) Without(gone map[int]bool) *Template {
	without := *t
	at := make(map[int]int) // where columns are then, from 1; 0 if they are gone
	without.Columns, without.wanted = nil, nil
	for n, c := range t.Columns {
		if !gone[n] {
			without.Columns, without.wanted = append(without.Columns, c), append(without.wanted, t.wanted[n])
			at[n+1] = len(without.Columns)
		}
	}
	for n := range without.Columns {
		c := &without.Columns[n]
		if c.Depends = at[c.Depends]; c.Depends == 0 {
			c.ListBy = nil
		}
	}
	cut := func(rows [][]string) (list [][]string) {
		for _, row := range rows {
			var cells []string
			for n, cell := range row {
				if !gone[n] {
					cells = append(cells, cell)
				}
			}
			list = append(list, cells)
		}
		return list
	}
	without.above, without.samples = cut(t.above), cut(t.samples)
	if t.Text != nil {
		text := *t.Text
		text.ends = nil // its lines are others now
		without.Text = &text
	}
	return &without
}

// WithoutUnused returns the form as a file has it that leaves out groups of columns, each as a whole: those of which it has no heading.
func (t *Template) WithoutUnused(groups [][]string, headings []string) *Template {
	gone := make(map[int]bool)
	for _, names := range groups {
		var cols []int
		for _, name := range names {
			cols = append(cols, t.Find(name)...)
		}
		has := slices.ContainsFunc(cols, func(n int) bool {
			return slices.ContainsFunc(headings, func(h string) bool { return strings.TrimSpace(h) == strings.TrimSpace(t.Columns[n].Heading) })
		})
		for _, n := range cols {
			gone[n] = gone[n] || !has
		}
	}
	if len(gone) == 0 || !t.LeavesOut() {
		return t
	}
	return t.Without(gone)
}

// With returns the form with further columns behind its own. The error wraps [ErrNoForm] if it is a workbook, whose columns are what they are.
func (t *Template) With(names []string) (*Template, error) {
	if len(names) == 0 {
		return t, nil
	}
	if t.Kind != "" {
		return nil, fmt.Errorf("%s: %w, to which columns could be added: it is a workbook", t.Path, ErrNoForm)
	}
	with := *t
	with.Columns, with.wanted, with.above = slices.Clone(t.Columns), slices.Clone(t.wanted), slices.Clone(t.above)
	heads := slices.Clone(t.above[t.Headings-1])
	for len(heads) < len(t.Columns) {
		heads = append(heads, "")
	}
	for _, name := range names {
		if len(t.Find(name)) > 0 {
			return nil, fmt.Errorf("%s: %w, to which %q could be added: it has such a column", t.Path, ErrNoForm, name)
		}
		with.Columns, heads = append(with.Columns, Column{Heading: name}), append(heads, name)
		with.wanted = append(with.wanted, with.want(len(with.Columns)-1))
	}
	with.above[t.Headings-1] = heads
	if text := t.Text; text != nil {
		own := *text
		if own.ends != nil { // all else in it stays byte for byte
			at := len(strings.TrimRight(own.whole[:own.ends[t.Headings-1]], "\r\n"))
			more := string(own.AppendRow([]byte{own.Separator}, names...))
			own.whole, own.ends = own.whole[:at]+more+own.whole[at:], slices.Clone(own.ends)
			for n := t.Headings - 1; n < len(own.ends); n++ {
				own.ends[n] += len(more)
			}
		}
		with.Text = &own
	}
	return &with, nil
}
