package folder_test

import (
	"fmt"
	"os"
	"path/filepath"

	"zetanum/core/folder"
)

// An output folder appears whole or not at all, and one in which somebody has edited a file is not
// replaced.
func Example() {
	dir, _ := os.MkdirTemp("", "example-")
	defer os.RemoveAll(dir)
	target := filepath.Join(dir, "list.repaired")
	for range 2 {
		job, err := folder.Begin(target)
		if err != nil {
			fmt.Println(err)
			return
		}
		os.WriteFile(filepath.Join(job.Dir(), "ready.csv"), []byte("SKU\nA\n"), 0o666)
		at, err := job.Commit(map[string]string{"source": "list.csv"})
		fmt.Println(filepath.Base(at.Folder), len(at.Edited), err)
		os.WriteFile(filepath.Join(target, "ready.csv"), []byte("SKU\nB\n"), 0o666) // somebody edits it
	}
	// Output:
	// list.repaired 0 <nil>
	// list.repaired-2 1 <nil>
}
