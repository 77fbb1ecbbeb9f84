package charset

import (
	"math"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"zetanum/core/language"
)

// A unit is a stretch of a line, such as a cell, with bytes that are no UTF-8.
type unit struct {
	text   string
	theta  []float64 // how probable it is that it is in a language, as a logarithm, from its words of ASCII
	tokens []string  // what stands between spaces and the like, and has bytes beyond ASCII
}

// mostUnits is how many units are looked at.
const mostUnits = 400

// unitsOf cuts lines up, into those units beyond ASCII that are UTF-8 or those that are
// not, each once.
func unitsOf(lines []byte, notUTF8 bool) (units []*unit) {
	model := language.Load()
	seen := make(map[string]bool)
	for line := range strings.Lines(string(lines)) {
		whole := asciiWords(model, line)
		last := byte(0)
		for _, text := range splitBytes(line, func(b byte) bool {
			cut := b == ',' || b == ';' || b == '\t' || b == '"' || b < ' ' || b == '|' && last < utf8.RuneSelf
			last = b
			return cut
		}) {
			good, bad := runs(text)
			if good+bad == 0 || notUTF8 != (bad > 0) || seen[text] || len(units) == mostUnits {
				continue
			}
			seen[text] = true
			u := &unit{text: text, theta: asciiWords(model, text)}
			for i := range whole {
				u.theta[i] += 0.3 * whole[i]
			}
			for _, token := range splitBytes(text, func(b byte) bool { return b <= ' ' }) {
				if !isASCII([]byte(token)) && !(notUTF8 && good >= bad && utf8.ValidString(token)) {
					u.tokens = append(u.tokens, token)
				}
			}
			units = append(units, u)
		}
	}
	return units
}

// splitBytes is [strings.FieldsFunc] for bytes.
func splitBytes(s string, cut func(byte) bool) (list []string) {
	from := 0
	for i := range len(s) {
		if cut(s[i]) {
			if i > from {
				list = append(list, s[from:i])
			}
			from = i + 1
		}
	}
	if from < len(s) {
		list = append(list, s[from:])
	}
	return list
}

// asciiWords returns what the words of ASCII of a text say of its language.
func asciiWords(model *language.Model, text string) []float64 {
	sums := make([]float64, len(model.Codes), len(model.Codes)+len(model.Wide))
	for _, token := range splitBytes(text, func(b byte) bool { return b <= ' ' }) {
		if !isASCII([]byte(token)) {
			continue
		}
		for word := range strings.FieldsFuncSeq(token, func(r rune) bool { return !unicode.IsLetter(r) }) {
			if len(word) > 1 && len(word) == len(strings.Trim(token, ".,:!?()'")) {
				model.Word(word, sums)
			}
		}
	}
	top := slices.Max(sums)
	for i := range sums {
		sums[i] = 0.5 * (sums[i] - top)
	}
	for range model.Wide {
		sums = append(sums, -2)
	}
	return sums
}

// likelihood returns how well a text fits the language that it fits best, as the
// logarithm of a probability; texts are to be compared that differ in a few characters.
func likelihood(text string) float64 {
	model := language.Load()
	u := &unit{theta: asciiWords(model, text)}
	for _, token := range splitBytes(text, func(b byte) bool { return b <= ' ' }) {
		if !isASCII([]byte(token)) {
			u.tokens = append(u.tokens, token)
		}
	}
	return together([]*unit{u}, []reading{readTokens(model, u.tokens)})
}

// scores returns how well units read in each of some encodings fit the languages that
// they fit best, as the logarithm of a probability. What is pasted into a file in UTF-8
// is in a rare encoding still more rarely.
func scores(units []*unit, list []Charset, pasted bool) map[Charset]float64 {
	out := make(map[Charset]float64, len(list))
	for _, c := range list {
		out[c] = prior(c) + fit(units, c.Read)
		if pasted {
			out[c] += 2 * prior(c)
		}
	}
	return out
}

// fit returns how well units fit the languages that they fit best, as the logarithm of a
// probability; decode reads what stands between spaces in them.
func fit(units []*unit, decode func(token string) string) float64 {
	model := language.Load()
	texts := make([]reading, len(units))
	for i, u := range units {
		texts[i] = read(model, decode, u)
	}
	return together(units, texts)
}

