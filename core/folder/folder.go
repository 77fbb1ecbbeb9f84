// Package folder makes an output folder that appears complete or not at all,
// and never replaces one in which a person has worked.
//
// The files of a run are written into NAME.part-RUN, beside the folder NAME
// that is to appear. When they are complete, [Job.Commit] writes run.json with
// a checksum of each, flushes everything to the disk and renames: an older
// folder NAME to NAME.old-RUN, the new one to NAME; then the older one is
// removed. Whatever kills the program leaves either the old folder or the new
// one; a swap that was cut off half way is finished or undone by the next
// [Begin].
//
// An older folder is replaced only if it is one of ours, of the same source, and
// every file in it still has its checksum. Otherwise the new one becomes NAME-2, and the edited
// files are named. So are, on systems where a folder with an open file cannot be replaced,
// those that somebody opens while the run is at work; what is open when it begins is an error.
package folder

import (
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"github.com/cespare/xxhash/v2"
	"github.com/gofrs/flock"

	"zetanum/core/disk"
)

// ManifestName is the file that makes a folder one of ours.
const ManifestName = "run.json"

// Temporary begins the names of files that are removed before a folder
// appears.
const Temporary = ".zetanum-"

// ErrBusy says that another run is writing the same folder.
var ErrBusy = errors.New("another run is writing this folder just now; wait for it, or name another folder with the setting ‹out›")

// ErrInUse says that another program has a file of the folder open.
var ErrInUse = errors.New("a file of this folder is open in another program; close it there and try again, or name another folder with the setting ‹out›")

// ErrLink says that a symbolic link leads nowhere.
var ErrLink = errors.New("this is a link to something that is not there")

// A Manifest is what run.json holds.
type Manifest struct {
	Program string            `json:"program"`
	Run     json.RawMessage   `json:"run"`
	Files   map[string]string `json:"files"` // by name: the checksum
	InParts map[string]Whole  `json:"inParts,omitempty"`
}

const program = "zetanum"

// A Job is an output folder in the making.
type Job struct {
	// Replaces says, from what an older folder's manifest holds of its run,
	// whether this one is to take its place; nil: always.
	Replaces func(run json.RawMessage) bool

	target string
	part   string
	run    string
	lock   *flock.Flock
	sums   map[string]string // of the files that are complete
	wholes map[string]Whole
}

// Begin starts an output folder that will appear as target. It cleans up what
// an earlier run left behind, and returns [ErrBusy] if another run is at work
// on the same target. Of a target that is a symbolic link, the folder appears where
// the link leads; the link stays.
func Begin(target string) (*Job, error) {
	target, err := resolve(filepath.Clean(target))
	if err == nil {
		err = CheckName(target)
	}
	if err != nil {
		return nil, err
	}
	if err := os.MkdirAll(filepath.Dir(target), 0o777); err != nil {
		return nil, err
	}
	j := &Job{target: target, run: strings.ToLower(rand.Text()[:8]), sums: make(map[string]string)}
	if err := j.acquire(); err != nil {
		return nil, err
	}
	if err := restore(target); err != nil {
		j.release()
		return nil, err
	}
	if open := openIn(target); len(open) > 0 {
		j.release()
		return nil, fmt.Errorf("%s: %w", filepath.Join(target, open[0]), ErrInUse)
	}
	j.part = target + ".part-" + j.run
	if err := os.Mkdir(j.part, 0o777); err != nil {
		j.release()
		return nil, err
	}
	return j, nil
}

// resolve follows a target that is a symbolic link.
func resolve(target string) (string, error) {
	if info, err := os.Lstat(target); err != nil || info.Mode()&fs.ModeSymlink == 0 {
		return target, nil
	}
	at, err := filepath.EvalSymlinks(target)
	if err != nil {
		return "", fmt.Errorf("%w (%v); mend it or remove it, or name another folder", ErrLink, err)
	}
	return at, nil
}

func (j *Job) acquire() error {
	path := j.target + ".lock"
	for range 10 {
		j.lock = flock.New(path)
		got, err := j.lock.TryLock()
		if err != nil {
			return err
		}
		if !got {
			return ErrBusy
		}
		// The run before may have removed the file after it was opened here.
		mine, err1 := j.lock.Stat()
		there, err2 := os.Stat(path)
		if err1 == nil && err2 == nil && os.SameFile(mine, there) {
			return nil
		}
		j.lock.Close()
	}
	return ErrBusy
}

func (j *Job) release() {
	if err := os.Remove(j.lock.Path()); err != nil {
		// Where a file that is open cannot be removed it goes after closing.
		defer os.Remove(j.lock.Path())
	}
	j.lock.Close()
}

// Dir is where the files of the run are to be written.
func (j *Job) Dir() string { return j.part }

// Settled says that a file is on the disk, with its checksum, and will not
// change any more. [Job.Commit] sees to the files it is not told of.
func (j *Job) Settled(name, sum string) { j.sums[name] = sum }

// Abort removes everything the run has written.
func (j *Job) Abort() error {
	defer j.release()
	return os.RemoveAll(j.part)
}

