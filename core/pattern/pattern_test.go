package pattern

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
)

func bind(t *testing.T, text string) *Pattern {
	t.Helper()
	p, err := Parse(text)
	require.NoError(t, err, text)
	_, missing := p.Bind(func(name string) int {
		return slices.Index([]string{"brand", "title", "colour", "Product group", "description"}, name)
	}, func(col int) bool { return col == 1 && strings.Contains(text, "<p>") })
	require.Empty(t, missing)
	return p
}

func TestText(t *testing.T) {
	for _, test := range []struct{ pattern, cells, want, missing string }{
		{"{brand} {title}", "Nørrebi|Veil", "Nørrebi Veil", ""},
		{"{brand} {title}", "|Veil", "", "brand"},
		{"[{brand} ]{title}[, {colour}]", "|Veil", "Veil", ""},
		{"[{brand} ]{title}[, {colour}]", "B|Veil|red", "B Veil, red", ""},
		{"{title}[ ({colour}[, {brand}])]", "B|Veil", "Veil", ""},
		{"{title}[ ({colour}[, {brand}])]", "|Veil|red", "Veil (red)", ""},
		{"{colour|brand | title}", "|Veil", "Veil", ""},
		{"{colour|brand}", "|Veil", "", "colour or brand"},
		{`{"Product group" letters upper first 3}-{title words 2}`, "|hive tool long||frames, 2", "FRA-hive tool", ""},
		{"{title digits}{title last 2 lower}", "|AB 12 CD", "12cd", ""},
		{"{title digits}", "|none", "", "title"},
		{"{{{title}}} [[x]]", "|a", "{a} [x]", ""},
		{"<p>{title}</p>", "|a < b", "<p>a &lt; b</p>", ""},
		{"[{brand}][{colour}]{title}", "| x ", "x", ""},
		{"{brand first 2}", "Ôrmeau", "Ôr", ""},
		{"{title slug}-{brand slug}", "Nørrebi|Größe & Co. (Łódź)", "grosse-co-lodz-norrebi", ""},
		{"{brand ascii upper first 3}", "Ørsted", "ORS", ""},
		{"only words", "", "only words", ""},
	} {
		text, missing := bind(t, test.pattern).Text(&catalogue.Row{Cells: strings.Split(test.cells, "|")})
		assert.Equal(t, test.want, text, test.pattern)
		assert.Equal(t, test.missing, missing, test.pattern)
	}
}

func TestParseErrors(t *testing.T) {
	for text, want := range map[string]string{
		"":                        "it is empty",
		"{title":                  "a { is not closed",
		"{ti tle}":                `there is no word "tle"`,
		"{title first}":           "first needs a number",
		"{title first 0}":         "first needs a number",
		"title}":                  "a } without its {",
		"{title}]":                "a ] without its [",
		"{title}[ x]":             "would always be there",
		"{title}[ {brand}":        "a [ is not closed",
		"{}":                      "is missing here",
		"{title|}":                "is missing here",
		`{"title}`:                "quotation marks is not closed",
		strings.Repeat("[a", 2e4): "nested more than",
	} {
		_, err := Parse(text)
		require.ErrorIs(t, err, ErrWrong, text)
		assert.ErrorContains(t, err, want, catalogue.Shorten(text, 20))
	}
}

// FuzzParse: no pattern makes the program fall over.
func FuzzParse(f *testing.F) {
	f.Add("[{brand} ]{title|colour upper first 3}", "a|b|c")
	f.Fuzz(func(t *testing.T, text, cells string) {
		p, err := Parse(text)
		if err != nil {
			assert.ErrorIs(t, err, ErrWrong)
			return
		}
		p.Bind(func(name string) int { return len(name) % 4 }, func(int) bool { return false })
		built, missing := p.Text(&catalogue.Row{Cells: strings.Split(cells, "|")})
		assert.True(t, missing == "" || built == "")
	})
}
