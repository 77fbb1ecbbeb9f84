// Package title puts the titles of products in order: it takes off what does not belong there, writes what shouts as
// other words are written, and measures as their units are.
package title

import (
	_ "embed"
	"maps"
	"slices"
	"strings"
	"sync"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/cases"
	"golang.org/x/text/language"

	"zetanum/core/catalogue"
)

// A Style is how the letters of titles are written.
type Style string

// The styles.
const (
	AsIs     Style = "as-is"
	Shouting Style = "shouting" // only what shouts is touched
	Sentence Style = "sentence"
	Title    Style = "title"
)

// Words are what is known of words: which keep their writing, and which are small.
type Words struct {
	lang    string
	small   map[string]bool     // in small letters
	single  map[string]string   // how a word is written, by its small letters
	phrases map[string][]phrase // those of several words, by the small letters of the first
	twice   map[string]bool     // words that stand twice by right, in small letters
	units   map[string]string   // symbols of units besides those that are known, by small letters

	loud bool // most titles of the column shout

	mu  sync.RWMutex
	own map[string][]phrase // brands of products
}

type phrase struct {
	lower []string
	text  []string
}

//go:embed words.txt
var smallWords string

//go:embed known.txt
var knownWords string

//go:embed units.txt
var unitWords string

//go:embed twice.txt
var twiceWords string

// smallBy are the small words by language, known how words are written, and unitOf the symbols of units, by small letters.
var (
	smallBy = read(smallWords, func(all map[string]map[string]bool, words []string) { all[words[0]] = setOf(words[1:]...) })
	tongues = sync.OnceValue(func() map[string][]string { // the languages by their small words
		in := make(map[string][]string)
		for lang, small := range smallBy() {
			for word := range small {
				in[word] = append(in[word], lang)
			}
		}
		return in
	})
	known = read(knownWords, func(all map[string]string, words []string) {
		for _, w := range words {
			all[strings.ToLower(w)] = w
		}
	})
	unitOf = read(unitWords, func(all map[string]string, words []string) {
		for _, w := range words {
			all[strings.ToLower(w)] = words[0]
		}
	})
	twiceOf = read(twiceWords, func(all map[string]bool, words []string) {
		for _, w := range words {
			all[w] = true
		}
	})
)

// read reads a list, line by line, when it is first needed.
func read[V any](text string, add func(all map[string]V, words []string)) func() map[string]V {
	return sync.OnceValue(func() map[string]V {
		all := make(map[string]V)
		for line := range lines(text) {
			add(all, strings.Fields(line))
		}
		return all
	})
}

func setOf(words ...string) map[string]bool {
	set := make(map[string]bool, len(words))
	for _, w := range words {
		set[w] = true
	}
	return set
}

func lines(text string) func(func(string) bool) {
	return func(yield func(string) bool) {
		for line := range strings.Lines(text) {
			if line = strings.TrimSpace(line); line != "" && line[0] != '#' && !yield(line) {
				return
			}
		}
	}
}

// Languages are those whose small words are known.
func Languages() []string { return []string{"de", "en", "es", "fr", "it", "nl", "pl", "pt", "tr"} }

// NewWords returns what is known of the words of a language, "" for any, with the brands and other words that keep
// their writing, and those that stand twice by right.
func NewWords(lang string, keep, twice []string) *Words {
	w := &Words{lang: lang, small: smallIn(lang), single: make(map[string]string), phrases: make(map[string][]phrase),
		twice: make(map[string]bool), own: make(map[string][]phrase)}
	for _, text := range keep {
		w.Keep(text)
	}
	for _, text := range twice {
		if parts := strings.Fields(text); len(parts) > 0 {
			w.twice[w.lower(parts[0])] = true
		}
	}
	return w
}

// Unit lets a unit be known by what people write for it; with no symbol it is none.
func (w *Words) Unit(written, symbol string) {
	if w.units == nil {
		w.units = make(map[string]string)
	}
	w.units[string(lowered(nil, written))] = symbol
}

// Loud says that most titles of the column shout: then short words in capitals do, too, beside others that do not.
func (w *Words) Loud(loud bool) { w.loud = loud }

