package sections

import (
	"fmt"
	"slices"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/products"
	"zetanum/core/reference"
	"zetanum/core/rulebook"
	"zetanum/core/sheet"
	"zetanum/core/steps"
)

// productsSection says which rows are one product, and what is said where in it.
type productsSection struct {
	plain
	rules *products.Rules
	shop  *products.Shop // what products are to have; nil: nothing is said
}

func (*productsSection) Parts() []rulebook.Part {
	return []rulebook.Part{
		{
			Name: "products", Line: "[products]",
			Says: "Which rows are one product, and what belongs to the whole product, to each variant and to each image. A " +
				"product of several rows has a lead row, which carries what belongs to the whole product; each of its rows is " +
				"a variant, which is sold, or only carries another image.",
			Keys: []rulebook.Key{
				{
					Name: "together_by",
					Says: "The field or heading by which rows belong together: neighbouring rows with the same in it are one product. If " +
						"nothing is said, the slug; without one, the parent SKU; and rows with an empty title go with the row above, unless they " +
						"have an SKU, a price or a barcode of their own and no option.",
					Example: `together_by = "Group no."`,
				},
				{
					Name: "together_from",
					Says: "A sheet of two columns, SKUs or slugs and what they have in common: products that have the same there are " +
						"one, as if a column said so.",
					Example: `together_from = "families.csv"
regroup       = true`,
				},
				{
					Name: "together",
					Says: "Lists of SKUs or slugs: the products of each list are one.",
					Example: `together = [["LRA-0301", "LRA-0302"], ["LRA-0310", "LRA-0311", "LRA-0312"]]
regroup  = true`,
				},
				{
					Name: "complete_as",
					Says: "A sheet of what the shop has: products of the file are to have all variants that they have there. Those that " +
						"are left out are named, because importers may take them out of the shop. The word shop stands for the sheet " +
						"that [shop] names.",
					Example: `complete_as = "stock-in-shop.csv"`,
				},
				{
					Name: "regroup",
					Says: "Brings rows of a product that stand apart to the first of them, the lead row before the others. If nothing is " +
						"said, such products are held.",
					Example: "regroup = true",
				},
				{
					Name: "product_fields",
					Says: "Fields or headings that belong to the whole product and stand in its lead row, besides title, brand, " +
						"category, type, tags, descriptions and supplier.",
					Example: `product_fields = ["Season"]`,
				},
				{
					Name: "variant_fields",
					Says: "Fields or headings that belong to each variant, besides the SKU, codes, prices, stock, weight and measures, " +
						"colour, size and material.",
					Example: `variant_fields = ["Flavour", "type"]`,
				},
				{
					Name:    "image_fields",
					Says:    "Fields or headings that belong to each image, besides the image itself, its text and its order.",
					Example: `image_fields = ["Photographer"]`,
				},
				{
					Name: "told_apart_by",
					Says: "Fields or headings of the options by which variants are told apart: no two variants of a product may have the " +
						"same in all of them, and none may be empty. If nothing is said, pairs of columns such as Option 1 name and " +
						"Option 1 value; without such, colour, size and material are looked at, which only warns.",
					Example: `told_apart_by = ["colour", "Flavour"]`,
				},
				{
					Name: "differ",
					Says: "What becomes of rows that say something else of the whole product than its lead row: lead makes them say the " +
						"same. If nothing is said, they are named.",
					Example: `differ = "lead"`,
				},
				{
					Name: "differ_in",
					Says: "The same for single fields or headings: lead, longest for the longest of what the rows say, or all for lists " +
						"in one cell, of which everything is kept once.",
					Example: `differ_in = { description = "longest", tags = "all" }`,
				},
				{
					Name: "option_of_titles",
					Says: "The option that takes what differs in the titles of the rows, where separate products are made one; what they " +
						"share becomes the title of the product: of Round veil, S and Round veil, M the title Round veil, and S and M. " +
						"Titles that share nothing are held, unless differ says which of them counts.",
					Example: `together_by      = "Family"
regroup          = true
option_of_titles = "Size"
same_as_lead     = ["slug"]`,
				},
				{
					Name: "same_as_lead",
					Says: "Fields or headings in which all rows of a product get what its lead row has: the key, where separate products " +
						"are made one. What belongs to each variant, such as its SKU, is none.",
					Example: `same_as_lead = ["slug"]`,
				},
				{
					Name: "lead_only",
					Says: "Fields or headings of the whole product that stand in its lead row only: other rows that say the same are " +
						"emptied there. What says something else stays, and is named, unless differ settles it.",
					Example: `lead_only = ["tags", "description"]`,
				},
				{
					Name: "parents",
					Says: "A condition: rows that fulfil it are parents, which are not sold themselves. They need no price and no " +
						"barcode, and are held if they have no variants. If nothing is said, rows are parents that others name.",
					Example: `parents = { "Row kind" = "parent" }`,
				},
				{
					Name: "misplaced",
					Says: "What becomes of what belongs to the whole product and stands in another row than the lead row, which has " +
						"nothing there: move moves it up, if it is one thing. If nothing is said, it is named.",
					Example: `misplaced = "move"`,
				},
			},
		},
	}
}

