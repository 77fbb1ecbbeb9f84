package title

import (
	"fmt"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"zetanum/core/catalogue"
)

// Rules say what is done to titles: [title].
type Rules struct {
	// Clean takes off what does not belong there, see [Words.Clean], and Emoji = "drop" pictures.
	Clean bool   `toml:"clean" json:"clean,omitempty"`
	Emoji string `toml:"emoji" json:"emoji,omitempty"`
	// WithoutOwnCodes takes the product's own SKU and barcode out of its title.
	WithoutOwnCodes bool `toml:"without_own_codes" json:"without_own_codes,omitempty"`
	// Case is how letters are written, and ShoutingAs what a title becomes that shouts, where only such are touched.
	Case       Style `toml:"case" json:"case,omitempty"`
	ShoutingAs Style `toml:"shouting_as" json:"shouting_as,omitempty"`
	// Measures writes 500ML as 500 ml.
	Measures bool `toml:"measures" json:"measures,omitempty"`
	// Units are symbols of units by what people write for them, besides those that are known; "" for what is none.
	Units map[string]string `toml:"units" json:"units,omitempty"`
	// Fit makes titles fit that are longer than the field may be: with the short forms of Shorten or of the sheet ShortenFrom,
	// and, if Cut says so, by leaving out what stands at the end.
	Fit         bool       `toml:"fit" json:"fit,omitempty"`
	Shorten     [][]string `toml:"shorten" json:"shorten,omitempty"`
	ShortenFrom string     `toml:"shorten_from" json:"shorten_from,omitempty"`
	Cut         bool       `toml:"cut" json:"cut,omitempty"`
	// Language is that of the titles, where no column says it; if it is empty it is told from them.
	Language string `toml:"language" json:"language,omitempty"`
	// Keep are words and names that keep their writing, and Twice those that stand twice by right.
	Keep  []string `toml:"keep" json:"keep,omitempty"`
	Twice []string `toml:"twice" json:"twice,omitempty"`
}

// InField is what of the rules goes with the words of any field: [field.NAME].
type InField struct {
	Clean      bool  `toml:"clean" json:"clean,omitempty"`
	Case       Style `toml:"case" json:"case,omitempty"`
	ShoutingAs Style `toml:"shouting_as" json:"shouting_as,omitempty"`
	Measures   bool  `toml:"measures" json:"measures,omitempty"`
}

// Rules returns the rules for the words of the field, with what is said of the words of titles.
func (f *InField) Rules(of *Rules) *Rules {
	return &Rules{Clean: f.Clean, Case: f.Case, ShoutingAs: f.ShoutingAs, Measures: f.Measures, Language: of.Language, Keep: of.Keep, Twice: of.Twice, Units: of.Units}
}

// Check returns what is wrong with what is said of a field of a kind.
func (f *InField) Check(kind catalogue.Kind) (problems []catalogue.Problem) {
	if kind == catalogue.HTMLKind && *f == (InField{Clean: true}) {
		return nil // which means something else there
	}
	if kind != catalogue.LineKind {
		key := "clean"
		switch {
		case f.Clean && kind != catalogue.HTMLKind:
		case f.Case != "":
			key = "case"
		case f.Measures:
			key = "measures"
		default:
			key = "shouting_as"
		}
		return []catalogue.Problem{{Key: key, Text: fmt.Sprintf("does not go with a field of type %s; it goes with text", kind)}}
	}
	return f.Rules(new(Rules)).Check()
}

// Words returns what is known of the words of a language, with what the rules say.
func (r *Rules) Words(lang string) *Words {
	w := NewWords(lang, r.Keep, r.Twice)
	for written, symbol := range r.Units {
		w.Unit(written, symbol)
		if symbol != "" && w.unit(symbol) == "" {
			w.Unit(symbol, symbol)
		}
	}
	return w
}

// Idle reports whether the rules order nothing.
func (r *Rules) Idle() bool {
	return !r.Clean && !r.Measures && !r.Fit && !r.WithoutOwnCodes && r.Emoji != "drop" && (r.Case == "" || r.Case == AsIs)
}

