package mint

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/barcode"
	"zetanum/core/catalogue"
	"zetanum/core/text"
)

// A Folding makes codes the same that must not both be issued.
type Folding uint8

// The foldings.
const (
	AsRead  Folding = iota // SKUs and links: as people read them
	AsItems                // barcodes: the item, whatever carton of it
)

// Fold returns a code as it is compared: without case, with O as 0 and I and l as 1, with letters of
// other scripts as those that they look like, one character for one.
func Fold(code string) string {
	plain := true
	for i := range len(code) {
		if c := code[i]; c >= utf8.RuneSelf || c >= 'a' && c <= 'z' || c == 'O' || c == 'I' || c == 'L' {
			plain = false
			break
		}
	}
	if plain {
		return code
	}
	return strings.Map(foldRune, code)
}

func foldRune(c rune) rune {
	if c >= 0xff01 && c <= 0xff5e { // full width
		c -= 0xff01 - '!'
	}
	if c >= utf8.RuneSelf {
		c = text.LatinTwin(c)
	}
	if c = unicode.ToUpper(c); c >= utf8.RuneSelf {
		c = text.LatinTwin(c)
	}
	switch c {
	case 'O':
		return '0'
	case 'I', 'L', '|':
		return '1'
	}
	return c
}

// of returns a code as it is compared. A barcode is its digits without the indicator of a carton and
// without the check digit, right or wrong, since cartons have the number of the item in them; other
// texts are no barcodes, and "".
func (f Folding) of(code string) string {
	if f == AsRead {
		return Fold(code)
	}
	code = strings.TrimSpace(code)
	n, length := uint64(0), 0
	if c, err := barcode.Parse(code); err == nil {
		gtin, ok := c.GTIN()
		if !ok {
			return ""
		}
		n, length = gtin.Number(), gtin.Len()
	} else if digits, ok := barcode.Number(code); ok && barcode.LegalLength(len(code)) {
		n, length = digits, len(code)
	}
	switch {
	case length == 0:
		return ""
	case length == 8:
		return barcode.Pad(n/10, 7)
	}
	return barcode.Pad(n/10%barcode.Pow10(12), 12)
}

// HashOf returns a hash of a code as it is compared.
func HashOf(f Folding, code string) uint64 { return hash(f.of(code)) }

// HashIn returns a hash of a code as codes of a field are compared, by its name.
func HashIn(field, code string) uint64 {
	f, _ := catalogue.ParseField(field)
	return hash(FoldingOf(f).of(code))
}

func hash(s string) uint64 { return xxhash.Sum64String(s) }
