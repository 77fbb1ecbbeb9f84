package sheet

import (
	"archive/zip"
	"compress/gzip"
	"errors"
	"fmt"
	"io"
	"math"
	"path"
	"slices"
	"strings"

	"github.com/cespare/xxhash/v2"
)

// The most that is unpacked of an archive: bytes, and times its size if that is more
// than a few megabytes.
const (
	mostUnpacked = 16 << 30
	mostRatio    = 1000
)

// openArchive unpacks the file of a zip archive that is to be read, and looks for the
// table there.
func (t *Table) openArchive() error {
	if t.Member != "" {
		return t.failNested()
	}
	archive, err := zip.NewReader(t.file, t.Size)
	if err != nil {
		return t.fail(ErrBinary, "it looks like an archive that is damaged: "+err.Error(), "Fetch it again, or unpack it.")
	}
	var members []*zip.File
	var names []string
	for _, f := range archive.File {
		name := strings.ReplaceAll(f.Name, `\`, "/")
		if base := path.Base(name); strings.HasSuffix(name, "/") || strings.HasPrefix(base, ".") || strings.HasPrefix(name, "__") {
			continue
		}
		members, names = append(members, f), append(names, name)
	}
	at := -1
	switch {
	case t.opt.Member != "":
		at = slices.IndexFunc(names, func(name string) bool {
			return strings.EqualFold(name, t.opt.Member) || strings.EqualFold(path.Base(name), t.opt.Member)
		})
		if at < 0 {
			return t.fail(ErrNoMember, t.opt.Member, "It has: "+strings.Join(names, ", ")+".")
		}
	case len(members) == 0:
		return t.fail(ErrBinary, "it is an archive without files", "Name a CSV file or a workbook.")
	default:
		for i, name := range names {
			if isTable := slices.Contains(tables, strings.ToLower(path.Ext(name))); len(members) == 1 || isTable && at < 0 {
				at = i
			} else if isTable {
				return t.fail(ErrMembers, strings.Join(names, ", "), "Name the one to read with the setting ‹member›.")
			}
		}
		if at < 0 {
			return t.fail(ErrMembers, strings.Join(names, ", "), "Name the one to read with the setting ‹member›.")
		}
	}
	f := members[at]
	if f.UncompressedSize64 > mostUnpacked || f.UncompressedSize64 > 64<<20 && f.UncompressedSize64/mostRatio > f.CompressedSize64 {
		return t.fail(ErrUnpacked, fmt.Sprintf("%s would have %d bytes, unpacked from %d", names[at], f.UncompressedSize64,
			f.CompressedSize64), "Unpack it yourself if you trust it.")
	}
	in, err := f.Open()
	if err != nil {
		return t.fail(ErrBinary, names[at]+" in it cannot be unpacked: "+err.Error(), "Unpack it with another program.")
	}
	defer in.Close()
	for i, name := range names {
		if i != at {
			t.Beside = append(t.Beside, name)
		}
	}
	return t.unpack(in, names[at], int64(f.UncompressedSize64))
}

// tables are the endings of files that may hold a table.
var tables = []string{".csv", ".tsv", ".txt", ".tab", ".xlsx", ".xlsm", ".ods", ".xls", ".json", ".jsonl"}

// openGzip unpacks a file that is compressed by itself.
func (t *Table) openGzip() error {
	if t.Member != "" {
		return t.failNested()
	}
	in, err := gzip.NewReader(io.NewSectionReader(t.file, 0, math.MaxInt64))
	if err != nil {
		return t.fail(ErrBinary, "it looks like a compressed file that is damaged: "+err.Error(), "Fetch it again, or unpack it.")
	}
	name := in.Name
	if name == "" {
		name = strings.TrimSuffix(t.Name, ".gz")
	}
	return t.unpack(in, path.Base(name), max(64<<20, min(mostUnpacked, mostRatio*t.Size)))
}

func (t *Table) failNested() error {
	return t.fail(ErrBinary, "it is an archive in an archive", "Unpack it first.")
}

// unpack writes down what is read of a file in an archive, at most that many bytes, and
// looks for the table there.
func (t *Table) unpack(in io.Reader, name string, most int64) error {
	source, done := t.giveUp()
	defer done()
	sum := xxhash.New()
	if _, err := io.Copy(sum, io.NewSectionReader(source, 0, math.MaxInt64)); err != nil {
		return t.fail(err, "", "")
	}
	spool, err := t.newSpool()
	if err != nil {
		return err
	}
	n, err := io.Copy(spool, io.LimitReader(in, most+1))
	switch {
	case err != nil && !errors.Is(err, io.EOF):
		return t.fail(ErrBinary, name+" in it cannot be unpacked: "+err.Error(), "Fetch it again, or unpack it with another program.")
	case n > most:
		return t.fail(ErrUnpacked, name, "Unpack it yourself if you trust it.")
	}
	t.Member, t.BookSum = name, sum.Sum64()
	return t.sniff()
}
