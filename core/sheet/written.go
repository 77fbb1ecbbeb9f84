package sheet

import (
	"bufio"
	"io"
	"math"
	"os"
	"path/filepath"

	"zetanum/core/catalogue"
	"zetanum/core/charset"
)

// OpenWritten opens a CSV file of which it is known how it was written, from that byte
// on. Nothing is found out about it, and all its rows are rows of the table. What must
// be brought to another form before it can be read goes into a file in the folder spool
// for a while.
func OpenWritten(path string, from int64, style Style, c charset.Charset, spool string) (*Table, error) {
	t := &Table{Path: path, Name: filepath.Base(path), start: from, opt: Options{Spool: spool}}
	t.Form = Form{Encoding: Encoding{Charset: c}, Separator: style.Separator, LineEnd: "\n"}
	var err error
	if t.file, err = os.Open(path); err != nil {
		return nil, err
	}
	if c.Wide() || style.Quote != '"' {
		if err := t.simplify(style); err != nil {
			t.Close()
			return nil, err
		}
	}
	return t, nil
}

// simplify brings what was written in UTF-16 and the like, or with other quotation
// marks, to the form of spooled rows.
func (t *Table) simplify(style Style) error {
	source, done := t.giveUp()
	defer done()
	spool, err := t.newSpool()
	if err != nil {
		return err
	}
	var in io.Reader = io.NewSectionReader(source, t.start, math.MaxInt64-t.start)
	decode := t.Form.Charset.Decode
	if t.Form.Charset.Wide() {
		in = t.Form.Charset.Reader(in)
		decode = func(b []byte) []byte { return b }
	}
	out := newSpoolWriter(spool)
	out.exact = true
	f := flavour{separator: style.Separator, quote: style.Quote}
	err = f.read(bufio.NewReaderSize(in, 1<<20), func(cell []byte, _ bool) {
		out.cell(string(decode(cell)), catalogue.Mark(0))
	}, out.endRow)
	if err == nil {
		err = out.flush()
	}
	t.start, t.Form = 0, Form{Spooled: true, Separator: ','}
	return err
}

// OpenSpooled opens a file of rows as [AppendSpooled] writes them; all of them are rows
// of the table.
func OpenSpooled(path string) (*Table, error) {
	t := &Table{Path: path, Name: filepath.Base(path), Form: Form{Spooled: true, Separator: ','}}
	var err error
	t.file, err = os.Open(path)
	return t, err
}
