package sections

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/line"
	"zetanum/core/lists"
	"zetanum/core/mint"
	"zetanum/core/pattern"
	"zetanum/core/products"
	"zetanum/core/reference"
	"zetanum/core/rulebook"
	"zetanum/core/sheet"
	"zetanum/core/steps"
	"zetanum/core/text"
)

// RenewedName is the list of codes that were replaced, and the new ones.
const RenewedName = "old-to-new.csv"

// SupplierCodesName is the list of codes that were made in place of those of suppliers, with these.
const SupplierCodesName = "supplier-codes.csv"

// ErrReplaceCodes says that codes would be replaced, and that this was said only once.
var ErrReplaceCodes = errors.New("it replaces codes that are in use")

// mintSection makes codes that nobody has.
type mintSection struct {
	plain
	rules *[]mint.Rule
	avoid [][][]string // codes of sheets, by rule and sheet
}

func (*mintSection) Parts() []rulebook.Part {
	return []rulebook.Part{{
		Name: "mint", Line: "[[mint]]",
		Says: "Codes that nobody has, where there are none: SKUs, parent SKUs, links, barcodes. A code is none that the file has, held " +
			"rows and rows that are set aside included, nor one that reads like it (small letters, O for 0, l for 1). The same product gets " +
			"the same code whatever the order of the rows. More under [codes](codes.md).",
		Shared: rulebook.Scope,
		Keys: []rulebook.Key{
			{
				Name: "into",
				Says: "The field or heading for the codes, where it is empty; it is added if it is not there.",
				Example: `into = "sku"
from = "{brand upper first 2}{category letters upper first 4}-{counter 4}"`,
			},
			{
				Name: "from",
				Says: "The pattern, as under [[build]], with what codes need besides: {counter 4}, a number for each text that stands before it; " +
					"{random digits 5} and {random letters 3}, which look drawn, without vowels, 0, 1, O, I and L; {check 37-2} for letters and " +
					"digits, {check 11-10}, {check luhn} and {check gtin} for digits: a check character over all that stands before it. " +
					"[-{counter}] is there only where the code is there already without it.",
				Example: `into = "slug"
from = "{title slug}[-{counter}]"`,
			},
			{
				Name: "same",
				Says: "The pattern where the first makes a code that is there already.",
				Example: `into = "sku"
from = "{parent_sku}-{colour letters upper first 3}-{size}"
same = "{parent_sku}-{colour letters upper}-{size}"`,
			},
			{
				Name: "by",
				Says: "The columns that tell products apart; the title and the options, if nothing is said, and for other codes than SKUs the " +
					"SKU, if the file has it. Two products that are the same in them get no code, and are held.",
				Example: `into = "sku"
from = "{brand upper first 2}-{counter 5}"
by   = ["supplier", "mpn"]`,
			},
			{
				Name: "series",
				Says: "Gives rows that were copied with their code the next one: what is fixed in it and the width of the number are read off the " +
					"code, which the first row keeps. A row counts as copied if something tells it from all others with the code, see by; " +
					"rows without a code are for another [[mint]].",
				Example: `into   = "sku"
series = true`,
			},
			{
				Name: "in_step",
				Says: "With series: other columns in which the number is counted up by as much, where a row still has what was copied.",
				Example: `into    = "sku"
series  = true
in_step = ["mpn"]`,
			},
			{
				Name: "instead_of",
				Says: "The column with the supplier's code, in place of which the codes are made, so that nobody sees where goods come from. " +
					"Products are told apart by it and by the supplier, and it does not go out. Which code is which the register remembers; " +
					"without one it stands in supplier-codes.csv, which is not for the importer.",
				Example: `into = "sku"
from = "LR-{counter 5}"
instead_of = "mpn"`,
			},
			{
				Name: "over",
				Says: "Replaces the codes that are there, which breaks orders and links that have them; the setting ‹replace-codes› has to say so, " +
					"too. old-to-new.csv says which code has become which.",
				Example: `into = "sku"
from = "{category letters upper first 3}-{counter 4}"
over = true`,
			},
			{
				Name: "avoid",
				Says: "Sheets whose codes in the same column are not issued again; shop is the export that [shop] names.",
				Example: `into  = "sku"
from  = "{brand upper first 2}-{counter 4}"
avoid = ["shop-export.csv"]`,
			},
			{
				Name: "company_prefix",
				Says: "The GS1 company prefix that is yours: barcodes are made of it, in place of a pattern, from the item on that follows the " +
					"last one which the file or the sheets under avoid have.",
				Example: `into = "barcode"
company_prefix = "9521357"`,
			},
			{
				Name: "shop_prefix",
				Says: "Digits that begin with 20 to 29: barcodes for use inside the shop, which nobody else can read as its.",
				Example: `into = "barcode"
shop_prefix = "2012"
first_item  = 1`,
			},
			{
				Name: "as",
				Says: `The kind of barcodes: "ean-13", as when nothing is said, "upc-a", "gtin-14" or "ean-8".`,
				Example: `into = "barcode"
company_prefix = "9521357"
as = "gtin-14"
indicator = 1`,
			},
			{
				Name: "indicator",
				Says: "The first digit of a GTIN-14, 1 to 8: which pack of the item it is of.",
				Example: `into = "Carton code"
company_prefix = "9521357"
as = "gtin-14"
indicator = 1`,
			},
			{
				Name: "first_item",
				Says: "The number of the first item of the prefix that is free, where the file does not show it.",
				Example: `into = "barcode"
company_prefix = "9521357"
first_item = 400`,
			},
		},
	}}
}

