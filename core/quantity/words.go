package quantity

import (
	_ "embed"
	"strings"
	"sync"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/currency"
)

// CurrencyIn returns the currency that a heading says: Price (EUR), Preis CHF; "" if it says none.
func CurrencyIn(heading string) string {
	for _, word := range strings.FieldsFunc(heading, func(r rune) bool { return unicode.IsSpace(r) || strings.ContainsRune("()[]/_-:,", r) }) {
		if c := words()[strings.ToLower(strings.TrimSuffix(word, "."))]; c.currency != "" && (len(word) != 2 || strings.ToUpper(word) != word || word == "TL") {
			return c.currency
		}
	}
	return ""
}

//go:embed words.txt
var wordsFile string

// A word says something beside a number.
type word struct {
	is       What   // About, From, Request; Range for what stands between two numbers
	currency string // or of which currency it is
	tax      bool   // or whether tax is in it
}

// words are those that are known, in small letters and without points at their ends; most is how many words the longest has.
var words = sync.OnceValue(func() map[string]word {
	m := make(map[string]word)
	says := map[string]word{"about": {is: About}, "from": {is: From}, "to": {is: Range}, "request": {is: Request}, "tax": {tax: true}}
	for line := range strings.Lines(wordsFile) {
		name, list, ok := strings.Cut(strings.TrimSpace(line), ": ")
		if !ok || name[0] == '#' {
			continue
		}
		w, known := says[name]
		if !known {
			w = word{currency: name}
		}
		for one := range strings.SplitSeq(list, ",") {
			if one = strings.TrimSpace(one); one != "" {
				if _, there := m[one]; !there {
					m[one] = w
				}
			}
		}
	}
	return m
})

// beside reads what stands before or behind a number, and reports whether it is known.
func (p *Price) beside(text string) bool {
	for text != "" {
		text = strings.TrimSpace(strings.TrimPrefix(text, "/"))
		w, length := p.longest(text)
		if length == 0 && isCode(text) {
			w, length = word{currency: text[:3]}, 3
		}
		if length == 0 {
			return text == "."
		}
		switch {
		case w.currency != "":
			if p.Currency != "" && p.Currency != w.currency {
				return false
			}
			p.Currency = w.currency
		case w.is == About && p.Is == From:
		case w.is == About || w.is == From:
			p.Is = w.is
		case w.tax:
		default:
			return false
		}
		text = strings.TrimSpace(strings.TrimLeft(text[length:], "."))
	}
	return true
}

// longest returns the longest words at the beginning of a text that are known, and how many bytes they have.
func (p *Price) longest(text string) (w word, length int) {
	for end := len(text); end > 0; {
		if found, known := words()[fold(text[:end])]; known {
			return found, end
		}
		// A shorter one ends before a space, a point, or between a letter and a sign.
		next := end - 1
		for next > 0 && !breaks(text, next) {
			next--
		}
		end = next
	}
	return w, 0
}

// isCode reports whether a text begins with the code of a currency (ISO 4217), in capitals.
func isCode(text string) bool {
	if len(text) < 3 || len(text) > 3 && (text[3] >= 'A' && text[3] <= 'Z' || text[3] >= 'a' && text[3] <= 'z') {
		return false
	}
	for i := range 3 {
		if text[i] < 'A' || text[i] > 'Z' {
			return false
		}
	}
	_, err := currency.ParseISO(text[:3])
	return err == nil
}

// breaks reports whether words may end before a byte of a text.
func breaks(text string, at int) bool {
	if !utf8.RuneStart(text[at]) {
		return false
	}
	r, _ := utf8.DecodeRuneInString(text[at:])
	last, _ := utf8.DecodeLastRuneInString(text[:at])
	return !unicode.IsLetter(r) || !unicode.IsLetter(last)
}

func lookUp(text string) word { return words()[fold(text)] }

// fold returns words as they are looked up.
func fold(text string) string {
	return strings.TrimRight(strings.ToLower(strings.TrimSpace(strings.ReplaceAll(text, "\u00a0", " "))), ".: ")
}

func isLetterBefore(s string) bool {
	r, _ := utf8.DecodeLastRuneInString(s)
	return unicode.IsLetter(r)
}
