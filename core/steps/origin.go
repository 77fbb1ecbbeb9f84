package steps

import (
	"strconv"

	"zetanum/core/catalogue"
	"zetanum/core/line"
)

// An OriginColumn keeps where a product came from: From says what, one of the names below, or Col is the column of the file whose cells it keeps
// as they were there.
type OriginColumn struct {
	Into int
	From string
	Col  int
}

// What can be kept of the source besides its cells.
const (
	OriginFile  = "file"
	OriginSheet = "sheet"
	OriginRow   = "row"
)

// Origin is the step that fills columns with where products came from, where they are empty. Rows of further images have no origin of their own.
func Origin(s *Sheet, list []OriginColumn) line.Step {
	step := line.Step{Name: NameOrigin, Aside: true, Rules: []catalogue.Rule{catalogue.RuleOrigin}}
	for _, o := range list {
		step.Writes.Add(o.Into)
		if o.From == "" {
			step.Reads.Add(o.Col)
		}
	}
	table := s.Table
	step.New = Always(func(p *catalogue.Product, log *line.Log) {
		for i, row := range p.Rows {
			if log.IsAside(i) || p.Role(i)&catalogue.ImageRow != 0 || row.Blank() {
				continue
			}
			for _, o := range list {
				if row.Cell(o.Into) != "" {
					continue
				}
				value := ""
				switch o.From {
				case OriginFile:
					value = table.Name
				case OriginSheet:
					value = table.Sheet
				case OriginRow:
					value = strconv.Itoa(row.Number)
				default:
					value = asItWas(log, row, o.Col)
				}
				if value = s.Texts.Clean(value, catalogue.LineKind); value == "" {
					continue
				}
				if o.Into >= len(row.Cells) {
					row.Extend(max(len(row.Cells), s.Columns.Own()), 0)
				}
				log.Set(row, o.Into, value, catalogue.RuleOrigin, catalogue.Ordered, "")
			}
		}
	})
	return step
}

// asItWas returns a cell as the source has it.
func asItWas(log *line.Log, row *catalogue.Row, col int) string {
	for i := range log.Changes {
		if c := &log.Changes[i]; c.Row == row.Number && c.Made == row.Made && c.Col == col {
			return c.Before
		}
	}
	return row.Cell(col)
}
