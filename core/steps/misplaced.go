package steps

import (
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/heading"
	"zetanum/core/line"
	"zetanum/core/quantity"
	"zetanum/core/spread"
)

// Misplaced is the step that looks for what stands in a column in which it does not belong: a stretch of rows whose cells are of another kind
// than the rest of the column, as when cells were inserted or rows of another list pasted below, and single cells of which that is sure. It
// writes nothing. ok is false if there is no column of which it is known what it should have.
func Misplaced(s *Sheet) (step line.Step, ok bool) {
	c := &s.Columns
	m := &misplaced{headings: c.Headings}
	step = line.Step{Name: NameMisplaced}
	for col := range c.Own() {
		if f := c.Fields[col]; heading.Watches(f) {
			m.cols, m.fields, m.homes = append(m.cols, col), append(m.fields, f), append(m.homes, heading.HomeOf(f.Kind()))
			step.Learns.Add(col)
			step.Reads.Add(col)
		}
	}
	step.Learn = func() line.Aggregate { return &kindsSeen{m, make([]spread.Runs, len(m.cols))} }
	step.New = func(learned line.Aggregate) (line.Repairer, error) {
		if m.judge(learned.(*kindsSeen)); m.looked == nil {
			return nil, nil
		}
		return repairFunc(m.repair), nil
	}
	return step, len(m.cols) > 0
}

type misplaced struct {
	headings []string
	cols     []int // those that are looked at
	fields   []catalogue.Field
	homes    []*heading.Home // of their kinds

	// What the survey has shown of each.
	looked []int // those, by their places, in which there is anything to look for
	runs   []spread.Run
	sure   []bool // nearly all cells are what the column should have
}

// Where a run of cells of another kind is one, and when nearly all cells of a column are as they should be.
const (
	leastStrays = 6 // cells
	fewStrays   = 10
)

// kindOf returns which kind of cell it is, for a run; 0 for one that the column should have. Words that say why there is no price are none.
func kindOf(f catalogue.Field, cell string) int {
	kind := heading.Astray(f, cell)
	if kind == heading.Mixed {
		return 0
	}
	if kind == heading.Words && quantity.ReadPrice(cell, quantity.Form{}).Is != quantity.Words {
		return 0
	}
	return int(kind)
}

func (m *misplaced) judge(seen *kindsSeen) {
	m.runs, m.sure = make([]spread.Run, len(m.cols)), make([]bool, len(m.cols))
	for n := range m.cols {
		runs := &seen.runs[n]
		proper, strays := runs.Rest()
		m.sure[n] = proper >= fewStrays*strays
		if strays+runs.Best.Strays() > 0 && m.sure[n] {
			m.looked = append(m.looked, n)
		}
		if best := runs.Best; best.Strays() >= leastStrays && proper >= leastStrays && m.sure[n] {
			m.runs[n] = best
		}
	}
}

func (m *misplaced) repair(p *catalogue.Product, log *line.Log) {
	for i, row := range p.Rows {
		if log.IsAside(i) || row.Made != 0 {
			continue
		}
		for _, n := range m.looked {
			run, col := &m.runs[n], m.cols[n]
			switch {
			case run.First > 0 && run.First == row.Number:
				log.Notice(catalogue.ColumnMixed, row, col, row.Cell(col), m.says(n))
			case run.First > 0 && row.Number > run.First && row.Number <= run.Last:
			default:
				m.single(row, col, m.fields[n], log)
			}
		}
	}
}

// says returns the facts of a run.
func (m *misplaced) says(n int) (f catalogue.Facts) {
	run, most := &m.runs[n], 1
	for k, count := range run.Counts {
		if k > 0 && count > run.Counts[most] {
			most = k
		}
	}
	f = catalogue.Facts{Row: run.Last, Length: run.Strays(), Other: heading.Contents(most).String()}
	for other := range m.runs {
		if other != n && m.runs[other].First == run.First {
			f.Decides = "So it is with “" + m.headings[m.cols[other]] + "” from that row on: the cells seem to have moved to one side."
			break
		}
	}
	return f
}

// single looks at one cell.
func (m *misplaced) single(row *catalogue.Row, col int, f catalogue.Field, log *line.Log) {
	kind := heading.Astray(f, row.Cell(col))
	if as, sure := misplacedAs[kind]; sure && isOurs(f, kind) {
		log.Notice(catalogue.ValueMisplaced, row, col, catalogue.Shorten(strings.TrimSpace(row.Cell(col)), longestShown), catalogue.Facts{Other: as})
	}
}

// isOurs reports whether no other step tells of such a cell, and more of it.
func isOurs(f catalogue.Field, kind heading.Contents) bool {
	switch {
	case f == catalogue.Barcode:
		return false
	case f == catalogue.Images:
		return kind == heading.Barcodes
	case f == catalogue.Title, f == catalogue.Stock, f.Kind() == catalogue.PriceKind:
		return kind == heading.Links || kind == heading.ImageLinks
	}
	return true
}

// misplacedAs are the words for single cells.
var misplacedAs = map[heading.Contents]string{heading.Barcodes: "a barcode", heading.ImageLinks: "a link to an image", heading.Links: "a link", heading.HTML: "HTML",
	heading.Sentences: "a long text"}

// kindsSeen is what the columns show.
type kindsSeen struct {
	of   *misplaced
	runs []spread.Runs
}

func (s *kindsSeen) Learn(p *catalogue.Product) {
	for _, row := range p.Rows {
		for n, col := range s.of.cols {
			if col >= len(row.Cells) || row.Cells[col] == "" {
				continue
			}
			kind := 0
			if cell := row.Cells[col]; !s.of.homes[n].Has(cell) {
				kind = kindOf(s.of.fields[n], cell)
			}
			s.runs[n].Add(row.Number, kind)
		}
	}
}

func (s *kindsSeen) Merge(next line.Aggregate) {
	for n := range s.runs {
		s.runs[n].Merge(&next.(*kindsSeen).runs[n])
	}
}

// Place says where the part lies.
func (s *kindsSeen) Place(above int) {
	for n := range s.runs {
		s.runs[n].Place(above)
	}
}

func (s *kindsSeen) AppendBinary(b []byte) ([]byte, error) {
	for n := range s.runs {
		b = s.runs[n].AppendBinary(b)
	}
	return b, nil
}
