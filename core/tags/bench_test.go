package tags

import (
	"fmt"
	"testing"

	"zetanum/core/lists"
)

// BenchmarkTidy: cells that need nothing, and some that do; with no rule but the separator, with all of them, and with 50,000 aliases.
func BenchmarkTidy(b *testing.B) {
	many := make(map[string]string)
	for i := range 50_000 {
		many[fmt.Sprint("alias ", i)] = fmt.Sprint("Tag ", i%500)
	}
	all := Rules{Between: ", ", Case: "lower", Forbidden: []string{"sale"}, Order: Alphabetical, Most: 13, Inside: Quote}
	aliased := all
	aliased.Aliases = many
	cells := []string{"bees, smoker, tool", "garden, hive, oak, workshop", "bees, tool, veil", "gift", "Tool, BEES,smoker,, tool"}
	for _, test := range []struct {
		name  string
		rules Rules
	}{{"separator", Rules{Between: ", "}}, {"all", all}, {"aliases", aliased}} {
		t, err := test.rules.NewTidier(lists.Form{At: ","}, nil, nil, nil)
		if err != nil {
			b.Fatal(err)
		}
		b.Run(test.name, func(b *testing.B) {
			b.ReportAllocs()
			for i := range b.N {
				if cell := cells[i%len(cells)]; !t.Stays(cell, nil) {
					t.Write(t.Tidy(cell, nil, nil).Tags)
				}
			}
		})
	}
}
