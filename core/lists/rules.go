// Package lists holds values to lists of them: which there may be, how each is spelt and which others
// mean it, what short codes stand for, and which known value a slip is nearest to.
package lists

import (
	"fmt"
	"path/filepath"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/condition"
	"zetanum/core/heading"
	"zetanum/core/text"
)

// A FieldRule says what the cells of a field must be: [field.NAME]. With a type
// it declares a field of the shop's own.
type FieldRule struct {
	// Type is the kind of a field of the shop's own: text, code, number, price, measure, yes/no,
	// date, list, html or link.
	Type string `toml:"type" json:"type,omitempty"`
	// Required says that no product may be without it.
	Required bool `toml:"required" json:"required,omitempty"`
	// Languages are those in which no product may be without it, by their codes: "en", "de".
	Languages []string `toml:"languages" json:"languages,omitempty"`
	// Unique says that no two products may have the same.
	Unique bool `toml:"unique" json:"unique,omitempty"`
	// Longest and Shortest are numbers of characters.
	Longest int `toml:"longest" json:"longest,omitempty"`
	// CountIn is what they are numbers of, as the target counts: see [text.CountIn]; characters as people see them if it is empty.
	CountIn  string `toml:"count_in" json:"count_in,omitempty"`
	Shortest int    `toml:"shortest" json:"shortest,omitempty"`
	// OneOf are the only values that it may have.
	OneOf []string `toml:"one_of" json:"one_of,omitempty"`
	// OneOfFrom is a sheet that has them, in the column OneOfColumn or else the
	// first, of the sheet OneOfSheet of a workbook.
	OneOfFrom   string `toml:"one_of_from" json:"one_of_from,omitempty"`
	OneOfColumn string `toml:"one_of_column" json:"one_of_column,omitempty"`
	OneOfSheet  string `toml:"one_of_sheet" json:"one_of_sheet,omitempty"`
	// Unify brings spellings of one value that differ in case, spaces and
	// punctuation to the one that most rows have.
	Unify bool `toml:"unify" json:"unify,omitempty"`
	// IfOpen says what becomes of cells that cannot be settled: hold, blank or keep.
	IfOpen string `toml:"if_open" json:"if_open,omitempty"`
	condition.Meant
}

// ofKinds are the kinds of field that keys go with, where that is not all of them: how long an
// amount is written, or how a date is spelt, is not for lists and lengths to say.
var ofKinds = map[string][]catalogue.Kind{
	"longest":   {catalogue.LineKind, catalogue.CodeKind, catalogue.ListKind, catalogue.HTMLKind, catalogue.LinkKind},
	"count_in":  {catalogue.LineKind, catalogue.CodeKind, catalogue.ListKind, catalogue.HTMLKind, catalogue.LinkKind},
	"shortest":  {catalogue.LineKind, catalogue.CodeKind, catalogue.ListKind, catalogue.HTMLKind, catalogue.LinkKind},
	"unify":     {catalogue.LineKind, catalogue.ListKind},
	"languages": {catalogue.LineKind, catalogue.ListKind, catalogue.HTMLKind},
}

// ifOpen are what can become of cells that cannot be settled.
var ifOpen = []string{"hold", "blank", "keep"}

// KindsOf returns the kinds of field that a key of [field.NAME] goes with; nil if it goes with all.
func KindsOf(key string) []catalogue.Kind { return ofKinds[key] }

func kindNames(kinds []catalogue.Kind) (names []string) {
	for _, k := range kinds {
		names = append(names, k.String())
	}
	return names
}

// said returns those of the keys that not all kinds of field have which the rule has.
func (r *FieldRule) said() (keys []string) {
	for key, has := range map[string]bool{"longest": r.Longest != 0, "count_in": r.CountIn != "", "shortest": r.Shortest != 0, "unify": r.Unify, "languages": r.Languages != nil} {
		if has {
			keys = append(keys, key)
		}
	}
	slices.Sort(keys)
	return keys
}