func (s *mintSection) Tables() []rulebook.Table {
	return []rulebook.Table{{Name: "mint", Into: s.rules}}
}

func (s *mintSection) Check() (problems []rulebook.Problem) {
	for i := range *s.rules {
		problems = append(problems, rulebook.In("mint", i+1, (*s.rules)[i].Check())...)
	}
	return problems
}

// Adds returns the columns that are filled, and leaves those out in place of which codes are made.
func (m *mintSection) Adds(s *Sheet) (names []string, err error) {
	for i := range *m.rules {
		rule := &(*m.rules)[i]
		names = append(names, rule.Into)
		into := columns.Find(&s.Columns, rule.Into)
		col := columns.Find(&s.Columns, rule.InsteadOf)
		if rule.InsteadOf == "" || into >= 0 && col == into {
			continue
		}
		if s.Rules.Key = slices.DeleteFunc(slices.Clone(s.Rules.Key), func(key int) bool { return key == col }); !slices.Contains(s.Rules.Drop, rule.InsteadOf) {
			s.Rules.Drop = append(slices.Clone(s.Rules.Drop), rule.InsteadOf)
		}
	}
	return names, nil
}

func (s *mintSection) Files() (names []*string) {
	for i := range *s.rules {
		for k := range (*s.rules)[i].Avoid {
			if name := &(*s.rules)[i].Avoid[k]; *name != shopWord {
				names = append(names, name)
			}
		}
	}
	return names
}

// OneWay returns the rules that would replace their own codes.
func (s *mintSection) OneWay() (list []rulebook.Problem) {
	for i := range *s.rules {
		if rule := &(*s.rules)[i]; rule.Over {
			list = append(list, rulebook.In("mint", i+1, []catalogue.Problem{{Key: "over", Text: rule.String() + ", over those that are there"}})...)
		}
	}
	return list
}

// Open reads the sheets whose codes are avoided.
func (m *mintSection) Open(s *Sheet) error {
	m.avoid = make([][][]string, len(*m.rules))
	for i := range *m.rules {
		rule := &(*m.rules)[i]
		if rule.Over && !s.ReplaceCodes {
			return nth(i, columns.Refuse("[[mint]] into %q: %w, with over = true; orders and links that have them break. If that is meant, say it "+
				"once more with the setting ‹replace-codes›", rule.Into, ErrReplaceCodes))
		}
		for _, name := range rule.Avoid {
			path := name
			if name == shopWord {
				if path = s.Book.Shop.Export; path == "" {
					return nth(i, columns.Refuse("[[mint]] avoid names shop, and [shop] names no export"))
				}
			}
			codes, err := reference.ReadValues(path, rule.Into, sheet.Options{Spool: s.Temp})
			if err != nil && !errors.Is(err, lists.ErrList) { // one without codes has nothing to avoid
				return &ruleError{n: i + 1, key: "avoid", error: fmt.Errorf("[[mint]] avoid: %w", err)}
			}
			m.avoid[i] = append(m.avoid[i], codes)
		}
	}
	return nil
}

