package products

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/pattern"
)

// TestSpreading: of which values there are rows, what each gets, and what of the first row.
func TestSpreading(t *testing.T) {
	heads := catalogue.Columns{Headings: []string{"SKU", "Title", "Sizes", "Size", "Price", "Slug"},
		Fields: []catalogue.Field{catalogue.SKU, catalogue.Title, 0, catalogue.Size, catalogue.Price, catalogue.Slug}}
	layout, err := new(Rules).For(&heads, new(columns.Rules))
	require.NoError(t, err)
	sku, err := pattern.Parse("{SKU}-{Size}")
	require.NoError(t, err)
	sku.Bind(func(name string) int { return columns.Find(&heads, name) }, func(int) bool { return false })
	s := &Spreading{From: 2, Into: 3, Set: []SetCell{{0, sku}}, Same: []int{5}, Layout: layout,
		Clean: func(cell string, _ int) string { return strings.TrimSpace(cell) }}
	for row, want := range map[string]string{
		"A|Suit|S, M, L||5|suit": "[S M L] [A-S A-M A-L] []",
		"A|Suit|M||5|suit":       "[M] [A-M] []",
		"A|Suit|S; M;s||5|suit":  "[S M s] [A-S A-M A-s] [s]",
		"A|Suit|S, M|XL|5|suit":  "[] [] []", // it has a size
		"A|Suit|||5|suit":        "[] [] []",
		"A":                      "[] [] []",
	} {
		r := rowsOf(row)[0]
		values := s.Values(r)
		assert.Equal(t, want, fmt.Sprint(values, s.Texts(r, values, 0), Twice(values)), row)
		assert.Nil(t, s.Texts(r, values, 1), "nothing is set there")
	}
	var copied []string
	for col, h := range heads.Headings {
		if s.Copied(col) {
			copied = append(copied, h)
		}
	}
	assert.Equal(t, "SKU Size Price Slug", strings.Join(copied, " "), "not the title, and not the list")
	assert.True(t, s.Written(&s.Set[0], false))
	assert.False(t, s.Written(&SetCell{Col: 1}, false), "the title stands in the first row")
}
