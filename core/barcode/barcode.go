// Package barcode treats the numbers under bar symbols as what they are:
// numbers of a fixed length whose last digit is a check digit.
//
// A [Code] is a small comparable value made only by [Parse], [ParseAs] and
// [FromNumber]. The kinds known are the GTINs of the GS1 General Specifications
// (section 3.3, check digit in 7.9): EAN-8, UPC-A, EAN-13 and GTIN-14; UPC-E,
// which is a UPC-A with its zeros left out (5.2.2); SSCC-18, the number of a
// pallet; and of the book trade ISBN-13 (ISO 2108), an EAN-13 that begins with
// 978 or 979, the older ISBN-10, and ISSN (ISO 3297).
//
//	c, err := barcode.Parse("9521234000013")
//	c.Kind()   // EAN-13
//	c.Key()    // 9521234000013, the same as of 09521234000013
//
//	c, err = barcode.ParseAs(barcode.ISBN10, "0306406152")
//	g, _ := c.GTIN() // 9780306406157
package barcode

import (
	"errors"
	"fmt"
	"strconv"
	"strings"
)

// A Kind is the form in which a number is printed.
type Kind uint8

// The kinds of code. The zero value means none.
const (
	NoKind Kind = iota
	EAN8
	UPCE
	UPCA
	EAN13
	ISBN13
	GTIN14
	ISBN10
	ISSN
	SSCC
	numKinds
)

var kinds = [numKinds]struct {
	name   string
	length int // in characters
}{
	{}, {"EAN-8", 8}, {"UPC-E", 8}, {"UPC-A", 12}, {"EAN-13", 13}, {"ISBN-13", 13}, {"GTIN-14", 14},
	{"ISBN-10", 10}, {"ISSN", 8}, {"SSCC-18", 18},
}

// String returns the trade's name of the kind.
func (k Kind) String() string { return kinds[k].name }

// Len returns the number of characters of the kind.
func (k Kind) Len() int { return kinds[k].length }

// ParseKind returns the kind of that name; case does not count.
func ParseKind(name string) (Kind, bool) {
	for k := EAN8; k < numKinds; k++ {
		if strings.EqualFold(kinds[k].name, name) {
			return k, true
		}
	}
	return NoKind, false
}

// Kinds returns every kind in a fixed order.
func Kinds() []Kind {
	return []Kind{EAN8, UPCE, UPCA, EAN13, ISBN13, GTIN14, ISBN10, ISSN, SSCC}
}

// MaxDigits is the number of digits that a number can have here.
const MaxDigits = 19

// Errors that [Parse] and [ParseAs] wrap.
var (
	ErrNotDigits  = errors.New("not a run of digits")
	ErrLength     = errors.New("not the length of a barcode")
	ErrCheckDigit = errors.New("the check digit does not fit")
	ErrForm       = errors.New("no number of this kind is written so")
)

// A Code is a number with a check digit that fits. Codes can be compared with
// ==, which also compares their kind and length; use [Code.Key] to compare the
// numbers whatever their form. The zero Code means none.
type Code struct {
	n       uint64 // of an ISBN-10 and an ISSN the digits before the check character
	length  uint8
	special Kind // UPCE, ISBN10, ISSN or SSCC; otherwise the length says it
}

// Parse reads a run of 8, 12, 13 or 14 ASCII digits as a GTIN. The error says
// what is wrong and wraps [ErrNotDigits], [ErrLength] or [ErrCheckDigit].
func Parse(s string) (Code, error) {
	n, ok := Number(s)
	if !ok {
		return Code{}, fmt.Errorf("%q: %w", s, ErrNotDigits)
	}
	return FromNumber(n, len(s))
}

// Is reports whether [Parse] reads a text as a GTIN.
func Is(s string) bool {
	n, ok := Number(s)
	return ok && LegalLength(len(s)) && Valid(n)
}

