package wording

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestAround(t *testing.T) {
	for _, test := range []struct {
		rule     AroundRule
		in, want string
	}{
		{AroundRule{Before: "Beech"}, "smoker box", "Beech smoker box"},
		{AroundRule{Before: "Beech "}, " smoker box ", "Beech smoker box"},
		{AroundRule{Before: "Beech"}, "beech smoker box", "beech smoker box"},
		{AroundRule{Before: "Bee"}, "Beech smoker box", "Bee Beech smoker box"},
		{AroundRule{Before: "Über"}, "ÜBER den Dächern", "ÜBER den Dächern"},
		{AroundRule{After: "(pair)"}, "Gloves", "Gloves (pair)"},
		{AroundRule{After: "(pair)"}, "Gloves (PAIR)", "Gloves (PAIR)"},
		{AroundRule{After: "x"}, "Box", "Box x"},
		{AroundRule{Before: "A", After: "B"}, "c", "A c B"},
		{AroundRule{Before: "A"}, "", ""},
		{AroundRule{Before: "A"}, "a", "a"},
		{AroundRule{After: "Straße"}, "x", "x Straße"},
	} {
		got, changed := test.rule.Apply(test.in)
		assert.Equal(t, test.want, got, "%s: %q", &test.rule, test.in)
		assert.Equal(t, test.in != test.want, changed)
		again, changed := test.rule.Apply(got)
		assert.Equal(t, got, again, "twice is once")
		assert.False(t, changed)
	}
	assert.NotEmpty(t, (&AroundRule{Fields: title}).Check())
	assert.NotEmpty(t, (&AroundRule{Before: "x"}).Check())
}

// FuzzAround: whatever the words and the text, twice is once.
func FuzzAround(f *testing.F) {
	f.Add("Beech", "", "beech box")
	f.Add("İ", "ß", "i ss")
	f.Fuzz(func(t *testing.T, before, after, text string) {
		r := &AroundRule{Before: before, After: after}
		once, _ := r.Apply(text)
		twice, changed := r.Apply(once)
		assert.Equal(t, once, twice)
		assert.False(t, changed)
	})
}

// TestAroundHTML: words stand inside the elements with which HTML begins and ends, and are not put there again.
func TestAroundHTML(t *testing.T) {
	rule := AroundRule{Before: "New:", After: "(oak & ash)"}
	for source, want := range map[string]string{
		"<p>Rich</p>": "<p>New: Rich (oak &amp; ash)</p>",
		"<p> <b>Rich</b> text.</p><ul><li>a</li></ul>": "<p> <b>New: Rich</b> text.</p><ul><li>a (oak &amp; ash)</li></ul>",
		"<p>new:  Rich (Oak &amp; Ash)</p>":            "<p>new:  Rich (Oak &amp; Ash)</p>",
		"<p>&amp; more</p>":                            "<p>New: &amp; more (oak &amp; ash)</p>",
		"<!-- x --><p>a</p><br>":                       "<!-- x --><p>New: a (oak &amp; ash)</p><br>",
		"<p> </p>":                                     "<p> </p>",
		"":                                             "",
	} {
		after, changed := rule.ApplyHTML(source)
		assert.Equal(t, want, after, source)
		assert.Equal(t, want != source, changed, source)
		again, changed := rule.ApplyHTML(after)
		assert.Equal(t, after, again, source)
		assert.False(t, changed, source)
	}
}
