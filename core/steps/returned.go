package steps

import (
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/line"
	"zetanum/core/returned"
)

// Returned is the step that takes down what people have mended in tables that came back, and what
// the shop has said of rows. The cells are as they are to be already when a row is read.
func Returned(s *Sheet) line.Step {
	cols := s.Returned.Columns()
	b := &cameBack{s.Returned, s.Columns.Own(), s.Columns.First(catalogue.SKU)}
	reads := catalogue.ColumnsOf(cols.List()...)
	reads.Add(s.Columns.All(catalogue.SKU)...)
	return line.Step{Name: NameReturned, Reads: reads, Writes: cols, Before: append([]string{NameShape, NameText, NameBorrow}, judging...),
		Rules: []catalogue.Rule{catalogue.RuleReturned}, New: Always(b.repair)}
}

type cameBack struct {
	rows *returned.Rows
	own  int // how many columns the file has
	sku  int // the column
}

func (b *cameBack) repair(p *catalogue.Product, log *line.Log) {
	var told *returned.Said
	refused := false
	for _, row := range p.Rows {
		b.mended(row, log)
		said := b.rows.Said(row.Number)
		switch {
		case said == nil:
		case said.Outcome == returned.Refused:
			refused = log.Notice(catalogue.RowRefused, row, -1, "", catalogue.Facts{Other: remark(said)}) || refused
		case told == nil:
			told = said
		}
	}
	if refused || told == nil {
		return
	}
	for i, row := range p.Rows {
		said := b.rows.Said(row.Number)
		if said == nil && row.Cell(b.sku) == "" {
			said = told // it belongs to the rows that the shop names
		}
		if said == nil || said.Outcome == returned.Refused {
			continue
		}
		code := catalogue.RowTaken
		if said.Outcome == returned.Skipped {
			code = catalogue.RowSkipped
		}
		log.Aside(i, code, catalogue.Facts{Other: remark(said)})
	}
}

// mended takes down the cells of a row that somebody has mended.
func (b *cameBack) mended(row *catalogue.Row, log *line.Log) {
	one := b.rows.Of(row.Number)
	if one == nil {
		return
	}
	for col, was := range one.Was {
		is := ""
		if col < len(one.Is) {
			is = one.Is[col]
		}
		if is != was && col < b.own {
			log.Changes = append(log.Changes, catalogue.Change{Row: row.Number, Col: col, Before: was, After: is,
				Rule: catalogue.RuleReturned, Ground: catalogue.Decided})
		}
	}
}

// remark returns what the shop says of a row, behind a sentence.
func remark(said *returned.Said) string {
	if said.Remark == "" {
		return ""
	}
	return "; it says: " + strings.TrimRight(said.Remark, ". ")
}
