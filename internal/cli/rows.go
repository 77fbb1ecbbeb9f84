package cli

import (
	"fmt"
	"strconv"
	"unicode/utf8"

	"zetanum/core/catalogue"
	"zetanum/core/text"
	"zetanum/internal/terminal"
)

// How much of a small file is shown as a table.
const (
	mostRowsShown = 20
	lineShown     = 90 // characters
	leastShown    = 8  // of a column that is wider
	codeShown     = 14 // of one of codes
)

// showRows shows all rows of a small file, under what their columns mean. numbers are those of the rows, nil if
// they have none.
func showRows(p *terminal.Printer, title string, columns *catalogue.Columns, rows [][]string, numbers func(i int) int) {
	if len(rows) == 0 || len(rows) > mostRowsShown {
		return
	}
	var shown, widths []int
	left, taken := 0, 0
	heading := func(col int) string {
		if col < len(columns.Fields) && columns.Fields[col] != catalogue.Unknown {
			return columns.Fields[col].String()
		}
		return columns.Headings[col]
	}
	for col := range columns.Headings {
		width := 0
		for _, cells := range rows {
			if col < len(cells) {
				width = max(width, utf8.RuneCountInString(cells[col]))
			}
		}
		least := min(width, leastOf(columns, col)) + 2
		switch {
		case width == 0:
		case taken+least > lineShown:
			left++
		default:
			shown, widths, taken = append(shown, col), append(widths, max(width, utf8.RuneCountInString(heading(col)))), taken+least
		}
	}
	if len(shown) == 0 {
		return
	}
	narrow(widths, lineShown-2*len(widths), func(n int) int { return leastOf(columns, shown[n]) })
	t := &terminal.Table{}
	if numbers != nil {
		t.Headings, t.Right = []string{"row"}, []int{0}
	}
	for n, col := range shown {
		t.Headings = append(t.Headings, catalogue.Shorten(heading(col), widths[n]))
	}
	for i, cells := range rows {
		var line []string
		if numbers != nil {
			line = []string{strconv.Itoa(numbers(i))}
		}
		for n, col := range shown {
			cell := ""
			if col < len(cells) {
				cell = catalogue.Shorten(text.Visible(catalogue.OneLine(cells[col])), widths[n])
			}
			line = append(line, cell)
		}
		t.Rows = append(t.Rows, line)
	}
	p.Head(title)
	p.Table(t)
	if left > 0 {
		p.Line(p.Faint(fmt.Sprintf("and %s", plural(left, "column more", "columns more"))))
	}
}

// leastOf returns how many characters of a column are shown at least: of codes nearly all.
func leastOf(columns *catalogue.Columns, col int) int {
	if columns.Kind(col) == catalogue.CodeKind {
		return codeShown
	}
	return leastShown
}

// narrow makes the widest of columns narrower until all fit; least says how narrow each may be.
func narrow(widths []int, room int, least func(n int) int) {
	for {
		sum, widest := 0, -1
		for n, w := range widths {
			if sum += w; w > least(n) && (widest < 0 || w > widths[widest]) {
				widest = n
			}
		}
		if sum <= room || widest < 0 {
			return
		}
		widths[widest]--
	}
}
