package steps

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/products"
)

// A Packed is a rule about options in one cell, fitted to a sheet.
type Packed struct {
	*products.OptionsRule
	products.Packing
	Names     []string // of the options, which are those of the columns
	From      int      // -1 if they are packed instead
	NamesFrom int      // -1 if there is no such column
}

// Options orders that options in one cell go into columns of their own, where these are
// empty. A cell that cannot be taken apart is left and named.
func (o *Orders) Options(rules []*Packed) error {
	for _, p := range rules {
		if p.InPairs > 0 {
			if err := o.inPairs(p); err != nil {
				return err
			}
			continue
		}
		into := make([]int, len(p.Names))
		for i, name := range p.Names {
			col, ok, err := o.find("options", "names", name)
			if err != nil {
				return err
			}
			if !ok {
				col = -1
			}
			if p.Into == "" {
				if err := unreserved(&o.table.Columns, col, reserved, "[[options]] names", name); err != nil {
					return err
				}
			}
			into[i] = col
		}
		if p.Into != "" {
			if err := o.pack(p, into); err != nil {
				return err
			}
			continue
		}
		reads := []int{p.From}
		if p.NamesFrom >= 0 {
			reads = append(reads, p.NamesFrom)
		}
		var writes []int
		for _, col := range into {
			if col >= 0 {
				writes = append(writes, col)
			}
		}
		err := o.add(order{key: "options", phase: phaseFill, reads: reads, writes: writes, tells: true, do: func(r *rowAt) bool {
			return o.unpack(r, p, into)
		}}, p.Where, 0, p.OptionsRule.String(), p.Count)
		if err != nil {
			return err
		}
	}
	return nil
}

// pack orders that options are packed in one column, where that is empty.
func (o *Orders) pack(p *Packed, from []int) error {
	into, ok, err := o.find("options", "into", p.Into)
	if err == nil && ok {
		err = unreserved(&o.table.Columns, into, reserved, "[[options]] into", p.Into)
	}
	if err != nil || !ok || slices.Contains(from, -1) {
		return err // without its columns it has been packed before
	}
	return o.add(order{key: "options", phase: phaseFill, reads: from, writes: []int{into}, do: func(r *rowAt) bool {
		if r.Cell(into) != "" || !r.belongs(from[0]) {
			return false
		}
		var options []products.Pair
		for i, col := range from {
			options = append(options, products.Pair{Name: p.Names[i], Value: strings.TrimSpace(r.Cell(col))})
		}
		text := p.Pack(options)
		if text == "" {
			return false
		}
		r.set(into, text, catalogue.RulePack, catalogue.Ordered, "")
		return true
	}}, p.Where, 0, p.OptionsRule.String(), p.Count)
}

// unpack takes the options of a row apart.
func (o *Orders) unpack(r *rowAt, p *Packed, into []int) bool {
	cell := r.Cell(p.From)
	if strings.TrimSpace(cell) == "" {
		return false
	}
	list, ok := o.taken(r, p)
	if !ok {
		return false
	}
	wrote := false
	for _, option := range list {
		at := -1
		for i, name := range p.Names {
			if products.SameName(name, option.Name) {
				at = i
			}
		}
		if at < 0 {
			o.unknown(r, catalogue.OptionPacked, p.From, cell, catalogue.Facts{Other: "no column is called " + catalogue.Shorten(option.Name, 40)})
			return wrote
		}
		if col := into[at]; col >= 0 && r.Cell(col) == "" {
			r.set(col, option.Value, catalogue.RuleUnpack, catalogue.Ordered, "")
			wrote = true
		}
	}
	return wrote
}

// inPairs orders that options go into pairs of columns, one for the name and one for the
// value of each. All rows of a product have its options in the same order: that in which
// they come, behind those that stand there already.
func (o *Orders) inPairs(p *Packed) error {
	pairs := products.OptionPairs(&o.table.Columns)
	pairs = pairs[:min(len(pairs), p.InPairs)]
	reads := []int{p.From}
	if p.NamesFrom >= 0 {
		reads = append(reads, p.NamesFrom)
	}
	var writes []int
	for _, pair := range pairs {
		writes = append(writes, pair.Name, pair.Value)
	}
	return o.add(order{key: "options", phase: phaseFill, reads: reads, writes: writes, tells: true, do: func(r *rowAt) bool {
		cell := r.Cell(p.From)
		if strings.TrimSpace(cell) == "" || slices.ContainsFunc(writes, func(col int) bool { return r.Cell(col) != "" }) {
			return false // done before
		}
		list, ok := o.taken(r, p)
		if !ok {
			return false
		}
		if r.slots[p] == nil {
			if r.slots == nil {
				r.slots = make(map[*Packed][]string)
			}
			r.slots[p] = p.slotsOf(r, pairs)
		}
		slots := r.slots[p]
		for _, option := range list {
			if at := slotOf(slots, option.Name); at >= len(pairs) {
				o.unknown(r, catalogue.OptionPacked, p.From, cell, catalogue.Facts{Other: fmt.Sprintf("the product has %d options, and there are %d pairs of columns for them", len(slots), len(pairs))})
				return false
			}
		}
		for _, option := range list {
			at := slotOf(slots, option.Name)
			r.set(pairs[at].Name, slots[at], catalogue.RuleUnpack, catalogue.Ordered, "")
			r.set(pairs[at].Value, option.Value, catalogue.RuleUnpack, catalogue.Ordered, "")
		}
		return true
	}}, p.Where, 0, p.OptionsRule.String(), p.Count)
}

// taken takes the cell of a row apart; ok is false if that cannot be done, which is named.
func (o *Orders) taken(r *rowAt, p *Packed) (list []products.Pair, ok bool) {
	list, err := p.optionsOf(r, r.Row)
	var packed *products.PackedError
	if errors.As(err, &packed) {
		o.unknown(r, catalogue.OptionPacked, p.From, r.Cell(p.From), catalogue.Facts{Other: packed.Why})
	}
	return list, err == nil
}

// optionsOf takes the cell of a row of the product apart.
func (p *Packed) optionsOf(r *rowAt, row *catalogue.Row) ([]products.Pair, error) {
	names := p.OptionsRule.Names
	if p.NamesFrom >= 0 {
		cell := row.Cell(p.NamesFrom)
		if cell == "" && r.lead != nil {
			cell = r.lead.Cell(p.NamesFrom)
		}
		names = p.Items(cell)
	}
	return p.Decode(row.Cell(p.From), names)
}

// slotsOf returns the names of the options of a product in the order of their pairs, "" for
// a pair that is not needed.
func (p *Packed) slotsOf(r *rowAt, pairs []products.Option) []string {
	slots := make([]string, len(pairs))
	for i, pair := range pairs {
		for n, row := range r.product.Rows {
			if name := strings.TrimSpace(row.Cell(pair.Name)); name != "" && !r.log.IsAside(n) {
				slots[i] = name
				break
			}
		}
	}
	for n, row := range r.product.Rows {
		if r.log.IsAside(n) || strings.TrimSpace(row.Cell(p.From)) == "" {
			continue
		}
		list, err := p.optionsOf(r, row)
		if err != nil {
			continue
		}
		for _, option := range list {
			if slotOf(slots, option.Name) >= 0 {
				continue
			}
			if free := slices.Index(slots, ""); free >= 0 {
				slots[free] = option.Name
			} else {
				slots = append(slots, option.Name)
			}
		}
	}
	return slots
}

// slotOf returns the pair of an option, -1 if it has none.
func slotOf(slots []string, name string) int {
	return slices.IndexFunc(slots, func(s string) bool { return products.SameName(s, name) })
}
