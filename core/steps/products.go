package steps

import (
	"maps"
	"slices"
	"strconv"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/line"
	"zetanum/core/products"
)

// OfOneProduct is the step that carries out what the rulebook orders where the rows of a
// product say different things of it, or say them in the wrong row. Behind steps that write
// into rows, or make some, it is taken again: what it has ordered holds of those, too.
func OfOneProduct(s *Sheet, rules *products.Rules) (step line.Step, err error) {
	layout := s.Products
	o := &ofOneProduct{texts: s.Texts, layout: layout, rules: rules, columns: &s.Columns, title: s.Columns.First(catalogue.Title), option: -1,
		sku: s.Columns.First(catalogue.SKU), differ: make(map[int]settling), decisions: make(map[int]catalogue.Decisions)}
	if name := rules.OptionOfTitles; name != "" {
		if cols := s.Find(name); len(cols) > 0 {
			o.option = cols[0]
		} else {
			o.pairs = products.OptionPairs(&s.Columns)
		}
		if err := Unreserved(&s.Columns, o.option, Reserved, "[products] option_of_titles", name); err != nil {
			return step, err
		}
	}
	for _, name := range rules.SameAsLead {
		cols, err := s.Need("[products] same_as_lead", name)
		if err != nil {
			return step, err
		}
		for _, col := range cols {
			if layout.Level(col) == products.OfVariant {
				return step, columns.Refuse("[products] same_as_lead names %q, which belongs to each variant; it is for the "+
					"key of a product", name)
			}
		}
		o.same = append(o.same, cols...)
	}
	if o.once, err = ofProduct(s, "[products] lead_only", rules.LeadOnly); err != nil {
		return step, err
	}
	if err := o.settlings(s); err != nil {
		return step, err
	}
	writes := catalogue.ColumnsOf(o.same...)
	writes.Add(o.once...)
	for col := range o.differ {
		writes.Add(col)
	}
	if rules.Misplaced == "move" {
		writes.Add(layout.Columns(products.OfProduct)...)
	}
	takes := o.option >= 0 || len(o.pairs) > 0
	if takes {
		writes.Add(o.title, o.option)
	}
	for _, pair := range o.pairs {
		writes.Add(pair.Name, pair.Value)
	}
	step = line.Step{
		Name:   NameProducts,
		Writes: writes, Before: changing, // what a row is depends on nearly everything
		Rules: []catalogue.Rule{catalogue.RuleAsLead, catalogue.RuleMoved, catalogue.RuleTitles, catalogue.RuleLeadOnly},
		New:   idle,
	}
	if takes {
		step.Sources = catalogue.ColumnsOf(o.title)
	}
	if !writes.Empty() {
		step.Reads = layout.RoleColumns()
		step.Reads.AddAll(writes)
		step.Reads.Add(o.sku)
		step.New = func(line.Aggregate) (line.Repairer, error) { return o, nil }
	}
	return step, nil
}

// settlings says how the columns are settled in which rows differ.
func (o *ofOneProduct) settlings(s *Sheet) error {
	for _, col := range o.layout.Columns(products.OfProduct) {
		if o.rules.Differ != "" {
			o.differ[col] = settling{o.rules.Differ, catalogue.Ordered}
		} else if said := s.Decisions.In(s.Columns.Headings[col]).On(catalogue.ProductDiffers); len(said) > 0 {
			o.differ[col] = settling{products.AsLead, catalogue.Decided}
			o.decisions[col] = said
		}
	}
	for _, name := range slices.Sorted(maps.Keys(o.rules.DifferIn)) {
		cols, err := ofProduct(s, "[products] differ_in", []string{name})
		if err != nil {
			return err
		}
		for _, col := range cols {
			o.differ[col] = settling{o.rules.DifferIn[name], catalogue.Ordered}
		}
	}
	return nil
}

// ofProduct returns the columns of names that belong to the whole product; key says in which
// part of the rulebook they stand.
func ofProduct(s *Sheet, key string, names []string) (cols []int, err error) {
	for _, name := range names {
		found, err := s.Need(key, name)
		if err != nil {
			return nil, err
		}
		for _, col := range found {
			if s.Products.Level(col) != products.OfProduct {
				return nil, columns.Refuse("%s: %q does not belong to the whole product; name it under product_fields if it does", key,
					name)
			}
		}
		cols = append(cols, found...)
	}
	return cols, nil
}

type ofOneProduct struct {
	texts   *Texts
	layout  *products.Layout
	rules   *products.Rules
	title   int
	option  int               // that takes what differs in the titles, or -1
	pairs   []products.Option // of which one takes it with its name, where there is no column for it
	columns *catalogue.Columns
	same    []int // columns in which all rows get what the lead row has
	once    []int // columns that only the lead row fills
	differ  map[int]settling

	sku       int
	decisions map[int]catalogue.Decisions // by column: what a person has said to rows that differ
}

// settling says how a column in which rows differ is settled, and on whose word.
type settling struct {
	how    string
	ground catalogue.Ground
}

