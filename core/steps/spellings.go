package steps

import (
	"zetanum/core/catalogue"
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
func (o *Orders) Compare(col int, write bool) *Spelling { return o.CompareBy(col, write, nil, nil) }

// CompareBy does so by other rules than the usual ones. judged, if it is not nil, is told what was learned.
func (o *Orders) CompareBy(col int, write bool, by *lists.SpeltBy, judged func(*lists.Spellings)) *Spelling {
	s := &Spelling{orders: o, col: col, write: write}
	o.Learn(Learner{
		Cols: []int{col},
		New:  func() Learned { return &spellingsOf{column: s, Spellings: lists.Spellings{By: by}} },
		Judge: func(l Learned) error {
			seen := &l.(*spellingsOf).Spellings
			if s.judged = seen.Judge(); judged != nil {
				judged(seen)
			}
			return nil
		},
	})
	return s
}

// Idle reports that every value is spelt in one way.
func (s *Spelling) Idle() bool { return len(s.judged) == 0 }

// Right returns how a value is to be written; ok is false if it is not to be written otherwise. Without most only what is right
// however many rows have it counts.
func (s *Spelling) Right(value string, most bool) (right string, ok bool) {
	as, ok := s.judged[s.orders.Texts.spelt(value)]
	if !ok || as.Better == "" || as.Slip || !as.Sure && !most {
		return "", false
	}
	return as.Better, true
}

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

// spellingsOf counts the spellings of a column.
type spellingsOf struct {
	column *Spelling
	lists.Spellings
}

func (s *spellingsOf) Learn(p *catalogue.Product) {
	for _, row := range p.Rows {
		if cell := row.Cell(s.column.col); cell != "" {
			if cell = s.column.orders.Texts.spelt(cell); cell != "" {
				s.Add(cell)
			}
		}
	}
}

func (s *spellingsOf) Merge(next Learned) { s.Spellings.Merge(&next.(*spellingsOf).Spellings) }
