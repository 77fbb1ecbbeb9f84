package template

import (
	"cmp"
	"slices"
	"strings"
	"sync"
	"unicode/utf8"

	"zetanum/core/catalogue"
	"zetanum/core/heading"
	"zetanum/core/imagelink"
	"zetanum/core/quantity"
)

// An Offer is a column of the user's file, with cells of its first rows.
type Offer struct {
	Heading string
	Field   catalogue.Field // what it is known to be
	Cells   []string
}

// A Match says what fills a column of a form.
type Match struct {
	From  int    // the offer by its place, -1 for none
	Nth   int    // of several values in its cell, from 1; 0 for all of it
	Rest  bool   // and those behind it
	Fixed string // what stands there in every row
	Ask   bool   // it is likely, or must be filled and nothing is: somebody has to decide
	Score int    // how much speaks for it, of a hundred
	Next  int    // the offer that comes next, or of what is left if there is none; -1 for none
}

// How much must speak for a match: to be one, to be asked, and more than for the next.
const (
	sureScore   = 45
	likelyScore = 32 // if nothing else comes near it
	askScore    = 26
	margin      = 12
)

// Match says what fills each column of the form.
func (t *Template) Match(offers []Offer) []Match {
	m := &matcher{t: t, offers: offers}
	for i := range offers {
		m.of = append(m.of, profileOf(offers[i].Cells))
		m.names = append(m.names, wordsOf(offers[i].Heading))
	}
	m.wants = t.wanted
	m.prepare()
	return m.match()
}

// A shape is what cells have in common.
type shape uint8

const (
	anything shape = iota
	words
	longText
	markup
	amount
	date
	answer
	code // a barcode
	picture
)

// A profile is what cells of a column show.
type profile struct {
	shape   shape
	filled  int
	values  map[string]bool // in small letters
	numbers []quantity.Number
	longest int
	several string // what stands between several values
	most    int    // how many values a cell has
}

func profileOf(cells []string) (p profile) {
	p.values = make(map[string]bool)
	counts := [picture + 1]int{}
	runes := 0
	signs := make(map[string]int)
	p.most = 1
	for _, cell := range cells {
		if cell = strings.TrimSpace(cell); cell == "" {
			continue
		}
		p.filled++
		p.values[strings.ToLower(cell)] = true
		runes += utf8.RuneCountInString(cell)
		p.longest = max(p.longest, utf8.RuneCountInString(cell))
		s := shapeOf(cell)
		if counts[s]++; s == amount {
			if price := quantity.ReadPrice(cell, quantity.Form{}); price.Number.IsValid() {
				p.numbers = append(p.numbers, price.Number)
			}
		}
		for _, sign := range severalSigns {
			if parts := strings.Split(cell, sign); len(parts) > 1 && !strings.Contains(cell, "<") && (sign != "/" || !strings.Contains(cell, "://")) {
				signs[sign]++
				p.most = max(p.most, len(parts))
				break
			}
		}
	}
	if p.filled == 0 {
		return p
	}
	var learned quantity.YesNo
	for v := range p.values {
		learned.Learn(v)
	}
	answers := len(p.values) <= 3
	for v := range p.values {
		answers = answers && learned.Read(v) != quantity.Neither
	}
	for s := words; s <= picture; s++ {
		if 10*counts[s] >= 7*p.filled {
			p.shape = s
		}
	}
	if p.shape == words && runes >= 60*p.filled {
		p.shape = longText
	}
	if answers && p.shape != code {
		p.shape = answer
	}
	for _, sign := range severalSigns {
		if n := signs[sign]; 3*n >= p.filled && n > signs[p.several] {
			p.several = sign
		}
	}
	return p
}

// severalSigns are what stands between several values, the likeliest first.
var severalSigns = []string{"|", ";", ", ", "\n", " http", "/"}

// shapeOf returns the shape of a cell.
func shapeOf(cell string) shape {
	lower := strings.ToLower(cell)
	if len(cell) > 1 && cell[0] == '0' && strings.Trim(cell, "0123456789") == "" {
		return words // of whose zeros none may be lost
	}
	first, _, _ := strings.Cut(strings.NewReplacer("|", "\n", ";", "\n", ", ", "\n", " http", "\nhttp").Replace(lower), "\n")
	if at := strings.LastIndexByte(first, '.'); at > 0 && imagelink.IsType(first[at+1:]) {
		return picture
	}
	if strings.ContainsAny(cell, "-./") && quantity.ReadDate(cell, quantity.DateForm{Year: 2026}).Is == quantity.Value || shapeISO.MatchString(cell) || shapeYear.MatchString(cell) {
		return date
	}
	switch heading.ContentOf(cell) {
	case heading.Barcodes:
		return code
	case heading.ImageLinks:
		return picture
	case heading.HTML:
		return markup
	case heading.Money, heading.Prices, heading.Numbers:
		return amount
	case heading.Sentences:
		return longText
	}
	return words
}

