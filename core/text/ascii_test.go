package text

import (
	"regexp"
	"testing"

	"github.com/stretchr/testify/assert"

	"zetanum/core/catalogue"
)

func TestASCII(t *testing.T) {
	for _, test := range []struct{ text, ascii, slug string }{
		{"Brushes 12 mm", "Brushes 12 mm", "brushes-12-mm"},
		{"Größe Ü", "Grosse U", "grosse-u"},
		{"Łódź, Ørsted & Þór", "Lodz, Orsted & Thor", "lodz-orsted-thor"},
		{"Smörgås – été", "Smorgas - ete", "smorgas-ete"},
		{"STRAẞE", "STRASSE", "strasse"},
		{"Μέλι και κερί", "Meli kai keri", "meli-kai-keri"},
		{"Ουρανός", "Ouranos", "ouranos"},
		{"Мёд Щука Ягода", "Myod Shchuka Yagoda", "myod-shchuka-yagoda"},
		{"Київ", "Kiyiv", "kiyiv"},
		{"はちみつ", "hachimitsu", "hachimitsu"},
		{"きっぷ チョコ ラーメン", "kippu choko ramen", "kippu-choko-ramen"},
		{"蜂蜜 5 kg", " 5 kg", "5-kg"},
		{"500 × 425 “x”", "500 x 425 \"x\"", "500-x-425-x"},
		{"bee's wax", "bee's wax", "bees-wax"},
		{"  --a__b  ", "  --a__b  ", "a-b"},
		{"e\u0301te\u0301", "ete", "ete"},
		{"５０ ﬁ", "50 fi", "50-fi"},
		{"", "", ""},
	} {
		assert.Equal(t, test.ascii, ASCII(test.text), test.text)
		assert.Equal(t, test.slug, Slug(test.text), test.text)
	}
}

// FuzzSlug: a slug is safe in an address whatever the text, and the slug of a slug is itself.
func FuzzSlug(f *testing.F) {
	for _, s := range []string{"Größe", "きゃっ", "\xff", "Ǆ ǅ", "İ"} {
		f.Add(s)
	}
	safe := regexp.MustCompile(`^([a-z0-9]+(-[a-z0-9]+)*)?$`)
	f.Fuzz(func(t *testing.T, s string) {
		slug := Slug(s)
		assert.Regexp(t, safe, slug)
		assert.Equal(t, slug, Slug(slug))
		assert.True(t, catalogue.IsASCII(ASCII(s)))
		letters := SlugLetters(s)
		assert.Equal(t, letters, SlugLetters(letters))
		assert.NotContains(t, letters+"-", "--")
	})
}
