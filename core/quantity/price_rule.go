package quantity

import (
	"fmt"
	"math/big"
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
	only := *r
	if only.Read, only.Clear = nil, nil; kind == catalogue.NumberKind && only.IsZero() {
		for key, names := range map[string][]string{"read": r.Read, "clear": r.Clear} {
			for _, name := range names {
				if name != "about" && (name != "dash" || key == "read") {
					wrong(key, `has "about" in fields of type number, and clear "dash", too, and not %q`, name)
				}
			}
		}
		return problems
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

// CheckEnd returns what is wrong with the decimals of what prices end in.
func (r *PriceRule) CheckEnd(numbers *NumberRule) (problems []catalogue.Problem) {
	end, err := exact(r.EndIn)
	if r.EndIn == nil || err != nil {
		return nil
	}
	decimals := usualDecimals
	if numbers.Decimals != nil {
		decimals = *numbers.Decimals
	}
	if decimals >= 0 && decimals <= mostDecimals && !new(big.Rat).Mul(end, new(big.Rat).SetInt(powerOfTen(decimals))).IsInt() {
		problems = append(problems, catalogue.Problem{Key: "end_in", Text: fmt.Sprintf("has more decimals than the %d with which prices are written; decimals says how many there are", decimals)})
	}
	return problems
}

// usualDecimals is how many decimals prices that are reckoned have if nothing is said.
const usualDecimals = 2

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
