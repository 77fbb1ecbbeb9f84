package quantity

import (
	"fmt"
	"math/big"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
)

// TestPricing: what is reckoned, in which order, and how it is rounded and ended.
func TestPricing(t *testing.T) {
	two, none := 2, 0
	for _, tt := range []struct {
		name    string
		numbers NumberRule
		rule    PriceRule
		cell    string
		want    string
	}{
		{"fifteen percent on top of the cost", NumberRule{}, PriceRule{From: "cost", Percent: int64(15)}, "4.00", "4.60"},
		{"a margin of the price", NumberRule{}, PriceRule{From: "cost", Margin: int64(30)}, "7", "10.00"},
		{"a margin that has no end", NumberRule{}, PriceRule{From: "cost", Margin: 33.0}, "10", "14.93"},
		{"in order", NumberRule{}, PriceRule{From: "cost", Times: 1.1, Plus: 0.5, Percent: int64(10), Tax: 0.2, FromTax: "net"}, "10", "15.18"},
		{"tax taken out", NumberRule{}, PriceRule{Once: true, Tax: 0.19, FromTax: "gross"}, "119", "100.00"},
		{"tax that leaves thirds", NumberRule{Decimals: &two, Round: "down"}, PriceRule{Once: true, Tax: 0.2, FromTax: "gross"}, "10", "8.33"},
		{"no less", NumberRule{}, PriceRule{From: "cost", Times: 2.0, AtLeast: 1.99}, "0.40", "1.99"},
		{"no more, ended below", NumberRule{}, PriceRule{From: "cost", Times: 2.0, AtMost: "20", EndIn: 0.95}, "10.20", "19.95"},
		{"ended at the nearest", NumberRule{}, PriceRule{EndIn: 0.95}, "12.40", "11.95"},
		{"ended at the nearest above", NumberRule{}, PriceRule{EndIn: 0.95}, "12.45", "12.95"},
		{"ended already", NumberRule{}, PriceRule{EndIn: 0.95}, "12.95", "12.95"},
		{"ended up", NumberRule{Decimals: &two, Round: "up"}, PriceRule{EndIn: 0.99}, "12.00", "12.99"},
		{"ended down", NumberRule{Decimals: &two, Round: "down"}, PriceRule{EndIn: 0.99}, "12.98", "11.99"},
		{"never at nothing", NumberRule{}, PriceRule{EndIn: 0.0}, "0.20", "1.00"},
		{"ended by tens", NumberRule{}, PriceRule{EndIn: 9.9}, "34.00", "29.90"},
		{"whole", NumberRule{Decimals: &none}, PriceRule{}, "12.50", "13"},
		{"with a comma", NumberRule{Written: "comma"}, PriceRule{}, "12.5", "12,5"},
		{"three decimals would be thousands", NumberRule{Written: "point", Decimal: "comma"}, PriceRule{}, "1,234", "1.2340"},
		{"thousands", NumberRule{Written: "point"}, PriceRule{}, "1.234,50 €", "1234.50"},
		{"nothing", NumberRule{}, PriceRule{Zero: "none"}, "0.00", ""},
		{"on request", NumberRule{}, PriceRule{Clear: []string{"request"}}, "POA", ""},
		{"another currency", NumberRule{}, PriceRule{Currency: "EUR"}, "£5", "words"},
		{"the sign of the currency", NumberRule{}, PriceRule{Currency: "CAD"}, "$5", "5"},
		{"about, and open", NumberRule{Written: "point"}, PriceRule{Read: []string{"about"}}, "ca. 1.234", "asked"},
		{"about, and less than nothing", NumberRule{Written: "point"}, PriceRule{Read: []string{"about"}}, "ca. -12", "negative"},
		{"a range, and open", NumberRule{Written: "point"}, PriceRule{Read: []string{"range"}}, "1.234–2.000", "asked"},
		{"a range, and settled", NumberRule{Written: "point", Decimal: "comma"}, PriceRule{Read: []string{"range"}}, "1.234–2.000", "1234"},
		{"open", NumberRule{Written: "point"}, PriceRule{}, "1.234", "asked"},
		{"too many digits for 64 bits", NumberRule{}, PriceRule{From: "cost", Times: 1234567.891}, "123456789012.34", "152415787640596566.77"},
	} {
		assert.Empty(t, append(tt.numbers.Check(catalogue.PriceKind), tt.rule.Check(catalogue.PriceKind)...), tt.name)
		var m Marks
		m.Learn(tt.cell)
		form := tt.numbers.Form(m.Form())
		got, is := NewPricing(&tt.numbers, &tt.rule).Of(tt.cell, form)
		if got = WithMark(got, tt.numbers.Mark()); is != Value {
			got = is.String()
		}
		assert.Equal(t, tt.want, got, tt.name)
	}
	assert.Equal(t, "times 1.1, plus 0.5, plus 15 %, at least 2", (&PriceRule{Times: 1.1, Plus: 0.5, Percent: int64(15), AtLeast: int64(2)}).Words())
	p := NewPricing(&NumberRule{}, &PriceRule{ChangeAtMost: 0.3})
	number := func(s string) Number { n, err := Parse(s); require.NoError(t, err); return n }
	assert.Equal(t, []bool{false, true, true}, []bool{p.Beyond(number("10"), number("13")), p.Beyond(number("10"), number("13.01")), p.Beyond(number("10"), number("6.99"))})
}

