package repair

import (
	"context"
	"encoding/binary"
	"slices"
	"strings"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/charset"
	"zetanum/core/heading"
	"zetanum/core/line"
	"zetanum/core/products"
	"zetanum/core/rescue"
	"zetanum/core/steps"
	"zetanum/core/text"
)

// A ColumnModel is what the survey saw of one barcode column.
type ColumnModel struct {
	Col   int
	Model *rescue.Model
}

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

// fillStep only looks: it counts the filled cells of each column.
func fillStep(columns *catalogue.Columns, plan *products.Plan, texts bool) line.Step {
	return line.Step{
		Name: "fill",
		Learn: func() line.Lore {
			return &fill{sheet: columns, plan: plan, texts: texts, seen: make([]*distinct, columns.Own()), columns: make([]ColumnFill, columns.Own())}
		},
		New: func(line.Lore) (line.Repairer, error) { return nil, nil },
	}
}

type fill struct {
	sheet   *catalogue.Columns
	texts   bool // it looks at them
	seen    []*distinct
	columns []ColumnFill
	rowCounts
	plan  *products.Plan
	roles []catalogue.Role // of the product
}

// rowCounts say how many rows there are of each role.
type rowCounts struct{ further, variants, images int }

func (c *rowCounts) counts() [3]*int { return [3]*int{&c.further, &c.variants, &c.images} }

func (f *fill) Learn(p *catalogue.Product) {
	f.further += len(p.Rows) - 1
	f.roles = f.plan.Roles(f.roles[:0], p.Rows, func(int) bool { return false })
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
				f.seen[i] = new(distinct)
			}
			c.example(row.Cells[i])
			f.seen[i].add(xxhash.Sum64String(row.Cells[i]))
			c.Filled++
			if n == 0 {
				c.Lead++
			}
			if f.texts && text.Suspect(row.Cells[i]) && f.sheet.Kind(i) != catalogue.CodeKind {
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
			n, exact := d.count()
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

// InOrder returns the example of a column with its text put in order, after a look.
func (r *Result) InOrder(col int) string {
	texts := steps.Texts{Foreign: r.Source.Form.Foreign}
	if len(r.Fill[col].Examples) == 0 {
		return ""
	}
	return texts.Clean(r.Fill[col].Examples[0], r.Source.Columns.Kind(col))
}

// About reports, after a look, whether a column has to do with a word: in its heading,
// its meaning or its examples.
func (r *Result) About(col int, word string) bool {
	h, f, key := r.Source.Columns.Headings[col], r.Source.Columns.Fields[col], heading.Key(word)
	if meant, ok := catalogue.ParseField(word); f != catalogue.Unknown && (ok && meant == f || heading.Field(word) == f) {
		return true
	}
	return key != "" && (strings.Contains(heading.Key(h), key) || strings.Contains(heading.Key(f.String()), key) ||
		slices.ContainsFunc(r.Fill[col].Examples, func(c string) bool { return strings.Contains(strings.ToLower(c), strings.ToLower(word)) }))
}

// Garbled returns how many cells were decoded wrongly, after a look.
func (r *Result) Garbled() (n int) {
	for i := range r.Fill {
		n += r.Fill[i].Misread
	}
	return n
}

func (f *fill) Merge(next line.Lore) {
	for i, n := range next.(*fill).counts() {
		*f.counts()[i] += *n
	}
	for i, n := range next.(*fill).columns {
		for _, e := range n.Examples {
			f.columns[i].example(e)
		}
		if o := next.(*fill).seen[i]; f.seen[i] == nil {
			f.seen[i] = o
		} else if o != nil {
			f.seen[i].merge(o)
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
			b = f.seen[i].appendBinary(b)
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

// Look reads a file once and says what is in it, without repairing anything.
func Look(ctx context.Context, opt Options) (*Result, error) {
	r := &runner{opt: opt, result: new(Result)}
	table, err := r.open(ctx, opt.Temp)
	if err != nil {
		return nil, err
	}
	defer table.Close()
	defer r.returnLoans()
	if err := r.lend(opt.Temp); err != nil {
		return nil, err
	}
	if err := r.survey(ctx, true); err != nil {
		return nil, err
	}
	seen := r.result.Survey.Lore[len(r.course.Steps)-1].(*fill)
	if col := products.KeyLike(&r.table.Columns, r.table.Sample); col >= 0 && r.opt.Book.Products.TogetherBy == "" {
		r.result.KeyLike = r.table.Columns.Headings[col]
	}
	r.result.Fill, r.result.Further, r.result.Variants, r.result.ImageRows = seen.counted(), seen.further, seen.variants, seen.images
	return r.result, nil
}

// SaysTheSame reports, after a look, whether all cells of a column of words that say
// anything say the same, and others, in rows or products where it could be said, say
// nothing.
func (r *Result) SaysTheSame(col int) bool {
	f, of := &r.Fill[col], r.Survey.Rows
	if f.Filled == f.Lead {
		of = r.Survey.Products
	}
	kind, field := r.Source.Columns.Kind(col), r.Source.Columns.Fields[col]
	words := kind == catalogue.AnyKind || kind == catalogue.LineKind && field != catalogue.Title || kind == catalogue.YesNoKind
	return words && f.Distinct == 1 && f.Filled > 1 && f.Filled < of
}
