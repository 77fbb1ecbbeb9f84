package export_test

import (
	"fmt"

	"zetanum/core/export"
)

// What is ready is written as CSV, and in other forms beside it.
func Example() {
	for _, form := range export.Forms([]string{"xlsx", "csv", "jsonl", "xlsx"}) {
		fmt.Println(export.Name(form))
	}
	// Output:
	// ready.jsonl
	// ready.xlsx
}
