package condition

import (
	"fmt"
	"strings"
	"testing"

	"github.com/pelletier/go-toml/v2"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
)

func column(name string) int {
	for i, n := range []string{"sku", "title", "price", "brand"} {
		if n == name {
			return i
		}
	}
	return -1
}

func TestParse(t *testing.T) {
	row := &catalogue.Row{Cells: []string{"LRA-0007", " Hive Tool ", "12,50"}}
	for in, want := range map[string]bool{
		`sku = "lra-0007"`:                                        true,
		`sku = "LRA-0008"`:                                        false,
		`sku = { is = "lra-0007", exact = true }`:                 false,
		`sku = { is_not = "x" }`:                                  true,
		`sku = { starts = "LRA-" }`:                               true,
		`sku = { ends = "08" }`:                                   false,
		`title = "hive tool"`:                                     true,
		`title = { contains = "TOOL" }`:                           true,
		`title = { one_of = ["veil", "hive tool"] }`:              true,
		`sku = { matches = "^LRA-[0-9]{4}$" }`:                    true,
		`sku = { matches = "^lra" }`:                              false,
		`brand = { empty = true }`:                                true,
		`title = { empty = true }`:                                false,
		`price = { above = 12, below = 12.6 }`:                    true,
		`price = { above = 12.5 }`:                                false,
		`title = { above = 1 }`:                                   false,
		`title = { longer = 10 }`:                                 true,
		`title = { longer = 11 }`:                                 false,
		`sku = { starts = "LRA-" }` + "\n" + `brand = "x"`:        false,
		`any = [ { brand = "x" }, { sku = { starts = "LRA" } } ]`: true,
		`all = [ { brand = "" }, { not = { title = "veil" } } ]`:  true,
		`not = { any = [ { brand = "x" }, { title = "tool" } ] }`: true,
		`price = 12.5`:                                            false, // the cell says 12,50; numbers are compared with above and below
	} {
		c, err := Parse(decode(t, in), column)
		require.NoError(t, err, in)
		assert.Equal(t, want, c.Holds(row), "%s: %s", in, c)
	}
	c, err := Parse(decode(t, `any = [ { brand = "x" }, { not = { sku = { starts = "LRA-" } } } ]`), column)
	require.NoError(t, err)
	assert.Equal(t, "(brand is x or not (sku starts with LRA-))", c.String())
}

func TestWrong(t *testing.T) {
	for in, want := range map[string]string{
		``:                              "it is empty",
		`skuu = "x"`:                    `no column and no field "skuu"`,
		`sku = { begins = "x" }`:        `there is no test "begins"`,
		`sku = { start = "x" }`:         `did you mean "starts"?`,
		`sku = { starts = true }`:       "takes a text",
		`sku = { matches = "(" }`:       "RE2",
		`sku = { empty = "no" }`:        "true or false",
		`sku = { above = "x" }`:         "takes a number",
		`sku = { longer = "x" }`:        "whole number",
		`sku = { one_of = "x" }`:        "takes a list",
		`sku = { exact = true }`:        "no test is named",
		`sku = { is = "x", exact = 1 }`: "exact is true or false",
		`any = { sku = "x" }`:           "list of conditions",
		`all = [ "sku" ]`:               "list of conditions",
		`not = "sku"`:                   "takes a condition",
		`not = {}`:                      "it is empty",
		`any = []`:                      "list of conditions",
	} {
		_, err := Parse(decode(t, in), column)
		require.ErrorIs(t, err, ErrWrong, in)
		assert.ErrorContains(t, err, want, in)
	}
	deep := map[string]any{"sku": "x"}
	for range 50 {
		deep = map[string]any{"not": deep}
	}
	_, err := Parse(deep, column)
	assert.ErrorContains(t, err, "nested")
}

func decode(t *testing.T, in string) map[string]any {
	t.Helper()
	table := make(map[string]any)
	require.NoError(t, toml.Unmarshal([]byte(in), &table), in)
	return table
}

