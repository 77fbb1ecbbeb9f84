package rehearse

import (
	"bufio"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/charset"
	"zetanum/core/disk"
	"zetanum/core/distinct"
	"zetanum/core/export"
	"zetanum/core/line"
	"zetanum/core/present"
	"zetanum/core/sheet"
	"zetanum/core/spill"
	"zetanum/core/template"
)

// eachChanged calls do with the rows of the shop that would change, and the row of the file by which they do.
func (r *rehearsal) eachChanged(do func(row *catalogue.Row, at int) error) error {
	n := 0
	var failed error
	err := r.shop.EachProduct(func() { n = 0 }, func(row *catalogue.Row) {
		if row.Blank() || failed != nil {
			return
		}
		if n++; n/64 >= len(r.shopRows) || r.shopRows[n/64]&(1<<(n%64)) == 0 {
			return
		}
		if at := r.byKey.Find(distinct.KeyOf(r.keyOf(row, 1))); at >= 0 && r.state[at]&refused == 0 {
			failed = do(row, at)
		}
	})
	return errors.Join(err, failed)
}

// emptied returns what stands in a cell that the way back is to empty, and counts it if there is no word for that.
func (r *rehearsal) emptied() string {
	if r.Empty == "" && r.Blank != BlankClears {
		r.report.NoWay++
	}
	return r.Empty
}

// wayBack writes the way back: for each product that would change its key, and what the shop has now in all columns that change anywhere.
func (r *rehearsal) wayBack() (lists []string, err error) {
	var changed []int // pairs
	headings := []string{r.report.ShopKey}
	for n := range r.pairs {
		if p := &r.pairs[n]; p.change.Cells > 0 {
			changed = append(changed, n)
			headings = append(headings, r.shop.Columns.Headings[p.Cols[1]])
		}
	}
	back := r.list(WayBackName, headings...)
	cells := make([]string, len(headings))
	err = r.eachChanged(func(row *catalogue.Row, at int) error {
		cells[0] = row.Cell(r.key[1])
		for i, pair := range changed {
			cells[i+1] = row.Cell(r.pairs[pair].Cols[1])
			if strings.TrimSpace(cells[i+1]) == "" && r.hashes.of(at)[pair] != 0 {
				cells[i+1] = r.emptied()
			}
		}
		back.row(cells...)
		return nil
	})
	err = errors.Join(err, back.close())
	return written(back), err
}

// A formBack is the way back in the form in which the file is: its rows that change something, with what the shop has now in the cells that do.
// What the form does not take stays as it is in the file, and goes into a list.
type formBack struct {
	*rehearsal
	texts   spill.Bytes // what the shop has, for each row the length, and for each cell the pair, the length and the text
	at      []int64     // where these are, by the row of the file; -1 if there are none
	writers []*template.Writer
	read    []template.Reading
	charset charset.Charset
	filled  []bool // which columns have anything in them
	byHand  *list
}

// newFormBack takes down what the shop has now in the cells that change.
func (r *rehearsal) newFormBack() (*formBack, error) {
	b := &formBack{rehearsal: r, texts: spill.Bytes{Dir: r.Temp, Most: 8 << 20}, at: slices.Repeat([]int64{-1}, len(r.state)), filled: make([]bool, len(r.Form.Columns))}
	for n := range r.pairs {
		p := &r.pairs[n]
		var cells []string
		for _, row := range r.shop.Sample {
			if p.Cols[1] < len(row) {
				cells = append(cells, row[p.Cols[1]])
			}
		}
		b.writers = append(b.writers, r.Form.Writer(p.Cols[0], r.shop.Columns.Headings[p.Cols[1]], 0, false))
		reading := p.Reading(present.Shops)
		reading.Several = template.Several(cells)
		b.read = append(b.read, reading)
	}
	var text []byte
	err := r.eachChanged(func(row *catalogue.Row, at int) (err error) {
		text = append(text[:0], 0, 0, 0, 0)
		sums := r.hashes.of(at)
		for n := range r.pairs {
			p := &r.pairs[n]
			cell := row.Cell(p.Cols[1])
			has := p.Sum(cell, present.Shops)
			if p.Cols[1] == r.key[1] || has == sums[n] || has == 0 && sums[n] == emptying || sums[n] == 0 && r.Blank == BlankKeeps {
				continue
			}
			text = binary.LittleEndian.AppendUint16(text, uint16(n))
			text = append(binary.LittleEndian.AppendUint32(text, uint32(len(cell))), cell...)
		}
		binary.LittleEndian.PutUint32(text, uint32(len(text)))
		b.at[at], err = b.texts.Append(text)
		return err
	})
	return b, errors.Join(err, b.texts.Flush())
}

