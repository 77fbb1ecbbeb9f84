package repair

import (
	"fmt"

	"zetanum/core/catalogue"
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
		r.family = make(map[string]string)
	}
	if rules.TogetherFrom != "" {
		pairs, err := reference.ReadPairs(rules.TogetherFrom, sheet.Options{Spool: temp})
		if err != nil {
			return fmt.Errorf("[products] together_from: %w", err)
		}
		for _, p := range pairs {
			r.family[p.Key] = p.Value
		}
	}
	for n, list := range rules.Together {
		for _, sku := range list {
			r.family[sku] = fmt.Sprint("\x00", n)
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
	key := steps.NewKey(&table.Columns, together, r.family)
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
