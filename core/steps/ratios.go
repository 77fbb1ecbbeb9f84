package steps

import (
	"zetanum/core/catalogue"
	"zetanum/core/quantity"
)

// An OwnRatio is a column of somebody's own that reckons something from the price and the cost beside it, such as a margin.
type OwnRatio struct {
	Col   int
	Ratio quantity.Ratio
	form  quantity.Form
}

// ownRatios finds them, to judge by the first rows.
func (s *Sheet) ownRatios() (found []OwnRatio) {
	c := &s.Columns
	price, cost := c.First(catalogue.Price), c.First(catalogue.Cost)
	if price < 0 || cost < 0 || price >= c.Own() || cost >= c.Own() {
		return nil
	}
	for col := range c.Own() {
		if c.Fields[col] != catalogue.Unknown {
			continue
		}
		var rows [][3]string
		for _, cells := range s.Table.Sample {
			if max(col, price, cost) < len(cells) && cells[col] != "" {
				rows = append(rows, [3]string{cells[col], cells[price], cells[cost]})
			}
		}
		if r, form := quantity.RatioOf(rows); r != quantity.NoRatio {
			found = append(found, OwnRatio{col, r, form})
		}
	}
	return found
}

// compare looks whether what somebody has reckoned is what the price and the cost of a row say, where no rule has changed these.
func (m *money) compare(row *catalogue.Row, note noting) {
	price, cost := m.price, m.ordered[0]
	if row.Mark(price)&catalogue.Altered != 0 || row.Mark(cost)&catalogue.Altered != 0 {
		return
	}
	for _, own := range m.sheet.OwnRatios {
		n, ok := quantity.ReadRatio(row.Cell(own.Col), own.form)
		p, paid := m.number(row, price)
		c, known := m.number(row, cost)
		if !ok || !paid || !known {
			continue
		}
		if fits, compared := own.Ratio.Fits(n, p, c); compared && !fits {
			note(catalogue.PriceRatio, own.Col, catalogue.Facts{Other: own.Ratio.String() + " is " + own.Ratio.Of(n, p, c)})
		}
	}
}