// row returns a row of the way back: that of the file, with what the shop has now in the cells that change.
func (b *formBack) row(row *catalogue.Row, n int) ([]string, error) {
	cells := slices.Clone(row.Cells)
	for len(cells) < len(b.filled) {
		cells = append(cells, "")
	}
	size, err := b.texts.At(b.at[n], 4)
	if err != nil {
		return nil, err
	}
	text, err := b.texts.At(b.at[n], int(binary.LittleEndian.Uint32(size)))
	if err != nil {
		return nil, err
	}
	type change struct {
		pair int
		cell string
	}
	var changes []change
	for text = text[4:]; len(text) > 0; {
		length := int(binary.LittleEndian.Uint32(text[2:]))
		changes = append(changes, change{int(binary.LittleEndian.Uint16(text)), string(text[6 : 6+length])})
		text = text[6+length:]
	}
	depends := func(c change) int { return min(1, b.Form.Columns[b.pairs[c.pair].Cols[0]].Depends) }
	slices.SortStableFunc(changes, func(a, c change) int { return depends(a) - depends(c) })
	for _, c := range changes {
		col := b.pairs[c.pair].Cols[0]
		if strings.TrimSpace(c.cell) == "" {
			if b.Form.Columns[col].Need == template.Required {
				b.cannot(row, col, c.cell, "must be filled in the template")
				continue
			}
			cells[col] = b.emptied()
			continue
		}
		parent := ""
		if at := b.Form.Columns[col].Depends; at > 0 {
			parent = cells[at-1]
		}
		after, left, wrong := b.writers[c.pair].Write(c.cell, parent, &b.read[c.pair])
		_, _, has := b.charset.Append(nil, []byte(after))
		switch {
		case wrong.Kind != template.Fits:
			b.cannot(row, col, c.cell, wrong.Says)
		case left > 0:
			b.cannot(row, col, c.cell, "has more values than the template takes")
		case !has:
			b.cannot(row, col, c.cell, "has characters that are not in the encoding of the file")
		default:
			cells[col] = after
		}
	}
	return cells, nil
}

// cannot takes down a cell that cannot be put back in the form.
func (b *formBack) cannot(row *catalogue.Row, col int, cell, why string) {
	b.report.Unfit++
	b.byHand.row(b.keyOf(row, 0), b.ready.Columns.Headings[col], cell, why)
}

// output says how the way back is written: as the file is, or as plain CSV if that is a workbook.
func (b *formBack) output() *line.Output {
	table := b.ready
	if table.Form.Spooled { // a workbook
		return &line.Output{Style: sheet.Style{Separator: ',', Quote: '"', Quotes: sheet.QuotesNeeded}, LineEnd: "\r\n"}
	}
	out := &line.Output{Style: table.Style(), LineEnd: table.Form.LineEnd, Charset: table.Form.Charset}
	if table.Transcoded != charset.UTF8 {
		out.Charset = table.Transcoded
	}
	out.BOM = table.Form.BOM && out.Charset.Marked()
	if c := out.Charset; c != charset.UTF8 {
		out.Encode = func(dst, rows []byte) ([]byte, error) {
			encoded, bad, ok := c.Append(dst, rows)
			if !ok {
				return dst, fmt.Errorf("%s: %s has no %q", WayBackName, c, bad)
			}
			return encoded, nil
		}
	}
	return out
}