// shouted is how many letters a word in capitals has at least that is no acronym.
func (w *Words) shouted() int {
	if w.loud {
		return 2
	}
	return shoutedLetters
}

// Keep lets a name or a word keep its writing.
func (w *Words) Keep(name string) {
	parts := strings.Fields(name)
	switch len(parts) {
	case 0:
	case 1:
		w.single[w.lower(parts[0])] = parts[0]
		w.single[w.lower(strings.ToUpper(parts[0]))] = parts[0] // as it comes back from capitals that are not of the language
	default:
		p := phrase{text: parts}
		for _, part := range parts {
			p.lower = append(p.lower, w.lower(part))
		}
		w.phrases[p.lower[0]] = append(w.phrases[p.lower[0]], p)
	}
}

// KeepBrands lets the brands of a catalogue keep their writing. Where most of them are in capitals, these say nothing of how they are
// written; and a word that is small in the language is none that can be told.
func (w *Words) KeepBrands(names []string) {
	shout := 0
	for _, name := range names {
		if shoutsAsBrand(name) {
			shout++
		}
	}
	for _, name := range names {
		lower := w.lower(name)
		if _, said := w.written(lower); said || w.small[lower] || utf8.RuneCountInString(name) < 2 || 2*shout > len(names) && shoutsAsBrand(name) {
			continue
		}
		if list := tokens(name); len(list)%2 == 1 && !slices.ContainsFunc(list, func(t token) bool { return !t.word && t.text != " " }) {
			w.Keep(name)
		}
	}
}

func shoutsAsBrand(name string) bool {
	return isUpper(name) && utf8.RuneCountInString(name) >= shoutedLetters
}

// smallIn returns the small words of a language; of one that is not known those of all.
func smallIn(lang string) map[string]bool {
	if small, is := smallBy()[lang]; is {
		return small
	}
	all := make(map[string]bool)
	for _, small := range smallBy() {
		maps.Copy(all, small)
	}
	return all
}

// lowerers and uppers write letters of languages; each is used by one goroutine at a time.
var lowerers, uppers = casersOf(cases.Lower), casersOf(cases.Upper)

func casersOf(make func(language.Tag, ...cases.Option) cases.Caser) map[string]*sync.Pool {
	by := map[string]*sync.Pool{}
	for _, lang := range append(Languages(), "") {
		tag := language.Make(lang)
		by[lang] = &sync.Pool{New: func() any {
			c := make(tag)
			return &c
		}}
	}
	return by
}

func cased(by map[string]*sync.Pool, lang, s string) string {
	c := by[lang].Get().(*cases.Caser)
	s = c.String(s)
	by[lang].Put(c)
	return s
}

// Lower returns a text in the small letters of a language that is known, or of none.
func Lower(lang, s string) string {
	if lang != "tr" {
		if catalogue.IsASCII(s) {
			return strings.ToLower(s)
		}
		if strings.Contains(s, "İ") {
			lang = "tr" // which is alone in having it
		}
	}
	return cased(lowerers, lang, s)
}

// lower returns a text in the small letters of the language.
func (w *Words) lower(s string) string { return Lower(w.lang, s) }

// capital returns a word with its first letter large, and the rest as it is.
func (w *Words) capital(s string) string {
	for i, r := range s {
		if !unicode.IsLetter(r) {
			continue
		}
		size := utf8.RuneLen(r)
		upper := ""
		switch {
		case r == 'ß':
			return s
		case w.lang == "nl" && strings.HasPrefix(s[i:], "ij"):
			size, upper = 2, "IJ"
		case r >= 'A' && r <= 'Z':
			return s
		case r >= 'a' && r <= 'z' && w.lang != "tr":
			upper = letters[r-'a' : r-'a'+1]
		default:
			upper = cased(uppers, w.lang, s[i:i+size])
		}
		return s[:i] + upper + s[i+size:]
	}
	return s
}

const letters = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"

// written returns how a word is written, whatever its case.
func (w *Words) written(lower string) (string, bool) {
	if s, ok := w.single[lower]; ok {
		return s, true
	}
	s, ok := known()[lower]
	return s, ok
}