func (s *productsSection) Tables() []rulebook.Table {
	return []rulebook.Table{{Name: "products", Into: s.rules}}
}

func (s *productsSection) Check() []rulebook.Problem {
	return rulebook.In("products", 0, s.rules.Check())
}

// ofShop is what complete_as says of the sheet that [shop] names.
const ofShop = "shop"

func (s *productsSection) Files() []*string {
	files := []*string{&s.rules.TogetherFrom}
	if s.rules.CompleteAs != ofShop {
		files = append(files, &s.rules.CompleteAs)
	}
	return files
}

// Open reads what is said of products in other sheets: which SKUs are to be one product,
// and which variants the shop has.
func (p *productsSection) Open(s *Sheet) error {
	if err := p.openKin(s); err != nil {
		return err
	}
	path := p.rules.CompleteAs
	if path == ofShop {
		if path = s.Book.Shop.Export; path == "" {
			return &ruleError{key: "complete_as", error: columns.Refuse("[products] complete_as: the shop is the sheet that export " +
				"under [shop] names, and there is none")}
		}
	}
	if path == "" {
		return nil
	}
	var err error
	if p.shop, err = s.readShop(path); err != nil {
		return fmt.Errorf("[products] complete_as: %w", err)
	}
	return nil
}

func (p *productsSection) openKin(s *Sheet) error {
	rules := p.rules
	if rules.TogetherFrom == "" && len(rules.Together) == 0 {
		return nil
	}
	s.Kin = products.NewKin()
	if rules.TogetherFrom != "" {
		pairs, err := reference.ReadPairs(rules.TogetherFrom, sheet.Options{Spool: s.Temp})
		if err != nil {
			return fmt.Errorf("[products] together_from: %w", err)
		}
		for _, pair := range pairs {
			s.Kin.Add(pair.Key, pair.Value)
		}
	}
	for n, list := range rules.Together {
		for _, sku := range list {
			s.Kin.Add(sku, fmt.Sprint("\x00", n))
		}
	}
	if err := s.findTogether(); err != nil {
		return err
	}
	key := products.NewKey(&s.Columns, s.Together, nil)
	if err := s.EachAsIs(s.Kin.Reset, func(row *catalogue.Row) { s.Kin.Learn(key, row) }); err != nil {
		return err
	}
	if s.Kin.Wrong != nil {
		return s.Kin.Wrong
	}
	for _, list := range rules.Together {
		for _, name := range list {
			if !s.Kin.Met(name) {
				s.Note("[products] together names %q, and no row has that SKU or slug", name)
			}
		}
	}
	return nil
}

// findTogether finds the column that the rulebook declares products to be together by.
func (s *Sheet) findTogether() (err error) {
	name := s.Book.Products.TogetherBy
	if name == "" {
		return nil
	}
	base := s.Columns
	base.Headings, base.Fields = base.Headings[:base.Own()], base.Fields[:base.Own()]
	if s.Together, err = s.Rules.NeedOne(&base, "[products] together_by", name); err != nil {
		return s.fits(&productsSection{}, &ruleError{key: "together_by", error: err})
	}
	return nil
}

// Adds returns the option that takes what differs in titles, unless the file has pairs of columns for the names
// and values of options, of which one takes it.
func (p *productsSection) Adds(s *Sheet) ([]string, error) {
	if p.rules.OptionOfTitles == "" || len(s.Find(p.rules.OptionOfTitles)) == 0 && len(products.OptionPairs(&s.Columns)) > 0 {
		return nil, nil
	}
	return []string{p.rules.OptionOfTitles}, nil
}

// Order says which rows are parents, and that what differs in titles is an option.
func (p *productsSection) Order(s *Sheet) error {
	if cols := s.Find(p.rules.OptionOfTitles); p.rules.OptionOfTitles != "" && len(cols) > 0 {
		s.Products.Declare(cols)
	}
	if p.rules.Parents == nil {
		return nil
	}
	where, reads, err := s.Where(p.rules.Parents)
	if err != nil {
		return &ruleError{key: "parents", error: fmt.Errorf("[products] parents: %w", err)}
	}
	s.Products.Parent, s.Products.ParentColumns = where.Holds, reads
	return nil
}

func (p *productsSection) Steps(s *Sheet) error {
	if err := p.settled(s); err != nil {
		return &ruleError{key: "parents", error: err}
	}
	settle, err := steps.OfOneProduct(&s.Sheet, p.rules)
	if err != nil {
		return err
	}
	for _, stage := range []Stage{StageProducts, StageProductsMade, StageProductsWritten} {
		s.Add(stage, settle)
	}
	s.Add(StageParents, steps.Parents(&s.Sheet))
	s.Add(StageCopied, steps.Copied(&s.Sheet))
	s.Add(StageTogether, steps.Together(&s.Sheet, s.differ))
	s.Add(StageComplete, steps.Complete(&s.Sheet, p.shop))
	return nil
}

