package heading

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"zetanum/core/catalogue"
)

// AnotherTable says what a row among the products, in these columns, has
// in common with the headings of another table: how many cells are filled; whether each of
// them is a heading that is known, and one of them not the heading that its column has; and
// whether all are words as headings are, one is where a code or a number should be and not the
// heading of that, and one is a heading that is known; or one is the heading of its column, and
// another is not.
func AnotherTable(cells []string, columns *catalogue.Columns) (filled int, known, words bool) {
	for _, cell := range cells { // most rows of products have a digit somewhere
		if cell == "" || strings.TrimSpace(cell) == "" {
			continue
		}
		if filled++; !MayBe(cell) {
			return filled, false, false
		}
	}
	if filled < 2 {
		return filled, false, false
	}
	known = true
	other, wrong, some := false, false, false
	repeats, differs := false, false
	for col, cell := range cells {
		if cell == "" || strings.TrimSpace(cell) == "" {
			continue
		}
		var own catalogue.Field
		if col < len(columns.Fields) {
			own = columns.Fields[col]
		}
		if col < len(columns.Headings) && Key(cell) == Key(columns.Headings[col]) {
			repeats = true
		} else {
			differs = true
		}
		f := Field(cell)
		known = known && f != catalogue.Unknown
		some = some || f != catalogue.Unknown
		if f != own {
			other = other || f != catalogue.Unknown
			wrong = wrong || own.Kind().Numeric() || own == catalogue.Barcode
		}
	}
	return filled, known && other, wrong && some || repeats && differs
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

// MayName reports whether a row may be one of headings, or have the name of a table, by what
// stands in the place of its SKU; if not, the rest of it need not be looked at.
func MayName(sku string) bool {
	return sku == "" || strings.IndexByte(sku, ' ') >= 0 || MayBe(sku)
}

// IsName reports whether a row has one cell only, as the name of a table has.
func IsName(cells []string) bool {
	filled := 0
	for _, cell := range cells {
		if cell != "" {
			filled++
		}
	}
	return filled == 1
}
