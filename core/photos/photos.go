// Package photos finds the pictures of products in a folder, by the names of their files: by SKU, barcode or whatever else a shop calls
// its photos by, with a number behind it or not.
//
//	HV-2041.jpg  HV-2041-2.jpg  HV-2041_03.jpg  HV-2041 (4).jpg    four pictures of HV-2041, in this order
//	hv-2041.jpg                                                    also one of it, if no product is called hv-2041
//	WB77.jpg                                                       one of WB 77, if none is called WB77
//	4711.jpg                                                       one of 004711, if none is called 4711
//	HV-2050/front.jpg                                              one of HV-2050, if its own name says nothing
//
// A file that is called by the codes of two products belongs to neither.
package photos

import (
	"cmp"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync"
	"unicode"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/folder"
	"zetanum/core/imagelink"
	"zetanum/core/picture"
	"zetanum/core/text"
)

// A Folder is what is in a folder. It is used by several at once.
type Folder struct {
	Files []File // the pictures, by their paths; what else is there does not count

	root  *os.Root // nil if only names are known
	index map[string][]entry
	mu    sync.Mutex
	seen  map[int]looked
	same  []int // how many files have the same bytes; nil if nobody has looked
}

// A File is a picture in a folder.
type File struct {
	Path string // within the folder, with slashes
	Size int64  // in bytes
}

// entry is a name by which a file may be called.
type entry struct {
	file   int
	name   string
	number int  // behind the name; -1 for none
	dir    bool // it is the name of the folder that it is in
}

// mostFiles is how many files a folder may have.
const mostFiles = 1 << 20

// ErrMany says that a folder has more files than are looked at.
var ErrMany = fmt.Errorf("there are more than %d files in it", mostFiles)

// Open reads what is in a folder and those below it. Nothing outside of it is read, wherever links lead. Files and folders whose names
// begin with a point are passed over, and so is what runs of this program have written.
func Open(dir string) (*Folder, error) {
	root, err := os.OpenRoot(dir)
	if err != nil {
		return nil, err
	}
	var paths []string
	sizes := make(map[string]int64)
	err = fs.WalkDir(root.FS(), ".", func(name string, d fs.DirEntry, err error) error {
		switch {
		case err != nil:
			return err
		case name != "." && strings.HasPrefix(d.Name(), "."):
			if d.IsDir() {
				return fs.SkipDir
			}
			return nil
		case name == ".":
			return nil
		case d.IsDir():
			if _, err := folder.ReadManifest(filepath.Join(dir, filepath.FromSlash(name))); err == nil {
				return fs.SkipDir // what a run has written, perhaps copies of these photos
			}
			return nil
		case len(paths) == mostFiles:
			return ErrMany
		}
		info, err := root.Stat(filepath.FromSlash(name))
		if err != nil || !info.Mode().IsRegular() {
			return nil // a link that leads out of the folder, or to nothing
		}
		paths, sizes[name] = append(paths, name), info.Size()
		return nil
	})
	if err != nil {
		root.Close()
		return nil, err
	}
	f := New(paths)
	f.root = root
	for i := range f.Files {
		f.Files[i].Size = sizes[f.Files[i].Path]
	}
	return f, nil
}

// New returns a folder of which only the paths of the files are known.
func New(paths []string) *Folder {
	f := &Folder{index: make(map[string][]entry), seen: make(map[int]looked)}
	paths = slices.Clone(paths)
	slices.Sort(paths)
	for _, p := range paths {
		if !imagelink.IsType(path.Ext(p)) {
			continue
		}
		n := len(f.Files)
		f.Files = append(f.Files, File{Path: p})
		name := strings.TrimSuffix(path.Base(p), path.Ext(p))
		f.add(entry{file: n, name: name, number: -1})
		stem, number, numbered := cutNumber(name)
		if numbered {
			f.add(entry{file: n, name: stem, number: number})
		}
		if dir := path.Dir(p); dir != "." {
			if !numbered {
				if _, number, numbered = cutNumber("-" + name); !numbered { // 1.jpg
					number = -1
				}
			}
			f.add(entry{file: n, name: path.Base(dir), number: number, dir: true})
		}
	}
	return f
}

func (f *Folder) add(e entry) {
	key := loose(e.name)
	if key != "" {
		f.index[key] = append(f.index[key], e)
	}
}

// Once reports whether just one file has a name, whatever its folder and case.
func (f *Folder) Once(name string) bool {
	count := 0
	for _, file := range f.Files {
		if strings.EqualFold(path.Base(file.Path), name) {
			count++
		}
	}
	return count == 1
}

// Opens reports whether the files can be opened, and are more than names.
func (f *Folder) Opens() bool { return f.root != nil }

// Open opens a file to read it.
func (f *Folder) Open(file int) (*os.File, error) {
	return f.root.Open(filepath.FromSlash(f.Files[file].Path))
}

// Close lets the folder go.
func (f *Folder) Close() error {
	if f.root == nil {
		return nil
	}
	return f.root.Close()
}

// SafeName returns a name for a file that is the same in every address and on every disk: letters and digits of ASCII, points, hyphens and
// underscores; "" if nothing is left.
func SafeName(name string) string {
	name = strings.Join(strings.FieldsFunc(text.ASCII(name), func(r rune) bool {
		return (r < 'a' || r > 'z') && (r < 'A' || r > 'Z') && (r < '0' || r > '9') && r != '_' && r != '.'
	}), "-")
	return strings.Trim(name, ".-")
}