func (o *ofOneProduct) Repair(p *catalogue.Product, log *line.Log) {
	if len(p.Rows) < 2 {
		return
	}
	lead := -1
	for i := range p.Rows {
		if lead < 0 && !log.IsAside(i) {
			lead = i
		}
	}
	if lead < 0 {
		return
	}
	if (o.option >= 0 || len(o.pairs) > 0) && o.title >= 0 {
		o.titles(p, lead, log)
	}
	for _, col := range o.layout.Columns(products.OfProduct) {
		if col != o.title || !o.layout.OwnTitles(p, lead) {
			o.settle(p, lead, col, log)
		}
	}
	for _, col := range o.same {
		o.likeLead(p, lead, col, log)
	}
	for _, col := range o.once {
		if col != o.title || !o.layout.OwnTitles(p, lead) {
			o.leadOnly(p, lead, col, log)
		}
	}
	p.Roles = o.layout.Roles(p.Roles[:0], p.Rows, log.IsAside) // of rows that have changed
}

// likeLead makes a column the same as in the lead row; without stray spaces, if another row
// has it so.
func (o *ofOneProduct) likeLead(p *catalogue.Product, lead, col int, log *line.Log) {
	value := p.Rows[lead].Cell(col)
	if bare := strings.TrimSpace(value); bare != value && slices.ContainsFunc(p.Rows,
		func(row *catalogue.Row) bool { return row.Cell(col) == bare }) {
		value = bare
	}
	for i, row := range p.Rows {
		if !log.IsAside(i) && value != "" && row.Cell(col) != value {
			widen(row, o.columns)
			log.Set(row, col, value, catalogue.RuleAsLead, catalogue.Ordered, "")
		}
	}
}

// leadOnly empties the cells of a column that say what the lead row says.
func (o *ofOneProduct) leadOnly(p *catalogue.Product, lead, col int, log *line.Log) {
	for i, row := range p.Rows {
		if i != lead && !log.IsAside(i) && row.Cell(col) != "" && row.Cell(col) == p.Rows[lead].Cell(col) {
			log.Set(row, col, "", catalogue.RuleLeadOnly, catalogue.Ordered, "")
		}
	}
}

// titles makes one title of those of the rows, and an option of what differs in them.
func (o *ofOneProduct) titles(p *catalogue.Product, lead int, log *line.Log) {
	var rows []*catalogue.Row
	var titles []string
	differ := false
	for i, row := range p.Rows {
		if title := row.Cell(o.title); strings.TrimSpace(title) != "" && !log.IsAside(i) {
			rows, titles = append(rows, row), append(titles, title)
			differ = differ || title != titles[0]
		}
	}
	if !differ || rows[0] != p.Rows[lead] {
		return
	}
	option := products.Option{Name: -1, Value: o.option}
	if o.option < 0 {
		if option = o.pair(rows); option.Value < 0 {
			return // all options are used: they tell the products apart already
		}
	}
	common, rest, ok := products.Shared(titles)
	if _, settled := o.differ[o.title]; !ok && settled {
		return // so the rulebook says which of them counts
	}
	if !ok {
		if log.Has(catalogue.ProductUnlike, rows[0], o.title) {
			return // said before
		}
		log.Notice(catalogue.ProductUnlike, rows[0], o.title, titles[0], catalogue.Facts{Row: rows[1].Number, Other: titles[1]})
		return
	}
	for i, row := range rows {
		title := common
		if i > 0 {
			title = ""
		}
		log.Set(row, o.title, o.texts.Clean(title, o.columns.Kind(o.title)), catalogue.RuleTitles, catalogue.Ordered, "")
		if !row.Wide && o.columns.Added > 0 {
			row.Extend(o.columns.Own(), o.columns.Added)
		}
		if option.Name >= 0 {
			log.Set(row, option.Name, o.rules.OptionOfTitles, catalogue.RuleTitles, catalogue.Ordered, "")
		}
		if option.Name >= 0 || row.Cell(option.Value) == "" {
			log.Set(row, option.Value, o.texts.Clean(rest[i], o.columns.Kind(option.Value)), catalogue.RuleTitles, catalogue.Ordered, "")
		}
	}
}

// pair returns the first pair of option columns that says nothing of what rows differ in: it is empty, or says the
// same in all of them, as an option does that stands for none. Its value is -1 if there is none.
func (o *ofOneProduct) pair(rows []*catalogue.Row) products.Option {
	for _, pair := range o.pairs {
		same := true
		for _, row := range rows {
			same = same && row.Cell(pair.Value) == rows[0].Cell(pair.Value) && row.Cell(pair.Name) == rows[0].Cell(pair.Name)
		}
		if same {
			return pair
		}
	}
	return products.Option{Name: -1, Value: -1}
}

