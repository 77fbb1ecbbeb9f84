package sheet

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"slices"
	"strings"
)

// A LinesWriter writes JSON Lines: for each row an object with a text for every heading,
// empty ones too.
type LinesWriter struct {
	w    io.Writer
	keys []string // as they stand before the texts
	buf  bytes.Buffer
	enc  *json.Encoder
}

// NewLinesWriter writes objects with those names. Names that are empty or there twice
// are told apart by numbers.
func NewLinesWriter(w io.Writer, headings []string) *LinesWriter {
	l := &LinesWriter{w: w}
	l.enc = json.NewEncoder(&l.buf)
	l.enc.SetEscapeHTML(false)
	for i, name := range Names(headings) {
		l.buf.Reset()
		l.text(name)
		between := ","
		if i == 0 {
			between = "{"
		}
		l.keys = append(l.keys, between+l.buf.String()+":")
	}
	l.buf.Reset()
	return l
}

// Names returns headings as names, of which none is empty or there twice.
func Names(headings []string) (names []string) {
	for i, h := range headings {
		name := strings.TrimSpace(h)
		if name == "" {
			name = fmt.Sprintf("Column %d", i+1)
		}
		first := name
		for n := 2; slices.Contains(names, name); n++ {
			name = fmt.Sprintf("%s %d", first, n)
		}
		names = append(names, name)
	}
	return names
}

func (l *LinesWriter) text(s string) {
	l.enc.Encode(s) // to memory: does not fail
	l.buf.Truncate(l.buf.Len() - 1)
}

// Row writes the next row.
func (l *LinesWriter) Row(cells []string) error {
	l.buf.Reset()
	for i, key := range l.keys {
		l.buf.WriteString(key)
		cell := ""
		if i < len(cells) {
			cell = cells[i]
		}
		l.text(cell)
	}
	l.buf.WriteString("}\n")
	_, err := l.w.Write(l.buf.Bytes())
	return err
}

// Close ends the file.
func (l *LinesWriter) Close() error { return nil }

// A RowsWriter writes the rows of a CSV file.
type RowsWriter struct {
	Style
	W       io.Writer
	LineEnd string
	Encode  func(dst, rows []byte) ([]byte, error) // nil for UTF-8

	row, encoded []byte
}

// Row writes the next row.
func (r *RowsWriter) Row(cells []string) (err error) {
	r.row = append(r.AppendRow(r.row[:0], cells...), r.LineEnd...)
	out := r.row
	if r.Encode != nil {
		if r.encoded, err = r.Encode(r.encoded[:0], r.row); err != nil {
			return err
		}
		out = r.encoded
	}
	_, err = r.W.Write(out)
	return err
}

// Close ends the file.
func (r *RowsWriter) Close() error { return nil }
