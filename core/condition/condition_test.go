package condition

import (
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

func TestNumber(t *testing.T) {
	for cell, want := range map[string]float64{"12.50": 12.5, "12,50": 12.5, "1,234.50": 1234.5, "1.234,50": 1234.5, " 7 ": 7, "-3": -3} {
		got, ok := number(cell)
		assert.True(t, ok, cell)
		assert.Equal(t, want, got, cell)
	}
	for _, cell := range []string{"", "x", "12 kg", "0x10", "inf", "nan"} {
		_, ok := number(cell)
		assert.False(t, ok, cell)
	}
}
