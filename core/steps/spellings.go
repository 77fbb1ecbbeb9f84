package steps

import (
	"encoding/binary"

	"zetanum/core/catalogue"
	"zetanum/core/line"
	"zetanum/core/lists"
	"zetanum/core/sheet"
)

// Spelt are the fields whose spellings are compared without being asked.
var Spelt = []catalogue.Field{
	catalogue.Brand, catalogue.Category, catalogue.Supplier, catalogue.Type, catalogue.Colour, catalogue.Size, catalogue.Material,
}

// mostCompared is the size of the largest sheet in which spellings are compared
// without being asked: the survey has to read columns for it that it does not need
// otherwise.
const mostCompared = 64 << 20

// Compares reports whether spellings are compared in a sheet without being asked.
func Compares(table *sheet.Table) bool { return table.Extent <= mostCompared }

// A Spelling is a column whose spellings are compared.
type Spelling struct {
	orders *Orders
	col    int
	write  bool // brought to one
	judged map[string]lists.Spelling
}

// Compare lets the survey learn how the values of a column are spelt; with write they are
// brought to one spelling.
func (o *Orders) Compare(col int, write bool) *Spelling {
	s := &Spelling{orders: o, col: col, write: write}
	o.spellings = append(o.spellings, s)
	return s
}

// Idle reports that every value is spelt in one way.
func (s *Spelling) Idle() bool { return len(s.judged) == 0 }

// Do looks at the cell of a row, and reports whether it has been written.
func (s *Spelling) Do(r *RowAt) bool {
	cell := r.Cell(s.col)
	as, ok := s.judged[s.orders.Texts.spelt(cell)]
	if cell == "" || !ok {
		return false
	}
	switch {
	case as.Slip:
		r.Find(catalogue.ValueMisspelt, s.col, cell, catalogue.Facts{Other: as.Better, Proposed: as.Better})
	case s.write && as.Better != "":
		r.Set(s.col, as.Better, catalogue.RuleUnify, catalogue.Ordered, "")
		return true
	case s.write:
		r.Find(catalogue.ValueTie, s.col, cell, catalogue.Facts{Other: as.Other})
	case as.Better != "":
		r.Find(catalogue.ValueSpelling, s.col, cell, catalogue.Facts{Other: as.Better, Digits: as.Rows, Proposed: as.Better})
	default:
		r.Find(catalogue.ValueSpelling, s.col, cell, catalogue.Facts{Other: as.Other, Digits: as.Rows})
	}
	return false
}

// spellingAggregate counts the spellings of columns.
type spellingAggregate struct {
	texts   *Texts
	columns []*Spelling
	seen    []lists.Spellings
}

func (l *spellingAggregate) Learn(p *catalogue.Product) {
	for _, row := range p.Rows {
		for i, s := range l.columns {
			if s.col >= len(row.Cells) || row.Cells[s.col] == "" {
				continue
			}
			if cell := l.texts.spelt(row.Cells[s.col]); cell != "" {
				l.seen[i].Add(cell)
			}
		}
	}
}

func (l *spellingAggregate) Merge(next line.Aggregate) {
	for i := range l.seen {
		l.seen[i].Merge(&next.(*spellingAggregate).seen[i])
	}
}

func (l *spellingAggregate) AppendBinary(b []byte) ([]byte, error) {
	for i := range l.seen {
		b = binary.AppendUvarint(b, uint64(l.columns[i].col))
		var err error
		if b, err = l.seen[i].AppendBinary(b); err != nil {
			return nil, err
		}
	}
	return b, nil
}
