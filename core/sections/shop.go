package sections

import "zetanum/core/rulebook"

// Shop says what the shop has: [shop].
type Shop struct {
	// Export is a sheet of the shop's present catalogue, which other sections refer to.
	Export string `toml:"export" json:"export,omitempty"`
}

// shopSection names the shop's present catalogue, once for all that need it.
type shopSection struct {
	plain
	rules *Shop
}

func (*shopSection) Parts() []rulebook.Part {
	return []rulebook.Part{{
		Name: "shop", Line: "[shop]",
		Says: "What the shop has now.",
		Keys: []rulebook.Key{{
			Name: "export",
			Says: "A sheet of the shop's present catalogue, as the shop exports it. Where another section needs it, it says so with " +
				"the word shop.",
			Example: `export = "shop-export.csv"`,
		}},
	}}
}

func (s *shopSection) Tables() []rulebook.Table {
	return []rulebook.Table{{Name: "shop", Into: s.rules}}
}

func (s *shopSection) Files() []*string { return []*string{&s.rules.Export} }
