package template

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"

	"zetanum/core/workbook"
)

// A File is a template that is read, also one that lies in an archive.
type File struct {
	*io.SectionReader
	member string // how it is called in its archive; "" if it lies in none
	done   func() error
}

// Close ends it.
func (f *File) Close() error { return f.done() }

// Open opens the template once more, such as to fill it.
func (t *Template) Open() (*File, error) { return openFile(t.Path) }

// openFile opens a template: a file, the only one in an archive, or one of several there, forms.zip/lamps.xlsx.
func openFile(name string) (*File, error) {
	info, err := os.Stat(name)
	switch {
	case err != nil && !errors.Is(err, fs.ErrPermission):
		if archive, member := inArchive(name); archive != "" {
			return openMember(archive, member)
		}
		if errors.Is(err, fs.ErrNotExist) {
			return nil, fmt.Errorf("%s: %w. Check the spelling of the name and the folder in which it is looked for", name, fs.ErrNotExist)
		}
		return nil, err
	case err != nil:
		return nil, err
	case info.IsDir():
		return nil, fmt.Errorf("%s: %w: it is a folder; name the form that lies in it", name, ErrNoForm)
	}
	members, isArchive, err := membersOf(name)
	switch {
	case err != nil:
		return nil, err
	case isArchive && len(members) == 1:
		return openMember(name, members[0])
	case isArchive && len(members) == 0:
		return nil, fmt.Errorf("%s: %w: it is an archive without a workbook or text file", name, ErrNoForm)
	case isArchive:
		return nil, fmt.Errorf("%s: %w: it is an archive with several: %s; name one, such as %s/%s", name, ErrNoForm, someOf(members), name, members[0])
	case info.Size() > mostBytes:
		return nil, tooLarge(name, info.Size())
	}
	f, err := os.Open(name)
	if err != nil {
		return nil, err
	}
	return &File{io.NewSectionReader(f, 0, info.Size()), "", f.Close}, nil
}

func tooLarge(name string, size int64) error {
	return fmt.Errorf("%s: %w: it has %d MB, and a form has a few", name, ErrNoForm, size>>20)
}

// inArchive returns the file on the way to a name that is no folder, and what it is called in there; "" if there is none.
func inArchive(name string) (archive, member string) {
	for dir := filepath.Dir(name); dir != filepath.Dir(dir); dir = filepath.Dir(dir) {
		if info, err := os.Stat(dir); err == nil {
			if rest, err := filepath.Rel(dir, name); err == nil && info.Mode().IsRegular() {
				return dir, filepath.ToSlash(rest)
			}
			break
		}
	}
	return "", ""
}

// membersOf returns the names of the files in an archive that may be templates; a workbook is none.
func membersOf(name string) (members []string, isArchive bool, err error) {
	f, err := os.Open(name)
	if err != nil {
		return nil, false, err
	}
	defer f.Close()
	info, err := f.Stat()
	if err != nil {
		return nil, false, err
	}
	if head := make([]byte, 2); info.Size() < 4 || func() bool { _, err := f.ReadAt(head, 0); return err != nil || string(head) != "PK" }() {
		return nil, false, nil
	}
	if _, err := workbook.Open(f, info.Size()); !errors.Is(err, workbook.ErrNotWorkbook) {
		return nil, false, nil
	}
	archive, err := zip.NewReader(f, info.Size())
	if err != nil {
		return nil, false, fmt.Errorf("%s: %w: it is an archive that is damaged: %v", name, ErrNoForm, err)
	}
	for _, f := range archive.File {
		if member := strings.ReplaceAll(f.Name, `\`, "/"); !strings.HasPrefix(member, "__") && mayBeForm(member) {
			members = append(members, member)
		}
	}
	slices.Sort(members)
	if len(members) > 1 {
		members = withoutTexts(members, name+"/")
	}
	return members, true, nil
}

// formEndings are the endings of files that may be templates.
var formEndings = []string{".csv", ".tsv", ".tab", ".txt", ".xlsx", ".xlsm", ".ods", ".xls"}

// mayBeForm reports whether a file in a folder may be a template, by its name.
func mayBeForm(name string) bool {
	base := path.Base(name)
	return slices.Contains(formEndings, strings.ToLower(path.Ext(base))) && !strings.HasPrefix(base, ".") && !strings.HasPrefix(base, "~$")
}

// openMember opens a template in an archive.
func openMember(name, member string) (*File, error) {
	f, err := os.Open(name)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	info, err := f.Stat()
	if err != nil {
		return nil, err
	}
	archive, err := zip.NewReader(f, info.Size())
	if err != nil {
		return nil, fmt.Errorf("%s: %w: it is no folder, and no archive", name, ErrNoForm)
	}
	at := slices.IndexFunc(archive.File, func(f *zip.File) bool { return strings.ReplaceAll(f.Name, `\`, "/") == member })
	if at < 0 {
		return nil, fmt.Errorf("%s/%s: %w: there is no such file in the archive", name, member, fs.ErrNotExist)
	}
	if size := archive.File[at].UncompressedSize64; size > mostBytes {
		return nil, tooLarge(name+"/"+member, int64(min(size, 1<<62)))
	}
	if archive.File[at].Flags&1 != 0 { // general purpose bit flag, bit 0: encrypted (APPNOTE 4.4.4)
		return nil, fmt.Errorf("%s/%s: %w: it is protected with a password; unpack it, and name what comes out", name, member, ErrNoForm)
	}
	in, err := archive.File[at].Open()
	if err != nil {
		return nil, fmt.Errorf("%s/%s: %w: it cannot be unpacked: %v", name, member, ErrNoForm, err)
	}
	defer in.Close()
	content, err := io.ReadAll(io.LimitReader(in, mostBytes+1))
	switch {
	case err != nil:
		return nil, fmt.Errorf("%s/%s: %w: it cannot be unpacked: %v", name, member, ErrNoForm, err)
	case len(content) > mostBytes:
		return nil, tooLarge(name+"/"+member, int64(len(content)))
	}
	return &File{io.NewSectionReader(bytes.NewReader(content), 0, int64(len(content))), member, func() error { return nil }}, nil
}

// FormsIn returns the names of the templates in a folder, or in an archive that has more than one, in their order, so that [Learn] knows them;
// several is false if path is a template by itself. What is none by its ending, such as a guide, is passed over.
func FormsIn(name string) (names []string, several bool, err error) {
	info, err := os.Stat(name)
	if err != nil {
		return nil, false, nil // Learn says what is wrong
	}
	if !info.IsDir() {
		members, isArchive, err := membersOf(name)
		if err != nil || !isArchive || len(members) < 2 {
			return nil, false, err
		}
		for i := range members {
			members[i] = name + "/" + members[i]
		}
		return members, true, nil
	}
	list, err := os.ReadDir(name)
	if err != nil {
		return nil, false, err
	}
	for _, file := range list {
		if !file.IsDir() && mayBeForm(file.Name()) {
			names = append(names, filepath.Join(name, file.Name()))
		}
	}
	return withoutTexts(names, ""), true, nil
}

// withoutTexts leaves out of the names of files, in a folder or archive, those of texts to be read.
func withoutTexts(names []string, in string) []string {
	return slices.DeleteFunc(names, func(name string) bool {
		if !strings.EqualFold(filepath.Ext(name), ".txt") {
			return false
		}
		_, err := Learn(in + name)
		return errors.Is(err, ErrNoForm)
	})
}