// ParseAs reads a code of one kind; Parse's errors, and [ErrForm].
func ParseAs(kind Kind, s string) (Code, error) {
	digits := s
	if (kind == ISBN10 || kind == ISSN) && len(s) > 0 && s[len(s)-1]|0x20 == 'x' {
		digits = s[:len(s)-1]
	}
	n, ok := Number(digits)
	switch {
	case !ok:
		return Code{}, fmt.Errorf("%q: %w", s, ErrNotDigits)
	case len(s) != kind.Len():
		return Code{}, fmt.Errorf("%s has not the %d characters of %s: %w", s, kind.Len(), kind, ErrLength)
	}
	c := Code{n, uint8(len(s)), kind}
	fits := false
	switch kind {
	case ISBN10, ISSN:
		if len(digits) == len(s) {
			c.n /= 10
		}
		fits = strings.EqualFold(c.String(), s)
	case UPCE:
		return FromNumberUPCE(n)
	case SSCC:
		fits = Valid(n)
	default:
		gtin, err := FromNumber(n, len(s))
		if err == nil && gtin.Kind() != kind && !(kind == EAN13 && gtin.Kind() == ISBN13) {
			err = fmt.Errorf("%s: %w (%s)", s, ErrForm, kind)
		}
		if err != nil {
			return Code{}, err
		}
		return gtin, nil
	}
	if !fits {
		return Code{}, fmt.Errorf("%s: %w", s, ErrCheckDigit)
	}
	return c, nil
}

// AllKinds returns every code that the characters can be read as, at most one
// of a kind. Eight digits may be an EAN-8, a UPC-E and an ISSN at once.
func AllKinds(s string) []Code {
	var codes []Code
	for _, k := range []Kind{EAN8, UPCE, UPCA, EAN13, GTIN14, ISBN10, ISSN, SSCC} {
		if c, err := ParseAs(k, s); err == nil {
			codes = append(codes, c)
		}
	}
	return codes
}

// FromNumber makes a GTIN of a number that is written with length digits,
// leading zeros included.
func FromNumber(n uint64, length int) (Code, error) {
	if !LegalLength(length) || n >= Pow10(length) {
		return Code{}, fmt.Errorf("%s: %w", Pad(n, length), ErrLength)
	}
	if !Valid(n) {
		return Code{}, fmt.Errorf("%s: %w", Pad(n, length), ErrCheckDigit)
	}
	return Code{n: n, length: uint8(length)}, nil
}

// FromNumberUPCE makes a UPC-E of a number of up to eight digits, the first of
// them 0 or 1. Its check digit is that of the UPC-A for which it stands.
func FromNumberUPCE(n uint64) (Code, error) {
	upc, canonical := expand(n)
	switch {
	case !canonical || n >= Pow10(8):
		return Code{}, fmt.Errorf("%s: %w (%s)", Pad(n, 8), ErrForm, UPCE)
	case !Valid(upc):
		return Code{}, fmt.Errorf("%s: %w", Pad(n, 8), ErrCheckDigit)
	}
	return Code{n, 8, UPCE}, nil
}

// IsValid reports whether c is a code and not the zero value.
func (c Code) IsValid() bool { return c.length != 0 }

// Len returns the number of characters.
func (c Code) Len() int { return int(c.length) }

// Number returns the code as a number, so without leading zeros; of an ISBN-10
// and an ISSN without the check character.
func (c Code) Number() uint64 { return c.n }

// Kind returns the form in which the code is written.
func (c Code) Kind() Kind {
	if c.special != NoKind {
		return c.special
	}
	switch c.length {
	case 8:
		return EAN8
	case 12:
		return UPCA
	case 13:
		if p := c.n / 1e10; p == 978 || p == 979 {
			return ISBN13
		}
		return EAN13
	case 14:
		return GTIN14
	}
	return NoKind
}

// String returns the characters, leading zeros included, or "" for the zero
// value.
func (c Code) String() string { return string(c.AppendTo(nil)) }