// A want is what a column of a form should have.
type want struct {
	shape   shape
	profile profile // of its samples
	field   catalogue.Field
	names   []heading.Word
	list    map[string]bool // in small letters, without spaces
	shown   map[string]bool // the values of samples, in the same way
	guessed bool            // only samples show the shape
}

// want finds out what a column should have, by its rule, its limits, its list and its samples.
func (t *Template) want(n int) (w want) {
	c := &t.Columns[n]
	var cells []string
	for _, sample := range t.samples {
		if n < len(sample) {
			cells = append(cells, sample[n])
		}
	}
	w.profile = profileOf(cells)
	w.names, w.field = wordsOf(c.Name()), heading.Field(c.Name())
	w.list, w.shown = make(map[string]bool), make(map[string]bool)
	for v := range w.profile.values {
		w.shown[strings.ReplaceAll(v, " ", "")] = true
	}
	for _, v := range c.List {
		w.list[strings.ReplaceAll(strings.ToLower(v), " ", "")] = true
	}
	rule := strings.ToLower(c.Rule)
	switch {
	case len(c.List) == 2 && answersOf(c.List[0], c.List[1]) != nil || len(yesOrNo(c.Rule)) == 2:
		w.shape = answer
	case len(c.List) > 0:
		w.shape = words
	case c.Type == "answer":
		w.shape = answer
	case c.Type == "link" && named(w.names, "picture"):
		w.shape = picture
	case c.Date || dateForm.MatchString(c.Rule) || formOf(c.Rule) != "":
		w.shape = date
	case strings.Contains(rule, ".jpg") || strings.Contains(rule, ".png") || w.profile.shape == picture:
		w.shape = picture
	case w.field == catalogue.Barcode || asksThirteen(c.Rule) || w.profile.shape == code:
		w.shape = code
	case c.Type == "amount" || c.Least != "" || c.Most != "" || c.Whole || says(rule, "point") || says(rule, "comma") && !says(rule, "parted"):
		w.shape = amount
	case c.MostLength >= 300:
		w.shape = longText
	case c.Type == "text" || c.MostLength > 0 || says(rule, "characters") || says(rule, "parted"):
		w.shape = words
	default:
		w.shape, w.guessed = w.profile.shape, true
		if w.shape == amount && w.field.Kind() == catalogue.CodeKind {
			w.shape = words // numbers of products are no amounts
		}
	}
	if w.shape == anything {
		switch w.field {
		case catalogue.Images:
			w.shape = picture
		case catalogue.Barcode:
			w.shape = code
		}
		if named(w.names, "html") {
			w.shape = markup
		}
	}
	if (w.shape == anything || w.shape == words) && len(c.List) == 0 && named(w.names, "picture") && !named(w.names, "alt", "text", "order", "description") {
		w.shape = picture
	}
	return w
}

// alikeOf are the meanings of names of columns that concepts of headings have.
var alikeOf = map[string]string{"quantity": "stock", "stock": "stock", "ready": "stock", "colour": "colour", "material": "material", "size": "size", "tags": "tags", "description": "description",
	"brand": "brand", "maker": "brand", "category": "category", "sku": "key", "least": "least", "retail": "price", "sell": "price", "price": "price"}

// wordsOf returns the words of a heading with what they mean, also as names of columns; several that mean something together are one.
func wordsOf(name string) (list []heading.Word) {
	text := plain(name)
	for _, kind := range alikes() {
		for _, w := range lexicon()["alike "+kind] {
			if at := strings.Index(text, w); strings.Contains(w, " ") && at >= 0 && whole(text, at, at+len(w)) {
				list = append(list, heading.Word{Text: "~" + kind, Concepts: []string{"~" + kind}})
				text = text[:at] + " " + text[at+len(w):]
				break
			}
		}
	}
	for _, w := range heading.WordsOf(text) {
		for _, kind := range alikes() {
			if slices.Contains(lexicon()["alike "+kind], w.Text) || slices.ContainsFunc(w.Concepts, func(c string) bool { return alikeOf[c] == kind }) {
				w.Concepts = append(w.Concepts, "~"+kind)
			}
		}
		list = append(list, w)
	}
	return list
}

