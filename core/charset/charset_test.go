package charset

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestDetectAndDecode(t *testing.T) {
	for _, test := range []struct {
		name, in string
		more     bool
		charset  Charset
		bom      bool
		text     string
	}{
		{"ascii", "hive tool", false, UTF8, false, "hive tool"},
		{"utf-8", "Bürste", false, UTF8, false, "Bürste"},
		{"utf-8 with a mark", "\ufeffB", false, UTF8, true, "\ufeffB"},
		{"utf-8 cut in a character", "B\xc3", true, UTF8, false, "B\xc3"},
		{"the same bytes at the end of the file", "B\xc3", false, Windows1252, false, "BÃ"},
		{"cut in a character of three bytes", "B\xe2\x82", true, UTF8, false, "B\xe2\x82"},
		{"windows-1252", "B\xfcrste \x80 5", false, Windows1252, false, "Bürste € 5"},
		{"a byte without a character", "\x81\xfc", false, Windows1252, false, "\u0081ü"},
		{"utf-16 with a mark", "\xff\xfeB\x00", false, UTF16, true, ""},
		{"utf-16 without", strings.Repeat("B\x00", 40), false, UTF16, false, ""},
	} {
		c, bom := Detect([]byte(test.in), test.more)
		assert.Equal(t, test.charset, c, test.name)
		assert.Equal(t, test.bom, bom, test.name)
		if c != UTF16 {
			assert.Equal(t, test.text, string(c.Decode([]byte(test.in))), test.name)
		}
	}
}
