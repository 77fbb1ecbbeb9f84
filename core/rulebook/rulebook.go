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
//	[barcode]
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
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/pelletier/go-toml/v2"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/condition"
	"zetanum/core/fetch"
	"zetanum/core/heading"
	"zetanum/core/lists"
	"zetanum/core/pattern"
	"zetanum/core/products"
	"zetanum/core/reference"
	"zetanum/core/rescue"
	"zetanum/core/target"
	"zetanum/core/text"
	"zetanum/core/wording"
)

// Name is the file that is looked for where none is named.
const Name = "zetanum.toml"

// maxSize is the most bytes of a rulebook that are read.
const maxSize = 1 << 20

// mostSaid is how many characters of a rulebook an error repeats, and
// mostProblems how many things that are wrong it names.
const (
	mostSaid     = 800
	mostProblems = 10
)

// maxRules is the most rules of a rulebook.
const maxRules = 1000

// ErrWrong is wrapped by every error about what a rulebook says.
var ErrWrong = errors.New("the rulebook is wrong")

// A Book is a rulebook. The zero Book orders nothing.
type Book struct {
	Path     string                     `toml:"-" json:"-"`
	Headings map[string]string          `toml:"headings" json:"headings,omitempty"` // fields, by heading
	Columns  columns.Rules              `toml:"columns" json:"columns,omitzero"`
	Sheet    condition.SheetRules       `toml:"sheet" json:"sheet,omitzero"`
	Products products.Rules             `toml:"products" json:"products,omitzero"`
	Images   products.ImageRules        `toml:"images" json:"images,omitzero"`
	Each     []products.EachRule        `toml:"one_row_each" json:"one_row_each,omitempty"`
	ForAll   []products.AllRule         `toml:"one_row_for_all" json:"one_row_for_all,omitempty"`
	Options  []products.OptionsRule     `toml:"options" json:"options,omitempty"`
	Rows     []condition.RowRule        `toml:"rows" json:"rows,omitempty"`
	Borrow   []reference.BorrowRule     `toml:"borrow" json:"borrow,omitempty"`
	Build    []pattern.BuildRule        `toml:"build" json:"build,omitempty"`
	Derive   []lists.DeriveRule         `toml:"derive" json:"derive,omitempty"`
	Expand   []lists.ExpandRule         `toml:"expand" json:"expand,omitempty"`
	Field    map[string]lists.FieldRule `toml:"field" json:"field,omitempty"`
	Replace  []wording.ReplaceRule      `toml:"replace" json:"replace,omitempty"`
	Around   []wording.AroundRule       `toml:"around" json:"around,omitempty"`
	Closing  []wording.ClosingRule      `toml:"closing" json:"closing,omitempty"`
	Text     text.Rules                 `toml:"text" json:"text,omitzero"`
	Barcode  rescue.Rules               `toml:"barcode" json:"barcode,omitzero"`
	Target   target.Rules               `toml:"target" json:"target,omitzero"`
}

