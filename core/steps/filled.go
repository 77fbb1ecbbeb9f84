package steps

import (
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/line"
)

// LearnFilled is the step that learns which of some columns have anything in them, and does nothing else.
func LearnFilled(cols []int) line.Step {
	return line.Step{Name: NameFilled, Learns: catalogue.ColumnsOf(cols...), Learn: func() line.Aggregate { return &filledColumns{cols: cols} },
		New: Always(func(*catalogue.Product, *line.Log) {})}
}

type filledColumns struct {
	cols []int
	set  catalogue.ColumnSet
}

// Filled returns the columns that have anything in them; ok is false if the aggregate is about something else.
func Filled(aggregate line.Aggregate) (set catalogue.ColumnSet, ok bool) {
	f, ok := aggregate.(*filledColumns)
	if !ok {
		return set, false
	}
	return f.set, true
}

func (f *filledColumns) Learn(p *catalogue.Product) {
	for _, row := range p.Rows {
		for _, col := range f.cols {
			if !f.set.Has(col) && strings.TrimSpace(row.Cell(col)) != "" {
				f.set.Add(col)
			}
		}
	}
}

func (f *filledColumns) Merge(next line.Aggregate) { f.set.AddAll(next.(*filledColumns).set) }

func (f *filledColumns) AppendBinary(b []byte) ([]byte, error) {
	for _, col := range f.set.List() {
		b = append(b, byte(col>>8), byte(col))
	}
	return b, nil
}
