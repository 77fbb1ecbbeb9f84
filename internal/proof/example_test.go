package proof_test

import (
	"context"
	"fmt"
	"os"
	"path/filepath"

	"zetanum/core/repair"
	"zetanum/internal/proof"
)

// A run lets the review workbook be written into its folder, before the folder takes its name.
func ExampleReview() {
	dir, _ := os.MkdirTemp("", "example-")
	defer os.RemoveAll(dir)
	path := filepath.Join(dir, "list.csv")
	os.WriteFile(path, []byte("SKU,EAN\nA,9.52136E+12\n"), 0o666)
	result, err := repair.Run(context.Background(), repair.Options{Input: path, Target: repair.Target(path), Workers: 1, Temp: dir,
		Review: proof.Review})
	if err != nil {
		fmt.Println(err)
		return
	}
	info, err := os.Stat(filepath.Join(result.Folder, proof.ReviewName))
	fmt.Println(info.Name(), info.Size() > 0, result.Heading(1), err)
	// Output:
	// review.xlsx true EAN <nil>
}
