package template

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"

	"golang.org/x/text/encoding/unicode"
	"golang.org/x/text/transform"

	"zetanum/core/charset"
	"zetanum/core/folder"
	"zetanum/core/sheet"
	"zetanum/core/workbook"
)

// A grid is a sheet with all that a form may say in it.
type grid struct {
	name    string
	hidden  bool
	rows    [][]string // by row and column, counted from 0; rows may end early
	fills   map[workbook.Place]string
	demands []workbook.Demand
	merged  []workbook.Area
	unseen  []workbook.Range // columns that are not shown
}

// A source is the file of a template: its sheets, one for a text file.
type source struct {
	grids []*grid
	names map[string]string // what names of a workbook stand for
	text  *Text             // nil of a workbook
	kind  string            // of a workbook
}

// Text says how a form is written that is a text file.
type Text struct {
	sheet.Style
	LineEnd string
	Charset charset.Charset
	BOM     bool

	whole string // all of it, in UTF-8
	ends  []int  // where each of its records ends
}

// What is read of a template: it is a form, and no catalogue.
const (
	mostBytes = 64 << 20
	mostRows  = 5000
	fillRows  = 60 // rows of which the colours are looked at
)

// ErrNoForm says that a file is no template.
var ErrNoForm = errors.New("it is no template that can be read")

// open reads a template.
func open(path string) (*source, error) {
	if strings.EqualFold(filepath.Ext(path), ".toml") {
		return nil, fmt.Errorf("%s: %w: it is a rulebook; the form is a text file or a workbook", path, ErrNoForm)
	}
	f, err := openFile(path)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	head := make([]byte, 8)
	n, _ := io.ReadFull(f, head)
	if head = head[:n]; bytes.HasPrefix(head, []byte("PK")) || bytes.HasPrefix(head, []byte(workbook.Binary)) {
		s, err := openBook(f, f.Size())
		if errors.Is(err, workbook.ErrNotWorkbook) {
			return nil, fmt.Errorf("%s: %w: it is an archive in an archive; unpack it first", path, ErrNoForm)
		}
		if err != nil {
			return nil, fmt.Errorf("%s: %w", path, err)
		}
		return s, nil
	}
	return openText(path, f)
}

// openBook reads the sheets of a workbook.
func openBook(r io.ReaderAt, size int64) (*source, error) {
	book, err := workbook.Open(r, size)
	if err != nil {
		return nil, err
	}
	s := &source{kind: book.Ending()}
	if s.names, err = book.Names(); err != nil {
		return nil, err
	}
	for _, of := range book.Sheets {
		g := &grid{name: of.Name, hidden: of.Hidden}
		err := book.Rows(of, func(row *workbook.Row) error {
			if row.Number > mostRows {
				return io.EOF
			}
			for len(g.rows) < row.Number {
				g.rows = append(g.rows, nil)
			}
			cells := make([]string, 0, len(row.Cells))
			for i := range row.Cells {
				for len(cells) < row.Cells[i].Col-1 {
					cells = append(cells, "")
				}
				cells = append(cells, strings.Clone(row.Cells[i].Text))
			}
			g.rows[row.Number-1] = cells
			return nil
		})
		if err != nil && !errors.Is(err, io.EOF) {
			return nil, err
		}
		g.merged, g.unseen = of.Merged, of.HiddenColumns
		if g.demands, err = book.Demands(of); err != nil {
			return nil, err
		}
		if g.fills, err = book.Fills(of, fillRows); err != nil {
			return nil, err
		}
		s.grids = append(s.grids, g)
	}
	return s, nil
}

// openText reads a text file: each record is a row.
func openText(path string, f *File) (*source, error) {
	temp, err := folder.NewTemp()
	if err != nil {
		return nil, err
	}
	defer temp.Remove()
	data, err := io.ReadAll(io.NewSectionReader(f, 0, f.Size()))
	if err != nil {
		return nil, err
	}
	from := path
	if f.member != "" {
		from = filepath.Join(temp.Dir, "form"+filepath.Ext(f.member))
		if err := os.WriteFile(from, data, 0o600); err != nil {
			return nil, err
		}
	}
	table, err := sheet.Open(from, sheet.Options{Spool: temp.Dir, AnyHeadings: true})
	if err != nil {
		return nil, err
	}
	defer table.Close()
	if bytes.HasPrefix(data, []byte("\xff\xfe")) || bytes.HasPrefix(data, []byte("\xfe\xff")) {
		if data, err = decodeMarked(data); err != nil {
			return nil, fmt.Errorf("%s: %w", path, err)
		}
	}
	data = bytes.TrimPrefix(data, []byte("\ufeff"))
	whole := table.Form.Decode(string(data))
	r := csv.NewReader(strings.NewReader(whole))
	r.Comma, r.FieldsPerRecord, r.LazyQuotes = rune(table.Form.Separator), -1, true
	g := &grid{name: filepath.Base(path)}
	text := &Text{Style: table.Style(), LineEnd: table.Form.LineEnd, Charset: table.Form.Charset, BOM: table.Form.BOM, whole: whole}
	if table.Transcoded != charset.UTF8 {
		text.Charset = table.Transcoded
	}
	for len(g.rows) < mostRows {
		cells, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, fmt.Errorf("%s: %w", path, err)
		}
		g.rows, text.ends = append(g.rows, cells), append(text.ends, int(r.InputOffset()))
	}
	return &source{grids: []*grid{g}, text: text}, nil
}

func decodeMarked(data []byte) ([]byte, error) {
	decoded, _, err := transform.Bytes(unicode.BOMOverride(transform.Nop), data)
	return decoded, err
}

// cell returns the text of a cell, counted from 1, without spaces around it.
func (g *grid) cell(col, row int) string {
	if row < 1 || row > len(g.rows) || col < 1 || col > len(g.rows[row-1]) {
		return ""
	}
	return strings.TrimSpace(g.rows[row-1][col-1])
}
