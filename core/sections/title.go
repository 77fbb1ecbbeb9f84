package sections

import (
	"fmt"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/condition"
	"zetanum/core/lists"
	"zetanum/core/reference"
	"zetanum/core/rulebook"
	"zetanum/core/sheet"
	"zetanum/core/steps"
	"zetanum/core/text"
	"zetanum/core/title"
)

// titleSection puts titles in order.
type titleSection struct {
	plain
	rules *title.Rules
	field *lists.FieldRule // what the field must be, if it is read here
	pairs [][]string       // short forms
}

func (*titleSection) Parts() []rulebook.Part {
	return []rulebook.Part{{
		Name: "title", Line: "[title]", Also: fieldKeys(),
		Says: "Titles: what does not belong there, letters that shout, measures. Nothing is done to them without an order. Brands, models, " +
			"acronyms, units and roman numerals keep their writing; small words are those of the language. More under [titles](titles.md).",
		Keys: []rulebook.Key{
			{
				Name: "clean",
				Says: "Takes off markup and entities, phrases that praise (!!! NEW !!!, in nine languages) at the ends, the second of two words that " +
					"are the same, stray and doubled punctuation, and brackets that hold nothing; closes those that are left open.",
				Example: `clean = true`,
			},
			{
				Name: "emoji",
				Says: `"drop" takes pictures out; "keep", as when nothing is said, leaves them.`,
				Example: `clean = true
emoji = "drop"`,
			},
			{
				Name: "without_own_codes",
				Says: "Takes the product's own SKU and barcode out of its title.",
				Example: `clean = true
without_own_codes = true`,
			},
			{
				Name: "case",
				Says: `How letters are written: "shouting" touches only titles and words of five letters and more in capitals; "title" writes all words ` +
					`large but the small ones, "sentence" only the first, and in German nouns as they are; "as-is" leaves them.`,
				Example: `case = "shouting"`,
			},
			{
				Name: "shouting_as",
				Says: `With case = "shouting": what a title becomes that shouts, "title", as when nothing is said, or "sentence".`,
				Example: `case = "shouting"
shouting_as = "sentence"`,
			},
			{
				Name:    "measures",
				Says:    "Writes measures with the symbol of their unit, and a space before it: 500ML becomes 500 ml, 10 Mtr 10 m.",
				Example: `measures = true`,
			},
			{
				Name: "units",
				Says: "Units besides those that are known, or other symbols for these: what people write, and the symbol; with none it is no unit.",
				Example: `measures = true
units    = { "btl" = "bottles", "Ltr" = "L" }`,
			},
			{
				Name: "fit",
				Says: "Makes titles fit that are longer than longest under [field.title]: with short forms, in their order and only as far as needed. " +
					"What cannot fit is held.",
				Example: `longest = 40
fit     = true
shorten = [["stainless steel", "st. steel"]]`,
			},
			{
				Name: "shorten",
				Says: "With fit: short forms of words, each a pair.",
				Example: `longest = 40
fit     = true
shorten = [["approximately", "approx."], ["replacement", "repl."]]`,
			},
			{
				Name: "shorten_from",
				Says: "The same from the first two columns of a sheet.",
				Example: `longest = 40
fit     = true
shorten_from = "short-forms.csv"`,
			},
			{
				Name: "cut",
				Says: "With fit: what does not fit with short forms is cut at the end of a word, and never so that a bracket stays open or a small word " +
					"stands last.",
				Example: `longest = 40
fit     = true
cut     = true`,
			},
			{
				Name: "language",
				Says: "The language of the titles, where no column says it: de, en, es, fr, it, nl, pl, pt or tr. Without it, it is told from the " +
					"small words in them.",
				Example: `case = "title"
language = "fr"`,
			},
			{
				Name: "keep",
				Says: "Words and names that keep their writing, besides the brands of the file.",
				Example: `case = "shouting"
keep = ["WBC", "Mark II", "pH"]`,
			},
			{
				Name: "twice",
				Says: "Words that stand twice side by side by right.",
				Example: `clean = true
twice = ["Bora Bora"]`,
			},
		},
	}}
}

func (t *titleSection) Tables() []rulebook.Table {
	return []rulebook.Table{{Name: "title", Into: &struct {
		*title.Rules
		*lists.FieldRule
	}{t.rules, t.field}}}
}

