package heading

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"zetanum/core/catalogue"
)

// AnotherTable says what a row among the products, whose columns have those fields, has
// in common with the headings of another table: how many cells are filled; whether each of
// them is a heading that is known, and one of them not the heading that its column has; and
// whether all are words as headings are, one is where a code or a number should be, and one
// is a heading that is known and not that of its column.
func AnotherTable(cells []string, fields []catalogue.Field) (filled int, known, words bool) {
	known, words = true, true
	other, wrong := false, false
	for col, cell := range cells {
		if cell == "" || strings.TrimSpace(cell) == "" {
			continue
		}
		if filled++; !MayBe(cell) {
			return filled, false, false
		}
		var own catalogue.Field
		if col < len(fields) {
			own = fields[col]
		}
		f := Field(cell)
		known = known && f != catalogue.Unknown
		other = other || f != own && f != catalogue.Unknown
		wrong = wrong || own.Kind().Numeric() || own == catalogue.Barcode
	}
	return filled, known && other && filled >= 2, words && wrong && other && filled >= 2
}

// MayBe reports whether a text may be a heading: not long, it begins with a letter, and has
// no digit.
func MayBe(cell string) bool {
	if len(cell) > 160 {
		return false
	}
	for i := range len(cell) {
		if c := cell[i]; c >= '0' && c <= '9' {
			return false
		}
	}
	cell = strings.TrimSpace(cell)
	first, _ := utf8.DecodeRuneInString(cell)
	return unicode.IsLetter(first) && utf8.RuneCountInString(cell) <= 40
}
