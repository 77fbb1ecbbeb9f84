package pattern

import (
	"fmt"
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
	p.In("2026")
	return p
}

// TestDraft: what is open in a code stays apart from what cells say.
func TestDraft(t *testing.T) {
	for _, test := range []struct{ pattern, cells, want string }{
		{"{brand upper first 2}-{counter 4}", "Nørrebi", `"NØ-" a4`},
		{"{title slug}[-{counter}]", "|Bee Veil", `"bee-veil" ["-"] [a0]`},
		{"[{brand}-]{random letters 3}{random digits 18}{check 37-2}", "B\x01\x02|", `"B-" c3 b18 f0`},
		{"{random letters 3 all}{random digits 2 all}", "|", `e3 d2`},
		{`{"counter"}{check luhn}`, "7", `"7" h0`},
	} {
		p, err := ParseCode(test.pattern)
		require.NoError(t, err)
		p.Bind(func(name string) int {
			return slices.Index([]string{"brand", "title"}, strings.Replace(name, "counter", "brand", 1))
		},
			func(int) bool { return false })
		draft, missing := p.Draft(&catalogue.Row{Cells: strings.Split(test.cells, "|")})
		require.Empty(t, missing)
		var pieces []string
		draft.Pieces(func(p Piece) {
			text := fmt.Sprintf("%q", p.Text)
			if p.Kind != 0 {
				text = fmt.Sprintf("%c%d", p.Kind, p.N)
			}
			if p.Optional {
				text = "[" + text + "]"
			}
			pieces = append(pieces, text)
		})
		assert.Equal(t, test.want, strings.Join(pieces, " "))
	}
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
		{"{title within 12}/{title slug within 9}", "|Beeswax cloth, large", "Beeswax/beeswax", ""},
		{"{title within 13}/{title within 30}/{title within 3}", "|Beeswax cloth, large", "Beeswax cloth/Beeswax cloth, large/Bee", ""},
		{"{title slug-letters}", "|Мёд & O’Neil’s Öl – 5 kg", "мёд-oneils-öl-5-kg", ""},
		{"{title initials upper}{title word 2 skip 1}", "|hive-tool o'neil’s 2. long", "HTO2L'neil’s", ""},
		{"{title digits pad 4}-{year last 2}", "|no. 12", "0012-26", ""},
		{"{title word 3}", "|one two", "", "title"},
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
	for text, want := range map[string]string{
		"{brand uper first 2}-{counter 4}": "there is no word \"uper\" (did you mean \"upper\"?)",
		"{counter 19}":                     "from 1 to 18",
		"{random 4}":                       "{random digits 5}",
		"{random letters}":                 "how many",
		"{title}{check 37}":                "37-2 for letters and digits",
		"{counter 4 upper}":                "nothing more stands behind {counter 4}",
	} {
		_, err := ParseCode(text)
		require.ErrorIs(t, err, ErrWrong, text)
		assert.ErrorContains(t, err, want)
	}
	_, err := ParseCode("{brand first 2}-{colour ubper first 3}-{counter 4}")
	assert.ErrorContains(t, err, "\n  {brand first 2}-{colour ubper first 3}-{counter 4}\n                          ^^^^^")
	_, err = Parse("{title} {counter 3}")
	assert.ErrorContains(t, err, `stands in quotation marks: {"counter"}`)
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

// TestCounterPlace: where in codes the counter stands is known where what follows it has a fixed length.
func TestCounterPlace(t *testing.T) {
	for text, want := range map[string][2]int{
		"A-{counter 4}":                        {4, 0},
		"{counter}":                            {0, 0},
		"{counter 3}-x{check 37-2}":            {3, 3},
		"{counter 3}{random letters 2}":        {3, 2},
		"{counter 3}-{title}":                  {3, -1},
		"{title}[-{counter 2}]":                {2, 0},
		"{counter 2}[-{title}]":                {2, -1},
		"{random digits 3}{counter 5}é":        {5, 1},
		"{title slug}[-{counter}]{check luhn}": {0, 1},
	} {
		p, err := ParseCode(text)
		require.NoError(t, err, text)
		size, behind := p.CounterPlace()
		assert.Equal(t, want, [2]int{size, behind}, text)
		assert.True(t, p.Counts(), text)
	}
	p, err := ParseCode("{title}{random digits 2}{check gtin}")
	require.NoError(t, err)
	assert.False(t, p.Counts())
	assert.Equal(t, []string{"title"}, p.Names())
}
