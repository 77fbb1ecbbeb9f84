package repair

import (
	"encoding/binary"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/line"
	"zetanum/core/rescue"
)

// A ColumnModel is what the survey saw of one barcode column.
type ColumnModel struct {
	Col   int
	Model *rescue.Model
}

// A ColumnFill says how far a column is filled.
type ColumnFill struct {
	Filled  int
	Example string // of the first row in which it is filled
}

// fillStep only looks: it counts the filled cells of each column.
func fillStep(width int) line.Step {
	return line.Step{
		Name:  "fill",
		Learn: func() line.Lore { return &fill{make([]ColumnFill, width)} },
		New:   func(line.Lore) (line.Repairer, error) { return nil, nil },
	}
}

type fill struct{ columns []ColumnFill }

func (f *fill) Learn(p *catalogue.Product) {
	for _, row := range p.Rows {
		for i := range min(len(row.Cells), len(f.columns)) {
			if row.Cells[i] == "" {
				continue
			}
			c := &f.columns[i]
			if c.Filled == 0 {
				c.Example = strings.Clone(catalogue.Shorten(row.Cells[i], 60))
			}
			c.Filled++
		}
	}
}

func (f *fill) Merge(next line.Lore) {
	for i, n := range next.(*fill).columns {
		if f.columns[i].Filled == 0 {
			f.columns[i].Example = n.Example
		}
		f.columns[i].Filled += n.Filled
	}
}

func (f *fill) AppendBinary(b []byte) ([]byte, error) {
	for _, c := range f.columns {
		b = binary.AppendUvarint(b, uint64(c.Filled))
		b = append(append(b, c.Example...), 0)
	}
	return b, nil
}
