package wording

import (
	"html"
	"strings"
	"unicode/utf8"

	"zetanum/core/catalogue"
	"zetanum/core/condition"
	"zetanum/core/markup"
)

// An AroundRule puts words before or after a text: [[around]].
type AroundRule struct {
	condition.Fields
	// Before and After are the words, set off with one space.
	Before string `toml:"before" json:"before,omitempty"`
	After  string `toml:"after" json:"after,omitempty"`
	condition.Scope
}

// Check returns what is wrong with the rule whatever the sheet.
func (r *AroundRule) Check() (problems []catalogue.Problem) {
	switch {
	case len(r.In) == 0:
		problems = append(problems, catalogue.Problem{Key: "in", Text: `names the fields, for example in = ["title"]`})
	case strings.TrimSpace(r.Before+r.After) == "":
		problems = append(problems, catalogue.Problem{Key: "before", Text: "each [[around]] has before, after, or both"})
	}
	return append(problems, r.Scope.Check()...)
}

// String says the rule in words.
func (r *AroundRule) String() string {
	var parts []string
	if r.Before != "" {
		parts = append(parts, "put \""+r.Before+"\" before")
	}
	if r.After != "" {
		parts = append(parts, "put \""+r.After+"\" after")
	}
	return strings.Join(parts, ", ")
}

// Apply returns the text with the words around it, and whether it did not have
// them. Words that are there already, whatever their case, are not put there
// again: "Beech" before "beech smoker box" changes nothing.
func (r *AroundRule) Apply(text string) (after string, changed bool) {
	after = strings.TrimSpace(text)
	if after == "" {
		return text, false
	}
	before, behind := strings.TrimSpace(r.Before), strings.TrimSpace(r.After)
	words := plainly(after)
	if before != "" && !beginsWith(words, before) {
		after, changed = before+" "+after, true
	}
	if behind != "" && !endsWith(words, behind) {
		after, changed = after+" "+behind, true
	}
	if !changed {
		return text, false
	}
	return after, true
}

// plainly returns a text without stray spaces, which hide no words. It has none at its ends.
func plainly(text string) string {
	if catalogue.Has(text, catalogue.Untidy) {
		return strings.Join(strings.Fields(text), " ")
	}
	return text
}

// ApplyHTML does the same with HTML: the words stand inside the element with which the text begins or ends,
// so that they are part of it.
func (r *AroundRule) ApplyHTML(text string) (after string, changed bool) {
	words := plainly(strings.TrimSpace(markup.Words(text)))
	if words == "" {
		return text, false
	}
	before, behind := strings.TrimSpace(r.Before), strings.TrimSpace(r.After)
	if before != "" && beginsWith(words, before) {
		before = ""
	}
	if behind != "" && endsWith(words, behind) {
		behind = ""
	}
	if before == "" && behind == "" {
		return text, false
	}
	from, to := textIn(text)
	if behind != "" {
		text = text[:to] + " " + html.EscapeString(behind) + text[to:]
	}
	if before != "" {
		text = text[:from] + html.EscapeString(before) + " " + text[from:]
	}
	return text, true
}

// textIn returns where the first text of HTML begins that is no white space, and where the last ends.
func textIn(source string) (from, to int) {
	from = -1
	at := 0
	for s := markup.NewScanner(source); s.Next(); {
		raw := s.Token().Raw
		if kind := s.Token().Kind; kind == markup.Entity || kind == markup.Text && strings.TrimSpace(raw) != "" {
			begin := at + len(raw) - len(strings.TrimLeft(raw, " \t\r\n"))
			if from < 0 {
				from = begin
			}
			to = at + len(strings.TrimRight(raw, " \t\r\n"))
		}
		at += len(raw)
	}
	return max(from, 0), to
}

// beginsWith reports whether a text begins with whole words.
func beginsWith(text, words string) bool {
	n := len(words)
	if len(text) < n || !strings.EqualFold(text[:n], words) {
		// Letters may have another length in another case.
		n = prefixOfRunes(text, utf8.RuneCountInString(words))
		if !strings.EqualFold(text[:n], words) {
			return false
		}
	}
	return wholeWord(text, 0, n)
}

func endsWith(text, words string) bool {
	n := len(text) - len(words)
	if n < 0 || !strings.EqualFold(text[n:], words) {
		n = prefixOfRunes(text, utf8.RuneCountInString(text)-utf8.RuneCountInString(words))
		if !strings.EqualFold(text[n:], words) {
			return false
		}
	}
	return wholeWord(text, n, len(text))
}

// prefixOfRunes returns how many bytes the first n characters of a text have.
func prefixOfRunes(text string, n int) (bytes int) {
	for i := range text {
		if n <= 0 {
			return i
		}
		n--
	}
	if n < 0 {
		return 0
	}
	return len(text)
}
