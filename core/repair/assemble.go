package repair

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/folder"
	"zetanum/core/line"
	"zetanum/core/products"
	"zetanum/core/reference"
	"zetanum/core/steps"
	"zetanum/core/target"
)

// assemble makes the course for the columns that the table has; to look only,
// with a step that counts what is filled.
func (r *runner) assemble(only bool) (*line.Course, error) {
	table := r.table
	together, err := r.together()
	if err != nil {
		return nil, err
	}
	key := steps.NewKey(&table.Columns, together, r.kin)
	c := &line.Course{Grouping: steps.Grouping(key), Prepare: steps.Rejoin(table)}
	c.Leans = key.Leans
	c.Ignore = steps.NoProduct(table, only)
	base := &table.Columns
	base.Headings, base.Fields, base.Added, base.Declared = base.Headings[:base.Own()], base.Fields[:base.Own()], 0, nil
	r.tally = new(steps.Tally)
	for col, h := range base.Headings {
		if d, ok := r.opt.Book.Declared(h); ok {
			base.Declare(col, d)
		}
	}
	r.dropHidden()
	notes := r.result.Notes
	if r.options, err = r.packed(); err != nil {
		return nil, err
	}
	said := r.result.Notes[len(notes):]
	plan, err := r.opt.Book.Columns.For(base, r.targets(), r.opt.Book.Declared)
	if err != nil {
		return nil, err
	}
	r.plan, r.result.Notes = plan, slices.Concat(plan.Notes, said, r.missed)
	if table.Mark != "" && table.Heading > 0 {
		r.result.Notes = append(r.result.Notes, "the file begins with what is left of a byte order mark, read as text; it does not go out")
	}
	codes, err := r.codes()
	if err != nil {
		return nil, err
	}
	c.Lists, c.Claims, c.Repeats = lostLists(base), steps.Claims(), repeats(&r.opt.Book.Sheet)
	r.texts = &steps.Texts{Rules: r.opt.Book.Text, Foreign: table.Form.Foreign, Fitter: target.NewFitter(&r.opt.Book.Target), Backed: r.backed}
	skus := steps.SKUs(table, r.texts, codes)
	var barcodes []line.Step
	for _, col := range base.All(catalogue.Barcode) {
		barcodes = append(barcodes, steps.Barcodes(table, col, codes))
	}
	text := steps.Text(table, r.texts, r.opt.Yes)
	if only {
		text.Learn = nil // nothing is mended
	}
	r.add(&plan.Added)
	for col := base.Own(); col < len(base.Headings); col++ {
		if base.Fields[col] == catalogue.Barcode && r.borrowed(base.Headings[col]) {
			barcodes = append(barcodes, steps.Barcodes(table, col, codes))
		}
	}
	if r.products, err = r.opt.Book.Products.For(base, &r.opt.Book.Columns); err != nil {
		return nil, err
	}
	ofParents, err := r.parents()
	if err != nil {
		return nil, err
	}
	for _, p := range r.options {
		if p.From >= 0 {
			r.products.Put(products.OfVariant, []int{p.From}) // what has options is a variant
		}
		for _, name := range p.Names {
			cols, _ := r.opt.Book.Columns.Find(base, name)
			r.products.Declare(cols)
		}
	}
	for _, name := range r.opt.Book.Images.Columns {
		cols, _ := r.opt.Book.Columns.Find(base, name)
		r.products.Put(products.OfImage, cols)
	}
	made := []string{r.opt.Book.Products.OptionOfTitles} // options that rules make
	for i := range r.opt.Book.Each {
		made = append(made, r.opt.Book.Each[i].Into)
	}
	for _, name := range made {
		if name != "" {
			cols, _ := r.opt.Book.Columns.Find(base, name)
			r.products.Declare(cols)
		}
	}
	if r.order, err = r.orders(c); err != nil {
		return nil, err
	}
	options, orders, err := r.order.Steps()
	if err != nil {
		return nil, err
	}
	written := r.order.Written()
	for col, f := range base.Fields {
		if f == catalogue.Barcode || f == catalogue.SKU && codes.Source != nil {
			written[col] = true
		}
	}
	if err := r.settled(ofParents, written); err != nil {
		return nil, err
	}
	out, err := r.outColumns()
	if err != nil {
		return nil, err
	}
	limits, err := steps.Limits(table, r.texts, &r.opt.Book.Columns, r.products, r.fields, written, &c.Claims)
	if err != nil {
		return nil, err
	}
	whole := steps.Together(table, r.products, key, listDiffer, &c.Claims)
	rows, err := steps.Rows(table, r.texts, r.opt.Book.Rows, r.tally, written, &c.Claims)
	if err != nil {
		return nil, err
	}
	copied, ofCopied := steps.Copied(table, r.products, key)
	complete := steps.Complete(table, r.shop)
	parents, ofChildren := steps.Parents(table, r.products)
	if only {
		copied.Learn, parents.Learn, complete.Learn = nil, nil, nil // nothing is said of them
	}
	watched := func(col int) bool { return ofCopied != nil && ofCopied(col) || ofChildren != nil && ofChildren(col) }
	settle, err := steps.OfOneProduct(table, r.products, &r.opt.Book.Columns, r.texts, &r.opt.Book.Products, r.opt.Yes)
	if err != nil {
		return nil, err
	}
	var each []line.Step
	for i := range r.opt.Book.Each {
		e, err := steps.NewEach(table, r.texts, r.products, &r.opt.Book.Columns, &r.opt.Book.Each[i], together)
		if err != nil {
			return nil, err
		}
		if e != nil {
			e.Kin, e.Key = r.kin, key
			each = append(each, e.Step())
		}
	}
	var all []line.Step // of one row, with values that rules may have written
	for i := range r.opt.Book.ForAll {
		step, ok, err := steps.ForAll(table, r.texts, r.products, &r.opt.Book.Columns, &r.opt.Book.ForAll[i])
		if err != nil {
			return nil, err
		}
		if ok {
			all = append(all, step)
		}
	}
	places, again, numbers, err := steps.Images(table, r.products, &r.opt.Book.Columns, &r.opt.Book.Images, together)
	if err != nil {
		return nil, err
	}
	r.result.Lists = c.Lists
	c.Steps = slices.Concat([]line.Step{steps.Shape(table, r.products, out, r.opt.Book.Sheet.HiddenRows == "set-aside"), text, r.order.Early(), skus}, barcodes, []line.Step{settle, options}, each, places, []line.Step{settle, orders, settle}, again, all, []line.Step{limits, parents, copied, whole}, numbers, []line.Step{rows, complete})
	r.course = c
	if only {
		c.Steps = append(c.Steps, fillStep(&table.Columns, r.products, steps.Compares(table)))
		return c, c.Check()
	}
	c.Whole = steps.NeedsAll(&table.Columns)
	for col, f := range table.Columns.Fields[:table.Columns.Own()] {
		if f == catalogue.Barcode || col == together || steps.Grouped.Has(f) || written[col] || watched(col) || (steps.Spelt(f) || r.products.IsOption(col)) && steps.Compares(table) || r.needed(col) {
			c.Prefix = max(c.Prefix, col+2) // and the cell behind it, for a number torn in two
		}
	}
	if len(r.trusted) > 0 {
		c.Prefix = max(c.Prefix, reference.NewWords(&table.Columns).Last()+2)
	}
	return c, c.Check()
}

