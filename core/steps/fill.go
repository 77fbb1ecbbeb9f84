package steps

import (
	"encoding/binary"
	"strings"
	"sync/atomic"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/charset"
	"zetanum/core/distinct"
	"zetanum/core/line"
	"zetanum/core/products"
)

// A ColumnFill says how far a column is filled.
type ColumnFill struct {
	Filled   int
	Lead     int      // of these, in the first rows of products
	Distinct int      // different values
	About    bool     // that is near, not exact
	Examples []string // the first values that differ, two at most
	Misread  int      // how many cells were decoded wrongly, in sheets that are not too large to look
	Garbled  string   // the first of them
	Meant    string   // what that was
}

// Fill is a step that only looks: it counts the filled cells of each column.
func Fill(s *Sheet) line.Step {
	own := s.Columns.Own()
	many := make([]atomic.Bool, own)
	return line.Step{
		Name:   "fill",
		Learns: s.everyColumn(),
		Learn: func() line.Aggregate {
			return &fill{sheet: &s.Columns, layout: s.Products, texts: Compares(s.Table), seen: make([]*distinct.Counter, own),
				columns: make([]ColumnFill, own), many: many, last: make([]string, own)}
		},
		New: idle,
	}
}

// A Filling is what a look at a whole sheet has counted.
type Filling struct {
	Columns             []ColumnFill
	Further             int // rows behind the first of their product
	Variants, ImageRows int
}

// FillOf returns what an aggregate of the step [Fill] has counted; ok is false if it is none.
func FillOf(aggregate line.Aggregate) (filled Filling, ok bool) {
	f, ok := aggregate.(*fill)
	if !ok {
		return filled, false
	}
	return Filling{f.counted(), f.further, f.variants, f.images}, true
}

type fill struct {
	sheet   *catalogue.Columns
	texts   bool // it looks at them
	seen    []*distinct.Counter
	columns []ColumnFill
	last    []string      // by column, the cell that was seen last
	many    []atomic.Bool // columns of which it is known that they have many values
	rowCounts
	layout *products.Layout
	roles  []catalogue.Role // of the product
}

// rowCounts say how many rows there are of each role.
type rowCounts struct{ further, variants, images int }

func (c *rowCounts) counts() [3]*int { return [3]*int{&c.further, &c.variants, &c.images} }

func (f *fill) Learn(p *catalogue.Product) {
	f.further += len(p.Rows) - 1
	f.roles = f.layout.Roles(f.roles[:0], p.Rows, func(int) bool { return false })
	for _, role := range f.roles {
		if role&catalogue.Variant != 0 {
			f.variants++
		}
		if role&catalogue.ImageRow != 0 {
			f.images++
		}
	}
	for n, row := range p.Rows {
		for i := range min(len(row.Cells), len(f.columns)) {
			if row.Cells[i] == "" {
				continue
			}
			c := &f.columns[i]
			if c.Filled == 0 {
				if f.seen[i] = new(distinct.Counter); f.many[i].Load() {
					f.seen[i] = distinct.Many()
				}
			}
			if cell := row.Cells[i]; cell != f.last[i] {
				f.last[i] = cell
				c.example(cell)
				f.seen[i].Add(xxhash.Sum64String(cell))
			}
			c.Filled++
			if n == 0 {
				c.Lead++
			}
			if f.texts && row.Has(i, catalogue.Untidy) && f.sheet.Kind(i) != catalogue.CodeKind {
				c.misread(row.Cells[i])
			}
		}
	}
}

// example keeps a value as an example if there is room and it is another than those.
func (c *ColumnFill) example(cell string) {
	if len(c.Examples) == 2 || len(c.Examples) == 1 && strings.HasPrefix(cell, strings.TrimSuffix(c.Examples[0], "…")) {
		return
	}
	c.Examples = append(c.Examples, strings.Clone(catalogue.Shorten(cell, 60)))
}

// counted returns the columns with how many different values they have.
func (f *fill) counted() []ColumnFill {
	for i, d := range f.seen {
		if d != nil {
			n, exact := d.Count()
			f.columns[i].Distinct, f.columns[i].About = min(n, f.columns[i].Filled), !exact
		}
	}
	return f.columns
}

// misread counts a cell if it was decoded wrongly.
func (c *ColumnFill) misread(cell string) {
	m, ok := charset.Mend(cell)
	if !ok || !m.Exact {
		return
	}
	if c.Misread == 0 {
		c.Garbled, c.Meant = strings.Clone(catalogue.Shorten(cell, 60)), catalogue.Shorten(m.Text, 60)
	}
	c.Misread++
}

func (f *fill) Merge(next line.Aggregate) {
	for i, n := range next.(*fill).counts() {
		*f.counts()[i] += *n
	}
	clear(f.last) // their texts keep a part in memory
	for i, n := range next.(*fill).columns {
		for _, e := range n.Examples {
			f.columns[i].example(e)
		}
		if o := next.(*fill).seen[i]; f.seen[i] == nil {
			f.seen[i] = o
		} else if o != nil {
			f.seen[i].Merge(o)
		}
		if d := f.seen[i]; d != nil && d.HasMany() {
			f.many[i].Store(true)
		}
		f.columns[i].Filled += n.Filled
		f.columns[i].Lead += n.Lead
		if f.columns[i].Misread == 0 {
			f.columns[i].Garbled, f.columns[i].Meant = n.Garbled, n.Meant
		}
		f.columns[i].Misread += n.Misread
	}
}

func (f *fill) AppendBinary(b []byte) ([]byte, error) {
	for _, n := range f.counts() {
		b = binary.AppendUvarint(b, uint64(*n))
	}
	for i, c := range f.columns {
		if f.seen[i] != nil {
			b = f.seen[i].AppendBinary(b)
		}
		b = binary.AppendUvarint(binary.AppendUvarint(b, uint64(c.Filled)), uint64(c.Lead))
		for _, e := range c.Examples {
			b = append(append(b, e...), 0)
		}
		b = binary.AppendUvarint(b, uint64(c.Misread))
		b = append(append(b, c.Garbled...), 0)
	}
	return b, nil
}
