package cli

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/reference"
	"zetanum/internal/terminal"
)

// jsonCode is what is said of one code, for programs.
type jsonCode struct {
	Row          int       `json:"row,omitempty"`
	SKU          string    `json:"sku,omitempty"`
	Input        string    `json:"input"`
	Kind         string    `json:"kind,omitempty"`
	Valid        bool      `json:"valid"`
	Code         string    `json:"code,omitempty"`
	GTIN14       string    `json:"gtin_14,omitempty"`
	Class        string    `json:"prefix_class,omitempty"`
	Ground       string    `json:"ground,omitempty"`
	Rule         string    `json:"rule,omitempty"`
	Finding      string    `json:"finding,omitempty"`
	Sentence     string    `json:"sentence,omitempty"`
	CheckDigit   string    `json:"right_check_digit,omitempty"`
	MayBe        []string  `json:"may_be,omitempty"`
	Low          uint64    `json:"low,omitempty"`
	High         uint64    `json:"high,omitempty"`
	Candidates   uint64    `json:"candidates,omitempty"`
	List         []string  `json:"list,omitempty"`
	Unlisted     bool      `json:"too_many_to_list,omitempty"`
	TrustedCount *int      `json:"candidates_trusted,omitempty"`
	Trusted      []jsonHit `json:"trusted,omitempty"`
	BySKU        string    `json:"by_sku,omitempty"`
	BySKUFrom    string    `json:"by_sku_from,omitempty"`
}

type jsonHit struct {
	Code  string `json:"code"`
	SKU   string `json:"sku,omitempty"`
	Sheet string `json:"sheet"`
	Row   int    `json:"row"`
}

func printCode(p *terminal.Printer, c *jsonCode) {
	p.Line(p.Bold(visible(c.Input, 60)))
	restored := c.Rule != "" && c.Ground != catalogue.Likely.String() && c.Code != ""
	switch {
	case c.Valid:
		p.Linef("  %s  %s, the check digit fits%s", p.Good("valid"), c.Kind, in14(c))
	case c.Code != "" && c.Ground != catalogue.Likely.String():
		p.Linef("  %s  %s, the check digit fits%s", p.Open("whole, but not wanted"), c.Kind, in14(c))
	}
	if restored {
		p.Linef("  %s  %s (%s: %s)", p.Good("restored"), c.Code, c.Ground, ruleTitle(c.Rule))
	}
	if len(c.MayBe) > 1 {
		p.Linef("  its digits can be read as %s", strings.Join(c.MayBe, ", "))
	}
	if c.Class != "" && c.Finding != catalogue.BarcodePrefix.String() {
		p.WrapHanging("  ", "  ", "first digits: "+c.Class)
	}
	if c.Finding == "" {
		return
	}
	code, _ := catalogue.FindCode(c.Finding)
	entry := code.Entry()
	if !c.Valid {
		state := "not whole"
		if c.Kind != "" && c.Code == "" {
			state = "not valid as " + c.Kind
		}
		p.Linef("  %s: %s  %s", p.Open(state), entry.Title, p.Faint(c.Finding))
	}
	p.Wrap("  ", c.Sentence)
	p.WrapHanging("  → ", "    ", terminal.Typed(entry.Do))
	printCandidates(p, c, "  ")
}

func in14(c *jsonCode) string {
	if c.GTIN14 == "" {
		return ""
	}
	return "; as 14 digits " + c.GTIN14
}

func printCandidates(p *terminal.Printer, c *jsonCode, indent string) {
	if c.Unlisted {
		p.Line(indent, "they are too many to list: more than ", thousands(listed))
	}
	if len(c.List) > 0 {
		p.Line(indent, "it may have been:")
		for _, code := range c.List {
			p.Line(indent, "  ", code)
		}
	}
	switch {
	case c.TrustedCount == nil:
		return
	case c.BySKU != "":
		p.WrapHanging(indent, indent+"  ", fmt.Sprintf("of these the trusted sheets have %s; for SKU %s it is %s",
			thousands(*c.TrustedCount), c.SKU, p.Good(c.BySKU)))
		return
	}
	if c.Row > 0 && *c.TrustedCount > 3 { // one of many cells
		c.Trusted = nil
	}
	p.Linef(indent+"of these the trusted sheets have %s", p.Bold(thousands(*c.TrustedCount)))
	for _, h := range c.Trusted {
		sku := ""
		if h.SKU != "" {
			sku = "SKU " + h.SKU + ", "
		}
		p.Linef(indent+"  %s  %s", h.Code, p.Faint(fmt.Sprintf("%s%s, row %d", sku, h.Sheet, h.Row)))
	}
	if n := *c.TrustedCount - len(c.Trusted); n > 0 && len(c.Trusted) > 0 {
		p.Linef(indent+"  and %s more", thousands(n))
	}
}

func ruleTitle(name string) string {
	for _, r := range catalogue.Rules() {
		if r.String() == name {
			return r.Entry().Title
		}
	}
	return name
}

// shownCodes is how many cells of one kind of trouble are shown.
const shownCodes = 5

