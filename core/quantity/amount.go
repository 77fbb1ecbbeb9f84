package quantity

import (
	"math/big"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Amounts are what was read of a cell that says how large, heavy or roomy something is: one amount, one of several units that belong
// together, 2 lb 4 oz, or up to three sides, 10 x 20 x 5 cm.
type Amounts struct {
	Is    What
	Of    [3]Amount
	Count int
	Sides bool // they are sides; otherwise they are one amount together
}

// An Amount is a number with a unit.
type Amount struct {
	Number   Number
	Num, Den uint32 // of a fraction behind it, or in its place; Den is 0 if there is none
	Unit     string // as it is written, in small letters and without points; "" if there is none
}

// Unit returns the usual name of a unit, and what it is one of: weight, length or volume. Both are empty if it is none.
func Unit(name string) (usual, dimension string) {
	u := units()[foldUnit(name)]
	return u.usual, u.dimension
}

// Size returns how many of the smallest unit of its dimension a unit has, and that dimension; nothing if it is none.
func Size(name string) (n Number, dimension string) {
	u := units()[foldUnit(name)]
	return u.number, u.dimension
}

// foldUnit returns a unit as it is looked up.
func foldUnit(s string) string {
	return strings.ReplaceAll(strings.ToLower(strings.TrimSpace(strings.ReplaceAll(s, "\u00a0", " "))), ".", "")
}

// ReadAmounts reads a cell of a column of a form.
func ReadAmounts(cell string, form Form) (a Amounts) {
	if n, ok := plainIn(cell, form); ok {
		a.Of[0].Number, a.Count = n, 1
		return a
	}
	text, is := plainly(cell)
	if is != Value {
		return Amounts{Is: is}
	}
	r := amountReader{text: text, form: form}
	a.Is = r.read(&a)
	if a.Is != Value && a.Is != About {
		return Amounts{Is: a.Is}
	}
	return a
}

type amountReader struct {
	text string
	at   int
	form Form
	what What
}

func (r *amountReader) read(a *Amounts) What {
	r.what = Value
	if w, length := beforeNumber(r.text); length > 0 {
		if w.is != About {
			return Words
		}
		r.what, r.at = About, length
	}
	if r.rest() != "" && (r.rest()[0] == '-' || strings.HasPrefix(r.rest(), "−")) {
		return Negative
	}
	for a.Count < len(a.Of) {
		r.label(a)
		one := &a.Of[a.Count]
		if what := r.one(one); what != Value {
			return what
		}
		a.Count++
		rest := r.rest()
		if rest == "" {
			break
		}
		if what := r.goesOn(a, rest); what != Value {
			return what
		}
	}
	if r.rest() != "" || a.Sides && a.Count < 2 {
		return Words
	}
	if !a.Sides && a.Count > 1 {
		for i := 1; i < a.Count; i++ { // 2 lb 4 oz
			big, small := units()[a.Of[i-1].Unit], units()[a.Of[i].Unit]
			if big.size == nil || small.size == nil || big.dimension != small.dimension || big.size.Cmp(small.size) <= 0 {
				return Words
			}
		}
	}
	if a.Sides { // 10 x 20 x 5 cm: the last unit is that of those without one
		last := a.Of[a.Count-1].Unit
		for i := range a.Count {
			if u := units()[a.Of[i].Unit]; u.size != nil && u.dimension != "length" {
				return Words // 6 x 330 ml: so many of them
			}
			if a.Of[i].Unit == "" {
				a.Of[i].Unit = last
			}
		}
	}
	return r.what
}

func (r *amountReader) rest() string {
	trimmed := strings.TrimLeftFunc(r.text[r.at:], func(c rune) bool { return unicode.IsSpace(c) || c == '\u00a0' })
	r.at = len(r.text) - len(trimmed)
	return trimmed
}

// goesOn reads what stands behind an amount and before the next.
func (r *amountReader) goesOn(a *Amounts, rest string) What {
	c, size := utf8.DecodeRuneInString(rest)
	switch {
	case strings.ContainsRune("x×*X", c):
		if a.Count > 1 && !a.Sides {
			return Words
		}
		a.Sides = true
		r.at += size
		return Value
	case c == '-' || c == '–' || c == '—':
		if next, _ := utf8.DecodeRuneInString(strings.TrimSpace(rest[size:])); isDigit(next) {
			return Range
		}
		return Words
	case isDigit(c) && !a.Sides && a.Of[a.Count-1].Unit != "":
		return Value
	}
	return Words
}

// label passes over the letter of a side: L 19 x B 78 x H 22.
func (r *amountReader) label(a *Amounts) {
	rest := r.rest()
	if len(rest) < 2 || !strings.ContainsRune("LlWwHhBbDdTt", rune(rest[0])) {
		return
	}
	behind := strings.TrimLeft(rest[1:], ".: ")
	if next, _ := utf8.DecodeRuneInString(behind); isDigit(next) {
		r.at = len(r.text) - len(behind)
	}
}

// one reads a number with its unit.
func (r *amountReader) one(a *Amount) What {
	rest := r.rest()
	if first, _ := utf8.DecodeRuneInString(rest); !isDigit(first) && (len(rest) < 2 || rest[0] != '.' && rest[0] != ',' || !isDigit(rune(rest[1]))) {
		return Words
	}
	var s scanner
	number, to := s.number(r.text, r.at, r.form.Decimal)
	if !number.IsValid() {
		return Malformed
	}
	a.Number, r.at = number, to
	if asked(&s, r.form) {
		return Asked
	}
	if what := r.fraction(a); what != Value {
		return what
	}
	a.Unit = r.unit()
	return Value
}

// asked reports whether a number could be read in two ways: its mark is one that the others do not have, or that stands elsewhere in them.
func asked(s *scanner, form Form) bool {
	return s.open && (form.Decimal == 0 || form.Decimal == s.mark && !form.Fine) || form.Decimal != 0 && s.proves != 0 && s.proves != form.Decimal
}

// fraction reads 1/2, or the 1/2 of 1 1/2.
func (r *amountReader) fraction(a *Amount) What {
	rest := r.text[r.at:]
	whole := a.Number.mark == 0 && a.Number.group == 0
	if strings.HasPrefix(rest, "/") && whole {
		den, n := small(rest[1:])
		if n == 0 || den == 0 || a.Number.coef > 1000 {
			return Words
		}
		a.Num, a.Den, a.Number = uint32(a.Number.coef), den, Number{digits: 1}
		r.at += 1 + n
		return Value
	}
	trimmed := strings.TrimLeft(rest, " \u00a0-")
	num, n := small(trimmed)
	if whole && n > 0 && strings.HasPrefix(trimmed[n:], "/") && len(trimmed) < len(rest) {
		den, m := small(trimmed[n+1:])
		if m == 0 || den == 0 || num >= den {
			return Words
		}
		a.Num, a.Den = num, den
		r.at = len(r.text) - len(trimmed) + n + 1 + m
	}
	return Value
}

// small reads a number of up to three digits, and returns how many.
func small(s string) (value uint32, n int) {
	for n < len(s) && n < 3 && s[n] >= '0' && s[n] <= '9' {
		value = 10*value + uint32(s[n]-'0')
		n++
	}
	if n < len(s) && s[n] >= '0' && s[n] <= '9' {
		return 0, 0
	}
	return value, n
}

// longestUnit is how many bytes the name of a unit has at most.
const longestUnit = 24

// unit reads the unit behind a number; "" if there is none, and nothing is passed over.
func (r *amountReader) unit() string {
	rest := r.rest()
	if _, known := units()[rest]; known && rest != "" { // g, as most are
		r.at = len(r.text)
		return rest
	}
	for end := min(len(rest), longestUnit); end > 0; end-- {
		if end < len(rest) && (!utf8.RuneStart(rest[end]) || !endsUnit(rest, end)) {
			continue
		}
		if name := foldUnit(rest[:end]); name != "" {
			if _, known := units()[name]; known && !strings.HasPrefix(rest[:end], " ") {
				r.at += end
				if strings.HasPrefix(r.text[r.at:], ".") {
					r.at++
				}
				return name
			}
		}
	}
	return ""
}

// endsUnit reports whether the name of a unit may end before a byte: no letter or raised number goes on with it.
func endsUnit(s string, end int) bool {
	next, _ := utf8.DecodeRuneInString(s[end:])
	last, _ := utf8.DecodeLastRuneInString(s[:end])
	if unicode.IsLetter(last) && (unicode.IsLetter(next) && next != 'x' && next != 'X' || next == '²' || next == '³' || next == '/') {
		return false
	}
	return !unicode.IsLetter(last) || next != 'x' && next != 'X' || len(s) > end+1 && (s[end+1] == ' ' || isDigit(rune(s[end+1])))
}

// beforeNumber returns the words before a number, and how many bytes they have.
func beforeNumber(text string) (w word, length int) {
	at := strings.IndexFunc(text, func(r rune) bool { return isDigit(r) || r == '-' || r == '−' })
	if at <= 0 {
		return w, 0
	}
	before := strings.TrimSpace(text[:at])
	if strings.HasSuffix(before, ".") && strings.ToLower(before) != fold(before)+"." {
		return w, 0
	}
	if found, known := words()[fold(before)]; known && fold(before) != "" {
		return found, at
	}
	return w, 0
}

// Rat returns how much it is: a number of units.
func (a *Amount) Rat() *big.Rat {
	r, ok := new(big.Rat).SetString(a.Number.Plain())
	if !ok {
		return new(big.Rat)
	}
	if a.Den > 0 {
		r.Add(r, big.NewRat(int64(a.Num), int64(a.Den)))
	}
	return r
}

// In returns how many of a unit an amount is; one without a unit is in the unit of bare, as if that was written. ok is false if nobody knows
// its unit, and of another dimension if that is another.
func (a *Amount) In(unit, bare string) (value *big.Rat, known, same bool) {
	name := a.Unit
	if name == "" {
		name = foldUnit(bare)
	}
	from, to := units()[name], units()[foldUnit(unit)]
	if from.size == nil || to.size == nil {
		return nil, false, false
	}
	if from.dimension != to.dimension {
		return nil, true, false
	}
	value = a.Rat()
	value.Mul(value, from.size)
	return value.Quo(value, to.size), true, true
}

// A Rounding says what becomes of digits that are not written.
type Rounding uint8

// The ways of rounding.
const (
	HalfUp   Rounding = iota // to the nearest, a half away from zero
	HalfEven                 // to the nearest, a half to the even one
	Up                       // away from zero
	Down                     // towards zero
)

// Round writes a value with so many decimals.
func Round(value *big.Rat, decimals int, how Rounding) string {
	scale := new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(decimals)), nil)
	scaled := new(big.Rat).Mul(value, new(big.Rat).SetInt(scale))
	negative := scaled.Sign() < 0
	scaled.Abs(scaled)
	whole, rest := new(big.Int).QuoRem(scaled.Num(), scaled.Denom(), new(big.Int))
	half := new(big.Int).Lsh(rest, 1).Cmp(scaled.Denom()) // how the rest compares with a half
	up := rest.Sign() > 0 && (how == Up || how != Down && half > 0) || half == 0 && (how == HalfUp || how == HalfEven && whole.Bit(0) == 1)
	if up {
		whole.Add(whole, big.NewInt(1))
	}
	digits := whole.String()
	if len(digits) <= decimals {
		digits = strings.Repeat("0", decimals+1-len(digits)) + digits
	}
	if decimals > 0 {
		digits = digits[:len(digits)-decimals] + "." + digits[len(digits)-decimals:]
	}
	if negative && whole.Sign() > 0 {
		digits = "-" + digits
	}
	return digits
}
