// Command generate writes the demo catalogue, the files under demo/files: what
// Linden Row Apiary Supply, a made-up shop for beekeepers, was sent by three
// made-up suppliers, and its own stock-take. Everything follows from one seed.
package main

import (
	"fmt"
	"log"
	"os"
	"path/filepath"
)

func main() {
	files, err := Files()
	if err != nil {
		log.Fatal(err)
	}
	for name, content := range files {
		if err := os.WriteFile(filepath.Join("demo", "files", name), content, 0o666); err != nil {
			log.Fatal(err)
		}
		fmt.Println(name, len(content), "bytes")
	}
}
