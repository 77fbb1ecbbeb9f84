package condition

import (
	"slices"

	"zetanum/core/catalogue"
)

// A RowRule keeps the rows of some products, or sets them aside: [[rows]].
type RowRule struct {
	// Keep is a condition: products of which no row fulfils it are set aside.
	Keep map[string]any `toml:"keep" json:"keep,omitempty"`
	// Aside is a condition: products of which a row fulfils it are set aside.
	Aside map[string]any `toml:"aside" json:"aside,omitempty"`
	// OnePer names a field or heading: of the rows that have the same in it, one is
	// kept and the others are set aside.
	OnePer string `toml:"one_per" json:"one_per,omitempty"`
	// Choose says which: first, last or fullest; first if nothing is said.
	Choose string `toml:"choose" json:"choose,omitempty"`
	// Count, if not 0, is how many rows must be kept, or set aside; with another
	// number nothing is written.
	Count int `toml:"count" json:"count,omitempty"`
}

// SheetRules are about all rows of a sheet: [sheet].
type SheetRules struct {
	// Repeats says what becomes of rows that are the same as another in every
	// cell: set-aside, keep or hold; set-aside if nothing is said.
	Repeats string `toml:"repeats" json:"repeats,omitempty"`
	// SortBy names fields or headings by which the products are sorted.
	SortBy []string `toml:"sort_by" json:"sort_by,omitempty"`
	// RowNumbers names a column that takes the number that each row has in the source.
	RowNumbers string `toml:"row_numbers" json:"row_numbers,omitempty"`
	// HiddenRows says what becomes of rows that a workbook does not show: keep or
	// set-aside; they are kept if nothing is said.
	HiddenRows string `toml:"hidden_rows" json:"hidden_rows,omitempty"`
	// HiddenColumns says what becomes of columns that it does not show: keep or drop.
	HiddenColumns string `toml:"hidden_columns" json:"hidden_columns,omitempty"`
	// FillMerged fills what a merged cell says into all rows that it reaches over;
	// codes excepted.
	FillMerged bool `toml:"fill_merged" json:"fill_merged,omitempty"`
}

// repeats are what repeats can say.
var repeats = []string{"set-aside", "keep", "hold"}

// Check returns what is wrong with the rules.
func (r *SheetRules) Check() (problems []catalogue.Problem) {
	if r.Repeats != "" && !slices.Contains(repeats, r.Repeats) {
		problems = append(problems, catalogue.Problem{Key: "repeats", Text: "is set-aside, keep or hold"})
	}
	if h := r.HiddenRows; h != "" && h != "keep" && h != "set-aside" {
		problems = append(problems, catalogue.Problem{Key: "hidden_rows", Text: "is keep or set-aside"})
	}
	if h := r.HiddenColumns; h != "" && h != "keep" && h != "drop" {
		problems = append(problems, catalogue.Problem{Key: "hidden_columns", Text: "is keep or drop"})
	}
	return problems
}

// Choices are what choose can say.
var Choices = []string{"first", "last", "fullest"}

// Check returns what is wrong with the rule.
func (r *RowRule) Check() (problems []catalogue.Problem) {
	wrong := func(key, text string) { problems = append(problems, catalogue.Problem{Key: key, Text: text}) }
	said := 0
	for _, yes := range []bool{r.Keep != nil, r.Aside != nil, r.OnePer != ""} {
		if yes {
			said++
		}
	}
	switch {
	case said != 1:
		wrong("keep", `each [[rows]] has one of keep, aside and one_per, for example keep = { sku = { starts = "LRA-" } }`)
	case r.Count < 0:
		wrong("count", "count is a number of rows, 1 or more")
	case r.OnePer == "" && len(r.Keep)+len(r.Aside) == 0:
		wrong("keep", "the condition is empty")
	case r.OnePer != "" && r.Count > 0:
		wrong("count", "goes with keep or aside; the rows that one_per sets aside are counted in the summary")
	case r.OnePer == "" && r.Choose != "":
		wrong("choose", "goes with one_per")
	case r.Choose != "" && !slices.Contains(Choices, r.Choose):
		wrong("choose", "is first, last or fullest")
	}
	return problems
}

// Compile returns the condition, whether products that fulfil it are kept, and
// the rule in words.
func (r *RowRule) Compile(column Resolver) (c *Condition, keep bool, words string, err error) {
	table, words, keep := r.Aside, "aside = ", r.Keep != nil
	if keep {
		table, words = r.Keep, "keep = "
	}
	if c, err = Parse(table, column); err != nil {
		return nil, keep, "", err
	}
	return c, keep, words + c.String(), nil
}
