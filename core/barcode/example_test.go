package barcode_test

import (
	"fmt"

	"zetanum/core/barcode"
)

// A barcode is a number: its check digit fits, or it is none.
func Example() {
	code, err := barcode.Parse("9521234000013")
	fmt.Println(code, code.Kind(), code.GTIN14(), err)
	_, err = barcode.Parse("9521234000012")
	fmt.Println(err)
	full, _ := barcode.Complete("952123400001")
	fmt.Println(full)
	// How many codes a rounded cell, 9.52123E+12, may have been.
	fmt.Println(barcode.CountValid(9521225000000, 9521234999999))
	// Output:
	// 9521234000013 EAN-13 09521234000013 <nil>
	// 9521234000012: the check digit does not fit
	// 9521234000013
	// 1000000
}
