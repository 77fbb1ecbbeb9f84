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

// A changeWriter writes lines of changes.jsonl, in which stands every cell of what goes out
// that is not as the source has it:
//
//	{"row":2,"column":"EAN","field":"barcode","before":"EAN 9521…","after":"9521…","rule":"repair.undressed","ground":"certain"}
//
// A change that has a source has it behind the ground. Several changes of one cell stand in
// their order. A row that was put into another has a line for each cell that the source
// had there, with "joined":true, and a row that was made one for each of its cells, with
// "added":1 if it is the first that was made of the row of that number. Where rows go out in
// another order than that of the source, {"row":17,"ready":true} says that row 17 is the next of
// them; made ones stand there with the number of that of which they were made.
//
// Of a text of more than longText bytes only the beginning is written, with its length and
// checksum behind all others ("before_bytes", "before_xxh64", likewise "after_"). What was
// before stands as a whole in changes.long.jsonl, at least once: {"xxh64":"…","text":"…"}; what
// came of it in what goes out, or before the next change. Bytes that are no text stand in
// "before_hex", whole.
//
// There are millions of such lines, so the usual texts are written without reflection; the
// others are left to the standard library.
type changeWriter struct {
	columns [][]byte // by column: `,"column":"EAN","field":"barcode"`
	out     []byte
	long    []byte          // lines of the long texts
	written map[uint64]bool // long texts of the part, by their checksums
	texts   int             // how many have been written
	encoder *json.Encoder
	encoded bytes.Buffer
}

// appendPlace appends the line that says that a row is the next of those that go out.
func appendPlace(b []byte, row int32) []byte {
	return append(strconv.AppendInt(append(b, `{"row":`...), int64(row), 10), `,"ready":true}`+"\n"...)
}

// begin begins with the changes of a part.
func (w *changeWriter) begin() {
	w.out, w.long = w.out[:0], w.long[:0]
	w.texts = 0
	clear(w.written)
}

// What has become of the row of a change.
type moved uint8

const (
	unmoved moved = iota
	joined        // it has been put into another
	added         // it has been made
)

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

// write adds the line of a change to what is put out; nth says which of the rows made of one
// it is in.
func (w *changeWriter) write(c *catalogue.Change, what moved, nth int) {
	b := strconv.AppendInt(append(w.out, `{"row":`...), int64(c.Row), 10)
	switch what {
	case joined:
		b = append(b, `,"joined":true`...)
	case added:
		b = strconv.AppendInt(append(b, `,"added":`...), int64(nth), 10)
	}
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
	if c.Rule == catalogue.RuleDecoded || what == joined && !utf8.ValidString(c.Before) { // its bytes are no text
		b = append(hex.AppendEncode(append(b, `,"before_hex":"`...), []byte(c.Before)), '"')
	}
	b = appendLong(b, "before", c.Before)
	b = appendLong(b, "after", c.After)
	w.keep(c.Before)
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

// keep writes a long text as a whole, once in each part.
func (w *changeWriter) keep(s string) {
	if len(s) <= longText || !utf8.ValidString(s) {
		return
	}
	sum := xxhash.Sum64String(s)
	if w.written[sum] {
		return
	}
	if w.written == nil {
		w.written = make(map[uint64]bool)
	}
	w.written[sum] = true
	l := append(strconv.AppendUint(append(w.long, `{"xxh64":"`...), sum, 16), '"')
	w.long = append(w.text(append(l, `,"text":`...), s), '}', '\n')
	w.texts++
}

// Kinds of bytes that stand in JSON as they are; those of kind 0 do not.
const (
	plainInJSON = 1 << iota
	highInJSON
)

var jsonKinds = func() (kinds [256]uint8) {
	for c := range kinds {
		switch {
		case c >= utf8.RuneSelf:
			kinds[c] = highInJSON
		case c >= ' ' && c != '"' && c != '\\':
			kinds[c] = plainInJSON
		}
	}
	return kinds
}()

// text appends a text as JSON, as [json.Encoder] does.
func (w *changeWriter) text(b []byte, s string) []byte {
	start := len(b)
	b = append(b, '"')
	done, seen := 0, uint8(0)
	for i := range len(s) {
		c := s[i]
		if kind := jsonKinds[c]; kind != 0 {
			seen |= kind
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
	if seen&highInJSON != 0 && (!utf8.ValidString(s) || strings.Contains(s, "\u2028") || strings.Contains(s, "\u2029")) {
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
