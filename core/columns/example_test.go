package columns_test

import (
	"fmt"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
)

// Columns are named by heading or by field.
func ExampleFind() {
	sheet := &catalogue.Columns{Headings: []string{"Art. no.", "EAN", "Memo"}, Fields: []catalogue.Field{catalogue.SKU, catalogue.Barcode, 0}}
	fmt.Println(columns.Find(sheet, "barcode"), columns.Find(sheet, "art. NO."), columns.Find(sheet, "price"))
	fmt.Println(columns.NotThere(sheet, "[columns] drop", "Memos"))
	// Output:
	// 1 0 -1
	// the columns of this file are not those of the rulebook: [columns] drop names "Memos", which is not there (did you mean "Memo"?); the headings are: Art. no., EAN, Memo
}
