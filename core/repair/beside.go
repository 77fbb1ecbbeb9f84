package repair

import (
	"bytes"
	"io"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync"

	"golang.org/x/sync/errgroup"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/folder"
	"zetanum/core/line"
	"zetanum/core/reference"
	"zetanum/core/rescue"
	"zetanum/core/sheet"
	"zetanum/core/target"
	"zetanum/core/template"
)

// A Beside is a table that lies beside the source and has what is open or missing in it.
type Beside struct {
	Path string
	Col  int // of the source
	Has  int // of so many SKUs that were looked for
	Of   int
}

// How much beside a file is looked at.
const (
	mostBeside      = 50      // files
	mostBesideBytes = 1 << 20 // of each

	besideShare = 10 // of what is open one in so many must be there

	atOnce = 4 // files that are looked at at the same time
)

// rooms are for the beginnings of files.
var rooms = sync.Pool{New: func() any { return new([mostBesideBytes]byte) }}

// besideKinds are the ends of names of tables.
var besideKinds = []string{".csv", ".tsv", ".txt", ".xlsx", ".xlsm", ".ods", ".xls"}

// LookBeside looks at the other tables in the folder of the source, and returns for each column with
// something open the one that has most of it. Nothing is taken from them: they are to be named to the user.
// temp is a folder for what is needed for a while.
func (r *Result) LookBeside(lacking []line.Lack, temp string) (found []Beside) {
	if len(lacking) == 0 {
		return nil
	}
	best := make([]Beside, len(lacking))
	paths := r.tablesBeside(math.MaxInt64)
	counts := make([][]int, len(paths))
	var group errgroup.Group
	group.SetLimit(atOnce)
	for n, path := range paths {
		group.Go(func() error {
			room := rooms.Get().(*[mostBesideBytes]byte)
			counts[n] = r.has(path, lacking, filepath.Join(temp, folder.Temporary+"beside-"+strconv.Itoa(n)), room[:])
			rooms.Put(room)
			return nil
		})
	}
	group.Wait() // none fails
	for n, path := range paths {
		for i, has := range counts[n] {
			if has > best[i].Has {
				best[i] = Beside{path, lacking[i].Col, has, len(lacking[i].Keys)}
			}
		}
	}
	for _, b := range best {
		if besideShare*b.Has >= b.Of && b.Has > 0 {
			found = append(found, b)
		}
	}
	return found
}

// tablesBeside returns the first tables of at most so many bytes in the folder of the source that the run does not read; none if the source
// is in no folder.
func (r *Result) tablesBeside(largest int64) (paths []string) {
	if r.Source.Address != "" || r.Source.Path == "-" {
		return nil
	}
	dir := filepath.Dir(r.Source.Path)
	entries, err := os.ReadDir(dir)
	if err != nil {
		return nil
	}
	for _, e := range entries {
		path := filepath.Join(dir, e.Name())
		if !e.Type().IsRegular() || !slices.Contains(besideKinds, strings.ToLower(filepath.Ext(path))) || r.reads(path) {
			continue
		}
		if info, err := e.Info(); err != nil || info.Size() > largest {
			continue
		}
		if paths = append(paths, path); len(paths) == mostBeside {
			break
		}
	}
	return paths
}

// FormBeside returns the template beside the source in whose form that is, if no template was named, or [target.Self] if it is a form by itself
// that says what must be filled; "" if there is none.
func (r *Result) FormBeside(temp string) string {
	named := r.Settings.Book.Target.HasForm() || len(r.Settings.Book.Targets) > 0
	looks := len(r.Source.Preamble) > 0 || slices.ContainsFunc(r.Source.Columns.Headings, func(h string) bool { return strings.Contains(h, "*") })
	if named || !looks || r.Source.Address != "" || r.Source.Path == "-" {
		return ""
	}
	for _, path := range r.tablesBeside(mostBesideBytes) {
		if !r.mayHaveHeadings(path) {
			continue
		}
		form, err := template.Learn(path)
		if err != nil || form.Export || len(form.Columns) < 3 {
			continue
		}
		table, err := sheet.Open(r.Source.Path, sheet.Options{Spool: temp, AnyHeadings: true, Form: form.FormRows()})
		if err != nil {
			continue
		}
		in := table.InForm
		table.Close()
		if in {
			return path
		}
	}
	if r.Source.Size > mostBesideBytes {
		return ""
	}
	if own, err := template.LearnOwn(r.Source.Path); err == nil && slices.ContainsFunc(own.Columns, func(c template.Column) bool { return c.Need == template.Required }) {
		return target.Self
	}
	return ""
}

// mayHaveHeadings reports whether a file may have the headings of the source, as far as a look at a text file tells.
func (r *Result) mayHaveHeadings(path string) bool {
	switch strings.ToLower(filepath.Ext(path)) {
	case ".csv", ".tsv", ".txt":
	default:
		return true
	}
	content, err := os.ReadFile(path)
	if err != nil {
		return false
	}
	for _, h := range r.Source.Columns.Headings[:r.Source.Columns.Own()] {
		if strings.ContainsAny(h, "*") && !strings.ContainsFunc(h, func(c rune) bool { return c > 0x7e || c == '"' }) {
			return bytes.Contains(content, []byte(h))
		}
	}
	return true
}

