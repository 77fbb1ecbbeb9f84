// Package wording changes words in texts, as a rulebook orders it.
package wording

import (
	"errors"
	"fmt"
	"regexp"
	"strings"
	"unicode"
	"unicode/utf8"

	"zetanum/core/catalogue"
	"zetanum/core/condition"
	"zetanum/core/markup"
	"zetanum/core/text"
)

// A ReplaceRule puts one text in place of another: [[replace]].
type ReplaceRule struct {
	condition.Fields
	// Find is the text to look for: whole words, whatever their case.
	Find string `toml:"find" json:"find,omitempty"`
	// Pattern is an RE2 pattern to look for instead; case counts in it.
	Pattern string `toml:"pattern" json:"pattern,omitempty"`
	// With is what takes its place; behind a pattern $1 is its first group.
	With string `toml:"with" json:"with,omitempty"`
	// InsideWords finds the text inside longer words, too.
	InsideWords bool `toml:"inside_words" json:"inside_words,omitempty"`
	// MatchCase finds the text only in the same case.
	MatchCase bool `toml:"match_case" json:"match_case,omitempty"`
	// FirstOnly replaces only the first one in a cell.
	FirstOnly bool `toml:"first_only" json:"first_only,omitempty"`
	condition.OneWay
	condition.Scope
}

// Check returns what is wrong with the rule whatever the sheet.
func (r *ReplaceRule) Check() (problems []catalogue.Problem) {
	wrong := func(key, text string) { problems = append(problems, catalogue.Problem{Key: key, Text: text}) }
	switch {
	case len(r.In) == 0:
		wrong("in", `names the fields, for example in = ["title"]`)
	case (r.Find == "") == (r.Pattern == ""):
		wrong("find", "each [[replace]] has either find or pattern")
	case r.Pattern != "" && (r.MatchCase || r.InsideWords):
		wrong("pattern", "match_case and inside_words go with find; a pattern says so itself, (?i) for any case")
	case r.FirstOnly && !r.Once:
		wrong("first_only", "a second run would replace the next one; say once = true, and the rule is refused on a file that it has "+
			"been applied to")
	}
	if r.Pattern != "" {
		re, err := regexp.Compile(r.Pattern)
		if err != nil {
			wrong("pattern", err.Error())
		} else if re.MatchString("") {
			wrong("pattern", "fits an empty text too, so it would find something everywhere")
		}
	}
	return append(problems, r.Scope.Check()...)
}

// String says the rule in words.
func (r *ReplaceRule) String() string {
	if r.Pattern != "" {
		return fmt.Sprintf("replace pattern \"%s\" with \"%s\"", catalogue.OneLine(r.Pattern), catalogue.OneLine(r.With))
	}
	return fmt.Sprintf("replace %q with %q", r.Find, r.With)
}

// Errors about fields in which a rule may change nothing.
var (
	ErrCode = errors.New("codes, in which every character counts, are left alone")
	ErrHTML = errors.New("words are put around texts on one line, not around HTML")
)

// A Replacer applies one rule to texts. It is safe for many goroutines.
type Replacer struct {
	rule    *ReplaceRule
	re      *regexp.Regexp // nil for a text that is found faster without
	rare    text.Rare      // of such a text
	needs   needed         // by the pattern
	within  int            // where the text to find stands in what replaces it, -1 if it does not
	escaped *Replacer      // finds the text as HTML has it, if that is otherwise; nil if it is not
}

// NewReplacer prepares a rule that [ReplaceRule.Check] has passed.
func NewReplacer(r *ReplaceRule) (*Replacer, error) {
	p, err := newReplacer(r)
	if inHTML := markup.Escape(r.Find); err == nil && inHTML != r.Find {
		rule := *r
		rule.Find = inHTML
		p.escaped, err = newReplacer(&rule)
	}
	return p, err
}

func newReplacer(r *ReplaceRule) (*Replacer, error) {
	p := &Replacer{rule: r, within: -1}
	pattern := r.Pattern
	switch {
	case r.Find == "":
	case r.MatchCase || catalogue.IsASCII(r.Find):
		p.rare = text.RareOf(r.Find, !r.MatchCase)
	default:
		pattern = "(?i)" + regexp.QuoteMeta(r.Find)
	}
	if pattern != "" {
		var err error
		if p.re, err = regexp.Compile(pattern); err != nil {
			return nil, err
		}
		p.needs = neededBy(pattern)
	}
	if r.Find != "" {
		if m := p.next(r.With, 0); m != nil {
			p.within = m[0]
		}
	}
	return p, nil
}