// alikes are the meanings of names of columns.
var alikes = sync.OnceValue(func() (list []string) {
	for kind := range lexicon() {
		if meaning, of := strings.CutPrefix(kind, "alike "); of {
			list = append(list, meaning)
		}
	}
	slices.Sort(list)
	return list
})

// named reports whether a heading has one of some concepts.
func named(words []heading.Word, concepts ...string) bool {
	return slices.ContainsFunc(words, func(w heading.Word) bool {
		return slices.ContainsFunc(w.Concepts, func(c string) bool { return slices.Contains(concepts, c) })
	})
}

func isNumeral(w heading.Word) bool { return strings.Trim(w.Text, "0123456789") == "" }

// numeralIn returns the number that a heading has, "" if it has none.
func numeralIn(words []heading.Word) string {
	for _, w := range words {
		if isNumeral(w) {
			return w.Text
		}
	}
	return ""
}

type matcher struct {
	t      *Template
	offers []Offer
	of     []profile
	names  [][]heading.Word
	wants  []want

	keys    []bool           // columns by which products may be known
	keyLike []bool           // offers that look like that
	alone   map[shape]pairOf // the only column that wants a shape, and the only offer that has it
}

// A pairOf is a column and an offer.
type pairOf struct{ n, i int }

// prepare finds out what is to be said of columns and offers beside one another.
func (m *matcher) prepare() {
	m.keys, m.keyLike, m.alone = make([]bool, len(m.wants)), make([]bool, len(m.offers)), make(map[shape]pairOf)
	for n := range m.wants { // the first one that is shown
		c := &m.t.Columns[n]
		if c.Hidden || c.Always != "" {
			continue
		}
		m.keys[n] = (c.Need == Required || m.t.Export) && (m.wants[n].shape == words || m.wants[n].shape == anything) && len(c.List) == 0
		break
	}
	sku := slices.IndexFunc(m.offers, func(o Offer) bool { return o.Field == catalogue.SKU })
	for i := range m.offers {
		p := &m.of[i]
		m.keyLike[i] = i == sku || sku < 0 && p.filled >= 5 && len(p.values) == p.filled && p.shape != date && p.shape != picture && p.shape != code && p.shape != longText &&
			!slices.ContainsFunc(m.offers[i].Cells, func(cell string) bool { return strings.ContainsAny(strings.TrimSpace(cell), " .,") })
	}
	for _, s := range []shape{date, answer, longText, markup} {
		pair, wanted, had := pairOf{-1, -1}, 0, 0
		for n := range m.wants {
			if m.wants[n].shape == s {
				pair.n = n
				wanted++
			}
		}
		for i := range m.of {
			if m.of[i].shape == s {
				pair.i = i
				had++
			}
		}
		if wanted == 1 && had == 1 {
			m.alone[s] = pair
		}
	}
}

// fits reports whether cells of one shape may stand where another is wanted.
func fits(has, wants shape) bool {
	switch wants {
	case anything:
		return true
	case words:
		return has == words || has == amount || has == longText || has == answer
	case longText:
		return has == longText || has == words || has == markup
	case markup:
		return has == markup || has == longText || has == words
	case amount:
		return has == amount || has == answer // of 0 and 1
	case answer:
		return has == answer
	}
	return has == wants
}

// score says how much speaks for an offer, of a hundred; below zero if it cannot be.
func (m *matcher) score(n, i int) int {
	w, p, o, c := &m.wants[n], &m.of[i], &m.offers[i], &m.t.Columns[n]
	if p.filled == 0 {
		return -1
	}
	known := w.field != catalogue.Unknown && w.field == o.Field // whatever has become of its cells
	if !fits(p.shape, w.shape) && plain(c.Name()) == plain(o.Heading) && !known {
		return askScore // what is called the same is at least asked
	}
	if !fits(p.shape, w.shape) && !known && !(w.shape == words && len(w.list) > 0 && overlap(p, w.list) > 50) {
		return -1
	}
	score := 50 * alike(w.names, m.names[i]) / 100
	switch {
	case w.field != catalogue.Unknown && w.field == o.Field:
		score += 45
	case w.field != catalogue.Unknown && o.Field != catalogue.Unknown:
		score -= 25
	}
	if len(w.list) > 0 && w.shape != answer {
		both := overlap(p, w.list)
		if score += both / 2; both < 20 {
			score -= 20
		}
	}
	switch w.shape {
	case code:
		if score += 60; p.shape != code {
			score -= 40
		}
	case picture:
		score += 45
	case date, answer:
		score += 12
	case longText:
		if p.shape == longText || p.shape == markup {
			score += 20
		}
	}
	if most, err := quantity.Parse(c.Most); w.shape == amount && err == nil {
		over := 0
		for _, n := range p.numbers {
			if n.Cmp(most) > 0 {
				over++
			}
		}
		if 2*over > len(p.numbers) && quantity.UnitIn(o.Heading) == "" {
			score -= 15
		}
	}
	if c.MostLength > 0 && p.longest > 3*c.MostLength {
		score -= 20
	}
	if len(m.t.samples) >= manySamples && len(p.values) >= 3 && (w.shape == words || w.shape == amount) {
		score += 2 * overlap(p, w.shown) / 5
	}
	own, theirs := dimensionOf(c.Name()), dimensionOf(o.Heading)
	switch {
	case own != "" && own == theirs:
		score += 8
	case own != "" && theirs != "":
		return -1
	}
	if m.keys[n] && m.keyLike[i] {
		score += 30
	}
	if w.shape != anything && m.alone[w.shape] == (pairOf{n, i}) {
		score += 25
	}
	return max(-1, min(score, 100))
}

