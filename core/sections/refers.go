package sections

import (
	"encoding/binary"
	"maps"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/distinct"
	"zetanum/core/steps"
	"zetanum/core/target"
	"zetanum/core/text"
)

// skusSeen are the SKUs of a sheet, by their hashes.
type skusSeen struct {
	col  int
	seen map[uint64]bool
}

func (l *skusSeen) Learn(p *catalogue.Product) {
	for _, row := range p.Rows {
		if cell := text.Typed(strings.TrimSpace(row.Cell(l.col))); cell != "" {
			l.seen[distinct.KeyOf(cell)] = true
		}
	}
}

func (l *skusSeen) Merge(next steps.Learned) { maps.Copy(l.seen, next.(*skusSeen).seen) }

func (l *skusSeen) AppendBinary(b []byte) ([]byte, error) {
	for _, key := range slices.Sorted(maps.Keys(l.seen)) {
		b = binary.BigEndian.AppendUint64(b, key)
	}
	return b, nil
}

// findOthers lets the survey see which products there are to which a column of the template may refer.
func (s *shape) findOthers(c *formColumn) error {
	if c.fill.Refers == "" {
		return nil
	}
	if c.fill.Refers == target.RefersID && (s.present == nil || s.present.Catalogue == nil || s.Book.Shop.ID == "") {
		return s.wrong("target.columns", s.form.Columns[c.n].Name(), columns.Refuse("refers = \"id\" writes the shop's own numbers, and nothing says what they are: [shop] export "+
			"names what the shop has, and [shop] id the column with its numbers"))
	}
	sku := s.Columns.First(catalogue.SKU)
	if sku < 0 {
		return nil
	}
	s.Orders.Learn(steps.Learner{Cols: []int{sku}, New: func() steps.Learned { return &skusSeen{col: sku, seen: make(map[uint64]bool)} }, Judge: func(l steps.Learned) error {
		c.others = l.(*skusSeen).seen
		return nil
	}})
	return nil
}

// refer returns a cell with what the target calls the products to which it refers, and those that are not to be found.
func (s *shape) refer(c *formColumn, cell string) (after string, missing []string) {
	mark, several := text.FindList(text.TagMarks, cell)
	values := []string{strings.TrimSpace(cell)}
	if several {
		values = mark.Values(cell)
	}
	var kept []string
	for _, value := range values {
		if value == "" {
			continue
		}
		number, there := "", c.others[distinct.KeyOf(text.Typed(value))]
		if p := s.present; p != nil && p.Catalogue != nil {
			for i := range p.Catalogue.Keys {
				if p.Catalogue.Keys[i].Field != catalogue.SKU {
					continue
				}
				if row := p.Catalogue.FindBy(i, value); row >= 0 {
					there, number = true, p.Catalogue.Number(row)
				}
			}
		}
		switch {
		case c.fill.Refers == target.RefersID && number != "":
			kept = append(kept, number)
		case c.fill.Refers == target.RefersSKU && there:
			kept = append(kept, value)
		default:
			missing = append(missing, value)
		}
	}
	if !several {
		return strings.Join(kept, ""), missing
	}
	return strings.Join(kept, string(mark)), missing
}
