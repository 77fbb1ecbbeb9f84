package quantity

import (
	"math"
	"math/big"
	"math/bits"
	"slices"
	"strings"
)

// Pricing reckons and writes amounts by rules that have been checked.
type Pricing struct {
	read, clear []What
	zero        bool
	currency    string
	reckons     bool

	// What is reckoned is (n · num + add) / den of numbers without decimals.
	num, add, den *big.Int
	least, most   *big.Rat
	end, step     *big.Int // what it ends in, and how far such ends are from one another, in units of the last decimal
	decimals      int      // -1: as many as there are
	round         Rounding
	change        *big.Rat

	silent bool     // nothing is done to any cell
	keeps  bool     // numbers are only written otherwise, with as many decimals as they have
	quick  *quickly // nil where numbers may be too large for it
}

// quickly is what is reckoned in numbers of 64 bits: the same, where they suffice.
type quickly struct {
	num, add, den uint64
	least, most   uint64 // in units of the last decimal; most is 0 if there is none
	end, step     uint64 // step is 0 if there is none
}

// NewPricing prepares rules that have been checked.
func NewPricing(numbers *NumberRule, rule *PriceRule) *Pricing {
	p := &Pricing{zero: rule.Zero == "none", currency: rule.Currency, decimals: -1, round: roundings[numbers.Round], reckons: rule.Reckons()}
	for _, name := range rule.Read {
		p.read = append(p.read, readable[name])
	}
	for _, name := range rule.Clear {
		p.clear = append(p.clear, clearable[name])
	}
	one := big.NewRat(1, 1)
	factor, plus := new(big.Rat).Set(one), new(big.Rat)
	times := func(by *big.Rat) { factor.Mul(factor, by); plus.Mul(plus, by) }
	get := func(v any) *big.Rat {
		if v == nil {
			return nil
		}
		n, _ := exact(v)
		return n
	}
	share := func(percent *big.Rat) *big.Rat { return new(big.Rat).Quo(percent, big.NewRat(100, 1)) }
	if n := get(rule.Times); n != nil {
		times(n)
	}
	if n := get(rule.Plus); n != nil {
		plus.Add(plus, n)
	}
	if n := get(rule.Percent); n != nil {
		times(new(big.Rat).Add(one, share(n)))
	}
	if n := get(rule.Margin); n != nil {
		times(new(big.Rat).Inv(new(big.Rat).Sub(one, share(n))))
	}
	if n := get(rule.Tax); n != nil {
		if with := new(big.Rat).Add(one, n); rule.FromTax == "gross" {
			times(with.Inv(with))
		} else {
			times(with)
		}
	}
	p.least, p.most, p.change = get(rule.AtLeast), get(rule.AtMost), get(rule.ChangeAtMost)
	p.num = new(big.Int).Mul(factor.Num(), plus.Denom())
	p.add = new(big.Int).Mul(plus.Num(), factor.Denom())
	p.den = new(big.Int).Mul(factor.Denom(), plus.Denom())
	switch {
	case numbers.Decimals != nil:
		p.decimals = *numbers.Decimals
	case p.reckons || rule.EndIn != nil:
		p.decimals = usualDecimals
	}
	if n := get(rule.EndIn); n != nil {
		scale := new(big.Rat).SetInt(powerOfTen(p.decimals))
		end := new(big.Rat).Mul(n, scale)
		p.end, p.step = new(big.Int).Quo(end.Num(), end.Denom()), powerOfTen(p.decimals)
		for ten := big.NewInt(10); p.step.Cmp(p.end) <= 0; {
			p.step.Mul(p.step, ten)
		}
	}
	p.quick, p.silent = p.quickly(), !numbers.Writes() && !rule.Writes()
	p.keeps = p.decimals < 0 && !p.reckons && p.least == nil && p.most == nil && p.end == nil
	return p
}

// quickly returns what is needed to reckon in numbers of 64 bits; nil if they do not suffice.
func (p *Pricing) quickly() *quickly {
	if p.decimals < 0 || p.add.Sign() < 0 {
		return nil
	}
	q := new(quickly)
	scale := powerOfTen(p.decimals)
	num, add := new(big.Int).Mul(p.num, scale), new(big.Int).Mul(p.add, scale)
	if !num.IsUint64() || !add.IsUint64() || !p.den.IsUint64() {
		return nil
	}
	q.num, q.add, q.den = num.Uint64(), add.Uint64(), p.den.Uint64()
	for _, limit := range []struct {
		of   *big.Rat
		into *uint64
	}{{p.least, &q.least}, {p.most, &q.most}} {
		if limit.of == nil {
			continue
		}
		scaled := new(big.Rat).Mul(limit.of, new(big.Rat).SetInt(scale))
		if !scaled.IsInt() || !scaled.Num().IsUint64() || scaled.Sign() == 0 {
			return nil
		}
		*limit.into = scaled.Num().Uint64()
	}
	if p.end != nil {
		if !p.end.IsUint64() || !p.step.IsUint64() {
			return nil
		}
		q.end, q.step = p.end.Uint64(), p.step.Uint64()
	}
	return q
}

