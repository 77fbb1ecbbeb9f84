package catalogue_test

import (
	"fmt"

	"zetanum/core/catalogue"
)

// A finding says in a sentence what is the matter with a cell, and its entry what to do.
func Example() {
	f := catalogue.Finding{Code: catalogue.BarcodeRounded, Cell: "9.52123E+12",
		Facts: catalogue.Facts{Low: 9521225000000, High: 9521235000000, Candidates: 1000000, Digits: 6, Length: 13}}
	fmt.Println(f.Code, f.Code.Entry().Severity)
	fmt.Println(f.Sentence())
	// Output:
	// barcode.rounded error
	// Only 6 of 13 digits are left in 9.52123E+12: the code lies between 9521225000000 and 9521235000000 and is one of 1,000,000 possible codes.
}
