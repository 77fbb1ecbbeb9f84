package symbol_test

import (
	"bytes"
	"fmt"

	"zetanum/core/barcode"
	"zetanum/internal/symbol"
)

// The bars of a code are drawn to be scanned.
func Example() {
	code, _ := barcode.Parse("9521234000013")
	drawing, err := symbol.New(code)
	if err != nil {
		fmt.Println(err)
		return
	}
	var svg bytes.Buffer
	drawing.SVG(&svg)
	fmt.Println(bytes.HasPrefix(svg.Bytes(), []byte("<svg")), bytes.Contains(svg.Bytes(), []byte("521234")))
	// Output:
	// true true
}
