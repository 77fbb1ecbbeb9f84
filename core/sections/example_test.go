package sections_test

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"zetanum/core/sections"
)

// A rulebook is read from a file; what it says is checked before any sheet is read.
func ExampleLoad() {
	dir, _ := os.MkdirTemp("", "example-")
	defer os.RemoveAll(dir)
	path := filepath.Join(dir, "zetanum.toml")
	os.WriteFile(path, []byte("[columns]\ndrop = [\"Memo\"]\n\n[[replace]]\nin = [\"title\"]\nfind = \"S/S\"\nwith = \"stainless steel\"\n"), 0o666)
	book, err := sections.Load(path)
	fmt.Println(book.Columns.Drop, book.Replace[0].With, err)
	os.WriteFile(path, []byte("[[replace]]\nin = [\"title\"]\n"), 0o666)
	_, err = sections.Load(path)
	fmt.Println(strings.ReplaceAll(err.Error(), dir+string(filepath.Separator), ""))
	// Output:
	// [Memo] stainless steel <nil>
	// zetanum.toml, line 1: the rulebook is wrong: [[replace]] find: each [[replace]] has either find or pattern
}
