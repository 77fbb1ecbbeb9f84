package products

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/condition"
	"zetanum/core/heading"
	"zetanum/core/text"
)

// An OptionsRule takes the options of variants that are packed in one cell apart into
// columns: [[options]].
type OptionsRule struct {
	// From names the column.
	From string `toml:"from" json:"from,omitempty"`
	// Into names a column into which options are packed the other way: from the columns
	// that Names names.
	Into string `toml:"into" json:"into,omitempty"`
	// Between and Pair are what stands between the options there, and between the name
	// and the value of one; "; " and ": " if nothing is said. With NoNames there are
	// only values.
	Between string `toml:"between" json:"between,omitempty"`
	Pair    string `toml:"pair" json:"pair,omitempty"`
	NoNames bool   `toml:"no_names" json:"no_names,omitempty"`
	// Names are the names of the options, in their order, where the cells have only
	// values; the columns are called so.
	Names []string `toml:"names" json:"names,omitempty"`
	// NamesFrom is the column with the names, written like the values.
	NamesFrom string `toml:"names_from" json:"names_from,omitempty"`
	// InPairs, if not 0, is in how many pairs of columns the options go, one for the name
	// and one for the value of each, in place of columns that are called like them.
	InPairs int `toml:"in_pairs" json:"in_pairs,omitempty"`
	condition.Scope
}

// Check returns what is wrong with the rule whatever the sheet.
func (r *OptionsRule) Check() (problems []catalogue.Problem) {
	switch {
	case (r.From == "") == (r.Into == ""):
		problems = append(problems, catalogue.Problem{Key: "from",
			Text: `names the column with the options, for example from = "Options"; or into names the one in which they are to be packed`})
	case r.Into != "" && len(r.Names) == 0:
		problems = append(problems, catalogue.Problem{Key: "names",
			Text: `names the columns to pack, for example names = ["Colour", "Size"]`})
	case r.Into == "" && (r.Between+r.Pair != "" || r.NoNames):
		problems = append(problems, catalogue.Problem{Key: "between",
			Text: "goes with into; how options are written in a column is seen from it"})
	case len(r.Names) > 0 && r.NamesFrom != "":
		problems = append(problems, catalogue.Problem{Key: "names_from", Text: "the names are in names already; use one of the two"})
	case r.InPairs < 0 || r.InPairs > mostOptions || r.InPairs > 0 && r.Into != "":
		problems = append(problems, catalogue.Problem{Key: "in_pairs",
			Text: fmt.Sprintf("is how many pairs of columns there are for the options of from, 1 to %d", mostOptions)})
	}
	for i, name := range r.Names {
		if strings.TrimSpace(name) == "" || slices.Contains(r.Names[:i], name) {
			problems = append(problems, catalogue.Problem{Key: "names", Text: "each option has a name of its own"})
		}
	}
	return append(problems, r.Scope.Check()...)
}

// String says the rule in words.
func (r *OptionsRule) String() string {
	if r.Into != "" {
		return fmt.Sprintf("options into \"%s\"", catalogue.OneLine(r.Into))
	}
	return fmt.Sprintf("options from %q", r.From)
}

// Pack puts options in one text; those without a value are left out.
func (r *OptionsRule) Pack(options []Pair) string {
	between, pair := cmp.Or(r.Between, "; "), cmp.Or(r.Pair, ": ")
	var items []string
	for _, o := range options {
		switch {
		case o.Value == "":
		case r.NoNames:
			items = append(items, o.Value)
		default:
			items = append(items, o.Name+pair+o.Value)
		}
	}
	return strings.Join(items, between)
}

// A Packing is how options are written in one cell: what stands between them, and between
// the name of one and its value, "" where there are only values.
type Packing struct{ Between, Pair string }

// betweens and pairs are looked for, the more telling first.
var (
	betweens = []string{";", "|", "\n", " / ", ",", "/"}
	pairs    = []string{":", "=", ""}
)

