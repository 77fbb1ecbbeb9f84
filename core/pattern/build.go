package pattern

import (
	"errors"
	"fmt"

	"zetanum/core/catalogue"
	"zetanum/core/condition"
)

// A BuildRule builds a field from others: [[build]].
type BuildRule struct {
	// Into names the column, which is added if it is not there.
	Into string `toml:"into" json:"into,omitempty"`
	// From is the pattern.
	From string `toml:"from" json:"from,omitempty"`
	// Over builds the cell anew even if it is not empty.
	Over bool `toml:"over" json:"over,omitempty"`
	condition.Scope
}

// Check returns what is wrong with the rule whatever the sheet.
func (r *BuildRule) Check() (problems []catalogue.Problem) {
	wrong := func(key, text string) { problems = append(problems, catalogue.Problem{Key: key, Text: text}) }
	switch {
	case r.Into == "":
		wrong("into", `names the column to build, for example into = "title"`)
	}
	if _, err := Parse(r.From); err != nil {
		wrong("from", err.Error())
	}
	return append(problems, r.Scope.Check()...)
}

// String says the rule in words.
func (r *BuildRule) String() string {
	return fmt.Sprintf("build \"%s\" from \"%s\"", catalogue.OneLine(r.Into), catalogue.OneLine(r.From))
}

// ErrOwn says that a field is built over from itself.
var ErrOwn = errors.New("it would be built from itself, again each time")
