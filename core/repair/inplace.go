package repair

import (
	"bytes"
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"zetanum/core/line"
	"zetanum/core/target"
)

// ErrPlace says that rows cannot stay where they are.
var ErrPlace = errors.New("the rows cannot stay in their places")

// A Kept is a row that stays as it is, and why.
type Kept struct {
	Row    int
	Reason string
}

// InPlace repairs a table of cells with tabs between them, as spreadsheet programs copy them, so that it can be pasted where it was copied: each row
// stays in its place, the headings and the columns too. A row that is held, or would be set aside, stays as it is, and is returned. Columns that are
// added do not come back, and what the rulebook says of columns that leave, of a template, and of the order of rows is not followed; rules that make
// rows or join some give an error that wraps [ErrPlace].
func InPlace(ctx context.Context, opt Options, cells string) (result *Result, repaired string, kept []Kept, err error) {
	opt.Input, opt.Stdin, opt.Stdout, opt.Target = "-", strings.NewReader(cells), io.Discard, ""
	opt.Called = "the clipboard"
	if opt.Reading.Separator == "" {
		opt.Reading.Separator = "tab"
	}
	if opt.Reading.Encoding == "" {
		opt.Reading.Encoding = "utf-8"
	}
	opt.Book.Target, opt.Book.Targets, opt.As = target.Rules{}, nil, []string{}
	opt.Book.Sheet.SortBy = nil
	result, err = Run(ctx, opt)
	if err != nil {
		return nil, "", nil, err
	}
	if r := result.Report; r.Added+r.Joined > 0 || result.Moved > 0 {
		return nil, "", nil, fmt.Errorf("%w: rules would make rows, join or move some, and what is pasted back would shift; save the cells as a file and repair that", ErrPlace)
	}
	rows := splitCells(cells)
	stay := make(map[int]bool)
	for _, name := range line.FileNames[1:3] {
		list, err := readTable(filepath.Join(opt.Temp, name))
		if err != nil {
			return nil, "", nil, err
		}
		for _, row := range list[min(1, len(list)):] {
			n, err := strconv.Atoi(row[0])
			if err != nil {
				return nil, "", nil, fmt.Errorf("%s: %w", name, err)
			}
			stay[n] = true
			if name == line.FileNames[1] {
				kept = append(kept, Kept{n, row[1]})
			}
		}
	}
	ready, err := readTable(filepath.Join(opt.Temp, line.FileNames[0]))
	if err != nil {
		return nil, "", nil, err
	}
	columns := result.written.Columns
	own := result.Source.Columns.Own()
	next, first := min(1, len(ready)), result.Source.Heading+max(result.Source.Rows, 1)
	if result.Settings.NoHeadings {
		next, first = 0, 1
	}
	for n := first; n <= len(rows); n++ {
		if stay[n] || n-first >= result.Report.Rows {
			continue
		}
		if next == len(ready) {
			return nil, "", nil, fmt.Errorf("%w: there are fewer rows than were read", ErrPlace)
		}
		row := &rows[n-1]
		for i, cell := range ready[next] {
			col := i
			if columns != nil {
				col = columns[i].Col
			}
			for col < own && cell != "" && len(row.cells) <= col { // it was shorter than the others
				row.cells = append(row.cells, "")
			}
			if col < own && col < len(row.cells) && row.cells[col] != cell {
				row.cells[col], row.changed = cell, true
			}
		}
		next++
	}
	if next != len(ready) {
		return nil, "", nil, fmt.Errorf("%w: there are more rows than were read", ErrPlace)
	}
	slices.SortFunc(kept, func(a, b Kept) int { return a.Row - b.Row })
	var b strings.Builder
	for i := range rows {
		b.WriteString(rows[i].text())
	}
	return result, b.String(), kept, nil
}

// readTable reads a table of cells with tabs between them that a run has written.
func readTable(path string) ([][]string, error) {
	content, err := os.ReadFile(path)
	if err != nil {
		return nil, err
	}
	r := csv.NewReader(bytes.NewReader(bytes.TrimPrefix(content, []byte("\ufeff"))))
	r.Comma, r.FieldsPerRecord, r.LazyQuotes = '\t', -1, true
	return r.ReadAll()
}

// A cellRow is a row of copied cells, and how it stands there.
type cellRow struct {
	whole, end string
	cells      []string
	changed    bool
}

// text writes the row as it was or, if one of its cells is another, anew.
func (r *cellRow) text() string {
	if !r.changed {
		return r.whole + r.end
	}
	cells := slices.Clone(r.cells)
	for i, cell := range cells {
		if strings.ContainsAny(cell, "\t\n\r") || strings.HasPrefix(cell, `"`) {
			cells[i] = `"` + strings.ReplaceAll(cell, `"`, `""`) + `"`
		}
	}
	return strings.Join(cells, "\t") + r.end
}

// splitCells takes copied cells apart: tabs stand between cells, ends of lines behind rows; a cell that has either of them is in quotation marks.
func splitCells(text string) (rows []cellRow) {
	for len(text) > 0 {
		var row cellRow
		at := 0
		for {
			cell, n := text[at:], 0
			if quoted, length, ok := quotedCell(cell); ok {
				cell, n = quoted, length
			} else {
				n = strings.IndexAny(cell, "\t\r\n")
				if n < 0 {
					n = len(cell)
				}
				cell = cell[:n]
			}
			row.cells = append(row.cells, cell)
			if at += n; at < len(text) && text[at] == '\t' {
				at++
				continue
			}
			break
		}
		row.whole = text[:at]
		for _, end := range []string{"\r\n", "\n", "\r"} {
			if strings.HasPrefix(text[at:], end) {
				row.end = end
				break
			}
		}
		text = text[at+len(row.end):]
		rows = append(rows, row)
	}
	return rows
}

// quotedCell reads a cell in quotation marks that ends where a cell may end, and returns how much of the text it takes.
func quotedCell(text string) (cell string, length int, ok bool) {
	if !strings.HasPrefix(text, `"`) {
		return "", 0, false
	}
	for i := 1; i < len(text); i++ {
		if text[i] != '"' {
			continue
		}
		if strings.HasPrefix(text[i+1:], `"`) {
			i++
			continue
		}
		if rest := text[i+1:]; rest == "" || strings.ContainsRune("\t\r\n", rune(rest[0])) {
			return strings.ReplaceAll(text[1:i], `""`, `"`), i + 1, true
		}
		return "", 0, false
	}
	return "", 0, false
}
