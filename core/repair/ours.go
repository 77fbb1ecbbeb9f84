package repair

import (
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"golang.org/x/sync/errgroup"

	"zetanum/core/catalogue"
	"zetanum/core/export"
	"zetanum/core/folder"
	"zetanum/core/lazy"
	"zetanum/core/line"
	"zetanum/core/sheet"
	"zetanum/core/target"
)

// An output is an output folder of ours.
type output struct {
	dir    string
	files  map[string]string // their checksums as they were written
	wholes map[string]folder.Whole
	run    manifest
}

// mostNear is how many output folders near a file are looked at: the newest of them.
const mostNear = 24

// near returns output folders near a file: its own, those beside it and, if it lies in one,
// those beside that.
func near(path string) (dirs []string) {
	dir := filepath.Dir(path)
	age := make(map[string]time.Time)
	look := func(dir string) bool {
		info, err := os.Stat(filepath.Join(dir, folder.ManifestName))
		if err == nil {
			age[dir] = info.ModTime()
		}
		return err == nil
	}
	within := []string{dir}
	if look(dir) {
		within = append(within, filepath.Dir(dir))
	}
	for _, dir := range within {
		entries, _ := os.ReadDir(dir)
		for _, e := range entries {
			if !e.Type().IsRegular() {
				look(filepath.Join(dir, e.Name()))
			}
		}
	}
	dirs = slices.SortedFunc(maps.Keys(age), func(a, b string) int {
		return cmp.Or(age[b].Compare(age[a]), strings.Compare(a, b))
	})
	return dirs[:min(len(dirs), mostNear)]
}

// openOutput reads what a folder says of itself; ok is false if it is no output of ours.
func openOutput(dir string) (o output, ok bool) {
	path := filepath.Join(dir, folder.ManifestName)
	info, err := os.Stat(path)
	if err != nil {
		return o, false
	}
	if o, ok = opened.get(path, info); ok {
		return o, true
	}
	m, err := folder.ReadManifest(dir)
	if err != nil || json.Unmarshal(m.Run, &o.run) != nil {
		return o, false
	}
	o.dir, o.files, o.wholes = dir, m.Files, m.InParts
	opened.put(path, info, o, 1)
	return o, true
}

// opened are outputs that were looked at: each list of a call looks at those near it.
var opened = newMemo[output](2 * mostNear)

// IsOutput reports whether a folder is an output folder.
func IsOutput(dir string) bool {
	_, ok := openOutput(dir)
	return ok
}

// CameOf returns the checksum of the source of an output folder, and its sums; ok is false if it is none.
func CameOf(dir string) (sum string, counts Counts, ok bool) {
	o, ok := openOutput(dir)
	return o.run.Source.Sum, o.run.Counts, ok
}

// SourceOf returns the file of which a file in an output folder was made.
func SourceOf(file string) (string, error) {
	o, ok := openOutput(filepath.Dir(file))
	if !ok {
		return "", fmt.Errorf("%s: it does not lie in an output folder, which says what it was made of", file)
	}
	source, err := o.source()
	if err != nil {
		return "", fmt.Errorf("%s was made of %s: %w", file, o.run.Source.Name, err)
	}
	return source, nil
}

// leftParts reports whether the parts of a file are as they were written.
func (o *output) leftParts(whole folder.Whole) bool {
	return !slices.ContainsFunc(whole.Parts, func(name string) bool {
		sum, err := folder.Sum(filepath.Join(o.dir, name))
		return err != nil || sum != o.files[name]
	})
}

// sumOf returns the checksum of what is ready, also where it lies there in parts.
func (o *output) sumOf(name string) string { return cmp.Or(o.files[name], o.wholes[name].Sum) }

// copyOf returns the output folder of which a file is a copy as it was written for the
// importer, whatever it is called now, and the name that it had there; "" if it is none. What
// else there is in such a folder holds cells of the source, and may come back.
func copyOf(path string) (of output, name string) {
	info, err := os.Stat(path)
	if err != nil {
		if whole, inParts := folder.WholeAt(path); inParts {
			if o, ok := openOutput(filepath.Dir(path)); ok && o.leftParts(whole) {
				return o, filepath.Base(path)
			}
		}
		return of, ""
	}
	if !info.Mode().IsRegular() {
		return of, ""
	}
	var names []string
	for _, form := range target.Forms {
		names = append(names, export.Name(form))
	}
	if base := filepath.Base(path); isPart.MatchString(base) {
		names = append(names, base)
	}
	sum := ""
	for _, dir := range near(path) {
		for _, name := range names {
			there, err := os.Stat(filepath.Join(dir, name))
			if err != nil || there.Size() != info.Size() {
				continue
			}
			if sum == "" {
				if sum, err = folder.Sum(path); err != nil {
					return of, ""
				}
			}
			if o, ok := openOutput(dir); ok && o.files[name] == sum {
				return o, name
			}
		}
	}
	return of, ""
}

// isPart are the names of files into which what is ready was cut.
var isPart = lazy.New(`^ready-[0-9]+\.[a-z]+$`)

// readingOf returns how a file is to be read if it is an output of ours as the run left
// it, and was written otherwise than usual.
func readingOf(path string) sheet.Reading { return reading(copyOf(path)) }

