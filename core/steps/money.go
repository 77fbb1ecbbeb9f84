package steps

import (
	"encoding/binary"
	"maps"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/line"
	"zetanum/core/quantity"
)

// Money is the step that reads prices as what their columns show them to be, and the dates of sales, and looks whether they can be: a price
// that is no number, one that could be two, a sale that is none, a number against which its neighbours speak. It looks at what the rules have
// made of them, and writes nothing. date is the day of the run, and year that of it; shop says what the shop has, nil if nobody knows.
func Money(s *Sheet, date string, year int, shop ShopNumber) line.Step {
	c := &s.Columns
	m := &money{sheet: s, headings: c.Headings, year: year, title: c.First(catalogue.Title), beside: newNeighbours(c, shop),
		price: c.First(catalogue.Price), sale: c.First(catalogue.SalePrice), from: c.First(catalogue.SaleFrom), to: c.First(catalogue.SaleTo)}
	m.today = quantity.ReadDate(date, quantity.DateForm{Year: year})
	own := catalogue.ColumnSet{}
	for col := range c.Headings {
		switch c.Kind(col) {
		case catalogue.PriceKind:
			m.prices = append(m.prices, col)
		case catalogue.DateKind:
			m.dates = append(m.dates, col)
		default:
			continue
		}
		if col < c.Own() {
			own.Add(col)
		}
	}
	for j, f := range Rising {
		if m.ordered = append(m.ordered, c.First(f)); m.ordered[j] >= 0 {
			m.there = append(m.there, j)
		}
	}
	for _, col := range m.prices {
		m.places = append(m.places, slices.Index(m.ordered, col))
	}
	m.forms, m.usual, m.orders = make([]quantity.Form, len(c.Headings)), make([]string, len(c.Headings)), make([]quantity.DateForm, len(c.Headings))
	for col := range m.orders {
		m.orders[col].Year = year
	}
	s.OwnRatios = s.ownRatios()
	step := line.Step{Name: NameMoney, Reads: catalogue.ColumnsOf(slices.Concat(m.prices, m.dates, m.beside.cols)...), New: func(line.Aggregate) (line.Repairer, error) {
		m.asWritten()
		return repairFunc(m.repair), nil
	}}
	step.Glances.Add(m.title)
	for _, own := range s.OwnRatios {
		step.Reads.Add(own.Col)
	}
	if step.Learns = m.beside.learns(c.Own()); !own.Empty() || !step.Learns.Empty() {
		step.Learns.AddAll(own)
		step.Learn = func() line.Aggregate { return newMoneySeen(m, own) }
		step.New = func(learned line.Aggregate) (line.Repairer, error) {
			learned.(*moneySeen).tell(m)
			return repairFunc(m.repair), nil
		}
	}
	return step
}

// Rising are the amounts of money of which none is to be above one that comes after it; the price has to be above that of a sale.
var Rising = [...]catalogue.Field{catalogue.Cost, catalogue.FloorPrice, catalogue.SalePrice, catalogue.Price, catalogue.ListPrice}

type money struct {
	sheet                 *Sheet
	headings              []string
	year                  int
	today                 quantity.Moment
	prices, dates         []int // columns
	ordered               []int // by Rising; -1 for none
	there                 []int // places in Rising of those that are there
	places                []int // of prices in that, -1 for others
	price, sale, from, to int
	title                 int
	beside                *neighbours

	// What the survey has shown of each column.
	forms  []quantity.Form
	usual  []string // the currency that most cells have, where there are several; "" otherwise
	orders []quantity.DateForm
}

// asWritten lets columns be read as rules have written them.
func (m *money) asWritten() {
	for col, form := range m.sheet.Forms {
		m.forms[col] = form
	}
	for col, form := range m.sheet.Dates {
		form.Year = m.year
		m.orders[col] = form
	}
}

func (m *money) repair(p *catalogue.Product, log *line.Log) {
	for i, row := range p.Rows {
		if log.IsAside(i) {
			continue
		}
		note := func(code catalogue.Code, col int, facts catalogue.Facts) {
			log.Notice(code, row, col, row.Cell(col), facts)
		}
		var plain [len(Rising)]quantity.Number // what is read at once
		for n, col := range m.prices {
			cell := row.Cell(col)
			if cell == "" {
				continue
			}
			number, is := quantity.Plain(cell)
			if j := m.places[n]; is && j >= 0 && (number.DecimalMark() == 0 || number.DecimalMark() == m.forms[col].Decimal) {
				plain[j] = number
			}
			if row.Mark(col)&catalogue.Failed == 0 && !log.Has(catalogue.ValueNotWritten, row, col) {
				m.look(row, col, cell, number, is, note, log)
			}
		}
		for _, col := range m.dates {
			if cell := row.Cell(col); cell != "" && !log.Has(catalogue.ValueNotWritten, row, col) {
				switch quantity.ReadDate(cell, m.orders[col]).Is {
				case quantity.Impossible:
					note(catalogue.DateImpossible, col, catalogue.Facts{})
				case quantity.Asked:
					note(catalogue.DateOpen, col, catalogue.Facts{})
				}
			}
		}
		m.rising(row, &plain, note)
		if m.sale >= 0 && row.Cell(m.sale) != "" {
			m.offer(row, note)
		}
		m.period(row, note)
		if m.sheet.OwnRatios != nil && row.Made == 0 {
			m.compare(row, note)
		}
		if row.Made == 0 {
			m.beside.look(row, row.Cell(m.title), m.headings, note)
		}
	}
}