// reads reports whether a file is read already: the source, or what is trusted or borrowed from.
func (r *Result) reads(path string) bool {
	read := []string{r.Source.Name}
	for _, t := range r.Trusted {
		read = append(read, filepath.Base(t.Path))
	}
	for _, b := range r.Borrowed {
		read = append(read, b.From)
	}
	return slices.ContainsFunc(read, func(name string) bool { return folder.SameName(name, filepath.Base(path)) })
}

// has returns of how many of the SKUs a table has what each of the columns lacks. temp is the name of a folder that may be made for what is
// needed for a while, and room for [mostBesideBytes].
func (r *Result) has(path string, lacking []line.Lack, temp string, room []byte) []int {
	n := make([]int, len(lacking))
	info, err := os.Stat(path)
	if err != nil {
		return n
	}
	any := func(may func([]line.LackOf) bool) bool {
		return slices.ContainsFunc(lacking, func(l line.Lack) bool { return may(l.Keys) })
	}
	known, seen := glimpses.get(path, info)
	if known.made && !any(known.mayHave) {
		return n
	}
	head, all, err := beginningOf(path, room)
	if err != nil {
		return n
	}
	if head != nil && !known.made {
		may := func(keys []line.LackOf) bool { return mayHave(head, keys) }
		if known.made = seen; seen {
			known.sketch = sketchOf(head)
			may = known.sketch.mayHave
		}
		glimpses.put(path, info, known, 1+len(known.sketch))
		if !any(may) {
			return n
		}
	}
	if os.Mkdir(temp, 0o700) != nil {
		return n
	}
	if !all {
		path = filepath.Join(temp, folder.Temporary+"beginning"+filepath.Ext(path))
		if os.WriteFile(path, head, 0o600) != nil {
			return n
		}
	}
	opt := sheet.Options{Spool: temp}
	var codes reference.Sheets
	if s, err := reference.Load(path, opt); err == nil {
		codes = reference.Sheets{s}
	}
	for i, l := range lacking {
		if r.Source.Columns.Fields[l.Col] == catalogue.Barcode {
			for _, key := range l.Keys {
				if key.SKU != "" && codes.Look(reference.Key{SKU: key.SKU}).State == reference.Found {
					n[i]++
				}
			}
			continue
		}
		n[i] = r.filled(path, opt, &lacking[i])
	}
	return n
}

// filled returns for how many of the SKUs a table has something in the column of that field or heading.
func (r *Result) filled(path string, opt sheet.Options, lack *line.Lack) int {
	t, err := sheet.Open(path, opt)
	if err != nil {
		return 0
	}
	defer t.Close()
	col, sku := columns.Find(&t.Columns, r.Source.Columns.Headings[lack.Col]), t.Columns.First(catalogue.SKU)
	if f := r.Source.Columns.Fields[lack.Col]; col < 0 && f != catalogue.Unknown {
		col = t.Columns.First(f)
	}
	if col < 0 || sku < 0 {
		return 0
	}
	want, has := make(map[string]bool), make(map[string]bool)
	for _, key := range lack.Keys {
		want[key.SKU] = key.SKU != ""
	}
	if err := t.Each(func() { clear(has) }, func(row *catalogue.Row) {
		if key := row.Cell(sku); want[key] && strings.TrimSpace(row.Cell(col)) != "" {
			has[strings.Clone(key)] = true
		}
	}); err != nil {
		return 0
	}
	return len(has)
}

// beginningOf returns the text of the first rows of a table, in room, and whether these are all; nil where it is a workbook.
func beginningOf(path string, room []byte) (head []byte, all bool, err error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, false, err
	}
	defer f.Close()
	info, err := f.Stat()
	if err != nil {
		return nil, false, err
	}
	all = info.Size() <= int64(len(room))
	if ext := strings.ToLower(filepath.Ext(path)); ext != ".csv" && ext != ".tsv" && ext != ".txt" {
		if !all {
			err = os.ErrInvalid // nothing can be read of it without its end
		}
		return nil, all, err
	}
	head = room[:min(info.Size(), int64(len(room)))]
	if _, err = io.ReadFull(f, head); err == nil && !all {
		head = head[:bytes.LastIndexByte(head, '\n')+1]
	}
	return head, all, err
}

// mostLooked is the size of the largest file that is read once more to see of which products the
// barcodes are lost.
const mostLooked = 16 << 20

// lost returns of which products the barcodes are lost, after a look.
func (r *runner) lost() []line.Lack {
	sku := r.table.Columns.First(catalogue.SKU)
	if sku < 0 || r.table.Extent > mostLooked {
		return nil
	}
	report := &line.Report{}
	for _, m := range r.result.Models {
		evidence := m.Model.Weigh(rescue.Rules{})
		before := len(report.Lacking)
		if err := r.table.Each(func() { report.Lacking = report.Lacking[:before] }, func(row *catalogue.Row) {
			cell := row.Cell(m.Col)
			if cell == "" {
				return
			}
			if v := evidence.Decide(rescue.Read(cell, row.Mark(m.Col)&catalogue.Numeric != 0)); !v.Whole() {
				report.Lacks(m.Col, row.Number, row.Cell(sku))
			}
		}); err != nil {
			return nil
		}
	}
	return report.Lacking
}
