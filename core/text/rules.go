package text

import "zetanum/core/catalogue"

// Rules are what a shop wants of all its texts: [text].
type Rules struct {
	// Quotes says what becomes of curly quotation marks and apostrophes: keep or
	// plain; keep if nothing is said.
	Quotes string `toml:"quotes" json:"quotes,omitempty"`
	// Width says what becomes of full-width letters, digits and signs in texts
	// that are not of East Asia: keep or plain; keep if nothing is said.
	Width string `toml:"full_width" json:"full_width,omitempty"`
	// Formulas says what becomes of cells that a spreadsheet program would run as
	// a formula: keep or quote, with an apostrophe before them; keep if nothing is
	// said.
	Formulas string `toml:"formulas" json:"formulas,omitempty"`
}

// Check returns what is wrong with the rules.
func (r *Rules) Check() (problems []catalogue.Problem) {
	check := func(key, value, other string) {
		if value != "" && value != "keep" && value != other {
			problems = append(problems, catalogue.Problem{Key: key, Text: "is keep or " + other})
		}
	}
	check("quotes", r.Quotes, "plain")
	check("full_width", r.Width, "plain")
	check("formulas", r.Formulas, "quote")
	return problems
}
