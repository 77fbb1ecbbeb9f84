package steps

import (
	"encoding/binary"
	"slices"
	"strings"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/line"
	"zetanum/core/products"
)

// Parents is the step that looks whether the parents that rows name are in the sheet, if
// any of them is, and whether those that are there have children.
func Parents(s *Sheet) line.Step {
	layout, sku, parent := s.Products, s.Columns.First(catalogue.SKU), s.Columns.First(catalogue.ParentSKU)
	step := line.Step{Name: NameParents, New: idle, Reads: catalogue.ColumnsOf(sku)}
	step.Reads.Add(layout.ParentColumns...)
	if sku < 0 || parent < 0 {
		if layout.Parent != nil {
			step.New = func(line.Aggregate) (line.Repairer, error) { return &parents{layout: layout, sku: sku, col: -1}, nil }
		}
		return step
	}
	var sold []int
	for _, f := range []catalogue.Field{catalogue.Price, catalogue.Barcode, catalogue.Stock} {
		sold = append(sold, s.Columns.All(f)...)
	}
	step.Reads.Add(parent)
	step.Reads.Add(sold...)
	step.Learns.Add(sku, parent)
	step.Learns.Add(sold...)
	step.Learn = func() line.Aggregate { return &parentAggregate{sku: sku, parent: parent, sold: sold} }
	step.New = func(learned line.Aggregate) (line.Repairer, error) {
		l := learned.(*parentAggregate)
		l.sort()
		m := &parents{aggregate: l, layout: layout, sku: sku, col: parent, sold: sold, missing: make(map[uint64]bool), named: l.parents}
		for _, key := range l.parents {
			if _, there := slices.BinarySearch(l.skus, key); !there {
				m.missing[key] = true
			}
		}
		if len(m.missing) == len(l.parents) {
			m.missing, m.named = nil, nil // the parents are somewhere else
		}
		// Where children are known by their prices, a row without any that nobody names as its
		// parent is one that has lost its children.
		m.tells = 10*l.priced >= 9*l.children && len(m.named) > 0
		if len(m.missing) == 0 && !m.tells && layout.Parent == nil {
			return nil, nil
		}
		return m, nil
	}
	return step
}

// parentAggregate gathers the SKUs of a sheet, and those that rows name as their parents, as
// numbers that stand for them.
type parentAggregate struct {
	sku, parent   int
	sold          []int // columns of what only that has that is sold
	skus, parents []uint64
	alike         []uint64 // SKUs as they are without case, spaces and dashes, if that is another text
	children      uint64   // rows that name a parent
	priced        uint64   // those with something of what is sold
}

func (l *parentAggregate) Learn(p *catalogue.Product) {
	for _, row := range p.Rows {
		if cell := row.Cell(l.sku); cell != "" {
			l.skus = append(l.skus, xxhash.Sum64String(cell))
			if loose := products.Loosely(cell); loose != cell {
				l.alike = append(l.alike, xxhash.Sum64String(loose))
			}
		}
		if cell := row.Cell(l.parent); cell != "" {
			if l.children++; isSold(row, l.sold) {
				l.priced++
			}
			key := xxhash.Sum64String(cell)
			if n := len(l.parents); n == 0 || l.parents[n-1] != key {
				l.parents = append(l.parents, key)
			}
		}
	}
}

// isSold reports whether a row has anything of what is sold.
func isSold(row *catalogue.Row, sold []int) bool {
	return slices.ContainsFunc(sold, func(col int) bool { return strings.TrimSpace(row.Cell(col)) != "" })
}

func (l *parentAggregate) Merge(next line.Aggregate) {
	n := next.(*parentAggregate)
	l.skus, l.parents, l.alike = append(l.skus, n.skus...), append(l.parents, n.parents...), append(l.alike, n.alike...)
	l.children, l.priced = l.children+n.children, l.priced+n.priced
}

// sort leaves each of them once.
func (l *parentAggregate) sort() {
	for _, list := range []*[]uint64{&l.skus, &l.parents, &l.alike} {
		slices.Sort(*list)
		*list = slices.Compact(*list)
	}
}

func (l *parentAggregate) AppendBinary(b []byte) ([]byte, error) {
	sorted := parentAggregate{skus: slices.Clone(l.skus), parents: slices.Clone(l.parents), alike: slices.Clone(l.alike)}
	sorted.sort()
	for _, list := range [][]uint64{sorted.skus, sorted.parents, sorted.alike} {
		b = binary.AppendUvarint(b, uint64(len(list)))
		for _, key := range list {
			b = binary.BigEndian.AppendUint64(b, key)
		}
	}
	return binary.AppendUvarint(binary.AppendUvarint(b, l.children), l.priced), nil
}

type parents struct {
	layout    *products.Layout
	sku, col  int
	sold      []int
	aggregate *parentAggregate
	missing   map[uint64]bool
	named     []uint64 // what rows name as their parents, sorted
	tells     bool     // a row without anything of what is sold is a parent
}

func (m *parents) Repair(p *catalogue.Product, log *line.Log) {
	last := ""
	for i, row := range p.Rows {
		if log.IsAside(i) {
			continue
		}
		cell := row.Cell(m.col)
		if cell == "" {
			m.childless(p, i, log)
			continue
		}
		if cell != last && m.missing[xxhash.Sum64String(cell)] {
			log.Notice(catalogue.ProductNoParent, row, m.col, cell, catalogue.Facts{Decides: m.aggregate.near(cell)})
		}
		last = cell
	}
}

// near says in a sentence that there is a SKU which is nearly the same as a parent that is
// missing, "" if there is none.
func (l *parentAggregate) near(parent string) string {
	key := xxhash.Sum64String(products.Loosely(parent))
	_, there := slices.BinarySearch(l.alike, key)
	if _, same := slices.BinarySearch(l.skus, key); !same && !there {
		return ""
	}
	return "There is one that differs from it only in case, spaces or dashes."
}

// childless looks whether a row that is a parent has children: rows that name it, wherever
// they stand, or variants of the same product.
func (m *parents) childless(p *catalogue.Product, i int, log *line.Log) {
	row := p.Rows[i]
	declared := m.layout.Parent != nil
	switch {
	case declared && !m.layout.Parent(row):
		return
	case !declared && (!m.tells || row.Cell(m.sku) == "" || len(p.Rows) > 1 || isSold(row, m.sold)):
		return
	}
	if _, named := slices.BinarySearch(m.named, xxhash.Sum64String(row.Cell(m.sku))); named && row.Cell(m.sku) != "" {
		return
	}
	for j := range p.Rows {
		if j != i && !log.IsAside(j) && p.Role(j)&catalogue.Variant != 0 {
			return
		}
	}
	code := catalogue.ProductPerhapsNoVariants
	if declared {
		code = catalogue.ProductNoVariants
	}
	log.Notice(code, row, m.sku, row.Cell(m.sku), catalogue.Facts{})
}
