package sheet_test

import (
	"fmt"
	"os"
	"path/filepath"

	"zetanum/core/catalogue"
	"zetanum/core/sheet"
)

// A table is found in a file, whatever stands above it, and read row by row.
func ExampleOpen() {
	dir, _ := os.MkdirTemp("", "example-")
	defer os.RemoveAll(dir)
	path := filepath.Join(dir, "list.csv")
	os.WriteFile(path, []byte("Price list, autumn;;\r\n;;\r\nArt. no.;EAN;Designation\r\nA1;9521234000013;\"Smoker; copper\"\r\n"), 0o666)
	table, err := sheet.Open(path, sheet.Options{Spool: dir})
	if err != nil {
		fmt.Println(err)
		return
	}
	defer table.Close()
	fmt.Println(table.Heading, table.Columns.Headings, table.Columns.Fields)
	table.Each(func() {}, func(row *catalogue.Row) { fmt.Printf("%d %q\n", row.Number, row.Cells) })
	// Output:
	// 3 [Art. no. EAN Designation] [sku barcode title]
	// 4 ["A1" "9521234000013" "Smoker; copper"]
}
