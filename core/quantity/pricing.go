package quantity

import (
	"fmt"
	"math"
	"math/big"
	"math/bits"
	"slices"
	"strconv"
	"strings"

	"golang.org/x/text/currency"

	"zetanum/core/catalogue"
)

// A NumberRule says how numbers of a field are read, and how they are written: of prices, measures and other numbers.
type NumberRule struct {
	// Decimal is the mark before decimals in the source, where the column does not settle it: point or comma.
	Decimal string `toml:"decimal" json:"decimal,omitempty"`
	// Written is the mark before decimals in what is written, as a bare number: point or comma.
	Written string `toml:"written" json:"written,omitempty"`
	// Decimals is how many are written; as many as there are if it is nil.
	Decimals *int `toml:"decimals" json:"decimals,omitempty"`
	// Round says what becomes of others: half-up, half-even, up or down.
	Round string `toml:"round" json:"round,omitempty"`
	// Words is a sheet with words in its first column and the numbers in whose place they stand in its second one.
	Words string `toml:"words" json:"words,omitempty"`
}

// A PriceRule says what is made of the amounts of money of a field. Factors and amounts are numbers of the rulebook, or texts with one.
type PriceRule struct {
	// Read are those of about, from and range that are read as their number, and Clear those of these, request and dash that are written
	// empty; the others are held.
	Read  []string `toml:"read" json:"read,omitempty"`
	Clear []string `toml:"clear" json:"clear,omitempty"`
	// Zero is "none" where 0 means that there is no such price.
	Zero string `toml:"zero" json:"zero,omitempty"`
	// From is another field or heading from whose amounts these are reckoned, where they are empty; Over also where they are not.
	From string `toml:"-" json:"-"` // the key from has it, which other kinds of fields have, too
	Over bool   `toml:"over" json:"over,omitempty"`
	// Once says that a field is reckoned from itself: it must not be done to its own result.
	Once bool `toml:"once" json:"once,omitempty"`
	// What is reckoned, in this order: Times, Plus, Percent on top, the price of which Margin percent are left, tax taken out (FromTax
	// gross) or added (net), no less than AtLeast, no more than AtMost, rounded, ended in EndIn.
	Times   any    `toml:"times" json:"times,omitempty"`
	Plus    any    `toml:"plus" json:"plus,omitempty"`
	Percent any    `toml:"percent" json:"percent,omitempty"`
	Margin  any    `toml:"margin" json:"margin,omitempty"`
	Tax     any    `toml:"tax" json:"tax,omitempty"`
	FromTax string `toml:"from_tax" json:"from_tax,omitempty"`
	AtLeast any    `toml:"at_least" json:"at_least,omitempty"`
	AtMost  any    `toml:"at_most" json:"at_most,omitempty"`
	EndIn   any    `toml:"end_in" json:"end_in,omitempty"`
	// ChangeAtMost is the share by which an amount may become more or less: 0.3. Rows beyond it are held.
	ChangeAtMost any `toml:"change_at_most" json:"change_at_most,omitempty"`
	// MarginAtLeast is the share of the price that has to be left above the cost: 0.25.
	MarginAtLeast any `toml:"margin_at_least" json:"margin_at_least,omitempty"`
	// Dated says that every price of a sale has to have its dates.
	Dated bool `toml:"dated" json:"dated,omitempty"`
	// Currency is that in which all are; CurrencyIn a field or heading that takes it.
	Currency   string `toml:"currency" json:"currency,omitempty"`
	CurrencyIn string `toml:"currency_in" json:"currency_in,omitempty"`
}

var (
	decimalMarks = map[string]rune{"point": '.', "comma": ','}
	roundings    = map[string]Rounding{"": HalfUp, "half-up": HalfUp, "half-even": HalfEven, "up": Up, "down": Down}
	readable     = map[string]What{"about": About, "from": From, "range": Range}
	clearable    = map[string]What{"about": About, "from": From, "range": Range, "request": Request, "dash": Dash}
)

// mostDecimals is how many decimals are written at most.
const mostDecimals = 9

// Check returns what is wrong with the rule.
func (r *NumberRule) Check(kind catalogue.Kind) (problems []catalogue.Problem) {
	wrong := func(key, format string, args ...any) {
		problems = append(problems, catalogue.Problem{Key: key, Text: fmt.Sprintf(format, args...)})
	}
	if *r == (NumberRule{}) {
		return nil
	}
	if !kind.Numeric() {
		for key, said := range map[string]bool{"decimal": r.Decimal != "", "written": r.Written != "", "decimals": r.Decimals != nil, "round": r.Round != "", "words": r.Words != ""} {
			if said {
				wrong(key, "goes with fields of numbers, prices and measures")
			}
		}
		return problems
	}
	if r.Words != "" && kind != catalogue.NumberKind {
		wrong("words", "goes with fields of type number, such as the stock")
	}
	for key, mark := range map[string]string{"decimal": r.Decimal, "written": r.Written} {
		if mark != "" && decimalMarks[mark] == 0 {
			wrong(key, `is "point" or "comma", and not %q`, mark)
		}
	}
	if _, known := roundings[r.Round]; !known {
		wrong("round", `is "half-up", "half-even", "up" or "down", and not %q`, r.Round)
	}
	if r.Round != "" && r.Decimals == nil {
		wrong("round", "says how decimals are rounded; decimals says how many there are")
	}
	if r.Decimals != nil && (*r.Decimals < 0 || *r.Decimals > mostDecimals) {
		wrong("decimals", "is a number from 0 to %d", mostDecimals)
	}
	return problems
}