// Avoided returns the codes of sheets in a column, as taken from a pattern.
func Avoided(files []string, column string, p *pattern.Pattern) (*mint.Taken, error) {
	field, _ := catalogue.ParseField(column)
	taken := mint.NewTaken(mint.ShapeOf(p, mint.FoldingOf(field)))
	for _, file := range files {
		codes, err := reference.ReadValues(file, column, sheet.Options{})
		if err != nil && !errors.Is(err, lists.ErrList) {
			return nil, err
		}
		for _, code := range codes {
			taken.Add(code)
		}
	}
	return taken, nil
}

// shopWord stands for the export of the shop.
const shopWord = "shop"

func (m *mintSection) Order(s *Sheet) error {
	for i := range *m.rules {
		if err := m.order(s, i); err != nil {
			return nth(i, err)
		}
	}
	m.sayWhere(s)
	return nil
}

func (m *mintSection) order(s *Sheet, i int) error {
	rule := &(*m.rules)[i]
	into, err := s.NeedOne("[[mint]] into", rule.Into)
	if err != nil || into < 0 {
		return err
	}
	if kind := s.Columns.Kind(into); kind != catalogue.CodeKind && kind != catalogue.LineKind && kind != catalogue.AnyKind {
		return columns.Refuse("[[mint]] into %q: that is a field of type %s, which has no codes", rule.Into, kind)
	}
	isBarcode := s.Columns.Fields[into] == catalogue.Barcode
	if isBarcode && rule.From != "" && rule.From != "{sku}" {
		return columns.Refuse("[[mint]] into %q: barcodes are made of the company_prefix that you own, or of a shop_prefix; or from = "+
			"\"{sku}\", where SKUs are whole barcodes", rule.Into)
	}
	if f := s.Columns.Fields[into]; rule.Series && (isBarcode || f == catalogue.Slug || f == catalogue.ParentSKU) {
		return columns.Refuse("[[mint]] into %q: series goes on with SKUs and codes like them, and not with a %s", rule.Into, f)
	}
	for _, other := range s.Orders.Minted {
		if other.Col == into && other.Rule.Series == rule.Series {
			return columns.Refuse("two [[mint]] make codes for %q; where says which rows each is for, in one column there can be only one", rule.Into)
		}
	}
	one := &steps.Minting{Rule: rule, Col: into, Renew: rule.Over, Renewed: -1, Links: -1, Register: s.Register}
	one.Avoid = m.avoid[i]
	if one.From, one.Same, err = rule.Patterns(); err != nil {
		return err
	}
	for _, p := range []*pattern.Pattern{one.From, one.Same} {
		if p == nil {
			continue
		}
		cols, err := s.bindCode(p, rule.Into, into)
		if err != nil {
			return err
		}
		one.Reads = append(one.Reads, cols...)
	}
	if err := m.beside(s, one); err != nil {
		return err
	}
	if err := m.tellApart(s, one); err != nil {
		return err
	}
	if rule.Over {
		one.Renewed = s.List(line.List{Name: RenewedName, At: 3, Known: s.knownWithout(into), Headings: append([]string{"Row", "Old", "New"},
			s.headingsOf(s.knownWithout(into))...)})
	}
	if rule.ShopPrefix != "" {
		s.Note("barcodes that begin with %s are for use inside the shop: elsewhere the same numbers stand for something else", rule.ShopPrefix)
	}
	one.Number = s.Tally.Add(rule.String(), steps.Changed, rule.Count)
	return s.Orders.Minting(one, rule.Meant)
}

