package steps

import (
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/products"
)

// A Packed is a rule about options in one cell, fitted to a sheet.
type Packed struct {
	*products.OptionsRule
	products.Packing
	Names     []string // of the options, which are those of the columns
	From      int
	NamesFrom int // -1 if there is no such column
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
		err := o.add(order{key: "options", phase: phaseFill, reads: reads, writes: writes, do: func(r *rowAt) bool {
			return o.unpack(r, p, into)
		}}, p.Where, 0, p.OptionsRule.String(), p.Count)
		if err != nil {
			return err
		}
	}
	return nil
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