// reckon returns an amount in units of the last decimal; ok is false if 64 bits do not suffice.
func (q *quickly) reckon(n Number, round Rounding) (units uint64, ok bool) {
	if n.behind > 9 {
		return 0, false
	}
	ten := pow10(int(n.behind))
	hi, lo := bits.Mul64(n.coef, q.num)
	over, more := bits.Mul64(q.add, ten)
	lo, carry := bits.Add64(lo, more, 0)
	hi += carry
	wide, den := bits.Mul64(q.den, ten)
	if over != 0 || wide != 0 || hi >= den {
		return 0, false
	}
	units, rest := bits.Div64(hi, lo, den)
	switch {
	case units < q.least:
		units = q.least
	case q.most > 0 && units >= q.most:
		units = q.most
	default:
		left := den - rest // rest is above a half where it is above what is left
		if rest > 0 && (round == Up || round != Down && rest > left) || rest == left && (round == HalfUp || round == HalfEven && units%2 == 1) {
			units++
		}
	}
	if q.step == 0 || units > math.MaxUint64-q.step {
		return units, q.step == 0
	}
	rest = (units%q.step + q.step - q.end) % q.step
	if rest == 0 {
		return units, true
	}
	up := round == Up || round != Down && 2*rest >= q.step
	lower := units - rest
	switch {
	case rest >= units || lower < q.least:
		up = true
	case q.most > 0 && lower+q.step > q.most:
		up = false
	}
	if up {
		return lower + q.step, true
	}
	return lower, true
}

// inUnits writes an amount of units of the last decimal.
func inUnits(units uint64, decimals int) string {
	var scratch [32]byte
	at := len(scratch)
	for n := 0; n <= decimals || units > 0; n++ {
		if n == decimals && decimals > 0 {
			at--
			scratch[at] = '.'
		}
		at--
		scratch[at] = byte('0' + units%10)
		units /= 10
	}
	return string(scratch[at:])
}

func powerOfTen(n int) *big.Int { return new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(n)), nil) }

// Of returns what is written in place of a cell, with a point before its decimals; the cell is read in a form. is says what it is if it is
// not read, and nothing is to be written then. A cell that says nothing, or what is to be cleared, is written empty.
func (p *Pricing) Of(cell string, form Form) (after string, is What) {
	read := ReadPrice(cell, form)
	switch {
	case read.Is == Blank:
		return "", Value
	case slices.Contains(p.clear, read.Is):
		return "", Value
	case slices.Contains(p.read, read.Is):
	case read.Is != Value:
		return cell, read.Is
	}
	if p.currency != "" && read.Currency != "" && read.Currency != p.currency && !isSignOf(read.Currency, p.currency) {
		return cell, Words
	}
	if read.Number.Sign() == 0 && p.zero {
		return "", Value
	}
	if p.keeps && isBare(cell) && form.Decimal != ',' {
		return cell, Value
	}
	return p.reckon(read.Number), Value
}

// isBare reports whether a cell is written as what is kept is: 12.50, and nothing in front of it.
func isBare(cell string) bool {
	n, plain := Plain(cell)
	return plain && n.mark != ',' && (cell[0] != '0' || len(cell) == 1 || cell[1] == '.')
}

// isSignOf reports whether a sign that stands for several currencies may stand for one.
func isSignOf(sign, code string) bool {
	return sign == "$" && strings.HasSuffix(code, "D") || sign == "kr" && (code == "SEK" || code == "NOK" || code == "DKK" || code == "ISK") || sign == "¥" && (code == "JPY" || code == "CNY")
}

// reckon returns what is written for a number.
func (p *Pricing) reckon(n Number) string {
	if p.quick != nil {
		if units, ok := p.quick.reckon(n, p.round); ok {
			return inUnits(units, p.decimals)
		}
	}
	if p.keeps && n.exp == 0 && n.sign == 0 && n.digits < MostDigits {
		if n.behind == 3 {
			return inUnits(10*n.coef, 4)
		}
		return inUnits(n.coef, int(n.behind))
	}
	behind := int(n.behind)
	value := new(big.Int).SetUint64(n.coef)
	den := powerOfTen(behind)
	if p.reckons { // (n/den · num + add) / p.den
		value.Mul(value, p.num)
		value.Add(value, new(big.Int).Mul(p.add, den))
		den.Mul(den, p.den)
	}
	amount := new(big.Rat).SetFrac(value, den)
	if p.least != nil && amount.Cmp(p.least) < 0 {
		amount.Set(p.least)
	}
	if p.most != nil && amount.Cmp(p.most) > 0 {
		amount.Set(p.most)
	}
	decimals := p.decimals
	if decimals < 0 { // as many as there are, but never three alone, which might be read as thousands
		for decimals = behind; decimals < mostDecimals && new(big.Int).Mod(powerOfTen(decimals), amount.Denom()).Sign() != 0; {
			decimals++
		}
		if decimals == 3 {
			decimals = 4
		}
	}
	text := Round(amount, decimals, p.round)
	if p.end != nil {
		text = p.ended(text, amount)
	}
	return text
}

