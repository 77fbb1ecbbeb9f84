package asking

import (
	"os"
	"path/filepath"
	"slices"

	"zetanum/core/catalogue"
	"zetanum/core/folder"
	"zetanum/core/line"
	"zetanum/core/repair"
	"zetanum/core/rulebook"
	"zetanum/core/sections"
	"zetanum/core/sheet"
)

// See gathers what a rulebook could say something about: what a look at a file found, and what a repair of it comes to, nil if there was none.
func See(look, checked *repair.Result) *sections.Seen {
	columns := &look.Source.Columns
	v := &sections.Seen{File: look.Source.Name, KeyLike: look.KeyLike, Tongues: look.Tongues(), Rows: look.Survey.Rows}
	if len(look.Patterns) > 0 {
		v.Pattern = look.Patterns[0].From
	}
	v.Form = len(look.Source.Preamble)+len(look.Source.Beneath) > 0
	for i, h := range columns.Headings[:columns.Own()] {
		v.Columns = append(v.Columns, sections.SeenColumn{Heading: h, Field: columns.Fields[i], Filled: look.Fill[i].Filled,
			Example: look.InOrder(i), Same: look.SaysTheSame(i), Needed: look.Needs(i)})
	}
	for _, k := range look.Keys {
		v.Keys = append(v.Keys, sections.SeenKey{Column: columns.Headings[k.Col], Distinct: k.Distinct})
	}
	if checked == nil {
		return v
	}
	check(v, checked)
	return v
}

// check puts into what was seen what a repair has come to.
func check(v *sections.Seen, r *repair.Result) {
	v.Found, v.Phrases = nil, r.Phrases
	v.Filling, v.InForm = r.Settings.Book.Target.Fills(), r.Settings.Book.Form
	for i := range r.Report.Found {
		f := &r.Report.Found[i]
		v.Found = append(v.Found, sections.SeenFinding{Code: f.Code, Column: r.Heading(f.Col), Cells: f.Cells, Holds: f.Holds, Likely: f.Proposed, Open: f.Open() > 0, Told: r.Told(f),
			Needed: f.Col < 0 || r.TellApart.Has(f.Col), Values: values(f.Examples)})
	}
	for _, own := range r.OwnRatios {
		if own.Col < len(v.Columns) {
			v.Columns[own.Col].Ratio = own.Ratio.String()
		}
	}
}

// values returns what stands in the cells of examples, each once.
func values(examples []line.Example) (list []string) {
	for _, e := range examples {
		if e.Cell != "" && !slices.Contains(list, e.Cell) {
			list = append(list, e.Cell)
		}
	}
	return list
}

// beside adds the sheets beside the file that have what is open or missing in it; the rulebook lies in that folder.
func beside(v *sections.Seen, check *repair.Result, dir, temp string) {
	for _, b := range check.LookBeside(check.Report.Lacking, temp) {
		name, err := rulebook.NameFrom(b.Path, dir)
		if err != nil {
			continue
		}
		v.Beside = append(v.Beside, sections.SeenBeside{Sheet: name, Column: check.Source.Columns.Headings[b.Col],
			Barcodes: check.Source.Columns.Fields[b.Col] == catalogue.Barcode, Has: b.Has, Of: b.Of})
	}
}

// maxBeside is the size of the largest file that is looked at beside another.
const maxBeside = 20 << 20

// SheetsBeside returns the files beside one that could be trusted for codes:
// they have a column of barcodes, and one of SKUs or titles.
func SheetsBeside(file string) (names []string) {
	temp, err := folder.NewTemp()
	if err != nil {
		return nil
	}
	defer temp.Remove()
	entries, _ := os.ReadDir(filepath.Dir(file))
	for _, e := range entries {
		ext := filepath.Ext(e.Name())
		info, err := e.Info()
		if err != nil || info.Size() > maxBeside || e.IsDir() || e.Name() == filepath.Base(file) ||
			!slices.Contains([]string{".csv", ".xlsx", ".tsv"}, ext) || len(names) == 10 {
			continue
		}
		if sheet.HasCodes(filepath.Join(filepath.Dir(file), e.Name()), temp.Dir) {
			names = append(names, e.Name())
		}
	}
	return names
}