func (t *titleSection) Check() []rulebook.Problem { return rulebook.In("title", 0, t.rules.Check()) }

func (t *titleSection) Files() []*string { return []*string{&t.rules.ShortenFrom} }

// Open reads the short forms.
func (t *titleSection) Open(s *Sheet) error {
	t.pairs = t.rules.Shorten
	if t.rules.ShortenFrom == "" {
		return nil
	}
	list, err := reference.ReadPairs(t.rules.ShortenFrom, sheet.Options{Spool: s.Temp})
	if err != nil {
		return &ruleError{key: "shorten_from", error: fmt.Errorf("[title] shorten_from: %w", err)}
	}
	t.pairs = slices.Clone(t.pairs)
	for _, p := range list {
		if strings.TrimSpace(p.Key) != "" {
			t.pairs = append(t.pairs, []string{p.Key, p.Value})
		}
	}
	if said := title.CheckShorts(t.pairs); said != "" {
		return &ruleError{key: "shorten_from", error: columns.Refuse("[title] shorten_from %s", said)}
	}
	return nil
}

// Order orders that titles are put in order, or looks what an order would do.
func (t *titleSection) Order(s *Sheet) error {
	if col := s.Columns.First(catalogue.Title); col >= 0 && col < s.Columns.Own() && steps.Compares(s.Table) {
		s.lookAtTitles(col, t.rules)
	}
	if t.rules.Idle() {
		return nil
	}
	cols, err := s.Need("[title]", catalogue.Title.String())
	if err != nil {
		return err
	}
	number := s.Tally.Add("titles: "+t.rules.String(), steps.Changed, 0)
	for _, col := range cols {
		c := s.words("title", t.rules, col, number)
		if field, said := s.Fields[catalogue.Title.String()]; said && t.rules.Fit {
			c.limit = text.Limit{Most: field.Longest, In: field.CountIn}
		}
		if t.rules.Fit && c.limit.Most == 0 {
			c.limit.Most = s.shape.most(col)
		}
		if t.rules.Fit && c.limit.Most == 0 {
			return &ruleError{key: "fit", error: columns.Refuse("[title] fit: nothing says how long titles are at most, no template either; say it with longest = 80, for example")}
		}
		if t.rules.Fit {
			for lang, words := range c.words {
				c.shorts[lang] = words.NewShorts(t.pairs)
			}
		}
		if err := s.Orders.AddCounted(c.order("title"), condition.Meant{}, -1); err != nil {
			return err
		}
	}
	return nil
}

// Begin proposes what titles need.
func (*titleSection) Begin(s *Seen, b *Draft) {
	lines := []struct {
		code  catalogue.Code
		order string
		what  string
	}{
		{catalogue.TitleClutter, "clean    = true", "what does not belong there"}, {catalogue.TitleShouts, "case     = \"shouting\"", "words that shout"},
		{catalogue.TitleMeasures, "measures = true", "measures such as 500ML"},
	}
	begun := false
	for _, l := range lines {
		if n := s.cells(l.code); n > 0 {
			if !begun {
				b.line("\n# [title]")
				begun = true
			}
			b.line("# %-28s # %s: %s", l.order, plural(n, "title"), l.what)
		}
	}
}

// Ask asks for what would put titles in order.
func (*titleSection) Ask(s *Seen) (list []Question) {
	title := s.first(catalogue.Title)
	if n := s.cells(catalogue.TitleShouts); n > 0 {
		list = append(list, yesNo("title.shouts", n, verb(n, "title", "shouts", "shout")+".", mend(n), set("title", "case", `"shouting"`)).on(catalogue.TitleShouts, title))
	}
	if n := s.cells(catalogue.TitleClutter); n > 0 {
		list = append(list, yesNo("title.clutter", n, fmt.Sprintf("%s what does not belong into a title: repeated signs, spaces before commas and the like.", verb(n, "title", "has", "have")),
			"Take it out?", set("title", "clean", "true")).on(catalogue.TitleClutter, title))
	}
	if n := s.cells(catalogue.TitleMeasures); n > 0 {
		list = append(list, yesNo("title.measures", n, fmt.Sprintf("%s measures that are not written as they should be, such as 500ML.", verb(n, "title", "has", "have")), mend(n),
			set("title", "measures", "true")).on(catalogue.TitleMeasures, title))
	}
	return list
}