// next returns where the rule finds something, as the package regexp does: nil if
// nowhere. Without a pattern it looks from a place on.
func (p *Replacer) next(text string, from int) []int {
	if p.re != nil {
		return p.re.FindStringSubmatchIndex(text)
	}
	if at := p.find(text, from); at >= 0 {
		return []int{at, at + len(p.rule.Find)}
	}
	return nil
}

// find returns where the text to look for stands from a place on, -1 if it does
// not.
func (p *Replacer) find(text string, from int) int {
	find := p.rule.Find
	at := p.rare.Find(text[from:], len(find), func(there string) bool {
		return there == find || !p.rule.MatchCase && strings.EqualFold(there, find)
	})
	if at < 0 {
		return -1
	}
	return from + at
}

// matches calls do with each place at which the rule finds something, until it
// returns false.
func (p *Replacer) matches(text string, do func([]int) bool) {
	if p.re != nil {
		for _, m := range p.re.FindAllStringSubmatchIndex(text, -1) {
			if !do(m) {
				return
			}
		}
		return
	}
	for m := p.next(text, 0); m != nil; m = p.next(text, m[1]) {
		if !do(m) {
			return
		}
	}
}

// Apply returns the text with the replacements, and whether there are any. A
// text that already stands there with its replacement around it, such as "steel"
// in "stainless steel", is left: adding it twice is adding it once.
func (p *Replacer) Apply(text string) (after string, changed bool) {
	if !p.needs.mayFit(text) {
		return text, false
	}
	var b strings.Builder
	done := 0
	p.matches(text, func(m []int) bool {
		from, to := m[0], m[1]
		if p.rule.Find != "" && (!p.rule.InsideWords && !wholeWord(text, from, to) || p.stands(text, from)) {
			return true
		}
		b.WriteString(text[done:from])
		if p.rule.Pattern != "" {
			b.Write(p.re.ExpandString(nil, p.rule.With, text, m))
		} else {
			b.WriteString(p.rule.With)
		}
		done = to
		changed = true
		return !p.rule.FirstOnly
	})
	if !changed {
		return text, false
	}
	b.WriteString(text[done:])
	after = b.String()
	return after, after != text
}

// stands reports whether the replacement already stands around a place at which
// the text was found.
func (p *Replacer) stands(text string, at int) bool {
	from := at - p.within
	if p.within < 0 || from < 0 || len(text)-from < len(p.rule.With) {
		return false
	}
	there := text[from : from+len(p.rule.With)]
	return there == p.rule.With || !p.rule.MatchCase && strings.EqualFold(there, p.rule.With)
}

// wholeWord reports whether no letter or digit stands beside a stretch of a text
// where it begins and ends with one.
func wholeWord(text string, from, to int) bool {
	first, _ := utf8.DecodeRuneInString(text[from:to])
	last, _ := utf8.DecodeLastRuneInString(text[from:to])
	before, _ := utf8.DecodeLastRuneInString(text[:from])
	behind, _ := utf8.DecodeRuneInString(text[to:])
	return !(isWord(first) && from > 0 && isWord(before)) && !(isWord(last) && to < len(text) && isWord(behind))
}

func isWord(r rune) bool { return unicode.IsLetter(r) || unicode.IsDigit(r) || unicode.IsMark(r) }

// Finds reports whether the text to look for is anywhere in a text, whether or not
// it stands there in a way in which it is replaced. With a pattern it is true.
func (p *Replacer) Finds(text string) bool {
	if p.escaped != nil && p.escaped.Finds(text) {
		return true
	}
	if p.re != nil {
		return p.needs.within(text) && (p.rule.Find == "" || p.re.MatchString(text))
	}
	return p.find(text, 0) >= 0
}

// Keys returns texts of which one, in whatever case, stands in each text in which the rule finds something. One of them is empty
// if that may be anywhere.
func (p *Replacer) Keys() []string {
	key := p.rule.Find
	if p.re != nil {
		key = p.needs.key()
	}
	if p.escaped != nil {
		return append(p.escaped.Keys(), key)
	}
	return []string{key}
}

// ApplyHTML is Apply for the text between the tags of HTML.
func (p *Replacer) ApplyHTML(source string) (after string, changed bool) {
	after, changed = markup.OutsideTags(source, p.Apply)
	if p.escaped != nil {
		if more, yes := markup.OutsideTags(after, p.escaped.Apply); yes {
			return more, true
		}
	}
	return after, changed
}
