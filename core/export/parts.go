package export

import (
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"

	"zetanum/core/line"
	"zetanum/core/target"
)

// ErrLimit says that a product alone is more than the importer takes in a file.
var ErrLimit = errors.New("a product alone is more than the importer takes in a file")

// A Part is one of the files into which what is ready was cut.
type Part struct {
	Name string
	Rows int
}

// Cut writes what is ready in several files beside it, none of which has more than the limits, each with what stands above the products, and
// whole products. head is how many bytes that takes, cuts how much the products take; forms are those in which the files are written, too. If
// it is not more than the limits there are none.
func (r *Ready) Cut(limits target.Limits, head int64, cuts []line.Cut, forms []string) (parts []Part, err error) {
	most := int64(limits.Megabytes) * 1_000_000
	type stretch struct {
		from, size int64
		rows       int
	}
	var list []stretch
	at := head
	for _, c := range cuts {
		size := int64(c.Bytes)
		if limits.Rows > 0 && c.Rows > limits.Rows || most > 0 && head+size > most {
			return nil, fmt.Errorf("%w: it has %d rows and %d bytes, and %s are the limits of [target.limits]", ErrLimit, c.Rows, c.Bytes, saysLimits(limits))
		}
		n := len(list) - 1
		if n < 0 || limits.Rows > 0 && list[n].rows+c.Rows > limits.Rows || most > 0 && head+list[n].size+size > most {
			list = append(list, stretch{from: at})
			n++
		}
		list[n].rows, list[n].size = list[n].rows+c.Rows, list[n].size+size
		at += size
	}
	if len(list) < 2 {
		return nil, nil
	}
	source, err := os.Open(r.Path)
	if err != nil {
		return nil, err
	}
	defer source.Close()
	for n, s := range list {
		part := *r
		part.stem = fmt.Sprintf("ready-%d", n+1)
		part.Path, part.Rows = filepath.Join(filepath.Dir(r.Path), part.stem+".csv"), s.rows
		if err := copyParts(part.Path, io.NewSectionReader(source, 0, head), io.NewSectionReader(source, s.from, s.size)); err != nil {
			return nil, err
		}
		parts = append(parts, Part{part.stem + ".csv", s.rows})
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
	for _, in := range from {
		n, failed := io.Copy(out, in)
		if failed == nil && n != in.Size() {
			failed = io.ErrUnexpectedEOF
		}
		err = errors.Join(err, failed)
	}
	return errors.Join(err, out.Sync(), out.Close())
}