// write writes the way back, of a form that is a workbook as such, too.
func (b *formBack) write() (lists []string, err error) {
	defer func() { err = errors.Join(err, b.texts.Close()) }()
	out := b.output()
	b.charset = out.Charset
	b.byHand = b.list(ByHandName, b.report.Key, "Column", "In the shop now", "Why")
	head, above, below := b.Form.Head(out.Style, out.LineEnd)
	text := []byte(head)
	if out.BOM {
		text = append([]byte(charset.BOM), text...)
	}
	if out.Encode != nil {
		if text, err = out.Encode(nil, text); err != nil {
			return nil, err
		}
	}
	path := filepath.Join(b.Dir, WayBackName)
	cuts, err := b.rows(path, text, out)
	if err = errors.Join(err, b.byHand.close()); err != nil {
		return nil, err
	}
	lists, err = b.forms(&export.Ready{Path: path, Output: out, Above: above, Below: below, Columns: &b.ready.Columns, Sample: b.ready.Sample, Template: b.Form,
		Filled: b.filled, Rows: len(cuts)}, int64(len(text)), cuts)
	return append(lists, written(b.byHand)...), err
}

// rows writes the rows below the head, and returns how much each takes.
func (b *formBack) rows(path string, head []byte, out *line.Output) (cuts []line.Cut, err error) {
	file, err := os.Create(path)
	if err != nil {
		return nil, err
	}
	buffered := bufio.NewWriterSize(file, 1<<18)
	buffered.Write(head) // errors show when it is flushed
	var counted countedWriter
	w := &sheet.RowsWriter{Style: out.Style, W: io.MultiWriter(buffered, &counted), LineEnd: out.LineEnd, Encode: out.Encode}
	n := -1
	var failed error
	err = b.ready.EachProduct(func() { n = -1 }, func(row *catalogue.Row) {
		if row.Blank() {
			return
		}
		if n++; b.at[n] < 0 || failed != nil {
			return
		}
		var cells []string
		if cells, failed = b.row(row, n); failed != nil {
			return
		}
		for i := range b.filled {
			b.filled[i] = b.filled[i] || cells[i] != ""
		}
		before := counted
		failed = w.Row(cells[:len(b.filled)])
		cuts = append(cuts, line.Cut{Bytes: int(counted - before), Rows: 1})
	})
	return cuts, errors.Join(err, failed, buffered.Flush(), disk.Flush(file), file.Close())
}

// forms cuts what was written if it is more than the importer takes, and writes it as the workbook that the form is.
func (b *formBack) forms(ready *export.Ready, head int64, cuts []line.Cut) (lists []string, err error) {
	var forms []string
	if b.Form.Kind != "" {
		forms = append(forms, export.FormOf(b.Form))
	}
	parts, err := ready.Cut(b.Cut, head, cuts, forms)
	if err != nil {
		return nil, err
	}
	names := []string{WayBackName}
	if parts == nil {
		for _, form := range forms {
			if err := ready.Write(form); err != nil {
				return nil, err
			}
		}
	} else {
		names = nil
		for _, part := range parts {
			names = append(names, part.Name)
		}
		if err := os.Remove(ready.Path); err != nil { // it is more than the importer takes
			return nil, err
		}
	}
	for _, name := range names {
		lists = append(lists, name)
		for _, form := range forms {
			lists = append(lists, strings.TrimSuffix(name, "csv")+form)
		}
	}
	return lists, nil
}

// A countedWriter counts what is written.
type countedWriter int64

func (c *countedWriter) Write(b []byte) (int, error) {
	*c += countedWriter(len(b))
	return len(b), nil
}
