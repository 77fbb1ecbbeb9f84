package sections

import (
	"slices"
	"strconv"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/condition"
	"zetanum/core/export"
	"zetanum/core/heading"
	"zetanum/core/line"
	"zetanum/core/quantity"
	"zetanum/core/steps"
)

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
		q.learn(seeMarks)
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

// decideSwapped orders that cells of columns of prices are exchanged where they look swapped, and somebody has said that they are. In an output
// of ours of which that has been said it has been done.
func (s *Sheet) decideSwapped() error {
	var cols []int
	for _, f := range steps.Rising {
		if col := s.Columns.First(f); col >= 0 && col < s.Columns.Own() {
			cols = append(cols, col)
		}
	}
	for n, upper := range cols {
		for _, lower := range cols[:n] {
			pair := [2]int{lower, upper}
			name := s.Columns.Name(lower) + " " + s.Columns.Name(upper)
			said := slices.ContainsFunc(pair[:], func(col int) bool {
				_, yes := s.Decisions.For(catalogue.PriceSwapped, s.Columns.Headings[col], "", "")
				return yes
			})
			if !said {
				continue
			}
			s.Told.Exchanged = append(s.Told.Exchanged, name)
			if s.AsLeft != nil && slices.Contains(s.AsLeft.Exchanged, name) {
				continue
			}
			if err := s.exchange(pair); err != nil {
				return err
			}
		}
	}
	return nil
}

// exchange orders that the cells of two columns are exchanged where they look swapped; a price that can be read in two ways stays where it is.
func (s *Sheet) exchange(pair [2]int) error {
	if s.Exchanges == nil {
		s.Exchanges = make(map[[2]int]bool)
	}
	s.Exchanges[pair] = true
	var of [2]*quantityColumn
	for n, col := range pair {
		of[n] = &quantityColumn{sheet: s, table: &FieldTable{}, col: col}
		of[n].learn(seeMarks)
	}
	return s.Orders.AddCounted(steps.Order{Key: "answers", Phase: steps.PhaseBorrow, Reads: pair[:], Writes: pair[:], Rests: true,
		Rules: []catalogue.Rule{catalogue.RuleDecided}, Do: func(r *steps.RowAt) bool {
			if !slices.ContainsFunc(s.Swapped, func(one steps.Swapped) bool { return one.Cols == pair && r.Number >= one.First && r.Number <= one.Last }) {
				return false
			}
			var cells [2]string
			for n, col := range pair {
				if cells[n] = r.Cell(col); r.Log.Wrote(catalogue.RuleDecided, r.Row, col) || quantity.ReadPrice(cells[n], of[n].form).Is == quantity.Asked {
					return false
				}
			}
			for n, col := range pair {
				r.Set(col, cells[1-n], catalogue.RuleDecided, catalogue.Decided, s.Columns.Headings[pair[1-n]])
			}
			return true
		}}, condition.Meant{}, -1)
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
	q.learn(seeMarks)
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
		q.from.learn(seeMarks)
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
	before, how := "", ": "+rule.Words()
	if from >= 0 {
		before = s.Columns.Headings[from] + " "
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
			if old := quantity.ReadPrice(cell, q.form); old.Is == quantity.Value {
				if now := quantity.ReadPrice(after, quantity.Form{Decimal: q.mark(), Fine: true}); now.Is == quantity.Value && pricing.Beyond(old.Number, now.Number) {
					s.Orders.Unknown(r, catalogue.PriceLeaps, q.col, cell, catalogue.Facts{Other: after})
					return false
				}
			}
		}
		if after != cell {
			said := ""
			if source != "" {
				said = before + source + how
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
	theirs.learn(seeMarks)
	mine.learn(seeMarks)
	least := quantity.NewShare(q.table.PriceRule.MarginAtLeast)
	if s.margins < 0 {
		s.margins = s.List(line.List{Name: export.MarginsName, At: 1, Known: steps.KnownBy(&s.Columns),
			Headings: slices.Concat([]string{"Row"}, s.knownBy(), export.MarginHeadings)})
	}
	known, all := make([]string, len(s.knownBy())), s.Table.Extent <= export.MarginsOfAll
	told := s.Columns.Headings[q.col]
	return s.Orders.AddCounted(steps.Order{Key: "field." + q.name, Phase: steps.PhaseLook, Reads: []int{cost, q.col}, Looks: true, Do: func(r *steps.RowAt) bool {
		price, paid := quantity.ReadPrice(r.Cell(q.col), mine.formNow()), quantity.ReadPrice(r.Cell(cost), theirs.formNow())
		if price.Is != quantity.Value || paid.Is != quantity.Value || price.Number.Sign() == 0 {
			return false
		}
		enough := least.IsLeft(price.Number, paid.Number)
		if !r.Dry && (!enough || all) {
			says := ""
			if !enough {
				says = "too little"
			}
			r.Log.Enter(s.margins, r.Index, slices.Concat([]string{strconv.Itoa(r.Number)}, known, []string{told, paid.Number.Plain(), price.Number.Plain(), says})...)
		}
		if !enough {
			r.Find(catalogue.PriceMargin, q.col, r.Cell(q.col), catalogue.Facts{Other: least.Left(price.Number, paid.Number)})
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
