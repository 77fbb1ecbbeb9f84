// Package quantity reads the quantities of a catalogue as they stand in cells.
//
//	n, err := quantity.Parse("1.234,50")
//	n.Plain()       // 1234.50
//	n.DecimalMark() // ','
//	n.String()      // 1.234,50, as it was written
//
// What stands in a column is read by what the column shows: [Marks] for prices and measures ([ReadPrice], [ReadAmounts]), [YesNo] and
// [Orders] for what these say ([YesNo.Read], [ReadDate]). What it does not settle is asked, and not guessed.
//
// It computes nothing with floating-point numbers: a price is a decimal.
package quantity

import (
	"cmp"
	"errors"
	"fmt"
	"math/big"
	"math/bits"
	"strconv"
	"strings"
	"unicode/utf8"
)

// A Number is a decimal number with the way in which it was written. It is a small value that
// can be copied and compared with ==, which tells numbers apart that are written differently;
// [Number.Cmp] compares what they are. The zero Number means none.
type Number struct {
	coef   uint64 // of all digits, as if they were a whole number
	digits uint8  // how many of them are written
	behind uint8  // how many of those behind the decimal mark
	mark   byte   // the decimal mark, '.' or ','; 0 if there is none
	group  rune   // between groups of three digits; 0 if there is nothing
	sign   byte   // '+' or '-'; 0 if there is none

	exp       int16 // the exponent of ten that is written, with expDigits digits
	letter    byte  // before it, 'E' or 'e'; 0 if there is none
	expSign   byte
	expDigits uint8
}

// The most digits that a number can have, and its exponent.
const (
	MostDigits         = 19
	mostExponentDigits = 3
)

// ErrNumber is wrapped by the errors of [Parse].
var ErrNumber = errors.New("no number")

// groupMarks may stand between groups of three digits; the marks of Unicode are the
// apostrophe, and spaces at which a line does not break.
const groupMarks = ".,' ’\u00a0\u202f"

// Parse reads a number: a sign, digits, perhaps with marks between groups of three, a
// decimal mark and digits behind it, an exponent. Of two different marks the last is the
// decimal mark. A point or a comma that stands alone is one, too, although in 1.234 it may
// stand between thousands ([Number.Ambiguous]); one that stands several times is not.
// Spaces around the number are for the caller to take off.
func Parse(s string) (Number, error) {
	n, ok := parse(s)
	if !ok {
		return Number{}, fmt.Errorf("%q: %w", s, ErrNumber)
	}
	return n, nil
}

func parse(s string) (n Number, ok bool) {
	if s != "" && (s[0] == '-' || s[0] == '+') {
		n.sign, s = s[0], s[1:]
	}
	if at := strings.IndexAny(s, "Ee"); at >= 0 {
		if !n.exponent(s[at:]) {
			return n, false
		}
		s = s[:at]
	}
	last := -1 // where the last mark stands, and which it is
	var mark rune
	several, other := false, false
	for i, r := range s {
		switch {
		case r >= '0' && r <= '9':
		case !strings.ContainsRune(groupMarks, r):
			return n, false
		default:
			several = several || r == mark
			other = other || last >= 0 && r != mark
			last, mark = i, r
		}
	}
	whole := s
	if last >= 0 && (mark == '.' || mark == ',') && (!several || other) {
		if other && strings.ContainsRune(s[:last], mark) {
			return n, false // 1.234,567.8
		}
		n.mark, whole = byte(mark), s[:last]
		n.behind = uint8(min(len(s)-last-1, 255))
	}
	if !n.whole(whole) || n.mark != 0 && !n.take(s[last+1:]) {
		return n, false
	}
	return n, n.digits > 0
}

// whole takes the digits before the decimal mark, which may be in groups.
func (n *Number) whole(s string) bool {
	at := strings.IndexFunc(s, func(r rune) bool { return r < '0' || r > '9' })
	if at < 0 {
		return n.take(s)
	}
	group, size := utf8.DecodeRuneInString(s[at:])
	if n.group = group; at == 0 || at > 3 || !n.take(s[:at]) {
		return false
	}
	for rest := s[at:]; rest != ""; rest = rest[size+3:] {
		if r, _ := utf8.DecodeRuneInString(rest); r != group || len(rest) < size+3 || !n.take(rest[size:size+3]) {
			return false
		}
	}
	return true
}

// take takes further digits.
func (n *Number) take(s string) bool {
	for i := range len(s) {
		d := s[i] - '0'
		if n.digits++; d > 9 || n.digits > MostDigits {
			return false
		}
		n.coef = 10*n.coef + uint64(d)
	}
	return true
}

// exponent reads E+12.
func (n *Number) exponent(s string) bool {
	n.letter = s[0]
	s = s[1:]
	if s != "" && (s[0] == '-' || s[0] == '+') {
		n.expSign, s = s[0], s[1:]
	}
	if s == "" || len(s) > mostExponentDigits {
		return false
	}
	for i := range len(s) {
		d := s[i] - '0'
		if d > 9 {
			return false
		}
		n.exp = 10*n.exp + int16(d)
	}
	if n.expDigits = uint8(len(s)); n.expSign == '-' {
		n.exp = -n.exp
	}
	return true
}

// IsValid reports whether it is a number and not the zero value.
func (n Number) IsValid() bool { return n.digits > 0 }

