package target_test

import (
	"fmt"

	"zetanum/core/target"
)

// A text is fitted to the encoding of the importer; what has no place there is said.
func Example() {
	fitter := target.NewFitter(&target.Rules{Encoding: "latin1"})
	for _, s := range []string{"Küche – 5 €", "Łódź", "蜂"} {
		fitted, stood, bad, ok := fitter.Fit(s, false)
		fmt.Printf("%q %d %q %v\n", fitted, len(stood), bad, ok)
	}
	// Output:
	// "Küche – 5 €" 0 '\x00' true
	// "Lódz" 2 '\x00' true
	// "蜂" 0 '蜂' false
}
