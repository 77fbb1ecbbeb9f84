// Package tags puts the tags of products in order: lists of words in one cell.
package tags

import (
	"fmt"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/condition"
	"zetanum/core/title"
)

// Rules say what is done to tags: [tags].
type Rules struct {
	// At is what stands between the tags of the file, if it is not to be found; Between what is written between them.
	At      string `toml:"at" json:"at,omitempty"`
	Between string `toml:"between" json:"between,omitempty"`
	// Inside is what becomes of a tag in which Between stands: hold, quote, or replace by InsideAs.
	Inside   string `toml:"inside" json:"inside,omitempty"`
	InsideAs string `toml:"inside_as" json:"inside_as,omitempty"`

	// Case is how letters are written, in the Language.
	Case     title.Style `toml:"case" json:"case,omitempty"`
	Language string      `toml:"language" json:"language,omitempty"`
	// Aliases are tags to be written otherwise, as are those of the sheet AliasesFrom.
	Aliases     map[string]string `toml:"aliases" json:"aliases,omitempty"`
	AliasesFrom string            `toml:"aliases_from" json:"aliases_from,omitempty"`
	// Unlisted is what becomes of tags that the list of the field does not have: hold or drop.
	Unlisted string `toml:"unlisted" json:"unlisted,omitempty"`
	// Forbidden are tags that do not go out.
	Forbidden []string `toml:"forbidden" json:"forbidden,omitempty"`

	// Always are patterns of tags that each product gets, and When those of some. CategoryLevels makes a tag of each level of
	// the category, and Attributes one of each field: its name, Pair, and the value.
	Always         []string          `toml:"always" json:"always,omitempty"`
	When           []WhenRule        `toml:"when" json:"when,omitempty"`
	CategoryLevels bool              `toml:"category_levels" json:"category_levels,omitempty"`
	Attributes     map[string]string `toml:"attributes" json:"attributes,omitempty"`
	Pair           string            `toml:"pair" json:"pair,omitempty"`

	// Order is how tags are sorted; common by the sheet CommonFrom, or by the file itself.
	Order      string `toml:"order" json:"order,omitempty"`
	CommonFrom string `toml:"common_from" json:"common_from,omitempty"`
	// Most is how many tags go out, and LongestTag how many characters each has.
	Most       int `toml:"most" json:"most,omitempty"`
	LongestTag int `toml:"longest_tag" json:"longest_tag,omitempty"`

	// Mode says what the tags of the file do to those that the shop has: replace, add or remove.
	Mode string `toml:"mode" json:"mode,omitempty"`
}

// A WhenRule gives tags to some products: [[tags.when]].
type WhenRule struct {
	Add []string `toml:"add" json:"add,omitempty"`
	condition.Scope
}

// Check returns what is wrong with the rule whatever the sheet.
func (w *WhenRule) Check() (problems []catalogue.Problem) {
	if len(w.Add) == 0 {
		problems = append(problems, catalogue.Problem{Key: "add", Text: `each [[tags.when]] has add, for example add = ["Gift"]`})
	}
	return append(problems, w.Scope.Check()...)
}

// The words of the keys.
const (
	Hold    = "hold"
	Quote   = "quote"
	Replace = "replace"
	Drop    = "drop"

	Written      = "written"
	Alphabetical = "alphabetical"
	Common       = "common"

	Add    = "add"
	Remove = "remove"
)

// Idle reports whether the rules order nothing.
func (r *Rules) Idle() bool {
	return r.Between == "" && r.Inside == "" && (r.Case == "" || r.Case == title.AsIs) && len(r.Aliases) == 0 && r.AliasesFrom == "" &&
		r.Unlisted != Drop && len(r.Forbidden) == 0 && !r.Adds() && (r.Order == "" || r.Order == Written) && r.Most == 0 && r.LongestTag == 0 &&
		(r.Mode == "" || r.Mode == Replace)
}

// Adds reports whether the rules may give tags to products that have none.
func (r *Rules) Adds() bool {
	return len(r.Always) > 0 || len(r.When) > 0 || r.CategoryLevels || len(r.Attributes) > 0 || r.Mode == Add || r.Mode == Remove
}