// Mark returns the mark before decimals of what is written, 0 if nothing is said.
func (r *NumberRule) Mark() rune { return decimalMarks[r.Written] }

// Form returns how the numbers of a column are read: as it shows, and as the rule says where it does not settle it.
func (r *NumberRule) Form(shown Form) Form {
	if mark := decimalMarks[r.Decimal]; mark != 0 && (shown.Decimal == 0 || shown.Decimal == mark) {
		return Form{Decimal: mark, Fine: true}
	}
	return shown
}

// Writes reports whether the rule writes the numbers that are there.
func (r *NumberRule) Writes() bool { return r.Written != "" || r.Decimals != nil || r.Words != "" }

// amounts are the keys that are numbers, with what is reckoned by them.
func (r *PriceRule) amounts() map[string]any {
	return map[string]any{"times": r.Times, "plus": r.Plus, "percent": r.Percent, "margin": r.Margin, "tax": r.Tax, "at_least": r.AtLeast, "at_most": r.AtMost,
		"end_in": r.EndIn, "change_at_most": r.ChangeAtMost, "margin_at_least": r.MarginAtLeast}
}

// IsZero reports whether nothing is said.
func (r *PriceRule) IsZero() bool {
	for _, v := range r.amounts() {
		if v != nil {
			return false
		}
	}
	return r.Read == nil && r.Clear == nil && r.Zero == "" && r.From == "" && !r.Over && !r.Once && r.FromTax == "" && r.Currency == "" && r.CurrencyIn == "" && !r.Dated
}

// Reckons reports whether amounts become others by the rule.
func (r *PriceRule) Reckons() bool {
	return r.Times != nil || r.Plus != nil || r.Percent != nil || r.Margin != nil || r.Tax != nil
}

// Writes reports whether the rule writes cells that have something.
func (r *PriceRule) Writes() bool {
	return r.Reckons() || r.Read != nil || r.Clear != nil || r.Zero != "" || r.From != "" || r.AtLeast != nil || r.AtMost != nil || r.EndIn != nil || r.Currency != ""
}

// Check returns what is wrong with the rule.
func (r *PriceRule) Check(kind catalogue.Kind) (problems []catalogue.Problem) {
	wrong := func(key, format string, args ...any) {
		problems = append(problems, catalogue.Problem{Key: key, Text: fmt.Sprintf(format, args...)})
	}
	if r.IsZero() {
		return nil
	}
	if kind != catalogue.PriceKind {
		key := "times"
		if r.Dated {
			key = "dated"
		}
		for name, v := range r.amounts() {
			if v != nil && (key == "times" || key == "dated" || name < key) {
				key = name
			}
		}
		wrong(key, "goes with fields of type price")
		return problems
	}
	for name, v := range r.amounts() {
		if v == nil {
			continue
		}
		n, err := exact(v)
		switch {
		case err != nil:
			wrong(name, "is a number, such as 1.5: %v", err)
		case n.Sign() < 0 && name != "plus" && name != "percent":
			wrong(name, "is not below 0")
		case name == "times" && n.Sign() == 0:
			wrong(name, "would make all prices 0")
		case name == "margin" && n.Cmp(big.NewRat(100, 1)) >= 0:
			wrong(name, "is a percentage of the price below 100")
		case name == "percent" && n.Cmp(big.NewRat(-100, 1)) <= 0:
			wrong(name, "would leave nothing of the price")
		case (name == "tax" || name == "margin_at_least") && n.Cmp(big.NewRat(1, 1)) >= 0:
			wrong(name, "is a share, such as 0.2 for twenty percent")
		}
	}
	for _, name := range r.Read {
		if slices.Contains(r.Clear, name) {
			wrong("clear", "and read both have %q", name)
		}
		if _, known := readable[name]; !known {
			wrong("read", `has "about", "from" and "range", and not %q`, name)
		}
	}
	for _, name := range r.Clear {
		if _, known := clearable[name]; !known {
			wrong("clear", `has "about", "from", "range", "request" and "dash", and not %q`, name)
		}
	}
	if r.Zero != "" && r.Zero != "none" {
		wrong("zero", `is "none", where 0 means that there is no such price`)
	}
	if r.Tax != nil && r.FromTax != "gross" && r.FromTax != "net" {
		wrong("from_tax", `says what the amounts are from which it is reckoned: "gross" takes the tax out, "net" adds it`)
	}
	if r.Tax == nil && r.FromTax != "" {
		wrong("from_tax", "needs tax: how much it is, such as 0.2")
	}
	if r.Over && r.From == "" {
		wrong("over", "says that cells which have something are written over by what is reckoned from others; from says from which")
	}
	if r.Reckons() && r.From == "" && !r.Once {
		wrong(first(r), "would be done again each time the file is repaired; name another column with from, or say once = true: then an output of ours is refused")
	}
	if r.Once && (!r.Reckons() || r.From != "") {
		wrong("once", "goes with amounts that are reckoned from themselves")
	}
	if r.Currency != "" {
		if _, err := currency.ParseISO(r.Currency); err != nil || strings.ToUpper(r.Currency) != r.Currency {
			wrong("currency", "is the code of a currency, such as EUR, and not %q", r.Currency)
		}
	}
	if r.CurrencyIn != "" && r.Currency == "" {
		wrong("currency_in", "takes the currency of the prices; currency says which that is")
	}
	return problems
}

