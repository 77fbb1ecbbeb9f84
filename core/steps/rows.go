package steps

import (
	"zetanum/core/catalogue"
	"zetanum/core/condition"
	"zetanum/core/line"
	"zetanum/core/sheet"
)

// Rows is the step that keeps the products that are worked on and sets the
// others aside.
func Rows(table *sheet.Table, rules []condition.RowRule) (line.Step, error) {
	var compiled []rowRule
	for i := range rules {
		c, keep, words, err := rules[i].Compile(columnsOf(table))
		if err != nil {
			return line.Step{}, err
		}
		compiled = append(compiled, rowRule{c, keep, words})
	}
	return line.Step{
		Name: "rows",
		New: func(line.Lore) (line.Repairer, error) {
			if len(compiled) == 0 {
				return nil, nil
			}
			return rowRules(compiled), nil
		},
	}, nil
}

type rowRule struct {
	*condition.Condition
	keep  bool
	words string
}

type rowRules []rowRule

func (rules rowRules) Repair(p *catalogue.Product, log *line.Log) {
	for n, rule := range rules {
		rows, meant := 0, false
		for i, row := range p.Rows {
			if !log.IsAside(i) {
				rows++
				meant = meant || rule.Holds(row)
			}
		}
		if meant && !log.Judging() {
			log.Touch(n, rows)
		}
		if meant == rule.keep {
			continue
		}
		for i := range p.Rows {
			log.Aside(i, catalogue.RowNotWanted, catalogue.Facts{Other: rule.words})
		}
		return
	}
}
