package products

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestLinks(t *testing.T) {
	for cell, want := range map[string]string{
		"": "", "a.jpg": "a.jpg", "a.jpg, b.png": "a.jpg#b.png", "a.jpg;b.jpg;": "a.jpg#b.jpg", "a.jpg|b.jpg": "a.jpg#b.jpg",
		"a.jpg\nb.jpg": "a.jpg#b.jpg", "a.jpg b.jpg": "a.jpg#b.jpg",
		"https://x.example/a,https://x.example/b?w=1": "https://x.example/a#https://x.example/b?w=1",
		"https://x.example/a.jpg?size=1,2":            "https://x.example/a.jpg?size=1,2",
		"my photo.jpg":                                "my photo.jpg",
		"no image, none":                              "no image, none",
		"https://x.example/a; https://x.example/b.jpg, https://x.example/c.jpg": "https://x.example/a; https://x.example/b.jpg, https://x.example/c.jpg",
	} {
		assert.Equal(t, want, strings.Join(Links(cell), "#"), cell)
	}
}
