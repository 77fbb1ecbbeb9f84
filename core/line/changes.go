package line

import (
	"bytes"
	"encoding/hex"
	"encoding/json"
	"strconv"
	"strings"
	"unicode/utf8"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
)

// A changeWriter writes lines of changes.jsonl:
//
//	{"row":2,"column":"EAN","field":"barcode","before":"EAN 9521…","after":"9521…","rule":"repair.undressed","ground":"certain"}
//
// A change that has a source has it behind the ground. Of a text of more than
// longText bytes only the beginning is written, with its length and checksum
// behind all others ("before_bytes", "before_xxh64", likewise "after_"). There are
// millions of such lines, so the usual texts are written without reflection; the
// others are left to the standard library.
type changeWriter struct {
	columns [][]byte // by column: `,"column":"EAN","field":"barcode"`
	out     []byte
	encoder *json.Encoder
	encoded bytes.Buffer
}

func newChangeWriter(columns *catalogue.Columns) *changeWriter {
	w := new(changeWriter)
	w.encoder = json.NewEncoder(&w.encoded)
	w.encoder.SetEscapeHTML(false)
	for i, h := range columns.Headings {
		w.out = w.text(append(w.out[:0], `,"column":`...), h)
		if name := columns.Name(i); name != "" {
			w.out = w.text(append(w.out, `,"field":`...), name)
		}
		w.columns = append(w.columns, bytes.Clone(w.out))
	}
	w.out = w.out[:0]
	return w
}

// longText is how many bytes of a text are written in full.
const longText = 400

// write adds the line of a change to what is put out.
func (w *changeWriter) write(c *catalogue.Change) {
	b := strconv.AppendInt(append(w.out, `{"row":`...), int64(c.Row), 10)
	if c.Col < len(w.columns) {
		b = append(b, w.columns[c.Col]...)
	}
	b = w.text(append(b, `,"before":`...), begins(c.Before))
	b = w.text(append(b, `,"after":`...), begins(c.After))
	b = append(append(append(b, `,"rule":"`...), c.Rule.String()...), '"')
	b = append(append(append(b, `,"ground":"`...), c.Ground.String()...), '"')
	if c.Source != "" {
		b = w.text(append(b, `,"source":`...), c.Source)
	}
	if c.Rule == catalogue.RuleDecoded { // its bytes are no text
		b = append(hex.AppendEncode(append(b, `,"before_hex":"`...), []byte(c.Before)), '"')
	}
	b = appendLong(b, "before", c.Before)
	b = appendLong(b, "after", c.After)
	w.out = append(b, '}', '\n')
}

// begins returns a text or, for a long one, its beginning.
func begins(s string) string {
	if len(s) <= longText {
		return s
	}
	return catalogue.Shorten(s, 100)
}

// appendLong appends the length and the checksum of a long text.
func appendLong(b []byte, name, s string) []byte {
	if len(s) <= longText {
		return b
	}
	b = append(append(append(b, `,"`...), name...), `_bytes":`...)
	b = strconv.AppendInt(b, int64(len(s)), 10)
	b = append(append(append(b, `,"`...), name...), `_xxh64":"`...)
	return append(strconv.AppendUint(b, xxhash.Sum64String(s), 16), '"')
}

// text appends a text as JSON, as [json.Encoder] does.
func (w *changeWriter) text(b []byte, s string) []byte {
	start := len(b)
	b = append(b, '"')
	done, ascii := 0, true
	for i := range len(s) {
		c := s[i]
		if c >= ' ' && c != '"' && c != '\\' {
			ascii = ascii && c < utf8.RuneSelf
			continue
		}
		b = append(append(b, s[done:i]...), '\\')
		done = i + 1
		switch c {
		case '"', '\\':
			b = append(b, c)
		case '\n':
			b = append(b, 'n')
		case '\r':
			b = append(b, 'r')
		case '\t':
			b = append(b, 't')
		default:
			return w.encode(b[:start], s)
		}
	}
	if !ascii && (!utf8.ValidString(s) || strings.Contains(s, "\u2028") || strings.Contains(s, "\u2029")) {
		return w.encode(b[:start], s)
	}
	return append(append(b, s[done:]...), '"')
}

// encode leaves a text to the standard library.
func (w *changeWriter) encode(b []byte, s string) []byte {
	w.encoded.Reset()
	w.encoder.Encode(s) // a bytes.Buffer does not fail
	return append(b, bytes.TrimSuffix(w.encoded.Bytes(), []byte{'\n'})...)
}
