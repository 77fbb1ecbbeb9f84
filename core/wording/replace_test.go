package wording

import (
	"math/rand/v2"
	"regexp"
	"slices"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/condition"
	"zetanum/core/markup"
	"zetanum/core/text"
)

var title = condition.Fields{In: []string{"title"}}

func TestApply(t *testing.T) {
	for _, test := range []struct {
		rule     ReplaceRule
		in, want string
	}{
		{ReplaceRule{Find: "st.", With: "stainless"}, "st. steel, st.", "stainless steel, stainless"},
		{ReplaceRule{Find: "ss", With: "steel"}, "SS brush, grass, SS", "steel brush, grass, steel"},
		{ReplaceRule{Find: "ss", With: "steel", InsideWords: true}, "grass", "grasteel"},
		{ReplaceRule{Find: "ss", With: "steel", MatchCase: true}, "SS and ss", "SS and steel"},
		{ReplaceRule{Find: "ss", With: "steel", FirstOnly: true, OneWay: condition.OneWay{Once: true}}, "ss ss", "steel ss"},
		{ReplaceRule{Find: "rot", With: "red"}, "Brot, rotes, rot", "Brot, rotes, red"},
		{ReplaceRule{Find: "é", With: "e"}, "é café", "e café"},
		{ReplaceRule{Find: "steel", With: "stainless steel"}, "steel and stainless steel", "stainless steel and stainless steel"},
		{ReplaceRule{Find: "steel", With: "stainless steel"}, "Stainless Steel", "Stainless Steel"},
		{ReplaceRule{Find: "box", With: ""}, "smoker box", "smoker "},
		{ReplaceRule{Find: "½", With: "half"}, "1½ l", "1half l"},
		{ReplaceRule{Pattern: `(\d+) ?mm\b`, With: "$1 mm"}, "16mm, 20 mm", "16 mm, 20 mm"},
		{ReplaceRule{Pattern: `(\d+)cm`, With: "${1} cm"}, "16cm", "16 cm"},
		{ReplaceRule{Find: "none", With: "x"}, "nothing", "nothing"},
	} {
		test.rule.In = []string{"title"}
		require.Empty(t, test.rule.Check())
		r, err := NewReplacer(&test.rule)
		require.NoError(t, err)
		got, changed := r.Apply(test.in)
		assert.Equal(t, test.want, got, "%s in %q", &test.rule, test.in)
		assert.Equal(t, test.in != test.want, changed, test.in)
	}
}

func TestCheck(t *testing.T) {
	for _, r := range []ReplaceRule{
		{}, {Fields: title}, {Fields: title, Find: "a", Pattern: "b"}, {Fields: title, Pattern: "("},
		{Fields: title, Pattern: "x*"}, {Fields: title, Pattern: "x", MatchCase: true},
		{Fields: title, Find: "x", Scope: condition.Scope{Count: -1}},
	} {
		assert.NotEmpty(t, r.Check(), "%+v", r)
	}
}

// TestFindsLikeRegexp: a text that is found without the package regexp is found
// where that finds it.
func TestFindsLikeRegexp(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	letters := []rune("aAbB -é")
	word := func(n int) string {
		var b strings.Builder
		for range n {
			b.WriteRune(letters[r.IntN(len(letters))])
		}
		return b.String()
	}
	for range 3000 {
		rule := ReplaceRule{Find: strings.ReplaceAll(word(1+r.IntN(3)), "é", "a"), With: "#", InsideWords: true, MatchCase: r.IntN(2) == 0}
		pattern := regexp.QuoteMeta(rule.Find)
		if !rule.MatchCase {
			pattern = "(?i)" + pattern
		}
		text := word(r.IntN(12))
		p, err := NewReplacer(&rule)
		require.NoError(t, err)
		require.Nil(t, p.re)
		got, _ := p.Apply(text)
		require.Equal(t, regexp.MustCompile(pattern).ReplaceAllString(text, "#"), got, "%q in %q", rule.Find, text)
	}
}

func BenchmarkReplaceNothing(b *testing.B) {
	p, err := NewReplacer(&ReplaceRule{Find: "jacket", With: "coat"})
	require.NoError(b, err)
	text := strings.Repeat("A tool for the hive that lies well in the hand. ", 6)
	b.SetBytes(int64(len(text)))
	b.ReportAllocs()
	for b.Loop() {
		if _, changed := p.Apply(text); changed {
			b.Fatal("changed")
		}
	}
}

