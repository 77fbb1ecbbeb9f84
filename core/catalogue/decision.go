package catalogue

import (
	"fmt"
	"slices"
)

// An Answer is what a person says to what was found.
type Answer uint8

// The answers. Of a decision none is a yes.
const (
	Unanswered Answer = iota
	Yes               // what is likely is written
	No                // it is not, and not asked again
	Keep              // what is found goes out as it is
	Blank             // its cells go out empty
	LeaveOut          // its products are set aside
	Hold              // its products are held, whatever the registry says
)

var answerNames = [...]string{"", "yes", "no", "keep", "blank", "aside", "hold"}

// String returns the word for the answer.
func (a Answer) String() string { return answerNames[a] }

// ParseAnswer returns the answer of that word.
func ParseAnswer(word string) (Answer, bool) {
	i := slices.Index(answerNames[1:], word)
	return Answer(i + 1), i >= 0
}

// MarshalText writes the word for the answer.
func (a Answer) MarshalText() ([]byte, error) { return []byte(a.String()), nil }

// UnmarshalText reads what MarshalText writes.
func (a *Answer) UnmarshalText(text []byte) error {
	found, ok := ParseAnswer(string(text))
	if !ok && len(text) > 0 {
		return fmt.Errorf("there is no answer %q", text)
	}
	*a = found
	return nil
}

// Frees reports whether with that answer a finding holds nothing any more.
func (a Answer) Frees() bool { return a == Keep || a == Blank || a == LeaveOut }

// Ways are the answers that a finding takes by which its products go out although it is
// not settled.
type Ways uint8

// The ways. That its products are left out every finding takes that holds.
const (
	CanKeep Ways = 1 << iota
	CanBlank
)

// Takes reports whether an answer to a finding means something.
func (c Code) Takes(a Answer) bool {
	e := c.Entry()
	switch a {
	case Yes, No:
		return e.Ask != ""
	case Keep:
		return e.Ways&CanKeep != 0
	case Blank:
		return e.Ways&CanBlank != 0
	case LeaveOut:
		return e.Severity == Error
	}
	return a == Hold && !c.SetsAside()
}

// A Decision is what a person has said to a finding: a yes to what is likely, what is to be
// written instead, or another answer. What it does not name it is said of all.
type Decision struct {
	Finding Code   `json:"finding"`
	Column  string `json:"column,omitempty"` // by its heading
	Key     string `json:"key,omitempty"`    // the SKU of one product
	Cell    string `json:"cell,omitempty"`   // what stands in the cells that are meant
	Value   string `json:"value,omitempty"`  // what is to be written; "" for what is likely
	Answer  Answer `json:"answer,omitempty"` // none is a yes
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
	return d.Column == "" || heading == "" || SameHeading(d.Column, heading)
}

// For returns what a person has settled of a finding in a column, for the product with that
// SKU, where the cell says so; without a heading the decisions are those of one column already. Of
// several it is the one that names most, and of those the last. ok is false if there is none, or
// if that settles nothing.
func (d Decisions) For(finding Code, heading, key, cell string) (decided Decision, ok bool) {
	decided, ok = d.Said(finding, heading, key, cell)
	return decided, ok && decided.Answer <= Yes
}

// Said returns it, whether it settles anything or not.
func (d Decisions) Said(finding Code, heading, key, cell string) (decided Decision, ok bool) {
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

// Ruling returns those by which what is found holds, or does not, or is not asked.
func (d Decisions) Ruling() (list Decisions) {
	for _, one := range d {
		if one.Answer > Yes {
			list = append(list, one)
		}
	}
	return list
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
