// Package rulebook reads the file that says how a shop wants its catalogue:
//
//	[barcode]
//	accept   = ["ean-13", "upc-a"]
//	trusted  = ["stock-take.xlsx"]
//	write_as = "ean-13"
//
// It is TOML 1.0, and strict: a key that is not known, or a value of the wrong
// kind, is an error that says where it stands. Each room of the program owns
// its part of the rulebook; names of files are relative to the rulebook.
package rulebook

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"github.com/pelletier/go-toml/v2"

	"zetanum/core/catalogue"
	"zetanum/core/rescue"
)

// Name is the file that is looked for where none is named.
const Name = "zetanum.toml"

// ErrWrong is wrapped by every error about what a rulebook says.
var ErrWrong = errors.New("the rulebook is wrong")

// A Book is a rulebook.
type Book struct {
	Path    string       `toml:"-"`
	Barcode rescue.Rules `toml:"barcode"`
}

// Find returns the rulebook that belongs to an input: zetanum.toml beside it or
// in the working folder; "" if there is none.
func Find(input string) string {
	places := []string{Name}
	if input != "-" {
		places = []string{filepath.Join(filepath.Dir(input), Name), Name}
	}
	for _, p := range places {
		if info, err := os.Stat(p); err == nil && info.Mode().IsRegular() {
			return p
		}
	}
	return ""
}

// Load reads a rulebook and checks what it says.
func Load(path string) (*Book, error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	book := &Book{Path: path, Barcode: rescue.Rules{}.Default()}
	if err := toml.NewDecoder(f).DisallowUnknownFields().Decode(book); err != nil {
		return nil, explain(path, err)
	}
	var problems []string
	for _, p := range book.Barcode.Check() {
		problems = append(problems, say("barcode", p))
	}
	if len(problems) > 0 {
		return nil, fmt.Errorf("%s: %w: %s", path, ErrWrong, strings.Join(problems, "; "))
	}
	for i, name := range book.Barcode.Trusted {
		if !filepath.IsAbs(name) {
			book.Barcode.Trusted[i] = filepath.Join(filepath.Dir(path), name)
		}
	}
	return book, nil
}

func say(part string, p catalogue.Problem) string {
	return fmt.Sprintf("[%s] %s: %s", part, p.Key, p.Text)
}

// explain says where in the file an error of the decoder is.
func explain(path string, err error) error {
	var strict *toml.StrictMissingError
	if errors.As(err, &strict) {
		first := strict.Errors[0]
		row, col := first.Position()
		return fmt.Errorf("%s, line %d, column %d: %w: there is no key %q\n%s", path, row, col, ErrWrong, strings.Join(first.Key(), "."), first.String())
	}
	var wrong *toml.DecodeError
	if errors.As(err, &wrong) {
		row, col := wrong.Position()
		return fmt.Errorf("%s, line %d, column %d: %w: %s\n%s", path, row, col, ErrWrong, strings.TrimPrefix(wrong.Error(), "toml: "), wrong.String())
	}
	return fmt.Errorf("%s: %w: %v", path, ErrWrong, err)
}
