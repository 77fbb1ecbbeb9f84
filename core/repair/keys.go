package repair

import (
	"cmp"
	"context"
	"errors"
	"slices"

	"zetanum/core/catalogue"
	"zetanum/core/heading"
	"zetanum/core/sheet"
	"zetanum/core/steps"
)

// openAny opens the table; one of which no heading is known, too.
func (r *runner) openAny(ctx context.Context) (*sheet.Table, error) {
	table, err := r.open(ctx, r.opt.Temp)
	if !r.opt.AnyHeadings || r.opt.Input == "-" || !errors.Is(err, sheet.ErrHeadings) && !errors.Is(err, sheet.ErrNoTable) {
		return table, err // what is read from there is read once
	}
	r.anyHeadings = true
	other, failed := r.open(ctx, r.opt.Temp)
	if failed != nil {
		return nil, err
	}
	if heading.LooksLikeProduct(other.Columns.Headings) && r.opt.Reading.HeadingRow == 0 {
		if err := other.Close(); err != nil {
			return nil, err
		}
		r.opt.Reading.NoHeadings = true
		return r.open(ctx, r.opt.Temp)
	}
	return other, nil
}

// A Key is a column that could tell the rows apart.
type Key struct {
	Col              int
	Distinct, Filled int
}

// keyShare is which share of the rows, in percent, a column must tell apart to be taken for
// one that could be their key.
const keyShare = 95

// keys returns the columns that could be the key of a sheet in which none is known as that:
// they are filled and hardly ever have the same again. Codes come first, then those that
// tell more rows apart.
func (r *runner) keys(seen *steps.Filling) (list []Key) {
	columns, rows := &r.table.Columns, r.result.Survey.Rows
	if columns.First(catalogue.SKU) >= 0 || rows < 2 {
		return nil
	}
	rank := func(k Key) int {
		switch columns.Fields[k.Col] {
		case catalogue.Slug, catalogue.MPN, catalogue.Barcode:
			return 1
		case catalogue.Unknown:
			return 0
		}
		return 2
	}
	for col := range columns.Own() {
		f := &seen.Columns[col]
		k := Key{col, f.Distinct, f.Filled}
		if rank(k) > 1 || 100*f.Filled < keyShare*rows || 100*f.Distinct < keyShare*rows || !heading.AreCodes(r.table.Sample, col) {
			continue
		}
		list = append(list, k)
	}
	slices.SortStableFunc(list, func(a, b Key) int { return cmp.Or(rank(a)-rank(b), b.Distinct-a.Distinct) })
	return list[:min(len(list), 2)]
}

// meant returns what columns seem to mean in a table of which no heading is known: its key,
// and its texts that all differ.
func (r *runner) meant(seen *steps.Filling) map[int]catalogue.Field {
	m := make(map[int]catalogue.Field)
	if keys := r.result.Keys; len(keys) > 0 && r.table.Columns.Fields[keys[0].Col] == catalogue.Unknown {
		m[keys[0].Col] = catalogue.SKU
	}
	title, rows := -1, r.result.Survey.Rows
	for col, f := range r.table.Columns.Fields[:r.table.Columns.Own()] {
		fill := &seen.Columns[col]
		if _, taken := m[col]; taken || f != catalogue.Unknown || 100*fill.Filled < keyShare*rows || 100*fill.Distinct < 80*rows || !heading.AreNames(r.table.Sample, col) {
			continue
		}
		if title < 0 || fill.Distinct > seen.Columns[title].Distinct {
			title = col
		}
	}
	if title >= 0 && r.table.Columns.First(catalogue.Title) < 0 {
		m[title] = catalogue.Title
	}
	return m
}
