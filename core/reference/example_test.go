package reference_test

import (
	"fmt"
	"os"
	"path/filepath"

	"zetanum/core/reference"
	"zetanum/core/sheet"
)

// A sheet that is trusted says which code a product has, by its SKU.
func ExampleLoad() {
	dir, _ := os.MkdirTemp("", "example-")
	defer os.RemoveAll(dir)
	path := filepath.Join(dir, "stock-take.csv")
	os.WriteFile(path, []byte("SKU,EAN\nSM0001,9521234000013\nSM0002,9.52123E+12\n"), 0o666)
	trusted, err := reference.Load(path, sheet.Options{Spool: dir})
	if err != nil {
		fmt.Println(err)
		return
	}
	for _, sku := range []string{"SM0001", "sm0001", "SM0002"} {
		answer := reference.Sheets{trusted}.Look(reference.Key{SKU: sku})
		fmt.Printf("%s %v %q\n", sku, answer.State == reference.Found, answer.Code.String())
	}
	// Output:
	// SM0001 true "9521234000013"
	// sm0001 false ""
	// SM0002 false ""
}
