package template

import (
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
