package text

import (
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
)

func TestTidy(t *testing.T) {
	for _, test := range []struct {
		name, in          string
		scope             Scope
		out               string
		spaces, invisible bool
	}{
		{"clean", "Beech smoker box", OneLine, "Beech smoker box", false, false},
		{"clean with accents", "Büromöbel für Imker", OneLine, "Büromöbel für Imker", false, false},
		{"edges", "  Smoker ", OneLine, "Smoker", true, false},
		{"only spaces", "   ", Edges, "", true, false},
		{"a run", "Hive   tool", OneLine, "Hive tool", true, false},
		{"a run where only edges count", " AB  12 ", Edges, "AB  12", true, false},
		{"no-break spaces", "Hive\u00a0tool\u00a0", OneLine, "Hive tool", true, false},
		{"no-break space where only edges count", "Hive\u00a0tool", Edges, "Hive\u00a0tool", false, false},
		{"tab", "Hive\ttool", OneLine, "Hive tool", true, false},
		{"line break in a line", "Hive\r\ntool", OneLine, "Hive tool", true, false},
		{"line break with spaces in a line", "Hive \r\n tool", OneLine, "Hive tool", true, false},
		{"lines keep their breaks", "one  two\nthree ", Lines, "one two\nthree", true, false},
		{"spaces before a break", "one \n two", Lines, "one\ntwo", true, false},
		{"zero-width space", "Hive\u200btool", OneLine, "Hivetool", false, true},
		{"byte order mark in the text", "\ufeffHive tool", Edges, "Hive tool", false, true},
		{"invisible between spaces", "Hive \u200b tool", OneLine, "Hive tool", true, true},
		{"soft hyphens", "Bie\u00adnen\u00adstock, Fuß\u00adball\u00ad", Edges, "Bienenstock, Fußball", false, true},
		{"a soft hyphen that may be half of a letter", "PÃ\u00ad €\u00ad", OneLine, "PÃ\u00ad €\u00ad", false, false},
		{"NUL", "Hive\x00 tool", OneLine, "Hive tool", false, true},
		{"joiner between Latin letters", "Hi\u200dve", OneLine, "Hive", false, true},
		{"joiner in an emoji", "👩\u200d🌾 gloves", OneLine, "👩\u200d🌾 gloves", false, false},
		{"joiner in Persian", "می\u200cخواهم", OneLine, "می\u200cخواهم", false, false},
		{"directional mark in Latin text", "Hive\u200e tool", OneLine, "Hive tool", false, true},
		{"directional mark in Hebrew", "כוורת\u200f 5", OneLine, "כוורת\u200f 5", false, false},
		{"trace of a wrong decoding stays", "Hive\u0092s", OneLine, "Hive\u0092s", false, false},
		{"ideographic space stays", "蜂\u3000箱", OneLine, "蜂\u3000箱", false, false},
		{"ill-formed bytes stay", "Hive\xff tool", OneLine, "Hive\xff tool", false, false},
	} {
		out, spaces, invisible := Tidy(test.in, test.scope)
		assert.Equal(t, test.out, out, test.name)
		assert.Equal(t, [2]bool{test.spaces, test.invisible}, [2]bool{spaces, invisible}, test.name)
	}
}

func TestVisible(t *testing.T) {
	assert.Equal(t, "␣a␣␣b⍽c<200B>⏎⇥<0000>␣", Visible(" a  b\u00a0c\u200b\n\t\x00 "))
	assert.Equal(t, "Bürste, 5 cm", Visible("Bürste, 5 cm"))
	assert.Equal(t, "B<0435>eswax, Мёд", Visible("Bеeswax, Мёд"))
	assert.Equal(t, "Bu<0308>rste K<FC>che �", Visible("Bu\u0308rste K\xfcche \ufffd"))
}

// FuzzTidy: doing it twice is doing it once, and nothing that can be seen goes.
func FuzzTidy(f *testing.F) {
	for _, s := range []string{"", " a  b\u200b \r\n c ", "\u200b \u200b", "a\u00a0\u200d\u202fb\n \n", "\x00 \x00x"} {
		f.Add(s, uint8(2))
	}
	visible := func(s string) string {
		if !utf8.ValidString(s) {
			return s
		}
		return strings.Map(func(r rune) rune {
			if isSpace(r) || isInvisible(r) || r == '\n' || r == '\r' {
				return -1
			}
			return r
		}, s)
	}
	f.Fuzz(func(t *testing.T, s string, scope uint8) {
		sc := Scope(scope % 3)
		once, _, _ := Tidy(s, sc)
		twice, spaces, invisible := Tidy(once, sc)
		assert.Equal(t, once, twice)
		assert.False(t, spaces || invisible, "a second change: %q", once)
		assert.Equal(t, visible(s), visible(once))
	})
}

func BenchmarkTidyClean(b *testing.B) {
	s := strings.Repeat("Beech smoker box with lid ", 8) + "end"
	b.SetBytes(int64(len(s)))
	b.ReportAllocs()
	for b.Loop() {
		Tidy(s, OneLine)
	}
}