// TestCounting: what is no count is left, also where it begins like one.
func TestCounting(t *testing.T) {
	none := 0
	c, err := NewCounting(&NumberRule{Decimals: &none}, &PriceRule{}, [][2]string{{"Many", "50"}})
	require.NoError(t, err)
	for cell, want := range map[string]string{"12": "12", "12.0": "12", "12 pcs": "12", "-3": "-3", "many": "50", "€5": "words", ">10": "about", "sold out": "words", "2.6": "3", "": ""} {
		got, is := c.Of(cell, Form{'.', true})
		if is != Value {
			got = is.String()
		}
		assert.Equal(t, want, got, "%q", cell)
	}
	c, err = NewCounting(&NumberRule{}, &PriceRule{Read: []string{"about"}, Clear: []string{"dash"}}, nil)
	require.NoError(t, err)
	for cell, want := range map[string]string{">10": "10", "10+": "10", "> 50 pcs": "50", "-": "", "–": "", ">1.000": "words", "-3": "-3", "sold out": "words"} {
		got, is := c.Of(cell, Form{})
		if is != Value {
			got = is.String()
		}
		assert.Equal(t, want, got, "%q", cell)
	}
	_, err = NewCounting(&NumberRule{}, &PriceRule{}, [][2]string{{"many", "lots"}})
	assert.ErrorContains(t, err, "lots")
	assert.Len(t, (&PriceRule{EndIn: 0.995}).CheckEnd(&NumberRule{}), 1)
	assert.Empty(t, (&PriceRule{EndIn: 9.9}).CheckEnd(&NumberRule{}))
}

// TestShare: what is left of a price is compared exactly, however large the numbers are.
func TestShare(t *testing.T) {
	for _, share := range []any{0.25, "0.3333333333333333333", int64(0)} {
		s := NewShare(share)
		slow := s
		slow.in = 0
		for n := uint64(1); n < 4000; n += 7 {
			price, cost := Number{coef: 1000 + n, digits: 5, behind: uint8(n % 4), mark: '.'}, Number{coef: 750 * (n%3 + 1), digits: 5, behind: uint8(n % 3), mark: '.'}
			assert.Equal(t, slow.IsLeft(price, cost), s.IsLeft(price, cost), "%s %s %v", price.Plain(), cost.Plain(), share)
		}
	}
	number := func(s string) Number { n, err := Parse(s); require.NoError(t, err); return n }
	assert.Equal(t, []bool{true, false}, []bool{NewShare(0.25).IsLeft(number("12.00"), number("9")), NewShare(0.25).IsLeft(number("12.00"), number("9.01"))})
	assert.Equal(t, "10.1", NewShare(0.25).Left(number("10.90"), number("9.80")))
}

// TestPricingExactly holds what is reckoned against the same in fractions, and a second time against itself.
func TestPricingExactly(t *testing.T) {
	two := 2
	for n := uint64(0); n < 20000; n += 7 {
		number := Number{coef: n, digits: 5, behind: 2, mark: '.'}
		for _, round := range []string{"half-up", "half-even", "up", "down"} {
			numbers := NumberRule{Decimals: &two, Round: round}
			p := NewPricing(&numbers, &PriceRule{From: "cost", Times: 1.17, Plus: -0.05, Margin: 35.0})
			want := new(big.Rat).SetFrac64(int64(n), 100)
			want.Mul(want, big.NewRat(117, 100))
			want.Sub(want, big.NewRat(5, 100))
			want.Quo(want, big.NewRat(65, 100))
			got := p.reckon(number)
			require.Equal(t, Round(want, 2, roundings[round]), got)
			again, is := NewPricing(&numbers, &PriceRule{EndIn: 0.9}).Of(got, Form{'.', true})
			if is == Value && n > 10 {
				twice, _ := NewPricing(&numbers, &PriceRule{EndIn: 0.9}).Of(again, Form{'.', true})
				require.Equal(t, again, twice)
			}
		}
	}
}