// A Place is where a folder has appeared and, if that is not the target, which files of
// the older folder have been edited since, and which are open in another program.
type Place struct {
	Folder       string // "" if nothing was written
	Edited, Open []string
	Others       []string // folders of that name which are of another file, or of other work, and stay
}

// Commit completes the folder: run becomes part of its manifest.
func (j *Job) Commit(run any) (at Place, err error) {
	defer j.release()
	defer os.RemoveAll(j.part)
	if err := j.writeManifest(run); err != nil {
		return Place{}, err
	}
	for n := 1; ; n++ {
		path := j.target
		if n > 1 {
			path += "-" + strconv.Itoa(n)
			if err := restore(path); err != nil {
				return Place{}, err
			}
		}
		open := openIn(path)
		changed, err := Edited(path)
		switch {
		case len(open) == 0 && err != nil:
			return Place{}, err
		case len(open) == 0 && len(changed) == 0 && !j.replaces(path):
			at.Others = append(at.Others, path)
			continue
		case len(open) == 0 && len(changed) == 0:
			if err := j.swap(path); !errors.Is(err, ErrInUse) {
				at.Folder = path
				return at, err
			}
			open = []string{"."}
		}
		at.Edited, at.Open = append(at.Edited, in(path, changed)...), append(at.Open, in(path, open)...)
	}
}

func in(dir string, names []string) (paths []string) {
	for _, name := range names {
		paths = append(paths, filepath.Join(dir, name))
	}
	return paths
}

// openIn returns the files of a folder of ours that another program has open, where that
// keeps it from being replaced.
func openIn(dir string) (open []string) {
	if _, err := os.Stat(filepath.Join(dir, ManifestName)); err != nil {
		return nil // it is not one of ours, and stays
	}
	names, _ := filesIn(dir)
	for _, name := range names {
		if path := filepath.Join(dir, filepath.FromSlash(name)); isRegular(path) && isOpen(path) {
			open = append(open, name)
		}
	}
	return open
}

// filesIn returns the files of a folder and of those in it, with slashes between. A folder in it with nothing in it counts as a file.
func filesIn(dir string) (names []string, err error) {
	entries, err := os.ReadDir(dir)
	for _, e := range entries {
		var within []string
		if e.IsDir() {
			if within, err = filesIn(filepath.Join(dir, e.Name())); err != nil {
				return nil, err
			}
		}
		if within == nil {
			names = append(names, e.Name())
		}
		for _, name := range within {
			names = append(names, e.Name()+"/"+name)
		}
	}
	return names, err
}

func isRegular(path string) bool {
	info, err := os.Lstat(path)
	return err == nil && info.Mode().IsRegular()
}

func (j *Job) replaces(path string) bool {
	m, err := ReadManifest(path)
	return err != nil || j.Replaces == nil || j.Replaces(m.Run)
}

func (j *Job) writeManifest(run any) error {
	entries, err := os.ReadDir(j.part)
	if err != nil {
		return err
	}
	for _, e := range entries {
		path := filepath.Join(j.part, e.Name())
		switch {
		case strings.HasPrefix(e.Name(), Temporary):
			err = os.RemoveAll(path)
		case e.IsDir():
			if os.Remove(path) == nil {
				continue // which goes only if nothing is in it
			}
			err = syncDir(path)
		}
		if err != nil {
			return err
		}
	}
	names, err := filesIn(j.part)
	if err != nil {
		return err
	}
	for _, name := range names {
		if j.sums[name] == "" {
			if j.sums[name], err = sumAndFlush(filepath.Join(j.part, filepath.FromSlash(name))); err != nil {
				return err
			}
		}
	}
	m := Manifest{Program: program, Files: j.sums, InParts: j.wholes}
	if m.Run, err = json.Marshal(run); err != nil {
		return err
	}
	text, err := json.MarshalIndent(&m, "", "  ")
	if err != nil {
		return err
	}
	path := filepath.Join(j.part, ManifestName)
	if err := os.WriteFile(path, append(text, '\n'), 0o666); err != nil {
		return err
	}
	if _, err := sumAndFlush(path); err != nil {
		return err
	}
	return syncDir(j.part)
}

// swap puts the part in the place of path.
func (j *Job) swap(path string) error {
	old := path + ".old-" + j.run
	err := os.Rename(path, old)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		old = ""
	case err != nil:
		return inUse(err)
	}
	if err := os.Rename(j.part, path); err != nil {
		if old != "" {
			err = errors.Join(err, os.Rename(old, path))
		}
		return inUse(err)
	}
	if err := syncDir(filepath.Dir(path)); err != nil {
		return err
	}
	if old != "" {
		if err := os.RemoveAll(old); !isBarred(err) { // or the next run takes it away
			return err
		}
	}
	return nil
}

func inUse(err error) error {
	if err != nil && isBarred(err) {
		return fmt.Errorf("%w (%v)", ErrInUse, err)
	}
	return err
}

