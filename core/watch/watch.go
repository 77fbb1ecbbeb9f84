// Package watch says which files in a folder are complete and have not been worked on yet.
//
// It looks at names, sizes and times, again and again; there is no other way that holds on every share. A file is complete when two looks, one after the
// other, have seen it with the same size and time, nobody keeps it locked, and no program has left its mark beside it that it is still open there. What
// has been worked on is known by its checksum and stands in a list in the folder itself, a line of JSON for each, so that it is known after whatever
// has stopped the program, and for a file that comes again under another name.
package watch

import (
	"bufio"
	"bytes"
	"encoding/json"
	"errors"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"zetanum/core/disk"
	"zetanum/core/folder"
)

// ListName is the name of the list of what has been worked on.
const ListName = "zetanum.watched"

// An Entry is what became of a file.
type Entry struct {
	Sum    string `json:"sum"`
	Name   string `json:"name"`
	Date   string `json:"date"`
	Ready  int    `json:"ready"`
	Held   int    `json:"held"`
	Aside  int    `json:"set_aside"`
	Folder string `json:"folder"` // of what came of it
}

// kinds are the ends of names of files that may have a table.
var kinds = []string{".csv", ".tsv", ".txt", ".xlsx", ".xlsm", ".xls", ".ods", ".json", ".jsonl", ".zip"}

// A stamp is how a file looks from outside.
type stamp struct {
	size int64
	time int64
}

// A Folder is one that is watched.
type Folder struct {
	dir  string
	seen map[string]stamp // by the last look
	held map[string]stamp // files that have been handed out as they are, and need not be again
	done map[string]Entry // by checksum
}

// Open reads what has been worked on in a folder. A last line that was not written to its end, because something stopped the program, is cut off.
func Open(dir string) (*Folder, error) {
	info, err := os.Stat(dir)
	if err != nil {
		return nil, err
	}
	if !info.IsDir() {
		return nil, &fs.PathError{Op: "watch", Path: dir, Err: errors.New("this is no folder")}
	}
	f := &Folder{dir: dir, seen: make(map[string]stamp), held: make(map[string]stamp), done: make(map[string]Entry)}
	path := filepath.Join(dir, ListName)
	content, err := os.ReadFile(path)
	if errors.Is(err, fs.ErrNotExist) {
		return f, nil
	}
	if err != nil {
		return nil, err
	}
	whole := bytes.LastIndexByte(content, '\n') + 1
	if whole < len(content) {
		if err := os.Truncate(path, int64(whole)); err != nil {
			return nil, err
		}
	}
	lines := bufio.NewScanner(bytes.NewReader(content[:whole]))
	lines.Buffer(nil, 1<<20)
	for lines.Scan() {
		var e Entry
		if json.Unmarshal(lines.Bytes(), &e) == nil && e.Sum != "" {
			f.done[e.Sum] = e
		}
	}
	return f, lines.Err()
}

// Look looks at the folder, and returns the names of the files that are complete and have not been handed out yet, in their order.
func (f *Folder) Look() (complete []string, err error) {
	entries, err := os.ReadDir(f.dir)
	if err != nil {
		return nil, err
	}
	open := make(map[string]bool) // names whose programs have left a mark
	for _, e := range entries {
		name := e.Name()
		if of, ok := strings.CutPrefix(name, "~$"); ok {
			open[of] = true
		}
		if of, ok := strings.CutPrefix(name, ".~lock."); ok {
			open[strings.TrimSuffix(of, "#")] = true
		}
	}
	seen := make(map[string]stamp)
	for _, e := range entries {
		name := e.Name()
		if !e.Type().IsRegular() || strings.HasPrefix(name, ".") || strings.HasPrefix(name, "~") || !slices.Contains(kinds, strings.ToLower(filepath.Ext(name))) {
			continue
		}
		info, err := e.Info()
		if err != nil {
			continue // it has gone since
		}
		now := stamp{info.Size(), info.ModTime().UnixNano()}
		seen[name] = now
		was, before := f.seen[name]
		if !before || was != now || now.size == 0 || f.held[name] == now || open[name] || open[shortened(name)] || !readable(filepath.Join(f.dir, name)) {
			continue
		}
		complete = append(complete, name)
		f.held[name] = now
	}
	f.seen = seen
	return complete, nil
}

// shortened is how a program calls a file of a long name in the mark that it leaves: without its first two characters.
func shortened(name string) string {
	if len(name) > 2 {
		return name[2:]
	}
	return name
}

// readable reports whether a file can be opened, which some systems refuse while another program writes it.
func readable(path string) bool {
	f, err := os.Open(path)
	if err != nil {
		return false
	}
	defer f.Close()
	_, err = f.Read(make([]byte, 1))
	return err == nil || errors.Is(err, io.EOF)
}

// Again has a file handed out once more although it has not changed: something else has, by which it could not be worked on.
func (f *Folder) Again(name string) { delete(f.held, name) }

// Done returns what became of a file with the same content, and the checksum of this one; ok is false if nothing did yet.
func (f *Folder) Done(name string) (e Entry, sum string, ok bool, err error) {
	if sum, err = folder.Sum(filepath.Join(f.dir, name)); err != nil {
		return e, "", false, err
	}
	e, ok = f.done[sum]
	return e, sum, ok, nil
}

// Note takes down what became of a file, on the disk before it returns.
func (f *Folder) Note(e Entry) error {
	line, err := json.Marshal(e)
	if err != nil {
		return err
	}
	list, err := os.OpenFile(filepath.Join(f.dir, ListName), os.O_CREATE|os.O_APPEND|os.O_WRONLY, 0o666)
	if err != nil {
		return err
	}
	_, err = list.Write(append(line, '\n'))
	if err = errors.Join(err, disk.Flush(list), list.Close()); err == nil {
		f.done[e.Sum] = e
	}
	return err
}
