// Package rulebook reads the file that says how a shop wants its catalogue:
//
//	[headings]
//	"Art. no." = "sku"
//
//	[columns]
//	drop = ["Int. memo"]
//
//	[[rows]]
//	keep = { sku = { starts = "LRA-" } }
//
// It is TOML 1.0, and strict: a key that is not known, or a value of the wrong kind, is an
// error that says where it stands. The package knows no section: it decodes into those that
// it is handed, and writes their reference.
package rulebook

import (
	"bytes"
	"cmp"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"reflect"
	"slices"
	"strings"
	"sync"

	"github.com/pelletier/go-toml/v2"

	"zetanum/core/catalogue"
	"zetanum/core/text"
)

// Name is the file that is looked for where none is named.
const Name = "zetanum.toml"

// NameFrom returns the name of a file so that it is found from a folder.
func NameFrom(file, folder string) (string, error) {
	whole, err := filepath.Abs(file)
	if err != nil {
		return "", err
	}
	if folder, err = filepath.Abs(folder); err != nil {
		return "", err
	}
	if near, err := filepath.Rel(folder, whole); err == nil {
		return filepath.ToSlash(near), nil
	}
	return filepath.ToSlash(file), nil
}

// maxSize is the most bytes of a rulebook that are read.
const maxSize = 1 << 20

// maxTables is the most tables of a rulebook.
const maxTables = 1000

// mostSaid is how many characters of a rulebook an error repeats.
const mostSaid = 800

// A Section is a part of a rulebook with a name of its own, as far as reading it goes.
type Section interface {
	// Parts describe its tables: the section itself, and those in it.
	Parts() []Part
	// Tables are what its tables are decoded into; nearly always there is one.
	Tables() []Table
	// Check returns what is wrong with its values, whatever the sheet.
	Check() []Problem
}

// A Table is a table of the file, and a pointer to what it is decoded into.
type Table struct {
	Name string
	Into any
}

// Load reads a rulebook into its sections. The error wraps [ErrWrong] if the rulebook is at
// fault, and says where. What the values say is not looked at yet: that is for
// [Rulebook.Check].
func Load(path string, sections []Section) (*Rulebook, error) {
	content, err := read(path)
	if err != nil {
		return nil, err
	}
	return Parse(path, content, sections)
}

// made is held while a type is made: those who parse at the same time get the same one, and none may see it half made.
var made sync.Mutex

// Parse is [Load] for a text that need not stand in the file yet.
func Parse(path string, content []byte, sections []Section) (*Rulebook, error) {
	r := &Rulebook{Path: path, sections: sections, lines: linesOf(content)}
	if n := r.tables(); n > maxTables {
		return nil, &Error{File: path, Text: fmt.Sprintf("there are %d rules, and more than %d are no rulebook; long lists of words "+
			"belong in a sheet, for [[expand]] or [[derive]]", n, maxTables)}
	}
	var fields []reflect.StructField
	var tables []Table
	for _, s := range sections {
		tables = append(tables, s.Tables()...)
	}
	for i, t := range tables {
		fields = append(fields, reflect.StructField{
			Name: fmt.Sprintf("T%d", i), Type: reflect.TypeOf(t.Into), Tag: reflect.StructTag(fmt.Sprintf("toml:%q", t.Name)),
		})
	}
	made.Lock()
	file := reflect.New(reflect.StructOf(fields))
	made.Unlock()
	for i, t := range tables {
		file.Elem().Field(i).Set(reflect.ValueOf(t.Into))
	}
	if err := toml.NewDecoder(bytes.NewReader(content)).DisallowUnknownFields().Decode(file.Interface()); err != nil {
		return nil, r.explain(err)
	}
	return r, nil
}

func read(path string) ([]byte, error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	content, err := io.ReadAll(io.LimitReader(f, maxSize+1))
	if err == nil && len(content) > maxSize {
		err = &Error{File: path, Text: "it has more than a megabyte, which no rulebook has"}
	}
	return content, err
}

// A Rulebook is one that has been read. It knows where in the file everything stands.
type Rulebook struct {
	Path     string
	sections []Section
	lines    map[string]int
}

// tables returns how many tables there are.
func (r *Rulebook) tables() (n int) {
	for at := range r.lines {
		if strings.HasSuffix(at, "\x00") {
			n++
		}
	}
	return n
}

