package repair

import (
	"cmp"
	"encoding/csv"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strconv"

	"zetanum/core/catalogue"
	"zetanum/core/fetch"
	"zetanum/core/folder"
	"zetanum/core/lazy"
	"zetanum/core/returned"
	"zetanum/core/sheet"
)

// MendedName is the file of an output folder with the rows that people have mended, as they are to
// be, from all runs before.
const MendedName = "mended.csv"

// source returns where the source of an output folder lies, if it is there as it was: where it lay,
// or beside the folder.
func (o *output) source() (path string, err error) {
	from := &o.run.Source
	places := []string{filepath.Join(filepath.Dir(o.dir), from.Name)}
	switch {
	case from.Address != "":
		places = []string{filepath.Join(o.dir, fetch.Prefix+from.Name)}
	case from.Lies != "":
		places = append([]string{filepath.Join(o.dir, filepath.FromSlash(from.Lies))}, places...)
	}
	for _, path := range places {
		if sum, err := folder.Sum(path); err == nil && sum == from.Sum {
			return path, nil
		}
	}
	return "", ErrNoSource
}

// recorded returns the options of the run that wrote an output folder.
func (o *output) recorded(source string) Options {
	set, beside := &o.run.Settings, filepath.Dir(source)
	if o.run.Source.Address != "" {
		beside = filepath.Dir(o.dir)
	}
	opt := Options{
		Input: source, Sheet: set.Sheet, Member: set.Member, Reading: set.Reading, Workers: 1, Only: set.Only, Plain: set.Plain,
		Said: set.Said, Set: set.Set, Date: o.run.Date, Version: o.run.Version, As: []string{}, Fields: catalogue.ParseFields(set.Fields),
		Book: set.Book.WithFiles(func(name string) string { return filepath.Join(beside, name) }),
	}
	opt.Book.Barcode.Trusted = nil
	for _, name := range set.Trust {
		if path := filepath.Join(beside, name); path != filepath.Clean(o.dir) {
			if _, err := os.Stat(path); err == nil {
				opt.Trust = append(opt.Trust, path)
			}
		}
	}
	for _, name := range []string{MendedName, ShopName} {
		path := filepath.Join(o.dir, name)
		if _, err := os.Stat(path); err == nil && set.With != "" {
			opt.Returned = append(opt.Returned, path)
		}
	}
	return opt
}

// A Resumption is an output folder with which what comes back is put together.
type Resumption struct {
	Source string // the file of which it was made
	Rules  string // the rulebook that was followed, "" if there was none or it is not there any more
	dir    string
	opt    Options
}

// Resume opens an output folder whose rows are to go out with what comes back.
func Resume(dir string) (*Resumption, error) {
	dir = filepath.Clean(dir)
	o, ok := openOutput(dir)
	if !ok {
		return nil, fmt.Errorf("the setting ‹with› %s: this is no output folder of ours; name the one in which what comes back was written", dir)
	}
	source, err := o.source()
	if err != nil {
		return nil, fmt.Errorf("the setting ‹with› %s: %w; put %s back beside the folder, or repair it anew", dir, err, o.run.Source.Name)
	}
	r := &Resumption{Source: source, dir: dir, opt: o.recorded(source)}
	if name := o.run.Settings.Rulebook; name != "" {
		for _, path := range []string{filepath.Join(filepath.Dir(source), name), name} {
			if info, err := os.Stat(path); err == nil && info.Mode().IsRegular() {
				r.Rules = path
				break
			}
		}
	}
	return r, nil
}

// numbered is the name of an output folder beside which there is another of its name.
var numbered = lazy.New(`^(.+)-\d+$`)

// Fill completes options with those of the run before, where they say nothing else, and has a file
// come back.
func (r *Resumption) Fill(opt *Options, file string) {
	before := &r.opt
	opt.Input, opt.With, opt.Returned = r.Source, r.dir, append(slices.Clone(before.Returned), file)
	if opt.Sheet+opt.Member == "" {
		opt.Sheet, opt.Member = before.Sheet, before.Member
	}
	if opt.Reading == (sheet.Reading{}) {
		opt.Reading = before.Reading
	}
	if opt.Fields == nil {
		opt.Fields = before.Fields
	}
	if opt.Only == nil {
		opt.Only, opt.Plain = before.Only, before.Plain
	}
	if opt.Book.Path == "" {
		loans := opt.Book.Borrow
		opt.Book = before.Book
		opt.Book.Borrow = slices.Concat(opt.Book.Borrow, loans)
	}
	if opt.Book.Register.At == "" {
		opt.Register = cmp.Or(opt.Register, before.Book.Register.At)
	}
	opt.Trust = slices.Concat(before.Trust, opt.Trust)
	opt.Said = slices.Concat(before.Said, opt.Said)
	opt.Set = slices.Concat(before.Set, opt.Set)
}

