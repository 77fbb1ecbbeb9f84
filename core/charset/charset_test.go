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
		{"utf-16 in Greek", encoded(UTF16, "SKU,Τίτλος\nA,Κυψέλη\nB,Γάντια από δέρμα\n"), false, UTF16, false, ""},
		{"utf-16 in Japanese, the other way round", encoded(UTF16BE, "番号,題名\r\nA,山羊革の手袋、いろいろなサイズ\r\nB,巣箱\r\n"), false, UTF16BE,
			false, ""},
		{"utf-32", encoded(UTF32, "SKU,Τίτλος\nA,Κυψέλη 🐝\n"), false, UTF32, false, ""},
		{"utf-32 the other way round, with a mark", "\x00\x00\xfe\xff" + encoded(UTF32BE, "SKU,Title\n"), false, UTF32BE, true, ""},
		{"utf-32 with a mark", "\xff\xfe\x00\x00" + encoded(UTF32, "SKU,Title\n"), false, UTF32, true, ""},
		{"escape sequences", "SKU,Title\nA,\x1b$B;38SG\x1b(B\n", false, ISO2022JP, false, ""},
		{"an escape that is none", "SKU,Title\nA,\x1b[1m\n", false, UTF8, false, "SKU,Title\nA,\x1b[1m\n"},
		{"padded with NULs", "SKU,Title\nA,Brush\n" + strings.Repeat("\x00", 40), false, UTF8, false, ""},
		{"numbers of a program", strings.Repeat("\x01\x00\x02\x80", 40), false, Windows1252, false, ""},
		{"cut in a character of three bytes", "B\xe2\x82", true, UTF8, false, "B\xe2\x82"},
		{"windows-1252", "B\xfcrste \x80 5", false, Windows1252, false, "Bürste € 5"},
		{"a byte without a character", "\x81\xfc", false, Windows1252, false, "\u0081ü"},
		{"utf-16 with a mark", "\xff\xfeB\x00", false, UTF16, true, ""},
		{"utf-16 without", strings.Repeat("B\x00", 40), false, UTF16, false, ""},
	} {
		c, bom := Detect([]byte(test.in), test.more)
		assert.Equal(t, test.charset, c, test.name)
		assert.Equal(t, test.bom, bom, test.name)
		if test.text != "" {
			assert.Equal(t, test.text, string(c.Decode([]byte(test.in))), test.name)
		}
	}
}

func encoded(c Charset, text string) string {
	out, _, _ := c.Append(nil, []byte(text))
	return string(out)
}

// TestCodePages: the tables of our own are those that the encodings' names stand for.
func TestCodePages(t *testing.T) {
	for c, pair := range map[Charset][2]string{
		CodePage775: {"\xd0\xd1\xd2\xd3\xd4\xd5\xd6\xd7\xd8", "ąčęėįšųūž"}, CodePage857: {"\x8d\x98\x9f\xa7", "ıİşğ"},
		CodePage861: {"\x8b\x8c\x8d\x95\x97", "ÐðÞþÝ"}, MacCentralEurope: {"\xfc\xb8\xe4\xec", "Łłšž"},
		CodePage737: {"\xe0\xe1\xe2", "ωάέ"}, CodePage869: {"\x9b\x9d\x9e", "άέή"},
	} {
		assert.Equal(t, pair[1], c.Read(pair[0]), c.String())
		back, _, ok := c.Append(nil, []byte(pair[1]))
		assert.True(t, ok && string(back) == pair[0], c.String())
	}
}
