package repair

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/fetch"
	"zetanum/core/folder"
	"zetanum/core/line"
	"zetanum/core/reference"
	"zetanum/core/sheet"
)

// ErrSpoilt says that an output folder has no ready rows left to trust.
var ErrSpoilt = errors.New("its ready.csv is not as the run left it")

// sources loads the sheets that are trusted for codes: those that were named, and
// our own earlier output if the file is a copy of that.
func (r *runner) sources(ctx context.Context, temp string) error {
	for _, path := range r.opt.trust() {
		s, err := r.source(ctx, path, temp)
		if err != nil {
			return err
		}
		r.trusted = append(r.trusted, s)
	}
	dir, err := r.own()
	if err != nil {
		r.result.NotRestored = err.Error()
	}
	if dir != "" && !slices.Contains(r.opt.trust(), dir) {
		s, err := r.source(ctx, dir, temp)
		if err != nil {
			r.result.NotRestored = err.Error()
			return nil
		}
		r.result.Own = dir
		r.trusted = append(r.trusted, s)
	}
	return nil
}

// trust returns every sheet that is named as trusted.
func (o *Options) trust() []string { return slices.Concat(o.Book.Barcode.Trusted, o.Trust) }

// source loads a sheet or the ready rows of an output folder.
func (r *runner) source(ctx context.Context, path, temp string) (*reference.Sheet, error) {
	info, err := os.Stat(path)
	if err == nil && info.IsDir() {
		return earlier(ctx, path, temp)
	}
	return reference.Load(path, sheet.Options{Spool: temp, Reading: readingOf(path)})
}

// own returns the output folder of which the source is a copy that has been
// saved again: that in which it lies itself, or one beside it with the same
// headings. Only a file that is called ready, and perhaps something more, is
// taken for such a copy.
func (r *runner) own() (string, error) {
	if r.opt.Input == "-" || r.fetched != nil {
		return "", nil
	}
	dir := filepath.Dir(r.opt.Input)
	name := filepath.Base(r.opt.Input)
	ready := line.FileNames[0]
	if !strings.HasPrefix(strings.ToLower(name), strings.TrimSuffix(ready, filepath.Ext(ready))) {
		return "", nil
	}
	if m, err := folder.ReadManifest(dir); err == nil {
		sum, err := folder.Sum(r.opt.Input)
		if err == nil && name == ready && m.Files[name] == sum {
			r.asLeft = true
			return "", nil
		}
		return dir, nil
	}
	found, sum := "", ""
	beside, _ := filepath.Glob(filepath.Join(dir, "*", folder.ManifestName))
	for _, manifest := range beside {
		other := filepath.Dir(manifest)
		if strings.HasPrefix(other, Target(r.opt.Input)) {
			continue // made of this very file
		}
		t, err := sheet.Open(filepath.Join(other, ready), sheet.Options{Reading: readingOf(filepath.Join(other, ready))})
		if err != nil {
			continue
		}
		same := slices.Equal(t.Columns.Headings, r.table.Columns.Headings)
		t.Close()
		m, err := folder.ReadManifest(other)
		if !same || err != nil || found != "" && m.Files[ready] == sum {
			continue
		}
		if found != "" {
			return "", fmt.Errorf("both %s and %s have its headings; name the right one with -trust", found, other)
		}
		found, sum = other, m.Files[ready]
	}
	return found, nil
}

// once refuses rules on our own output that might change their own result.
func (r *runner) once() error {
	if !r.asLeft && r.result.Own == "" {
		return nil
	}
	return r.opt.Book.RefuseAgain(r.table.Name)
}

// earlier loads the ready rows of an output folder. If they have been edited or
// saved again since, they are made anew from the source, where that still lies
// beside the folder as it was.
func earlier(ctx context.Context, dir, temp string) (*reference.Sheet, error) {
	edited, err := folder.Edited(dir)
	if err != nil {
		return nil, err
	}
	ready := line.FileNames[0]
	name := filepath.Join(filepath.Base(filepath.Clean(dir)), ready)
	if slices.Contains(edited, ".") {
		return nil, fmt.Errorf("-trust %s: this folder is not an output of ours; name a file", dir)
	}
	path := filepath.Join(dir, ready)
	if slices.Contains(edited, ready) {
		if path, err = again(ctx, dir, temp); err != nil {
			return nil, err
		}
		name += " as it was"
	}
	s, err := reference.Load(path, sheet.Options{Spool: temp, Reading: readingOf(path)})
	if err != nil {
		return nil, err
	}
	s.Name, s.Earlier = name, true
	return s, nil
}

// again repairs the source of an output folder once more and returns where the
// ready rows are.
func again(ctx context.Context, dir, temp string) (string, error) {
	m, err := folder.ReadManifest(dir)
	if err != nil {
		return "", err
	}
	var run manifest
	if err := json.Unmarshal(m.Run, &run); err != nil {
		return "", fmt.Errorf("%s: %w", filepath.Join(dir, folder.ManifestName), err)
	}
	beside := filepath.Dir(filepath.Clean(dir))
	source := filepath.Join(beside, run.Source.Name)
	if run.Source.Address != "" {
		source = filepath.Join(dir, fetch.Prefix+run.Source.Name)
	}
	if sum, err := folder.Sum(source); err != nil || sum != run.Source.Sum {
		return "", fmt.Errorf("%s: %w, and its source %s is not there any more as it was; name another sheet that has the codes with -trust", dir, ErrSpoilt, run.Source.Name)
	}
	opt := Options{
		Input: source, Sheet: run.Settings.Sheet, Member: run.Settings.Member, Reading: run.Settings.Reading, Workers: 1, Only: run.Settings.Only, Sample: run.Settings.Sample,
		Plain: run.Settings.Plain, Yes: run.Settings.Yes, Book: run.Settings.Book.WithFiles(func(name string) string { return filepath.Join(beside, name) }), Date: run.Date, Version: run.Version, As: []string{},
		Target: filepath.Join(temp, folder.Temporary+"again"), Temp: temp,
	}
	opt.Fields = catalogue.ParseFields(run.Settings.Fields)
	opt.Book.Barcode.Trusted = nil
	for _, name := range run.Settings.Trust {
		if path := filepath.Join(beside, name); path != filepath.Clean(dir) {
			if _, err := os.Stat(path); err == nil {
				opt.Trust = append(opt.Trust, path)
			}
		}
	}
	result, err := Run(ctx, opt)
	if err != nil {
		return "", err
	}
	return filepath.Join(result.Folder, line.FileNames[0]), nil
}

// readingOf returns how a file is to be read if it is an output of ours as the run left
// it, and was written otherwise than usual.
func readingOf(path string) (none sheet.Reading) {
	dir, name := filepath.Split(path)
	m, err := folder.ReadManifest(filepath.Clean(dir))
	if err != nil || name != line.FileNames[0] {
		return none
	}
	var run manifest
	if json.Unmarshal(m.Run, &run) != nil {
		return none
	}
	said := run.Settings.Book.Target.Reading()
	if said == none {
		return none
	}
	if sum, err := folder.Sum(path); err != nil || m.Files[name] != sum {
		return none
	}
	return said
}