// together returns the column that the rulebook declares products to be together by, -1 if
// it declares none.
func (r *runner) together() (col int, err error) {
	name := r.opt.Book.Products.TogetherBy
	if name == "" {
		return -1, nil
	}
	base := r.table.Columns
	base.Headings, base.Fields = base.Headings[:base.Own()], base.Fields[:base.Own()]
	return r.opt.Book.Columns.NeedOne(&base, "[products] together_by", name)
}

// dropHidden orders that columns which the workbook does not show are dropped, if the
// rulebook wants that.
func (r *runner) dropHidden() {
	rules, all := &r.opt.Book.Columns, &r.table.Columns
	for _, h := range r.table.Hidden {
		if r.opt.Book.Sheet.HiddenColumns == "drop" && h != all.Headings[max(0, all.First(catalogue.SKU))] && !slices.Contains(rules.Drop, h) {
			rules.Drop = append(slices.Clone(rules.Drop), h)
		}
	}
}

// add sets the added columns behind those of the sheet.
func (r *runner) add(added *catalogue.Columns) {
	base := &r.table.Columns
	base.Headings, base.Fields = append(base.Headings, added.Headings...), append(base.Fields, added.Fields...)
	base.Added = len(added.Headings)
	for i, d := range added.Declared {
		if d.Name != "" {
			base.Declare(base.Own()+i, d)
		}
	}
}

// borrowed reports whether an added column is one that is borrowed.
func (r *runner) borrowed(heading string) bool {
	return slices.ContainsFunc(r.loans, func(l *steps.Loan) bool {
		return slices.ContainsFunc(l.Taken, func(t reference.TakenColumn) bool { return t.Name == heading || t.Heading == heading })
	})
}

// codes says how the codes are judged.
func (r *runner) codes() (*steps.Codes, error) {
	c := &steps.Codes{Rules: r.opt.Book.Barcode, Lost: listLost, Missing: listMissing}
	if len(r.trusted) > 0 {
		c.Source = r.trusted
	}
	c.Yes = r.opt.Yes
	named := slices.Sorted(maps.Keys(r.opt.Book.Barcode.Fill))
	if second := r.opt.Book.Barcode.Second; second != "" {
		named = append(named, second)
	}
	for _, a := range r.opt.Yes {
		if a.Column != "" {
			named = append(named, a.Column)
		}
	}
	for _, name := range named {
		if !slices.ContainsFunc(r.table.Columns.Headings, func(h string) bool { return columns.Same(h, name) }) {
			return nil, fmt.Errorf("the column %q: %w; the headings are: %s", name, ErrOnly, strings.Join(r.table.Columns.Headings, ", "))
		}
	}
	return c, nil
}

// The lists of a course.
const (
	listLost = iota
	listMissing
	listUnknown
	listDiffer
)

// LostName is the list of the codes that somebody has to be asked for, UnknownName
// that of the values that the lists of the rulebook do not have, DifferName that of what
// rows of a product say differently of it.
// MissingName is that of the products without a barcode; what makes files for
// people turns it into the workbook ScanName, so that codes can be scanned into
// it.
const (
	LostName    = "lost-barcodes.csv"
	UnknownName = "unknown-values.csv"
	DifferName  = "disagreeing.csv"
	MissingName = folder.Temporary + "no-barcode.csv"
	ScanName    = "scan-list.xlsx"
)

func lostLists(in *catalogue.Columns) []line.List {
	var known []string
	for _, col := range steps.KnownBy(in) {
		known = append(known, in.Headings[col])
	}
	return []line.List{
		listLost:    {Name: LostName, Headings: slices.Concat(known, []string{"Barcode", "What is known"})},
		listMissing: {Name: MissingName, Headings: slices.Concat(known, []string{"Barcode"})},
		listDiffer:  {Name: DifferName, Headings: slices.Concat([]string{"Row", "Column", "Here", "Lead row", "There"}, known)},
		listUnknown: {Name: UnknownName, Headings: slices.Concat([]string{"Row", "Column", "Value", "What is open"}, known)},
	}
}
