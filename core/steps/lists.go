package steps

import (
	"fmt"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/lists"
	"zetanum/core/pattern"
)

// Build orders that a field is built from others.
func (o *Orders) Build(plan *columns.Plan, rules []pattern.BuildRule) error {
	for i := range rules {
		rule := &rules[i]
		into, ok, err := o.find("build", "into", rule.Into)
		if err == nil && ok {
			err = unreserved(&o.table.Columns, into, catalogue.FieldsOf(catalogue.Barcode), "[[build]] into", rule.Into)
		}
		if err != nil || !ok {
			if err == nil {
				continue
			}
			return err
		}
		p, err := pattern.Parse(rule.From)
		if err != nil {
			return err
		}
		html := o.table.Columns.Kind(into) == catalogue.HTMLKind
		cols, missing := p.Bind(func(name string) int {
			found, _ := o.shape.Find(&o.table.Columns, name)
			if len(found) == 0 {
				return -1
			}
			return found[0]
		}, func(col int) bool { return html && o.table.Columns.Kind(col) != catalogue.HTMLKind })
		gone := false
		for _, name := range missing {
			if _, is := o.shape.Find(&o.table.Columns, name); !is {
				return fmt.Errorf("%w: [[build]] from names {%s}, which is not there%s; the headings are: %s", columns.ErrWrong, name,
					lists.DidYouMean(name, o.table.Columns.Headings), strings.Join(o.table.Columns.Headings, ", "))
			}
			gone = true
		}
		if gone {
			continue // it was built before its columns were dropped
		}
		o.inside(plan, p.Whole(), into)
		for _, col := range cols {
			switch {
			case col == into:
				return fmt.Errorf("%w: [[build]] of %q: %w; [[around]] puts words before or after a text", columns.ErrWrong, rule.Into, pattern.ErrOwn)
			case !html && o.table.Columns.Kind(col) == catalogue.HTMLKind:
				return fmt.Errorf("%w: [[build]] of %q from %q: that is HTML, and %q is not", columns.ErrWrong, rule.Into, o.table.Columns.Headings[col], rule.Into)
			}
		}
		err = o.add(order{key: "build", phase: phaseBuild, reads: cols, writes: []int{into}, do: func(r *rowAt) bool {
			old := r.Cell(into)
			if old != "" && !rule.Over || old == "" && !r.belongs(into) {
				return false
			}
			text, missing := p.Text(r.view())
			if missing != "" {
				if old == "" && (r.index == 0 || !r.Blank()) {
					o.unknown(r, catalogue.BuildMissing, into, old, catalogue.Facts{Other: missing})
				}
				return false
			}
			if text == old {
				return false
			}
			r.set(into, text, catalogue.RuleBuild, catalogue.Ordered, "")
			return true
		}}, rule.Where, rule.Rows, rule.String(), rule.Count)
		if err != nil {
			return err
		}
	}
	return nil
}

// Derive orders that a field is filled by words that are found in texts.
func (o *Orders) Derive(rule *lists.DeriveRule, clues *lists.Clues) error {
	into, ok, err := o.find("derive", "into", rule.Into)
	if err == nil && ok {
		err = unreserved(&o.table.Columns, into, catalogue.FieldsOf(catalogue.Barcode), "[[derive]] into", rule.Into)
	}
	if err != nil || !ok {
		return err
	}
	var from []int
	for _, name := range rule.From {
		col, ok, err := o.find("derive", "from", name)
		if err != nil {
			return err
		}
		if !ok {
			return nil
		}
		from = append(from, col)
	}
	return o.add(order{key: "derive", phase: phaseDerive, reads: from, writes: []int{into}, do: func(r *rowAt) bool {
		if r.Cell(into) != "" || r.Blank() || !r.belongs(into) {
			return false
		}
		var values []string
		any := false
		view := r.view()
		for _, col := range from {
			any = any || view.Cell(col) != ""
			for _, v := range clues.Values(view.Cell(col)) {
				if !slices.Contains(values, v) {
					values = append(values, v)
				}
			}
		}
		switch {
		case len(values) == 1:
			r.set(into, values[0], catalogue.RuleDerive, catalogue.Ordered, "")
			return true
		case len(values) > 1:
			o.unknown(r, catalogue.DeriveSeveral, into, "", catalogue.Facts{Other: strings.Join(values, " and ")})
		case any:
			o.unknown(r, catalogue.DeriveNone, into, view.Cell(from[0]), catalogue.Facts{})
		}
		return false
	}}, rule.Where, rule.Rows, rule.String(), rule.Count)
}

// Expand orders that short codes are written out.
func (o *Orders) Expand(rule *lists.ExpandRule, codes *lists.Codes) error {
	number := -1
	for _, name := range rule.In {
		found, gone := o.shape.Find(&o.table.Columns, name)
		if len(found) == 0 && !gone {
			_, _, err := o.find("expand", "in", name)
			return err
		}
		for _, col := range found {
			if f := o.table.Columns.Fields[col]; f == catalogue.Barcode || f == catalogue.SKU {
				return fmt.Errorf("%w: [[expand]] in names %q, which is the field %s: it is what a product is known by", columns.ErrWrong, name, f)
			}
			words := ""
			if number < 0 {
				words = rule.String()
			}
			err := o.add(order{key: "expand", phase: phaseExpand, writes: []int{col}, do: func(r *rowAt) bool {
				return o.expand(r, col, rule.At, codes)
			}}, rule.Where, rule.Rows, words, rule.Count)
			if err != nil {
				return err
			}
			if number < 0 {
				number = o.list[len(o.list)-1].number
			}
			o.list[len(o.list)-1].number = number
		}
	}
	return nil
}

func (o *Orders) expand(r *rowAt, col int, at string, codes *lists.Codes) bool {
	cell := r.Cell(col)
	if strings.TrimSpace(cell) == "" {
		return false
	}
	parts := []string{cell}
	if at != "" {
		parts = strings.Split(cell, at)
	}
	written := false
	var unknown []string
	for i, part := range parts {
		trimmed := strings.TrimSpace(part)
		value, known := codes.Find(trimmed)
		switch {
		case value != "" && value != trimmed:
			parts[i] = strings.Replace(part, trimmed, value, 1)
			written = true
		case !known && trimmed != "":
			unknown = append(unknown, trimmed)
		}
	}
	if unknown != nil {
		o.unknown(r, catalogue.ExpandUnknown, col, cell, catalogue.Facts{Other: strings.Join(unknown, ", ")})
	}
	if written {
		r.set(col, strings.Join(parts, at), catalogue.RuleExpand, catalogue.Ordered, "")
	}
	return written
}
