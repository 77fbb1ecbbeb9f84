package rescue

import (
	"math"
	"strings"
	"unicode"

	"zetanum/core/barcode"
)

// A Form is how the digits stand in a cell.
type Form uint8

// The forms.
const (
	Empty      Form = iota
	Plain           // digits and nothing else, or with an X at the end
	Dressed         // with spaces, signs, hyphens or a label around them
	Tailed          // with a decimal mark and zeros behind
	Grouped         // with thousands marks
	Scientific      // 9.52123E+12
	Repeated        // one code more than once
	TwoCodes        // different codes
	OddTail         // with digits other than zeros behind a decimal mark
	TooLong         // more digits than a number has here
	Replaced        // something a spreadsheet program put in its place
	Among           // one whole code among words
	Nothing         // no code at all
)

// A Reading is what is left of a code in a cell.
type Reading struct {
	Form    Form
	N       uint64 // the number, missing digits taken as zeros; without an X
	Length  int    // how many characters it has, leading zeros included
	Missing int    // how many of them, at the end, are not in the cell
	Numeric bool   // the cell went through a number: nothing says it had no leading zeros
	Fixed   bool   // scientific with a zero at the end: the program printed a fixed number of decimals
	X       bool   // an X stands at the end, as in some ISBN-10s and ISSNs
	Halves  bool   // four digits, a hyphen and four characters, as an ISSN is printed
	Book    bool   // ten characters with three hyphens, the last before a single one, as an ISBN-10 is printed
}

// Read reads a cell; numeric says that a workbook stores a number in it.
func Read(cell string, numeric bool) Reading {
	switch {
	case cell == "":
		return Reading{}
	case len(cell) <= barcode.MaxDigits:
		if n, ok := barcode.Number(cell); ok {
			if len(cell) > 15 {
				return digits(cell, Plain, numeric)
			}
			return Reading{Form: Plain, N: n, Length: len(cell), Numeric: numeric}
		}
	case allDigits(cell):
		return digits(cell, Plain, numeric)
	}
	r := readSlowly(cell)
	r.Numeric = r.Numeric || numeric
	return r
}

func digits(s string, form Form, numeric bool) Reading {
	n, ok := barcode.Number(s)
	if !ok {
		return Reading{Form: TooLong, Length: len(s)}
	}
	if len(s) > 15 && uint64(float64(n)) != n {
		numeric = false // no number of 64 bits is this one
	}
	return Reading{Form: form, N: n, Length: len(s), Numeric: numeric}
}

func readSlowly(cell string) Reading {
	if bare(cell) {
		if r, ok := scientific(cell); ok {
			return r
		}
	}
	s, ok := ascii(unformula(cell))
	switch {
	case Replacement(cell) != "":
		return Reading{Form: Replaced}
	case !ok:
		return among(cell)
	case s == "":
		return Reading{}
	}
	s = undress(s)
	if r, ok := scientific(s); ok {
		return r
	}
	if r, ok := tailOrGroups(s); ok {
		return r
	}
	r := pieces(s, s == cell)
	if r.Form == Nothing {
		return among(cell)
	}
	return r
}

// bare reports whether a cell is digits with nothing but points, commas, plus signs and exponents between them: it is nothing else than
// it seems, and has nothing around it.
func bare(cell string) bool {
	for i := range len(cell) {
		switch c := cell[i]; {
		case c >= '0' && c <= '9':
		case i == 0 || i == len(cell)-1 || c != '.' && c != ',' && c != '+' && c != 'E' && c != 'e':
			return false
		}
	}
	return cell != ""
}

// ascii returns the cell with decimal digits of all scripts as ASCII digits,
// every kind of space as a plain one, typographic hyphens and apostrophes and
// characters of full width as plain ones, and without characters that nobody can see and
// currency signs.
// ok is false if anything else is not ASCII.
func ascii(cell string) (s string, ok bool) {
	var b strings.Builder
	for _, r := range cell {
		switch {
		case r >= ' ' && r < 0x7f:
			b.WriteRune(r)
		case unicode.Is(unicode.Nd, r):
			b.WriteByte('0' + digitValue(r))
		case r == '\n', r == '\r', r == '\t', unicode.Is(unicode.Zs, r):
			b.WriteByte(' ')
		case unicode.IsControl(r), unicode.Is(unicode.Cf, r), unicode.Is(unicode.Sc, r):
		case r >= 0x2010 && r <= 0x2015, r == 0x2212:
			b.WriteByte('-')
		case r == 0x2018, r == 0x2019, r == 0xb4:
			b.WriteByte('\'')
		case r == 0x201c, r == 0x201d, r == 0x201e:
			b.WriteByte('"')
		case r > 0xff00 && r < 0xff5f: // ASCII in full width
			b.WriteByte(byte(r - 0xfee0))
		default:
			return "", false
		}
	}
	return strings.TrimSpace(b.String()), true
}

// digitValue returns the value of a decimal digit: Unicode keeps the ten of
// each script together, the zero at a code point that the one before is not.
func digitValue(r rune) byte {
	v := byte(0)
	for v < 9 && unicode.Is(unicode.Nd, r-rune(v)-1) {
		v++
	}
	return v
}