// FuzzPricing: in numbers of 64 bits it is the same as in fractions, and what is ended, limited and rounded stays as it is.
func FuzzPricing(f *testing.F) {
	f.Add(uint64(1290), uint8(2), uint16(180), uint16(50), uint16(95), uint16(199), uint16(9999), uint8(0), uint8(2))
	f.Fuzz(func(t *testing.T, coef uint64, behind uint8, times, plus, end, least, most uint16, round, decimals uint8) {
		digits := int(decimals % 5)
		numbers := NumberRule{Decimals: &digits, Round: []string{"half-up", "half-even", "up", "down"}[round%4]}
		part := func(n uint16) string { return (Number{coef: uint64(n), digits: 5, behind: 2, mark: '.'}).Plain() }
		rule := PriceRule{From: "cost", Times: part(times | 1), Plus: part(plus)}
		if end > 0 && digits == 2 {
			rule.EndIn = part(end)
		}
		if least > 0 {
			rule.AtLeast = part(least)
		}
		if most > least {
			rule.AtMost = part(most)
		}
		number := Number{coef: coef % 1e18, digits: 19, behind: behind % 8, mark: '.'}
		fast, slow := NewPricing(&numbers, &rule), NewPricing(&numbers, &rule)
		slow.quick = nil
		a, b := fast.reckon(number), slow.reckon(number)
		if a != b {
			t.Fatalf("%s: %s and %s, by %+v", number.Plain(), a, b, rule)
		}
		rule.Times, rule.Plus, rule.From = nil, nil, ""
		settled := NewPricing(&numbers, &rule)
		first, is := settled.Of(a, Form{'.', true})
		if is != Value {
			return
		}
		if second, _ := settled.Of(first, Form{'.', true}); second != first {
			t.Fatalf("%s becomes %s, and that %s, by %+v", a, first, second, rule)
		}
	})
}

// TestRulesOfQuantities: what is wrong with a rule is said where it stands.
func TestRulesOfQuantities(t *testing.T) {
	many := 12
	type checks interface {
		Check(catalogue.Kind) []catalogue.Problem
	}
	for _, tt := range []struct {
		rule checks
		kind catalogue.Kind
		key  string
	}{
		{&NumberRule{Decimal: "dot"}, catalogue.PriceKind, "decimal"},
		{&NumberRule{Decimals: &many}, catalogue.PriceKind, "decimals"},
		{&NumberRule{Round: "up"}, catalogue.PriceKind, "round"},
		{&NumberRule{Written: "point"}, catalogue.LineKind, "written"},
		{&NumberRule{Words: "words.csv"}, catalogue.PriceKind, "words"},
		{&PriceRule{Times: 2.0}, catalogue.PriceKind, "times"},
		{&PriceRule{Times: 2.0, From: "cost", Once: true}, catalogue.PriceKind, "once"},
		{&PriceRule{Times: 0.0, Once: true}, catalogue.PriceKind, "times"},
		{&PriceRule{Times: "1,5", Once: true}, catalogue.PriceKind, "times"},
		{&PriceRule{Margin: 100.0, From: "cost"}, catalogue.PriceKind, "margin"},
		{&PriceRule{Tax: 20.0, FromTax: "net", From: "cost"}, catalogue.PriceKind, "tax"},
		{&PriceRule{Tax: 0.2, From: "cost"}, catalogue.PriceKind, "from_tax"},
		{&PriceRule{FromTax: "net"}, catalogue.PriceKind, "from_tax"},
		{&PriceRule{Over: true}, catalogue.PriceKind, "over"},
		{&PriceRule{Zero: "blank"}, catalogue.PriceKind, "zero"},
		{&PriceRule{Read: []string{"dash"}}, catalogue.PriceKind, "read"},
		{&PriceRule{Clear: []string{"nothing"}}, catalogue.PriceKind, "clear"},
		{&PriceRule{Currency: "euro"}, catalogue.PriceKind, "currency"},
		{&PriceRule{CurrencyIn: "currency"}, catalogue.PriceKind, "currency_in"},
		{&PriceRule{EndIn: 0.95}, catalogue.NumberKind, "end_in"},
		{&MeasureRule{Unit: "stone"}, catalogue.MeasureKind, "unit"},
		{&MeasureRule{Unit: "kg", Bare: "cm"}, catalogue.MeasureKind, "bare"},
		{&MeasureRule{Bare: "g"}, catalogue.MeasureKind, "bare"},
		{&MeasureRule{Unit: "kg"}, catalogue.PriceKind, "unit"},
		{&MeasureRule{Unit: "cm", Sides: []string{"length"}}, catalogue.LineKind, "sides"},
		{&YesNoRule{Yes: "1"}, catalogue.YesNoKind, "yes"},
		{&YesNoRule{Yes: "1", No: "1"}, catalogue.YesNoKind, "no"},
		{&YesNoRule{Yes: "no", No: "0"}, catalogue.YesNoKind, "yes"},
		{&YesNoRule{Empty: "no"}, catalogue.YesNoKind, "empty"},
		{&YesNoRule{Yes: "1", No: "0", Empty: "perhaps"}, catalogue.YesNoKind, "empty"},
		{&YesNoRule{Yes: "1", No: "0"}, catalogue.HTMLKind, "yes"},
		{&YesNoRule{Choices: map[string]string{"1": "hidden", "2": "Hidden"}}, catalogue.YesNoKind, "choices"},
		{&DateRule{Form: "YYYY-MM"}, catalogue.DateKind, "form"},
		{&DateRule{Form: "YYYY-MM-DD w"}, catalogue.DateKind, "form"},
		{&DateRule{Form: "iso", Zone: "Europe/Nowhere"}, catalogue.DateKind, "zone"},
		{&DateRule{First: "years"}, catalogue.DateKind, "first"},
		{&DateRule{Form: "iso"}, catalogue.LineKind, "form"},
	} {
		problems := tt.rule.Check(tt.kind)
		if assert.NotEmpty(t, problems, "%+v", tt.rule) {
			assert.Equal(t, tt.key, problems[0].Key, "%+v: %+v", tt.rule, problems)
		}
	}
}

