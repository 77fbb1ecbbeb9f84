package distinct_test

import (
	"fmt"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/distinct"
)

// Two workers count what they see; together they count as one would have.
func Example() {
	var one, other distinct.Counter
	for _, brand := range []string{"Hollowbrook", "Saltmarsh", "Hollowbrook"} {
		one.Add(xxhash.Sum64String(brand))
	}
	other.Add(xxhash.Sum64String("Saltmarsh"))
	other.Add(xxhash.Sum64String("Wick"))
	one.Merge(&other)
	fmt.Println(one.Count())
	// Output:
	// 3 true
}