// Check returns what is wrong with the rules whatever the sheet.
func (r *Rules) Check() (problems []catalogue.Problem) {
	wrong := func(key, format string, args ...any) {
		problems = append(problems, catalogue.Problem{Key: key, Text: fmt.Sprintf(format, args...)})
	}
	if !slices.Contains([]Style{"", AsIs, Shouting, Sentence, Title}, r.Case) {
		wrong("case", `is "as-is", "shouting", "sentence" or "title"`)
	}
	if !slices.Contains([]Style{"", Sentence, Title}, r.ShoutingAs) {
		wrong("shouting_as", `is "title" or "sentence"`)
	}
	if r.ShoutingAs != "" && r.Case != Shouting {
		wrong("shouting_as", `goes with case = "shouting"`)
	}
	if r.Emoji != "" && r.Emoji != "keep" && r.Emoji != "drop" {
		wrong("emoji", `is "keep" or "drop"`)
	}
	if r.Language != "" && !slices.Contains(Languages(), r.Language) {
		wrong("language", "is one of %s", strings.Join(Languages(), ", "))
	}
	for written, symbol := range r.Units {
		if next, is := r.Units[symbol]; written == "" || strings.IndexFunc(written, func(c rune) bool { return !unicode.IsLetter(c) && !strings.ContainsRune("°²³", c) }) >= 0 {
			wrong("units", "%q is no unit: a unit has letters only", written)
		} else if symbol != "" && symbol != written && is && next != symbol {
			wrong("units", "%q is to be %q, and that %q; a second run would change it again", written, symbol, next)
		}
	}
	if said := CheckShorts(r.Shorten); said != "" {
		wrong("shorten", "%s", said)
	}
	if !r.Fit && (r.Shorten != nil || r.ShortenFrom != "" || r.Cut) {
		wrong("fit", "fit = true makes titles fit; without it shorten, shorten_from and cut do nothing")
	}
	return problems
}

// String says the rules in words.
func (r *Rules) String() string {
	var parts []string
	for _, p := range []struct {
		on   bool
		says string
	}{
		{r.Clean, "cleaned"}, {r.WithoutOwnCodes, "without their own codes"}, {r.Emoji == "drop", "without emoji"},
		{r.Case != "" && r.Case != AsIs, string(r.Case) + " style"}, {r.Measures, "measures"}, {r.Fit, "made to fit"},
	} {
		if p.on {
			parts = append(parts, p.says)
		}
	}
	return strings.Join(parts, ", ")
}

// A Part of the rules is what is done at once, and said as one change.
type Part uint8

// The parts, in their order.
const (
	Cleaning Part = iota
	Casing
	Measuring
	Fitting
)

// A Product is what is known of the product whose title it is.
type Product struct {
	Brand string
	Codes []string // its own, if they do not belong into the title
}

// Stays reports whether a look at a title shows that nothing is to be done to it, if none of its own codes stand in it.
func (r *Rules) Stays(w *Words, s string) bool {
	return (r.Case == "" || r.Case == AsIs || r.Case == Shouting) && w.inert(s)
}

// Apply carries the rules out until they find nothing to do; a text that never comes to rest stays as it is. did is
// told what each part made of it.
func (r *Rules) Apply(w *Words, s string, of Product, did func(part Part, after string)) string {
	if !r.WithoutOwnCodes || !mayHaveCodes(s, of.Codes) {
		if r.Stays(w, s) {
			return s
		}
	}
	before := s
	after := r.once(w, s, of, did)
	for range mostRounds {
		if after == s {
			return s
		}
		s = after
		after = r.once(w, s, of, did)
	}
	return before
}

func (r *Rules) once(w *Words, s string, of Product, did func(Part, string)) string {
	step := func(part Part, after string) {
		if after != s && strings.TrimSpace(after) != "" {
			if s = after; did != nil {
				did(part, after)
			}
		}
	}
	if r.Emoji == "drop" {
		step(Cleaning, w.WithoutEmoji(s))
	}
	if r.WithoutOwnCodes {
		step(Cleaning, w.WithoutCodes(s, of.Codes))
	}
	if r.Clean {
		step(Cleaning, w.Clean(s))
	}
	step(Casing, w.Case(s, r.Case, r.ShoutingAs, of.Brand))
	if r.Measures {
		step(Measuring, w.Measures(s))
	}
	return s
}

// leastCode is how many letters and digits a code has at least that is looked for in a title.
const leastCode = 3

// mayHaveCodes reports whether a title has as many digits as one of the codes.
func mayHaveCodes(s string, codes []string) bool {
	digits := Digits(s)
	return slices.ContainsFunc(codes, func(code string) bool { return MayHave(digits, code) })
}

