package lists_test

import (
	"fmt"

	"zetanum/core/lists"
)

// A value is held to those that the shop has: written otherwise it is put in the shop's spelling, a
// slip away it is only likely.
func ExampleKnown() {
	brands := lists.NewKnown([]string{"Hollowbrook Joinery", "Saltmarsh Trading"})
	for _, value := range []string{"HOLLOWBROOK  JOINERY", "Saltmarsh Tradign", "Wick & Wax"} {
		found, match := brands.Match(value)
		fmt.Printf("%q %q %d\n", value, found, match)
	}
	// Output:
	// "HOLLOWBROOK  JOINERY" "Hollowbrook Joinery" 2
	// "Saltmarsh Tradign" "Saltmarsh Trading" 3
	// "Wick & Wax" "" 0
}