// NeedsShop reports whether the tags that the shop has are needed.
func (r *Rules) NeedsShop() bool { return r.Mode == Add || r.Mode == Remove }

// Check returns what is wrong with the rules whatever the sheet.
func (r *Rules) Check() (problems []catalogue.Problem) {
	wrong := func(key, format string, args ...any) {
		problems = append(problems, catalogue.Problem{Key: key, Text: fmt.Sprintf(format, args...)})
	}
	oneOf := func(key, value string, words ...string) {
		if value != "" && !slices.Contains(words, value) {
			wrong(key, `is one of "%s"`, strings.Join(words, `", "`))
		}
	}
	oneOf("inside", r.Inside, Hold, Quote, Replace)
	oneOf("case", string(r.Case), string(title.AsIs), "lower", string(title.Sentence), string(title.Title))
	oneOf("language", r.Language, title.Languages()...)
	oneOf("unlisted", r.Unlisted, Hold, Drop)
	oneOf("order", r.Order, Written, Alphabetical, Common)
	oneOf("mode", r.Mode, Replace, Add, Remove)
	mark := strings.TrimSpace(r.Between)
	switch {
	case r.Between != "" && mark == "" && !strings.Contains(r.Between, "\n"):
		wrong("between", `is what stands between two tags, for example ", "; a space alone parts nothing`)
	case strings.ContainsRune(r.Between, '"'):
		wrong("between", "cannot have a quotation mark in it")
	case r.InsideAs != "" && r.Inside != Replace:
		wrong("inside_as", `goes with inside = "replace"`)
	case mark != "" && strings.Contains(r.InsideAs, mark):
		wrong("inside_as", "has what stands between the tags in it")
	case r.Pair != "" && len(r.Attributes) == 0:
		wrong("pair", "stands between the name and the value of attributes, and no attributes are named")
	case mark != "" && strings.Contains(r.pair(), mark):
		wrong("pair", "has what stands between the tags in it")
	}
	if r.CommonFrom != "" && r.Order != Common {
		wrong("common_from", `goes with order = "common"`)
	}
	if r.Most < 0 || r.LongestTag < 0 {
		wrong("most", "most and longest_tag are numbers, 1 or more")
	}
	if err := checkAliases(r.Aliases); err != nil {
		wrong("aliases", "%v", err)
	}
	return problems
}

func (r *Rules) pair() string {
	if r.Pair == "" {
		return "_"
	}
	return r.Pair
}

// OneWay reports whether the rules would change their own result again: tags sorted by how common they are in the file, or
// taken from those of the shop.
func (r *Rules) OneWay() (key string, is bool) {
	switch {
	case r.Mode == Remove:
		return "mode", true
	case r.Order == Common && r.CommonFrom == "":
		return "order", true
	}
	return "", false
}

// String says the rules in words.
func (r *Rules) String() string {
	var parts []string
	for _, p := range []struct {
		on   bool
		says string
	}{
		{r.Mode == Add, "added to those of the shop"}, {r.Mode == Remove, "taken from those of the shop"}, {r.Mode == Replace, "in place of those of the shop"},
		{r.Case != "" && r.Case != title.AsIs, string(r.Case) + " case"}, {len(r.Aliases) > 0 || r.AliasesFrom != "", "aliases"},
		{r.Unlisted == Drop, "only those of the list"}, {len(r.Forbidden) > 0, "without forbidden ones"}, {len(r.Always) > 0, "always some"},
		{len(r.When) > 0, "some on conditions"}, {r.CategoryLevels, "levels of the category"}, {len(r.Attributes) > 0, "attributes"},
		{r.Order == Alphabetical, "in alphabetical order"}, {r.Order == Common, "the most common first"}, {r.Most > 0, fmt.Sprintf("at most %d", r.Most)},
		{r.Between != "", "one separator"},
	} {
		if p.on {
			parts = append(parts, p.says)
		}
	}
	return "tags: " + strings.Join(parts, ", ")
}
