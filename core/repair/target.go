package repair

import (
	"encoding/json"
	"errors"
	"fmt"
	"path/filepath"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/charset"
	"zetanum/core/folder"
	"zetanum/core/heading"
	"zetanum/core/line"
	"zetanum/core/sheet"
)

// ErrTarget says that something which goes out cannot be written in the encoding of the
// target.
var ErrTarget = errors.New("the encoding of the target does not have all that goes out")

// outColumns returns the columns of the sheet that go out.
func (r *runner) outColumns() (cols []int, err error) {
	out, err := r.only()
	if err != nil {
		return nil, err
	}
	if out == nil {
		for col := range r.table.Columns.Own() {
			cols = append(cols, col)
		}
	}
	for _, o := range out {
		cols = append(cols, o.Col)
	}
	return cols, nil
}

// output says what is written for the importer, in the encoding that it wants.
func (r *runner) output() (line.Output, error) {
	out, err := r.only()
	if err != nil {
		return line.Output{}, err
	}
	sortBy, err := r.sortBy()
	if err != nil {
		return line.Output{}, err
	}
	rules := &r.opt.Book.Target
	bare := r.table.Heading == 0 && out == nil // with other columns its reader needs their names
	o := line.Output{Columns: out, Plain: r.opt.Plain, SortBy: sortBy, BOM: r.table.Form.BOM, Bare: bare, FirstRows: rules.FirstRows == "keep", Look: r.opt.Look}
	o.Style, o.LineEnd = rules.Style(r.table.Form.Separator, r.table.Form.LineEnd)
	c := rules.Charset()
	o.Charset = c
	switch {
	case rules.BOM != nil:
		o.BOM = *rules.BOM
	case c != charset.UTF8:
		o.BOM = c.Marked()
	}
	if c == charset.UTF8 {
		return o, nil
	}
	if o.Columns, err = r.fitHeadings(out); err != nil {
		return o, err
	}
	o.Encode = func(dst, rows []byte) ([]byte, error) {
		encoded, bad, ok := c.Append(dst, rows)
		if !ok {
			return dst, fmt.Errorf("%s: %w: %s has no %q, and it stands in a row outside of the columns, where nothing is put in its place. Take it out, or choose UTF-8", r.table.Name, ErrTarget, c, bad)
		}
		return encoded, nil
	}
	return o, nil
}

// fitHeadings puts something else in place of what the encoding of the target does not
// have in the headings.
func (r *runner) fitHeadings(out []line.OutColumn) ([]line.OutColumn, error) {
	fitter := r.texts.Fitter
	if fitter == nil {
		return out, nil
	}
	fitted := slices.Clone(out)
	if out == nil {
		for col, h := range r.table.Columns.Headings[:r.table.Columns.Own()] {
			fitted = append(fitted, line.OutColumn{Col: col, Heading: h})
		}
	}
	changed := false
	for i := range fitted {
		h := &fitted[i].Heading
		if fitter.Has(*h) {
			continue
		}
		text, _, bad, ok := fitter.Fit(*h, false)
		if !ok {
			return nil, fmt.Errorf("%s: %w: the heading %q has a %q. Give it another with rename under [columns], or choose UTF-8", r.table.Name, ErrTarget, *h, bad)
		}
		r.result.Notes = append(r.result.Notes, fmt.Sprintf("the encoding of the target does not have all characters of the heading %q; it is written as %q", *h, text))
		*h, changed = text, true
	}
	if !changed {
		return out, nil
	}
	return fitted, nil
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

// only returns the columns to write, those of the rulebook: the SKU and those
// named with Only, in their order; nil for all as they are.
func (r *runner) only() ([]line.OutColumn, error) {
	var out []line.OutColumn
	for _, o := range r.plan.Out {
		out = append(out, line.OutColumn(o))
	}
	if len(r.opt.Only) == 0 {
		return out, nil
	}
	if out == nil {
		for col, h := range r.table.Columns.Headings {
			out = append(out, line.OutColumn{Col: col, Heading: h})
		}
	}
	chosen := make(map[int]bool)
	if !r.opt.Plain {
		for _, col := range r.table.Columns.All(catalogue.SKU) {
			chosen[col] = true
		}
	}
	for _, name := range r.opt.Only {
		found := false
		field, isField := catalogue.ParseField(name)
		for _, o := range out {
			if isField && r.table.Columns.Fields[o.Col] == field || heading.Key(o.Heading) == heading.Key(name) {
				chosen[o.Col], found = true, true
			}
		}
		if !found {
			return nil, fmt.Errorf("-only %s: %w; the headings are: %s", name, ErrOnly, strings.Join(r.table.Columns.Headings, ", "))
		}
	}
	return slices.DeleteFunc(out, func(o line.OutColumn) bool { return !chosen[o.Col] }), nil
}
