package repair

import (
	"maps"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/charset"
	"zetanum/internal/brief"
)

// spoilings are what happens to rows of a file: each returns the bytes of a text in an
// encoding, and how it reads if it is left as it is; ok is false if that cannot be.
var spoilings = map[string]func(text string, c charset.Charset, r *rand.Rand) (raw, reads string, ok bool){
	"UTF-8 among them": func(text string, c charset.Charset, _ *rand.Rand) (string, string, bool) {
		return text, c.Read(text), c != charset.UTF8
	},
	"misread once": func(text string, c charset.Charset, _ *rand.Rand) (string, string, bool) {
		reads := charset.Misread(text)["Windows-1252"]
		raw, _, ok := c.Append(nil, []byte(reads))
		return string(raw), reads, ok
	},
	"misread twice": func(text string, c charset.Charset, _ *rand.Rand) (string, string, bool) {
		reads := charset.Misread(charset.Misread(text)["Windows-1252"])["Windows-1252"]
		raw, _, ok := c.Append(nil, []byte(reads))
		return string(raw), reads, ok
	},
	"another encoding among UTF-8": func(text string, c charset.Charset, _ *rand.Rand) (string, string, bool) {
		if c != charset.UTF8 {
			return "", "", false
		}
		raw, _, ok := charset.Windows1252.Append(nil, []byte(text))
		return string(raw), text, ok
	},
	"a broken byte": func(text string, c charset.Charset, r *rand.Rand) (string, string, bool) {
		raw := []byte(text)
		raw[r.IntN(len(raw))] ^= 0x80
		return string(raw), "", c == charset.UTF8 && !utf8.Valid(raw)
	},
}

// TestMixtures: in files of one encoding of which some rows have been spoilt, rows that
// were right stay as they are, or are held, and the others become right, stay as they
// were, or are held. Nothing else is written.
func TestMixtures(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(16, 1))
	texts := make(map[string][]string)
	found := make(counts)
	rounds := some(6)
	files := 0
	for _, in := range []struct {
		languages string
		charsets  []charset.Charset
	}{
		{"de fr es pt sv fi is", []charset.Charset{charset.UTF8, charset.Windows1252, charset.ISO8859_15, charset.MacRoman, charset.CodePage850}},
		{"pl cs hu hr ro", []charset.Charset{charset.UTF8, charset.Windows1250, charset.ISO8859_2, charset.CodePage852}},
		{"tr", []charset.Charset{charset.UTF8, charset.Windows1254}}, {"lt lv", []charset.Charset{charset.UTF8, charset.Windows1257}},
		{"ru uk", []charset.Charset{charset.UTF8, charset.Windows1251, charset.KOI8U}}, {"el", []charset.Charset{charset.UTF8, charset.Windows1253}},
	} {
		for _, language := range brief.Sample(strings.Fields(in.languages), 6) {
			data, err := os.ReadFile("../charset/testdata/sealed/" + language + ".txt")
			require.NoError(t, err)
			for line := range strings.Lines(string(data)) {
				if line = strings.TrimSpace(line); utf8.RuneCountInString(line) < len(line) && !strings.ContainsAny(line, ",\"\u200b\u200e") {
					texts[language] = append(texts[language], line)
				}
			}
			for _, c := range in.charsets {
				for _, name := range slices.Sorted(maps.Keys(spoilings)) {
					spoil := spoilings[name]
					for range rounds {
						if mixture(t, texts[language], c, name, spoil, r, found) {
							files++
						}
					}
				}
			}
		}
	}
	found.log(t)
	t.Logf("%d files", files)
	right := found["right before"]
	assert.Less(t, right["held"]*50, right["right"]+right["held"], "too many rows are held that were right")
}

// untouched reports whether a text is what some bytes are in one of the encodings.
func untouched(raw, text string) bool {
	return slices.ContainsFunc(charset.Names(), func(name string) bool {
		c, _ := charset.Parse(name)
		return c != charset.UTF8 && !c.Wide() && left(c.Read(raw)) == left(text)
	})
}

// mixture repairs a file of which some rows have been spoilt, and counts what becomes of
// them.
func mixture(t *testing.T, texts []string, c charset.Charset, name string, spoil func(string, charset.Charset, *rand.Rand) (string, string, bool),
	r *rand.Rand, found counts) (made bool) {
	var raw strings.Builder
	raw.WriteString("sku,title,description\n")
	type row struct{ text, reads, raw string } // reads is "" for a row that is right
	rows, spoilt := make(map[string]row), 0
	share := 0.1 + 0.5*r.Float64()
	for i := range 12 + r.IntN(40) {
		sku, text := "LRA-"+strconv.Itoa(i), texts[r.IntN(len(texts))]
		bytes, _, ok := c.Append(nil, []byte(text))
		if !ok {
			continue
		}
		this := row{text: text}
		if few := name == "a broken byte"; r.Float64() < share && (!few || spoilt == 0) {
			changed, reads, can := spoil(text, c, r)
			if !can || strings.ContainsAny(changed, ",\"\r\n") {
				continue
			}
			bytes, this.reads, this.raw = []byte(changed), "?"+reads, changed
			spoilt++
		}
		rows[sku] = this
		raw.WriteString(sku + "," + string(bytes) + ",One piece.\n")
	}
	if spoilt == 0 || len(rows)-spoilt < 5 {
		return false
	}
	path := filepath.Join(t.TempDir(), "list.csv")
	require.NoError(t, os.WriteFile(path, []byte(raw.String()), 0o666))
	ready := readyRows(t, path)
	for sku, row := range rows {
		got, there := ready[sku]
		kind, outcome := name, "right"
		if row.reads == "" {
			kind = "right before"
		}
		switch {
		case !there:
			outcome = "held"
		case meant(got[0]) == meant(row.text):
		case row.reads != "" && (left(got[0]) == left(row.reads[1:]) || untouched(row.raw, got[0])):
			outcome = "left"
		default:
			outcome = "wrong"
			t.Errorf("%s in %s, %s: %q became %q", row.text, c, name, row.reads, got[0])
		}
		found.add(kind, outcome)
	}
	return true
}
