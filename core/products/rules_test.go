package products

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"zetanum/core/catalogue"
)

// TestRulesCheck: what is wrong with a rule is said whatever the sheet, each at its key.
func TestRulesCheck(t *testing.T) {
	type checked interface{ Check() []catalogue.Problem }
	set := map[string]string{"sku": "{sku}-{Size}"}
	for name, test := range map[string]struct {
		rules checked
		want  string // keys, and of each some words
	}{
		"nothing": {&Rules{}, ""},
		"all": {&Rules{TogetherBy: "Set", Together: [][]string{{"A", "B"}, {"C", "D", "E"}},
			ProductFields: []string{"a"}, VariantFields: []string{"b"}, Differ: "lead", DifferIn: map[string]string{"tags": "all"},
			Misplaced: "move"}, ""},
		"a column of two levels": {&Rules{ProductFields: []string{"Season"}, ImageFields: []string{"season "}},
			"variant_fields: named twice"},
		"a list of one":          {&Rules{Together: [][]string{{"A"}}}, "together: two or more"},
		"an SKU in two lists":    {&Rules{Together: [][]string{{"A", "B"}, {"C", "A"}}}, "together: named twice"},
		"an SKU twice in a list": {&Rules{Together: [][]string{{"A", "A"}}}, "together: named twice"},
		"differ":                 {&Rules{Differ: "first"}, `differ: is "lead"`},
		"differ_in": {&Rules{DifferIn: map[string]string{"tags": "most", "brand": "lead", "type": ""}},
			`differ_in: "tags" is "lead" differ_in: "type" is "lead"`},
		"misplaced":                {&Rules{Misplaced: "lead"}, `misplaced: is "move"`},
		"images":                   {&ImageRules{As: "rows", Number: true, OfVariants: "Shown"}, ""},
		"images in cells":          {&ImageRules{As: "cell", At: "|"}, ""},
		"images anywhere":          {&ImageRules{As: "sheets"}, "as: rows, cell or columns"},
		"columns without names":    {&ImageRules{As: "columns"}, "columns: names the columns"},
		"columns, and no order":    {&ImageRules{Columns: []string{"Image 2"}}, "as: says where"},
		"at, with rows":            {&ImageRules{As: "rows", At: "|"}, `at: goes with as = "cell"`},
		"numbers in a cell":        {&ImageRules{As: "cell", Number: true}, "number: goes with rows"},
		"one row each":             {&EachRule{From: "Sizes", Into: "Size", Set: set}, ""},
		"without a column":         {&EachRule{From: "Sizes", Set: set}, "from: has from and into"},
		"without an SKU":           {&EachRule{From: "Sizes", Into: "Size"}, "set: how the SKU"},
		"a pattern that is broken": {&EachRule{From: "Sizes", Into: "Size", Set: map[string]string{"sku": "{sku"}}, "set: sku:"},
		"one row for all":          {&AllRule{From: "Size", At: " | "}, ""},
		"for nothing":              {&AllRule{}, "from: names the column"},
		"at is a space":            {&AllRule{From: "Size", At: " "}, "at: is a sign"},
		"at has two spaces":        {&AllRule{From: "Size", At: ",  "}, "at: is a sign"},
		"options":                  {&OptionsRule{From: "Options", Names: []string{"Colour", "Size"}}, ""},
		"options, and back":        {&OptionsRule{Into: "Options", Names: []string{"Colour"}}, ""},
		"three pairs":              {&OptionsRule{From: "Options", InPairs: 3}, ""},
		"too many pairs":           {&OptionsRule{From: "Options", InPairs: 13}, "in_pairs: 1 to 12"},
		"pairs, and back":          {&OptionsRule{Into: "Packed", Names: []string{"a"}, InPairs: 2}, "in_pairs: is how many"},
		"options of nothing":       {&OptionsRule{}, "from:"},
		"options both ways":        {&OptionsRule{From: "Options", Into: "Packed", Names: []string{"a"}}, "from: names the column"},
		"back without names":       {&OptionsRule{Into: "Packed"}, "names:"},
	} {
		problems := test.rules.Check()
		if test.want == "" {
			assert.Empty(t, problems, name)
			continue
		}
		var said strings.Builder
		for _, p := range problems {
			said.WriteString(p.Key + ": " + p.Text + " ")
		}
		at := 0
		for _, words := range strings.SplitAfter(test.want, " ") {
			words = strings.TrimSpace(words)
			next := strings.Index(said.String()[at:], words)
			if assert.GreaterOrEqual(t, next, 0, "%s: %q is not said in %q", name, words, said.String()) {
				at += next
			}
		}
	}
}

// TestLists: lists in one cell are taken apart at what stands between their values.
func TestLists(t *testing.T) {
	for cell, want := range map[string]string{
		"S | M | L": "S#M#L", "S;M; L": "S#M#L", "S, M": "S#M", "S\nM": "S#M", "S / M": "S#M", "S": "S", "": "",
		"S; M, L": "S#M, L", "38/40 | 42/44": "38/40#42/44", "S,,M,": "S#M", "1/2 l": "1/2 l",
	} {
		assert.Equal(t, want, strings.Join(Values(cell), "#"), cell)
	}
}