// TestNeeded: a text that a pattern fits has all in it that the pattern needs, where it needs it.
func TestNeeded(t *testing.T) {
	anywhere := func(s string) needed { return needed{anyCase: s, small: text.Small(s), rare: text.RareOf(s, true)} }
	for pattern, want := range map[string]needed{
		`([0-9]+) ?mm`: {literals: []string{"mm"}}, `no\. ?([0-9]+)99$`: {literals: []string{"no.", "99"}, last: "99"}, `(?i)abc`: anywhere("ABC"), `a|b`: {}, `x*`: {},
		`(abc)+d`: {literals: []string{"abc", "d"}}, `a{2}b`: {literals: []string{"a", "a", "b"}}, `[`: {},
		`^Hollow(brook)? Joinery`: {literals: []string{"Hollow", " Joinery"}, first: "Hollow"},
		`(?m)^a.c$`:               {literals: []string{"a", "c"}}, `^$`: {},
		`^(?i)a(?-i)b$`: {literals: []string{"b"}, last: "b", anyCase: "A", small: "a", rare: text.RareOf("A", true)},
		`(?i)größe`:     anywhere("GRÖ"), `(?i)skål`: anywhere("L"), `(?i)[a-c]\[[0-9]`: anywhere("["), `(?i)ßſKk`: {},
	} {
		got := neededBy(pattern)
		assert.Equal(t, want, got, pattern)
		re, err := regexp.Compile(pattern)
		for _, text := range []string{"12 mm", "no. 499", "no.99", "abcabcd", "aab", "Hollow Joinery", "xHollow Joinery", "x\nabc\ny", "Ab", "b", "",
			"aBC", "xgrÖẞE", "GRößE", "ſKÅL", "sk\u212bL", "B[7", "ẞSKK"} {
			if err == nil && re.MatchString(text) {
				assert.True(t, got.mayFit(text), "%s fits %q", pattern, text)
			}
		}
	}
	p, err := NewReplacer(&ReplaceRule{Fields: title, Pattern: "([0-9]+) ?mm", With: "$1 mm"})
	require.NoError(t, err)
	for text, want := range map[string]string{"12mm": "12 mm", "12 MM": "12 MM", "mm": "mm", "": ""} {
		after, _ := p.Apply(text)
		assert.Equal(t, want, after)
	}
}

// FuzzReplace: whatever is replaced in HTML, its tags stay, and without a match
// nothing changes.
func FuzzReplace(f *testing.F) {
	f.Add("<p class=\"a\">a b &amp; a</p>", "a", "x", true)
	f.Add("a<b", "b", "", false)
	f.Add("<a", "a", "b", true)
	f.Add("Dünne GRÖSSE Größe größe grö", "Größe", "", true)
	f.Add("\u212bNG skål SKÅL", "Ång", "x", true)
	f.Fuzz(func(t *testing.T, html, find, with string, inside bool) {
		rule := &ReplaceRule{Fields: condition.Fields{In: []string{"x"}}, Find: find, With: with, InsideWords: inside}
		if len(rule.Check()) > 0 || strings.ContainsAny(find+with, "<>") || !utf8.ValidString(find) || !utf8.ValidString(with) {
			return
		}
		p, err := NewReplacer(rule)
		require.NoError(t, err)
		after, changed := p.ApplyHTML(html)
		assert.Equal(t, changed, after != html)
		if !p.Finds(html) {
			assert.False(t, changed)
		} else {
			assert.True(t, slices.ContainsFunc(p.Keys(), func(key string) bool { return strings.Contains(text.Small(html), text.Small(key)) }))
		}
		tags := func(source string) (list []string) {
			for s := markup.NewScanner(source); s.Next(); {
				if k := s.Token().Kind; k != markup.Text && k != markup.Entity {
					list = append(list, s.Token().Raw)
				}
			}
			return list
		}
		assert.Equal(t, tags(html), tags(after))
	})
}

// TestReplaceSigns: a text with signs that HTML writes as entities is found there as it is in a plain text.
func TestReplaceSigns(t *testing.T) {
	p, err := NewReplacer(&ReplaceRule{Find: "love & care", With: "care"})
	require.NoError(t, err)
	for in, want := range map[string]string{"<p>With love &amp; care.</p>": "<p>With care.</p>", "<p>With love & care.</p>": "<p>With care.</p>", "<p title='love &amp; care'>x</p>": "<p title='love &amp; care'>x</p>"} {
		got, changed := p.ApplyHTML(in)
		assert.Equal(t, want, got)
		assert.Equal(t, got != in, changed)
		assert.True(t, !changed || p.Finds(in))
	}
	got, _ := p.Apply("With love & care.")
	assert.Equal(t, "With care.", got)
}
