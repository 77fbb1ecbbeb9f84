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
)

// each makes several rows of one, as a rule says.
type each struct {
	*Sheet
	rows     products.Spreading
	where    *condition.Condition
	roles    catalogue.Role // of the rows that are meant; 0: all
	number   int            // in the tally
	sku      int
	parent   int // the column that names the row as it was entered, -1 if it becomes the first of its values
	barcodes []int
}

// Each is the step that makes several rows of one, as a rule says, if it can become several:
// no value is there twice, no barcode would be that of several, and no SKU is taken. ok is
// false if its columns are dropped.
func Each(s *Sheet, rule *products.EachRule) (step line.Step, ok bool, err error) {
	c := &s.Columns
	e := &each{Sheet: s, sku: c.First(catalogue.SKU), parent: -1, barcodes: c.All(catalogue.Barcode), roles: rule.Rows.Roles()}
	e.rows.Layout, e.rows.Repeat = s.Products, rule.Repeat
	if rule.Repeat && !rule.Parent {
		s.Products.Begins = func(row *catalogue.Row) bool { return s.Key.Of(row) == "" && s.Key.Titled(row) }
	}
	if rule.Parent {
		if e.parent, err = s.NeedOne("[[one_row_each]] parent", catalogue.ParentSKU.String()); err != nil || e.parent < 0 {
			return step, false, err
		}
	}
	e.rows.Clean = func(cell string, col int) string { return s.Texts.Clean(cell, c.Kind(col)) }
	if e.rows.From, err = s.NeedOne("[[one_row_each]] from", rule.From); err != nil {
		return step, false, err
	}
	if e.rows.Into, err = s.NeedOne("[[one_row_each]] into", rule.Into); err != nil || e.rows.From < 0 || e.rows.Into < 0 {
		return step, false, err
	}
	if err := Unreserved(c, e.rows.Into, Reserved, "[[one_row_each]] into", rule.Into); err != nil {
		return step, false, err
	}
	if c.First(catalogue.Title) < 0 && s.Together < 0 && c.First(catalogue.Slug) < 0 && !rule.Parent {
		return step, false, columns.Refuse("[[one_row_each]]: without a title and a slug nothing would say to which product the rows " +
			"belong; name a column with together_by under [products]")
	}
	reads := catalogue.ColumnsOf(e.rows.From, e.rows.Into)
	if err := e.patterns(rule, &reads); err != nil {
		return step, false, err
	}
	where, looked, err := s.Where(rule.Where)
	if err != nil {
		return step, false, err
	}
	e.where = where
	sources := reads
	reads.Add(looked...)
	for _, col := range []int{s.Together, c.First(catalogue.Slug), c.First(catalogue.ParentSKU)} {
		if col >= 0 {
			e.rows.Same = append(e.rows.Same, col)
		}
	}
	e.number = s.Tally.Add(rule.String(), Changed, rule.Count)
	step = e.step(reads)
	step.Sources = sources
	return step, true, nil
}

// patterns reads what is set in each row, and adds the columns on which that depends.
func (e *each) patterns(rule *products.EachRule, reads *catalogue.ColumnSet) error {
	c := &e.Columns
	for _, name := range slices.Sorted(maps.Keys(rule.Set)) {
		col, err := e.NeedOne("[[one_row_each]] set", name)
		if err == nil {
			err = Unreserved(c, col, catalogue.FieldsOf(catalogue.Barcode), "[[one_row_each]] set", name)
		}
		if err != nil {
			return err
		}
		if col < 0 {
			continue
		}
		p, err := pattern.Parse(rule.Set[name])
		if err != nil {
			return err
		}
		cols, missing := p.Bind(func(name string) int {
			if cols := e.Find(name); len(cols) > 0 {
				return cols[0]
			}
			return -1
		}, func(col int) bool { return false })
		if len(missing) > 0 {
			return fmt.Errorf("%w: [[one_row_each]] set names {%s}, which is not there; the headings are: %s", columns.ErrWrong, missing[0],
				strings.Join(c.Headings, ", "))
		}
		reads.Add(cols...)
		e.rows.Set = append(e.rows.Set, products.SetCell{Col: col, Pattern: p})
	}
	return nil
}

// values returns the values of which each gets a row, nil if the row at that index stays one.
func (e *each) values(p *catalogue.Product, i int) []string {
	row := p.Rows[i]
	switch {
	case e.where != nil && !e.where.Holds(row):
		return nil
	case e.Products.Parent != nil && e.Products.Parent(row):
		return nil // it is not sold in any size
	case e.parent >= 0 && (row.Cell(e.parent) != "" || e.Products.HasChildren(p, i)):
		return nil // it is a child already, or has its children
	}
	return e.rows.Values(row)
}

