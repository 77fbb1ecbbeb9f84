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

// Order orders that titles are put in order.
func (t *titleSection) Order(s *Sheet) error {
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
			return &ruleError{key: "fit", error: columns.Refuse("[title] fit: nothing says how long titles are at most; say it with longest = 80, for example")}
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

// orderWords orders that the words of a field are put in order.
func (s *Sheet) orderWords(name string, field *FieldTable, cols []int) error {
	rules := field.InField.Rules(&s.Book.Title)
	if rules.Idle() {
		return nil
	}
	number := s.Tally.Add(name+": "+rules.String(), steps.Changed, 0)
	for _, col := range cols {
		if err := s.Orders.AddCounted(s.words(name, rules, col, number).order("field."+name), field.Meant, -1); err != nil {
			return err
		}
	}
	return nil
}

// words returns what puts the words of a column in order.
func (s *Sheet) words(name string, rules *title.Rules, col, number int) *wordsColumn {
	c := &wordsColumn{sheet: s, rules: rules, col: col, number: number, brand: -1, language: s.beside(s.Columns.First(catalogue.Language), col),
		words: make(map[string]*title.Words), shorts: make(map[string]*title.Shorts)}
	if s.Columns.Fields[col] == catalogue.Title {
		c.brand = s.beside(s.Columns.First(catalogue.Brand), col)
	}
	if rules.WithoutOwnCodes {
		for _, code := range append(s.Columns.All(catalogue.SKU), s.Columns.All(catalogue.Barcode)...) {
			c.codes = append(c.codes, s.beside(code, col))
		}
	}
	if c.usual = rules.Language; c.usual == "" {
		c.usual = s.languageOf(col)
	}
	if cased := rules.Case != "" && rules.Case != title.AsIs; cased && rules.Language == "" && c.language < 0 && name == catalogue.Title.String() {
		what := "nobody can tell the language from the small words"
		if c.usual != "" {
			what = "the language is taken to be " + c.usual + ", by the small words"
		}
		s.Note("%s of %q; another is said with language under [title]", what, s.Columns.Headings[col])
	}
	for _, lang := range append(title.Languages(), "") {
		c.words[lang] = title.NewWords(lang, rules.Keep, rules.Twice)
	}
	return c
}

// order returns the order that does it.
func (c *wordsColumn) order(key string) steps.Order {
	one := steps.Order{Key: key, Phase: steps.PhaseTitles, Writes: []int{c.col}, Do: c.do, Rules: titleRules[:title.Fitting]}
	if c.rules.Fit {
		one.Rules = titleRules[:]
	}
	for _, from := range append([]int{c.brand, c.language}, c.codes...) {
		if from >= 0 {
			one.Reads = append(one.Reads, from)
		}
	}
	return one
}

// beside returns a column, or -1 if rules make of the title what stands there.
func (s *Sheet) beside(col, title int) int {
	if made := s.Orders.MadeOf(catalogue.ColumnsOf(col)); col < 0 || made.Has(title) {
		return -1
	}
	return col
}

// A wordsColumn are the titles, or other texts, of one column.
type wordsColumn struct {
	sheet           *Sheet
	rules           *title.Rules
	col, number     int
	brand, language int
	codes           []int
	usual           string // the language of rows that do not say it
	words           map[string]*title.Words
	shorts          map[string]*title.Shorts
	limit           text.Limit // Most is 0 if titles need not fit
}

// sample returns the texts of a column by which their language is told.
func (s *Sheet) sample(col int) (texts []string) {
	for _, cells := range s.Table.Sample {
		if col >= 0 && col < len(cells) {
			texts = append(texts, cells[col])
		}
	}
	return texts
}

// languageOf tells the language of the texts of a column, "" if they do not say. In an output of ours it is what was told of the
// source.
func (s *Sheet) languageOf(col int) string {
	if col < 0 {
		return ""
	}
	name := s.Columns.Name(col)
	lang, known := s.Languages[name]
	if !known || !s.AsLeft {
		lang = title.LanguageOf(s.sample(col))
	}
	if s.Told == nil {
		s.Told = make(map[string]string)
	}
	s.Told[name] = lang
	return lang
}

// anyWords returns what is known of the words of the file.
func (s *Sheet) anyWords() *title.Words {
	lang := s.Book.Title.Language
	if lang == "" {
		lang = s.languageOf(s.Columns.First(catalogue.Title))
	}
	return title.NewWords(lang, s.Book.Title.Keep, s.Book.Title.Twice)
}

var titleRules = [...]catalogue.Rule{title.Cleaning: catalogue.RuleClean, title.Casing: catalogue.RuleCase, title.Measuring: catalogue.RuleMeasures,
	title.Fitting: catalogue.RuleFit}

func (c *wordsColumn) do(r *steps.RowAt) bool {
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
		if after := c.settled(cell, lang, of, nil); after != cell {
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
	after := c.settled(cell, lang, of, func(part title.Part, after string) { done = append(done, change{part, after}) })
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

// mostRounds is how often a title is put in order and made to fit until both find nothing to do.
const mostRounds = 6

// settled puts a title in order and makes it fit; one that cannot fit stays as long as it is, and is held, and one that
// never comes to rest stays as it is.
func (c *wordsColumn) settled(cell, lang string, of title.Product, did func(title.Part, string)) string {
	s := cell
	for range mostRounds {
		after := c.rules.Apply(c.words[lang], s, of, did)
		if c.limit.Most > 0 {
			if fitted, ok := c.words[lang].Fit(after, c.limit, c.shorts[lang], c.rules.Cut); ok && fitted != after {
				if after = fitted; did != nil {
					did(title.Fitting, fitted)
				}
			}
		}
		if after == s {
			return s
		}
		s = after
	}
	return cell
}
