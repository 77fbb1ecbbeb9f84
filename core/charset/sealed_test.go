package charset

import (
	"embed"
	"maps"
	"math/rand/v2"
	"path"
	"slices"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/unicode/norm"

	"zetanum/internal/brief"
)

//go:embed testdata/sealed/*.txt
var sealedFiles embed.FS

// sealed returns the texts of the sealed set, by language: nothing in this package
// was made with a look at them.
func sealed(t testing.TB) map[string][]string {
	all := make(map[string][]string)
	entries, err := sealedFiles.ReadDir("testdata/sealed")
	require.NoError(t, err)
	for _, e := range entries {
		data, err := sealedFiles.ReadFile("testdata/sealed/" + e.Name())
		require.NoError(t, err)
		all[strings.TrimSuffix(e.Name(), path.Ext(e.Name()))] = strings.Split(strings.TrimSpace(string(data)), "\n")
	}
	return all
}

// every returns n, which says that of so many texts one is looked at, as each takes long; with -short, as with the race detector, it is one
// of twenty times as many.
func every(n int) int { return brief.Of(1, 20) * n }

// languages returns the languages of texts in a fixed order.
func languages(all map[string][]string) (list []string) {
	for l := range all {
		list = append(list, l)
	}
	slices.Sort(list)
	return list
}

// TestSealedHonest: not one false repair, and nothing proposed, in more than 20,000
// honest texts of more than 24 languages; nor in the same in capitals, and with
// guillemets and signs around them.
func TestSealedHonest(t *testing.T) {
	t.Parallel()
	all := sealed(t)
	texts := 0
	for _, l := range languages(all) {
		for _, text := range all[l] {
			texts++
			for i, form := range []string{text, strings.ToUpper(text), "«" + text + "»", strings.ToUpper("«"+text) + "»", text + "® – 5 €",
				"½ " + text + "™"} {
				m, ok := Mend(form)
				assert.False(t, ok, "%s: %q became %q (%s)", l, form, m.Text, m.As)
				assert.False(t, i < 4 && Garbled(form), "%s: %q", l, form)
			}
		}
	}
	assert.GreaterOrEqual(t, len(all), 24)
	assert.Greater(t, texts, 20_000)
	t.Logf("%d honest texts in %d languages: none mended", texts, len(all))
}

// TestSealedMisread: what was misread comes back, or stays; nothing wrong is written.
func TestSealedMisread(t *testing.T) {
	t.Parallel()
	all := sealed(t)
	for layers := 1; layers <= 3; layers++ {
		total, alone, among := 0, 0, 0
		for _, l := range languages(all) {
			for i, text := range all[l] {
				if utf8.RuneCountInString(text) == len(text) || i%every(2*layers-1) > 0 {
					continue
				}
				for as := range Misread(text) {
					bad := text
					for range layers {
						bad = Misread(bad)[as]
					}
					total++
					m, ok := Mend(bad)
					if ok && m.Exact && m.Text == text {
						alone++
					}
					if !ok || !m.Exact {
						m, ok = MendAs(bad, as)
					}
					if ok && m.Exact && m.Text == text {
						among++
					} else if ok && m.Exact {
						t.Errorf("%s: %q, read %d times as %s, became %q", l, text, layers, as, m.Text)
					}
				}
			}
		}
		t.Logf("%d layers: of %d texts %.2f %% come back by themselves, %.2f %% with others beside them", layers, total,
			100*float64(alone)/float64(total), 100*float64(among)/float64(total))
		assert.Greater(t, alone*100, total*95)
		assert.Greater(t, among*100, total*98)
	}
}

// TestSealedParts: a text that was misread behind an honest one of the same language
// comes back, or stays.
func TestSealedParts(t *testing.T) {
	t.Parallel()
	all := sealed(t)
	total, alone, among := 0, 0, 0
	for _, l := range languages(all) {
		texts := slices.DeleteFunc(slices.Clone(all[l]), func(s string) bool { return utf8.RuneCountInString(s) == len(s) })
		for i, text := range texts {
			if i%every(4) > 0 {
				continue
			}
			other := texts[(i+1)%len(texts)]
			for as, bad := range Misread(text) {
				total++
				m, ok := Mend(other + " " + bad)
				if ok && m.Exact && m.Text == other+" "+text {
					alone++
				}
				if !ok || !m.Exact {
					m, ok = MendAs(other+" "+bad, as)
				}
				if ok && m.Exact && m.Text == other+" "+text {
					among++
				} else if ok && m.Exact {
					t.Errorf("%s: %q behind %q, read as %s, became %q", l, text, other, as, m.Text)
				}
			}
		}
	}
	t.Logf("parts: of %d texts %.2f %% come back by themselves, %.2f %% with others beside them", total, 100*float64(alone)/float64(total),
		100*float64(among)/float64(total))
}

