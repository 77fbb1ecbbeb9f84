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
// that is no number, one that could be two, a sale that is none. It looks at what the rules have made of them, and writes nothing. year is
// that of the run.
func Money(s *Sheet, year int) line.Step {
	c := &s.Columns
	m := &money{year: year, price: c.First(catalogue.Price), sale: c.First(catalogue.SalePrice), from: c.First(catalogue.SaleFrom), to: c.First(catalogue.SaleTo)}
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
	m.forms, m.usual, m.orders = make([]quantity.Form, len(c.Headings)), make([]string, len(c.Headings)), make([]quantity.DateForm, len(c.Headings))
	for col := range m.orders {
		m.orders[col].Year = year
	}
	step := line.Step{Name: NameMoney, Reads: catalogue.ColumnsOf(slices.Concat(m.prices, m.dates)...), New: always(m.repair)}
	if !own.Empty() {
		step.Learns = own
		step.Learn = func() line.Aggregate { return newMoneySeen(m, own) }
		step.New = func(learned line.Aggregate) (line.Repairer, error) {
			learned.(*moneySeen).tell(m)
			return repairFunc(m.repair), nil
		}
	}
	return step
}

type money struct {
	year                  int
	prices, dates         []int // columns
	price, sale, from, to int

	// What the survey has shown of each column.
	forms  []quantity.Form
	usual  []string // the currency that most cells have, where there are several; "" otherwise
	orders []quantity.DateForm
}

func (m *money) repair(p *catalogue.Product, log *line.Log) {
	for i, row := range p.Rows {
		if log.IsAside(i) {
			continue
		}
		for _, col := range m.prices {
			if cell := row.Cell(col); cell != "" && row.Mark(col)&catalogue.Failed == 0 {
				m.look(row, col, cell, log)
			}
		}
		for _, col := range m.dates {
			if cell := row.Cell(col); cell != "" {
				switch quantity.ReadDate(cell, m.orders[col]).Is {
				case quantity.Impossible:
					log.Notice(catalogue.DateImpossible, row, col, cell, catalogue.Facts{})
				case quantity.Asked:
					log.Notice(catalogue.DateOpen, row, col, cell, catalogue.Facts{})
				}
			}
		}
		if m.sale >= 0 && row.Cell(m.sale) != "" {
			m.offer(row, log)
		}
		m.period(row, log)
	}
}

// look looks at one price.
func (m *money) look(row *catalogue.Row, col int, cell string, log *line.Log) {
	form := m.forms[col]
	if mark, plain := quantity.Plain(cell); plain && (mark == 0 || form.Decimal == 0 || mark == form.Decimal) {
		return // 12.50, as nearly all are
	}
	switch p := quantity.ReadPrice(cell, form); p.Is {
	case quantity.Value:
		if usual := m.usual[col]; usual != "" && p.Currency != "" && p.Currency != usual {
			log.Notice(catalogue.PriceCurrency, row, col, cell, catalogue.Facts{Other: usual})
		}
	case quantity.Asked:
		log.Notice(catalogue.PriceOpen, row, col, cell, catalogue.Facts{})
	case quantity.Negative:
		log.Notice(catalogue.PriceNegative, row, col, cell, catalogue.Facts{})
	case quantity.Blank:
	default:
		if !log.Has(catalogue.CellError, row, col) {
			log.Notice(catalogue.PriceNotANumber, row, col, cell, catalogue.Facts{})
		}
	}
}

// offer looks at the sale price.
func (m *money) offer(row *catalogue.Row, log *line.Log) {
	cell := row.Cell(m.sale)
	sale := quantity.ReadPrice(cell, m.forms[m.sale])
	if sale.Is != quantity.Value {
		return
	}
	if sale.Number.Sign() == 0 {
		log.Notice(catalogue.SaleZero, row, m.sale, cell, catalogue.Facts{})
		return
	}
	if m.price < 0 {
		return
	}
	if price := quantity.ReadPrice(row.Cell(m.price), m.forms[m.price]); price.Is == quantity.Value && sale.Number.Cmp(price.Number) >= 0 {
		log.Notice(catalogue.SaleNotBelow, row, m.sale, cell, catalogue.Facts{Other: row.Cell(m.price)})
	}
}

// period looks whether a sale begins before it ends.
func (m *money) period(row *catalogue.Row, log *line.Log) {
	if m.from < 0 || m.to < 0 || row.Cell(m.from) == "" || row.Cell(m.to) == "" {
		return
	}
	from, to := quantity.ReadDate(row.Cell(m.from), m.orders[m.from]), quantity.ReadDate(row.Cell(m.to), m.orders[m.to])
	if from.Is == quantity.Value && to.Is == quantity.Value && from.HasZone == to.HasZone && to.Before(from) {
		log.Notice(catalogue.SaleReversed, row, m.to, row.Cell(m.to), catalogue.Facts{Other: row.Cell(m.from)})
	}
}

// moneySeen is what columns show of prices and dates.
type moneySeen struct {
	of         *money
	own        catalogue.ColumnSet
	marks      []quantity.Marks // by place among the columns of prices
	currencies []map[string]int
	orders     []quantity.Orders // by place among those of dates
}

// mostCurrencies is how many currencies of a column are counted.
const mostCurrencies = 16

func newMoneySeen(of *money, own catalogue.ColumnSet) *moneySeen {
	return &moneySeen{of, own, make([]quantity.Marks, len(of.prices)), make([]map[string]int, len(of.prices)), make([]quantity.Orders, len(of.dates))}
}

func (s *moneySeen) Learn(p *catalogue.Product) {
	for _, row := range p.Rows {
		for n, col := range s.of.prices {
			cell := row.Cell(col)
			if cell == "" || !s.own.Has(col) {
				continue
			}
			s.count(n, s.marks[n].Learn(cell).Currency, 1)
		}
		for n, col := range s.of.dates {
			if cell := row.Cell(col); cell != "" && s.own.Has(col) {
				s.orders[n].Learn(cell)
			}
		}
	}
}

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
}

func (s *moneySeen) AppendBinary(b []byte) ([]byte, error) {
	for n, m := range s.marks {
		for _, count := range []int{m.Comma, m.Point, m.Fine, m.Open} {
			b = binary.AppendUvarint(b, uint64(count))
		}
		for _, currency := range slices.Sorted(maps.Keys(s.currencies[n])) {
			b = binary.AppendUvarint(append(append(b, currency...), 0), uint64(s.currencies[n][currency]))
		}
		b = append(b, 0)
	}
	for n := range s.orders {
		b = s.orders[n].AppendTo(b)
	}
	return b, nil
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
}