// cutNumber takes the number off the name of a file that has one: -2, _02, (3), with a space before it or not.
func cutNumber(name string) (stem string, number int, ok bool) {
	digits := name
	if strings.HasSuffix(name, ")") {
		open := strings.LastIndexByte(name, '(')
		if open < 0 {
			return "", 0, false
		}
		stem, digits = strings.TrimRight(name[:open], " "), name[open+1:len(name)-1]
	} else {
		at := strings.LastIndexAny(name, "-_")
		if at < 0 {
			return "", 0, false
		}
		stem, digits = strings.TrimRight(name[:at], " "), strings.TrimLeft(name[at+1:], " ")
	}
	if len(digits) == 0 || len(digits) > 3 || strings.Trim(digits, "0123456789") != "" {
		return "", 0, false
	}
	number, err := strconv.Atoi(digits)
	return stem, number, err == nil
}

// A Loosening says what does not count where a file is called by a code; the less, the surer.
type Loosening uint8

// What may not count, one after the other.
const (
	Exact  Loosening = iota
	Case             // capital and small letters
	Spaces           // and spaces
	Zeros            // and zeros at the beginning
)

// String says it in words.
func (l Loosening) String() string {
	return [...]string{"exactly", "whatever the case", "without spaces", "without zeros at the beginning"}[l]
}

// loose returns what is the same for all names that are alike at the loosest.
func loose(s string) string { return withoutZeros(strings.ToLower(withoutSpaces(s))) }

func withoutSpaces(s string) string {
	if strings.IndexFunc(s, unicode.IsSpace) < 0 {
		return s
	}
	return strings.Map(func(r rune) rune {
		if unicode.IsSpace(r) {
			return -1
		}
		return r
	}, s)
}

func withoutZeros(s string) string {
	if t := strings.TrimLeft(s, "0"); t != "" || s == "" {
		return t
	}
	return "0"
}

// loosening returns what must not count so that two names are alike.
func loosening(a, b string) Loosening {
	switch {
	case a == b:
		return Exact
	case strings.EqualFold(a, b):
		return Case
	case strings.EqualFold(withoutSpaces(a), withoutSpaces(b)):
		return Spaces
	}
	return Zeros
}

// A Fit is how well a file fits a code: a smaller one is better.
type Fit struct {
	Loosening
	Part bool // a number stands behind the code; it might be part of another
	Dir  bool // only the folder is called by the code
}

// Less reports whether a fit is better than another.
func (a Fit) Less(b Fit) bool { return a.rank() < b.rank() }

func (a Fit) rank() (n int) {
	if n = int(a.Loosening) << 1; a.Part {
		n++
	}
	if a.Dir {
		n += 1 << 4
	}
	return n
}

// A Match is a file that is called by a code.
type Match struct {
	File   int // its index
	Number int // behind the code; -1 for none
	Fit    Fit
}

// Matches calls do with the files that are called by a code.
func (f *Folder) Matches(code string, do func(Match)) {
	code = strings.TrimSpace(code)
	if code == "" {
		return
	}
	for _, e := range f.index[loose(code)] {
		do(Match{File: e.file, Number: e.number, Fit: Fit{Loosening: loosening(e.name, code), Part: e.number >= 0 && !e.dir, Dir: e.dir}})
	}
}

// Compare says which of two matches comes first: by their numbers, those without one before them.
func (f *Folder) Compare(a, b Match) int {
	return cmp.Or(a.Number-b.Number, strings.Compare(f.Files[a.File].Path, f.Files[b.File].Path))
}

// looked is what a look at a file has shown.
type looked struct {
	info picture.Info
	err  error
}

// Look reads what a file says of itself in its first bytes.
func (f *Folder) Look(file int) (picture.Info, error) {
	f.mu.Lock()
	l, known := f.seen[file]
	f.mu.Unlock()
	if known || f.root == nil {
		return l.info, l.err
	}
	if r, err := f.Open(file); err != nil {
		l.err = err
	} else {
		l.info, l.err = picture.Look(r, f.Files[file].Size)
		r.Close()
	}
	f.mu.Lock()
	f.seen[file] = l
	f.mu.Unlock()
	return l.info, l.err
}

// Same returns how many files have the same bytes as one, itself included.
func (f *Folder) Same(file int) int {
	f.mu.Lock()
	defer f.mu.Unlock()
	if f.same == nil {
		f.compare()
	}
	return f.same[file]
}

// compare reads the files that are of the same size as others.
func (f *Folder) compare() {
	f.same = make([]int, len(f.Files))
	sizes := make(map[int64][]int)
	for i := range f.Files {
		f.same[i] = 1
		sizes[f.Files[i].Size] = append(sizes[f.Files[i].Size], i)
	}
	for size, files := range sizes {
		if len(files) < 2 || size == 0 || f.root == nil {
			continue
		}
		sums := make(map[uint64][]int)
		for _, i := range files {
			if sum, err := f.sum(i); err == nil {
				sums[sum] = append(sums[sum], i)
			}
		}
		for _, alike := range sums {
			for _, i := range alike {
				f.same[i] = len(alike)
			}
		}
	}
}

func (f *Folder) sum(file int) (uint64, error) {
	r, err := f.Open(file)
	if err != nil {
		return 0, err
	}
	defer r.Close()
	h := xxhash.New()
	_, err = io.Copy(h, r)
	return h.Sum64(), err
}
