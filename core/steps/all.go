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
	columns  *catalogue.Columns
	plan     *products.Plan
	texts    *Texts
	where    *condition.Condition
	roles    catalogue.Role // of the rows that are meant; 0: all variants
	number   int            // in the tally
	at       string
	from     int
	options  []int // other columns by which variants are told apart
	compared []int // in which rows that become one have the same
	images   []int // in which they have the same, or nothing
	whole    []int // in which they have what the product has, or nothing
}

// ForAll is the step that puts variants which differ in one value into one row; ok is false
// if the sheet does not go out with the columns.
func ForAll(s *Sheet, rule *products.AllRule) (step line.Step, ok bool, err error) {
	c := &s.Columns
	a := &forAll{columns: c, plan: s.Products, texts: s.Texts, at: cmp.Or(rule.At, ", "), roles: rule.Rows.Roles()}
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
	if a.from, err = s.NeedOne("[[one_row_for_all]] from", rule.From); err != nil || a.from < 0 {
		return step, false, err
	}
	except[a.from] = true
	where, looked, err := s.Where(rule.Where)
	if err != nil {
		return step, false, err
	}
	a.where = where
	for col := range c.Headings {
		if except[col] {
			continue
		}
		switch level := a.plan.Level(col); {
		case level == products.OfImage:
			a.images = append(a.images, col)
		case level == products.OfProduct:
			a.whole = append(a.whole, col)
		default:
			a.compared = append(a.compared, col)
			if a.plan.IsOption(col) {
				a.options = append(a.options, col)
			}
		}
	}
	a.number = s.Tally.Add(rule.String(), Changed, rule.Count)
	reads := catalogue.ColumnsOf(slices.Concat(looked, a.images, a.whole, a.compared)...)
	reads.Add(a.from)
	return line.Step{
		Name:  NameForAll,
		Reads: reads, Writes: catalogue.ColumnsOf(a.from), Before: writing,
		Rules: []catalogue.Rule{catalogue.RuleForAll},
		New:   func(line.Lore) (line.Repairer, error) { return a, nil },
	}, true, nil
}

// A gathered row is one into which others are put.
type gathered struct {
	row    *catalogue.Row
	index  int // in the product
	values []string
}

func (a *forAll) Repair(p *catalogue.Product, log *line.Log) {
	var order []*gathered
	alike := make(map[string][]*gathered)      // by all that must be the same
	options := make(map[string]*catalogue.Row) // by the other options only: the first row
	var lead *catalogue.Row
	for i, row := range p.Rows {
		if log.IsAside(i) {
			continue
		}
		if lead == nil {
			lead = row
		}
		value := strings.TrimSpace(row.Cell(a.from))
		if p.Role(i)&catalogue.Variant == 0 || a.roles != 0 && p.Role(i)&a.roles == 0 || value == "" ||
			a.where != nil && !a.where.Holds(row) || strings.Contains(value, a.at) {
			continue // what has the sign between values is a list already
		}
		key, other, unlike := cells(row, a.compared), cells(row, a.options), -1
		into := slices.IndexFunc(alike[key], func(g *gathered) bool {
			col := a.keeps(row, g, lead)
			if unlike < 0 {
				unlike = col
			}
			return col < 0
		})
		if into >= 0 {
			g := alike[key][into]
			g.values = append(g.values, value)
			log.Join(i, catalogue.RuleForAll)
			continue
		}
		g := &gathered{row: row, index: i, values: []string{value}}
		order, alike[key] = append(order, g), append(alike[key], g)
		of := options[other]
		if of == nil {
			options[other] = row
			continue
		}
		if unlike < 0 {
			unlike = a.differs(of, row)
		}
		log.Find(catalogue.EachUnlike, row, unlike, row.Cell(unlike), catalogue.Facts{Row: of.Number, Other: of.Cell(unlike)})
	}
	for _, g := range order {
		if len(g.values) > 1 {
			log.Touch(a.number, g.index)
			log.Set(g.row, a.from, a.texts.Clean(strings.Join(g.values, a.at), a.columns.Kind(a.from)), catalogue.RuleForAll,
				catalogue.Ordered, "")
		}
	}
}

// differs returns the first column in which two rows must be the same and are not, -1 if
// there is none.
func (a *forAll) differs(one, other *catalogue.Row) int {
	for _, col := range a.compared {
		if one.Cell(col) != other.Cell(col) {
			return col
		}
	}
	return -1
}

// keeps returns the first column in which a row has something that would be lost among
// others, -1 if there is none.
func (a *forAll) keeps(row *catalogue.Row, among *gathered, lead *catalogue.Row) int {
	for _, col := range a.images {
		if cell := row.Cell(col); cell != "" && cell != among.row.Cell(col) {
			return col
		}
	}
	for _, col := range a.whole {
		if cell := row.Cell(col); cell != "" && cell != lead.Cell(col) {
			return col
		}
	}
	value := strings.TrimSpace(row.Cell(a.from))
	if slices.ContainsFunc(among.values, func(v string) bool { return strings.EqualFold(v, value) }) {
		return a.from
	}
	return -1
}

// cells returns what a row has in columns as one text.
func cells(row *catalogue.Row, cols []int) string {
	var b strings.Builder
	for _, col := range cols {
		b.WriteString(row.Cell(col))
		b.WriteByte(0)
	}
	return b.String()
}
