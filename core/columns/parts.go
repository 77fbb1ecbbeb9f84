package columns

import (
	"fmt"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/condition"
)

// A SplitRule takes the cells of one column apart into several.
type SplitRule struct {
	// From names the column.
	From string `toml:"from" json:"from,omitempty"`
	// At is the text between the parts.
	At string `toml:"at" json:"at,omitempty"`
	// Into names the columns of the parts; they are filled where they are empty,
	// and added if they are not there.
	Into []string `toml:"into" json:"into,omitempty"`
	condition.Scope
}

// A JoinRule puts the cells of several columns together in one.
type JoinRule struct {
	// From names the columns; what is empty is left out.
	From []string `toml:"from" json:"from,omitempty"`
	// With stands between the parts.
	With string `toml:"with" json:"with,omitempty"`
	// Into names the column, which is filled where it is empty, and added if it is
	// not there.
	Into string `toml:"into" json:"into,omitempty"`
	condition.Scope
}

// A FillRule fills a column where it is empty.
type FillRule struct {
	// Into names the column, which is added if it is not there.
	Into string `toml:"into" json:"into,omitempty"`
	// With is the fixed value, From the column to copy.
	With string `toml:"with" json:"with,omitempty"`
	From string `toml:"from" json:"from,omitempty"`
	// Over fills cells that are not empty, too.
	Over bool `toml:"over" json:"over,omitempty"`
	condition.Scope
}

// String says the rule in words.
func (r *FillRule) String() string {
	if r.From != "" {
		return fmt.Sprintf("fill \"%s\" from \"%s\"", catalogue.OneLine(r.Into), catalogue.OneLine(r.From))
	}
	return fmt.Sprintf("fill %q with %q", r.Into, r.With)
}

// Check returns what is wrong with the rule whatever the sheet.
func (r *SplitRule) Check() (problems []catalogue.Problem) {
	if r.From == "" || r.At == "" || len(r.Into) < 2 {
		problems = append(problems, catalogue.Problem{Key: "from",
			Text: `each [[columns.split]] has from, at, and at least two columns in into, ` +
				`for example from = "Colour / size", at = "/", into = ["Colour", "Size"]`})
	}
	return append(problems, r.Scope.Check()...)
}

// Check returns what is wrong with the rule whatever the sheet.
func (r *JoinRule) Check() (problems []catalogue.Problem) {
	if len(r.From) < 2 || r.Into == "" {
		problems = append(problems, catalogue.Problem{Key: "from",
			Text: `each [[columns.join]] has at least two columns in from, and into, ` +
				`for example from = ["Brand", "Title"], with = " ", into = "Full title"`})
	}
	return append(problems, r.Scope.Check()...)
}

// Check returns what is wrong with the rule whatever the sheet.
func (r *FillRule) Check() (problems []catalogue.Problem) {
	if r.Into == "" || (r.With == "") == (r.From == "") {
		problems = append(problems, catalogue.Problem{Key: "into", Text: `each [[columns.fill]] has into, and either with or from, ` +
			`for example into = "Language", with = "en"`})
	}
	return append(problems, r.Scope.Check()...)
}

// A Split is a SplitRule fitted to a sheet.
type Split struct {
	Rule *SplitRule
	From int
	At   string
	Into []int
}

// String says the rule in words.
func (r *SplitRule) String() string {
	return fmt.Sprintf("split \"%s\" into %s", catalogue.OneLine(r.From), strings.Join(r.Into, ", "))
}

// String says the rule in words.
func (r *JoinRule) String() string {
	return fmt.Sprintf("join %s into \"%s\"", strings.Join(r.From, ", "), catalogue.OneLine(r.Into))
}

// Parts takes a cell apart; ok is false if it has not as many parts as there are
// columns for them.
func (s *Split) Parts(cell string) (parts []string, ok bool) {
	parts = strings.Split(cell, s.At)
	for i := range parts {
		parts[i] = strings.TrimSpace(parts[i])
	}
	return parts, len(parts) == len(s.Into)
}

// A Join is a JoinRule fitted to a sheet.
type Join struct {
	Rule *JoinRule
	From []int
	With string
	Into int
}

// Text puts the cells of a row together.
func (j *Join) Text(row *catalogue.Row) string {
	var parts []string
	for _, col := range j.From {
		if cell := strings.TrimSpace(row.Cell(col)); cell != "" {
			parts = append(parts, cell)
		}
	}
	return strings.Join(parts, j.With)
}

// parts fits the rules that split and join columns.
func (b *builder) parts() error {
	for i := range b.rules.Split {
		s := &b.rules.Split[i]
		from := b.find(s.From)
		if len(from) == 0 {
			if b.rules.gone(s.From) {
				continue
			}
			return b.missing("split", s.From)
		}
		split := Split{Rule: s, From: from[0], At: s.At}
		for _, name := range s.Into {
			col := b.target(name)
			if col == split.From {
				return Refuse("[[columns.split]] of %q into itself would take it apart again each time; give the part another heading, "+
					"then drop %q and rename the part", s.From, s.From)
			}
			split.Into = append(split.Into, col)
		}
		b.plan.Splits = append(b.plan.Splits, split)
	}
	for i := range b.rules.Join {
		j := &b.rules.Join[i]
		join := Join{Rule: j, With: j.With}
		for _, name := range j.From {
			from := b.find(name)
			switch {
			case len(from) > 0:
				join.From = append(join.From, from[0])
			case !b.rules.gone(name):
				return b.missing("join", name)
			}
		}
		if len(join.From) < len(j.From) {
			continue // it was joined before its columns were dropped
		}
		join.Into = b.target(j.Into)
		b.plan.Joins = append(b.plan.Joins, join)
	}
	return nil
}