// manySamples is how many rows of samples show which values a column has.
const manySamples = 8

// dimensionOf returns what is measured in the unit that a heading names, "" if it names none.
func dimensionOf(name string) string {
	_, dimension := quantity.Unit(quantity.UnitIn(name))
	return dimension
}

// overlap returns how many percent of the different values of a column are in a list.
func overlap(p *profile, list map[string]bool) int {
	all, in := 0, 0
	for v := range p.values {
		for _, part := range strings.FieldsFunc(v, func(r rune) bool { return r == '|' || r == ';' }) {
			if part = strings.ReplaceAll(part, " ", ""); part != "" {
				if all++; list[part] {
					in++
				}
			}
		}
	}
	if all == 0 {
		return 0
	}
	return 100 * in / all
}

// faint are concepts that say little by themselves.
var faint = map[string]bool{"item": true, "fill": true, "own": true, "main": true, "code": true, "name": true, "text": true, "link": true, "file": true, "count": true, "more": true, "full": true, "level": true,
	"price": true, "date": true, "long": true, "short": true, "end": true, "begin": true}

// weight says how much a word of a heading says.
func weight(w heading.Word) int {
	switch {
	case len(w.Concepts) == 1 && w.Concepts[0] == "fill":
		return 0
	case heading.IsUnit(w.Text), slices.Contains(lexicon()["tax"], w.Text):
		return 25
	case len(w.Concepts) > 0 && !slices.ContainsFunc(w.Concepts, func(c string) bool { return !faint[c] }):
		return 40
	case isNumeral(w):
		return 30
	}
	return 100
}

// alike says how much two headings are alike, of a hundred.
func alike(a, b []heading.Word) int {
	one := func(a, b []heading.Word) (sum, all int) {
		for _, x := range a {
			best := 0
			for _, y := range b {
				best = max(best, same(x, y))
			}
			w := weight(x)
			sum, all = sum+w*best/100, all+w
		}
		return sum, all
	}
	sumA, allA := one(a, b)
	sumB, allB := one(b, a)
	if allA+allB == 0 {
		return 0
	}
	return 100 * (sumA + sumB) / (allA + allB)
}

// same says how much two words are the same, of a hundred.
func same(x, y heading.Word) int {
	if x.Text == y.Text {
		return 100
	}
	for _, c := range x.Concepts {
		if slices.Contains(y.Concepts, c) {
			return 100
		}
	}
	a, b := x.Text, y.Text
	if len(a) > len(b) {
		a, b = b, a
	}
	switch {
	case len(a) >= 4 && strings.HasPrefix(b, a), len(a) >= 5 && strings.HasSuffix(b, a):
		return 85
	case len(a) >= 4 && len(b)-len(a) <= 2 && strings.HasPrefix(b, a[:len(a)-1]):
		return 80
	case len(a) >= 3 && strings.HasPrefix(b, a):
		return 70
	case len(a) == 2 && len(b) >= 4 && a[0] == b[0] && strings.IndexByte(b[1:], a[1]) >= 0:
		return 60
	case utf8.RuneCountInString(a) == 1 && strings.HasPrefix(b, a) && a >= "a":
		return 60
	}
	return 0
}

