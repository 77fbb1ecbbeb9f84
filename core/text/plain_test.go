package text

import (
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"golang.org/x/text/unicode/norm"
)

func TestCompose(t *testing.T) {
	for in, want := range map[string]string{
		"Bu\u0308rste": "Bürste", "Cafe\u0301 cre\u0300me": "Café crème", "Viê\u0323t": "Việt", "\u1112\u1161\u11ab": "한",
		"\u212b \u2126 \u212a": "Å Ω K",
		"Bürste":               "Bürste", "plain": "plain", "": "", "神\ufa19 e\u0301": "神\ufa19 é", "\u0301x": "\u0301x",
		"1\ufe0f\u20e3": "1\ufe0f\u20e3",
	} {
		assert.Equal(t, want, Compose(in), "%+q", in)
	}
}

func TestPlain(t *testing.T) {
	for in, want := range map[string]string{
		"“Hive” ‘tool’ it’s „x‟ ‚y‛": `"Hive" 'tool' it's "x" 'y'`, "« Ruche » 5″": "« Ruche » 5″", "plain": "plain", "": "",
	} {
		assert.Equal(t, want, PlainQuotes(in))
	}
	for in, want := range map[string]string{
		"ＬＲＡ－１２　ｃｍ": "LRA-12 cm", "５０％ ￡5": "50% £5", "巣箱１０枚": "巣箱１０枚", "ハイブ１": "ハイブ１", "Ａはち": "Ａはち", "벌통Ａ": "벌통Ａ", "\u3000": "\u3000",
		"Küche": "Küche", "ﾊｲﾌﾞ１": "ﾊｲﾌﾞ１",
	} {
		assert.Equal(t, want, PlainWidth(in))
	}
}

// TestMixedWord: words are found in which a letter of another script hides, and no
// others.
func TestMixedWord(t *testing.T) {
	for _, test := range []struct{ in, word, single string }{
		{"Bееswax candle", "Bееswax", "Beeswax candle"}, {"Свеча из вocка", "вocка", "Свеча из воска"}, {"Ηive tool", "Ηive", "Hive tool"},
		{"фoтo", "фoтo", "фото"}, {"Хs", "Хs", ""}, {"Bееswax and Хs", "Bееswax", ""}, {"Ѕmоker", "Ѕmоker", "Smoker"},
		{"Mελι", "Mελι", "Μελι"},
		{"kΩ µm Δt π-filter αx", "", ""}, {"USB-кабель", "", ""}, {"iФон", "", ""}, {"eПочта", "", ""}, {"Мёд 250g", "", ""},
		{"3Dпечать", "", ""}, {"Café", "", ""}, {"Мёд", "", ""}, {"", "", ""}, {"plain", "", ""},
		{"x日本а", "", ""}, {"LRA-АВС", "", ""},
	} {
		word, single, ok := MixedWord(test.in)
		assert.Equal(t, test.word, word, test.in)
		assert.Equal(t, test.single, single, test.in)
		assert.Equal(t, test.word != "", ok, test.in)
	}
}

// FuzzPlain: what puts texts in order does it once and for all, and leaves ASCII alone.
func FuzzPlain(f *testing.F) {
	for _, s := range []string{"e\u0301\u0301", "Ａ\u3000“x”", "\u1100\u1161", "a\u00ad\u0301", "вocка x"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		if !utf8.ValidString(s) {
			return
		}
		for _, change := range []func(string) string{Compose, PlainQuotes, PlainWidth} {
			once := change(s)
			assert.Equal(t, once, change(once))
			assert.True(t, utf8.ValidString(once))
			if utf8.RuneCountInString(s) == len(s) {
				assert.Equal(t, s, once)
			}
		}
		assert.Equal(t, norm.NFD.String(s), norm.NFD.String(Compose(s)), "it says the same")
		if _, single, _ := MixedWord(s); single != "" {
			_, _, again := MixedWord(single)
			assert.False(t, again, "%q", single)
			assert.Equal(t, utf8.RuneCountInString(s), utf8.RuneCountInString(single))
		}
	})
}