// MayHave reports whether a code may stand in a title with so many digits; what has none is not looked for.
func MayHave(digits int, code string) bool {
	if digits == 0 || len(code) < leastCode {
		return false
	}
	n := 0
	for i := range len(code) {
		if code[i]-'0' < 10 {
			if n++; n > digits {
				return false
			}
		}
	}
	return n > 0
}

// Digits returns how many digits a text has.
func Digits(s string) (n int) {
	for i := range len(s) {
		if s[i]-'0' < 10 {
			n++
		}
	}
	return n
}

// WithoutCodes takes codes out of a title, however they are parted, with the brackets around them.
func (w *Words) WithoutCodes(s string, codes []string) string {
	if !mayHaveCodes(s, codes) {
		return s
	}
	for _, code := range codes {
		bare := bareCode(code)
		if len(bare) < leastCode || !strings.ContainsFunc(bare, unicode.IsDigit) {
			continue // it may be a word
		}
		for from := range s {
			end, ok := codeAt(s, from, bare)
			if !ok {
				continue
			}
			front, back := strings.TrimRight(s[:from], " ([{#:,-–|"), strings.TrimLeft(s[end:], " )]}:,-–|")
			if rest := spaced(front + " " + back); rest != "" {
				s = rest
			}
			break
		}
	}
	return s
}

// bareCode returns the letters and digits of a code, in small letters.
func bareCode(code string) string {
	return strings.ToLower(strings.Map(func(r rune) rune {
		if unicode.IsLetter(r) || unicode.IsDigit(r) {
			return r
		}
		return -1
	}, code))
}

// codeAt returns where a code ends that begins at a place of a title; ok is false if none does.
func codeAt(s string, from int, bare string) (end int, ok bool) {
	if from > 0 {
		if last := rune(s[from-1]); last >= 0x80 || unicode.IsLetter(last) || unicode.IsDigit(last) {
			return 0, false
		}
	}
	rest := bare
	for i, r := range s[from:] {
		switch {
		case unicode.IsLetter(r) || unicode.IsDigit(r):
			if rest == "" {
				return 0, false // it goes on
			}
			lower := strings.ToLower(string(r))
			if !strings.HasPrefix(rest, lower) {
				return 0, false
			}
			if rest = rest[len(lower):]; rest == "" {
				end = from + i + len(string(r))
			}
		case rest == "":
			return end, true
		case i == 0 || !strings.ContainsRune(".-/_ ", r):
			return 0, false
		}
	}
	return end, rest == ""
}

// lettersOf are letters that of the languages whose small words are known only one has.
var lettersOf = map[rune]string{'ı': "tr", 'İ': "tr", 'ğ': "tr", 'Ğ': "tr", 'ş': "tr", 'Ş': "tr", 'ł': "pl", 'ż': "pl", 'ś': "pl", 'ź': "pl", 'ń': "pl", 'ę': "pl", 'ą': "pl",
	'Ł': "pl", 'Ż': "pl", 'Ś': "pl", 'Ź': "pl", 'Ń': "pl", 'Ę': "pl", 'Ą': "pl", 'ã': "pt", 'õ': "pt", 'Ã': "pt", 'Õ': "pt", 'ñ': "es", 'Ñ': "es", 'ß': "de", 'ä': "de", 'Ä': "de"}

// LanguageOf tells the language of titles from the small words in them, and from words with letters that one language has alone, each
// of which counts once, because it may be a brand; "" if they do not say.
func LanguageOf(titles []string) string {
	counts := make(map[string]int)
	seen := make(map[string]bool)
	for _, s := range titles {
		for _, t := range tokens(s) {
			if !t.word {
				continue
			}
			lower := strings.ToLower(t.text)
			for _, lang := range tongues()[lower] {
				counts[lang]++
			}
			if at := strings.IndexFunc(t.text, func(r rune) bool { return r >= utf8.RuneSelf && lettersOf[r] != "" }); at >= 0 && !seen[lower] {
				seen[lower] = true
				r, _ := utf8.DecodeRuneInString(t.text[at:])
				counts[lettersOf[r]]++
			}
		}
	}
	best, second := "", 0
	for _, lang := range Languages() {
		switch n := counts[lang]; {
		case best == "" || n > counts[best]:
			second = counts[best]
			best = lang
		case n > second:
			second = n
		}
	}
	if counts[best] < 3 || counts[best]*4 < second*5 {
		return ""
	}
	return best
}
