package condition_test

import (
	"fmt"

	"zetanum/core/catalogue"
	"zetanum/core/condition"
)

// A condition is a table of a rulebook: where = { price = { above = 5 }, brand = "Linden Row" }.
func Example() {
	where, err := condition.Parse(map[string]any{"brand": "Linden Row", "price": map[string]any{"above": int64(5)}},
		func(name string) int { return map[string]int{"brand": 0, "price": 1}[name] })
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Println(where)
	for _, cells := range [][]string{{"linden row", "5.01"}, {"Linden Row", "4,99"}, {"Other", "1,200.00"}} {
		fmt.Println(cells, where.Holds(&catalogue.Row{Cells: cells}))
	}
	// Output:
	// brand is Linden Row and price is above 5
	// [linden row 5.01] true
	// [Linden Row 4,99] false
	// [Other 1,200.00] false
}
