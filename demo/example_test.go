package demo_test

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"

	"zetanum/demo"
)

// The demo catalogue is laid out in a folder of its own; one that holds anything else is left alone.
func ExampleLay() {
	dir, _ := os.MkdirTemp("", "example-")
	defer os.RemoveAll(dir)
	fmt.Println(demo.Lay(filepath.Join(dir, "demo")))
	_, err := os.Stat(filepath.Join(dir, "demo", "saltmarsh-export.csv"))
	fmt.Println(err)
	os.WriteFile(filepath.Join(dir, "mine.txt"), nil, 0o666)
	fmt.Println(errors.Is(demo.Lay(dir), demo.ErrOccupied))
	// Output:
	// <nil>
	// <nil>
	// true
}
