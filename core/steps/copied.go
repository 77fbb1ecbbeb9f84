package steps

import (
	"zetanum/core/catalogue"
	"zetanum/core/line"
	"zetanum/core/products"
)

// Copied is the step that looks for products that still have something of the one above
// them, from which their row was perhaps copied.
func Copied(s *Sheet) line.Step {
	step := line.Step{Name: NameCopied, New: idle}
	copier := s.Products.NewCopier(&s.Columns, s.Key.Slug)
	if copier == nil {
		return step
	}
	step.Reads, step.Learns = catalogue.ColumnsOf(copier.Watched()...), catalogue.ColumnsOf(copier.Watched()...)
	step.Learn = func() line.Aggregate { return &copiedAggregate{copier: copier} }
	step.New = func(learned line.Aggregate) (line.Repairer, error) {
		found := copier.Found(&learned.(*copiedAggregate).Copies)
		if len(found) == 0 {
			return nil, nil
		}
		return repairFunc(func(p *catalogue.Product, log *line.Log) {
			for i, row := range p.Rows {
				for _, c := range found[row.Number] {
					if cell := row.Cell(c.Col); cell != "" && !log.IsAside(i) && (i == 0 || p.Rows[i-1].Number != row.Number) {
						code := catalogue.ProductCopied
						if c.Slip {
							code = catalogue.ProductNearKey
						}
						if !log.Wrote(catalogue.RuleMint, row, c.Col) {
							log.Notice(code, row, c.Col, cell, catalogue.Facts{Row: c.Row})
						}
					}
				}
			}
		}), nil
	}
	return step
}

type copiedAggregate struct {
	copier *products.Copier
	products.Copies
}

func (l *copiedAggregate) Learn(p *catalogue.Product) { l.copier.Add(&l.Copies, p.Rows) }

func (l *copiedAggregate) Merge(next line.Aggregate) {
	l.copier.Merge(&l.Copies, &next.(*copiedAggregate).Copies)
}
