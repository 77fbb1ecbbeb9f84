package heading

import (
	_ "embed"
	"slices"
	"strings"
	"sync"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"

	"zetanum/core/catalogue"
)

//go:embed parts.txt
var partsFile string

// A meaning is the field that concepts name together.
type meaning struct {
	field   catalogue.Field
	further bool
}

// A vocabulary says what headings are made of.
type vocabulary struct {
	words    map[string][]string // concepts by the key of a word, or of several side by side
	first    map[string]bool     // the first of several words that count as one
	longest  int                 // words side by side
	meanings map[string]meaning  // by concepts, sorted
}

var parts = sync.OnceValue(func() *vocabulary { return parseParts(partsFile) })

// Prepare reads what is known of headings, for whoever is going to ask what some mean; nobody has to.
func Prepare() {
	names()
	parts()
}

// parseParts reads parts.txt. A fault in it is a fault of the program.
func parseParts(file string) *vocabulary {
	v := &vocabulary{words: make(map[string][]string, len(file)/8), first: make(map[string]bool), meanings: make(map[string]meaning)}
	for line := range strings.Lines(file) {
		line = strings.TrimSpace(line)
		if line == "" || line[0] == '#' {
			continue
		}
		if name, lists, ok := strings.Cut(line, " = "); ok {
			name, further := strings.CutSuffix(name, " +")
			f, known := catalogue.ParseField(name)
			if !known {
				panic("parts.txt: no field " + name)
			}
			for list := range strings.SplitSeq(lists, ", ") {
				key := sortedConcepts(strings.Fields(list))
				if _, twice := v.meanings[key]; twice {
					panic("parts.txt: twice: " + list)
				}
				v.meanings[key] = meaning{f, further}
			}
			continue
		}
		concept, list, _ := strings.Cut(line, ":")
		alone := []string{concept}
		for word := range strings.SplitSeq(list, ",") {
			tokens := tokensOf(word)
			v.longest = max(v.longest, len(tokens))
			key := strings.Join(tokens, "")
			if key == "" {
				panic("parts.txt: empty: " + line)
			}
			if len(tokens) > 1 {
				v.first[tokens[0]], v.first[plain(tokens[0])] = true, true
			}
			for _, k := range spellings(key) {
				if there := v.words[k]; there == nil {
					v.words[k] = alone
				} else if !slices.Contains(there, concept) {
					v.words[k] = append(there, concept)
				}
			}
		}
	}
	return v
}

func sortedConcepts(concepts []string) string {
	slices.Sort(concepts)
	return strings.Join(slices.Compact(concepts), " ")
}

// mayBegin reports whether a heading that is known may begin as a text does: by its first word,
// which most texts that are no headings fail.
func mayBegin(h string) bool {
	var buf [64]byte
	word := buf[:0]
	before := ' '
	for _, r := range h {
		letter := unicode.IsLetter(r) || unicode.Is(unicode.M, r)
		if !letter || len(word) > 0 && unicode.IsUpper(r) && unicode.IsLower(before) {
			if len(word) > 0 || unicode.IsDigit(r) {
				break
			}
			continue
		}
		if len(word) > len(buf)-utf8.UTFMax {
			return false
		}
		word = utf8.AppendRune(word, unicode.ToLower(r))
		before = r
	}
	first := string(word)
	return first == "" || known(first) || !catalogue.IsASCII(first) && known(plain(first)) || !norm.NFC.IsNormalString(h)
}

// known reports whether a word is one of which headings consist, or is put together of some.
func known(word string) bool {
	return parts().words[word] != nil || parts().first[word] || names().first[word] || tongues[word] != "" || len(parts().split(word)) > 0
}

// tokensOf cuts a heading into its words and numbers, in small letters: at what is no letter
// and no digit, before digits and behind them, and where a capital follows a small letter.
func tokensOf(h string) (tokens []string) {
	if word := strings.TrimSpace(h); word != "" && strings.Trim(word, "abcdefghijklmnopqrstuvwxyz") == "" {
		return []string{word}
	}
	var b strings.Builder
	end := func() {
		if b.Len() > 0 {
			tokens = append(tokens, b.String())
			b.Reset()
		}
	}
	before := ' '
	for _, r := range norm.NFC.String(h) {
		digit := unicode.IsDigit(r)
		switch {
		case !digit && !unicode.IsLetter(r) && !unicode.Is(unicode.M, r):
			end()
		case digit != unicode.IsDigit(before), unicode.IsUpper(r) && unicode.IsLower(before):
			end()
			b.WriteRune(unicode.ToLower(r))
		default:
			b.WriteRune(unicode.ToLower(r))
		}
		before = r
	}
	end()
	return tokens
}

// mostTokens and mostLetters bound what is taken for a heading.
const (
	mostTokens  = 9
	mostLetters = 80
)

// byParts returns what a heading means by its parts: all of it must be known, and all ways to
// take its words must come to the same field.
func (v *vocabulary) byParts(h string) (m meaning) {
	if len(h) > mostLetters {
		return m
	}
	tokens := tokensOf(h)
	if len(tokens) == 0 || len(tokens) > mostTokens {
		return m
	}
	var concepts []string
	unsure := false
	v.take(tokens, &concepts, func() bool {
		found := v.mean(concepts)
		switch {
		case found.field == catalogue.Unknown:
		case m.field == catalogue.Unknown:
			m = found
		case m.field != found.field:
			unsure = true
		}
		return !unsure
	})
	if unsure {
		return meaning{}
	}
	return m
}

