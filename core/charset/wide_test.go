package charset

import (
	"io"
	"strings"
	"testing"
	"testing/iotest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestEast: a few lines in a language of East Asia are enough to read a file rightly,
// and no file in another language is taken for one.
func TestEast(t *testing.T) {
	for language, test := range map[string]struct {
		text     string
		charsets []Charset
	}{
		"ja":      {"ステンレス製の燻煙器、中型、木の取っ手付き\n巣箱、十枚枠、塗装済み、掃除が簡単\n山羊革の手袋、いろいろなサイズ", []Charset{ShiftJIS, EUCJP}},
		"zh":      {"不锈钢喷烟器，中号，带木柄\n十框蜂箱，已涂漆，容易清洗\n山羊皮手套，多种尺寸，黄色", []Charset{GB18030}},
		"zh_Hant": {"不鏽鋼噴煙器，中號，附木柄\n十框蜂箱，已上漆，容易清潔\n山羊皮手套，多種尺寸，黃色", []Charset{Big5}},
		"ko":      {"스테인리스 훈연기, 중형, 나무 손잡이\n벌통, 열 장짜리, 칠을 했고 청소하기 쉬움\n염소 가죽 장갑, 여러 크기, 노란색", []Charset{EUCKR}},
	} {
		for _, want := range test.charsets {
			raw, err := wides[want].NewEncoder().String("SKU,Title\n" + test.text)
			require.NoError(t, err, language)
			g := guessOf([]byte(raw))
			assert.True(t, g.Charset == want && g.Margin >= Thin, "%s in %s was taken for %v", language, want, g)
			back, err := io.ReadAll(want.Reader(strings.NewReader(raw)))
			require.NoError(t, err)
			assert.Equal(t, "SKU,Title\n"+test.text, string(back))
			// Rows of another system beside them.
			mixed := raw + "\n" + strings.ReplaceAll(test.text, "\n", "\r\n")
			g = guessOf([]byte(mixed))
			assert.True(t, g.Charset == want && g.Mixed, "%s in %s with UTF-8: %v", language, want, g)
			back, err = io.ReadAll(want.ReaderOfLines(iotest.OneByteReader(strings.NewReader(mixed))))
			require.NoError(t, err)
			assert.Equal(t, "SKU,Title\n"+test.text+"\n"+strings.ReplaceAll(test.text, "\n", "\r\n"), string(back))
		}
	}
	for _, e := range encodings {
		for _, language := range strings.Fields(e.languages) {
			raw, err := e.charmap.NewEncoder().String(texts[language])
			require.NoError(t, err)
			for _, line := range strings.Split(raw, "\n") {
				if g := guessOf([]byte(line)); g.Margin >= Thin {
					assert.False(t, g.Charset.Wide(), "a line of %s in %s was taken for %s", language, e.charset, g.Charset)
				}
			}
		}
	}
	for _, some := range []string{"", "plain\n", "\xa9 Brand", "x\xe9", "5\xb0 C\n", "\xff\xff\xff"} {
		g := guessOf([]byte(some))
		assert.True(t, !g.Charset.Wide() || g.Margin < Thin, "%q: %v", some, g)
	}
}