// settled returns an error if rules write into columns that say what is a parent: what
// they do depends on that.
func (p *productsSection) settled(s *Sheet) error {
	rules := p.rules
	settles := rules.Differ != "" || rules.Misplaced != "" ||
		len(rules.DifferIn)+len(rules.LeadOnly)+len(s.Decisions.On(catalogue.ProductDiffers)) > 0
	for _, col := range s.Products.ParentColumns {
		same := slices.ContainsFunc(rules.SameAsLead, func(name string) bool { return slices.Contains(s.Find(name), col) })
		if same || s.Written.Has(col) || s.Products.Level(col) == products.OfProduct && settles {
			return columns.Refuse("[products] parents looks at %q, into which rules of the rulebook write; let a column say it that "+
				"stays as it is", s.Columns.Headings[col])
		}
	}
	return nil
}

// readShop reads which variants the products of a sheet have. What is one product there is
// seen as in the file itself.
func (s *Sheet) readShop(path string) (*products.Shop, error) {
	fields, hints := s.Book.Fields()
	table, err := sheet.Open(path, sheet.Options{Spool: s.Temp, Fields: fields, Hints: hints})
	if err != nil {
		return nil, err
	}
	defer table.Close()
	sku, parent := table.Columns.First(catalogue.SKU), table.Columns.First(catalogue.ParentSKU)
	if sku < 0 {
		return nil, &sheet.Error{File: table.Name, Err: sheet.ErrNoColumn, More: "one with SKUs",
			Do: "Name it under [headings]: \"Art. no.\" = \"sku\"."}
	}
	together := -1
	if name := s.Book.Products.TogetherBy; name != "" {
		if cols, _ := s.Rules.Find(&table.Columns, name); len(cols) > 0 {
			together = cols[0]
		}
	}
	shop := products.NewShop(table.Name)
	key := products.NewKey(&table.Columns, together, nil)
	member, product, alone := key.Members(), uint64(0), true
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
	if table.Until > 0 {
		s.Note("%s is read up to row %d, where another table begins", table.Name, table.Until)
	}
	if err == nil && alone && !key.Says() {
		return nil, &sheet.Error{File: table.Name, Err: sheet.ErrNoColumn, More: "one that says which rows are one product",
			Do: "It needs the slug or the parent SKU of each variant, or the column that together_by names."}
	}
	return shop, err
}

// settlings are what [products] can say about a finding.
var settlings = []struct {
	code  catalogue.Code
	order string
}{
	{catalogue.ProductScattered, "regroup = true                # brings them together"},
	{catalogue.ProductDiffers, `differ = "lead"               # what the lead row says counts`},
	{catalogue.ProductMisplaced, `misplaced = "move"            # to the lead row`},
	{catalogue.OptionPerhapsAlike, `told_apart_by = ["colour", "size"]   # what variants differ in`},
	{catalogue.ProductPerhapsNoVariants, `parents = { "Row kind" = "parent" }   # which rows are parents`},
}

// Begin says what could be settled about products of several rows.
func (*productsSection) Begin(s *Seen, b *Draft) {
	if s.File == "" {
		return
	}
	head := s.KeyLike != ""
	if head {
		b.line("\n[products]\n# It seems to say which rows are one product:\n# together_by = %s", quoted(s.KeyLike))
	}
	for _, o := range settlings {
		cells := 0
		for _, f := range s.Found {
			if f.Code == o.code {
				cells += f.Cells
			}
		}
		if cells == 0 {
			continue
		}
		if !head {
			head = true
			b.line("\n[products]")
		}
		b.line("# %s: %s", plural(cells, "row"), o.code.Entry().Title)
		b.line("# %s", o.order)
	}
}

// Ask asks which rows are one product, and what becomes of rows that do not agree.
func (*productsSection) Ask(s *Seen) (list []Question) {
	if s.KeyLike != "" {
		list = append(list, yesNo("products.together_by", s.Rows, fmt.Sprintf("%s seems to say which rows are one product.", shown(s.KeyLike)), "Are rows with the same value there one product?",
			set("products", "together_by", quoted(s.KeyLike))))
	}
	for _, f := range s.Found {
		switch f.Code {
		case catalogue.ProductScattered:
			list = append(list, yesNo(f.name(), f.Cells, fmt.Sprintf("%s apart from the other rows of their product.", verb(f.Cells, "row", "stands", "stand")), "Bring them together?",
				set("products", "regroup", "true")).on(f.Code, f.Column))
		case catalogue.ProductMisplaced:
			list = append(list, yesNo(f.name(), f.Cells, fmt.Sprintf("%s below the lead row of the product, where importers do not read it.", verb(f.Cells, "value", "stands", "stand")), "Move it into the lead row?",
				set("products", "misplaced", `"move"`)).on(f.Code, f.Column))
		}
	}
	return list
}
