package steps

import (
	"zetanum/core/barcode"
	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/line"
	"zetanum/core/sheet"
)

// Columns is the step that sets the added columns behind those of the sheet and
// fills what is to be filled. It comes after the repairs, so that what it copies
// is repaired; a column that it fills is not judged again.
func Columns(table *sheet.Table, plan *columns.Plan) line.Step {
	return line.Step{
		Name:  "columns",
		Rules: []catalogue.Rule{catalogue.RuleAdd, catalogue.RuleCopy, catalogue.RuleSplit, catalogue.RuleJoin},
		New: func(line.Lore) (line.Repairer, error) {
			if len(plan.Fillers)+len(plan.Splits)+len(plan.Joins) == 0 {
				return nil, nil
			}
			return &filler{&table.Columns, plan}, nil
		},
	}
}

type filler struct {
	columns *catalogue.Columns
	*columns.Plan
}

func (f *filler) Repair(p *catalogue.Product, log *line.Log) {
	for i, row := range p.Rows {
		if log.IsAside(i) {
			continue
		}
		row.Extend(f.columns.Own(), f.columns.Added)
		for n := range f.Splits {
			f.split(row, &f.Splits[n], log)
		}
		for n := range f.Joins {
			j := &f.Joins[n]
			if text := j.Text(row); row.Cells[j.Into] == "" && text != "" {
				log.Set(row, j.Into, text, catalogue.RuleJoin, catalogue.Ordered, "")
			}
		}
		for _, fill := range f.Fillers {
			if row.Cells[fill.Col] != "" {
				continue
			}
			if fill.From < 0 {
				log.Set(row, fill.Col, fill.Value, catalogue.RuleAdd, catalogue.Ordered, "")
				continue
			}
			if value := row.Cells[fill.From]; value != "" {
				log.Set(row, fill.Col, value, catalogue.RuleCopy, catalogue.Ordered, "")
				f.suits(row, &fill, log)
			}
		}
	}
}

// split takes a cell apart into columns that are all empty. A cell that has not
// as many parts is left, and named.
func (f *filler) split(row *catalogue.Row, s *columns.Split, log *line.Log) {
	cell := row.Cells[s.From]
	if cell == "" {
		return
	}
	for _, col := range s.Into {
		if col != s.From && row.Cells[col] != "" {
			return
		}
	}
	parts, ok := s.Parts(cell)
	if !ok {
		log.Find(catalogue.ColumnParts, row, s.From, cell, catalogue.Facts{Digits: len(parts), Length: len(s.Into)})
		return
	}
	for i, col := range s.Into {
		if parts[i] != row.Cells[col] {
			log.Set(row, col, parts[i], catalogue.RuleSplit, catalogue.Ordered, "")
		}
	}
}

// suits notes what was copied into a barcode column and is no barcode.
func (f *filler) suits(row *catalogue.Row, fill *columns.Filler, log *line.Log) {
	if f.columns.Fields[fill.Col] != catalogue.Barcode {
		return
	}
	if _, err := barcode.Parse(row.Cells[fill.Col]); err != nil {
		log.Find(catalogue.ColumnUnsuited, row, fill.Col, row.Cells[fill.Col], catalogue.Facts{Other: f.columns.Headings[fill.From]})
	}
}
