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

// A textRule is an order about texts, whatever it does to them.
type textRule struct {
	apply func(string) (string, bool)
	rule  catalogue.Rule
	key   string // of the rulebook: "replace"
	in    []string
	where map[string]any
}

// Wording is the step that changes texts: those that are replaced, and then those
// that get words around them. first is the number of its first rule among those
// whose rows are counted; shape says which columns the rulebook renames and drops.
func Wording(table *sheet.Table, shape *columns.Rules, replace []wording.ReplaceRule, around []wording.AroundRule, first int) (line.Step, error) {
	var rules []textRule
	for i := range replace {
		r, err := wording.NewReplacer(&replace[i])
		if err != nil {
			return line.Step{}, err
		}
		rules = append(rules, textRule{r.Apply, catalogue.RuleReplace, "replace", replace[i].In, replace[i].Where})
	}
	for i := range around {
		rules = append(rules, textRule{around[i].Apply, catalogue.RuleAround, "around", around[i].In, around[i].Where})
	}
	var list []textColumn
	for i, rule := range rules {
		where := new(condition.Condition)
		if rule.where != nil {
			var err error
			if where, err = condition.Parse(rule.where, columnsOf(table)); err != nil {
				return line.Step{}, err
			}
		}
		cols, err := rule.columns(table, shape)
		if err != nil {
			return line.Step{}, err
		}
		for _, col := range cols {
			at := slices.IndexFunc(list, func(c textColumn) bool { return c.col == col })
			if at < 0 {
				at = len(list)
				list = append(list, textColumn{col: col, kind: table.Columns.Fields[col].Kind()})
			}
			list[at].rules = append(list[at].rules, fittedRule{&rules[i], where, first + i})
		}
	}
	return line.Step{
		Name:  "wording",
		Rules: []catalogue.Rule{catalogue.RuleReplace, catalogue.RuleAround},
		New: func(line.Lore) (line.Repairer, error) {
			if len(list) == 0 {
				return nil, nil
			}
			return &rewriter{list, first + len(rules)}, nil
		},
	}, nil
}

func columnsOf(table *sheet.Table) condition.Resolver {
	return func(name string) int { return columns.Find(&table.Columns, name) }
}

// columns returns the columns that a rule names.
func (rule *textRule) columns(table *sheet.Table, shape *columns.Rules) (cols []int, err error) {
	for _, name := range rule.in {
		found, gone := shape.Find(&table.Columns, name)
		if len(found) == 0 && !gone {
			return nil, fmt.Errorf("%w: [[%s]] in names %q, which is not there; the headings are: %s",
				columns.ErrWrong, rule.key, name, strings.Join(table.Columns.Headings, ", "))
		}
		for _, col := range found {
			f := table.Columns.Fields[col]
			switch {
			case f.Kind() == catalogue.CodeKind:
				return nil, fmt.Errorf("%w: [[%s]] in names %q, which is the field %s: %w", columns.ErrWrong, rule.key, name, f, wording.ErrCode)
			case f.Kind() == catalogue.HTMLKind && rule.rule == catalogue.RuleAround:
				return nil, fmt.Errorf("%w: [[%s]] in names %q, which is the field %s: %w", columns.ErrWrong, rule.key, name, f, wording.ErrHTML)
			}
			if !slices.Contains(cols, col) {
				cols = append(cols, col)
			}
		}
	}
	return cols, nil
}

type textColumn struct {
	col   int
	kind  catalogue.Kind
	rules []fittedRule
}

type fittedRule struct {
	*textRule
	where  *condition.Condition
	number int
}

type rewriter struct {
	columns []textColumn
	rules   int // one more than the highest number of a rule
}

func (r *rewriter) Repair(p *catalogue.Product, log *line.Log) {
	for i, row := range p.Rows {
		if log.IsAside(i) {
			continue
		}
		var used []bool
		var fired []*fittedRule
		for c := range r.columns {
			column := &r.columns[c]
			cell := row.Cell(column.col)
			if cell == "" {
				continue
			}
			fired = fired[:0]
			after := column.apply(cell, row, func(rule *fittedRule) { fired = append(fired, rule) })
			if after == cell {
				continue
			}
			if again := column.apply(after, row, nil); again != after {
				log.Find(catalogue.ReplaceUnsettled, row, column.col, cell, catalogue.Facts{Other: again})
				continue
			}
			order := catalogue.RuleAround
			for _, rule := range fired {
				if used == nil {
					used = make([]bool, r.rules)
				}
				used[rule.number] = true
				if rule.rule == catalogue.RuleReplace {
					order = rule.rule
				}
			}
			log.Set(row, column.col, after, order, catalogue.Ordered, "")
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
func (c *textColumn) apply(cell string, row *catalogue.Row, used func(*fittedRule)) string {
	changed := false
	for i := range c.rules {
		rule := &c.rules[i]
		if !rule.where.Holds(row) {
			continue
		}
		after, yes := cell, false
		if c.kind == catalogue.HTMLKind {
			after, yes = wording.OutsideTags(cell, rule.textRule.apply)
		} else {
			after, yes = rule.textRule.apply(cell)
		}
		if yes {
			cell, changed = after, true
			if used != nil {
				used(rule)
			}
		}
	}
	if scope, ok := scopes[c.kind]; ok && changed {
		cell, _, _ = text.Tidy(cell, scope)
	}
	return cell
}
