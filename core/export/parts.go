package export

import (
	"bufio"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"zetanum/core/disk"
	"zetanum/core/line"
	"zetanum/core/lists"
	"zetanum/core/target"
	"zetanum/core/text"
)

// ErrLimit says that a product alone is more than the importer takes in a file.
var ErrLimit = errors.New("a product alone is more than the importer takes in a file")

// A Part is one of the files into which what is ready was cut.
type Part struct {
	Name string
	Rows int
	Into string `json:",omitempty"` // what its products have in common, such as a category
}

// OnlyParts reports whether parts take the place of the whole: they are what the importer takes at a time, one after the other.
func OnlyParts(parts []Part) bool {
	return len(parts) > 0 && !slices.ContainsFunc(parts, func(p Part) bool { return p.Into != "" })
}

// ErrFiles says that what is ready would be written in too many files.
var ErrFiles = errors.New("too many files")

// mostFiles is how many files are written at most for the values of a column.
const mostFiles = 500

// A piece is a part while it is found out what goes into it.
type piece struct {
	name      string
	into      string
	stretches []stretch // of what is ready
	size      int64
	rows      int
}

type stretch struct{ from, size int64 }

// add adds a product that lies behind all others.
func (p *piece) add(from int64, c line.Cut) {
	if n := len(p.stretches) - 1; n >= 0 && p.stretches[n].from+p.stretches[n].size == from {
		p.stretches[n].size += int64(c.Bytes)
	} else {
		p.stretches = append(p.stretches, stretch{from, int64(c.Bytes)})
	}
	p.size, p.rows = p.size+int64(c.Bytes), p.rows+c.Rows
}

// pieces says what goes into which file.
func pieces(stem string, limits target.Limits, head int64, cuts []line.Cut) ([]piece, error) {
	most := int64(limits.Megabytes) * 1_000_000
	groups := make(map[string][]piece)
	var order []string
	at := head
	for _, c := range cuts {
		size := int64(c.Bytes)
		if limits.Rows > 0 && c.Rows > limits.Rows || most > 0 && head+size > most {
			return nil, fmt.Errorf("%w: it has %d rows and %d bytes, and %s are the limits of [target.limits]", ErrLimit, c.Rows, c.Bytes, saysLimits(limits))
		}
		key := lists.Fold(c.Into)
		group, known := groups[key]
		if !known {
			if order = append(order, key); len(order) > mostFiles {
				return nil, fmt.Errorf("%w: by = … of [target] would make more than %d files, one for each value; name a column with fewer values", ErrFiles, mostFiles)
			}
		}
		n := len(group) - 1
		if n < 0 || limits.Rows > 0 && group[n].rows+c.Rows > limits.Rows || most > 0 && head+group[n].size+size > most {
			group = append(group, piece{into: c.Into})
			n++
		}
		group[n].add(at, c)
		groups[key] = group
		at += size
	}
	if len(order) == 1 && order[0] == "" && len(groups[""]) < 2 {
		return nil, nil
	}
	var list []piece
	taken := make(map[string]int)
	for _, key := range order {
		stem := stemOf(stem, groups[key][0].into)
		if taken[stem]++; taken[stem] > 1 {
			stem = fmt.Sprintf("%s-other-%d", stem, taken[stem])
		}
		for n, p := range groups[key] {
			if p.name = stem; len(groups[key]) > 1 {
				p.name = fmt.Sprintf("%s-%d", stem, n+1)
			}
			list = append(list, p)
		}
	}
	return list, nil
}

// mostStem is how many letters of a value a name of a file has.
const mostStem = 60

// stemOf returns the name, without its ending, of the file for a value.
func stemOf(stem, into string) string {
	if into == "" {
		return stem
	}
	name := text.Slug(into)
	if name == "" {
		name = text.SlugLetters(into)
	}
	if runes := []rune(name); len(runes) > mostStem {
		name = strings.Trim(string(runes[:mostStem]), "-")
	}
	if name == "" {
		name = "sign"
	}
	return stem + "-" + name
}

// Cut writes what is ready in several files beside it, none of which has more than the limits, each with what stands above the products, and
// whole products. head is how many bytes that takes, cuts how much the products take, and into which file each goes; forms are those in which
// the files are written, too. If it is not more than the limits, and all goes into one, there are none.
func (r *Ready) Cut(limits target.Limits, head int64, cuts []line.Cut, forms []string) (parts []Part, err error) {
	list, err := pieces(r.stem(), limits, head, cuts)
	if err != nil || list == nil {
		return nil, err
	}
	source, err := os.Open(r.Path)
	if err != nil {
		return nil, err
	}
	defer source.Close()
	for _, p := range list {
		part := *r
		part.Path, part.Rows = filepath.Join(filepath.Dir(r.Path), p.name+".csv"), p.rows
		from := []*io.SectionReader{io.NewSectionReader(source, 0, head)}
		for _, s := range p.stretches {
			from = append(from, io.NewSectionReader(source, s.from, s.size))
		}
		if err := copyParts(part.Path, from...); err != nil {
			return nil, err
		}
		parts = append(parts, Part{p.name + ".csv", p.rows, p.into})
		for _, form := range forms {
			if err := part.Write(form); err != nil {
				return nil, err
			}
		}
	}
	return parts, nil
}

func saysLimits(l target.Limits) string {
	switch {
	case l.Megabytes == 0:
		return fmt.Sprintf("%d rows", l.Rows)
	case l.Rows == 0:
		return fmt.Sprintf("%d megabytes", l.Megabytes)
	}
	return fmt.Sprintf("%d rows and %d megabytes", l.Rows, l.Megabytes)
}

// copyParts writes a file that has what is read, one after the other.
func copyParts(path string, from ...*io.SectionReader) error {
	out, err := os.Create(path)
	if err != nil {
		return err
	}
	buffered := bufio.NewWriterSize(out, 1<<20)
	for _, in := range from {
		n, failed := io.Copy(buffered, in)
		if failed == nil && n != in.Size() {
			failed = io.ErrUnexpectedEOF
		}
		err = errors.Join(err, failed)
	}
	return errors.Join(err, buffered.Flush(), disk.Flush(out), out.Close())
}
