package repair

import (
	"bufio"
	"errors"
	"fmt"
	"os"
	"path/filepath"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/line"
	"zetanum/core/sheet"
	"zetanum/core/workbook"
)

// WorkbookName is the workbook with what ready.csv has.
const WorkbookName = "ready.xlsx"

// Forms are the forms besides CSV in which what is ready can be written.
var Forms = []string{"xlsx"}

// export writes what is ready as a workbook, too, and reads it back.
func (r *runner) export(dir string) error {
	if r.opt.As != "xlsx" {
		return nil
	}
	path := filepath.Join(dir, WorkbookName)
	wrote, err := r.writeWorkbook(filepath.Join(dir, line.FileNames[0]), path)
	if err != nil {
		return fmt.Errorf("%s: %w", WorkbookName, err)
	}
	read, err := readBack(path)
	if err != nil {
		return fmt.Errorf("%s, read back: %w", WorkbookName, err)
	}
	if wrote != read {
		return fmt.Errorf("%s, read back: it does not say what was written", WorkbookName)
	}
	return nil
}

// A tallyOf is what a table says, in short: how many rows it has, and a checksum of its
// cells with their places.
type tallyOf struct {
	rows int
	sum  uint64
}

// add counts a cell that is not empty.
func (t *tallyOf) add(row, col int, cell string) {
	t.rows = max(t.rows, row)
	t.sum += xxhash.Sum64String(cell) * (uint64(row)<<20 | uint64(col)<<1 | 1) // of its place
}

func (r *runner) writeWorkbook(ready, path string) (t tallyOf, err error) {
	rules := &r.opt.Book.Target
	reading := sheet.Reading{Encoding: rules.Charset().String(), Separator: string(r.separator), Quote: `"`, HeadingRow: 1}
	if r.table.Heading == 0 && r.plan.Out == nil {
		reading.HeadingRow, reading.NoHeadings = 0, true
	}
	table, err := sheet.Open(ready, sheet.Options{Reading: reading, AnyHeadings: true, Spool: filepath.Dir(ready)})
	if err != nil {
		return t, err
	}
	defer table.Close()
	file, err := os.Create(path)
	if err != nil {
		return t, err
	}
	out := bufio.NewWriterSize(file, 1<<18)
	defer func() { err = errors.Join(err, out.Flush(), file.Sync(), file.Close()) }()
	w, err := workbook.NewWriter(out, "Products")
	if err != nil {
		return t, err
	}
	rows := 0
	write := func(cells []string) error {
		rows++
		for col, cell := range cells {
			if cell != "" {
				t.add(rows, col+1, cell)
			}
		}
		return w.Row(cells)
	}
	if !reading.NoHeadings {
		if err := write(table.Columns.Headings); err != nil {
			return t, err
		}
	}
	var failed error
	err = table.Each(func() {}, func(row *catalogue.Row) {
		if failed == nil {
			failed = write(row.Cells)
		}
	})
	err = errors.Join(err, failed, w.Close())
	return t, err
}

// readBack reads what a workbook says.
func readBack(path string) (t tallyOf, err error) {
	file, err := os.Open(path)
	if err != nil {
		return t, err
	}
	defer file.Close()
	info, err := file.Stat()
	if err != nil {
		return t, err
	}
	book, err := workbook.Open(file, info.Size())
	if err != nil {
		return t, err
	}
	err = book.Rows(book.Sheets[0], func(row *workbook.Row) error {
		for _, c := range row.Cells {
			t.add(row.Number, c.Col, c.Text)
		}
		return nil
	})
	return t, err
}
