package sections

import (
	"encoding/binary"
	"fmt"
	"maps"
	"slices"
	"strings"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/brand"
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

// lookAtTitles looks which products have the same title and which have none, and what orders about titles would do that nobody has
// given.
func (s *Sheet) lookAtTitles(col int, rules *title.Rules) {
	same := &sameTitles{}
	s.Orders.Learn(steps.Learner{Cols: []int{col}, New: func() steps.Learned { return &sameTitles{col: col} }, Judge: func(l steps.Learned) error {
		same = l.(*sameTitles)
		return nil
	}})
	would := &title.Rules{Clean: !rules.Clean, Measures: !rules.Measures, Language: rules.Language, Keep: rules.Keep, Twice: rules.Twice, Units: rules.Units}
	if rules.Case == "" {
		would.Case = title.Shouting
	}
	c := s.words("", would, col, -1)
	unique := s.Fields[catalogue.Title.String()].Unique
	s.Orders.Look("title", []int{col}, func(r *steps.RowAt) {
		cell := r.Cell(col)
		if cell == "" || r.Row.Made > 0 {
			return
		}
		if n := same.count(cell); n > 1 && r.Row == r.Lead && !unique {
			r.Find(catalogue.TitleTwice, col, cell, catalogue.Facts{Digits: n})
		}
		c.look(r, cell)
	})
}

// proposed are the findings about what an order would do.
var proposed = [...]catalogue.Code{title.Cleaning: catalogue.TitleClutter, title.Casing: catalogue.TitleShouts, title.Measuring: catalogue.TitleMeasures}

// look names what each order would do to a text.
func (c *wordsColumn) look(r *steps.RowAt, cell string) {
	words, of := c.words[c.languageIn(r)], title.Product{Brand: r.Cell(c.brand)}
	if c.rules.Apply(words, cell, of, nil) == cell {
		return
	}
	for part := range proposed {
		alone := *c.rules
		alone.Clean, alone.Measures = alone.Clean && title.Part(part) == title.Cleaning, alone.Measures && title.Part(part) == title.Measuring
		if title.Part(part) != title.Casing {
			alone.Case = ""
		}
		if after := alone.Apply(words, cell, of, nil); after != cell {
			r.Find(proposed[part], c.col, cell, catalogue.Facts{Other: after, Proposed: after})
		}
	}
}

// languageIn returns the language of a row.
func (c *wordsColumn) languageIn(r *steps.RowAt) string {
	if own := strings.ToLower(strings.TrimSpace(r.Cell(c.language))); len(own) >= 2 && c.words[own[:2]] != nil {
		return own[:2]
	}
	return c.usual
}

// sameTitles counts how many products have a title.
type sameTitles struct {
	col    int
	counts map[uint64]int32
}

// mostTitles is how many different titles are counted; nothing is said of files that have more.
const mostTitles = 1 << 20

func (t *sameTitles) Learn(p *catalogue.Product) {
	for _, row := range p.Rows {
		if cell := strings.TrimSpace(row.Cell(t.col)); cell != "" {
			t.add(keyOfTitle(cell), 1)
			return
		}
	}
}

func (t *sameTitles) add(key uint64, n int32) {
	if t.counts == nil {
		t.counts = make(map[uint64]int32)
	}
	if len(t.counts) < mostTitles || t.counts[key] > 0 {
		t.counts[key] += n
	}
}

func (t *sameTitles) Merge(next steps.Learned) {
	for key, n := range next.(*sameTitles).counts {
		t.add(key, n)
	}
}

func (t *sameTitles) AppendBinary(b []byte) ([]byte, error) {
	for _, key := range slices.Sorted(maps.Keys(t.counts)) {
		b = binary.AppendUvarint(binary.AppendUvarint(b, key), uint64(t.counts[key]))
	}
	return b, nil
}

func (t *sameTitles) count(cell string) int {
	if len(t.counts) >= mostTitles {
		return 0
	}
	return int(t.counts[keyOfTitle(cell)])
}

// keyOfTitle returns the hash of a title in which case, spaces and signs do not count.
func keyOfTitle(cell string) uint64 {
	return xxhash.Sum64String(lists.SpellingKey(text.Entities(cell)))
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

// words returns what puts the words of a column in order; without a name it is only looked.
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
	switch c.usual = rules.Language; {
	case c.usual != "":
	case name == "": // nothing is written
		c.usual = title.LanguageOf(s.sample(col))
	default:
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
		c.words[lang] = rules.Words(lang)
	}
	if s.Columns.Fields[col] == catalogue.Title {
		s.Orders.Learn(steps.Learner{New: func() steps.Learned { return nothing{} }, Judge: func(steps.Learned) error {
			c.keepBrands()
			return nil
		}})
	}
	return c
}

// mostTold is how many brands are told to a later run.
const mostTold = 5000

// keepBrands lets the brands of the catalogue keep their writing in titles.
func (c *wordsColumn) keepBrands() {
	var names []string
	for _, p := range c.sheet.brands {
		if p.Key == p.Value && !brand.IsPlaceholder(p.Value) {
			names = append(names, p.Value)
		}
	}
	if c.sheet.AsLeft != nil && c.sheet.AsLeft.Brands != nil {
		names = c.sheet.AsLeft.Brands
	}
	if c.number >= 0 && len(names) <= mostTold {
		c.sheet.Told.Brands = names
	}
	for _, words := range c.words {
		words.KeepBrands(names)
	}
}

// nothing is learned, but something is to be done when all has been seen.
type nothing struct{}

func (nothing) Learn(*catalogue.Product)              {}
func (nothing) Merge(steps.Learned)                   {}
func (nothing) AppendBinary(b []byte) ([]byte, error) { return b, nil }

// order returns the order that does it.
func (c *wordsColumn) order(key string) steps.Order {
	one := steps.Order{Key: key, Phase: steps.PhaseTitles, Writes: []int{c.col}, Do: c.do, Rules: titleRules[:title.Fitting]}
	reads := append([]int{c.brand, c.language}, c.codes...)
	if c.rules.Fit {
		one.Rules = titleRules[:]
		for _, built := range c.sheet.built[c.col] {
			reads = append(reads, built.cols...)
		}
	}
	for _, from := range reads {
		if from >= 0 && !slices.Contains(one.Reads, from) {
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
	lang := ""
	if s.AsLeft != nil {
		lang = s.AsLeft.Languages[name]
	} else {
		lang = title.LanguageOf(s.sample(col))
	}
	if s.Told.Languages == nil {
		s.Told.Languages = make(map[string]string)
	}
	s.Told.Languages[name] = lang
	return lang
}

// anyWords returns what is known of the words of the file.
func (s *Sheet) anyWords() *title.Words {
	lang := s.Book.Title.Language
	if lang == "" {
		lang = s.languageOf(s.Columns.First(catalogue.Title))
	}
	return s.Book.Title.Words(lang)
}

var titleRules = [...]catalogue.Rule{title.Cleaning: catalogue.RuleClean, title.Casing: catalogue.RuleCase, title.Measuring: catalogue.RuleMeasures,
	title.Fitting: catalogue.RuleFit}

func (c *wordsColumn) do(r *steps.RowAt) bool {
	cell := r.Cell(c.col)
	if strings.TrimSpace(cell) == "" {
		return false
	}
	lang := c.languageIn(r)
	if c.stays(r, cell, lang) {
		return false
	}
	of := title.Product{Brand: r.Cell(c.brand)}
	for _, col := range c.codes {
		if code := r.Cell(col); code != "" {
			of.Codes = append(of.Codes, code)
		}
	}
	if r.Dry {
		if after, _ := c.settled(r, cell, lang, of, nil); after != cell {
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
	after, nearest := c.settled(r, cell, lang, of, func(part title.Part, after string) { done = append(done, change{part, after}) })
	if nearest != "" {
		r.Find(catalogue.TitleUnfit, c.col, after, catalogue.Facts{Digits: c.limit.Len(after), Length: c.limit.Most,
			Other: fmt.Sprintf("%s (%d)", catalogue.Shorten(nearest, 100), c.limit.Len(nearest))})
	}
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

// stays reports whether a look at a text shows that nothing is to be done, as is so with most.
func (c *wordsColumn) stays(r *steps.RowAt, cell, lang string) bool {
	if c.limit.Most > 0 && !c.fits(cell) {
		return false
	}
	if len(c.codes) > 0 {
		digits := title.Digits(cell)
		for _, col := range c.codes {
			if title.MayHave(digits, r.Cell(col)) {
				return false
			}
		}
	}
	return c.rules.Stays(c.words[lang], cell)
}

// mostRounds is how often a title is put in order and made to fit until both find nothing to do.
const mostRounds = 6

// settled puts a title in order and makes it fit; one that cannot fit stays as long as it is, and nearest is the shortest that was
// reached; and one that never comes to rest stays as it is.
func (c *wordsColumn) settled(r *steps.RowAt, cell, lang string, of title.Product, did func(title.Part, string)) (after, nearest string) {
	s := cell
	for range mostRounds {
		after, nearest = c.rules.Apply(c.words[lang], s, of, did), ""
		if c.limit.Most > 0 && !c.fits(after) {
			fitted, ok := c.fit(r, after, lang, of)
			if ok {
				if did != nil {
					did(title.Fitting, fitted)
				}
				s = fitted
				continue
			}
			nearest = fitted
		}
		return after, nearest
	}
	return cell, ""
}

// fits reports whether a title is short enough as it is written for the target, whose encoding may not have all of its characters.
func (c *wordsColumn) fits(s string) bool { return c.limit.Fits(c.standing(s)) }

// standing returns a title with what stands for characters that the target does not have.
func (c *wordsColumn) standing(s string) string {
	if fitter := c.sheet.Texts.Fitter; fitter != nil && !fitter.Has(s) {
		if fitted, _, _, ok := fitter.Fit(s, false); ok {
			return fitted
		}
	}
	return s
}

// fit makes a title fit: with short forms, without optional parts of the pattern by which it was built, the last first, and by a cut. ok
// is false if it cannot, and then it returns the shortest that was reached.
func (c *wordsColumn) fit(r *steps.RowAt, s, lang string, of title.Product) (fitted string, ok bool) {
	words, shorts := c.words[lang], c.shorts[lang]
	if fitted, ok = words.Fit(c.standing(s), c.limit, shorts, false); ok {
		return fitted, true
	}
	for _, built := range c.sheet.built[c.col] {
		if whole, ok := built.pattern.TextWithout(r.View(), 0); !ok || c.written(r, whole, lang, of) != s {
			continue
		}
		for n := 1; ; n++ {
			less, ok := built.pattern.TextWithout(r.View(), n)
			if !ok || less == "" {
				break
			}
			if fitted, ok = words.Fit(c.standing(c.written(r, less, lang, of)), c.limit, shorts, false); ok {
				return fitted, true
			}
		}
	}
	if c.rules.Cut {
		return words.Fit(fitted, c.limit, nil, true)
	}
	return fitted, false
}

// written returns what becomes of a text that is built, before it is made to fit.
func (c *wordsColumn) written(r *steps.RowAt, s, lang string, of title.Product) string {
	s = r.Clean(c.col, s)
	if texts := c.sheet.texts[c.col]; texts != nil {
		s = texts.apply(s, r, nil)
	}
	return c.rules.Apply(c.words[lang], s, of, nil)
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
