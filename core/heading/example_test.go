package heading_test

import (
	"fmt"

	"zetanum/core/heading"
)

// Headings are known in many languages, and rows beside them by what they say.
func Example() {
	headings := []string{"Art.-Nr.", "EAN-Code", "Bezeichnung", "VK-Preis", "Memo"}
	fields := heading.Fields(headings, nil)
	fmt.Println(fields)
	fmt.Println(heading.Beneath([]string{"", "", "", "EUR", ""}, fields))
	fmt.Println(heading.IsTotal([]string{"Summe", "", "", "1.204,00", ""}))
	// Output:
	// [sku barcode title price ]
	// row.units
	// true
}
