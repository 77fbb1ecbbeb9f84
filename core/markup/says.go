package markup

import (
	_ "embed"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/net/html"

	"zetanum/core/glance"
)

//go:embed placeholders.txt
var placeholderText string

var placeholders = func() map[string]bool {
	m := make(map[string]bool)
	for line := range strings.Lines(placeholderText) {
		if line = strings.TrimSpace(line); !strings.HasPrefix(line, "#") {
			m[line] = true
		}
	}
	return m
}()

// longestPlaceholder is how many bytes a cell has at most that is looked up as a whole.
const longestPlaceholder = 120

// Placeholder returns what stands in a description until a text comes, "" if there is none: a word for that, the usual Latin, or what a
// program has not filled in, such as {{name}}.
func Placeholder(cell string) string { return placeholder(cell, true) }

// placeholder does so; braces says whether there may be any.
func placeholder(cell string, braces bool) string {
	if braces {
		if at := strings.Index(cell, "{{"); at >= 0 {
			if end := strings.Index(cell[at:], "}}"); end > 0 {
				return cell[at : at+end+2]
			}
		}
	}
	const latin = "orem i"
	if at := glance.Index(cell, "psum", 0); at > len(latin) && cell[at-len(latin):at] == latin && cell[at-len(latin)-1]|0x20 == 'l' {
		return cell[at-len(latin)-1 : at+len("psum")]
	}
	if len(cell) > longestPlaceholder {
		return ""
	}
	words := collapse(Words(cell))
	if bare := strings.ToLower(strings.Trim(words, " .…!:-()[]*")); placeholders[bare] {
		return words
	}
	return ""
}

// A Mention finds words that descriptions must not have.
type Mention struct {
	words []string // in small letters
}

// NewMention returns what finds words: names, parts of addresses, phrases.
func NewMention(words []string) *Mention {
	m := &Mention{}
	for _, w := range words {
		if w = strings.ToLower(collapse(w)); w != "" && !slices.Contains(m.words, w) {
			m.words = append(m.words, w)
		}
	}
	return m
}

// In returns the first of the words that a text has, as the text has it; "" if it has none. They are found whatever their case, and not
// within longer words.
func (m *Mention) In(cell string) string {
	lowered := strings.ToLower(cell)
	if len(lowered) != len(cell) {
		cell = lowered // letters that have another length when they are small
	}
	for _, w := range m.words {
		for from := 0; ; {
			at := strings.Index(lowered[from:], w)
			if at < 0 {
				break
			}
			at += from
			end := at + len(w)
			before, _ := utf8.DecodeLastRuneInString(lowered[:at])
			after, _ := utf8.DecodeRuneInString(lowered[end:])
			first, _ := utf8.DecodeRuneInString(w)
			last, _ := utf8.DecodeLastRuneInString(w)
			if !(isWord(before) && isWord(first)) && !(isWord(last) && isWord(after)) {
				return cell[at:end]
			}
			from = end
		}
	}
	return ""
}

func isWord(r rune) bool { return unicode.IsLetter(r) || unicode.IsDigit(r) }

// EachLine calls do with each line of a description, as a reader sees it; the cells of a row of a table are one, with a colon behind the
// first.
func EachLine(text string, do func(line string)) {
	var b strings.Builder
	plain := !IsHTML(text)
	end := func() {
		if line := collapse(b.String()); line != "" {
			do(line)
		}
		b.Reset()
	}
	for s := (Scanner{rest: text}); s.Next(); {
		switch t := s.token; t.Kind {
		case Text:
			rest := t.Raw
			for at := strings.IndexByte(rest, '\n'); at >= 0; at = strings.IndexByte(rest, '\n') {
				b.WriteString(rest[:at])
				if b.WriteByte(' '); plain {
					end()
				}
				rest = rest[at+1:]
			}
			b.WriteString(rest)
		case Entity:
			b.WriteString(html.UnescapeString(t.Raw))
		case StartTag, EndTag:
			e := elements[t.Name()]
			switch {
			case e == nil || e.class == inline || e.class == vanished:
			case e.class == cell:
				if line := strings.TrimSpace(b.String()); t.Kind == EndTag && line != "" && !strings.Contains(line, ":") {
					b.WriteString(": ")
				}
			default:
				end()
			}
		}
	}
	end()
}

// Named returns the name and the value of a line such as Height: 12 cm; ok is false if it is no such line.
func Named(line string) (name, value string, ok bool) {
	colon, is := namedLine(line)
	if !is {
		return "", "", false
	}
	return strings.TrimSpace(line[:colon]), strings.TrimSpace(line[colon+1:]), true
}

// leastPhrase is how many characters a sentence has at least that may be a phrase.
const leastPhrase = 20

// Phrases returns the sentences that stand in more than a share of descriptions, by some of them.
func Phrases(cells []string, share float64) (phrases []string) {
	times := make(map[string]int)
	all := 0
	for _, cell := range cells {
		if isBlank(cell) {
			continue
		}
		all++
		seen := make(map[string]bool)
		EachLine(cell, func(line string) {
			from := 0
			for _, end := range sentences(line) {
				if s := strings.TrimSpace(line[from:end]); utf8.RuneCountInString(s) >= leastPhrase && !seen[s] {
					seen[s] = true
					times[s]++
				}
				from = end
			}
		})
	}
	for s, n := range times {
		if n > 2 && float64(n) > share*float64(all) {
			phrases = append(phrases, s)
		}
	}
	slices.Sort(phrases)
	return phrases
}
