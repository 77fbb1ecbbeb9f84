package repair

import (
	"context"
	"path/filepath"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/sections"
	"zetanum/core/sheet"
)

// Renewals returns which codes a run would replace: rows of their row, the old and the new code. Nothing
// is written but in the folder for what is needed for a while.
func Renewals(ctx context.Context, opt Options) (list [][]string, err error) {
	opt.Target, opt.Review = filepath.Join(opt.Temp, "renewals"), nil
	r, err := Run(ctx, opt)
	if err != nil || r.Listed(sections.RenewedName) == 0 {
		return nil, err
	}
	table, err := sheet.Open(filepath.Join(r.Folder, sections.RenewedName), sheet.Options{AnyHeadings: true, Spool: opt.Temp})
	if err != nil {
		return nil, err
	}
	defer table.Close()
	return list, table.Each(func() { list = nil }, func(row *catalogue.Row) {
		list = append(list, []string{strings.Clone(row.Cell(0)), strings.Clone(row.Cell(1)), strings.Clone(row.Cell(2))})
	})
}