func BenchmarkPricing(b *testing.B) {
	two := 2
	p := NewPricing(&NumberRule{Decimals: &two}, &PriceRule{From: "cost", Times: 1.8, EndIn: 0.95})
	b.ReportAllocs()
	for b.Loop() {
		p.Of("12.90", Form{'.', true})
	}
}

// TestKept: numbers that are only written otherwise are the same as when they are reckoned in fractions.
func TestKept(t *testing.T) {
	t.Parallel()
	for _, rule := range []PriceRule{{}, {Zero: "none"}} {
		quick, slow := NewPricing(&NumberRule{Written: "point"}, &rule), NewPricing(&NumberRule{Written: "point"}, &rule)
		slow.keeps = false
		for _, cell := range []string{"12.50", "12", "0.5", "007", "0", "0.00", "00.5", "1299", "1,234.56", "12.345", "12.3456", "€ 9.95", "1234567.8", "99999999999999999.5", "1e3", "12,-"} {
			for _, form := range []Form{{}, {'.', true}, {',', false}} {
				a, is := quick.Of(cell, form)
				b, was := slow.Of(cell, form)
				assert.Equal(t, []any{b, was}, []any{a, is}, "%s %v", cell, form)
			}
		}
	}
}

// TestRatios: a column is known by what it reckons, however that is rounded, and no other column of numbers is one.
func TestRatios(t *testing.T) {
	t.Parallel()
	for r := NoRatio; r < numRatios; r++ {
		for _, form := range []string{"%.2f", "%.4f", "%.1f", "%.0f"} {
			rng := rand.New(rand.NewPCG(uint64(r), 1))
			var rows [][3]string
			for range 40 {
				cost := 1 + rng.IntN(9000)
				price := cost + rng.IntN(3*cost+1)
				num, den := int64(price), int64(9001-cost) // of nothing that stands beside it
				if r != NoRatio {
					num, den = r.terms(int64(price), int64(cost), 2)
				}
				value := float64(num) / float64(den)
				rows = append(rows, [3]string{fmt.Sprintf(form, value), fmt.Sprintf("%.2f €", float64(price)/100), fmt.Sprintf("%.2f", float64(cost)/100)})
			}
			got, _ := RatioOf(rows)
			if form == "%.0f" && r != MarginPercent && r != MarkupPercent || form == "%.1f" && (r == MarginShare || r == MarkupShare || r == PriceOfCost) { // too few digits to tell
				continue
			}
			assert.Equal(t, r, got, "%s %s", r, form)
		}
	}
}