// TestNumbers: numbers are compared as they stand in cells, exactly.
func TestNumbers(t *testing.T) {
	for cell, want := range map[string]string{"12.50": "=", "12,50": "=", "1,234.50": ">", "1.234,50": ">", " 7 ": "<", "-3": "<",
		"12.500000000000001": ">", "1E+1": "<", "12.49999999999999999": "<"} {
		for test, is := range map[string]bool{"above": want == ">", "below": want == "<"} {
			c, err := Parse(map[string]any{"price": map[string]any{test: 12.5}}, func(string) int { return 0 })
			require.NoError(t, err)
			assert.Equal(t, is, c.Holds(&catalogue.Row{Cells: []string{cell}}), "%s %s 12.5", cell, test)
		}
	}
	for _, cell := range []string{"", "x", "12 kg", "0x10", "inf", "nan"} {
		c, err := Parse(map[string]any{"price": map[string]any{"above": int64(-5)}}, func(string) int { return 0 })
		require.NoError(t, err)
		assert.False(t, c.Holds(&catalogue.Row{Cells: []string{cell}}), cell)
	}
}

// TestIs: the fast way to compare with a text says what the slow one would.
func TestIs(t *testing.T) {
	plain := func(s string) string { return strings.ToLower(strings.TrimSpace(s)) }
	words := []string{"", "a", "A", " a ", "ab", "K", "\u212a", "ſ", "s", "S", "é", "É", "ß", "SS", "12.5", "a b", "A B ", "\ta", "İ", "i"}
	compare := map[string]func(cell, want string) bool{
		"is": func(cell, want string) bool { return cell == want }, "is_not": func(cell, want string) bool { return cell != want },
		"contains": strings.Contains, "starts": strings.HasPrefix, "ends": strings.HasSuffix,
	}
	for test, holds := range compare {
		for _, want := range words {
			for _, exact := range []bool{false, true} {
				c, err := Parse(map[string]any{"x": map[string]any{test: want, "exact": exact}}, func(string) int { return 0 })
				require.NoError(t, err)
				for _, cell := range words {
					expected := holds(plain(cell), plain(want))
					if exact {
						expected = holds(cell, want)
					}
					assert.Equal(t, expected, c.Holds(&catalogue.Row{Cells: []string{cell}}), "%q %s %q, exact %v", cell, test, want, exact)
				}
			}
		}
	}
}

// TestListed: a list is one of its values, and is said by its beginning.
func TestListed(t *testing.T) {
	column := func(string) int { return 0 }
	var list []any
	for i := range 100 {
		list = append(list, fmt.Sprint("S", i))
	}
	c, err := Parse(map[string]any{"sku": map[string]any{Listed: list}}, column)
	require.NoError(t, err)
	assert.Equal(t, "sku is in the list [S0 S1 S2 … 100 values]", c.String())
	assert.True(t, c.Holds(&catalogue.Row{Cells: []string{" s99"}}))
	assert.False(t, c.Holds(&catalogue.Row{Cells: []string{"s100"}}))
	_, err = Parse(map[string]any{"sku": map[string]any{Listed: "codes.csv"}}, column)
	assert.ErrorContains(t, err, "takes the name of a sheet", "whoever reads the rulebook has to read the list")
}

// TestRowRules: each rule about rows says one thing, and all that is wrong with it.
func TestRowRules(t *testing.T) {
	keep := map[string]any{"a": 1}
	for want, rule := range map[string]RowRule{
		"": {Keep: keep}, "has one of keep, aside and one_per": {}, "one of keep": {Keep: keep, Aside: keep},
		"one_per, for":           {Keep: keep, OnePer: "a"},
		"the condition is empty": {Keep: map[string]any{}}, "count is a number": {Keep: keep, Count: -1},
		"goes with keep or aside": {OnePer: "a", Count: 5},
		"goes with one_per":       {Keep: keep, Choose: "last"}, "is first, last or fullest": {OnePer: "a", Choose: "best"},
	} {
		problems := rule.Check()
		if want == "" {
			assert.Empty(t, problems)
			continue
		}
		require.Len(t, problems, 1, want)
		assert.Contains(t, problems[0].Text, want)
	}
}