// first returns the first key by which amounts become others.
func first(r *PriceRule) string {
	for _, k := range []struct {
		key string
		v   any
	}{{"times", r.Times}, {"plus", r.Plus}, {"percent", r.Percent}, {"margin", r.Margin}} {
		if k.v != nil {
			return k.key
		}
	}
	return "tax"
}

// Words says what is reckoned: “times 1.2, plus 0.50”.
func (r *PriceRule) Words() string {
	var words []string
	add := func(format string, v any) {
		if v != nil {
			n, _ := exact(v)
			words = append(words, fmt.Sprintf(format, shortest(n)))
		}
	}
	add("times %s", r.Times)
	add("plus %s", r.Plus)
	add("plus %s %%", r.Percent)
	add("so that %s %% are left", r.Margin)
	if r.FromTax == "gross" {
		add("without a tax of %s", r.Tax)
	} else {
		add("with a tax of %s", r.Tax)
	}
	add("at least %s", r.AtLeast)
	add("at most %s", r.AtMost)
	add("ending in %s", r.EndIn)
	return strings.Join(words, ", ")
}

// shortest writes a number of a rulebook.
func shortest(n *big.Rat) string {
	if n == nil {
		return ""
	}
	s := n.FloatString(mostDecimals)
	return strings.TrimRight(strings.TrimRight(s, "0"), ".")
}

// exact returns a number of a rulebook as it is written there.
func exact(v any) (*big.Rat, error) {
	text := ""
	switch v := v.(type) {
	case int64:
		text = strconv.FormatInt(v, 10)
	case float64:
		text = strconv.FormatFloat(v, 'f', -1, 64)
	case string:
		text = v
	default:
		return nil, fmt.Errorf("%v is none", v)
	}
	n, err := Parse(text)
	if err != nil || n.mark == ',' || n.group != 0 {
		return nil, fmt.Errorf("%q is none with a decimal point", text)
	}
	rat, ok := new(big.Rat).SetString(n.Plain())
	if !ok {
		return nil, fmt.Errorf("%q is none", text)
	}
	return rat, nil
}

// Pricing reckons and writes amounts by rules that have been checked.
type Pricing struct {
	read, clear []What
	zero        bool
	currency    string
	reckons     bool
	once        bool

	// What is reckoned is (n · num + add) / den of numbers without decimals.
	num, add, den *big.Int
	least, most   *big.Rat
	end, step     *big.Int // what it ends in, and how far such ends are from one another, in units of the last decimal
	decimals      int      // -1: as many as there are
	round         Rounding
	change        *big.Rat

	silent bool     // nothing is done to any cell
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
	p := &Pricing{zero: rule.Zero == "none", currency: rule.Currency, decimals: -1, round: roundings[numbers.Round], reckons: rule.Reckons(), once: rule.Once}
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
		p.decimals = 2
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

// Of returns what is written in place of a cell, with a point before its decimals; the cell is read in a form. is says what it is if it is not read, and nothing is to be written then.
// A cell that says nothing, or what is to be cleared, is written empty.
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
	return p.reckon(read.Number), Value
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
type Share struct{ of *big.Rat }

// NewShare returns a share of a rule that has been checked: 0.25.
func NewShare(v any) Share {
	n, err := exact(v)
	if err != nil {
		n = new(big.Rat)
	}
	return Share{n}
}

// Left returns how many percent of a price are left above a cost, with one decimal, and whether that is as much as the share.
func (s Share) Left(price, cost Number) (percent string, enough bool) {
	a, _ := new(big.Rat).SetString(price.Plain())
	b, _ := new(big.Rat).SetString(cost.Plain())
	left := new(big.Rat).Quo(new(big.Rat).Sub(a, b), a)
	return Round(new(big.Rat).Mul(left, big.NewRat(100, 1)), 1, HalfUp), left.Cmp(s.of) >= 0
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