// Has reports whether the file has a table of that name.
func (r *Rulebook) Has(table string) bool { return r.lines[place(table, 1, "")] > 0 }

// At says where a problem stands.
func (r *Rulebook) At(p Problem) *Error {
	e := &Error{Problem: p, Line: p.line(r)}
	if r != nil {
		e.File = r.Path
		if part := r.part(strings.Split(p.Part, ".")); part != nil {
			e.several = strings.HasPrefix(part.Line, "[[")
		}
		if r.lines[place(p.Part, 2, "")] == 0 {
			e.N = 0 // the only one
		}
	}
	return e
}

func (p *Problem) line(r *Rulebook) int {
	if r == nil {
		return 0
	}
	n := max(p.N, 1)
	for _, at := range []string{place(p.Part, n, p.Key), place(p.Part, n, ""), place(p.Key, 1, "")} {
		if line := r.lines[at]; line > 0 {
			return line
		}
	}
	return 0
}

// Check returns an error that names what is wrong with the values of the sections, in the order of
// the lines, nil if nothing is.
func (r *Rulebook) Check() error {
	var all Errors
	for _, s := range r.sections {
		for _, p := range s.Check() {
			all = append(all, r.At(p))
		}
	}
	if len(all) == 0 {
		return nil
	}
	slices.SortStableFunc(all, func(a, b *Error) int {
		return cmp.Or(cmp.Compare(a.Line, b.Line), strings.Compare(a.Key, b.Key), strings.Compare(a.Problem.Text, b.Problem.Text))
	})
	return all
}

// explain says where in the file an error of the decoder is, and what would be right.
func (r *Rulebook) explain(err error) error {
	var strict *toml.StrictMissingError
	if errors.As(err, &strict) {
		first := strict.Errors[0]
		row, col := first.Position()
		return &Error{File: r.Path, Line: row, Column: col, Shown: catalogue.Shorten(first.String(), mostSaid),
			Text: fmt.Sprintf("there is no key %q%s; the command ‹help jobs› shows how jobs are done", catalogue.Shorten(strings.Join(first.Key(), "."), 80), r.suggest(first.Key()))}
	}
	var wrong *toml.DecodeError
	if errors.As(err, &wrong) {
		row, col := wrong.Position()
		said := catalogue.Shorten(strings.TrimPrefix(wrong.Error(), "toml: "), mostSaid)
		if k := r.find(wrong.Key()); k != nil {
			said += "; for example " + strings.ReplaceAll(k.Example, "\n", " ")
		}
		return &Error{File: r.Path, Line: row, Column: col, Text: said, Shown: catalogue.Shorten(wrong.String(), mostSaid)}
	}
	return &Error{File: r.Path, Text: err.Error()}
}

// suggest names the known key that is nearest, with an example.
func (r *Rulebook) suggest(key []string) string {
	var names []string
	in, last := r.part(key[:len(key)-1]), key[len(key)-1]
	switch {
	case in != nil:
		names = in.names()
	case len(key) == 1:
		for _, s := range r.sections {
			for _, t := range s.Tables() {
				names = append(names, t.Name)
			}
		}
	}
	best := text.Nearest(last, names)
	if best == "" {
		return "; known there: " + strings.Join(names, " ")
	}
	if in != nil {
		return fmt.Sprintf(" (did you mean %q? For example: %s)", best, strings.ReplaceAll(in.key(best).Example, "\n", " "))
	}
	return fmt.Sprintf(" (did you mean %q?)", best)
}

// part returns the description of the table that a path of keys leads to, nil if there is
// none. In one that is named by the user, [field.NAME], the name does not count.
func (r *Rulebook) part(path []string) *Part {
	name := strings.Join(path, ".")
	for _, s := range r.sections {
		parts := s.Parts()
		for i := range parts {
			if own := len(path) == 2 && parts[i].Named && parts[i].Name == path[0]; parts[i].Name == name || own {
				return &parts[i]
			}
		}
		for _, t := range s.Tables() {
			if t.Name == name && len(parts) > 0 {
				return &parts[0] // by another name
			}
		}
	}
	return nil
}

func (r *Rulebook) find(path []string) *Key {
	if len(path) < 2 {
		return nil
	}
	if p := r.part(path[:len(path)-1]); p != nil {
		return p.key(path[len(path)-1])
	}
	return nil
}