// Ambiguous reports whether the mark may stand between thousands instead: 1.234, but not
// 0.234 or 12.34.
func (n Number) Ambiguous() bool {
	return n.mark != 0 && n.group == 0 && n.letter == 0 && n.behind == 3 && n.digits > 3 && n.digits <= 6 &&
		n.coef >= pow10(int(n.digits)-1)
}

// InThousands returns an ambiguous number as one whose mark stands between thousands.
func (n Number) InThousands() Number {
	if n.Ambiguous() {
		n.group, n.mark, n.behind = rune(n.mark), 0, 0
	}
	return n
}

// Whole returns the digits of a number as a whole number, without any mark.
func (n Number) Whole() string {
	n.behind, n.mark, n.group, n.sign, n.letter = 0, 0, 0, 0, 0
	n.exp = 0
	return n.Plain()
}

// DecimalMark returns the decimal mark, '.' or ',', and 0 if there is none.
func (n Number) DecimalMark() rune { return rune(n.mark) }

// GroupMark returns what stands between groups of three digits, 0 if nothing does.
func (n Number) GroupMark() rune { return n.group }

// Decimals returns how many digits stand behind the decimal mark.
func (n Number) Decimals() int { return int(n.behind) }

// Scaled returns the number without its sign as a whole number and the power of ten by which that is to be multiplied.
func (n Number) Scaled() (coef uint64, exp int) { return n.coef, int(n.exp) - int(n.behind) }

// Scientific reports whether it is written with an exponent.
func (n Number) Scientific() bool { return n.letter != 0 }

// Signed reports whether it is written with a sign.
func (n Number) Signed() bool { return n.sign != 0 }

// Sign returns -1, 0 or 1.
func (n Number) Sign() int {
	switch {
	case n.coef == 0:
		return 0
	case n.sign == '-':
		return -1
	}
	return 1
}

// String returns the number as it was written, "" for the zero value.
func (n Number) String() string { return string(n.AppendTo(nil)) }

// AppendTo appends the number to b as it was written.
func (n Number) AppendTo(b []byte) []byte {
	if !n.IsValid() {
		return b
	}
	if n.sign != 0 {
		b = append(b, n.sign)
	}
	var scratch [MostDigits]byte
	digits := scratch[:n.digits]
	for i, rest := len(digits)-1, n.coef; i >= 0; i, rest = i-1, rest/10 {
		digits[i] = byte('0' + rest%10)
	}
	whole := digits[:len(digits)-int(n.behind)]
	for i, d := range whole {
		if n.group != 0 && i > 0 && (len(whole)-i)%3 == 0 {
			b = utf8.AppendRune(b, n.group)
		}
		b = append(b, d)
	}
	if n.mark != 0 {
		b = append(append(b, n.mark), digits[len(whole):]...)
	}
	if n.letter == 0 {
		return b
	}
	if b = append(b, n.letter); n.expSign != 0 {
		b = append(b, n.expSign)
	}
	exp := strconv.Itoa(int(max(n.exp, -n.exp)))
	return append(append(b, strings.Repeat("0", int(n.expDigits)-len(exp))...), exp...)
}

// MarshalText writes the number as it was written.
func (n Number) MarshalText() ([]byte, error) { return n.AppendTo(nil), nil }

// UnmarshalText reads what MarshalText writes.
func (n *Number) UnmarshalText(text []byte) (err error) {
	if len(text) == 0 {
		*n = Number{}
		return nil
	}
	*n, err = Parse(string(text))
	return err
}

// Plain returns the number with a decimal point, and without anything between thousands,
// zeros that say nothing, plus sign or exponent: -1234.5. It is "" for the zero value.
func (n Number) Plain() string {
	if !n.IsValid() {
		return ""
	}
	coef, scale := n.coef, int(n.behind)-int(n.exp)
	for coef != 0 && coef%10 == 0 {
		coef, scale = coef/10, scale-1
	}
	if coef == 0 {
		return "0"
	}
	s := strconv.FormatUint(coef, 10)
	switch {
	case scale <= 0:
		s += strings.Repeat("0", -scale)
	case scale >= len(s):
		s = "0." + strings.Repeat("0", scale-len(s)) + s
	default:
		s = s[:len(s)-scale] + "." + s[len(s)-scale:]
	}
	if n.sign == '-' {
		s = "-" + s
	}
	return s
}

// Cmp compares two numbers: -1 if n is less than o, 0 if they are equal, 1 otherwise.
func (n Number) Cmp(o Number) int {
	if c := cmp.Compare(n.Sign(), o.Sign()); c != 0 || n.Sign() == 0 {
		return c
	}
	return n.Sign() * n.compareSize(o)
}

// compareSize compares numbers without their signs.
func (n Number) compareSize(o Number) int {
	shift := int(o.behind) - int(o.exp) - (int(n.behind) - int(n.exp))
	a, b := n.coef, o.coef
	if shift < 0 {
		return -o.compareSize(n)
	}
	if shift <= MostDigits { // both as multiples of the same power of ten
		if high, low := bits.Mul64(a, pow10(shift)); high == 0 {
			return cmp.Compare(low, b)
		}
		return 1
	}
	x := new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(shift)), nil)
	return x.Mul(x, new(big.Int).SetUint64(a)).Cmp(new(big.Int).SetUint64(b))
}

func pow10(n int) uint64 {
	p := uint64(1)
	for range n {
		p *= 10
	}
	return p
}
