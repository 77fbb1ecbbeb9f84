package catalogue

import "strings"

// A Decision is what a person has said to the question that a finding asks: a yes to what is
// likely, or what is to be written instead. What it does not name it is said of all.
type Decision struct {
	Finding Code   `json:"finding"`
	Column  string `json:"column,omitempty"` // by its heading
	Key     string `json:"key,omitempty"`    // the SKU of one product
	Cell    string `json:"cell,omitempty"`   // what stands in the cells that are meant
	Value   string `json:"value,omitempty"`  // what is to be written; "" for what is likely
}

// Decisions are what a person has said.
type Decisions []Decision

// In returns the decisions that are meant for a column, by its heading: without regard to
// case and spaces around it.
func (d Decisions) In(heading string) (list Decisions) {
	for _, one := range d {
		if one.in(heading) {
			list = append(list, one)
		}
	}
	return list
}

func (d *Decision) in(heading string) bool {
	return d.Column == "" || heading == "" || strings.EqualFold(strings.TrimSpace(d.Column), strings.TrimSpace(heading))
}

// For returns the decision on a finding in a column, for the product with that SKU, where
// the cell says so; without a heading they are those of one column already. Of several it is
// the one that names most, and of those the last. ok is false if there is none.
func (d Decisions) For(finding Code, heading, key, cell string) (decided Decision, ok bool) {
	most := -1
	for _, one := range d {
		if one.Finding != finding || !one.in(heading) || one.Key != "" && one.Key != key || one.Cell != "" && one.Cell != cell {
			continue
		}
		named := 0
		for i, name := range []string{one.Column, one.Cell, one.Key} {
			if name != "" {
				named |= 1 << i // the product counts more than the cell, and that more than the column
			}
		}
		if named >= most {
			decided, ok, most = one, true, named
		}
	}
	return decided, ok
}

// On returns the decisions on a finding.
func (d Decisions) On(finding Code) (list Decisions) {
	for _, one := range d {
		if one.Finding == finding {
			list = append(list, one)
		}
	}
	return list
}
