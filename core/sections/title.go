package sections

import (
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/condition"
	"zetanum/core/lists"
	"zetanum/core/rulebook"
	"zetanum/core/steps"
	"zetanum/core/title"
)

// titleSection puts titles in order.
type titleSection struct {
	plain
	rules *title.Rules
	field *lists.FieldRule // what the field must be, if it is read here
}

func (*titleSection) Parts() []rulebook.Part {
	return []rulebook.Part{{
		Name: "title", Line: "[title]",
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
				Name: "language",
				Says: "The language of the titles, where no column says it: de, en, es, fr, it, nl, pl, pt or tr. Without it, it is told from the " +
					"small words in them.",
				Example: `case = "title"
language = "fr"`,
			},
			{
				Name: "keep",
				Says: "Words and names that keep their writing, besides the brand of each product.",
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

// Order orders that titles are put in order.
func (t *titleSection) Order(s *Sheet) error {
	if t.rules.Idle() {
		return nil
	}
	cols, err := s.Need("[title]", catalogue.Title.String())
	if err != nil {
		return err
	}
	number := s.Tally.Add(t.rules.String(), steps.Changed, 0)
	for _, col := range cols {
		c := &titleColumn{sheet: s, rules: t.rules, col: col, number: number, brand: s.beside(s.Columns.First(catalogue.Brand), col),
			language: s.beside(s.Columns.First(catalogue.Language), col), words: make(map[string]*title.Words)}
		reads := []int{c.brand, c.language}
		if t.rules.WithoutOwnCodes {
			for _, code := range append(s.Columns.All(catalogue.SKU), s.Columns.All(catalogue.Barcode)...) {
				c.codes = append(c.codes, s.beside(code, col))
			}
			reads = append(reads, c.codes...)
		}
		if c.usual = t.rules.Language; c.usual == "" {
			c.usual = title.LanguageOf(c.sample())
		}
		for _, lang := range append(title.Languages(), "") {
			c.words[lang] = title.NewWords(lang, t.rules.Keep, t.rules.Twice)
		}
		one := steps.Order{Key: "title", Phase: steps.PhaseTitles, Writes: []int{col}, Do: c.do,
			Rules: []catalogue.Rule{catalogue.RuleClean, catalogue.RuleCase, catalogue.RuleMeasures}}
		for _, from := range reads {
			if from >= 0 {
				one.Reads = append(one.Reads, from)
			}
		}
		if err := s.Orders.AddCounted(one, condition.Meant{}, -1); err != nil {
			return err
		}
	}
	return nil
}

// beside returns a column, or -1 if rules make of the title what stands there.
func (s *Sheet) beside(col, title int) int {
	if made := s.Orders.MadeOf(catalogue.ColumnsOf(col)); col < 0 || made.Has(title) {
		return -1
	}
	return col
}

// titleColumn are the titles of one column.
type titleColumn struct {
	sheet           *Sheet
	rules           *title.Rules
	col, number     int
	brand, language int
	codes           []int
	usual           string // the language of rows that do not say it
	words           map[string]*title.Words
}

// sample returns titles by which their language is told.
func (c *titleColumn) sample() (titles []string) {
	for _, cells := range c.sheet.Table.Sample {
		if c.col < len(cells) {
			titles = append(titles, cells[c.col])
		}
	}
	return titles
}

var titleRules = [...]catalogue.Rule{title.Cleaning: catalogue.RuleClean, title.Casing: catalogue.RuleCase, title.Measuring: catalogue.RuleMeasures}

func (c *titleColumn) do(r *steps.RowAt) bool {
	cell := r.Cell(c.col)
	if strings.TrimSpace(cell) == "" {
		return false
	}
	lang := c.usual
	if own := strings.ToLower(strings.TrimSpace(r.Cell(c.language))); len(own) >= 2 && c.words[own[:2]] != nil {
		lang = own[:2]
	}
	of := title.Product{Brand: r.Cell(c.brand)}
	for _, col := range c.codes {
		if code := r.Cell(col); code != "" {
			of.Codes = append(of.Codes, code)
		}
	}
	if r.Dry {
		if after := c.rules.Apply(c.words[lang], cell, of, nil); after != cell {
			r.Set(c.col, after, catalogue.NoRule, catalogue.NoGround, "")
		}
		return false
	}
	type change struct {
		part  title.Part
		after string
	}
	var some [8]change
	done := some[:0]
	after := c.rules.Apply(c.words[lang], cell, of, func(part title.Part, after string) { done = append(done, change{part, after}) })
	if after == cell || len(done) == 0 {
		return false
	}
	done[len(done)-1].after = after
	r.Touch(c.number, c.col)
	for _, d := range done {
		r.Set(c.col, d.after, titleRules[d.part], catalogue.Ordered, "")
	}
	return false
}
