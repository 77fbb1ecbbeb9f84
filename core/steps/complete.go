package steps

import (
	"encoding/binary"
	"slices"

	"zetanum/core/catalogue"
	"zetanum/core/line"
	"zetanum/core/products"
)

// Complete is the step that looks whether products have all variants that they have in the
// shop.
func Complete(s *Sheet, shop *products.Shop) line.Step {
	sku := s.Columns.First(catalogue.SKU)
	step := line.Step{Name: NameComplete, New: idle}
	if shop == nil || sku < 0 {
		return step
	}
	step.Reads, step.Learns = catalogue.ColumnsOf(sku), catalogue.ColumnsOf(sku)
	step.Learn = func() line.Aggregate {
		return &shopAggregate{shop: shop, sku: sku, here: make([]uint64, (shop.Len()+63)/64)}
	}
	step.New = func(learned line.Aggregate) (line.Repairer, error) {
		l := learned.(*shopAggregate)
		return repairFunc(func(p *catalogue.Product, log *line.Log) {
			lead := -1
			var own []int
			for i, row := range p.Rows {
				if lead < 0 && !log.IsAside(i) {
					lead = i
				}
				if n, ok := shop.Number(row.Cell(sku)); ok {
					own = append(own, n)
				}
			}
			if lead < 0 || own == nil {
				return
			}
			// A rule may have made rows that the survey has not seen.
			out := shop.LeftOut(own, func(n int) bool { return l.has(n) || slices.Contains(own, n) })
			if out != "" {
				log.Notice(catalogue.ProductLeftOut, p.Rows[lead], sku, p.Rows[lead].Cell(sku), catalogue.Facts{Other: out})
			}
		}), nil
	}
	return step
}

// shopAggregate knows which SKUs of the shop are in the sheet: a bit for each.
type shopAggregate struct {
	shop *products.Shop
	sku  int
	here []uint64
}

// InShop reports whether an aggregate is about the SKUs of the shop, of what name, and whether the
// sheet has any of them.
func InShop(aggregate line.Aggregate) (name string, any, ok bool) {
	l, ok := aggregate.(*shopAggregate)
	if !ok {
		return "", false, false
	}
	return l.shop.Name, slices.ContainsFunc(l.here, func(bits uint64) bool { return bits != 0 }), true
}

func (l *shopAggregate) has(n int) bool { return l.here[n/64]&(1<<(n%64)) != 0 }

func (l *shopAggregate) Learn(p *catalogue.Product) {
	for _, row := range p.Rows {
		if n, ok := l.shop.Number(row.Cell(l.sku)); ok {
			l.here[n/64] |= 1 << (n % 64)
		}
	}
}

func (l *shopAggregate) Merge(next line.Aggregate) {
	for i, bits := range next.(*shopAggregate).here {
		l.here[i] |= bits
	}
}

func (l *shopAggregate) AppendBinary(b []byte) ([]byte, error) {
	for _, bits := range l.here {
		b = binary.BigEndian.AppendUint64(b, bits)
	}
	return b, nil
}