// String says how it is written: NAME: VALUE; NAME: VALUE.
func (p Packing) String() string {
	one := "VALUE"
	if p.Pair != "" {
		one = "NAME" + p.Pair + "VALUE"
	}
	switch p.Between {
	case "\n":
		return one + " on lines"
	case ";", ",":
		return one + p.Between + " " + one
	}
	return one + p.Between + one
}

// ErrPacked is wrapped by errors about cells that cannot be taken apart.
var ErrPacked = errors.New("it cannot be taken apart")

// A PackedError says why a cell cannot be taken apart. It wraps [ErrPacked].
type PackedError struct{ Why string }

func (e *PackedError) Error() string { return ErrPacked.Error() + ": " + e.Why }
func (e *PackedError) Unwrap() error { return ErrPacked }

// A Pair is an option with its value.
type Pair struct{ Name, Value string }

// Decode takes a cell apart. Where it has only values, names are those of the options, as
// many as there are values; the error is a [*PackedError].
func (p Packing) Decode(cell string, names []string) (list []Pair, err error) {
	because := func(format string, args ...any) error { return &PackedError{fmt.Sprintf(format, args...)} }
	items := p.Items(cell)
	if p.Pair == "" {
		if len(items) != len(names) {
			return nil, because("it has %d values, and there are %d options", len(items), len(names))
		}
		for i, item := range items {
			list = append(list, Pair{names[i], item})
		}
		return list, nil
	}
	for _, item := range items {
		name, value, ok := strings.Cut(item, p.Pair)
		name, value = strings.TrimSpace(name), strings.TrimSpace(value)
		switch {
		case !ok || name == "" || value == "":
			return nil, because("%q is no name with a value", catalogue.Shorten(item, 40))
		case slices.ContainsFunc(list, func(o Pair) bool { return SameName(o.Name, name) }):
			return nil, because("it says %s twice", name)
		}
		list = append(list, Pair{name, value})
	}
	return list, nil
}

// Items returns what stands between the separators.
func (p Packing) Items(cell string) []string { return text.List(p.Between).Values(cell) }

// SameName reports whether two names of options are the same but for case, spaces and
// signs: COLOUR and Colour.
func SameName(a, b string) bool { return heading.Key(a) == heading.Key(b) }

// mostOptions is how many options there may be.
const mostOptions = 12

// FindPacking says how the options in most cells of a column are written, and what they
// are called; names, if they are known, and namesOf the cells that have the names, if there
// are such. ok is false if none can be taken apart: one that can is enough, so that what
// it says does not depend on other rows.
func FindPacking(cells []string, names []string, namesOf []string) (p Packing, found []string, ok bool) {
	most, best := 0, 0
	for _, pair := range pairs {
		for _, between := range betweens {
			try := Packing{between, pair}
			if n, options, called := try.fits(cells, names, namesOf); n > most || n == most && options > best {
				p, found, most, best = try, called, n, options
			}
		}
	}
	return p, found, most > 0 && len(found) <= mostOptions
}

// fits returns how many cells can be taken apart, into how many options, and their names.
func (p Packing) fits(cells, names, namesOf []string) (n, options int, called []string) {
	called = slices.Clone(names)
	several := false
	for i, cell := range cells {
		if strings.TrimSpace(cell) == "" {
			continue
		}
		own := names
		if namesOf != nil {
			own = p.Items(namesOf[i])
		}
		if p.Pair == "" && len(own) == 0 {
			return 0, 0, nil
		}
		list, err := p.Decode(cell, own)
		if err != nil {
			continue
		}
		n++
		options += len(list)
		several = several || len(list) > 1
		for _, o := range list {
			if !slices.ContainsFunc(called, func(c string) bool { return SameName(c, o.Name) }) {
				called = append(called, o.Name)
			}
		}
	}
	if !several && len(names) == 0 && p.Pair == "" {
		return 0, 0, nil
	}
	return n, options, called
}
