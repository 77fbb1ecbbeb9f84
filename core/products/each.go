package products

import (
	"fmt"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/condition"
	"zetanum/core/pattern"
	"zetanum/core/text"
)

// An EachRule makes a row of each value that one cell lists: [[one_row_each]].
type EachRule struct {
	// From names the column with the lists: S, M, L.
	From string `toml:"from" json:"from,omitempty"`
	// Into names the column of the value; a row that has something in it is left as it
	// is. It is added if it is not there.
	Into string `toml:"into" json:"into,omitempty"`
	// Set are patterns for what is different in each row, by field or heading; the SKU
	// must be among them.
	Set map[string]string `toml:"set" json:"set,omitempty"`
	// Parent keeps the row as it was entered: it becomes the parent of the rows of its values, which
	// are put below it and name its SKU.
	Parent bool `toml:"parent" json:"parent,omitempty"`
	// Repeat writes what belongs to the whole product into every row.
	Repeat bool `toml:"repeat" json:"repeat,omitempty"`
	condition.Scope
}

// Check returns what is wrong with the rule whatever the sheet.
func (r *EachRule) Check() (problems []catalogue.Problem) {
	wrong := func(key, text string) { problems = append(problems, catalogue.Problem{Key: key, Text: text}) }
	switch {
	case r.From == "" || r.Into == "":
		wrong("from", `each [[one_row_each]] has from and into, for example from = "Sizes", into = "Size"`)
	case r.Set["sku"] == "":
		wrong("set", `says how the SKU of each row is made, for example set = { sku = "{sku}-{Size}" }`)
	}
	for name, text := range r.Set {
		if _, err := pattern.Parse(text); err != nil {
			wrong("set", fmt.Sprintf("%s: %v", name, err))
		}
	}
	return append(problems, r.Scope.Check()...)
}

// String says the rule in words.
func (r *EachRule) String() string {
	return fmt.Sprintf("one row for each of \"%s\"", catalogue.OneLine(r.From))
}

// Values takes a list in one cell apart; a cell without separators is one value.
func Values(cell string) (values []string) {
	at, _ := text.FindList(text.ValueMarks, cell)
	return at.Values(cell)
}

// An AllRule makes one row of variants that differ in nothing but one value, with a list of
// the values in its place: [[one_row_for_all]].
type AllRule struct {
	// From names the column with the values: S, in the next row M.
	From string `toml:"from" json:"from,omitempty"`
	// At is what stands between the values; ", " if it is not said.
	At string `toml:"at" json:"at,omitempty"`
	// Unlike are fields or headings in which the rows may differ, too: the first row
	// keeps what it has, and that of the others does not go out.
	Unlike []string `toml:"unlike" json:"unlike,omitempty"`
	condition.Scope
}

// String says the rule in words.
func (r *AllRule) String() string {
	return fmt.Sprintf("one row for all of \"%s\"", catalogue.OneLine(r.From))
}

// Check returns what is wrong with the rule whatever the sheet.
func (r *AllRule) Check() (problems []catalogue.Problem) {
	if r.From == "" {
		problems = append(problems, catalogue.Problem{Key: "from", Text: `names the column with the values, for example from = "Size"`})
	}
	if r.At != "" && (strings.TrimSpace(r.At) == "" || strings.Contains(r.At, "  ") || strings.ContainsAny(r.At, "\r\n\t")) {
		problems = append(problems, catalogue.Problem{Key: "at",
			Text: `is a sign that is in none of the values, with single spaces if you like, for example at = " | "`})
	}
	return append(problems, r.Scope.Check()...)
}
