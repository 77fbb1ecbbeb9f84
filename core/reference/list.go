package reference

import (
	"fmt"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/lists"
	"zetanum/core/sheet"
	"zetanum/core/text"
)

// mostListed is the most rows of a list.
const mostListed = 1_000_000

// ReadPairs reads the first two columns of a sheet, below its headings.
func ReadPairs(path string, opt sheet.Options) (pairs []lists.Pair, err error) {
	_, err = eachOfTwo(path, opt, func() { pairs = nil }, func(r *catalogue.Row) {
		pairs = append(pairs, lists.Pair{Row: r.Number, Key: strings.Clone(text.Typed(r.Cell(0))), Value: strings.Clone(text.Typed(strings.TrimSpace(r.Cell(1))))})
	})
	return pairs, err
}

// ReadRows reads the rows of a sheet of at least two columns, and its headings.
func ReadRows(path string, opt sheet.Options) (headings []string, rows []*catalogue.Row, err error) {
	headings, err = eachOfTwo(path, opt, func() { rows = nil }, func(r *catalogue.Row) {
		row := &catalogue.Row{Number: r.Number}
		for _, cell := range r.Cells {
			row.Cells = append(row.Cells, strings.Clone(text.Typed(strings.TrimSpace(cell))))
		}
		rows = append(rows, row)
	})
	return headings, rows, err
}

// eachOfTwo reads a list of two columns or more.
func eachOfTwo(path string, opt sheet.Options, reset func(), add func(*catalogue.Row)) (headings []string, err error) {
	opt.AnyHeadings, opt.List = true, true
	table, err := sheet.Open(path, opt)
	if err != nil {
		return nil, err
	}
	defer table.Close()
	if len(table.Columns.Headings) < 2 {
		return nil, &sheet.Error{File: table.Name, Err: lists.ErrList,
			More: "it has one column, and two are needed: what to look for, and what it stands for",
			Do:   "Put the second one beside it, under a heading."}
	}
	return table.Columns.Headings, each(table, reset, add)
}

// ReadValues reads the values of a column, the first if it is not named.
func ReadValues(path, column string, opt sheet.Options) (values []string, err error) {
	opt.AnyHeadings = true
	table, err := sheet.Open(path, opt)
	if err != nil {
		return nil, err
	}
	defer table.Close()
	col := 0
	if column != "" {
		if col = columns.Find(&table.Columns, column); col < 0 {
			return nil, &sheet.Error{File: table.Name, Err: sheet.ErrNoColumn, More: column,
				Do: "The headings are: " + strings.Join(table.Columns.Headings, ", ") + "."}
		}
	}
	seen := make(map[string]bool)
	err = each(table, func() { values = nil; clear(seen) }, func(r *catalogue.Row) {
		v := text.Typed(strings.TrimSpace(r.Cell(col)))
		if v != "" && !seen[v] && v != table.Columns.Headings[col] {
			v = strings.Clone(v)
			seen[v] = true
			values = append(values, v)
		}
	})
	if err == nil && len(values) == 0 {
		return nil, &sheet.Error{File: table.Name, Err: lists.ErrList,
			More: fmt.Sprintf("there is no value below the heading %q", table.Columns.Headings[col]),
			Do:   "A list has a heading in its first row."}
	}
	return values, err
}

// each reads the rows of a list.
func each(table *sheet.Table, reset func(), add func(*catalogue.Row)) error {
	rows := 0
	err := table.Each(func() { rows = 0; reset() }, func(r *catalogue.Row) {
		if rows++; rows <= mostListed {
			add(r)
		}
	})
	if err == nil && rows > mostListed {
		err = &sheet.Error{File: table.Name, Err: lists.ErrList,
			More: fmt.Sprintf("it has %d rows, and a list has at most %d", rows, mostListed),
			Do:   "Use [[borrow]] for a sheet of that size."}
	}
	return err
}
