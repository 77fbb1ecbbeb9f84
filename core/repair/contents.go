package repair

import (
	"maps"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/lists"
	"zetanum/core/workbook"
)

// Unlike returns findings about columns that hold something else than their headings
// say, each with how many cells are meant.
func (r *runner) unlike() (found []ColumnFinding) {
	for _, u := range r.table.Unlike {
		found = append(found, ColumnFinding{u.Cells, catalogue.Finding{
			Code: catalogue.ColumnContents, Row: u.Row, Col: u.Col, Cell: u.Example,
			Facts: catalogue.Facts{Digits: u.Cells, Length: u.Of, Other: u.Holds},
		}})
	}
	return slices.Concat(found, r.swapped(), r.headings())
}

// headings looks for headings that are there twice or not at all.
func (r *runner) headings() (found []ColumnFinding) {
	if r.table.Heading == 0 {
		return nil
	}
	own := r.table.Columns.Headings[:r.table.Columns.Own()]
	gone := make(map[int]bool, len(r.sheet.Plan.Gone))
	for _, col := range r.sheet.Plan.Gone {
		gone[col] = true
	}
	times := make(map[string]int, len(own)) // how often a heading is there, but for case and spaces at the ends
	for col, h := range own {
		if !gone[col] {
			times[strings.ToLower(strings.TrimSpace(h))]++
		}
	}
	for col, h := range own {
		if gone[col] {
			continue
		}
		f := catalogue.Finding{Row: r.table.Heading, Col: col}
		if key := strings.TrimSpace(h); key != "" {
			if n := times[strings.ToLower(key)]; n > 1 {
				f.Code, f.Facts = catalogue.ColumnTwice, catalogue.Facts{Other: key, Digits: n}
				found = append(found, ColumnFinding{1, f})
				times[strings.ToLower(key)] = 0 // it has been named
			}
			continue
		}
		for i, cells := range r.table.Sample {
			if col < len(cells) && strings.TrimSpace(cells[col]) != "" {
				f.Code, f.Row, f.Cell, f.Facts = catalogue.ColumnNoHeading, r.table.Heading+1+i, cells[col],
					catalogue.Facts{Other: workbook.ColumnName(col)}
				found = append(found, ColumnFinding{1, f})
				break
			}
		}
	}
	return found
}

// A ColumnFinding is a finding about a column, and how many of its cells it means.
type ColumnFinding struct {
	Cells int
	catalogue.Finding
}

// The share of cells, in percent, that must be in the list of another column, and how
// many there must be at least.
const (
	swappedShare = 80
	swappedCells = 3
)

// swapped looks for columns whose values are in the list that the rulebook has for
// another one, and not in their own.
func (r *runner) swapped() (found []ColumnFinding) {
	names := slices.Sorted(maps.Keys(r.sheet.Fields))
	for _, own := range names {
		for _, other := range names {
			mine, theirs := r.sheet.Fields[own].Known, r.sheet.Fields[other].Known
			if own == other || mine == nil || theirs == nil {
				continue
			}
			for _, col := range r.sheet.Find(own) {
				if f, ok := r.holdsOf(col, mine, theirs, other); ok {
					found = append(found, f)
				}
			}
		}
	}
	return found
}

func (r *runner) holdsOf(col int, mine, theirs *lists.Known, other string) (f ColumnFinding, ok bool) {
	filled := 0
	f.Finding = catalogue.Finding{Code: catalogue.ColumnSwapped, Col: col, Facts: catalogue.Facts{Other: other}}
	for i, cells := range r.table.Sample {
		if col >= len(cells) || cells[col] == "" {
			continue
		}
		filled++
		in := func(k *lists.Known) bool {
			_, match := k.Match(cells[col])
			return match == lists.Exact || match == lists.Folded
		}
		if in(theirs) && !in(mine) {
			if f.Cells++; f.Cells == 1 {
				f.Row, f.Cell = r.table.Heading+1+i, cells[col]
			}
		}
	}
	f.Facts.Digits, f.Facts.Length = f.Cells, filled
	return f, f.Cells >= swappedCells && 100*f.Cells >= swappedShare*filled
}