// settle makes a column of a product say one thing, in the lead row.
func (o *ofOneProduct) settle(p *catalogue.Product, lead, col int, log *line.Log) {
	differ, settled := o.differ[col]
	first := p.Rows[lead].Cell(col)
	decision, decided := o.decisions[col].For(catalogue.ProductDiffers, "", p.Rows[lead].Cell(o.sku), first)
	if differ.ground == catalogue.Decided {
		settled = decided // perhaps only for other products
	}
	misplaced := strings.TrimSpace(first) == ""
	if misplaced && o.rules.Misplaced != "move" || !misplaced && !settled {
		return
	}
	var few [8]string
	values, alike := few[:0], true
	for i, row := range p.Rows {
		if cell := row.Cell(col); !log.IsAside(i) && strings.TrimSpace(cell) != "" {
			values = append(values, cell)
			alike = alike && cell == values[0]
		}
	}
	if len(values) == 0 || alike && !misplaced {
		return
	}
	rule, value, keep := catalogue.RuleMoved, values[0], ""
	switch {
	case !alike && misplaced && (!settled || differ.how == products.AsLead):
		return // several, and none of them in the lead row
	case !alike && decision.Value != "":
		value = o.texts.Clean(decision.Value, o.columns.Kind(col))
	case !alike:
		value = o.texts.Clean(products.Settle(differ.how, values), o.columns.Kind(col))
	}
	ground := catalogue.Ordered
	if !misplaced {
		rule, keep, ground = catalogue.RuleAsLead, value, differ.ground
	}
	for i, row := range p.Rows {
		cell, want := row.Cell(col), keep
		if i == lead {
			want = value
		}
		if !log.IsAside(i) && (i == lead || strings.TrimSpace(cell) != "") && cell != want {
			widen(row, o.columns)
			log.Set(row, col, want, rule, ground, "")
		}
	}
}

// A togetherness looks at products as wholes.
type togetherness struct {
	layout  *products.Layout
	key     *products.Key
	kind    line.ClaimKind
	columns *catalogue.Columns
	list    int // that takes what rows say differently
}

// Together is the step that looks whether the rows of a product belong together, and
// stand together. list is that which takes what rows of a product say differently of it.
func Together(s *Sheet, list int) line.Step {
	t := &togetherness{layout: s.Products, key: s.Key, kind: s.Claim(line.Claim{Clash: catalogue.ProductScattered}), columns: &s.Columns,
		list: list}
	return line.Step{
		Name:  NameTogether,
		Reads: s.everyColumn(), Learns: s.Key.Names(), // an image row says nothing else, a copied one nothing of its own
		New: func(line.Aggregate) (line.Repairer, error) { return t, nil },
		Keys: func(p *catalogue.Product, add func(int, uint64)) {
			if i, key := t.keyOf(p, func(int) bool { return false }); i >= 0 {
				add(i, key^scatter(uint64(t.kind)+1))
			}
		},
	}
}

// keyOf returns the first row of a product that has its key, -1 if none has, and what
// stands for the key.
func (t *togetherness) keyOf(p *catalogue.Product, aside func(int) bool) (index int, key uint64) {
	if t.key.Column() < 0 {
		return -1, 0
	}
	for i, row := range p.Rows {
		if own := strings.TrimSpace(t.key.Of(row)); own != "" && !aside(i) {
			return i, t.key.Number(own, row)
		}
	}
	return -1, 0
}

func (t *togetherness) Repair(p *catalogue.Product, log *line.Log) {
	t.layout.Check(p, log.IsAside, func(code catalogue.Code, index, col int, facts catalogue.Facts) {
		if code == catalogue.ValueMisspelt && log.Has(code, p.Rows[index], col) {
			return // seen from the whole column before
		}
		row := p.Rows[index]
		log.Notice(code, row, col, row.Cell(col), facts)
		if code == catalogue.ProductDiffers && !log.Judging() {
			log.Enter(t.list, index, strconv.Itoa(row.Number), t.columns.Headings[col], row.Cell(col), strconv.Itoa(facts.Row), facts.Other)
		}
	})
	t.beheaded(p, log)
	if log.Torn() {
		return // its other parts are no other products
	}
	if i, key := t.keyOf(p, log.IsAside); i >= 0 {
		log.Claim(t.kind, key, i, t.key.Column())
	}
}

// beheaded looks whether the row with the title does not go out, because it repeats another
// or another was chosen in its place, and rows that only follow it would: in what is
// written they would follow another product.
func (t *togetherness) beheaded(p *catalogue.Product, log *line.Log) {
	first := slices.IndexFunc(p.Rows, func(row *catalogue.Row) bool { return t.key.Titled(row) })
	if first < 0 || !log.IsAside(first) {
		return
	}
	lost := p.Rows[first]
	if !slices.ContainsFunc([]catalogue.Code{catalogue.RowDuplicate, catalogue.RowPassedOver, catalogue.RowPassedOverDiffers},
		func(code catalogue.Code) bool { return log.Has(code, lost, -1) }) {
		return
	}
	for i, row := range p.Rows {
		if log.IsAside(i) {
			continue
		}
		if !t.key.Titled(row) && t.key.Of(row) == "" {
			log.Notice(catalogue.ProductNoLead, row, t.key.Title, "", catalogue.Facts{Row: lost.Number})
		}
		return
	}
}
