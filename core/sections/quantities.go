package sections

import (
	"encoding/binary"
	"fmt"
	"maps"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/condition"
	"zetanum/core/heading"
	"zetanum/core/lists"
	"zetanum/core/quantity"
	"zetanum/core/rulebook"
	"zetanum/core/steps"
)

// A quantityColumn is one whose amounts, dates, or yes and no are written as a rulebook has it.
type quantityColumn struct {
	sheet *Sheet
	name  string // of the field
	table *FieldTable
	col   int

	marks  quantity.Marks
	form   quantity.Form
	answer quantity.YesNo
	orders quantity.Orders
	dates  quantity.DateForm
	again  *quantity.Form  // in which it has been written in an earlier run
	from   *quantityColumn // from which it is reckoned; nil if it is from none
}

// writesNumbers reports whether the rules of a field write its numbers.
func (t *FieldTable) writesNumbers() bool { return t.NumberRule.Writes() || t.PriceRule.Writes() }

// adds returns the columns that the rules fill.
func (t *FieldTable) adds(name string) (names []string) {
	if t.PriceRule.From != "" {
		names = append(names, name)
	}
	if t.PriceRule.CurrencyIn != "" {
		names = append(names, t.PriceRule.CurrencyIn)
	}
	return append(names, t.MeasureRule.Sides...)
}

// Adds returns the columns that fields are reckoned into.
func (f *fieldSection) Adds(*Sheet) (names []string, err error) {
	for _, name := range slices.Sorted(maps.Keys(*f.rules)) {
		names = append(names, (*f.rules)[name].adds(name)...)
	}
	return names, nil
}

// OneWay returns the rules that would reckon with their own results.
func (f *fieldSection) OneWay() (problems []rulebook.Problem) {
	for _, name := range slices.Sorted(maps.Keys(*f.rules)) {
		if t := (*f.rules)[name]; t.PriceRule.Once {
			problems = append(problems, rulebook.Problem{Part: f.part(name), Problem: catalogue.Problem{Key: "once", Text: name + ", " + t.PriceRule.Words()}})
		}
	}
	return problems
}

