package steps

import (
	"zetanum/core/catalogue"
	"zetanum/core/line"
)

// Returned is the step that takes down what people have mended in tables that came back. The
// cells are as they are to be already when a row is read.
func Returned(s *Sheet) line.Step {
	rows := s.Returned
	cols := rows.Columns()
	return line.Step{Name: NameReturned, Reads: cols, Writes: cols, Before: append([]string{NameShape, NameText, NameBorrow}, judging...),
		Rules: []catalogue.Rule{catalogue.RuleReturned},
		New: always(func(p *catalogue.Product, log *line.Log) {
			for _, row := range p.Rows {
				one := rows.Of(row.Number)
				if one == nil {
					continue
				}
				for col, was := range one.Was {
					is := ""
					if col < len(one.Is) {
						is = one.Is[col]
					}
					if is != was && col < s.Columns.Own() {
						log.Changes = append(log.Changes, catalogue.Change{Row: row.Number, Col: col, Before: was, After: is,
							Rule: catalogue.RuleReturned, Ground: catalogue.Decided})
					}
				}
			}
		})}
}