// Check returns what is wrong with the rule of the field of that name.
func (r *FieldRule) Check(name string) (problems []catalogue.Problem) {
	wrong := func(key, format string, args ...any) {
		problems = append(problems, catalogue.Problem{Key: key, Text: fmt.Sprintf(format, args...)})
	}
	_, known := catalogue.ParseField(name)
	own, kind := catalogue.ParseKind(r.Type)
	switch {
	case known && r.Type != "":
		wrong("type", "the field %s has its type already; only a field of your own is given one", name)
	case !known && r.Type == "":
		wrong("type", "%s is no field that is known%s; one of your own needs a type: %s", name,
			text.DidYouMean(name, catalogue.FieldNames()), strings.Join(catalogue.KindNames(), ", "))
	case !known && !kind:
		wrong("type", "there is no type %q; the types are: %s", r.Type, strings.Join(catalogue.KindNames(), ", "))
	}
	if known {
		f, _ := catalogue.ParseField(name)
		own = f.Kind()
	}
	if r.IfOpen != "" && !slices.Contains(ifOpen, r.IfOpen) {
		wrong("if_open", "there is no %q; it can be %s", r.IfOpen, strings.Join(ifOpen, ", "))
	}
	for _, key := range r.said() {
		if kinds := KindsOf(key); own != catalogue.AnyKind && kinds != nil && !slices.Contains(kinds, own) {
			wrong(key, "does not go with a field of type %s; it goes with %s", own, strings.Join(kindNames(kinds), ", "))
		}
	}
	for _, code := range r.Languages {
		if !slices.Contains(heading.Tongues(), code) {
			wrong("languages", "there is no language %q; the languages are: %s", code, strings.Join(heading.Tongues(), ", "))
		}
	}
	switch {
	case r.CountIn != "" && !slices.Contains(text.CountIn, r.CountIn):
		wrong("count_in", "is one of %s", strings.Join(text.CountIn, ", "))
	case r.Longest < 0 || r.Shortest < 0:
		wrong("longest", "longest and shortest are numbers of characters, 1 or more")
	case r.Longest > 0 && r.Shortest > r.Longest:
		wrong("shortest", "no text has at least %d and at most %d characters", r.Shortest, r.Longest)
	}
	if len(r.OneOf) > 0 && r.OneOfFrom != "" {
		wrong("one_of_from", "the values are in one_of already; use one of the two")
	}
	if r.OneOfFrom == "" && r.OneOfColumn+r.OneOfSheet != "" {
		wrong("one_of_from", "names the file in which that column is")
	}
	if r.Unify && (len(r.OneOf) > 0 || r.OneOfFrom != "") {
		wrong("unify", "the list says already how each value is written")
	}
	return problems
}

// An ExpandRule writes short codes out: [[expand]].
type ExpandRule struct {
	condition.Fields
	// List is a sheet with the codes in its first column and what they stand for
	// in its second one; Sheet is its name in a workbook.
	List  string `toml:"list" json:"list,omitempty"`
	Sheet string `toml:"sheet" json:"sheet,omitempty"`
	// At is the text between several codes in one cell.
	At string `toml:"at" json:"at,omitempty"`
	condition.Scope
}

// Check returns what is wrong with the rule whatever the sheet.
func (r *ExpandRule) Check() (problems []catalogue.Problem) {
	switch {
	case len(r.In) == 0:
		problems = append(problems, catalogue.Problem{Key: "in", Text: `names the fields, for example in = ["material"]`})
	case r.List == "":
		problems = append(problems, catalogue.Problem{Key: "list",
			Text: `names a sheet of two columns, for example list = "materials.csv"`})
	}
	return append(problems, r.Scope.Check()...)
}

// String says the rule in words.
func (r *ExpandRule) String() string {
	return fmt.Sprintf("expand %s from %s", strings.Join(r.In, ", "), filepath.Base(r.List))
}

// A DeriveRule fills a field from a word that is found in texts: [[derive]].
type DeriveRule struct {
	// Into names the column, which is filled where it is empty, and added if it is
	// not there.
	Into string `toml:"into" json:"into,omitempty"`
	// From names the fields or headings in whose texts the words are looked for.
	From []string `toml:"from" json:"from,omitempty"`
	// List is a sheet with the words in its first column and the values in its
	// second one; Sheet is its name in a workbook.
	List  string `toml:"list" json:"list,omitempty"`
	Sheet string `toml:"sheet" json:"sheet,omitempty"`
	// Choose says which value it is where words for several are found: [FirstInList].
	Choose string `toml:"choose" json:"choose,omitempty"`
	// Otherwise is the value where no word is found.
	Otherwise string `toml:"otherwise" json:"otherwise,omitempty"`
	condition.Scope
}

// FirstInList chooses of several values the one that stands first in the list.
const FirstInList = "first-in-list"

// Check returns what is wrong with the rule whatever the sheet.
func (r *DeriveRule) Check() (problems []catalogue.Problem) {
	if r.Choose != "" && r.Choose != FirstInList {
		problems = append(problems, catalogue.Problem{Key: "choose", Text: `is "` + FirstInList + `"; without it rows in which words for several values are found stay empty`})
	}
	switch {
	case r.Into == "" || len(r.From) == 0:
		problems = append(problems, catalogue.Problem{Key: "into",
			Text: `each [[derive]] has into and from, for example into = "category", from = ["title"]`})
	case r.List == "":
		problems = append(problems, catalogue.Problem{Key: "list",
			Text: `names a sheet of two columns, for example list = "categories.csv"`})
	}
	return append(problems, r.Scope.Check()...)
}

// String says the rule in words.
func (r *DeriveRule) String() string {
	return fmt.Sprintf("derive \"%s\" from %s by %s", catalogue.OneLine(r.Into), strings.Join(r.From, ", "), filepath.Base(r.List))
}
