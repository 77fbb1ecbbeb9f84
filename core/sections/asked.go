package sections

import "zetanum/core/rulebook"

// askedSection is what is not asked again.
type askedSection struct {
	plain
	rules *Asked
}

// Asked is what the questions of begin were answered with where that is no order: [asked].
type Asked struct {
	No []string `toml:"no" json:"no,omitempty"`
}

func (*askedSection) Parts() []rulebook.Part {
	return []rulebook.Part{{
		Name: "asked", Line: "[asked]",
		Says: "What the command ‹begin› with the setting ‹ask› does not ask again, because it was answered with no. It orders nothing.",
		Keys: []rulebook.Key{{Name: "no", Says: "The questions, by their names. Take one out, and it is asked again.",
			Example: `no = ["title.shouts", "columns.fill=Brand"]`}},
	}}
}

func (s *askedSection) Tables() []rulebook.Table {
	return []rulebook.Table{{Name: "asked", Into: s.rules}}
}
