package text

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestEntities(t *testing.T) {
	for in, want := range map[string]string{
		"Wick &amp; Wax": "Wick & Wax", "Caf&#233; &#xE9; &eacute;": "Café é é", "A &amp;amp; B &amp;lt; C": "A & B < C",
		"12&nbsp;cm": "12\u00a0cm",
		"AT&T; x":    "AT&T; x", "R&D; &copy": "R&D; &copy", "a & b; c": "a & b; c", "&;": "&;", "&#xZZ;": "&#xZZ;",
		"&unknownentity;": "&unknownentity;", "": "", "plain": "plain",
	} {
		assert.Equal(t, want, Entities(in), in)
	}
}

// FuzzEntities: doing it twice is doing it once, and text without an entity stays.
func FuzzEntities(f *testing.F) {
	f.Add("&amp;amp;#38;lt;")
	f.Fuzz(func(t *testing.T, s string) {
		once := Entities(s)
		assert.Equal(t, once, Entities(once))
		if !strings.Contains(s, ";") {
			assert.Equal(t, s, once)
		}
	})
}
