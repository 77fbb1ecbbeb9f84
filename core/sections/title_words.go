package sections

import (
	"encoding/binary"
	"fmt"
	"slices"
	"strings"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/brand"
	"zetanum/core/catalogue"
	"zetanum/core/steps"
	"zetanum/core/text"
	"zetanum/core/title"
)

// orderWords orders that the words of a field are put in order.
func (s *Sheet) orderWords(name string, field *FieldTable, cols []int) error {
	rules := field.InField.Rules(&s.Book.Title)
	if rules.Idle() || field.kind(name) == catalogue.HTMLKind {
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
	c.mostly = c.words[c.usual]
	if s.Columns.Fields[col] == catalogue.Title && rules.Case != "" && rules.Case != title.AsIs {
		learner := steps.Learner{New: func() steps.Learned { return &loudness{col: col, of: s.sampling()} }, Judge: func(l steps.Learned) error {
			c.keepBrands()
			c.judgeLoud(l.(*loudness))
			return nil
		}}
		if col < s.Columns.Own() {
			learner.Cols = s.sampling().cols(col)
		}
		s.Orders.Learn(learner)
	}
	return c
}

// loudness counts how many titles of a column shout.
type loudness struct {
	col         int
	of          rowSample
	all, shouts uint64
}

func (l *loudness) Learn(p *catalogue.Product) {
	for _, row := range p.Rows {
		if cell := row.Cell(l.col); cell != "" && l.of.takes(row) {
			if l.all++; title.MostlyCapitals(cell) {
				l.shouts++
			}
		}
	}
}

func (l *loudness) Merge(next steps.Learned) {
	o := next.(*loudness)
	l.all, l.shouts = l.all+o.all, l.shouts+o.shouts
}

func (l *loudness) AppendBinary(b []byte) ([]byte, error) {
	return binary.AppendUvarint(binary.AppendUvarint(b, l.all), l.shouts), nil
}

// rowSample says which rows tell how columns are written: all of them, or of a large sheet one in so many, by the SKU.
type rowSample struct{ sku int } // its column, -1 for all rows

// eachRows is one in how many.
const eachRows = 8

func (s rowSample) takes(row *catalogue.Row) bool {
	sku := row.Cell(s.sku)
	return sku == "" || xxhash.Sum64String(sku)%eachRows == 0
}

// sampling returns which rows of the sheet are looked at.
func (s *Sheet) sampling() rowSample {
	if steps.Compares(s.Table) {
		return rowSample{-1}
	}
	return rowSample{s.Columns.First(catalogue.SKU)}
}

// cols returns the columns that have to be seen for it, and another.
func (s rowSample) cols(col int) []int {
	if s.sku < 0 {
		return []int{col}
	}
	return []int{col, s.sku}
}

// judgeLoud finds out whether most titles of the column shout.
func (c *wordsColumn) judgeLoud(l *loudness) {
	name := c.sheet.Columns.Name(c.col)
	loud := 2*l.shouts > l.all
	if told := c.sheet.AsLeft; told != nil && told.Loud != nil {
		loud = slices.Contains(told.Loud, name)
	}
	if c.number >= 0 {
		if c.sheet.Told.Loud == nil {
			c.sheet.Told.Loud = []string{}
		}
		if loud && !slices.Contains(c.sheet.Told.Loud, name) {
			c.sheet.Told.Loud = append(c.sheet.Told.Loud, name)
		}
	}
	for _, words := range c.words {
		words.Loud(loud)
	}
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

// order returns the order that does it.
func (c *wordsColumn) order(key string) steps.Order {
	one := steps.Order{Key: key, Phase: steps.PhaseTitles, Writes: []int{c.col}, Do: c.do, Rules: titleRules[:title.Fitting], Rests: true}
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
	mostly          *title.Words // of them, those of the usual language
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
	lang, told := "", false
	if s.AsLeft != nil {
		lang, told = s.AsLeft.Languages[name]
	}
	if !told {
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
	if c.stays(r, cell, lang) || r.Damaged(c.col) {
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
	words := c.mostly
	if lang != c.usual {
		words = c.words[lang]
	}
	return c.rules.Stays(words, cell)
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
