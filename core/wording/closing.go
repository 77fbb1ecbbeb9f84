package wording

import (
	"html"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/condition"
	"zetanum/core/markup"
)

// A ClosingRule puts a standard text at the end of texts, once: [[closing]].
type ClosingRule struct {
	condition.Fields
	// Text is the closing text. In HTML it becomes a paragraph, unless it is
	// HTML itself.
	Text string `toml:"text" json:"text,omitempty"`
	condition.Scope
}

// Check returns what is wrong with the rule whatever the sheet.
func (r *ClosingRule) Check() (problems []catalogue.Problem) {
	switch {
	case len(r.In) == 0:
		problems = append(problems, catalogue.Problem{Key: "in", Text: `names the fields, for example in = ["description"]`})
	case wordsOf(r.Text) == "":
		problems = append(problems, catalogue.Problem{Key: "text", Text: "is the closing text, with at least one word"})
	}
	return append(problems, r.Scope.Check()...)
}

// String says the rule in words.
func (r *ClosingRule) String() string {
	return "close with \"" + catalogue.Shorten(strings.TrimSpace(markup.Words(r.Text)), 40) + "\""
}

// Apply returns a plain text with the closing text behind it, and whether it did
// not have it. An empty text is left empty.
func (r *ClosingRule) Apply(text string) (after string, changed bool) {
	between := " "
	if strings.Contains(strings.TrimSpace(text), "\n") {
		between = "\n" // the text has lines of its own
	}
	return r.behind(text, between)
}

// ApplyApart does the same with a plain text of which HTML will be made, where the closing text is to be a paragraph of its own.
func (r *ClosingRule) ApplyApart(text string) (after string, changed bool) {
	if r.HTML() {
		return r.Apply(text)
	}
	return r.behind(text, "\n\n")
}

func (r *ClosingRule) behind(text, between string) (after string, changed bool) {
	if strings.TrimSpace(text) == "" || r.closes(text) {
		return text, false
	}
	return strings.TrimRight(text, " \t\r\n") + between + strings.TrimSpace(r.Text), true
}

// HTML reports whether the closing text is HTML.
func (r *ClosingRule) HTML() bool { return markup.HasTags(r.Text) }

// ApplyHTML does the same with HTML.
func (r *ClosingRule) ApplyHTML(text string) (after string, changed bool) {
	if strings.TrimSpace(text) == "" || r.closes(text) {
		return text, false
	}
	closing := strings.TrimSpace(r.Text)
	if !markup.HasTags(closing) {
		closing = "<p>" + html.EscapeString(closing) + "</p>"
	}
	return strings.TrimRight(text, " \t\r\n") + closing, true
}

// closes reports whether a text already has the closing text in it, whatever its
// tags, spaces and case.
func (r *ClosingRule) closes(text string) bool {
	return strings.Contains(wordsOf(text), wordsOf(r.Text))
}

// wordsOf returns the words of HTML or plain text in a form to compare.
func wordsOf(text string) string {
	words := strings.Fields(strings.ToLower(markup.Words(text)))
	if len(words) == 0 {
		return ""
	}
	return " " + strings.Join(words, " ") + " "
}
