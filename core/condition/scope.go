package condition

import "zetanum/core/catalogue"

// Meant says which rows a rule means. Rules embed it, so that the keys are the same, and
// mean the same, wherever they stand.
type Meant struct {
	// Where is a condition: only rows that fulfil it are meant.
	Where map[string]any `toml:"where" json:"where,omitempty"`
	// Rows says which rows of a product are meant: lead, variants, images or all; those
	// to which what is written belongs if nothing is said.
	Rows catalogue.Rows `toml:"rows" json:"rows,omitempty"`
}

// Scope says which rows a rule changes, and how many.
type Scope struct {
	Meant
	// Count, if not 0, is how many rows must be changed; with another number nothing is
	// written.
	Count int `toml:"count" json:"count,omitempty"`
}

// Check returns what is wrong with the scope, whatever the rule.
func (s *Scope) Check() (problems []catalogue.Problem) {
	if s.Count < 0 {
		problems = append(problems, catalogue.Problem{Key: "count", Text: "is a number of rows, 1 or more"})
	}
	return problems
}

// Fields are those in whose cells a rule works.
type Fields struct {
	// In names them, or headings.
	In []string `toml:"in" json:"in,omitempty"`
}

// OneWay is what a rule says that may change its own result again.
type OneWay struct {
	// Once says so: the rule is applied, and refused on a file that it has been applied to.
	Once bool `toml:"once" json:"once,omitempty"`
}