// take calls do with each way to take the words, until it returns false.
func (v *vocabulary) take(tokens []string, concepts *[]string, do func() bool) bool {
	if len(tokens) == 0 {
		return do()
	}
	had := len(*concepts)
	with := func(n int, more ...string) bool {
		*concepts = append((*concepts)[:had], more...)
		goOn := v.take(tokens[n:], concepts, do)
		*concepts = (*concepts)[:had]
		return goOn
	}
	if first := tokens[0]; first[0] >= '0' && first[0] <= '9' {
		return with(1, first)
	}
	for n := min(v.longest, len(tokens)); n > 0; n-- {
		key := strings.Join(tokens[:n], "")
		for _, c := range v.words[key] {
			if !with(n, c) {
				return false
			}
		}
		if n > 1 && v.words[key] != nil {
			return true // several words that are one are nothing else
		}
	}
	if v.words[tokens[0]] == nil {
		for _, split := range v.split(tokens[0]) {
			if !with(1, split...) {
				return false
			}
		}
	}
	return true
}

// split takes a word apart that is put together of others: Verkaufspreis, 商品名称. Each way
// has the concepts of one.
func (v *vocabulary) split(word string) (ways [][]string) {
	const mostWays = 16
	var concepts []string
	var next func(rest string, joint bool)
	next = func(rest string, joint bool) {
		if rest == "" {
			if len(concepts) > 1 {
				ways = append(ways, slices.Clone(concepts))
			}
			return
		}
		for end := len(rest); end > 0 && len(ways) < mostWays; end-- {
			if end < len(rest) && !utf8.RuneStart(rest[end]) {
				continue
			}
			piece := rest[:end]
			if !spaceless(piece) && utf8.RuneCountInString(piece) < 3 {
				continue
			}
			for _, c := range v.words[piece] {
				concepts = append(concepts, c)
				next(rest[end:], true)
				concepts = concepts[:len(concepts)-1]
			}
		}
		if joint { // a letter between: Produkt-s-preis
			for _, j := range []string{"s", "es", "en", "n", "e"} {
				if after, ok := strings.CutPrefix(rest, j); ok && after != "" {
					next(after, false)
				}
			}
		}
	}
	next(word, false)
	return ways
}

// spaceless reports whether a text is in a script that has no spaces between words.
func spaceless(s string) bool {
	r, _ := utf8.DecodeRuneInString(s)
	return unicode.In(r, unicode.Han, unicode.Hiragana, unicode.Katakana, unicode.Hangul, unicode.Thai)
}

// ofImages are the fields of which a product may have several columns with numbers.
var ofImages = catalogue.FieldsOf(catalogue.Images, catalogue.ImageAlt, catalogue.ImageOrder)

// mean returns what concepts mean together.
func (v *vocabulary) mean(concepts []string) meaning {
	var rest []string
	number, second := "", false
	for _, c := range concepts {
		switch {
		case c == "fill":
		case c[0] >= '0' && c[0] <= '9':
			if number != "" {
				return meaning{}
			}
			number = c
		default:
			rest = append(rest, c)
		}
	}
	without := func(dropped ...string) (m meaning, ok bool) {
		some := make([]string, 0, len(rest))
		for _, c := range rest {
			if !slices.Contains(dropped, c) {
				some = append(some, c)
			}
		}
		m, ok = v.meanings[sortedConcepts(some)]
		return m, ok
	}
	for _, dropped := range [][]string{nil, {"item"}, {"money"}, {"unit"}, {"item", "money"}, {"item", "unit"}, {"item", "money", "unit"}} {
		m, ok := without(dropped...)
		if !ok {
			continue
		}
		kind := m.field.Kind()
		if slices.Contains(dropped, "money") && kind != catalogue.PriceKind ||
			slices.Contains(dropped, "unit") && !kind.Numeric() {
			continue
		}
		switch {
		case number == "":
		case m.field == catalogue.Barcode && (number == "8" || number == "12" || number == "13" || number == "14"):
		case number == "1" && (ofImages.Has(m.field) || m.field == catalogue.SKU || m.field == catalogue.Barcode):
		case ofImages.Has(m.field) && len(number) < 3 && number != "0": // one column for each image
			m.further = true
		case m.field == catalogue.Barcode || m.field == catalogue.SKU:
			second = true
		default:
			return meaning{}
		}
		m.further = m.further || second && m.field == catalogue.SKU
		return m
	}
	return meaning{}
}

// A Word is one of a heading: as it stands there, in small letters, and the concepts for which it stands, none if it is not known.
type Word struct {
	Text     string
	Concepts []string
}

// WordsOf cuts a heading into its words; several that count as one are one.
func WordsOf(h string) (list []Word) {
	v, tokens := parts(), tokensOf(h)
	for at := 0; at < len(tokens); {
		n := min(v.longest, len(tokens)-at)
		for ; n > 1; n-- {
			if key := strings.Join(tokens[at:at+n], ""); v.words[key] != nil || v.words[plain(key)] != nil {
				break
			}
		}
		text := strings.Join(tokens[at:at+n], "")
		concepts := slices.Clone(v.words[text])
		if concepts == nil {
			concepts = slices.Clone(v.words[plain(text)])
		}
		if ways := v.split(text); concepts == nil && len(ways) > 0 {
			concepts = ways[0] // a word of several
		}
		list = append(list, Word{text, concepts})
		at += n
	}
	return list
}
