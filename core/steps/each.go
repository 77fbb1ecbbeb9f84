package steps

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/condition"
	"zetanum/core/line"
	"zetanum/core/pattern"
	"zetanum/core/products"
	"zetanum/core/sheet"
)

// An Each makes several rows of one, as a rule says.
type Each struct {
	texts      *Texts
	plan       *products.Plan
	columns    *catalogue.Columns
	where      *condition.Condition
	from, into int
	sku        int
	barcodes   []int
	same       []int // columns that a further row of a product has like the first
	set        []setCell

	Kin *Kin // products that are made one; may be nil
	Key *Key // of the products
}

type setCell struct {
	col int
	*pattern.Pattern
}

// NewEach fits a rule to a sheet; it is nil if its columns are dropped. together is the
// column that the rulebook declares products to be together by, or -1.
func NewEach(table *sheet.Table, texts *Texts, plan *products.Plan, shape *columns.Rules, rule *products.EachRule, together int) (*Each, error) {
	c := &table.Columns
	find := func(key, name string) (int, error) { return shape.NeedOne(c, "[[one_row_each]] "+key, name) }
	e := &Each{texts: texts, plan: plan, columns: c, sku: c.First(catalogue.SKU), barcodes: c.All(catalogue.Barcode)}
	var err error
	if e.from, err = find("from", rule.From); err != nil {
		return nil, err
	}
	if e.into, err = find("into", rule.Into); err != nil || e.from < 0 || e.into < 0 {
		return nil, err
	}
	if err := unreserved(c, e.into, reserved, "[[one_row_each]] into", rule.Into); err != nil {
		return nil, err
	}
	if c.First(catalogue.Title) < 0 && together < 0 && c.First(catalogue.Slug) < 0 {
		return nil, fmt.Errorf("%w: [[one_row_each]]: without a title and a slug nothing would say to which product the rows belong; name a column with together_by under [products]", columns.ErrWrong)
	}
	for _, name := range slices.Sorted(maps.Keys(rule.Set)) {
		col, err := find("set", name)
		if err != nil {
			return nil, err
		}
		if err := unreserved(c, col, catalogue.FieldsOf(catalogue.Barcode), "[[one_row_each]] set", name); err != nil {
			return nil, err
		}
		if col < 0 {
			continue
		}
		p, err := pattern.Parse(rule.Set[name])
		if err != nil {
			return nil, err
		}
		if _, missing := p.Bind(func(name string) int {
			cols, _ := shape.Find(c, name)
			if len(cols) == 0 {
				return -1
			}
			return cols[0]
		}, func(col int) bool { return false }); len(missing) > 0 {
			return nil, fmt.Errorf("%w: [[one_row_each]] set names {%s}, which is not there; the headings are: %s", columns.ErrWrong, missing[0], strings.Join(c.Headings, ", "))
		}
		e.set = append(e.set, setCell{col, p})
	}
	if rule.Where != nil {
		if e.where, err = condition.Parse(rule.Where, func(name string) int { return columns.Find(c, name) }); err != nil {
			return nil, err
		}
	}
	for _, col := range []int{together, c.First(catalogue.Slug), c.First(catalogue.ParentSKU)} {
		if col >= 0 {
			e.same = append(e.same, col)
		}
	}
	return e, nil
}

// values returns the values of which each gets a row, nil if the row stays one.
func (e *Each) values(row *catalogue.Row) []string {
	if strings.TrimSpace(row.Cell(e.into)) != "" || e.where != nil && !e.where.Holds(row) {
		return nil
	}
	values := products.Values(row.Cell(e.from))
	for i, v := range values {
		values[i] = e.texts.Clean(v, e.columns.Kind(e.into))
	}
	return values
}

// text returns what a pattern makes of a row with a value.
func (e *Each) text(row *catalogue.Row, value string, set *setCell) string {
	with := *row
	with.Cells = slices.Clone(row.Cells)
	for len(with.Cells) <= e.into {
		with.Cells = append(with.Cells, "")
	}
	with.Cells[e.into] = value
	text, _ := set.Text(&with)
	return e.texts.Clean(text, e.columns.Kind(set.col))
}

