package line

import (
	"encoding/hex"
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
)

// FuzzChangeLine: a line of changes.jsonl is what the standard library would have
// written for its texts, and can be read by it.
func FuzzChangeLine(f *testing.F) {
	for _, s := range []string{"", "plain", "\"quoted\" \\ \n\r\t", "\x00\x01\b\f\x7f", "Bürste \u2028 \u2029 ☃", "\xff\xfe",
		"<p>&amp;</p>", strings.Repeat("long ü ", 100)} {
		f.Add(s, "x")
	}
	columns := &catalogue.Columns{Headings: []string{"Art. \"no\".", "EAN"},
		Fields: []catalogue.Field{catalogue.Unknown, catalogue.Barcode}}
	f.Fuzz(func(t *testing.T, before, after string) {
		w := newChangeWriter(columns)
		w.write(&catalogue.Change{Row: 7, Col: 1, Before: before, After: after, Rule: catalogue.RuleUndress, Ground: catalogue.Certain,
			Source: before}, unmoved, 0)
		var b strings.Builder
		e := json.NewEncoder(&b)
		e.SetEscapeHTML(false)
		require.NoError(t, e.Encode(begins(before)))
		assert.True(t, strings.HasPrefix(string(w.out), `{"row":7,"column":"EAN","field":"barcode","before":`+
			strings.TrimSuffix(b.String(), "\n")+`,"after":`), string(w.out))
		var line struct {
			Row         int
			Source      string
			BeforeBytes int    `json:"before_bytes"`
			BeforeHex   string `json:"before_hex"`
		}
		require.NoError(t, json.Unmarshal(w.out, &line), string(w.out))
		assert.Equal(t, 7, line.Row)
		assert.Equal(t, strings.ToValidUTF8(before, "\ufffd") == before, line.Source == before)
		assert.Equal(t, len(before) > longText, line.BeforeBytes > 0)
		w.out = w.out[:0]
		w.write(&catalogue.Change{Before: before, After: after, Rule: catalogue.RuleDecoded, Ground: catalogue.Certain}, unmoved, 0)
		require.NoError(t, json.Unmarshal(w.out, &line), string(w.out))
		raw, err := hex.DecodeString(line.BeforeHex)
		assert.True(t, err == nil && string(raw) == before, "bytes that are no text can be read back")
	})
}
