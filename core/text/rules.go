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
}

// Check returns what is wrong with the rules.
func (r *Rules) Check() (problems []catalogue.Problem) {
	for key, value := range map[string]string{"quotes": r.Quotes, "full_width": r.Width} {
		if value != "" && value != "keep" && value != "plain" {
			problems = append(problems, catalogue.Problem{Key: key, Text: "is keep or plain"})
		}
	}
	return problems
}