// Step returns the step that makes several rows of one, if it can become several: no value
// is there twice, no barcode would be that of several, and no SKU is taken.
func (e *Each) Step() line.Step {
	return line.Step{
		Name:  "one row each",
		Rules: []catalogue.Rule{catalogue.RuleEach},
		New:   func(line.Lore) (line.Repairer, error) { return e, nil },
		Keys: func(p *catalogue.Product, add func(int, uint64)) {
			for i, row := range p.Rows {
				e.skus(row, func(sku string) { add(i, xxhash.Sum64String(sku)) })
			}
		},
	}
}

// skus gives the SKUs that would be made of a row.
func (e *Each) skus(row *catalogue.Row, add func(string)) {
	for _, value := range e.values(row) {
		for i := range e.set {
			if e.set[i].col == e.sku {
				add(e.text(row, value, &e.set[i]))
			}
		}
	}
}

func (e *Each) Repair(p *catalogue.Product, log *line.Log) {
	for i := len(p.Rows) - 1; i >= 0; i-- {
		row := p.Rows[i]
		values := e.values(row)
		if len(values) == 0 || log.IsAside(i) || e.plan.Parent != nil && e.plan.Parent(row) {
			continue // a parent is not sold in any size
		}
		wrong := len(log.Findings)
		for n, value := range values {
			if slices.ContainsFunc(values[:n], func(v string) bool { return strings.EqualFold(v, value) }) {
				log.Find(catalogue.EachTwice, row, e.from, row.Cell(e.from), catalogue.Facts{Other: value})
			}
		}
		for _, col := range e.barcodes {
			if row.Cell(col) != "" && len(values) > 1 {
				log.Find(catalogue.EachBarcode, row, col, row.Cell(col), catalogue.Facts{Digits: len(values)})
			}
		}
		if e.Kin.names(row.Cell(e.sku)) && slices.ContainsFunc(e.set, func(s setCell) bool { return s.col == e.sku }) {
			log.Find(catalogue.EachTogether, row, e.sku, row.Cell(e.sku), catalogue.Facts{})
		}
		if first := p.Rows[0]; e.Key != nil && e.Key.of(first) == "" && first.Cell(e.Key.title) == "" {
			log.Find(catalogue.EachNameless, row, e.from, row.Cell(e.from), catalogue.Facts{})
		}
		seen := make(map[string]bool)
		e.skus(row, func(sku string) {
			if sku == "" || seen[sku] {
				log.Find(catalogue.EachSKU, row, e.sku, row.Cell(e.sku), catalogue.Facts{Other: sku})
				return
			}
			seen[sku] = true
			log.Claim(ClaimSKU, xxhash.Sum64String(sku), i, e.sku)
		})
		if len(log.Findings) == wrong {
			e.make(p, i, values, log)
		}
	}
}

// make makes a row for each value of the one at that index.
func (e *Each) make(p *catalogue.Product, i int, values []string, log *line.Log) {
	row := p.Rows[i]
	widen(row, e.columns)
	source := &catalogue.Row{Number: row.Number, Cells: slices.Clone(row.Cells)}
	for n := len(values) - 1; n > 0; n-- {
		further := made(row, e.columns)
		for col, cell := range source.Cells {
			if level := e.plan.Level(col); slices.Contains(e.same, col) || col != e.from && (level == products.OfVariant || level == products.AnyRow) {
				further.Set(col, cell)
			}
		}
		e.write(further, source, values[n], false, log)
		log.Insert(i, further, catalogue.Variant)
	}
	e.write(row, source, values[0], true, log)
}

// write puts a value and what is made of it into a row.
func (e *Each) write(row, source *catalogue.Row, value string, first bool, log *line.Log) {
	put := func(col int, text string) {
		switch {
		case row.Cell(col) == text && col < len(row.Cells):
		case first:
			log.Set(row, col, text, catalogue.RuleEach, catalogue.Ordered, "")
		default:
			row.Set(col, text)
		}
	}
	for i := range e.set {
		if level := e.plan.Level(e.set[i].col); first || level != products.OfProduct {
			put(e.set[i].col, e.text(source, value, &e.set[i]))
		}
	}
	put(e.into, value)
}
