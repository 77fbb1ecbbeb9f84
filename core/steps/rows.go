package steps

import (
	"errors"
	"fmt"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/condition"
	"zetanum/core/line"
)

// Rows is the step that keeps the products that are worked on and sets the
// others aside, and leaves one row where the rulebook wants one.
func Rows(s *Sheet, rules []condition.RowRule) (line.Step, error) {
	var conditions []rowRule
	var ones []onePer
	var reads, learns catalogue.ColumnSet
	for i := range rules {
		rule := &rules[i]
		if rule.OnePer != "" {
			col := s.column(rule.OnePer)
			if col == condition.Gone {
				s.leaveOut("[[rows]] one_per", rule.OnePer)
				continue
			}
			if col < 0 {
				return line.Step{}, columns.NotThere(&s.Columns, "[[rows]] one_per", rule.OnePer)
			}
			choices := map[string]line.Choice{"": line.ChooseFirst, "first": line.ChooseFirst, "last": line.ChooseLast,
				"fullest": line.ChooseFullest}
			one := onePer{kind: s.Claim(line.Claim{Choose: choices[rule.Choose]}), col: col, open: s.Written.Has(col)}
			ones = append(ones, one)
			reads.Add(col)
			learns.Add(col)
			continue
		}
		c, keep, words, err := rule.Compile(func(name string) int {
			col := s.column(name)
			reads.Add(col)
			return col
		})
		if errors.Is(err, condition.ErrGone) {
			s.leaveOut("[[rows]]", fmt.Sprint(rule.Keep, rule.Aside))
			continue
		}
		if err != nil {
			return line.Step{}, err
		}
		did := "set aside"
		if keep {
			did = "kept"
		}
		conditions = append(conditions, rowRule{c, keep, words, s.Tally.Add(words, did, rule.Count)})
	}
	texts := s.Texts
	return line.Step{
		Name:  NameRows,
		Reads: reads, Learns: learns,
		New: func(line.Aggregate) (line.Repairer, error) {
			if len(conditions)+len(ones) == 0 {
				return nil, nil
			}
			return &rowRules{texts, conditions, ones}, nil
		},
		Keys: func(p *catalogue.Product, add func(int, uint64)) {
			for i, row := range p.Rows {
				for n := range ones {
					texts.claimKey(row, ones[n].col, ones[n].kind, ones[n].open, func(key uint64) { add(i, key) })
				}
			}
		},
	}, nil
}

type rowRule struct {
	*condition.Condition
	keep  bool
	words string
	count int // its number in the tally
}

// onePer leaves one row of those with the same in a column.
type onePer struct {
	kind line.ClaimKind
	col  int
	open bool // rules may change the column
}

type rowRules struct {
	texts      *Texts
	conditions []rowRule
	ones       []onePer
}

func (rules *rowRules) Repair(p *catalogue.Product, log *line.Log) {
	for _, rule := range rules.conditions {
		rows, meant := 0, false
		for i, row := range p.Rows {
			if !log.IsAside(i) {
				rows++
				meant = meant || rule.Holds(row)
			}
		}
		if meant && !log.Judging() {
			log.TouchAll(rule.count, rows)
		}
		if meant == rule.keep {
			continue
		}
		for i := range p.Rows {
			log.Aside(i, catalogue.RowNotWanted, catalogue.Facts{Other: rule.words})
		}
		return
	}
	for n := range rules.ones {
		one := &rules.ones[n]
		for i, row := range p.Rows {
			if cell := row.Cell(one.col); cell != "" && !log.IsAside(i) {
				log.Claim(one.kind, rules.texts.claimOf(cell), i, one.col)
			}
		}
	}
}