// match takes the best pairs first.
func (m *matcher) match() []Match {
	list := make([]Match, len(m.t.Columns))
	for n := range list {
		list[n] = Match{From: -1, Next: -1}
	}
	type pair struct{ n, i, score int }
	var pairs []pair
	scores := make([][]int, len(list))
	for n := range list {
		scores[n] = make([]int, len(m.offers))
		for i := range m.offers {
			if scores[n][i] = m.score(n, i); scores[n][i] >= askScore {
				pairs = append(pairs, pair{n, i, scores[n][i]})
			}
		}
	}
	slices.SortStableFunc(pairs, func(a, b pair) int { return cmp.Or(b.score-a.score, a.n-b.n, a.i-b.i) })
	taken := make([]int, len(m.offers)) // how many columns have it
	for _, p := range pairs {
		if list[p.n].From >= 0 {
			continue
		}
		several := m.of[p.i].several != ""
		if taken[p.i] > 0 && !(several && m.ofRow(list, p.n, p.i) && (taken[p.i] < m.of[p.i].most || m.asMany(p.n))) {
			continue
		}
		list[p.n].From, list[p.n].Score = p.i, p.score
		taken[p.i]++
	}
	for n := range list {
		l := &list[n]
		c := &m.t.Columns[n]
		if l.From < 0 {
			switch {
			case c.Always != "":
				l.Fixed = c.Always
			case len(c.List) == 1:
				l.Fixed = c.List[0]
			case c.Need == Required:
				l.Ask = true
				for i := range m.offers { // what may be it, of what is left
					if taken[i] == 0 && scores[n][i] > 0 && (l.Next < 0 || scores[n][i] > scores[n][l.Next]) {
						l.Next = i
					}
				}
			}
			continue
		}
		// What else could fill it, and what else it could fill.
		next := -1
		for i := range m.offers {
			if i != l.From && taken[i] == 0 && (next < 0 || scores[n][i] > scores[n][next]) && scores[n][i] > 0 {
				next = i
			}
		}
		l.Next = next
		close := next >= 0 && scores[n][next]+margin > l.Score
		rival := 0 // another column that is open, which the offer fits as well
		for other := range list {
			if own := numeralIn(m.wants[n].names); own != "" && own == numeralIn(m.names[l.From]) && numeralIn(m.wants[other].names) != own {
				continue
			}
			if other != n && list[other].From < 0 {
				rival = max(rival, scores[other][l.From])
			}
		}
		if version := m.version(l.From, taken); version >= 0 {
			l.Next, close = version, true
		}
		l.Ask = close || l.Score < sureScore && (l.Score < likelyScore || rival+margin > l.Score)
	}
	m.number(list)
	return list
}

// version returns an offer of amounts that nothing takes and that is called nearly as another: RRP, and RRP with tax; -1 if there is none.
func (m *matcher) version(of int, taken []int) (best int) {
	best, most := -1, leastVersion-1
	for i := range m.offers {
		if i == of || taken[i] > 0 || m.of[of].shape != amount || m.of[i].shape != amount {
			continue
		}
		if a, b := m.offers[i].Field, m.offers[of].Field; a != b && a != catalogue.Unknown && b != catalogue.Unknown {
			continue // a cost, and a price
		}
		if n := alike(m.names[i], m.names[of]); n > most {
			best, most = i, n
		}
	}
	return best
}

// leastVersion is how much two columns are alike, of a hundred, that are versions of one.
const leastVersion = 60

// asMany reports whether a column is one of as many as somebody needs: of pictures, or of several with one heading.
func (m *matcher) asMany(n int) bool {
	same := func(other int) bool {
		return other >= 0 && other < len(m.t.Columns) && m.t.Columns[other].Heading == m.t.Columns[n].Heading
	}
	return m.wants[n].shape == picture || same(n-1) || same(n+1)
}

// ofRow reports whether a column stands beside others of its kind that an offer with several values fills.
func (m *matcher) ofRow(list []Match, n, i int) bool {
	for _, step := range []int{-1, 1} {
		for at := n + step; at >= 0 && at < len(list) && at >= n-1 && at <= n+1; at += step {
			if list[at].From == i && m.wants[at].shape == m.wants[n].shape {
				return true
			}
		}
	}
	return slices.ContainsFunc(list, func(l Match) bool { return l.From == i }) && m.wants[n].shape == picture
}

// number says which of several values goes into which of several columns.
func (m *matcher) number(list []Match) {
	columns := make(map[int][]int)
	for n := range list {
		if list[n].From >= 0 {
			columns[list[n].From] = append(columns[list[n].From], n)
		}
	}
	for i, at := range columns {
		if len(at) > 1 && m.of[i].several != "" {
			for nth, n := range at {
				list[n].Nth = nth + 1
			}
			last := at[len(at)-1]
			list[last].Rest = m.t.severalOf(last) != ""
		}
	}
}