// orderQuantities orders what a rulebook says of the quantities of a field.
func (s *Sheet) orderQuantities(name string, t *FieldTable) error {
	for _, col := range s.Find(name) {
		q := &quantityColumn{sheet: s, name: name, table: t, col: col}
		var err error
		switch kind := s.Columns.Kind(col); {
		case !t.MeasureRule.IsZero():
			err = q.measures()
		case !t.YesNoRule.IsZero():
			err = q.answers()
		case t.DateRule.Form != "":
			err = q.moments()
		case kind == catalogue.PriceKind && t.writesNumbers():
			err = q.prices()
		case kind.Numeric() && t.NumberRule.Writes():
			err = q.counts()
		}
		if err == nil && t.PriceRule.MarginAtLeast != nil {
			err = q.margin()
		}
		if err == nil && t.PriceRule.Dated {
			err = q.dated()
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// decideOpen orders that prices which can be read in two ways are written as somebody has said that they are.
func (s *Sheet) decideOpen() error {
	for col := range s.Columns.Own() {
		if s.Columns.Kind(col) != catalogue.PriceKind {
			continue
		}
		said := s.Decisions.In(s.Columns.Headings[col]).On(catalogue.PriceOpen)
		if len(said) == 0 {
			continue
		}
		q := &quantityColumn{sheet: s, table: &FieldTable{}, col: col}
		q.learn(col)
		sku := s.Columns.First(catalogue.SKU)
		order := steps.Order{Key: "answers", Phase: steps.PhaseValues, Reads: s.Columns.All(catalogue.SKU), Writes: []int{col}, Rests: true,
			Rules: []catalogue.Rule{catalogue.RuleDecided}, Do: func(r *steps.RowAt) bool {
				cell := r.Cell(col)
				if cell == "" || r.Log.Wrote(catalogue.RuleDecided, r.Row, col) {
					return false
				}
				p := quantity.ReadPrice(cell, q.form)
				decision, taken := said.For(catalogue.PriceOpen, "", r.Cell(sku), cell)
				if p.Is != quantity.Asked || !taken || decision.Value == "" && quantity.ReadPrice(cell, quantity.Form{}).Is != quantity.Asked {
					return false
				}
				after := p.Number.Whole()
				if decision.Value != "" {
					after = decision.Value
				}
				r.Set(col, after, catalogue.RuleDecided, catalogue.Decided, "")
				return true
			}}
		if err := s.Orders.AddCounted(order, condition.Meant{}, -1); err != nil {
			return err
		}
	}
	return nil
}

// oneClaims returns an error if another column of the sheet claims the same field of money by its heading, and nobody has said which is it.
func (q *quantityColumn) oneClaims(col int) error {
	s := q.sheet
	field := s.Columns.Fields[col]
	if field.Kind() != catalogue.PriceKind || col >= s.Columns.Own() {
		return nil
	}
	for _, name := range s.Book.Headings {
		if name == field.String() {
			return nil
		}
	}
	for other := range s.Columns.Own() {
		if other != col && s.Columns.Fields[other] == catalogue.Unknown && s.Columns.Name(other) == "" && heading.Field(s.Columns.Headings[other]) == field {
			return columns.Refuse("%q and %q both claim to be the %s, and rules reckon with one; say under [headings] which: [headings] %q = %q",
				s.Columns.Headings[col], s.Columns.Headings[other], field, s.Columns.Headings[col], field)
		}
	}
	return nil
}

// learn lets the survey see how a column of the sheet is written.
func (q *quantityColumn) learn(cols ...int) {
	for _, col := range cols {
		if col >= q.sheet.Columns.Own() {
			return
		}
	}
	q.sheet.Orders.Learn(steps.Learner{Cols: cols, New: func() steps.Learned { return &quantitySeen{cols: cols} }, Judge: func(l steps.Learned) error {
		seen := l.(*quantitySeen)
		q.marks, q.answer, q.orders = seen.marks, seen.answer, seen.orders
		if q.form, q.dates = q.table.NumberRule.Form(q.marks.Form()), q.orders.Form(yearOf(q.sheet.Date)); q.again != nil {
			q.form = *q.again
		}
		for _, other := range q.sheet.amounts {
			other.settle()
		}
		return nil
	}})
}

// quantitySeen is what the survey sees of a column.
type quantitySeen struct {
	cols   []int
	marks  quantity.Marks
	answer quantity.YesNo
	orders quantity.Orders
}

func (l *quantitySeen) Learn(p *catalogue.Product) {
	for _, row := range p.Rows {
		for _, col := range l.cols {
			if cell := row.Cell(col); cell != "" {
				l.marks.Learn(cell)
				l.answer.Learn(cell)
				l.orders.Learn(cell)
			}
		}
	}
}

func (l *quantitySeen) Merge(next steps.Learned) {
	with := next.(*quantitySeen)
	l.marks.Merge(with.marks)
	l.answer.Merge(with.answer)
	l.orders.Merge(with.orders)
}

func (l *quantitySeen) AppendBinary(b []byte) ([]byte, error) {
	for _, n := range []int{l.marks.Comma, l.marks.Point, l.marks.Fine, l.marks.Open} {
		b = binary.AppendUvarint(b, uint64(n))
	}
	for _, bits := range l.answer.Bits() {
		b = binary.LittleEndian.AppendUint64(b, bits)
	}
	return l.orders.AppendTo(b), nil
}

// left notes that a cell could not be written.
func (q *quantityColumn) left(r *steps.RowAt, col int, cell, why string) {
	q.sheet.Orders.Unknown(r, catalogue.ValueNotWritten, col, cell, catalogue.Facts{Other: why})
}

// whys say why something is not written.
var whys = map[quantity.What]string{
	quantity.Asked: "can be read in two ways, and neither the column nor the rulebook says which", quantity.About: "is only about so much", quantity.From: "is a price from which others begin",
	quantity.Range: "is a range", quantity.Request: "is no price but a price on request", quantity.Percent: "is a percentage", quantity.Error: "is an error of the spreadsheet program",
	quantity.Formula: "is a formula", quantity.Negative: "is below zero", quantity.Malformed: "has marks where a number has none", quantity.Dash: "is a dash",
	quantity.Impossible: "is no day of the calendar", quantity.Partial: "is no whole date",
}

func why(is quantity.What) string {
	if text, known := whys[is]; known {
		return text
	}
	return "is not what the column has"
}

// formNow returns how the numbers of the column stand there when all has been done to them.
func (q *quantityColumn) formNow() quantity.Form {
	if other := q.sheet.amounts[q.col]; other != nil {
		return quantity.Form{Decimal: other.mark(), Fine: true}
	}
	return q.form
}

// mark returns the mark before decimals of what is written: as is ordered, or as the column has it, or that from which it is reckoned.
func (q *quantityColumn) mark() rune {
	switch said := q.table.NumberRule.Mark(); {
	case said != 0:
		return said
	case q.again != nil:
		return q.again.Decimal
	case q.form.Decimal != 0:
		return q.form.Decimal
	case q.from != nil && q.from.formNow().Decimal != 0:
		return q.from.formNow().Decimal
	}
	return '.'
}

// writes adds an order that writes a column as a rule has it. What has been written is not done again: it is read in another way then.
func (q *quantityColumn) writes(order steps.Order, words string) error {
	order.Key, order.Rests, order.Rules = "field."+q.name, true, []catalogue.Rule{catalogue.RuleAmount}
	if order.Phase == 0 {
		order.Phase = steps.PhaseValues
	}
	do := order.Do
	order.Do = func(r *steps.RowAt) bool {
		return !r.Log.Wrote(catalogue.RuleAmount, r.Row, q.col) && do(r)
	}
	_, err := q.sheet.Orders.Add(order, condition.Scope{Meant: q.table.Meant}, words)
	return err
}

// isWritten takes down that rules write the numbers of the column in a form of its own, in which they stand in an output of ours.
func (q *quantityColumn) isWritten() {
	s := q.sheet
	if s.amounts == nil {
		s.amounts, s.Forms = make(map[int]*quantityColumn), make(map[int]quantity.Form)
	}
	s.amounts[q.col] = q
	if s.AsLeft != nil {
		unit, mark, _ := strings.Cut(s.AsLeft.Written[s.Columns.Name(q.col)], " ")
		if unit == q.table.MeasureRule.Unit && mark != "" {
			q.again = &quantity.Form{Decimal: rune(mark[0]), Fine: true}
		}
	}
	q.settle()
}

// settle says in which form the numbers of the column are written, as far as is known.
func (q *quantityColumn) settle() {
	if mark := q.mark(); q.sheet.amounts[q.col] == q {
		q.sheet.Forms[q.col] = quantity.Form{Decimal: mark, Fine: true}
		q.sheet.tell(q.col, q.table.MeasureRule.Unit+" "+string(mark))
	}
}

// prices orders how the prices of a column are reckoned and written.
func (q *quantityColumn) prices() error {
	s, rule, numbers := q.sheet, &q.table.PriceRule, &q.table.NumberRule
	plain := quantity.PriceRule{Read: rule.Read, Clear: rule.Clear, Zero: rule.Zero, Currency: rule.Currency}
	if rule.From == "" {
		plain = *rule
	}
	own := quantity.NewPricing(numbers, &plain)
	if own.Silent() && rule.From == "" {
		return nil
	}
	if err := q.oneClaims(q.col); err != nil {
		return err
	}
	q.learn(q.col)
	q.isWritten()
	order := steps.Order{Writes: []int{q.col}}
	from, words := -1, "prices of "+q.name+" written as numbers"
	if said := rule.Words(); said != "" {
		words = q.name + " reckoned: " + said
	}
	var reckoned *quantity.Pricing
	if rule.From != "" {
		var err error
		if from, err = s.NeedOne("["+q.name+"] from", rule.From); err != nil {
			return &ruleError{key: "from", error: err}
		}
		if from < 0 {
			return nil
		}
		if from == q.col {
			return &ruleError{key: "from", error: columns.Refuse("[%s] from names the column itself; leave it out, and say once = true", q.name)}
		}
		if err := q.oneClaims(from); err != nil {
			return &ruleError{key: "from", error: err}
		}
		q.from = &quantityColumn{sheet: s, name: rule.From, table: &FieldTable{NumberRule: quantity.NumberRule{Decimal: numbers.Decimal}}, col: from}
		q.from.learn(from)
		reckoned = quantity.NewPricing(numbers, rule)
		order.Reads = []int{from}
		words = q.name + " from " + rule.From + ": " + rule.Words()
	}
	currency := -1
	if rule.CurrencyIn != "" {
		var err error
		if currency, err = s.NeedOne("["+q.name+"] currency_in", rule.CurrencyIn); err != nil {
			return &ruleError{key: "currency_in", error: err}
		}
		if currency >= 0 {
			order.Writes = append(order.Writes, currency)
		}
	}
	order.Do = func(r *steps.RowAt) (did bool) {
		cell := r.Cell(q.col)
		after, is, source := cell, quantity.Value, ""
		if cell != "" && !(from >= 0 && rule.Over) {
			after, is = own.Of(cell, q.form)
		}
		if from >= 0 && is == quantity.Value && (after == "" || rule.Over) { // also where it says that there is none
			switch source = r.Cell(from); {
			case cell == "" && !r.Belongs(q.col):
				return false
			case strings.TrimSpace(source) == "":
				if after == "" {
					s.Orders.Unknown(r, catalogue.PriceNotReckoned, q.col, "", catalogue.Facts{Other: s.Columns.Headings[from]})
				}
				source = ""
			default:
				if after, is = reckoned.Of(source, q.from.formNow()); is != quantity.Value {
					q.left(r, from, source, why(is))
					return false
				}
			}
		}
		if is != quantity.Value {
			if !r.Log.Has(catalogue.CellError, r.Row, q.col) {
				q.left(r, q.col, cell, q.why(is, cell))
			}
			return false
		}
		if after = quantity.WithMark(after, q.mark()); source == "" && after != "" && !numbers.Writes() && rule.Currency == "" {
			if read := quantity.ReadPrice(cell, q.form); read.Is == quantity.Value && quantity.ReadPrice(after, quantity.Form{Decimal: q.mark(), Fine: true}).Number.Cmp(read.Number) == 0 {
				after = cell // how it is written is not ordered
			}
		}
		if after != cell && cell != "" && (rule.ChangeAtMost != nil) {
			pricing := own
			if from >= 0 {
				pricing = reckoned
			}
			if before := quantity.ReadPrice(cell, q.form); before.Is == quantity.Value {
				if now := quantity.ReadPrice(after, quantity.Form{Decimal: q.mark(), Fine: true}); now.Is == quantity.Value && pricing.Beyond(before.Number, now.Number) {
					s.Orders.Unknown(r, catalogue.PriceLeaps, q.col, cell, catalogue.Facts{Other: after})
					return false
				}
			}
		}
		if after != cell {
			said := ""
			if source != "" {
				said = s.Columns.Headings[from] + " " + source + ": " + rule.Words()
			}
			r.Set(q.col, after, catalogue.RuleAmount, catalogue.Ordered, said)
			did = r.Cell(q.col) != cell
		}
		if currency >= 0 && after != "" && r.Cell(currency) == "" {
			r.Set(currency, rule.Currency, catalogue.RuleAmount, catalogue.Ordered, "")
		}
		return did
	}
	return q.writes(order, words)
}

// why says why a price is not written.
func (q *quantityColumn) why(is quantity.What, cell string) string {
	if of := quantity.ReadPrice(cell, q.form); is == quantity.Words && of.Is == quantity.Value {
		return "is not in " + q.table.PriceRule.Currency
	}
	return why(is)
}

// counts orders how numbers are written that are no prices.
func (q *quantityColumn) counts() error {
	s := q.sheet
	var words [][2]string
	for _, p := range s.spoken[q.name] {
		words = append(words, [2]string{p.Key, p.Value})
	}
	counting, err := quantity.NewCounting(&q.table.NumberRule, words)
	if err != nil {
		return &ruleError{key: "words", error: fmt.Errorf("[%s] words: %w", q.name, err)}
	}
	q.learn(q.col)
	q.isWritten()
	return q.writes(steps.Order{Writes: []int{q.col},
		Do: func(r *steps.RowAt) bool {
			cell := r.Cell(q.col)
			if cell == "" {
				return false
			}
			after, is := counting.Of(cell, q.form)
			if is != quantity.Value {
				q.left(r, q.col, cell, why(is))
				return false
			}
			after = quantity.WithMark(after, q.mark())
			r.Set(q.col, after, catalogue.RuleAmount, catalogue.Ordered, "")
			return after != cell
		}}, "numbers of "+q.name+" written as numbers")
}

// measures orders in which unit measures are written.
func (q *quantityColumn) measures() error {
	s, rule := q.sheet, q.table.MeasureRule
	named := s.Columns.Headings[q.col]
	if unit := quantity.UnitIn(named); unit != "" && rule.Sides == nil {
		usual, dimension := quantity.Unit(unit)
		if want, of := quantity.Unit(rule.Unit); usual != want && dimension == of && quantity.UnitIn(s.outHeading(q.col)) == unit {
			return &ruleError{key: "unit", error: columns.Refuse("[%s] unit: the column %q would still be called so, and its numbers would be in %s; rename it under [columns]: rename = { %q = … }",
				q.name, named, rule.Unit, named)}
		}
	}
	if rule.Sides == nil {
		if q.isWritten(); q.again != nil {
			named, rule.Bare = "", rule.Unit
		}
	}
	measuring := quantity.NewMeasuring(&q.table.NumberRule, &rule, named)
	q.learn(q.col)
	order := steps.Order{Writes: []int{q.col}}
	unit := -1
	var sides []int
	if rule.UnitFrom != "" {
		var err error
		if unit, err = s.NeedOne("["+q.name+"] unit_from", rule.UnitFrom); err != nil {
			return &ruleError{key: "unit_from", error: err}
		}
		if unit >= 0 {
			order.Writes = append(order.Writes, unit)
		}
	}
	for _, name := range rule.Sides {
		col, err := s.NeedOne("["+q.name+"] sides", name)
		if err != nil || col < 0 {
			return &ruleError{key: "sides", error: err}
		}
		sides = append(sides, col)
	}
	if sides != nil {
		order.Reads, order.Writes, order.Phase = []int{q.col}, sides, steps.PhaseFill
	}
	order.Do = func(r *steps.RowAt) bool {
		cell, of := r.Cell(q.col), strings.TrimSpace(r.Cell(unit))
		if strings.TrimSpace(cell) == "" {
			if of != "" && unit >= 0 {
				r.Find(catalogue.MeasurePair, unit, r.Cell(unit), catalogue.Facts{Other: s.Columns.Headings[q.col]})
			}
			return false
		}
		after, is, because := measuring.Of(cell, of, q.form)
		switch {
		case is == quantity.Value && sides == nil && len(after) > 1:
			is, because = quantity.Words, "has several sides"
		case is == quantity.Value && sides != nil && len(after) != len(sides):
			is, because = quantity.Words, fmt.Sprintf("does not have %d sides", len(sides))
		}
		if is != quantity.Value {
			q.left(r, q.col, cell, because)
			return false
		}
		for n := range after {
			after[n] = quantity.WithMark(after[n], q.mark())
		}
		if sides != nil {
			did := false
			for n, col := range sides {
				if r.Cell(col) == "" && r.Belongs(col) {
					r.Set(col, after[n], catalogue.RuleAmount, catalogue.Ordered, named+" "+cell)
					did = true
				}
			}
			return did
		}
		if unit >= 0 && after[0] != "" {
			r.Set(unit, rule.Unit, catalogue.RuleAmount, catalogue.Ordered, "")
		}
		r.Set(q.col, after[0], catalogue.RuleAmount, catalogue.Ordered, "")
		return after[0] != cell
	}
	words := q.name + " written in " + rule.Unit
	if sides != nil {
		words = "sides of " + q.name + " in " + rule.Unit
	}
	return q.writes(order, words)
}

// answers orders how yes and no, or choices, are written.
func (q *quantityColumn) answers() error {
	answering := quantity.NewAnswering(&q.table.YesNoRule)
	q.learn(q.col)
	words := fmt.Sprintf("%s written as %s and %s", q.name, q.table.YesNoRule.Yes, q.table.YesNoRule.No)
	if q.table.YesNoRule.Choices != nil {
		words = "choices of " + q.name + " written as the target has them"
	}
	return q.writes(steps.Order{Writes: []int{q.col},
		Do: func(r *steps.RowAt) bool {
			cell := r.Cell(q.col)
			if strings.TrimSpace(cell) == "" && (q.table.YesNoRule.Empty == "" || !r.Belongs(q.col)) {
				return false
			}
			after, ok := answering.Of(cell, &q.answer)
			switch {
			case !ok && strings.TrimSpace(cell) == "":
				q.left(r, q.col, cell, "An empty cell says neither")
				return false
			case !ok && q.table.YesNoRule.Choices != nil:
				q.left(r, q.col, cell, "is none of the choices")
				return false
			case !ok:
				q.left(r, q.col, cell, "says neither yes nor no")
				return false
			}
			r.Set(q.col, after, catalogue.RuleAmount, catalogue.Ordered, "")
			return after != cell
		}}, words)
}

// moments orders how dates are written.
func (q *quantityColumn) moments() error {
	s, rule := q.sheet, q.table.DateRule
	how := rule.Form + " " + rule.Zone
	s.tell(q.col, how)
	if s.AsLeft != nil && s.AsLeft.Written[s.Columns.Name(q.col)] == how {
		rule.TimesIn, rule.First = rule.Zone, rule.Begins()
	}
	dating := quantity.NewDating(&rule)
	q.learn(q.col)
	if s.Dates == nil {
		s.Dates = make(map[int]quantity.DateForm)
	}
	written := quantity.DateRule{First: rule.Begins()}
	s.Dates[q.col] = written.Order(quantity.DateForm{})
	return q.writes(steps.Order{Writes: []int{q.col},
		Do: func(r *steps.RowAt) bool {
			cell := r.Cell(q.col)
			if cell == "" {
				return false
			}
			form := rule.Order(q.dates)
			form.Old = rule.CountFrom == 1904
			after, is := dating.Of(cell, form)
			if is != quantity.Value {
				q.left(r, q.col, cell, why(is))
				return false
			}
			r.Set(q.col, after, catalogue.RuleAmount, catalogue.Ordered, "")
			return after != cell
		}}, fmt.Sprintf("dates of %s written as %s", q.name, rule.Form))
}

// margin looks whether enough of a price is left above the cost.
func (q *quantityColumn) margin() error {
	s := q.sheet
	cost, err := s.NeedOne("["+q.name+"] margin_at_least", catalogue.Cost.String())
	if err != nil {
		return &ruleError{key: "margin_at_least", error: err}
	}
	if cost < 0 || cost == q.col {
		return nil
	}
	theirs := &quantityColumn{sheet: s, table: &FieldTable{}, col: cost}
	mine := &quantityColumn{sheet: s, table: q.table, col: q.col}
	theirs.learn(cost)
	mine.learn(q.col)
	least := quantity.NewShare(q.table.PriceRule.MarginAtLeast)
	return s.Orders.AddCounted(steps.Order{Key: "field." + q.name, Phase: steps.PhaseLook, Reads: []int{cost, q.col}, Looks: true, Do: func(r *steps.RowAt) bool {
		price, paid := quantity.ReadPrice(r.Cell(q.col), mine.formNow()), quantity.ReadPrice(r.Cell(cost), theirs.formNow())
		if price.Is != quantity.Value || paid.Is != quantity.Value || price.Number.Sign() == 0 {
			return false
		}
		if margin, enough := least.Left(price.Number, paid.Number); !enough {
			r.Find(catalogue.PriceMargin, q.col, r.Cell(q.col), catalogue.Facts{Other: margin})
		}
		return false
	}}, q.table.Meant, -1)
}

// dated looks whether every price of a sale says from when to when it is one.
func (q *quantityColumn) dated() error {
	s := q.sheet
	var cols []int
	for _, f := range []catalogue.Field{catalogue.SaleFrom, catalogue.SaleTo} {
		col, err := s.NeedOne("["+q.name+"] dated", f.String())
		if err != nil {
			return &ruleError{key: "dated", error: err}
		}
		if col >= 0 {
			cols = append(cols, col)
		}
	}
	return s.Orders.AddCounted(steps.Order{Key: "field." + q.name, Phase: steps.PhaseLook, Reads: append(slices.Clone(cols), q.col), Looks: true, Do: func(r *steps.RowAt) bool {
		for _, col := range cols {
			if r.Cell(q.col) != "" && r.Cell(col) == "" {
				r.Find(catalogue.SaleUndated, col, "", catalogue.Facts{Other: s.Columns.Headings[q.col] + ", " + r.Cell(q.col)})
			}
		}
		return false
	}}, q.table.Meant, -1)
}

// tell takes down how a column is written.
func (s *Sheet) tell(col int, how string) {
	if s.Told.Written == nil {
		s.Told.Written = make(map[string]string)
	}
	s.Told.Written[s.Columns.Name(col)] = how
}

// outHeading returns how a column is called in what goes out.
func (s *Sheet) outHeading(col int) string {
	for _, o := range s.Plan.Out {
		if o.Col == col {
			return o.Heading
		}
	}
	return s.Columns.Headings[col]
}

// wordsOf reads the sheets of words that stand for numbers.
func (f *fieldSection) wordsOf(s *Sheet, name string, read func(path string) ([]lists.Pair, error)) error {
	t := (*f.rules)[name]
	if t.NumberRule.Words == "" {
		return nil
	}
	pairs, err := read(t.NumberRule.Words)
	if err != nil {
		return &ruleError{part: f.part(name), key: "words", error: fmt.Errorf("[%s] words: %w", name, err)}
	}
	if s.spoken == nil {
		s.spoken = make(map[string][]lists.Pair)
	}
	s.spoken[name] = pairs
	return nil
}

// beginQuantities proposes what amounts, dates, and yes and no need, one table for each field.
func beginQuantities(s *Seen, b *Draft) {
	cost := 0
	for _, c := range s.Columns {
		if c.Field == catalogue.Cost {
			cost = c.Filled
		}
	}
	for _, c := range s.Columns {
		var says, orders []string
		propose := func(why, order string) { says, orders = append(says, why), append(orders, order) }
		found := func(code catalogue.Code) (n int) {
			for _, f := range s.Found {
				if f.Code == code && f.Column == c.Heading {
					n += f.Cells
				}
			}
			return n
		}
		example := strings.TrimSpace(c.Example)
		switch kind := c.Field.Kind(); {
		case c.Field == catalogue.Unknown:
			continue
		case kind == catalogue.PriceKind:
			if n := cost - c.Filled; n > 0 && c.Field != catalogue.Cost && c.Field != catalogue.SalePrice {
				if propose(plural(n, "row")+" with a cost, and nothing here", "from    = \"cost\""); c.Field == catalogue.FloorPrice {
					orders = append(orders, "percent = 15                # or margin, times, plus")
				} else {
					orders = append(orders, "times   = 2                 # or percent, margin, plus; end_in = 0.95")
				}
			}
			if n := found(catalogue.SaleZero); n > 0 && c.Field == catalogue.SalePrice {
				propose(plural(n, "price")+" of 0", "zero    = \"none\"            # they mean that there is no sale")
			}
			if n := found(catalogue.PriceOpen); n > 0 {
				propose(plural(n, "price")+" that can be read in two ways", "decimal = \"comma\"           # or \"point\": which mark stands before decimals")
			}
			if p := quantity.ReadPrice(example, quantity.Form{}); p.Is == quantity.Value && (p.Currency != "" || p.Number.DecimalMark() == ',' || strings.Contains(example, ",")) {
				propose("written such as "+clean(example), "written = \"point\"           # bare numbers")
			}
		case kind == catalogue.MeasureKind:
			a := quantity.ReadAmounts(example, quantity.Form{})
			if _, dimension := quantity.Unit(a.Of[0].Unit); a.Is == quantity.Value && a.Of[0].Unit != "" && (dimension == "weight" || dimension == "length") {
				unit := map[string]string{"weight": "kg", "length": "cm"}[dimension]
				propose("written with its unit, such as "+clean(example), fmt.Sprintf("unit    = %q%s# the one that the target wants", unit, strings.Repeat(" ", 18-len(unit))))
			}
		case kind == catalogue.YesNoKind && example != "":
			propose("written such as "+clean(example), "yes     = \"1\"               # what the target wants\n# no      = \"0\"")
		case kind == catalogue.DateKind && example != "" && found(catalogue.DateOpen) > 0:
			propose("in which day and month are open", "form    = \"iso\"\n# first   = \"day\"             # or \"month\"")
		case kind == catalogue.DateKind && example != "" && (len(example) < 10 || example[4] != '-'):
			propose("written such as "+clean(example), "form    = \"iso\"             # or DD.MM.YYYY")
		}
		if orders == nil {
			continue
		}
		b.line("\n# %s: %s:\n# [%s]", clean(c.Heading), strings.Join(says, "; "), c.Field)
		for _, order := range orders {
			b.line("# %s", order)
		}
	}
}