// A noting takes a finding about a cell of the row down that is looked at.
type noting = func(code catalogue.Code, col int, facts catalogue.Facts)

// look looks at one price; n is the number if it is plain.
func (m *money) look(row *catalogue.Row, col int, cell string, n quantity.Number, plain bool, note noting, log *line.Log) {
	form := m.forms[col]
	if len(cell) >= surelyBarcode && isBarcode(cell) {
		note(catalogue.PriceIsBarcode, col, catalogue.Facts{})
		return
	}
	if plain && (n.DecimalMark() == 0 || form.Decimal == 0 || n.DecimalMark() == form.Decimal) {
		return // 12.50, as nearly all are
	}
	switch p := quantity.ReadPrice(cell, form); p.Is {
	case quantity.Value:
		if usual := m.usual[col]; usual != "" && p.Currency != "" && p.Currency != usual {
			note(catalogue.PriceCurrency, col, catalogue.Facts{Other: usual})
		}
	case quantity.Asked:
		facts := catalogue.Facts{}
		if quantity.ReadPrice(cell, quantity.Form{}).Is == quantity.Asked { // and not written otherwise than the others
			facts.Proposed = p.Number.Whole()
		}
		note(catalogue.PriceOpen, col, facts)
	case quantity.Negative:
		note(catalogue.PriceNegative, col, catalogue.Facts{})
	case quantity.Blank:
	default:
		if !log.Has(catalogue.CellError, row, col) {
			note(catalogue.PriceNotANumber, col, catalogue.Facts{})
		}
	}
}

// surelyBarcode is how many digits a number has at least that is no price if it is a barcode by its check digit.
const surelyBarcode = 12

// number reads a price of a row.
func (m *money) number(row *catalogue.Row, col int) (n quantity.Number, ok bool) {
	cell := row.Cell(col)
	if cell == "" {
		return n, false
	}
	if n, plain := quantity.Plain(cell); plain && (n.DecimalMark() == 0 || n.DecimalMark() == m.forms[col].Decimal) {
		return n, true
	}
	p := quantity.ReadPrice(cell, m.forms[col])
	return p.Number, p.Is == quantity.Value
}

// rising looks whether the amounts of a row are in the order in which they should be. Of the sale price and the price more is to be said.
// plain are those that are plain numbers.
func (m *money) rising(row *catalogue.Row, plain *[len(Rising)]quantity.Number, note noting) {
	var numbers [len(Rising)]quantity.Number
	var last [2]int // places of the two before
	seen := 0
	for _, j := range m.there {
		upper := m.ordered[j]
		high, ok := plain[j], true
		if !high.IsValid() {
			high, ok = m.number(row, upper)
		}
		if !ok || high.Sign() == 0 && Rising[j] == catalogue.SalePrice {
			continue
		}
		numbers[j] = high
		k := last[0] // the nearest is enough
		if seen > 0 && Rising[j] == catalogue.Price && Rising[k] == catalogue.SalePrice {
			if k = last[1]; seen < 2 {
				k = j
			}
		}
		if seen > 0 && numbers[k].Cmp(high) > 0 && !m.beside.within(row.Number, m.ordered[k], upper) {
			note(catalogue.PriceOrder, m.ordered[k], catalogue.Facts{Other: m.headings[upper] + ", " + row.Cell(upper)})
		}
		last[0], last[1] = j, last[0]
		seen++
	}
}

// offer looks at the sale price.
func (m *money) offer(row *catalogue.Row, note noting) {
	sale, ok := m.number(row, m.sale)
	if !ok {
		return
	}
	if sale.Sign() == 0 {
		if m.sheet.Targeted {
			note(catalogue.SaleTrap, m.sale, catalogue.Facts{Other: "nothing at all"})
		} else {
			note(catalogue.SaleZero, m.sale, catalogue.Facts{})
		}
		return
	}
	if m.price >= 0 {
		if price, ok := m.number(row, m.price); ok {
			if sale.Cmp(price) >= 0 && !m.beside.within(row.Number, m.sale, m.price) {
				if m.sheet.Targeted {
					note(catalogue.SaleTrap, m.sale, catalogue.Facts{Other: "and not below the price, " + row.Cell(m.price)})
				} else {
					note(catalogue.SaleNotBelow, m.sale, catalogue.Facts{Other: row.Cell(m.price)})
				}
			}
		} else if row.Cell(m.price) == "" {
			note(catalogue.SaleAlone, m.sale, catalogue.Facts{})
		}
	}
	if m.from >= 0 && m.to >= 0 && (row.Cell(m.from) == "") != (row.Cell(m.to) == "") {
		missing := m.from
		if row.Cell(m.to) == "" {
			missing = m.to
		}
		note(catalogue.SaleHalfDated, missing, catalogue.Facts{})
	}
}

