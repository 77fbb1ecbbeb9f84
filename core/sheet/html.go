package sheet

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"math"
	"strconv"
	"strings"

	"github.com/cespare/xxhash/v2"
	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"
	htmlcharset "golang.org/x/net/html/charset"

	"zetanum/core/catalogue"
	"zetanum/core/charset"
	"zetanum/core/heading"
	"zetanum/core/workbook"
)

// looksHTML reports whether a file begins as a web page does, or as a table out of one:
// some programs write such files and call them workbooks.
func looksHTML(head []byte) bool {
	head = bytes.TrimLeft(bytes.TrimPrefix(head, []byte(charset.BOM)), " \t\r\n")
	if len(head) == 0 || head[0] != '<' {
		return false
	}
	head = bytes.ToLower(head[:min(len(head), 4096)])
	for _, begin := range []string{"<!doctype html", "<html", "<table", "<head", "<meta", "<body", "<style"} {
		if bytes.HasPrefix(head, []byte(begin)) {
			return true
		}
	}
	return bytes.HasPrefix(head, []byte("<!--")) && bytes.Contains(head, []byte("<table")) ||
		bytes.HasPrefix(head, []byte("<?xml")) && bytes.Contains(head, []byte("<html"))
}

// openHTML spools the table of a web page in which most headings are known; among equals
// the first.
func (t *Table) openHTML() error {
	source, done := t.giveUp()
	defer done()
	sum := xxhash.New()
	best, most, tables := 0, 0, 0
	err := eachRow(io.TeeReader(io.NewSectionReader(source, 0, math.MaxInt64), sum), func(table, row int, cells []string) error {
		tables = max(tables, table)
		if known := heading.Count(cells) + 2*t.said(cells); row <= headingReach && known > most {
			best, most = table, known
		}
		return nil
	})
	switch {
	case err != nil:
		return t.fail(err, "", "")
	case best == 0 && tables == 1:
		best = 1
	case best == 0:
		none := "no table in it has headings that are known"
		if tables == 0 {
			none = "it has no table"
		}
		return t.fail(ErrPage, none, "If it should be a list, perhaps a login was wanted where it comes from; or save it there "+
			"in another form.")
	}
	if t.Member == "" { // or the sum is that of the archive
		t.BookSum = sum.Sum64()
	}
	spool, err := t.newSpool()
	if err != nil {
		return err
	}
	out := newSpoolWriter(spool)
	out.most = max(1<<30, mostRatio*t.Size)
	err = eachRow(io.NewSectionReader(source, 0, math.MaxInt64), func(table, row int, cells []string) error {
		if table != best {
			return nil
		}
		for _, cell := range cells {
			out.cell(cell, catalogue.Mark(0))
		}
		return out.endRow()
	})
	if err == nil {
		err = out.flush()
	}
	if err != nil {
		return t.fail(err, "", "")
	}
	if t.Extent, err = spool.Seek(0, io.SeekCurrent); err != nil {
		return err
	}
	t.page = fmt.Sprintf("web page, table %d of %d", best, tables)
	return t.findSpooled()
}

// eachRow calls do with the rows of all tables of a web page: the number of the table and
// of the row, both from 1, and the text of the cells. A cell that reaches over several
// columns or rows has its text in the first of them, and the others are empty. Tables
// within cells are text of these.
func eachRow(r io.Reader, do func(table, row int, cells []string) error) error {
	decoded, err := htmlcharset.NewReader(r, "")
	if errors.Is(err, io.EOF) {
		return nil
	}
	if err != nil {
		return err
	}
	z := html.NewTokenizer(decoded)
	z.SetMaxBuf(mostCell)
	p := htmlTable{do: do}
	for {
		switch z.Next() {
		case html.ErrorToken:
			err := z.Err()
			if errors.Is(err, html.ErrBufferExceeded) {
				return fmt.Errorf("%w: a cell of more than %d MB", ErrRowTooLarge, mostCell>>20)
			}
			if !errors.Is(err, io.EOF) {
				return err
			}
			return p.endRow()
		case html.TextToken:
			p.text(string(z.Text()))
		case html.StartTagToken, html.SelfClosingTagToken:
			err = p.start(z)
		case html.EndTagToken:
			name, _ := z.TagName()
			err = p.end(atom.Lookup(name))
		}
		if err != nil {
			return err
		}
	}
}

