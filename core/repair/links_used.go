package repair

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"

	"zetanum/core/catalogue"
	"zetanum/core/folder"
	"zetanum/core/linkcheck"
	"zetanum/core/steps"
)

// ErrLinks says that a folder does not have what links have led to.
var ErrLinks = errors.New("it has no results of the command ‹links›")

// opened reads what links have led to, if a folder is named that says so.
func (r *runner) opened() (*steps.Opened, error) {
	dir := r.opt.Links
	if dir == "" {
		return nil, nil
	}
	m, err := folder.ReadManifest(dir)
	if err != nil {
		return nil, fmt.Errorf("%s: %w: %w", dir, ErrLinks, err)
	}
	path := filepath.Join(dir, ResultsName)
	sum, err := folder.Sum(path)
	if err != nil || m.Files[ResultsName] == "" {
		return nil, fmt.Errorf("%s: %w", dir, ErrLinks)
	}
	if sum != m.Files[ResultsName] {
		return nil, fmt.Errorf("%s: it has been changed since it was written; open the links again", path)
	}
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	results, err := linkcheck.ReadResults(f)
	if err != nil {
		return nil, err
	}
	o := &steps.Opened{Results: make(map[string]*linkcheck.Result, len(results)), Drop: r.opt.LinksDrop, Move: r.opt.LinksMove}
	for i := range results {
		o.Results[results[i].Link] = &results[i]
	}
	r.linksUsed = &LinksUsed{Folder: filepath.Base(dir), Sum: sum, Hold: r.opt.LinksHold, Drop: o.Drop, Move: o.Move}
	if r.opt.LinksHold || r.opt.LinksDrop {
		r.opt.Said = append(slices.Clone(r.opt.Said), catalogue.Decision{Finding: catalogue.ImageDead, Answer: catalogue.Hold})
	}
	return o, nil
}

// LinksUsed says which results of links a run has taken, and what became of those that lead to no picture.
type LinksUsed struct {
	Folder string `json:"folder"`
	Sum    string `json:"sum"`
	Hold   bool   `json:"hold,omitempty"`
	Drop   bool   `json:"drop,omitempty"`
	Move   bool   `json:"move,omitempty"`
}
