package steps

import (
	"cmp"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/condition"
	"zetanum/core/line"
	"zetanum/core/products"
)

// forAll makes one row of several, as a rule says.
type forAll struct {
	columns   *catalogue.Columns
	texts     *Texts
	where     *condition.Condition
	roles     catalogue.Role // of the rows that are meant; 0: all variants
	number    int            // in the tally
	gathering products.Gathering
}

// ForAll is the step that puts variants which differ in one value into one row; ok is false
// if the sheet does not go out with the columns.
func ForAll(s *Sheet, rule *products.AllRule) (step line.Step, ok bool, err error) {
	c := &s.Columns
	a := &forAll{columns: c, texts: s.Texts, roles: rule.Rows.Roles()}
	g := &a.gathering
	g.At = cmp.Or(rule.At, ", ")
	except := make([]bool, len(c.Headings))
	for _, name := range rule.Unlike {
		cols, err := s.Need("[[one_row_for_all]] unlike", name)
		if err != nil {
			return step, false, err
		}
		for _, col := range cols {
			except[col] = true
		}
	}
	if g.From, err = s.NeedOne("[[one_row_for_all]] from", rule.From); err != nil || g.From < 0 {
		return step, false, err
	}
	except[g.From] = true
	where, looked, err := s.Where(rule.Where)
	if err != nil {
		return step, false, err
	}
	a.where = where
	for col := range c.Headings {
		if except[col] {
			continue
		}
		switch level := s.Products.Level(col); {
		case level == products.OfImage:
			g.Images = append(g.Images, col)
		case level == products.OfProduct:
			g.Whole = append(g.Whole, col)
		default:
			g.Compared = append(g.Compared, col)
			if s.Products.IsOption(col) {
				g.Options = append(g.Options, col)
			}
		}
	}
	a.number = s.Tally.Add(rule.String(), Changed, rule.Count)
	reads := catalogue.ColumnsOf(slices.Concat(looked, g.Images, g.Whole, g.Compared)...)
	reads.Add(g.From)
	return line.Step{
		Name:  NameForAll,
		Reads: reads, Writes: catalogue.ColumnsOf(g.From), Before: writing,
		Rules: []catalogue.Rule{catalogue.RuleForAll},
		New:   func(line.Aggregate) (line.Repairer, error) { return a, nil },
	}, true, nil
}

func (a *forAll) Repair(p *catalogue.Product, log *line.Log) {
	list, unlike := a.gathering.Rows(p.Rows, log.IsAside, func(i int) bool {
		return p.Role(i)&catalogue.Variant != 0 && (a.roles == 0 || p.Role(i)&a.roles != 0) && (a.where == nil || a.where.Holds(p.Rows[i]))
	})
	for _, u := range unlike {
		row, of := p.Rows[u.Index], p.Rows[u.Of]
		log.Notice(catalogue.EachUnlike, row, u.Col, row.Cell(u.Col), catalogue.Facts{Row: of.Number, Other: of.Cell(u.Col)})
	}
	for _, g := range list {
		if len(g.Others) == 0 {
			continue
		}
		for _, i := range g.Others {
			log.Join(i, catalogue.RuleForAll)
		}
		log.Touch(a.number, g.Index)
		from := a.gathering.From
		log.Set(p.Rows[g.Index], from, a.texts.Clean(strings.Join(g.Values, a.gathering.At), a.columns.Kind(from)), catalogue.RuleForAll,
			catalogue.Ordered, "")
	}
}