// TestSealedEncodings: small files in the encodings of their language are read rightly,
// and where the margin is thin nothing is said to be certain.
func TestSealedEncodings(t *testing.T) {
	if testing.Short() {
		t.Skip("of a sample the figures say too little")
	}
	t.Parallel()
	in := make(map[string][]Charset)
	for languages, list := range map[string][]Charset{
		"de fr es pt it nl sv fi ca": {Windows1252, ISO8859_15, MacRoman, CodePage437, CodePage850},
		"da nb":                      {Windows1252, ISO8859_15, MacRoman, CodePage850, CodePage865},
		"is":                         {Windows1252, MacRoman, CodePage850, CodePage861},
		"pl cs sk hu ro hr sl":       {Windows1250, ISO8859_2, CodePage852, MacCentralEurope},
		"ru":                         {Windows1251, KOI8R, CodePage866, ISO8859_5}, "uk": {Windows1251, KOI8U},
		"bg": {Windows1251, ISO8859_5, CodePage866}, "sr": {Windows1251, ISO8859_5},
		"el": {Windows1253, ISO8859_7, CodePage737, CodePage869}, "tr": {Windows1254, ISO8859_9, CodePage857},
		"lt lv et": {Windows1257, CodePage775}, "he": {Windows1255}, "ar": {Windows1256, ISO8859_6}, "vi": {Windows1258}, "th": {Windows874},
		"ja": {ShiftJIS, EUCJP}, "zh": {GB18030}, "zh_Hant": {Big5}, "ko": {EUCKR},
	} {
		for _, l := range strings.Fields(languages) {
			in[l] = list
		}
	}
	all := sealed(t)
	r := rand.New(rand.NewPCG(5, 20))
	type count struct{ files, right, asked, wrong int }
	table := make(map[Charset]map[int]*count)
	for _, size := range []int{20, 5} {
		var sum count
		for _, l := range languages(all) {
			for _, c := range in[l] {
				if table[c] == nil {
					table[c] = map[int]*count{20: {}, 5: {}}
				}
				of := table[c][size]
				for range 15 {
					text, raw := smallFile(all[l], c, size, r)
					if raw == nil {
						continue
					}
					of.files++
					sum.files++
					g := guessOf(raw)
					switch {
					case g.Margin < Thin:
						of.asked++
						sum.asked++
					case norm.NFC.String(g.Charset.Read(string(raw))) == text:
						of.right++
						sum.right++
					default:
						of.wrong++
						sum.wrong++
					}
				}
			}
		}
		t.Logf("%d telling bytes: %d of %d files read rightly, %.2f %%; %d asked, %d wrong in silence", size, sum.right, sum.files,
			100*float64(sum.right)/float64(sum.files), sum.asked, sum.wrong)
		assert.Greater(t, sum.right*100, sum.files*(map[int]int{20: 99, 5: 95}[size]))
		assert.Less(t, sum.wrong*400, sum.files, "wrong in silence")
	}
	for _, c := range slices.Sorted(maps.Keys(table)) {
		for _, size := range []int{20, 5} {
			of := table[c][size]
			t.Logf("| %s | %d | %d of %d | %d | %d |", c, size, of.right, of.files, of.asked, of.wrong)
		}
	}
}

// smallFile makes a file of lines that have size bytes beyond ASCII together, or a few
// more; nil if the texts give none.
func smallFile(texts []string, c Charset, size int, r *rand.Rand) (text string, raw []byte) {
	var b strings.Builder
	high := 0
	for tries := 0; high < size && tries < 5000; tries++ {
		line := "LRA-" + string(rune('A'+r.IntN(26))) + "," + texts[r.IntN(len(texts))] + ",9.50\n"
		encoded, err := encode(line, c)
		if err != nil {
			continue
		}
		n := 0
		for i := range len(encoded) {
			if encoded[i] >= utf8.RuneSelf {
				n++
			}
		}
		if high+n > size+size/2 {
			continue
		}
		high += n
		b.WriteString(line)
		raw = append(raw, encoded...)
	}
	if high < size {
		return "", nil
	}
	return norm.NFC.String(b.String()), raw
}

func encode(s string, c Charset) (string, error) {
	if c.Wide() {
		return wides[c].NewEncoder().String(s)
	}
	var b strings.Builder
	if c == Windows1258 {
		s = tones(s)
	}
	for _, r := range s {
		x := slices.Index(singles()[c].runes[:], r)
		switch {
		case r < utf8.RuneSelf:
			b.WriteByte(byte(r))
		case x < 0:
			return "", assert.AnError
		default:
			b.WriteByte(byte(0x80 + x))
		}
	}
	return b.String(), nil
}

// tones writes Vietnamese letters as keyboards do: the mark of the tone by itself.
func tones(s string) string {
	for _, mark := range []string{"\u0300", "\u0301", "\u0303", "\u0309", "\u0323"} {
		for _, vowel := range "aăâeêioôơuưyAĂÂEÊIOÔƠUƯY" {
			s = strings.ReplaceAll(s, norm.NFC.String(string(vowel)+mark), string(vowel)+mark)
		}
	}
	return s
}

// guessOf weighs a file.
func guessOf(raw []byte) Guess {
	var s Sample
	s.Add(raw)
	s.End()
	return s.Guess()
}
