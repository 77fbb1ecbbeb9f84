package export

import (
	"bufio"
	"errors"
	"fmt"
	"os"

	"zetanum/core/catalogue"
	"zetanum/core/disk"
	"zetanum/core/line"
	"zetanum/core/workbook"
)

// fill writes the workbook of the template with what is ready in it, and reads it back.
func (r *Ready) fill(path string) error {
	source, err := r.Template.Open()
	if err != nil {
		return err
	}
	defer source.Close()
	form, err := workbook.Open(source, source.Size())
	if err != nil {
		return fmt.Errorf("%s: %w", r.Template.Path, err)
	}
	table, err := r.open()
	if err != nil {
		return err
	}
	defer table.Close()
	filling := r.Template.Filling(r.Rows, r.Filled)
	var wrote tallyOf
	out, err := os.Create(path)
	if err != nil {
		return err
	}
	buffered := bufio.NewWriterSize(out, 1<<18)
	err = form.Fill(buffered, filling, func(do func([]workbook.Fill) error) error {
		n := 0
		var failed error
		cells := make([]workbook.Fill, len(r.Filled))
		valuers := make([]func(string) (string, bool), len(cells))
		for i := range cells {
			cells[i].Code, valuers[i] = r.Template.KindOf(i) == catalogue.CodeKind, r.Template.Valuer(i)
		}
		err := table.Each(func() {}, func(row *catalogue.Row) {
			if n++; n <= r.Above+r.Below || failed != nil {
				return
			}
			for i := range cells {
				cells[i].Text = row.Cell(i)
				cells[i].Value, cells[i].Date = valuers[i](cells[i].Text)
			}
			failed = do(cells)
		})
		return errors.Join(err, failed)
	}, wrote.add)
	if err := errors.Join(err, buffered.Flush(), disk.Flush(out), out.Close()); err != nil {
		return err
	}
	read, err := r.readFilled(path, &filling)
	if err != nil {
		return fmt.Errorf("read back: %w", err)
	}
	if wrote != read {
		return line.ErrReadBack
	}
	return nil
}

// readFilled reads what was written into a form.
func (r *Ready) readFilled(path string, filling *workbook.Filling) (t tallyOf, err error) {
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
	for _, s := range book.Sheets {
		if s.Name != filling.Sheet {
			continue
		}
		return t, book.Rows(s, func(row *workbook.Row) error {
			for _, c := range row.Cells {
				if row.Number >= filling.First && c.Col <= len(filling.Columns) && filling.Columns[c.Col-1] && (row.Number < filling.First+filling.Rows || !c.Formula) {
					t.add(row.Number, c.Col, c.Text)
				}
			}
			return nil
		})
	}
	return t, fmt.Errorf("it has no sheet %s", filling.Sheet)
}
