package products_test

import (
	"fmt"

	"zetanum/core/products"
)

// How options are packed in a column is seen from its cells.
func ExampleFindPacking() {
	packing, names, ok := products.FindPacking([]string{"Colour: red; Size: S", "Colour: blue; Size: M", ""}, nil, nil)
	fmt.Println(packing, names, ok)
	pairs, err := packing.Decode("Size: L; Colour: green", names)
	fmt.Println(pairs, err)
	_, err = packing.Decode("green; L", names)
	fmt.Println(err)
	// Output:
	// NAME:VALUE; NAME:VALUE [Colour Size] true
	// [{Size L} {Colour green}] <nil>
	// it cannot be taken apart: "green" is no name with a value
}