// AppendTo appends the characters to b.
func (c Code) AppendTo(b []byte) []byte {
	switch {
	case c.length == 0:
		return b
	case c.special == ISBN10 || c.special == ISSN:
		b = AppendPadded(b, c.n, int(c.length)-1)
		return append(b, CheckCharacter(c.n))
	}
	return AppendPadded(b, c.n, int(c.length))
}

// MarshalText writes the characters; before those of a code that is no GTIN by its length
// stands its kind, so that it comes back as what it was: “UPC-E 04252614”.
func (c Code) MarshalText() ([]byte, error) {
	var b []byte
	if c.special != NoKind {
		b = append(append(b, c.special.String()...), ' ')
	}
	return c.AppendTo(b), nil
}

// UnmarshalText reads what MarshalText writes: a GTIN, or a code behind the name of its kind;
// empty text is the zero value.
func (c *Code) UnmarshalText(text []byte) (err error) {
	if len(text) == 0 {
		*c = Code{}
		return nil
	}
	name, digits, named := strings.Cut(string(text), " ")
	if !named {
		*c, err = Parse(name)
		return err
	}
	kind, known := ParseKind(name)
	if !known {
		return fmt.Errorf("%q: %w", text, ErrForm)
	}
	*c, err = ParseAs(kind, digits)
	return err
}

// LegalLength reports whether product codes of that many digits exist.
func LegalLength(n int) bool { return n == 8 || n == 12 || n == 13 || n == 14 }

// Valid reports whether the last digit of n is the check digit of the digits
// before it. It does not depend on how many leading zeros n is written with.
func Valid(n uint64) bool { return uint64(CheckDigit(n/10)) == n%10 }

// CheckDigit returns the check digit, 0 to 9, of a number without one: from
// the right the digits count 3, 1, 3, 1…, and the check digit brings the sum
// to a multiple of ten (GS1 General Specifications 7.9).
func CheckDigit(data uint64) int {
	var threes, ones uint64
	for data != 0 {
		pair := data % 100
		data /= 100
		tens := pair / 10
		ones += tens
		threes += pair - 10*tens
	}
	return int(9 - (3*threes+ones+9)%10)
}

// CountValid returns how many numbers from low to high, both included, have
// a fitting check digit.
func CountValid(low, high uint64) uint64 {
	if high < low {
		return 0
	}
	n := validUpTo(high)
	if low > 0 {
		n -= validUpTo(low - 1)
	}
	return n
}

// validUpTo counts the valid numbers from 0 to n: one in every whole ten, and
// perhaps one in the last.
func validUpTo(n uint64) uint64 {
	count := n / 10
	if uint64(CheckDigit(n/10)) <= n%10 {
		count++
	}
	return count
}

// Number reads a run of at most [MaxDigits] ASCII digits.
func Number(s string) (n uint64, ok bool) {
	if len(s) == 0 || len(s) > MaxDigits {
		return 0, false
	}
	for i := range len(s) {
		d := s[i] - '0'
		if d > 9 {
			return 0, false
		}
		n = 10*n + uint64(d)
	}
	return n, true
}

// Pow10 returns ten to the power of n, for n from 0 to [MaxDigits].
func Pow10(n int) uint64 { return pow10[n] }

var pow10 = func() (p [MaxDigits + 1]uint64) {
	p[0] = 1
	for i := 1; i < len(p); i++ {
		p[i] = 10 * p[i-1]
	}
	return p
}()

// Pad writes n with at least length digits.
func Pad(n uint64, length int) string { return string(AppendPadded(nil, n, length)) }

// AppendPadded appends n with at least length digits to b.
func AppendPadded(b []byte, n uint64, length int) []byte {
	for i := length - 1; i > 0 && (i > MaxDigits || n < pow10[i]); i-- {
		b = append(b, '0')
	}
	return strconv.AppendUint(b, n, 10)
}
