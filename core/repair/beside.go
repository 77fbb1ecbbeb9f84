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
	head, all, err := beginningOf(path, room)
	if err != nil || head != nil && !slices.ContainsFunc(lacking, func(l line.Lack) bool { return mayHave(head, l.Keys) }) {
		return n
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

// asTheyAre are characters that stand in a text file as they are, in whatever form it is.
const asTheyAre = "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789-_. "

// mayHave reports whether so many of the SKUs can stand in a text file that it is worth a closer look: of a folder of price lists each has
// its own, and reading all of them for each would take much longer than the lists themselves.
func mayHave(text []byte, keys []line.LackOf) bool {
	if bytes.IndexByte(text, 0) >= 0 {
		return true // in an encoding in which they do not stand as they are
	}
	var sure []string // those of which it can be seen
	may := 0
	for _, key := range keys {
		switch {
		case key.SKU == "":
		case strings.Trim(key.SKU, asTheyAre) != "":
			may++
		default:
			sure = append(sure, key.SKU)
		}
	}
	enough := (len(keys) + besideShare - 1) / besideShare
	count := eachStands
	if len(sure) > fewSought {
		count = allStand
	}
	if may < enough {
		may += count(text, sure, enough-may)
	}
	return may > 0 && may >= enough
}

// fewSought is how many SKUs are looked for one after the other; of more, all are at once.
const fewSought = 64

// eachStands counts the words that stand in a text, up to so many.
func eachStands(text []byte, words []string, enough int) (n int) {
	var counts [256]int
	for _, c := range text[:min(len(text), 1<<14)] {
		counts[c]++
	}
	for _, word := range words {
		if n < enough && stands(text, word, &counts) {
			n++
		}
	}
	return n
}

// allStand counts the words of which the longest piece of letters and digits stands in a text, up to so many or a few more.
func allStand(text []byte, words []string, enough int) (n int) {
	pieces := make(map[string]int) // how many words have it
	var begins [256]uint64         // the lengths of pieces, a bit for each, by their first byte
	for _, word := range words {
		piece := ""
		for _, p := range strings.FieldsFunc(word, func(c rune) bool { return !alnum[c] }) {
			if len(p) > len(piece) {
				piece = p
			}
		}
		if piece == "" {
			n++
			continue
		}
		pieces[piece]++
		begins[piece[0]] |= 1 << min(len(piece), 63)
	}
	for at := 0; at < len(text) && n < enough; at++ {
		from := at
		for at < len(text) && alnum[text[at]] {
			at++
		}
		if from == at || begins[text[from]]>>min(at-from, 63)&1 == 0 {
			continue
		}
		if of, there := pieces[string(text[from:at])]; there {
			n += of
			delete(pieces, string(text[from:at]))
		}
	}
	return n
}

// stands reports whether a word stands in a text by itself, of which it is known about how often it has each byte: it is looked for by its rarest.
func stands(text []byte, word string, counts *[256]int) bool {
	rare := 0
	for i := range len(word) {
		if counts[word[i]] < counts[word[rare]] {
			rare = i
		}
	}
	for at := rare; at < len(text); at++ {
		i := bytes.IndexByte(text[at:], word[rare])
		if i < 0 {
			return false
		}
		at += i
		from, to := at-rare, min(at-rare+len(word), len(text))
		if string(text[from:to]) == word && !(from > 0 && alnum[word[0]] && alnum[text[from-1]]) &&
			!(to < len(text) && alnum[word[len(word)-1]] && alnum[text[to]]) {
			return true
		}
	}
	return false
}

// alnum are the letters and digits of ASCII.
var alnum = func() (is [256]bool) {
	for c := range is {
		is[c] = c >= '0' && c <= '9' || c|0x20 >= 'a' && c|0x20 <= 'z'
	}
	return is
}()

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
