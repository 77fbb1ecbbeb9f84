package steps

import (
	"fmt"
	"slices"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/condition"
	"zetanum/core/wording"
)

// A textRule is an order about texts, whatever it does to them.
type textRule struct {
	finds  func(string) bool // false if the rule has nothing to do; nil if that has to be tried
	apply  func(string) (string, bool)
	inHTML func(string) (string, bool) // nil: HTML is refused
	rule   catalogue.Rule
	key    string // of the rulebook: "replace"
	in     []string
	where  map[string]any
	rows   catalogue.Rows
	words  string
	count  int
	once   bool // it may change its own result again
}

// Words orders that texts are changed: those that are replaced, then those that
// get words around them, then those that get a closing text.
func (o *Orders) Words(replace []wording.ReplaceRule, around []wording.AroundRule, closing []wording.ClosingRule) error {
	var rules []textRule
	for i := range replace {
		rule := &replace[i]
		r, err := wording.NewReplacer(rule)
		if err != nil {
			return err
		}
		rules = append(rules, textRule{r.Finds, r.Apply, r.ApplyHTML, catalogue.RuleReplace, "replace", rule.In, rule.Where, rule.Rows, rule.String(), rule.Count, rule.Once})
	}
	for i := range around {
		rule := &around[i]
		rules = append(rules, textRule{nil, rule.Apply, nil, catalogue.RuleAround, "around", rule.In, rule.Where, rule.Rows, rule.String(), rule.Count, false})
	}
	for i := range closing {
		rule := &closing[i]
		rules = append(rules, textRule{nil, rule.Apply, rule.ApplyHTML, catalogue.RuleClosing, "closing", rule.In, rule.Where, rule.Rows, rule.String(), rule.Count, false})
	}
	var list []*textColumn
	for i := range rules {
		rule := &rules[i]
		where, reads, err := o.where(rule.where)
		if err != nil {
			return err
		}
		cols, err := o.textColumns(rule)
		if err != nil {
			return err
		}
		number := o.tally.Add(rule.words, changed, rule.count)
		for _, col := range cols {
			at := slices.IndexFunc(list, func(c *textColumn) bool { return c.col == col })
			if at < 0 {
				at = len(list)
				list = append(list, &textColumn{texts: o.texts, col: col, kind: o.table.Columns.Kind(col)})
			}
			c := list[at]
			c.rules = append(c.rules, fittedRule{rule, where, number})
			c.reads = append(c.reads, reads...)
		}
	}
	for _, c := range list {
		o.list = append(o.list, order{key: c.rules[0].key, phase: phaseWords, reads: c.reads, writes: []int{c.col}, number: -1, do: c.do})
	}
	return nil
}

// textColumns returns the columns that a rule names.
func (o *Orders) textColumns(rule *textRule) (cols []int, err error) {
	for _, name := range rule.in {
		found, err := o.shape.Need(&o.table.Columns, "[["+rule.key+"]] in", name)
		if err != nil {
			return nil, err
		}
		for _, col := range found {
			kind := o.table.Columns.Kind(col)
			field := o.table.Columns.Name(col)
			switch {
			case kind == catalogue.CodeKind:
				return nil, fmt.Errorf("%w: [[%s]] in names %q, which is the field %s: %w", columns.ErrWrong, rule.key, name, field, wording.ErrCode)
			case kind == catalogue.HTMLKind && rule.inHTML == nil:
				return nil, fmt.Errorf("%w: [[%s]] in names %q, which is the field %s: %w", columns.ErrWrong, rule.key, name, field, wording.ErrHTML)
			}
			if !slices.Contains(cols, col) {
				cols = append(cols, col)
			}
		}
	}
	return cols, nil
}

// A textColumn has the rules for the texts of one column.
type textColumn struct {
	texts *Texts
	col   int
	kind  catalogue.Kind
	reads []int
	rules []fittedRule
}

type fittedRule struct {
	*textRule
	where  *condition.Condition
	number int
}

func (c *textColumn) do(r *rowAt) bool {
	cell := r.Cell(c.col)
	if cell == "" {
		return false
	}
	if r.dry {
		if after := c.apply(cell, r, nil); after != cell {
			r.set(c.col, after, catalogue.NoRule, catalogue.NoGround, "")
		}
		return false
	}
	var some [8]*fittedRule
	fired := some[:0]
	after := c.apply(cell, r, func(rule *fittedRule) { fired = append(fired, rule) })
	if after == cell {
		return false
	}
	for _, rule := range fired {
		r.touch(rule.number, c.col)
	}
	r.set(c.col, after, fired[0].rule, catalogue.Ordered, "")
	return false
}

// apply applies the rules of a column one after the other and tidies what they
// leave. Without used it applies them again, which those leave out that are
// applied once.
func (c *textColumn) apply(cell string, r *rowAt, used func(*fittedRule)) string {
	changed := false
	for i := range c.rules {
		rule := &c.rules[i]
		if rule.once && used == nil {
			continue
		}
		if rule.finds != nil && !rule.finds(cell) || !r.means(rule.rows.Roles()) || !r.holds(rule.where) {
			continue
		}
		apply := rule.textRule.apply
		if c.kind == catalogue.HTMLKind {
			apply = rule.inHTML
		}
		if after, yes := apply(cell); yes {
			cell, changed = after, true
			if used != nil {
				used(rule)
			}
		}
	}
	if !changed {
		return cell
	}
	return c.texts.Clean(cell, c.kind)
}