// Folder returns the output folder that belongs to what is repaired. One with which something comes
// back is never replaced, so that the new one has a number behind its name.
func (o *Options) Folder() string {
	if o.With == "" {
		return Target(o.Input)
	}
	if m := numbered.FindStringSubmatch(o.With); m != nil {
		if _, ours := openOutput(m[1]); ours {
			return m[1]
		}
	}
	return o.With
}

// comeBack reads the tables that come back to the source, and knows one that is worked on by itself.
func (r *runner) comeBack(temp string) error {
	own := r.table.Columns.Headings[:r.table.Columns.Own()]
	if r.opt.With == "" && len(own) > 2 && own[0] == returned.RowHeading && own[1] == returned.ReasonHeading {
		r.ourHeadings = own[:2]
		r.result.CameBack = filepath.Dir(r.opt.Input)
		if _, ok := openOutput(r.result.CameBack); !ok {
			r.result.CameBack = "DIR"
		}
	}
	if len(r.opt.Returned) == 0 {
		return nil
	}
	var files []*returned.File
	for _, path := range r.opt.Returned {
		f, err := returned.Read(path, sheet.Options{Spool: temp}, r.table, r.opt.Declared)
		if err != nil {
			return err
		}
		files = append(files, f)
	}
	var err error
	if r.result.Returned, err = returned.Settle(files, r.table); err != nil {
		return err
	}
	return r.table.Amend(r.result.Returned.Put)
}

// The tables of what the shop has said: all of it, what it passed over, what it says of rows that it
// took, and of pictures.
const (
	ShopName         = "shop-result.csv"
	ShopSkippedName  = "shop-skipped.csv"
	ShopRemarksName  = "shop-remarks.csv"
	ShopPicturesName = "shop-pictures.csv"
)

// shopTables say which rows stand in each of them.
var shopTables = []struct {
	name string
	has  func(*returned.Said) bool
}{
	{ShopName, func(*returned.Said) bool { return true }},
	{ShopSkippedName, func(s *returned.Said) bool { return s.Outcome == returned.Skipped }},
	{ShopRemarksName, func(s *returned.Said) bool { return s.Outcome == returned.Taken && s.Remark != "" }},
	{ShopPicturesName, func(s *returned.Said) bool { return s.Remark != "" && s.AboutPicture() }},
}

// writeReturned writes what people have mended and what the shop has said, so that it counts in further
// runs, and people see it.
func (r *runner) writeReturned(dir string) error {
	if r.opt.With == "" {
		return nil
	}
	rows := r.result.Returned
	own := r.table.Columns.Headings[:r.table.Columns.Own()]
	lines := [][]string{slices.Concat([]string{returned.RowHeading}, own)}
	for _, n := range rows.Numbers() {
		cells := make([]string, len(own))
		copy(cells, rows.Of(n).Is)
		lines = append(lines, slices.Concat([]string{strconv.Itoa(n)}, cells))
	}
	err := writeTable(filepath.Join(dir, MendedName), lines)
	for _, table := range shopTables {
		var known []string
		for _, f := range []catalogue.Field{catalogue.SKU, catalogue.Title} {
			if col := r.table.Columns.First(f); col >= 0 {
				known = append(known, own[col])
			}
		}
		lines := [][]string{slices.Concat(returned.ShopHeadings, known)}
		for _, n := range rows.Told() {
			if said := rows.Said(n); table.has(said) {
				lines = append(lines, slices.Concat([]string{strconv.Itoa(n), said.Outcome.String(), said.Remark}, said.Known))
			}
		}
		if len(lines) > 1 && err == nil {
			err = writeTable(filepath.Join(dir, table.name), lines)
			r.result.Shop = append(r.result.Shop, ShopTable{table.name, len(lines) - 1})
		}
	}
	return err
}

func writeTable(path string, lines [][]string) error {
	file, err := os.Create(path)
	if err != nil {
		return err
	}
	w := csv.NewWriter(file)
	return errors.Join(w.WriteAll(lines), file.Close())
}