// beside finds the columns besides its own that a rule is about: those in step with a series, and that of the code
// in place of which others are made.
func (m *mintSection) beside(s *Sheet, one *steps.Minting) error {
	for _, name := range one.Rule.InStep {
		cols, err := s.Need("[[mint]] in_step", name)
		if err != nil {
			return err
		}
		for _, col := range cols {
			if col == one.Col {
				return columns.Refuse("[[mint]] into %q: in_step names other columns", one.Rule.Into)
			}
			if err := steps.Unreserved(&s.Columns, col, steps.Reserved, "[[mint]] in_step", name); err != nil {
				return err
			}
			one.InStep = append(one.InStep, col)
		}
	}
	if one.Rule.InsteadOf == "" {
		return nil
	}
	col, err := s.NeedOne("[[mint]] instead_of", one.Rule.InsteadOf)
	switch {
	case err != nil || col < 0:
		return err
	case col == one.Col:
		return columns.Refuse("[[mint]] into %q: instead_of names the column of the supplier's codes, and they cannot stand in the column of "+
			"the new ones; if they stand under the heading of the SKUs, say what that is: [headings] %q = \"mpn\"", one.Rule.Into, s.Columns.Headings[col])
	case s.Columns.Fields[col] == catalogue.Barcode:
		return columns.Refuse("[[mint]] instead_of %q: a barcode is the same whoever sells the goods", one.Rule.InsteadOf)
	}
	if supplier := s.Columns.First(catalogue.Supplier); supplier >= 0 && supplier < s.Columns.Own() {
		one.Theirs = append(one.Theirs, supplier)
	}
	one.Theirs = append(one.Theirs, col)
	if one.Rule.By == nil {
		one.By = one.Theirs
	}
	if s.Register == nil {
		one.Links = s.List(line.List{Name: SupplierCodesName, At: 1 + len(one.Theirs), Known: s.knownWithout(one.Col),
			Headings: slices.Concat([]string{s.Columns.Headings[one.Col]}, s.headingsOf(one.Theirs), s.headingsOf(s.knownWithout(one.Col)))})
	}
	return nil
}

// sayWhere says what the numbers of codes go by.
func (m *mintSection) sayWhere(s *Sheet) {
	var names []string
	for _, one := range s.Orders.Minted {
		if (one.Rule.Series || one.From.Counts()) && s.Register == nil && len(one.Rule.Avoid) == 0 && one.Rule.FirstItem == 0 && s.Columns.Fields[one.Col] != catalogue.Slug {
			names = append(names, fmt.Sprintf("%q", s.Columns.Headings[one.Col]))
		}
	}
	if names != nil {
		s.Note("the numbers for %s go on from those in this file; what was given out elsewhere is not known without a register", strings.Join(names, " and "))
	}
}

// bindCode says where the cells of a pattern of codes stand.
func (s *Sheet) bindCode(p *pattern.Pattern, name string, into int) ([]int, error) {
	year, _, _ := strings.Cut(s.Date, "-")
	p.In(year)
	cols, missing := p.Bind(func(name string) int {
		if found := s.Find(name); len(found) > 0 {
			return found[0]
		}
		return -1
	}, func(int) bool { return false })
	for _, m := range missing {
		return nil, fmt.Errorf("%w: [[mint]] into %q names {%s}, which is not there%s; the headings are: %s", columns.ErrWrong, name, m,
			text.DidYouMean(m, s.Columns.Headings), strings.Join(s.Columns.Headings[:s.Columns.Own()], ", "))
	}
	for _, col := range cols {
		switch {
		case col == into:
			return nil, columns.Refuse("[[mint]] of %q: %w", name, pattern.ErrOwn)
		case s.Columns.Kind(col) == catalogue.HTMLKind:
			return nil, columns.Refuse("[[mint]] of %q from %q: that is HTML", name, s.Columns.Headings[col])
		}
	}
	return cols, nil
}

