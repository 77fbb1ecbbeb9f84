package charset

import (
	"bytes"
	"io"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// FuzzAppend: what can be written in an encoding is read again as it was, and what
// cannot is said.
func FuzzAppend(f *testing.F) {
	for _, s := range []string{"Küche – 5 €", "Łódź", "Свеча", "日本語 表", "🐝", "\u0081\u009d", "a\xffb", ""} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		for c := UTF8; c < numCharsets; c++ {
			raw, bad, ok := c.Append([]byte("x"), []byte(s))
			if !ok {
				assert.True(t, !c.Has(bad) || bad == utf8.RuneError, "%s: %q", c, bad)
				continue
			}
			require.Equal(t, byte('x'), raw[0])
			back := c.Decode(raw[1:])
			if c.Wide() {
				mark := map[Charset]string{UTF16: "\xff\xfe", UTF16BE: "\xfe\xff"}[c] // or a mark in the text would be taken for one
				var err error
				back, err = io.ReadAll(c.Reader(bytes.NewReader(append([]byte(mark), raw[1:]...))))
				require.NoError(t, err)
			}
			assert.Equal(t, s, string(back), c.String())
		}
	})
}
