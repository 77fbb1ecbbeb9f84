package steps

import (
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
		into := make([]int, len(p.Names))
		for i, name := range p.Names {
			col, ok, err := o.find("options", "names", name)
			if err != nil {
				return err
			}
			if !ok {
				col = -1
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
	names := p.OptionsRule.Names
	if p.NamesFrom >= 0 {
		names = p.Items(r.view().Cell(p.NamesFrom))
	}
	list, err := p.Decode(cell, names)
	if err != nil {
		_, why, _ := strings.Cut(err.Error(), ": ")
		o.unknown(r, catalogue.OptionPacked, p.From, cell, catalogue.Facts{Other: why})
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