// An htmlTable puts the cells of tables together.
type htmlTable struct {
	do     func(table, row int, cells []string) error
	depth  int // of tables
	tables int
	row    int
	cells  []string
	down   []int // for each column, how many rows more a cell from above reaches over it
	inRow  bool
	inCell bool
	cell   strings.Builder
	wide   int // columns that the cell reaches over
	high   int // rows
	hidden int // depth in what nobody sees
}

func (p *htmlTable) start(z *html.Tokenizer) error {
	name, attrs := z.TagName()
	switch a := atom.Lookup(name); a {
	case atom.Script, atom.Style, atom.Template:
		p.hidden++
	case atom.Table:
		if p.depth++; p.depth == 1 {
			p.tables++
			p.row, p.down = 0, nil
		}
	case atom.Tr:
		if p.depth != 1 {
			break
		}
		if err := p.endRow(); err != nil {
			return err
		}
		p.inRow = true
	case atom.Td, atom.Th:
		if p.depth != 1 {
			break
		}
		p.endCell()
		p.inRow, p.inCell, p.wide, p.high = true, true, 1, 1
		for attrs {
			var key, value []byte
			key, value, attrs = z.TagAttr()
			n, _ := strconv.Atoi(string(value))
			switch {
			case string(key) == "colspan" && n > 1 && n <= workbook.MostColumns:
				p.wide = n
			case string(key) == "rowspan" && n > 1 && n <= workbook.MostRows:
				p.high = n
			}
		}
	case atom.Br:
		p.text("\x00")
	case atom.P, atom.Div, atom.Li:
		if p.cell.Len() > 0 {
			p.text("\x00")
		}
	}
	return nil
}

func (p *htmlTable) end(a atom.Atom) error {
	switch a {
	case atom.Script, atom.Style, atom.Template:
		p.hidden = max(0, p.hidden-1)
	case atom.Td, atom.Th:
		if p.depth == 1 {
			p.endCell()
		}
	case atom.Tr:
		if p.depth == 1 {
			return p.endRow()
		}
	case atom.Table:
		if p.depth == 1 {
			if err := p.endRow(); err != nil {
				return err
			}
		}
		p.depth = max(0, p.depth-1)
	}
	return nil
}

// text adds to the cell, a NUL for a line break that is meant.
func (p *htmlTable) text(s string) {
	if p.inCell && p.hidden == 0 {
		p.cell.WriteString(s)
	}
}

// endCell puts the cell in its place.
func (p *htmlTable) endCell() {
	if !p.inCell {
		return
	}
	p.inCell = false
	p.covered()
	var b strings.Builder
	for line := range strings.SplitSeq(p.cell.String(), "\x00") {
		between := ""
		for word := range strings.FieldsFuncSeq(line, func(r rune) bool { return r < 0x80 && isSpaceByte(byte(r)) }) {
			b.WriteString(between)
			b.WriteString(word)
			between = " "
		}
		b.WriteByte('\n')
	}
	p.cell.Reset()
	text := strings.Trim(b.String(), "\n")
	for i := range p.wide {
		if len(p.cells) > workbook.MostColumns {
			return
		}
		for len(p.down) <= len(p.cells) {
			p.down = append(p.down, 0)
		}
		p.down[len(p.cells)] = p.high - 1
		if i > 0 {
			text = ""
		}
		p.cells = append(p.cells, text)
	}
}

func isSpaceByte(c byte) bool { return c == ' ' || c >= '\t' && c <= '\r' }

// covered puts empty cells where cells from above reach.
func (p *htmlTable) covered() {
	for len(p.cells) < len(p.down) && p.down[len(p.cells)] > 0 {
		p.down[len(p.cells)]--
		p.cells = append(p.cells, "")
	}
}

func (p *htmlTable) endRow() error {
	p.endCell()
	if !p.inRow {
		return nil
	}
	p.inRow = false
	p.covered()
	p.row++
	err := p.do(p.tables, p.row, p.cells)
	p.cells = p.cells[:0]
	return err
}
