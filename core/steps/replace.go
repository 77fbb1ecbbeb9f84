package steps

import (
	"fmt"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/condition"
	"zetanum/core/line"
	"zetanum/core/sheet"
	"zetanum/core/text"
	"zetanum/core/wording"
)

// Replace is the step that puts texts in place of others. first is the number of
// its first rule among those whose rows are counted; shape says which columns the
// rulebook renames and drops.
func Replace(table *sheet.Table, shape *columns.Rules, rules []wording.ReplaceRule, first int) (line.Step, error) {
	var list []replaceColumn
	for i := range rules {
		r, err := wording.NewReplacer(&rules[i])
		if err != nil {
			return line.Step{}, err
		}
		where := new(condition.Condition)
		if rules[i].Where != nil {
			if where, err = condition.Parse(rules[i].Where, columnsOf(table)); err != nil {
				return line.Step{}, err
			}
		}
		cols, err := replaceIn(table, shape, &rules[i])
		if err != nil {
			return line.Step{}, err
		}
		for _, col := range cols {
			at := slices.IndexFunc(list, func(c replaceColumn) bool { return c.col == col })
			if at < 0 {
				at = len(list)
				list = append(list, replaceColumn{col: col, kind: table.Columns.Fields[col].Kind()})
			}
			list[at].rules = append(list[at].rules, replaceRule{r, where, first + i})
		}
	}
	return line.Step{
		Name:  "replace",
		Rules: []catalogue.Rule{catalogue.RuleReplace},
		New: func(line.Lore) (line.Repairer, error) {
			if len(list) == 0 {
				return nil, nil
			}
			return &replacer{list, first + len(rules)}, nil
		},
	}, nil
}

func columnsOf(table *sheet.Table) condition.Resolver {
	return func(name string) int { return columns.Find(&table.Columns, name) }
}

// replaceIn returns the columns that a rule names.
func replaceIn(table *sheet.Table, shape *columns.Rules, rule *wording.ReplaceRule) (cols []int, err error) {
	for _, name := range rule.In {
		found, gone := shape.Find(&table.Columns, name)
		if len(found) == 0 && !gone {
			return nil, fmt.Errorf("%w: [[replace]] in names %q, which is not there; the headings are: %s",
				columns.ErrWrong, name, strings.Join(table.Columns.Headings, ", "))
		}
		for _, col := range found {
			if f := table.Columns.Fields[col]; f.Kind() == catalogue.CodeKind {
				return nil, fmt.Errorf("%w: [[replace]] in names %q, which is the field %s: %w, where every character counts",
					columns.ErrWrong, name, f, wording.ErrField)
			}
			if !slices.Contains(cols, col) {
				cols = append(cols, col)
			}
		}
	}
	return cols, nil
}

type replaceColumn struct {
	col   int
	kind  catalogue.Kind
	rules []replaceRule
}

type replaceRule struct {
	*wording.Replacer
	where  *condition.Condition
	number int
}

type replacer struct {
	columns []replaceColumn
	rules   int // one more than the highest number of a rule
}

func (r *replacer) Repair(p *catalogue.Product, log *line.Log) {
	for i, row := range p.Rows {
		if log.IsAside(i) {
			continue
		}
		var used []bool
		for c := range r.columns {
			column := &r.columns[c]
			cell := row.Cell(column.col)
			if cell == "" {
				continue
			}
			after := column.apply(cell, row, func(number int) {
				if used == nil {
					used = make([]bool, r.rules)
				}
				used[number] = true
			})
			if after == cell {
				continue
			}
			if again := column.apply(after, row, nil); again != after {
				log.Find(catalogue.ReplaceUnsettled, row, column.col, cell, catalogue.Facts{Other: again})
				continue
			}
			log.Set(row, column.col, after, catalogue.RuleReplace, catalogue.Ordered, "")
		}
		if log.Judging() {
			continue
		}
		for number, yes := range used {
			if yes {
				log.Touch(number, 1)
			}
		}
	}
}

// apply applies the rules of a column one after the other and tidies what they
// leave.
func (c *replaceColumn) apply(cell string, row *catalogue.Row, used func(number int)) string {
	changed := false
	for i := range c.rules {
		rule := &c.rules[i]
		if !rule.where.Holds(row) {
			continue
		}
		after, yes := cell, false
		if c.kind == catalogue.HTMLKind {
			after, yes = wording.OutsideTags(cell, rule.Apply)
		} else {
			after, yes = rule.Apply(cell)
		}
		if yes {
			cell, changed = after, true
			if used != nil {
				used(rule.number)
			}
		}
	}
	if scope, ok := scopes[c.kind]; ok && changed {
		cell, _, _ = text.Tidy(cell, scope)
	}
	return cell
}