// reading returns how a copy of an output is to be read that had that name there.
func reading(of output, name string) (none sheet.Reading) {
	if name == line.FileNames[0] || isPart.MatchString(name) && filepath.Ext(name) == ".csv" {
		return of.run.Settings.Book.Target.Reading()
	}
	return none
}

// ours finds out whether the source is an output of ours: as a run left it, or saved again
// since. Then it returns the folder.
func (r *runner) ours() (dir string, err error) {
	if r.opt.Input == "-" || r.fetched != nil {
		return "", nil
	}
	if r.asLeft {
		return "", nil
	}
	dirs := near(r.opt.Input)
	there, is := make([]output, len(dirs)), make([]bool, len(dirs))
	var group errgroup.Group
	group.SetLimit(atOnce)
	for i, dir := range dirs {
		group.Go(func() error {
			there[i], is[i] = openOutput(dir)
			return nil
		})
	}
	group.Wait() // none fails
	var outputs []output
	for i, o := range there {
		if is[i] {
			outputs = append(outputs, o)
		}
	}
	if dir, err = r.byTraces(outputs); dir != "" || err != nil {
		return dir, err
	}
	return r.byName(outputs)
}

// The least cells that are found again in a file that is known by them, and the share of them
// in tenths, among those of products that it has.
const (
	leastTraces = 3
	shareTraces = 9
)

// mostTraced is the size of the largest file that is read for traces although there is nothing
// to refuse.
const mostTraced = 16 << 20

// byTraces knows a file by cells that a run has changed, among those of which it has the SKU.
func (r *runner) byTraces(outputs []output) (dir string, err error) {
	sku := r.table.Columns.First(catalogue.SKU)
	base := filepath.Base(r.opt.Input)
	outputs = slices.DeleteFunc(slices.Clone(outputs), func(o output) bool {
		source := o.run.Source.Name == base && o.run.Source.Bytes == r.table.Size
		return len(o.run.Traces) < leastTraces || source // made of this very file
	})
	if len(outputs) == 0 || sku < 0 || r.table.Extent > mostTraced && !r.opt.Book.HasOneWay() {
		return "", nil
	}
	type found struct{ there, same map[line.Trace]bool }
	all := make([]found, len(outputs))
	keys := make(map[uint64][]int) // where they are traces
	for i := range outputs {
		all[i] = found{make(map[line.Trace]bool), make(map[line.Trace]bool)}
		for _, t := range outputs[i].run.Traces {
			keys[t.Key] = append(keys[t.Key], i)
		}
	}
	err = r.table.Each(func() {
		for i := range all {
			clear(all[i].there)
			clear(all[i].same)
		}
	}, func(row *catalogue.Row) {
		cell := row.Cell(sku)
		if cell == "" {
			return
		}
		key := line.TraceKey(cell)
		for _, i := range slices.Compact(keys[key]) {
			for _, t := range outputs[i].run.Traces {
				if t.Key != key {
					continue
				}
				all[i].there[t.Trace] = true
				for col, h := range r.table.Columns.Headings {
					if c := row.Cell(col); c != "" && line.TraceCell(key, h, c) == t.Cell {
						all[i].same[t.Trace] = true
					}
				}
			}
		}
	})
	if err != nil {
		return "", err
	}
	best := -1
	for i := range all {
		there, same := len(all[i].there), len(all[i].same)
		if same >= leastTraces && 10*same >= shareTraces*there && (best < 0 || same > len(all[best].same)) {
			best = i
		}
	}
	if best < 0 {
		return "", nil
	}
	return outputs[best].dir, nil
}

// byName knows a file that lies in an output folder, or beside one with the same headings, and
// is called ready, and perhaps something more.
func (r *runner) byName(outputs []output) (string, error) {
	ready := line.FileNames[0]
	if !strings.HasPrefix(strings.ToLower(filepath.Base(r.opt.Input)), strings.TrimSuffix(ready, filepath.Ext(ready))) {
		return "", nil
	}
	dir := filepath.Dir(r.opt.Input)
	found, sum := "", ""
	for _, o := range outputs {
		switch {
		case o.dir == dir:
			return dir, nil
		case filepath.Dir(o.dir) != dir || strings.HasPrefix(o.dir, Target(r.opt.Input)): // or made of this very file
			continue
		}
		t, err := sheet.Open(filepath.Join(o.dir, ready), sheet.Options{Reading: readingOf(filepath.Join(o.dir, ready))})
		if err != nil {
			continue
		}
		same := slices.Equal(t.Columns.Headings, r.table.Columns.Headings)
		t.Close()
		if !same || found != "" && o.sumOf(ready) == sum {
			continue
		}
		if found != "" {
			return "", fmt.Errorf("both %s and %s have its headings; name the right one with the setting ‹trust›", found, o.dir)
		}
		found, sum = o.dir, o.sumOf(ready)
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

// A trace is one as it stands in a manifest.
type trace struct{ line.Trace }

func (t trace) MarshalText() ([]byte, error) {
	return fmt.Appendf(nil, "%016x %016x", t.Key, t.Cell), nil
}

func (t *trace) UnmarshalText(text []byte) error {
	if n, err := fmt.Sscanf(string(text), "%x %x", &t.Key, &t.Cell); n != 2 {
		return errors.Join(err, fmt.Errorf("%q is no trace", text))
	}
	return nil
}