// A reading is what a unit becomes in an encoding.
type reading struct {
	sums  []float64 // by language: how probable its words are, as a logarithm; nil if it has none
	fixed float64   // how probable the rest is
}

// together returns how probable some readings are, with languages that are as frequent as
// the other readings of the file say.
func together(units []*unit, texts []reading) float64 {
	if len(units) == 0 {
		return 0
	}
	n := len(units[0].theta)
	sum := make([]float64, n) // over the units, how probable it is that one is in a language
	weight := 0.0
	posts := make([][]float64, len(units))
	post := make([]float64, n)
	total := 0.0
	for range 3 {
		total = 0
		for i, u := range units {
			text := texts[i]
			total += text.fixed
			if text.sums == nil {
				continue
			}
			if posts[i] == nil {
				posts[i] = make([]float64, n)
			} else {
				weight--
				for l, p := range posts[i] {
					sum[l] -= p
				}
			}
			share := func(l int) float64 { return (sum[l] + unseen) / (weight + unseen*float64(n)) }
			norm := 0.0
			for l := range post {
				post[l] = share(l) * math.Exp(u.theta[l])
				norm += post[l]
			}
			top := math.Inf(-1)
			for l := range post {
				post[l] = math.Log(0.9*post[l]/norm+0.1*share(l)) + text.sums[l]
				top = max(top, post[l])
			}
			norm = 0
			for l, p := range post {
				if post[l] = 0; p > top-40 {
					post[l] = math.Exp(p - top)
					norm += post[l]
				}
			}
			total += top + math.Log(norm)
			weight++
			for l := range post {
				posts[i][l] = post[l] / norm
				sum[l] += post[l] / norm
			}
		}
	}
	return total
}

// unseen is how much a language counts that no unit is in, in units.
const unseen = 0.005

// read reads a unit, with wrong decodings in it undone if that makes better sense: what
// somebody else has spoilt says nothing of the encoding.
func read(model *language.Model, decode func(string) string, u *unit) (text reading) {
	tokens := make([]string, len(u.tokens))
	var undone []string
	for i, token := range u.tokens {
		tokens[i] = decode(token)
		if m, ok := Mend(tokens[i]); ok {
			if undone == nil {
				undone = slices.Clone(tokens)
			}
			undone[i] = m.Text
			text.fixed -= perUndone
		} else if undone != nil {
			undone[i] = tokens[i]
		}
	}
	straight := readTokens(model, tokens)
	if undone == nil {
		return straight
	}
	other := readTokens(model, undone)
	if other.fixed += text.fixed; other.best() > straight.best() {
		return other
	}
	return straight
}

// perUndone is what a word loses that has been misread; more than [Thin].
const perUndone = 6

// best returns how well a reading fits the language that it fits best.
func (r *reading) best() float64 {
	if r.sums == nil {
		return r.fixed
	}
	return r.fixed + slices.Max(r.sums)
}

// readTokens reads words.
func readTokens(model *language.Model, tokens []string) (text reading) {
	alphabets := len(model.Codes)
	var word []rune
	sums := func() []float64 {
		if text.sums == nil {
			text.sums = make([]float64, alphabets+len(model.Wide))
		}
		return text.sums
	}
	flush := func() {
		if len(word) > 0 {
			model.Word(string(word), sums()[:alphabets])
			for i := range model.Wide {
				sums()[alphabets+i] += logWord
				for _, r := range word {
					if r < utf8.RuneSelf {
						sums()[alphabets+i] += logAlphabet
					} else {
						sums()[alphabets+i] += logForeign
					}
				}
			}
			word = word[:0]
		}
	}
	for _, token := range tokens {
		last := rune(' ')
		for _, r := range token {
			switch {
			case eastern(r):
				flush()
				for i := range alphabets {
					sums()[i] += logForeign
				}
				for i, m := range model.Wide {
					sums()[alphabets+i] += math.Log(math.Max(m[r], rareIn(i, r)))
				}
			case letter(r):
				word = append(word, r)
				if r >= utf8.RuneSelf {
					text.fixed += logLetter
				}
			case r >= utf8.RuneSelf:
				flush()
				text.fixed += math.Log(shareSign * symbol(r))
			default:
				flush()
			}
			if r >= utf8.RuneSelf || last >= utf8.RuneSelf {
				text.fixed += beside(last, r)
			}
			last = r
		}
		flush()
	}
	return text
}