// printColumn says what kinds of code a column holds, and what is wrong with
// those that are not whole.
func printColumn(p *terminal.Printer, column *reference.Column, judged []jsonCode) {
	p.Linef("%s  %s", p.Bold(column.Name+", column "+column.Heading),
		p.Faint(fmt.Sprintf("%s, %d empty", plural(len(column.Cells), "code", "codes"), column.Empty)))
	kinds, classes, rules, findings := newTally(), newTally(), newTally(), newTally()
	for i := range judged {
		c := &judged[i]
		if c.Valid {
			kinds.add(c.Kind, c)
			classes.add(c.Class, c)
			rules.add(c.Rule, c)
		} else {
			findings.add(c.Finding, c)
		}
	}
	p.Head("Whole")
	for _, k := range kinds.sorted() {
		p.Linef("%s  %s", p.Good(fmt.Sprintf("%7s", thousands(len(kinds.of[k])))), k)
	}
	for _, r := range rules.sorted() {
		e := rules.of[r][0]
		p.Linef("%7s  of these restored: %s", thousands(len(rules.of[r])), ruleTitle(r))
		p.Linef("         %s", p.Faint(fmt.Sprintf("row %d: %s → %s", e.Row, visible(e.Input, 40), e.Code)))
	}
	for _, class := range classes.sorted() {
		p.WrapHanging(fmt.Sprintf("%7s  ", thousands(len(classes.of[class]))), "         ", "by their first digits: "+class)
	}
	if len(findings.of) == 0 {
		return
	}
	p.Head("Not whole")
	for _, f := range findings.sorted() {
		code, _ := catalogue.FindCode(f)
		cells := findings.of[f]
		p.Linef("%s  %s  %s", p.Open(fmt.Sprintf("%7s", thousands(len(cells)))), code.Entry().Title, p.Faint(f))
		for _, c := range cells[:min(len(cells), shownCodes)] {
			p.WrapHanging("         ", "           ", fmt.Sprintf("row %d: %s", c.Row, c.Sentence))
			printCandidates(p, c, "           ")
		}
		if n := len(cells) - shownCodes; n > 0 {
			p.Line("         " + p.Faint(fmt.Sprintf("and %s more (-json shows all)", thousands(n))))
		}
	}
}

// A tally sorts codes by a word.
type tally struct{ of map[string][]*jsonCode }

func newTally() tally { return tally{make(map[string][]*jsonCode)} }

func (t tally) add(word string, c *jsonCode) {
	if word != "" {
		t.of[word] = append(t.of[word], c)
	}
}

// sorted returns the words, the most frequent first.
func (t tally) sorted() []string {
	words := make([]string, 0, len(t.of))
	for w := range t.of {
		words = append(words, w)
	}
	slices.SortFunc(words, func(a, b string) int {
		return cmp.Or(len(t.of[b])-len(t.of[a]), strings.Compare(a, b))
	})
	return words
}

// jsonAnswers is a comparison of answers with the codes sent, for programs.
type jsonAnswers struct {
	Answered   []jsonCell `json:"answered"`
	Unanswered []jsonCell `json:"unanswered"`
	Unasked    []jsonCell `json:"unasked"`
	Unusable   []jsonCell `json:"unusable"`
}

type jsonCell struct {
	Row  int    `json:"row"`
	Cell string `json:"cell"`
	SKU  string `json:"sku,omitempty"`
}

func newJSONAnswers(a *reference.Answers) *jsonAnswers {
	cells := func(list []reference.Cell) []jsonCell {
		out := make([]jsonCell, 0, len(list))
		for _, c := range list {
			out = append(out, jsonCell{c.Row, c.Cell, c.SKU})
		}
		return out
	}
	return &jsonAnswers{cells(a.Answered), cells(a.Unanswered), cells(a.Unasked), cells(a.Unusable)}
}

func printAnswers(p *terminal.Printer, sent, back string, a *reference.Answers) {
	p.Linef("%s of %s codes of %s have an answer in %s",
		p.Bold(thousands(len(a.Answered))), thousands(len(a.Answered)+len(a.Unanswered)), sent, back)
	for _, part := range []struct {
		title string
		cells []reference.Cell
	}{
		{"Sent, and nothing came back", a.Unanswered},
		{"Came back without having been sent", a.Unasked},
		{"Damaged, so that nothing can be compared", a.Unusable},
	} {
		if len(part.cells) == 0 {
			continue
		}
		p.Head(fmt.Sprintf("%s: %s", part.title, thousands(len(part.cells))))
		for _, c := range part.cells[:min(len(part.cells), shownHits)] {
			sku := ""
			if c.SKU != "" {
				sku = ", SKU " + c.SKU
			}
			p.Linef("  %s  %s", visible(c.Cell, 40), p.Faint(fmt.Sprintf("row %d%s", c.Row, sku)))
		}
		if n := len(part.cells) - shownHits; n > 0 {
			p.Line("  " + p.Faint(fmt.Sprintf("and %s more (-json shows all, -print the bare codes)", thousands(n))))
		}
	}
}
