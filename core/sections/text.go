package sections

import (
	"zetanum/core/rulebook"
	"zetanum/core/steps"
	"zetanum/core/text"
)

// textSection says what becomes of all texts.
type textSection struct {
	plain
	rules *text.Rules
}

func (*textSection) Parts() []rulebook.Part {
	return []rulebook.Part{
		{
			Name: "text", Line: "[text]",
			Says: "What becomes of all texts: titles, brands, tags and the like, but neither codes nor HTML.",
			Keys: []rulebook.Key{
				{
					Name:    "quotes",
					Says:    "What becomes of curly quotation marks and apostrophes: keep, or plain ones. Guillemets stay.",
					Example: `quotes = "plain"`,
				},
				{
					Name: "formulas",
					Says: "What becomes of texts that a spreadsheet program would run as a formula, because they begin with =, +, - or " +
						"@: keep, or quote, with an apostrophe before them. They are named in any case; numbers and telephone numbers " +
						"are none.",
					Example: `formulas = "quote"`,
				},
				{
					Name: "full_width",
					Says: "What becomes of letters, digits and signs in full width, as East Asian keyboards write them, in texts that " +
						"are not of East Asia: keep, or plain ones.",
					Example: `full_width = "plain"`,
				},
			},
		},
	}
}

func (s *textSection) Tables() []rulebook.Table {
	return []rulebook.Table{{Name: "text", Into: s.rules}}
}

func (s *textSection) Check() []rulebook.Problem { return rulebook.In("text", 0, s.rules.Check()) }

func (*textSection) Steps(s *Sheet) error {
	s.Add(StageText, steps.Text(&s.Sheet))
	return nil
}

// Begin names what can be said.
func (*textSection) Begin(_ *Seen, b *Draft) {
	b.line("\n[text]\n# quotes = \"plain\"               # “curly” ones are kept, if nothing is said")
}
