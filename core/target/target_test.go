package target

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/sheet"
)

func TestFit(t *testing.T) {
	for _, test := range []struct {
		encoding, in, out string
		html              bool
		stood             string // "!x": nothing may stand for x
	}{
		{"windows-1252", "Küche – 5 €", "Küche – 5 €", false, ""},
		{"windows-1252", "Łódź, naïve, Šestý", "Lódz, naïve, Šestý", false, "Ł → L, ź → z"},
		{"windows-1250", "Ștefan și țara", "Ştefan şi ţara", false, "Ș → Ş, ș → ş, ț → ţ"},
		{"cp437", "“1½ m²” – €5…", "\"1½ m²\" - EUR5...", false, "“ → \", ” → \", – → -, € → EUR, … → ..."},
		{"koi8-r", "1½ и ½ кг", "1 1/2 и 1/2 кг", false, "½ → 1/2"},
		{"windows-1252", "<p>Łódź &amp; ☕</p>", "<p>&#321;ód&#378; &amp; &#9749;</p>", true, "Ł → &#321;, ź → &#378;, ☕ → &#9749;"},
		{"windows-1252", "a\u200bb\u2009c e\u0301", "ab c e", false, "\u200b → , \u2009 →  , \u0301 → "},
		{"windows-1252", "Ελιά", "Ελιά", false, "!Ε"}, {"windows-1252", "🐝", "🐝", false, "!🐝"},
		{"windows-1252", "B\ufffdrste", "B\ufffdrste", false, "!\ufffd"},
		{"windows-1252", "Ｈｉｖｅ ５", "Hive 5", false, "Ｈ → H, ｉ → i, ｖ → v, ｅ → e, ５ → 5"},
		{"shift_jis", "はち ł 表", "はち l 表", false, "ł → l"}, {"windows-1252", "→ w", "to w", false, "→ → to"},
	} {
		rules := Rules{Encoding: test.encoding, Instead: map[string]string{"→": "to"}}
		if fits(rules.Charset(), "→") {
			delete(rules.Instead, "→")
		}
		require.Empty(t, rules.Check())
		f := NewFitter(&rules)
		out, stood, bad, ok := f.Fit(test.in, test.html)
		assert.Equal(t, test.out, out)
		var said []string
		for _, s := range stood {
			said = append(said, s.String())
		}
		if !ok {
			said = []string{"!" + string(bad)}
		}
		assert.Equal(t, test.stood, strings.Join(said, ", "), test.in)
		assert.Equal(t, test.in == test.out && ok, f.Has(test.in), test.in)
		assert.Equal(t, ok, f.Has(out), "what comes out fits")
	}
	assert.Nil(t, NewFitter(&Rules{}))
	assert.Nil(t, NewFitter(&Rules{Encoding: "utf-16le"}))
}

func TestCheck(t *testing.T) {
	yes := true
	for want, r := range map[string]Rules{
		`there is no encoding "latin99"`:                     {Encoding: "latin99"},
		"Windows-1252 has no byte order mark":                {Encoding: "cp1252", BOM: &yes},
		`"ab" is not one character`:                          {Encoding: "cp1252", Instead: map[string]string{"ab": "x"}},
		`Windows-1252 has not all characters of "ł", either`: {Encoding: "cp1252", Instead: map[string]string{"ĺ": "ł"}},
		"a separator is one character":                       {Separator: "ab"}, "is lf or crlf": {LineEnds: "cr"},
		"is needed or all":           {Quotes: "some"},
		"another than the separator": {Separator: "^", Quote: "^"}, "is keep or drop": {FirstRows: "hold"},
		"this is the quotation mark": {Separator: `"`}, `has "ä" itself`: {Encoding: "cp1252", Instead: map[string]string{"ä": "ae"}},
		"UTF-8 has":    {Instead: map[string]string{"ł": "w"}},
		`not as "pdf"`: {As: []string{"xlsx", "pdf"}},
	} {
		problems := r.Check()
		require.Len(t, problems, 1, want)
		assert.Contains(t, problems[0].Text, want)
	}
	assert.Empty(t, (&Rules{BOM: &yes}).Check())
	odd := Rules{Quote: ";"}
	assert.ErrorIs(t, odd.Against(sheet.Style{Separator: ';'}), ErrWrong)
	assert.NoError(t, odd.Against(sheet.Style{Separator: ','}))
}

// TestFillsInManifest: what is said of columns of a template is the same when it has been written into a manifest and read again.
func TestFillsInManifest(t *testing.T) {
	rules := Rules{Columns: Fills{"Picture 2": map[string]any{"from": "images", "part": int64(2), "rest": true}, "Shelf": map[string]any{"from": "category", "words": map[string]any{"Wax": "Candles"}},
		"Name": []any{"title", map[string]any{"always": "x"}}, "Vegan": false, "Goes with": map[string]any{"from": "Related", "refers": "sku"}}}
	require.Empty(t, rules.Columns.Check())
	content, err := json.Marshal(Named{Name: "market", Where: map[string]any{"brand": "Oakvane"}, Rules: rules})
	require.NoError(t, err)
	var again Named
	require.NoError(t, json.Unmarshal(content, &again))
	assert.Equal(t, rules.Fills(), again.Fills())
	assert.Equal(t, map[string]any{"brand": "Oakvane"}, again.Where)
	for name, right := range map[string]bool{"market": true, "market-two": true, "market-2": false, "new": false, "Market": false, "a b": false, "": false} {
		named := Named{Name: name, Rules: Rules{Template: "form.csv"}}
		assert.Equal(t, right, named.Check() == nil, name)
	}
}
