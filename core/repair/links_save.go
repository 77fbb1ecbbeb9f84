package repair

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"sync"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/imagelink"
	"zetanum/core/linkcheck"
	"zetanum/core/pattern"
	"zetanum/core/photos"
)

// A saver keeps the pictures of links in a folder, each under a name that no other has. A nil one keeps nothing.
type saver struct {
	dir     string
	pattern *pattern.Pattern // nil for the names in the links
	count   pattern.Numbers

	last    string         // what the pattern has made of the row, or of one above it
	numbers map[string]int // of the pictures of a product, by what the pattern makes of it
	taken   map[string]bool
	stems   []string // of the names, by link
	index   map[string]int
	ours    map[string]int64 // how many bytes the files of earlier results have, by their names

	mu  sync.Mutex
	err error
}

// ErrSaved says that a file is in the way.
var ErrSaved = errors.New("there is a file of this name already, which is not from an earlier run; name another folder with the setting ‹save›")

// newSaver returns what keeps pictures.
func newSaver(dir, as string, c *catalogue.Columns) (*saver, error) {
	s := &saver{dir: dir}
	if as == "" {
		return s, nil
	}
	text, count := pattern.CutNumbers(as)
	if s.count = count; !count.Any {
		return nil, fmt.Errorf("the pattern %q of the setting ‹save-as› has no {number}, which tells the pictures of one product apart", as)
	}
	p, err := pattern.Parse(text)
	if err != nil {
		return nil, fmt.Errorf("the pattern of the setting ‹save-as›: %w", err)
	}
	_, missing := p.Bind(func(name string) int {
		if found := columns.FindAll(c, name); len(found) > 0 {
			return found[0]
		}
		return -1
	}, func(int) bool { return false })
	if missing != nil {
		return nil, fmt.Errorf("the pattern of the setting ‹save-as› names {%s}, which is neither a field nor a heading of the file; its headings are: %s", missing[0],
			strings.Join(c.Headings, ", "))
	}
	s.pattern = p
	return s, nil
}

// reset begins anew.
func (s *saver) reset() {
	if s != nil {
		s.last, s.numbers, s.taken, s.stems = "", make(map[string]int), make(map[string]bool), nil
	}
}

// name finds the name of the next link, which stands in a row. A row of which the pattern makes nothing has an image of the product above.
func (s *saver) name(row *catalogue.Row, link string) {
	if s == nil {
		return
	}
	stem := imagelink.FileOf(link)
	if s.pattern != nil {
		text, missing := s.pattern.Text(row)
		if missing == "" {
			s.last = text
		} else {
			text = s.last
		}
		if text != "" {
			s.numbers[text]++
			stem = s.count.Name(text, s.numbers[text])
		}
	}
	if stem = photos.SafeName(stem); stem == "" {
		stem = "picture"
	}
	free := stem
	for n := 2; s.taken[strings.ToLower(free)]; n++ {
		free = stem + "-" + strconv.Itoa(n)
	}
	s.taken[strings.ToLower(free)] = true
	s.stems = append(s.stems, free)
}

// file returns the name of the file in which a picture is kept, "" if there is none.
func (s *saver) file(i int, r *linkcheck.Result) string {
	if s == nil || r.State != linkcheck.Good || r.Info.Type == "" || !r.Whole || r.Reason != "" {
		return ""
	}
	return s.stems[i] + "." + string(r.Info.Type)
}

// has reports whether an earlier result need not be asked for again: nothing is kept of it, or it is there.
func (s *saver) has(i int, r *linkcheck.Result) bool {
	name := s.file(i, r)
	if name == "" {
		return s == nil || r.State != linkcheck.Good
	}
	info, err := os.Stat(filepath.Join(s.dir, name))
	return err == nil && info.Size() == r.Size
}

// begin makes the folder.
func (s *saver) begin(before []linkcheck.Result, index map[string]int) error {
	s.index, s.ours = index, make(map[string]int64)
	for i := range before {
		if at, is := index[before[i].Link]; is {
			if name := s.file(at, &before[i]); name != "" {
				s.ours[name] = before[i].Size
			}
		}
	}
	return os.MkdirAll(s.dir, 0o777)
}

// keep writes a picture down, whole or not at all.
func (s *saver) keep(r *linkcheck.Result, content []byte) error {
	err := s.write(s.file(s.index[r.Link], r), content)
	if err != nil {
		s.mu.Lock()
		if s.err == nil {
			s.err = err
		}
		s.mu.Unlock()
	}
	return err
}

func (s *saver) write(name string, content []byte) (err error) {
	if name == "" {
		return nil
	}
	path := filepath.Join(s.dir, name)
	if info, err := os.Lstat(path); err == nil {
		if size, ours := s.ours[name]; !ours || size != info.Size() {
			return fmt.Errorf("%s: %w", path, ErrSaved)
		}
	} else if !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	part, err := os.CreateTemp(s.dir, ".zetanum-*")
	if err != nil {
		return err
	}
	_, err = part.Write(content)
	if err = errors.Join(err, part.Close()); err == nil {
		err = os.Chmod(part.Name(), 0o644)
	}
	if err == nil {
		err = os.Rename(part.Name(), path)
	}
	if err != nil {
		return errors.Join(err, os.Remove(part.Name()))
	}
	return nil
}

// failed returns why pictures cannot be kept.
func (s *saver) failed() error {
	if s == nil {
		return nil
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.err
}
