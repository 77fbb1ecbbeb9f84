package products

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"zetanum/core/catalogue"
)

func TestLinks(t *testing.T) {
	for cell, want := range map[string]string{
		"": "", "a.jpg": "a.jpg", "a.jpg, b.png": "a.jpg#b.png", "a.jpg;b.jpg;": "a.jpg#b.jpg", "a.jpg|b.jpg": "a.jpg#b.jpg",
		"a.jpg\nb.jpg": "a.jpg#b.jpg", "a.jpg b.jpg": "a.jpg#b.jpg",
		"https://x.example/a,https://x.example/b?w=1": "https://x.example/a#https://x.example/b?w=1",
		"https://x.example/a.jpg?size=1,2":            "https://x.example/a.jpg?size=1,2",
		"my photo.jpg":                                "my photo.jpg",
		"no image, none":                              "no image, none",
		"https://x.example/a; https://x.example/b.jpg, https://x.example/c.jpg": "https://x.example/a#https://x.example/b.jpg#https://x.example/c.jpg",
	} {
		assert.Equal(t, want, strings.Join(Links(cell), "#"), cell)
	}
}

// imageProduct makes a product; the first cell of a row says what it is: v for a variant, i for an image
// row, x for one that is set aside. The others are the image, its text, two further images, the size.
func imageProduct(text string) (*catalogue.Product, func(int) bool) {
	p := &catalogue.Product{Rows: rowsOf(text)}
	for _, row := range p.Rows {
		p.Roles = append(p.Roles, map[string]catalogue.Role{"v": catalogue.Variant, "i": catalogue.ImageRow, "x": 0}[row.Cell(0)])
	}
	return p, func(i int) bool { return p.Rows[i].Cell(0) == "x" }
}

var fiveColumns = ImageColumns{Image: 1, Alt: 2, Further: []int{3, 4}}

func TestImagesApart(t *testing.T) {
	for row, want := range map[string]string{
		"v|a.jpg": "[] false", "v": "[] false", "v|a.jpg;b.jpg": "[{a.jpg } {b.jpg }] false",
		"v|a.jpg;b.jpg|one;two":       "[{a.jpg one} {b.jpg two}] true",
		"v|a.jpg;b.jpg|one, two; too": "[{a.jpg one, two} {b.jpg too}] true",
		"v|a.jpg;b.jpg|one":           "[{a.jpg } {b.jpg }] false", // whose text it is, nobody knows
		"v|a.jpg||b.jpg|c.jpg":        "[{a.jpg } {b.jpg } {c.jpg }] false",
	} {
		images, texts := fiveColumns.Apart(rowsOf(row)[0])
		assert.Equal(t, want, fmt.Sprint(images, texts), row)
	}
	links := []string{"a", "b", "c", "d"}
	for n, want := range map[int]string{0: "||", 1: "a||", 2: "a|b|", 3: "a|b|c", 4: "a|b|c,d"} {
		assert.Equal(t, want, strings.Join(fiveColumns.Cells(links[:n], true, ","), "|"))
	}
	assert.Equal(t, "a; b; c; d||", strings.Join(fiveColumns.Cells(links, false, "; "), "|"))
}

// TestImagesTogether: the images of a product go into its lead row unless something would be lost.
func TestImagesTogether(t *testing.T) {
	more := func(row, lead *catalogue.Row) bool { return row.Cell(5) != "" && row.Cell(5) != lead.Cell(5) }
	for rows, want := range map[string]string{
		"v|a.jpg\ni|b.jpg\ni|c.jpg":              "lead 0 [a.jpg b.jpg c.jpg] [] joined [1 2] own []",
		"v|a.jpg\ni|b.jpg|back\ni|c.jpg":         `lead 0 [a.jpg b.jpg c.jpg] ["" "back"] joined [1 2] own []`,
		"v|a.jpg|front\ni|b.jpg|back, not front": `lead 0 [a.jpg] ["front"] joined [] own [1]`,
		"v|a.jpg\nv|b.jpg\ni|c.jpg":              "lead 0 [a.jpg c.jpg] [] joined [2] own [1]",
		"v|a.jpg\ni|b.jpg||||L\ni|c.jpg":         "lead 0 [a.jpg c.jpg] [] joined [2] own [1]",
		"x|z.jpg\nv\ni|b.jpg\ni":                 "lead 1 [b.jpg] [] joined [2] own [3]",
		"v|a.jpg||b.jpg\ni|c.jpg":                "lead 0 [a.jpg b.jpg c.jpg] [] joined [1] own []",
		"x|z.jpg":                                "lead -1 [] [] joined [] own []",
	} {
		p, aside := imageProduct(rows)
		got := fiveColumns.Together(p, aside, more, ",")
		assert.Equal(t, want, fmt.Sprintf("lead %d %v %q joined %v own %v", got.Lead, got.Links, got.Alts, got.Joined, got.Own), rows)
	}
}

func TestImagesOfVariants(t *testing.T) {
	for rows, want := range map[string]string{
		"v|a.jpg\nv|b.jpg\nv":       "map[0:a.jpg 1:b.jpg 2:a.jpg]",
		"v\ni|b.jpg;c.jpg\nv":       "map[0:b.jpg 2:b.jpg]",
		"v|a.jpg\ni|b.jpg":          "map[]", // it has no variants
		"v\nv":                      "map[]",
		"x|z.jpg\nv\nv||| b.jpg":    "map[1:b.jpg 2:b.jpg]",
		"v|a.jpg;b.jpg\nx|z.jpg\nv": "map[0:a.jpg 2:a.jpg]",
	} {
		p, aside := imageProduct(rows)
		assert.Equal(t, want, fmt.Sprint(fiveColumns.OfVariants(p, "", aside, nil)), rows)
	}
}
