package products

import (
	"fmt"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/lazy"
)

// An Option is what variants differ in: the column of its values, and that of its name,
// or -1 where the heading is the name.
type Option struct{ Name, Value int }

// optionHeading fits headings of columns that come in pairs, one for the name of an
// option and one for its values: Option 1 name, Attribute 2 value(s).
var optionHeading = lazy.New(`(?i)^(?:variant |variante? |merkmal )?(option|attribute|attribut|opción|opcion|opzione|optie|opcja|opção|merkmal|variation)s?[ _-]*(\d+)[ _-]*(name|names|label|nom|nombre|nome|naam|nazwa|value|values|value\(s\)|wert|werte|valeur|valor|valore|waarde|wartość)?$`)

// pairHeading fits the headings of the columns that are added, as PairHeadings says.
var pairHeading = lazy.New(`(?i)^(name|value) of option (\d+)$`)

var nameWords = " name names label nom nombre nome naam nazwa "

// findOptions looks for pairs of option columns in the headings; without any, the fields
// in which variants usually differ are taken, declared is false then.
func findOptions(sheet *catalogue.Columns) (options []Option, declared bool) {
	type pair struct{ name, value int }
	pairs := make(map[string]*pair)
	var order []string
	for col, h := range sheet.Headings {
		m := optionHeading.FindStringSubmatch(strings.TrimSpace(h))
		if own := pairHeading.FindStringSubmatch(strings.TrimSpace(h)); own != nil {
			m = []string{"", "name of option ", own[2], own[1]}
		}
		if m == nil {
			continue
		}
		key := strings.ToLower(m[1]) + m[2]
		if pairs[key] == nil {
			pairs[key] = &pair{-1, -1}
			order = append(order, key)
		}
		if m[3] != "" && strings.Contains(nameWords, " "+strings.ToLower(m[3])+" ") {
			pairs[key].name = col
		} else {
			pairs[key].value = col
		}
	}
	for _, key := range order {
		if p := pairs[key]; p.value >= 0 {
			options = append(options, Option{p.name, p.value})
		}
	}
	if options != nil {
		return options, true
	}
	for _, f := range []catalogue.Field{catalogue.Colour, catalogue.Size, catalogue.Material} {
		if col := sheet.First(f); col >= 0 {
			options = append(options, Option{-1, col})
		}
	}
	return options, false
}

// OptionColumns returns the columns of options in a sheet: of their names, and of their values.
func OptionColumns(sheet *catalogue.Columns) (cols []int) {
	options, _ := findOptions(sheet)
	for _, o := range options {
		if cols = append(cols, o.Value); o.Name >= 0 {
			cols = append(cols, o.Name)
		}
	}
	return cols
}

// OptionPairs returns the options of a sheet whose names stand in a column, in their order.
func OptionPairs(sheet *catalogue.Columns) (pairs []Option) {
	options, _ := findOptions(sheet)
	for _, o := range options {
		if o.Name >= 0 {
			pairs = append(pairs, o)
		}
	}
	return pairs
}

// PairHeadings are the headings of the columns for the name and the value of an option, by
// its number from 1.
func PairHeadings(n int) []string {
	return []string{fmt.Sprintf("Name of option %d", n), fmt.Sprintf("Value of option %d", n)}
}

// Slots are the names of the options of a product, by the pair of columns into which each goes; "" is
// a pair that is free.
type Slots []string

// With returns the slots with those of options that have none yet: in free pairs, and behind all pairs
// when none is free any more.
func (s Slots) With(options []Pair) Slots {
	for _, option := range options {
		if s.Of(option.Name) >= 0 {
			continue
		}
		if free := slices.Index(s, ""); free >= 0 {
			s[free] = option.Name
		} else {
			s = append(s, option.Name)
		}
	}
	return s
}

// Of returns the pair of an option, -1 if it has none.
func (s Slots) Of(name string) int {
	return slices.IndexFunc(s, func(slot string) bool { return SameName(slot, name) })
}
