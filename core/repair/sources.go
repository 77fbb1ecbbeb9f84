package repair

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"

	"zetanum/core/folder"
	"zetanum/core/line"
	"zetanum/core/reference"
	"zetanum/core/sheet"
)

// ErrSpoilt says that an output folder has no ready rows left to trust.
var ErrSpoilt = errors.New("its ready.csv is not as the run left it")

// ErrNoSource says that the source of an output folder is not beside it any more.
var ErrNoSource = errors.New("its source is not there any more as it was")

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
	dir, err := r.ours()
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

// lenders puts what is ready in output folders, from which a rule borrows, in their place.
func (r *runner) lenders(ctx context.Context, temp string) error {
	r.opt.Book.Borrow = slices.Clone(r.opt.Book.Borrow)
	for i := range r.opt.Book.Borrow {
		rule := &r.opt.Book.Borrow[i]
		if info, err := os.Stat(rule.From); err != nil || !info.IsDir() {
			continue
		}
		path, name, err := readyOf(ctx, rule.From, temp)
		if err != nil {
			return err
		}
		rule.From, rule.Called, rule.Reading = path, name, readingOf(path)
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

// earlier loads the ready rows of an output folder.
func earlier(ctx context.Context, dir, temp string) (*reference.Sheet, error) {
	path, name, err := readyOf(ctx, dir, temp)
	if err != nil {
		return nil, err
	}
	s, err := reference.Load(path, sheet.Options{Spool: temp, Reading: readingOf(path)})
	if err != nil {
		return nil, err
	}
	s.Name, s.Earlier = name, true
	return s, nil
}

// readyOf returns where the ready rows of an output folder are, and how they are called. If they
// have been edited or saved again since, they are made anew from the source, where that still lies
// beside the folder as it was.
func readyOf(ctx context.Context, dir, temp string) (path, name string, err error) {
	edited, err := folder.Edited(dir)
	if err != nil {
		return "", "", err
	}
	ready := line.FileNames[0]
	name = filepath.Join(filepath.Base(filepath.Clean(dir)), ready)
	if slices.Contains(edited, ".") {
		return "", "", fmt.Errorf("%s: this folder is not an output of ours; name a file", dir)
	}
	path = filepath.Join(dir, ready)
	whole, _ := folder.WholeAt(path)
	if slices.Contains(edited, ready) || slices.ContainsFunc(whole.Parts, func(name string) bool { return slices.Contains(edited, name) }) {
		path, err = again(ctx, dir, temp)
		name += " as it was"
	}
	return path, name, err
}

// again repairs the source of an output folder once more and returns where the
// ready rows are.
func again(ctx context.Context, dir, temp string) (string, error) {
	o, ok := openOutput(filepath.Clean(dir))
	if !ok {
		return "", fmt.Errorf("%s: its manifest cannot be read", filepath.Join(dir, folder.ManifestName))
	}
	source, err := o.source()
	if err != nil {
		return "", fmt.Errorf("%s: %w, and %w (%s); name another sheet that has the codes with the setting ‹trust›", dir, ErrSpoilt, err,
			o.run.Source.Name)
	}
	opt := o.recorded(source)
	opt.Sample, opt.Target, opt.Temp = o.run.Settings.Sample, filepath.Join(temp, folder.Temporary+"again"), temp
	result, err := Run(ctx, opt)
	if err != nil {
		return "", err
	}
	return filepath.Join(result.Folder, line.FileNames[0]), nil
}