// step declares the step; reads are the columns on which its rows depend.
func (e *each) step(reads catalogue.ColumnSet) line.Step {
	step := line.Step{
		Name:   NameEach,
		Writes: catalogue.ColumnsOf(e.rows.Into), Learns: reads, Before: writing,
		Rules: []catalogue.Rule{catalogue.RuleEach},
		New:   func(line.Aggregate) (line.Repairer, error) { return e, nil },
		Keys: func(p *catalogue.Product, add func(int, uint64)) {
			for i, row := range p.Rows {
				for _, sku := range e.rows.Texts(row, e.values(p, i), e.sku) {
					add(i, xxhash.Sum64String(sku))
				}
			}
		},
	}
	for i := range e.rows.Set {
		step.Writes.Add(e.rows.Set[i].Col)
	}
	step.Reads.AddAll(reads)
	step.Reads.AddAll(step.Writes)
	step.Reads.Add(e.sku)
	step.Reads.Add(e.rows.Same...)
	step.Reads.Add(e.Products.Columns(products.OfVariant)...) // they are copied
	step.Reads.Add(e.Products.Columns(products.AnyRow)...)
	step.Reads.Add(e.barcodes...)
	if e.parent >= 0 {
		step.Writes.Add(e.parent)
		step.Learns.Add(e.parent, e.sku)
	}
	if e.rows.Repeat {
		step.Reads.Add(e.Products.Columns(products.OfProduct)...)
	}
	step.Reads.AddAll(e.Key.Columns())
	step.Reads.Add(e.Products.ParentColumns...)
	step.Learns.Add(e.Products.ParentColumns...)
	return step
}

func (e *each) Repair(p *catalogue.Product, log *line.Log) {
	for i := len(p.Rows) - 1; i >= 0; i-- {
		row := p.Rows[i]
		values := e.values(p, i)
		if len(values) == 0 || log.IsAside(i) || e.roles != 0 && p.Role(i)&e.roles == 0 {
			continue
		}
		wrong := len(log.Findings)
		for _, value := range products.Twice(values) {
			log.Notice(catalogue.EachTwice, row, e.rows.From, row.Cell(e.rows.From), catalogue.Facts{Other: value})
		}
		for _, col := range e.barcodes {
			if row.Cell(col) != "" && (len(values) > 1 || e.parent >= 0) {
				log.Notice(catalogue.EachBarcode, row, col, row.Cell(col), catalogue.Facts{Digits: len(values)})
			}
		}
		if e.Kin.Names(row.Cell(e.sku)) && slices.ContainsFunc(e.rows.Set, func(s products.SetCell) bool { return s.Col == e.sku }) {
			log.Notice(catalogue.EachTogether, row, e.sku, row.Cell(e.sku), catalogue.Facts{})
		}
		if lacks := e.lacks(p.Rows[0], row); lacks != "" {
			log.Notice(catalogue.EachNameless, row, e.rows.From, row.Cell(e.rows.From), catalogue.Facts{Other: lacks})
		}
		seen := make(map[string]bool)
		if e.parent >= 0 {
			seen[row.Cell(e.sku)] = true
		}
		for _, sku := range e.rows.Texts(row, values, e.sku) {
			if sku == "" || seen[sku] {
				log.Notice(catalogue.EachSKU, row, e.sku, row.Cell(e.sku), catalogue.Facts{Other: sku})
				continue
			}
			seen[sku] = true
			log.Claim(ClaimSKU, xxhash.Sum64String(sku), i, e.sku)
		}
		if len(log.Findings) == wrong {
			log.Touch(e.number, i)
			e.make(p, i, values, log)
		}
	}
}

// lacks says what is not there that would keep the rows together which are made of one, "" if it is.
func (e *each) lacks(first, row *catalogue.Row) string {
	switch said := e.Key.Of(first) != ""; {
	case e.parent >= 0 && row.Cell(e.sku) == "":
		return "no SKU that they could name as that of their parent"
	case e.parent >= 0 && e.rows.Repeat && e.Together >= 0 && !said:
		return "nothing under " + e.Columns.Headings[e.Together]
	case e.parent < 0 && !e.rows.Repeat && !said && !e.Key.Titled(first):
		return "neither a title nor a slug"
	}
	return ""
}

// make makes a row for each value of the one at that index.
func (e *each) make(p *catalogue.Product, i int, values []string, log *line.Log) {
	row, below := p.Rows[i], 1
	widen(row, &e.Columns)
	source := &catalogue.Row{Number: row.Number, Cells: slices.Clone(row.Cells)}
	if e.parent >= 0 {
		below = 0
		if p.Roles != nil {
			p.Roles[i] &^= catalogue.Variant
		}
	}
	for n := len(values) - 1; n >= below; n-- {
		further := made(row, &e.Columns)
		for col, cell := range source.Cells {
			if e.rows.Copied(col) {
				further.Set(col, cell)
			}
		}
		e.write(further, source, values[n], false, log)
		if e.parent >= 0 {
			further.Set(e.parent, source.Cell(e.sku))
		}
		role := catalogue.Variant
		if e.Products.Begins != nil && e.Products.Begins(further) {
			role |= catalogue.Lead
		}
		log.Insert(i, further, role, catalogue.RuleEach)
	}
	if e.parent < 0 {
		e.write(row, source, values[0], true, log)
	}
}

// write puts a value and what is made of it into a row.
func (e *each) write(row, source *catalogue.Row, value string, first bool, log *line.Log) {
	put := func(col int, text string) {
		switch {
		case row.Cell(col) == text && col < len(row.Cells):
		case first:
			log.Set(row, col, text, catalogue.RuleEach, catalogue.Ordered, "")
		default:
			row.Set(col, text)
		}
	}
	for i := range e.rows.Set {
		if set := &e.rows.Set[i]; e.rows.Written(set, first) {
			put(set.Col, e.rows.Text(source, value, set))
		}
	}
	put(e.rows.Into, value)
}
