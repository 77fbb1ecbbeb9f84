package steps

import (
	"encoding/binary"
	"slices"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/line"
	"zetanum/core/sheet"
)

// Parents is the step that looks whether the parents that rows name are in the sheet, if
// any of them is.
func Parents(table *sheet.Table) line.Step {
	sku, parent := table.Columns.First(catalogue.SKU), table.Columns.First(catalogue.ParentSKU)
	step := line.Step{Name: "parents", New: func(line.Lore) (line.Repairer, error) { return nil, nil }}
	if sku < 0 || parent < 0 {
		return step
	}
	step.Learn = func() line.Lore { return &parentLore{sku: sku, parent: parent} }
	step.New = func(learned line.Lore) (line.Repairer, error) {
		l := learned.(*parentLore)
		l.sort()
		missing := make(map[uint64]bool)
		for _, key := range l.parents {
			if _, there := slices.BinarySearch(l.skus, key); !there {
				missing[key] = true
			}
		}
		if len(missing) == 0 || len(missing) == len(l.parents) {
			return nil, nil // or the parents are somewhere else
		}
		return &parents{parent, missing}, nil
	}
	return step
}

// parentLore gathers the SKUs of a sheet, and those that rows name as their parents, as
// numbers that stand for them.
type parentLore struct {
	sku, parent   int
	skus, parents []uint64
}

func (l *parentLore) Learn(p *catalogue.Product) {
	for _, row := range p.Rows {
		if cell := row.Cell(l.sku); cell != "" {
			l.skus = append(l.skus, xxhash.Sum64String(cell))
		}
		if cell := row.Cell(l.parent); cell != "" {
			key := xxhash.Sum64String(cell)
			if n := len(l.parents); n == 0 || l.parents[n-1] != key {
				l.parents = append(l.parents, key)
			}
		}
	}
}

func (l *parentLore) Merge(next line.Lore) {
	l.skus = append(l.skus, next.(*parentLore).skus...)
	l.parents = append(l.parents, next.(*parentLore).parents...)
}

// sort leaves each of them once.
func (l *parentLore) sort() {
	for _, list := range []*[]uint64{&l.skus, &l.parents} {
		slices.Sort(*list)
		*list = slices.Compact(*list)
	}
}

func (l *parentLore) AppendBinary(b []byte) ([]byte, error) {
	sorted := parentLore{skus: slices.Clone(l.skus), parents: slices.Clone(l.parents)}
	sorted.sort()
	for _, list := range [][]uint64{sorted.skus, sorted.parents} {
		b = binary.AppendUvarint(b, uint64(len(list)))
		for _, key := range list {
			b = binary.BigEndian.AppendUint64(b, key)
		}
	}
	return b, nil
}

type parents struct {
	col     int
	missing map[uint64]bool
}

func (m *parents) Repair(p *catalogue.Product, log *line.Log) {
	last := ""
	for i, row := range p.Rows {
		cell := row.Cell(m.col)
		if cell == "" || cell == last || log.IsAside(i) {
			continue
		}
		if last = cell; m.missing[xxhash.Sum64String(cell)] {
			log.Find(catalogue.ProductNoParent, row, m.col, cell, catalogue.Facts{})
		}
	}
}