// period looks whether a sale begins before it ends, and whether it is over.
func (m *money) period(row *catalogue.Row, note noting) {
	if m.to < 0 || row.Cell(m.to) == "" {
		return
	}
	to := quantity.ReadDate(row.Cell(m.to), m.orders[m.to])
	if to.Is != quantity.Value {
		return
	}
	if m.from >= 0 && row.Cell(m.from) != "" {
		from := quantity.ReadDate(row.Cell(m.from), m.orders[m.from])
		if from.Is == quantity.Value && from.HasZone == to.HasZone && to.Before(from) {
			note(catalogue.SaleReversed, m.to, catalogue.Facts{Other: row.Cell(m.from)})
			return
		}
	}
	if m.today.Is == quantity.Value && !to.HasZone && to.Before(m.today) && m.sale >= 0 && row.Cell(m.sale) != "" {
		note(catalogue.SaleOver, m.to, catalogue.Facts{})
	}
}

// moneySeen is what columns show of prices and dates.
type moneySeen struct {
	of         *money
	own        catalogue.ColumnSet
	marks      []quantity.Marks // by place among the columns of prices
	currencies []map[string]int
	orders     []quantity.Orders // by place among those of dates
	places     []int             // of prices among the numbers that are looked at beside one another; -1 for others
	beside     *numbersSeen
}

// mostCurrencies is how many currencies of a column are counted.
const mostCurrencies = 16

func newMoneySeen(of *money, own catalogue.ColumnSet) *moneySeen {
	s := &moneySeen{of, own, make([]quantity.Marks, len(of.prices)), make([]map[string]int, len(of.prices)), make([]quantity.Orders, len(of.dates)), nil,
		newNumbersSeen(of.beside)}
	for _, col := range of.prices {
		s.places = append(s.places, of.beside.placeOf(col))
	}
	return s
}

func (s *moneySeen) Learn(p *catalogue.Product) {
	category := s.beside.categoryOf(p)
	for _, row := range p.Rows {
		for n, col := range s.of.prices {
			if !s.own.Has(col) {
				continue
			}
			var price quantity.Price
			var open rune
			if cell := row.Cell(col); cell == "" {
				price.Is = quantity.Blank
			} else if price, open = s.marks[n].Learn(cell); price.Currency != "" {
				s.count(n, price.Currency, 1)
			}
			if s.places[n] >= 0 {
				s.beside.price(s.places[n], price, open)
			}
		}
		s.beside.learn(row, category)
		for n, col := range s.of.dates {
			if cell := row.Cell(col); cell != "" && s.own.Has(col) {
				s.orders[n].Learn(cell)
			}
		}
	}
}

// Place says where the part lies.
func (s *moneySeen) Place(above int) { s.beside.table.Place(above) }

func (s *moneySeen) count(n int, currency string, times int) {
	if currency == "" || s.currencies[n][currency] == 0 && len(s.currencies[n]) >= mostCurrencies {
		return
	}
	if s.currencies[n] == nil {
		s.currencies[n] = make(map[string]int)
	}
	if s.currencies[n][currency] == 0 {
		currency = strings.Clone(currency)
	}
	s.currencies[n][currency] += times
}

func (s *moneySeen) Merge(next line.Aggregate) {
	with := next.(*moneySeen)
	for n := range s.marks {
		s.marks[n].Merge(with.marks[n])
		for _, currency := range slices.Sorted(maps.Keys(with.currencies[n])) {
			s.count(n, currency, with.currencies[n][currency])
		}
	}
	for n := range s.orders {
		s.orders[n].Merge(with.orders[n])
	}
	s.beside.merge(with.beside)
}

func (s *moneySeen) AppendBinary(b []byte) ([]byte, error) {
	for n, m := range s.marks {
		b = m.AppendTo(b)
		for _, currency := range slices.Sorted(maps.Keys(s.currencies[n])) {
			b = binary.AppendUvarint(append(append(b, currency...), 0), uint64(s.currencies[n][currency]))
		}
		b = append(b, 0)
	}
	for n := range s.orders {
		b = s.orders[n].AppendTo(b)
	}
	return s.beside.appendBinary(b), nil
}

// tell says how the columns are read.
func (s *moneySeen) tell(m *money) {
	for n, col := range m.prices {
		m.forms[col] = s.marks[n].Form()
		if len(s.currencies[n]) < 2 {
			continue
		}
		for _, currency := range slices.Sorted(maps.Keys(s.currencies[n])) {
			if s.currencies[n][currency] > s.currencies[n][m.usual[col]] {
				m.usual[col] = currency
			}
		}
	}
	for n, col := range m.dates {
		m.orders[col] = s.orders[n].Form(m.year)
	}
	s.beside.tell(m.forms)
	s.beside.exchange(m.sheet)
	m.asWritten()
}
