// Package brand knows what brands need: companies are written with and without their legal form, brands behind the word by, and
// words stand in place of one where there is none.
package brand

import (
	_ "embed"
	"iter"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"zetanum/core/catalogue"
	"zetanum/core/lists"
)

//go:embed forms.txt
var formsText string

//go:embed placeholders.txt
var placeholdersText string

// forms are legal forms without points and spaces, and the most words that one has; placeholders what stands for no brand.
var (
	forms, longestForm = func() (map[string]bool, int) {
		all, most := make(map[string]bool), 0
		for form := range entries(formsText) {
			all[bare(form)] = true
			most = max(most, 2*len(strings.Fields(form))) // S. r. l.
		}
		return all, most
	}()
	placeholders, longestPlaceholder = func() (map[string]bool, int) {
		all, longest := make(map[string]bool), 0
		for word := range entries(placeholdersText) {
			all[word] = true
			longest = max(longest, len(word)+len("[] "))
		}
		return all, longest
	}()
)

// entries are what stands between the bars of a list, without its remarks.
func entries(list string) iter.Seq[string] {
	return func(yield func(string) bool) {
		for line := range strings.Lines(list) {
			if line = strings.TrimSpace(line); line == "" || line[0] == '#' {
				continue
			}
			for entry := range strings.SplitSeq(line, "|") {
				if !yield(entry) {
					return
				}
			}
		}
	}
}

// bare returns a form without points, spaces and brackets, in small letters.
func bare(s string) string {
	return strings.Map(func(r rune) rune {
		switch {
		case unicode.IsLetter(r), r == '&', r == '/':
			return unicode.ToLower(r)
		}
		return -1
	}, s)
}

// WithoutForm returns a name without the legal forms at its end. A name that is nothing else stays. Forms of two letters count only
// in capitals or with points, because they may be words.
func WithoutForm(name string) string {
	for {
		shorter := withoutForm(name)
		if shorter == name {
			return name
		}
		name = shorter
	}
}

func withoutForm(name string) string {
	words := strings.Fields(name)
	for n := min(longestForm, len(words)-1); n > 0; n-- {
		tail := strings.Join(words[len(words)-n:], " ")
		form := bare(tail)
		if !forms[form] || n == 1 && utf8.RuneCountInString(form) < 3 && tail != strings.ToUpper(tail) && !strings.Contains(tail, ".") && !mixed(tail) {
			continue
		}
		if front := strings.TrimRight(strings.Join(words[:len(words)-n], " "), " ,-–&"); front != "" {
			return front
		}
	}
	return name
}

// mixed reports whether a word begins with a small letter and has a capital behind it: eK.
func mixed(word string) bool {
	return strings.ToLower(word) != word && strings.ToLower(word[:1]) == word[:1]
}

// IsPlaceholder reports whether what stands for a brand says that there is none.
func IsPlaceholder(name string) bool {
	if len(name) > longestPlaceholder {
		return false
	}
	name = strings.ToLower(strings.Join(strings.Fields(name), " "))
	name = strings.Trim(name, "()[]<>*")
	return name != "" && (placeholders[name] || placeholders[strings.TrimRight(name, ".")] || strings.Trim(name, "-–—._?/*#x ") == "")
}

// Rules say what is done to brands, besides what is said of the field: [brand].
type Rules struct {
	// LegalForms = "ignore" takes Ltd and GmbH for no difference between two spellings.
	LegalForms string `toml:"legal_forms" json:"legal_forms,omitempty"`
	// WithoutBy takes “by” before a brand off, and what stands before that.
	WithoutBy bool `toml:"without_by" json:"without_by,omitempty"`
	// Placeholders = "blank" empties cells that say that there is no brand.
	Placeholders string `toml:"placeholders" json:"placeholders,omitempty"`
	// FromTitle fills empty cells with the one known brand that stands in the title.
	FromTitle bool `toml:"from_title" json:"from_title,omitempty"`
}

// Ignore or Keep is said of legal forms, Blank or Keep of placeholders.
const (
	Ignore = "ignore"
	Blank  = "blank"
	Keep   = "keep"
)

// Idle reports whether the rules order nothing.
func (r *Rules) Idle() bool {
	return r.LegalForms != Ignore && !r.WithoutBy && r.Placeholders != Blank && !r.FromTitle
}

// Check says what is wrong with the rules, by their keys.
func (r *Rules) Check() (problems []catalogue.Problem) {
	if r.LegalForms != "" && r.LegalForms != Ignore && r.LegalForms != Keep {
		problems = append(problems, catalogue.Problem{Key: "legal_forms", Text: `is "ignore" or "keep"`})
	}
	if r.Placeholders != "" && r.Placeholders != Blank && r.Placeholders != Keep {
		problems = append(problems, catalogue.Problem{Key: "placeholders", Text: `is "blank" or "keep"`})
	}
	return problems
}

// Key returns what the spellings of one brand have in common.
func (r *Rules) Key(name string) string {
	if r.LegalForms == Ignore {
		name = WithoutForm(name)
	}
	return lists.SpellingKey(name)
}

// Behind returns what stands behind the word by in a name, "" if nothing does.
func Behind(name string) string {
	lower := strings.ToLower(name)
	if strings.HasPrefix(lower, "by ") {
		return strings.TrimSpace(name[len("by "):])
	}
	if at := strings.LastIndex(lower, " by "); at > 0 && len(lower) == len(name) {
		return strings.TrimSpace(name[at+len(" by "):])
	}
	return ""
}

// Spelt returns how the spellings of a column are compared, if some are right whatever most rows have.
func (r *Rules) Spelt(first []string) *lists.SpeltBy {
	by := &lists.SpeltBy{Key: r.Key, First: first}
	if r.WithoutBy {
		by.Behind = Behind
	}
	return by
}

// Counts reports whether what stands for a brand is one.
func (r *Rules) Counts(name string) bool { return name != "" && !IsPlaceholder(name) }

// A Finder finds brands in titles. It is safe for many goroutines.
type Finder struct{ clues *lists.Clues }

// NewFinder returns what finds brands by their spellings.
func NewFinder(spelt []lists.Pair) *Finder {
	return &Finder{lists.AnyClues(slices.DeleteFunc(spelt, func(p lists.Pair) bool { return IsPlaceholder(p.Value) }))}
}

// Known returns names as their own spellings.
func Known(names []string) (spelt []lists.Pair) {
	for _, name := range names {
		spelt = append(spelt, lists.Pair{Key: name, Value: name})
	}
	return spelt
}

// In returns the brand that stands in a title, or all of them if there are several.
func (f *Finder) In(title string) (one string, several []string) {
	if several = f.clues.Values(title); len(several) == 1 {
		return several[0], nil
	}
	return "", several
}