// scientific reads 9.52123E+12, with a point or a comma.
func scientific(s string) (Reading, bool) {
	e := strings.IndexAny(s, "eE")
	if e < 1 {
		return Reading{}, false
	}
	mantissa, exponent := s[:e], strings.TrimPrefix(s[e+1:], "+")
	whole, fraction, _ := strings.Cut(strings.Replace(mantissa, ",", ".", 1), ".")
	if whole == "" || len(whole) > 1 && fraction != "" || !allDigits(whole) || !allDigits(fraction) ||
		exponent == "" || len(exponent) > 3 || !allDigits(exponent) {
		return Reading{}, false
	}
	exp := 0
	for i := range len(exponent) {
		exp = 10*exp + int(exponent[i]-'0')
	}
	length := len(whole) + exp
	m := whole + fraction
	if m[0] == '0' {
		return Reading{Form: Nothing}, true
	}
	fixed := strings.HasSuffix(fraction, "0")
	missing := length - len(m)
	if missing < 0 {
		// Digits behind the decimal point: only zeros may stand there.
		if strings.Trim(m[length:], "0") != "" {
			return Reading{Form: OddTail, Length: length, Numeric: true}, true
		}
		m, missing = m[:length], 0
	}
	if length > barcode.MaxDigits {
		return Reading{Form: TooLong, Length: length, Numeric: true}, true
	}
	n, _ := barcode.Number(m)
	return Reading{Form: Scientific, N: n * barcode.Pow10(missing), Length: length, Missing: missing, Numeric: true, Fixed: fixed}, true
}

func allDigits(s string) bool {
	for i := range len(s) {
		if s[i]-'0' > 9 {
			return false
		}
	}
	return true
}

// tailOrGroups reads 9521234000013.00 and 9,521,234,000,013, and both at once.
func tailOrGroups(s string) (Reading, bool) {
	i := 0
	for i < len(s) && s[i]-'0' <= 9 {
		i++
	}
	if i == 0 || i == len(s) || !strings.ContainsRune(".,' ", rune(s[i])) {
		return Reading{}, false
	}
	if joined, ok := ungroup(s, s[i]); ok {
		return digits(joined, Grouped, true), true
	}
	if mark := s[i]; mark == '.' || mark == ',' {
		tail := s[i+1:]
		if tail != "" && allDigits(tail) {
			if strings.Trim(tail, "0") != "" {
				if len(tail) >= 8 && i >= 8 {
					return Reading{Form: TwoCodes}, true
				}
				return Reading{Form: OddTail, Length: i, Numeric: true}, true
			}
			return digits(s[:i], Tailed, true), true
		}
	}
	return Reading{}, false
}

// ungroup takes the thousands marks out of a number with at least two of them,
// in threes or as in India (twos, and three at the end), and a decimal tail of
// zeros behind another mark. What is left must have a legal length.
func ungroup(s string, mark byte) (string, bool) {
	if tail := strings.LastIndexAny(s, ".,"); tail >= 0 && s[tail] != mark && len(s)-tail <= 4 && strings.Trim(s[tail+1:], "0") == "" {
		s = s[:tail]
	}
	groups := strings.Split(s, string(rune(mark)))
	if len(groups) < 3 {
		return "", false
	}
	inner := len(groups[1])
	for i, g := range groups {
		last := i == len(groups)-1
		if !allDigits(g) || g == "" || i == 0 && len(g) > inner || i > 0 && !last && len(g) != inner || last && len(g) != 3 {
			return "", false
		}
	}
	joined := strings.Join(groups, "")
	return joined, inner == 3 && mayBeCode(len(joined)) || inner == 2 && barcode.LegalLength(len(joined))
}

// Interval returns the smallest and the largest number that the code may have
// been. Rounding keeps half a unit on each side, both ends included; a number
// that was rounded up to a power of ten had one digit less, and a tenth of the
// unit.
func (r Reading) Interval() (low, high uint64) {
	return around(r.N, r.Missing)
}

// beyond is Interval for a number of more digits than spreadsheet programs keep: they cut
// those behind the fifteenth off, or keep the nearest number of 64 bits. Both are 0 if
// nothing is missing.
func (r Reading) beyond() (low, high uint64) {
	missing := max(r.Missing, r.Length-15)
	if r.N%barcode.Pow10(missing) == 0 {
		low, _ = around(r.N, missing)
		return low, r.N + barcode.Pow10(missing) - 1
	}
	if r.Numeric {
		half := uint64(math.Nextafter(float64(r.N), math.Inf(1))-float64(r.N))/2 + 1
		return r.N - half, r.N + half
	}
	return 0, 0
}

func around(n uint64, missing int) (low, high uint64) {
	if missing == 0 {
		return n, n
	}
	half := barcode.Pow10(missing) / 2
	below := half
	if isPowerOf10(n) {
		below = half / 10
	}
	return n - min(below, n), n + half
}

func isPowerOf10(n uint64) bool {
	for n >= 10 && n%10 == 0 {
		n /= 10
	}
	return n == 1
}

// significant returns how many digits are left when zeros at the end do not
// count.
func (r Reading) significant() int {
	n, s := r.N, r.Length
	if n == 0 {
		return 0
	}
	for n%10 == 0 {
		n /= 10
		s--
	}
	return s
}