// tellApart returns the columns by which the products are told apart that get codes.
func (m *mintSection) tellApart(s *Sheet, one *steps.Minting) error {
	one.Key = -1
	if one.By != nil {
		return nil
	}
	for _, name := range one.Rule.By {
		found, err := s.Need("[[mint]] by", name)
		if err != nil {
			return err
		}
		one.By = append(one.By, found...)
	}
	if one.By != nil {
		return nil
	}
	into, field := one.Col, s.Columns.Fields[one.Col]
	if sku := s.Columns.First(catalogue.SKU); sku < s.Columns.Own() && sku != into && !one.Rule.Series && field != catalogue.ParentSKU && !s.mints(catalogue.SKU) {
		one.Key = sku
	}
	cols := s.Columns.All(catalogue.Title)
	if field != catalogue.ParentSKU && !slices.Contains(s.Products.Columns(products.OfProduct), into) {
		for _, o := range s.Products.Options {
			cols = append(cols, o.Value)
		}
		for _, f := range []catalogue.Field{catalogue.Colour, catalogue.Size, catalogue.Material} {
			for _, col := range s.Columns.All(f) {
				if !slices.Contains(cols, col) {
					cols = append(cols, col)
				}
			}
		}
	}
	one.By = slices.DeleteFunc(cols, func(col int) bool { return col == into || col >= s.Columns.Own() })
	if len(s.Columns.All(catalogue.Title)) == 0 && one.Key < 0 {
		return columns.Refuse("[[mint]] into %q: the file has no titles, so that nothing tells products apart; name the columns that do with by",
			one.Into)
	}
	return nil
}

// mints reports whether codes are made for a field.
func (s *Sheet) mints(f catalogue.Field) bool {
	for i := range s.Book.Mint {
		for _, col := range s.Find(s.Book.Mint[i].Into) {
			if s.Columns.Fields[col] == f {
				return true
			}
		}
	}
	return false
}

func (s *Sheet) knownWithout(col int) []int {
	return slices.DeleteFunc(slices.Clone(steps.KnownBy(&s.Columns)), func(known int) bool { return known == col })
}

func (s *Sheet) headingsOf(cols []int) (names []string) {
	for _, col := range cols {
		names = append(names, s.Columns.Headings[col])
	}
	return names
}

// Steps learns which codes there are.
func (m *mintSection) Steps(s *Sheet) error {
	step, kinds, ok := steps.Mint(s.Orders)
	if !ok {
		return nil
	}
	s.Add(StageMint, step)
	s.SettlesTwice = s.Orders.Rounds()
	for i, one := range s.Orders.Minted {
		kinds[i].Round, kinds[i].Col = one.Round, one.Col
	}
	s.Allotments = kinds
	return nil
}

// Begin shows how codes are made, where there are rows without.
func (*mintSection) Begin(s *Seen, b *Draft) {
	without, twice := 0, 0
	for _, f := range s.Found {
		switch f.Code {
		case catalogue.SKUMissing:
			without += f.Cells
		case catalogue.SKUDuplicate:
			twice += f.Cells
		}
	}
	if twice > 0 && len(s.Tongues) < 2 {
		b.line("\n# %s an SKU that others have. Those that were copied with it get the next of the series:\n# [[mint]]\n# into   = \"sku\"\n# series = true",
			plural(twice, "row")+" with")
	}
	if without == 0 || s.Pattern == "" {
		return
	}
	b.line("\n# Codes for %s without:\n# [[mint]]\n# into = \"sku\"\n# from = %s", plural(without, "row"), quoted(s.Pattern))
}

// Ask asks for codes where there are none.
func (*mintSection) Ask(s *Seen) (list []Question) {
	if without := s.cells(catalogue.SKUMissing); without > 0 && s.Pattern != "" {
		make := newOf("mint", "into", `"sku"`, "from", quoted(s.Pattern))
		q := Question{Name: "mint.sku", Rows: without, Says: fmt.Sprintf("%s no SKU. It can be made in the way of the others.", verb(without, "row", "has", "have")), Asks: "Make them?",
			Ways: []Way{{Says: "make them, and remember them in zetanum.register, so that none is given twice, next month either", Orders: []rulebook.Order{make, set("register", "at", `"zetanum.register"`)}},
				{Says: "make them", Orders: []rulebook.Order{make}}}}
		list = append(list, q.on(catalogue.SKUMissing, s.first(catalogue.SKU)))
	}
	return list
}
