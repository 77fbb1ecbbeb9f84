// Package demo holds the demo catalogue: what Linden Row Apiary Supply, a
// made-up shop for beekeepers, was sent by its suppliers. Package generate,
// below it, makes the files.
package demo

import (
	"bytes"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
)

//go:embed files/*
var files embed.FS

// ErrOccupied says that the folder holds something that is not the demo's.
var ErrOccupied = errors.New("the folder holds something else")

// Names returns the names of the files, in the order of the alphabet.
func Names() []string {
	entries, err := fs.ReadDir(files, "files")
	if err != nil {
		panic(err) // embedded, so it is there
	}
	var names []string
	for _, e := range entries {
		names = append(names, e.Name())
	}
	slices.Sort(names)
	return names
}

// Read returns the content of a file.
func Read(name string) ([]byte, error) { return files.ReadFile("files/" + name) }

// isRegister reports whether a file is the register that the example makes, or what belongs to it.
func isRegister(name string) bool { return strings.HasPrefix(name, "own-make.register") }

// Lay writes the demo catalogue into a folder, which it makes if there is
// none. A folder that holds anything but the demo's own files, unchanged, and
// the folders that repairing them makes is left alone: [ErrOccupied].
func Lay(dir string) error {
	if err := os.MkdirAll(dir, 0o777); err != nil {
		return err
	}
	entries, err := os.ReadDir(dir)
	if err != nil {
		return err
	}
	for _, e := range entries {
		if e.IsDir() && isRepaired(e.Name()) || !e.IsDir() && isRegister(e.Name()) {
			continue
		}
		want, err := Read(e.Name())
		if err != nil {
			return fmt.Errorf("%s: %w (%s)", dir, ErrOccupied, e.Name())
		}
		if got, err := os.ReadFile(filepath.Join(dir, e.Name())); err != nil || !bytes.Equal(got, want) {
			return fmt.Errorf("%s: %w (%s has been changed)", dir, ErrOccupied, e.Name())
		}
	}
	for _, name := range Names() {
		content, err := Read(name)
		if err != nil {
			return err
		}
		if err := os.WriteFile(filepath.Join(dir, name), content, 0o666); err != nil {
			return err
		}
	}
	return nil
}

// isRepaired reports whether a folder is one that a repair of the demo's files
// makes, a rehearsal, or a look at their links.
func isRepaired(name string) bool {
	for _, n := range Names() {
		stem := strings.TrimSuffix(n, filepath.Ext(n))
		if strings.HasPrefix(name, stem+".repaired") || strings.HasPrefix(name, stem+".links") || strings.HasPrefix(name, stem+".rehearsed") {
			return true
		}
	}
	return false
}
