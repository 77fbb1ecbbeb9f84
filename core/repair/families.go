package repair

import (
	"fmt"
	"slices"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/condition"
	"zetanum/core/products"
	"zetanum/core/reference"
	"zetanum/core/sheet"
	"zetanum/core/steps"
)

// families reads what the rulebook says of products in other sheets: which SKUs are to be
// one product, and which variants the shop has.
func (r *runner) families(temp string) error {
	rules := &r.opt.Book.Products
	if rules.TogetherFrom != "" || len(rules.Together) > 0 {
		r.kin = steps.NewKin()
	}
	if rules.TogetherFrom != "" {
		pairs, err := reference.ReadPairs(rules.TogetherFrom, sheet.Options{Spool: temp})
		if err != nil {
			return fmt.Errorf("[products] together_from: %w", err)
		}
		for _, p := range pairs {
			r.kin.Add(p.Key, p.Value)
		}
	}
	for n, list := range rules.Together {
		for _, sku := range list {
			r.kin.Add(sku, fmt.Sprint("\x00", n))
		}
	}
	if r.kin != nil {
		together, err := r.together()
		if err != nil {
			return r.named(err)
		}
		key := steps.NewKey(&r.table.Columns, together, nil)
		if err := r.table.EachAsIs(r.kin.Reset, func(row *catalogue.Row) { r.kin.Learn(key, row) }); err != nil {
			return err
		}
		if r.kin.Wrong != nil {
			return r.named(r.kin.Wrong)
		}
		for _, list := range rules.Together {
			for _, name := range list {
				if !r.kin.Met(name) {
					r.missed = append(r.missed, fmt.Sprintf("[products] together names %q, and no row has that SKU or slug", name))
				}
			}
		}
	}
	if rules.CompleteAs == "" {
		return nil
	}
	var err error
	if r.shop, err = r.shopOf(rules.CompleteAs, temp); err != nil {
		return fmt.Errorf("[products] complete_as: %w", err)
	}
	return nil
}

// shopOf reads which variants the products of a sheet have. What is one product there is
// seen as in the file itself.
func (r *runner) shopOf(path, temp string) (*products.Shop, error) {
	fields, hints := r.opt.Book.Fields()
	table, err := sheet.Open(path, sheet.Options{Spool: temp, Fields: fields, Hints: hints})
	if err != nil {
		return nil, err
	}
	defer table.Close()
	sku, parent := table.Columns.First(catalogue.SKU), table.Columns.First(catalogue.ParentSKU)
	if sku < 0 {
		return nil, &sheet.Error{File: table.Name, Err: sheet.ErrHeadings, More: "there is no column with SKUs", Do: "Name it under [headings]: \"Art. no.\" = \"sku\"."}
	}
	together := -1
	if name := r.opt.Book.Products.TogetherBy; name != "" {
		if cols, _ := r.opt.Book.Columns.Find(&table.Columns, name); len(cols) > 0 {
			together = cols[0]
		}
	}
	shop := products.NewShop(table.Name)
	key := steps.NewKey(&table.Columns, together, nil)
	member, product, alone := steps.Members(key), uint64(0), true
	err = table.EachProduct(func() { shop = products.NewShop(table.Name) }, func(row *catalogue.Row) {
		switch m := member(row); {
		case m.Key == 0 && !m.Alone:
			alone = false
		case m.Alone:
			product = uint64(row.Number) // no key is that small
		default:
			product = m.Key
		}
		shop.Add(row.Cell(sku), row.Cell(parent), row.Number, product)
	})
	if err == nil && alone && !key.Says() {
		return nil, &sheet.Error{File: table.Name, Err: sheet.ErrHeadings, More: "no column says which rows are one product", Do: "It needs the slug or the parent SKU of each variant, or the column that together_by names."}
	}
	return shop, err
}

// parents tells the plan which rows the rulebook declares to be parents, and returns the
// columns that say so.
func (r *runner) parents() (cols []int, err error) {
	declared := r.opt.Book.Products.Parents
	if declared == nil {
		return nil, nil
	}
	c, err := condition.Parse(declared, func(name string) int {
		col := columns.Find(&r.table.Columns, name)
		cols = append(cols, col)
		return col
	})
	if err != nil {
		return nil, fmt.Errorf("[products] parents: %w", err)
	}
	r.products.Parent = c.Holds
	return cols, nil
}

// settled returns an error if rules write into columns that say what is a parent: what
// they do depends on that.
func (r *runner) settled(cols []int, written map[int]bool) error {
	rules := &r.opt.Book.Products
	answered := slices.ContainsFunc(r.opt.Yes, func(a catalogue.Answer) bool { return a.Finding == catalogue.ProductDiffers })
	for _, col := range cols {
		same := slices.ContainsFunc(rules.SameAsLead, func(name string) bool {
			is, _ := r.opt.Book.Columns.Find(&r.table.Columns, name)
			return slices.Contains(is, col)
		})
		if same || written[col] || r.products.Level(col) == products.OfProduct && (rules.Differ != "" || rules.Misplaced != "" || len(rules.DifferIn)+len(rules.LeadOnly) > 0 || answered) {
			return fmt.Errorf("%w: [products] parents looks at %q, into which rules of the rulebook write; let a column say it that stays as it is", columns.ErrWrong, r.table.Columns.Headings[col])
		}
	}
	return nil
}