// ended returns the amount nearest to one that ends as it should.
func (p *Pricing) ended(text string, amount *big.Rat) string {
	v, _ := new(big.Int).SetString(strings.Replace(text, ".", "", 1), 10)
	from := new(big.Int).Sub(v, p.end)
	rest := new(big.Int).Mod(from, p.step)
	if rest.Sign() == 0 {
		return text
	}
	lower := new(big.Int).Sub(v, rest)
	upper := new(big.Int).Add(lower, p.step)
	twice := new(big.Int).Lsh(rest, 1)
	to := lower
	if p.round == Up || p.round != Down && twice.Cmp(p.step) >= 0 {
		to = upper
	}
	as := func(v *big.Int) *big.Rat { return new(big.Rat).SetFrac(v, powerOfTen(p.decimals)) }
	switch {
	case lower.Sign() <= 0 || p.least != nil && as(lower).Cmp(p.least) < 0:
		to = upper
	case p.most != nil && as(upper).Cmp(p.most) > 0:
		to = lower
	}
	return Round(as(to), p.decimals, HalfUp)
}

// WithMark returns a number that is written with a point with another mark before its decimals.
func WithMark(text string, mark rune) string {
	if mark == '.' || mark == 0 {
		return text
	}
	return strings.Replace(text, ".", string(mark), 1)
}

// Silent reports whether nothing is to be done to any cell.
func (p *Pricing) Silent() bool { return p.silent }

// A Share is a part of a price.
type Share struct {
	of       *big.Rat
	rest, in uint64 // what is not in it, as a part of a whole number; in is 0 if 64 bits do not suffice
}

// NewShare returns a share of a rule that has been checked: 0.25.
func NewShare(v any) Share {
	n, err := exact(v)
	if err != nil {
		n = new(big.Rat)
	}
	s := Share{of: n}
	if rest := new(big.Int).Sub(n.Denom(), n.Num()); rest.IsUint64() && n.Denom().IsUint64() {
		s.rest, s.in = rest.Uint64(), n.Denom().Uint64()
	}
	return s
}

// IsLeft reports whether as much of a price as the share is left above a cost.
func (s Share) IsLeft(price, cost Number) bool {
	if s.in > 0 && price.behind <= 9 && cost.behind <= 9 && price.sign == 0 && cost.sign == 0 && price.exp == 0 && cost.exp == 0 {
		// price · rest / in ≥ cost
		of, overA := mul64(s.rest, pow10(int(cost.behind)))
		in, overB := mul64(s.in, pow10(int(price.behind)))
		if !overA && !overB {
			highA, lowA := bits.Mul64(price.coef, of)
			highB, lowB := bits.Mul64(cost.coef, in)
			return highA > highB || highA == highB && lowA >= lowB
		}
	}
	return s.left(price, cost).Cmp(s.of) >= 0
}

// mul64 multiplies, and reports whether 64 bits do not suffice.
func mul64(a, b uint64) (product uint64, over bool) {
	high, low := bits.Mul64(a, b)
	return low, high > 0
}

// left returns the share of a price that is left above a cost.
func (Share) left(price, cost Number) *big.Rat {
	a, _ := new(big.Rat).SetString(price.Plain())
	b, _ := new(big.Rat).SetString(cost.Plain())
	return a.Quo(new(big.Rat).Sub(a, b), a)
}

// Left returns how many percent of a price are left above a cost, with one decimal.
func (s Share) Left(price, cost Number) string {
	left := s.left(price, cost)
	return Round(left.Mul(left, big.NewRat(100, 1)), 1, HalfUp)
}

// Beyond reports whether an amount has become more or less than is allowed; both are bare numbers.
func (p *Pricing) Beyond(before, after Number) bool {
	if p.change == nil || before.Sign() == 0 {
		return false
	}
	a, _ := new(big.Rat).SetString(before.Plain())
	b, _ := new(big.Rat).SetString(after.Plain())
	d := new(big.Rat).Sub(b, a)
	d.Abs(d)
	return d.Cmp(a.Mul(a, p.change)) > 0
}
