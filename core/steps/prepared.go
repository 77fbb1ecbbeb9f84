package steps

import (
	"errors"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"strings"
	"sync"

	"zetanum/core/columns"
	"zetanum/core/line"
	"zetanum/core/pattern"
	"zetanum/core/photos"
	"zetanum/core/prepare"
	"zetanum/core/products"
)

// Preparing makes copies of the photos that products get, as the importer takes them. It is used by several at once.
type Preparing struct {
	Limits  prepare.Limits
	Pattern *pattern.Pattern // of the names of copies; nil for the names of the photos
	Numbers pattern.Numbers
	Dir     string // of the copies; "" if none are to be written

	mu    sync.Mutex
	made  map[string]*prepared // by the name of the copy, in small letters
	clash [2]string            // photos that would have one name
	name  string               // which
	busy  chan struct{}        // as many as are at work at once: each takes the whole photo into memory
}

// prepared is a copy.
type prepared struct {
	file int
	once sync.Once
	err  error
}

// mostPreparing is how many photos are in memory at once.
const mostPreparing = 4

// NewPreparing returns what makes copies by the limits of the rules.
func NewPreparing(r *products.ImageRules) *Preparing {
	return &Preparing{Limits: prepare.Limits{Types: r.Types, Longest: r.LongestSide, Shortest: r.ShortestSide, Largest: r.LargestBytes()},
		made: make(map[string]*prepared), busy: make(chan struct{}, mostPreparing)}
}

// Clash returns an error if photos of different products would have one name.
func (p *Preparing) Clash() error {
	if p.name == "" {
		return nil
	}
	return columns.Refuse("[images] prepare: both %s and %s would be called %s; put what no two products share into prepare_as, such as {sku} or {barcode}",
		p.clash[0], p.clash[1], p.name)
}

// Copy writes the copy of a photo under a name, once. All of it is planned only if there is no folder for it.
func (p *Preparing) Copy(folder *photos.Folder, file int, plan *prepare.Plan, name string, log *line.Log) error {
	if log.Judging() {
		return nil
	}
	key := strings.ToLower(name)
	p.mu.Lock()
	one := p.made[key]
	if one == nil {
		one = &prepared{file: file}
		p.made[strings.Clone(key)] = one
	}
	if one.file != file {
		a, b := folder.Files[min(one.file, file)].Path, folder.Files[max(one.file, file)].Path
		if p.name == "" || key < p.name {
			p.name, p.clash = strings.Clone(key), [2]string{a, b}
		}
	}
	p.mu.Unlock()
	if p.Dir == "" || one.file != file {
		return nil
	}
	one.once.Do(func() {
		p.busy <- struct{}{}
		defer func() { <-p.busy }()
		one.err = p.write(folder, file, plan, name)
	})
	return one.err
}

func (p *Preparing) write(folder *photos.Folder, file int, plan *prepare.Plan, name string) (err error) {
	photo, err := folder.Open(file)
	if err != nil {
		return err
	}
	defer photo.Close()
	if err := os.Mkdir(p.Dir, 0o777); err != nil && !errors.Is(err, fs.ErrExist) {
		return err
	}
	to := filepath.Join(p.Dir, name)
	out, err := os.OpenFile(to, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o666)
	if err != nil {
		return err
	}
	if err = errors.Join(plan.Make(out, photo, folder.Files[file].Size), out.Close()); err != nil {
		err = errors.Join(err, os.Remove(to))
	}
	return err
}

// Copies returns how many copies have been made.
func (p *Preparing) Copies() (n int) {
	for _, one := range p.made {
		if one.err == nil {
			n++
		}
	}
	return n
}

// nameOf returns the name that a photo has by itself, with those of its folders.
func nameOf(photo string) string {
	return strings.TrimSuffix(photo, path.Ext(photo))
}
