package repair

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
)

// ErrNoCell says that a sheet has no cell there.
var ErrNoCell = errors.New("there is no such cell")

// Cell returns the text of one cell as it stands in the file: in the row of that number,
// in the column of a heading or field.
func Cell(ctx context.Context, opt Options, row int, name string) (text, heading string, err error) {
	r := &runner{opt: opt, result: new(Result)}
	table, err := r.open(ctx, opt.Temp)
	if err != nil {
		return "", "", err
	}
	defer table.Close()
	col := slices.IndexFunc(table.Columns.Headings, func(h string) bool { return columns.Same(h, name) })
	if f, ok := catalogue.ParseField(name); col < 0 && ok {
		col = table.Columns.First(f)
	}
	if col < 0 {
		return "", "", fmt.Errorf("%s: %w: it has no column %s; the headings are: %s", table.Name, ErrNoCell, name,
			strings.Join(table.Columns.Headings, ", "))
	}
	found, last := false, table.Heading
	err = table.Each(func() {}, func(cells *catalogue.Row) {
		if last = cells.Number; last == row {
			text, found = strings.Clone(cells.Cell(col)), true
		}
	})
	if err == nil && !found {
		err = fmt.Errorf("%s: %w: its rows are %d to %d", table.Name, ErrNoCell, table.Heading+1, last)
	}
	return text, table.Columns.Headings[col], err
}
