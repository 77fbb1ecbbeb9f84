package pattern_test

import (
	"fmt"

	"zetanum/core/catalogue"
	"zetanum/core/pattern"
)

// A text is built from the cells of a row; what stands in square brackets falls away with an empty cell.
func Example() {
	p, err := pattern.Parse("{brand} {title}[, {colour}]")
	if err != nil {
		fmt.Println(err)
		return
	}
	place := map[string]int{"brand": 0, "title": 1, "colour": 2}
	p.Bind(func(name string) int { return place[name] }, func(int) bool { return false })
	for _, cells := range [][]string{{"Linden Row", "Smoker", "copper"}, {"Linden Row", "Smoker", ""}} {
		text, _ := p.Text(&catalogue.Row{Cells: cells})
		fmt.Println(text)
	}
	// Output:
	// Linden Row Smoker, copper
	// Linden Row Smoker
}