// Find returns the rulebook that belongs to an input: zetanum.toml beside it or
// in the working folder; "" if there is none.
func Find(input string) string {
	places := []string{Name}
	if input != "-" && !fetch.IsAddress(input) {
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
	info, err := os.Stat(path)
	switch {
	case err != nil:
		return nil, err
	case info.Size() > maxSize:
		return nil, fmt.Errorf("%s: %w: it has %d bytes; more than a megabyte is no rulebook", path, ErrWrong, info.Size())
	}
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	book := &Book{Path: path, Barcode: rescue.Rules{}.Default()}
	if err := toml.NewDecoder(f).DisallowUnknownFields().Decode(book); err != nil {
		return nil, explain(path, err)
	}
	if problems := book.check(); len(problems) > 0 {
		if n := len(problems); n > mostProblems {
			problems = append(problems[:mostProblems], fmt.Sprintf("and %d more", n-mostProblems))
		}
		return nil, fmt.Errorf("%s: %w: %s", path, ErrWrong, strings.Join(problems, "; "))
	}
	here := book.WithFiles(func(name string) string {
		if filepath.IsAbs(name) {
			return name
		}
		return filepath.Join(filepath.Dir(path), name)
	})
	return &here, nil
}

// Declared returns the field of the shop's own that has a name or a heading.
func (b *Book) Declared(name string) (catalogue.Declared, bool) {
	for h, field := range b.Headings {
		if columns.Same(h, name) {
			name = field
		}
	}
	for own, f := range b.Field {
		if _, known := catalogue.ParseField(own); !known && heading.Key(own) == heading.Key(name) {
			kind, _ := catalogue.ParseKind(f.Type)
			return catalogue.Declared{Name: own, Kind: kind}, true
		}
	}
	return catalogue.Declared{}, false
}

// check returns in words what is wrong with the values, part by part.
func (b *Book) check() (problems []string) {
	say := func(part string, list []catalogue.Problem) {
		for _, p := range list {
			problems = append(problems, fmt.Sprintf("%s %s: %s", part, p.Key, catalogue.Shorten(p.Text, mostSaid)))
		}
	}
	for _, h := range slices.Sorted(maps.Keys(b.Headings)) {
		if _, own := b.Field[b.Headings[h]]; own {
			continue
		}
		if _, ok := catalogue.ParseField(b.Headings[h]); !ok {
			say("[headings]", []catalogue.Problem{{Key: h, Text: fmt.Sprintf("there is no field %q%s; the fields are: %s",
				b.Headings[h], lists.DidYouMean(b.Headings[h], catalogue.FieldNames()), strings.Join(catalogue.FieldNames(), " "))}})
		}
	}
	say("[columns]", b.Columns.Check())
	for i := range b.Rows {
		say("[[rows]]", b.Rows[i].Check())
	}
	say("[sheet]", b.Sheet.Check())
	say("[products]", b.Products.Check())
	say("[images]", b.Images.Check())
	for i := range b.Each {
		say("[[one_row_each]]", b.Each[i].Check())
	}
	for i := range b.ForAll {
		say("[[one_row_for_all]]", b.ForAll[i].Check())
	}
	for i := range b.Options {
		say("[[options]]", b.Options[i].Check())
	}
	for i := range b.Borrow {
		say("[[borrow]]", b.Borrow[i].Check())
	}
	for i := range b.Build {
		say("[[build]]", b.Build[i].Check())
	}
	for i := range b.Derive {
		say("[[derive]]", b.Derive[i].Check())
	}
	for i := range b.Expand {
		say("[[expand]]", b.Expand[i].Check())
	}
	for _, name := range slices.Sorted(maps.Keys(b.Field)) {
		rule := b.Field[name]
		say("[field."+name+"]", rule.Check(name))
	}
	if n := len(b.Rows) + len(b.Each) + len(b.ForAll) + len(b.Options) + len(b.Borrow) + len(b.Build) + len(b.Derive) + len(b.Expand) + len(b.Field) + len(b.Replace) + len(b.Around) + len(b.Closing); n > maxRules {
		say("", []catalogue.Problem{{Key: "rules", Text: fmt.Sprintf("there are %d of them, and more than %d are no rulebook; long lists of words belong in a sheet, for [[expand]] or [[derive]]", n, maxRules)}})
	}
	for i := range b.Replace {
		say("[[replace]]", b.Replace[i].Check())
	}
	for i := range b.Around {
		say("[[around]]", b.Around[i].Check())
	}
	for i := range b.Closing {
		say("[[closing]]", b.Closing[i].Check())
	}
	say("[text]", b.Text.Check())
	say("[barcode]", b.Barcode.Check())
	say("[target]", b.Target.Check())
	return problems
}

// Fields returns the fields of [headings]: those of headings that must be there,
// and those of headings that the rulebook itself renames, which a file that has
// been through it does not have any more.
func (b *Book) Fields() (fields, renamed map[string]catalogue.Field) {
	fields, renamed = make(map[string]catalogue.Field, len(b.Headings)), make(map[string]catalogue.Field)
	for h, name := range b.Headings {
		f, ok := catalogue.ParseField(name)
		if !ok {
			continue
		}
		fields[h] = f
		for from := range b.Columns.Rename {
			if columns.Same(from, h) || from == name {
				delete(fields, h)
				renamed[h] = f
			}
		}
	}
	return fields, renamed
}

// explain says where in the file an error of the decoder is, and what would be
// right.
func explain(path string, err error) error {
	var strict *toml.StrictMissingError
	if errors.As(err, &strict) {
		first := strict.Errors[0]
		row, col := first.Position()
		return fmt.Errorf("%s, line %d, column %d: %w: there is no key %q%s\n%s", path, row, col, ErrWrong,
			catalogue.Shorten(strings.Join(first.Key(), "."), 80), suggest(first.Key()), catalogue.Shorten(first.String(), mostSaid))
	}
	var wrong *toml.DecodeError
	if errors.As(err, &wrong) {
		row, col := wrong.Position()
		example := ""
		if k := find(wrong.Key()); k != nil {
			example = "; for example " + strings.ReplaceAll(k.Example, "\n", " ")
		}
		return fmt.Errorf("%s, line %d, column %d: %w: %s%s\n%s", path, row, col, ErrWrong, catalogue.Shorten(strings.TrimPrefix(wrong.Error(), "toml: "), mostSaid), example, catalogue.Shorten(wrong.String(), mostSaid))
	}
	return fmt.Errorf("%s: %w: %v", path, ErrWrong, err)
}

// suggest names the known key that is nearest, with an example.
func suggest(key []string) string {
	part := partOf(key[:len(key)-1])
	var names []string
	for _, k := range keys {
		switch {
		case part == "" && !slices.Contains(names, k.Part):
			names = append(names, k.Part)
		case k.Part == part:
			names = append(names, k.Name)
		}
	}
	best := lists.Nearest(key[len(key)-1], names)
	if best == "" {
		return "; known there: " + strings.Join(names, " ")
	}
	if k := find(append(slices.Clone(key[:len(key)-1]), best)); k != nil {
		return fmt.Sprintf(" (did you mean %q? For example: %s)", best, strings.ReplaceAll(k.Example, "\n", " "))
	}
	return fmt.Sprintf(" (did you mean %q?)", best)
}