// restore finishes or undoes what a run that was killed left of a swap, and
// removes its unfinished files.
func restore(target string) error {
	olds, parts := leftovers(target, ".old-"), leftovers(target, ".part-")
	for _, old := range olds {
		if _, err := os.Stat(target); errors.Is(err, fs.ErrNotExist) {
			from := old
			for _, part := range parts {
				if complete(part) {
					from = part
				}
			}
			if err := os.Rename(from, target); err != nil {
				return inUse(err)
			}
		}
		if err := removeOld(old); err != nil && !isBarred(err) { // what is open goes another time
			return err
		}
	}
	for _, part := range parts {
		if err := os.RemoveAll(part); err != nil && !isBarred(err) {
			return err
		}
	}
	return nil
}

// leftovers returns the folders beside target whose names go on with mark and
// the name of a run.
func leftovers(target, mark string) []string {
	entries, _ := os.ReadDir(filepath.Dir(target))
	var found []string
	for _, e := range entries {
		run, ok := strings.CutPrefix(e.Name(), filepath.Base(target)+mark)
		if ok && e.IsDir() && len(run) == 8 {
			found = append(found, filepath.Join(filepath.Dir(target), e.Name()))
		}
	}
	return found
}

// complete reports whether a folder has its manifest and every file in it has
// its checksum.
func complete(dir string) bool {
	_, err := ReadManifest(dir)
	if err != nil {
		return false
	}
	edited, err := Edited(dir)
	return err == nil && len(edited) == 0
}

// removeOld removes a folder that a run has replaced, unless somebody has put
// something into it since. Files may be missing: the run may have been killed while
// it was removing them.
func removeOld(dir string) error {
	if m, err := ReadManifest(dir); err == nil {
		if touched, err := touched(dir, m); err != nil || len(touched) > 0 {
			return err
		}
	}
	return os.RemoveAll(dir)
}

// ReadManifest reads run.json of a folder. The error wraps [fs.ErrNotExist] if
// there is none.
func ReadManifest(dir string) (*Manifest, error) {
	text, err := os.ReadFile(filepath.Join(dir, ManifestName))
	if err != nil {
		return nil, err
	}
	m := new(Manifest)
	if err := json.Unmarshal(text, m); err != nil {
		return nil, fmt.Errorf("%s: %w", filepath.Join(dir, ManifestName), err)
	}
	if m.Program != program {
		return nil, fmt.Errorf("%s: not written by %s", filepath.Join(dir, ManifestName), program)
	}
	return m, nil
}

// Edited returns the files of a folder that are not as a run left them: changed,
// added or missing. A folder that is not one of ours counts as edited as a
// whole, with the name "."; one that does not exist or is empty, not at all.
func Edited(dir string) ([]string, error) {
	entries, err := os.ReadDir(dir)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	if err != nil {
		return []string{"."}, nil // a file, perhaps; at any rate nothing to replace
	}
	if len(entries) == 0 {
		return nil, nil
	}
	m, err := ReadManifest(dir)
	if err != nil {
		return []string{"."}, nil
	}
	edited, err := touched(dir, m)
	if err != nil {
		return nil, err
	}
	for name := range m.Files {
		if _, err := os.Lstat(filepath.Join(dir, filepath.FromSlash(name))); errors.Is(err, fs.ErrNotExist) {
			edited = append(edited, name)
		}
	}
	slices.Sort(edited)
	return edited, nil
}

// touched returns the files of a folder that have been changed since its
// manifest was written, or added.
func touched(dir string, m *Manifest) ([]string, error) {
	names, err := filesIn(dir)
	if err != nil {
		return nil, err
	}
	var edited []string
	for _, name := range names {
		if name == ManifestName || isLitter(path.Base(name)) {
			continue
		}
		at := filepath.Join(dir, filepath.FromSlash(name))
		want, ours := m.Files[name]
		if !ours || !isRegular(at) {
			edited = append(edited, name)
			continue
		}
		got, err := Sum(at)
		if err != nil {
			return nil, inUse(err)
		}
		if got != want {
			edited = append(edited, name)
		}
	}
	return edited, nil
}

// isLitter reports whether a file is one that file managers leave behind.
func isLitter(name string) bool {
	return name == ".DS_Store" || strings.EqualFold(name, "Thumbs.db") || strings.EqualFold(name, "desktop.ini")
}

// Sum returns the checksum of a file as a manifest holds it.
func Sum(path string) (string, error) {
	f, err := os.Open(path)
	if err != nil {
		return "", err
	}
	defer f.Close()
	h := xxhash.New()
	if _, err := io.Copy(h, f); err != nil {
		return "", err
	}
	return FormatSum(h.Sum64()), nil
}

// FormatSum writes a checksum as a manifest holds it.
func FormatSum(sum uint64) string { return fmt.Sprintf("xxh64:%016x", sum) }

func sumAndFlush(path string) (string, error) {
	s, err := Sum(path)
	if err != nil {
		return "", err
	}
	return s, flush(path)
}

func flush(path string) error {
	f, err := os.OpenFile(path, os.O_RDWR, 0)
	if err != nil {
		return err
	}
	return errors.Join(disk.Flush(f), f.Close())
}
