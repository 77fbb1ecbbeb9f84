package folder

import (
	"os"
	"path/filepath"
)

// A Whole is a file that lies in a folder in parts only. Each of them begins with the same head; one after the other, they are what it was.
type Whole struct {
	Parts []string `json:"parts"` // their names
	Head  int64    `json:"head"`  // bytes
	Sum   string   `json:"sum"`   // the checksum of the whole
}

// WholeAt returns what is known of a file that is not there but in parts; ok is false if there is nothing.
func WholeAt(name string) (w Whole, ok bool) {
	m, err := ReadManifest(filepath.Dir(name))
	if err != nil {
		return w, false
	}
	w, ok = m.InParts[filepath.Base(name)]
	return w, ok
}

// InParts takes a file away that lies there in parts, too, each of which begins with the head of so many bytes.
func (j *Job) InParts(name string, head int64, parts []string) (err error) {
	path := filepath.Join(j.part, name)
	w := Whole{Parts: parts, Head: head, Sum: j.sums[name]}
	if w.Sum == "" {
		if w.Sum, err = Sum(path); err != nil {
			return err
		}
	}
	if j.wholes == nil {
		j.wholes = make(map[string]Whole)
	}
	j.wholes[name] = w
	return j.Drop(name)
}

// Drop takes a file away that was written.
func (j *Job) Drop(name string) error {
	delete(j.sums, name)
	return os.Remove(filepath.Join(j.part, name))
}
