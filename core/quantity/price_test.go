package quantity

import (
	"bufio"
	"encoding/json"
	"fmt"
	"os"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A column is one of a set: cells as they are written, and what they are.
type column struct {
	ID, Kind, Heading string
	Cells             []string
	Truth             []any
	Accept            map[string][]any
	Decimal, Currency string
	CurrencyAccept    []string `json:"currency_accept"`
	Declared          map[string]string
	Orders            map[string]any
	Target            map[string]any
	SourceZone        string `json:"source_zone"`
	Order, Workbook   string
	Default           string `json:"default_unit"`
	Units             []string
	Blank             *string
	Choices, Words    [][2]string
}

func columnsOf(t testing.TB, name string) (list []column) {
	t.Helper()
	f, err := os.Open("testdata/" + name)
	require.NoError(t, err)
	defer f.Close()
	lines := bufio.NewScanner(f)
	lines.Buffer(nil, 1<<20)
	for lines.Scan() {
		var c column
		require.NoError(t, json.Unmarshal(lines.Bytes(), &c), lines.Text())
		list = append(list, c)
	}
	require.NoError(t, lines.Err())
	return list
}

// target returns what is wanted of a column, as a text.
func (c *column) target(key string) string {
	text, _ := c.Target[key].(string)
	return text
}

// form returns how the numbers of a column are written: as it is declared, or as the cells show.
func (c *column) form() Form {
	var m Marks
	for _, cell := range c.Cells {
		m.Learn(cell)
	}
	return m.Form()
}

// scores counts the cells of a set. Values are compared as they are written, or as numbers.
type scores struct {
	numbers                          bool
	right, asked, wrong, all, values int
}

// kept reports whether an answer is none.
func kept(s string) bool { return s == "ask" || strings.HasPrefix(s, "held") }

// judge counts what was read of a cell: a value, "" for a blank, ask or held.
func (s *scores) judge(t *testing.T, c *column, i int, got string) {
	t.Helper()
	truth := fmt.Sprint(c.Truth[i])
	s.all++
	if !kept(truth) {
		s.values++
	}
	for _, one := range append([]any{truth}, c.Accept[strconv.Itoa(i)]...) {
		want := fmt.Sprint(one)
		a, errA := Parse(want)
		b, errB := Parse(got)
		if want == got || kept(want) && kept(got) || s.numbers && errA == nil && errB == nil && a.Cmp(b) == 0 {
			s.right++
			return
		}
	}
	if kept(got) && !kept(truth) {
		s.asked++
		t.Logf("%s %s %q: %q is %q, and %q was read", c.ID, c.Kind, c.Heading, c.Cells[i], truth, got)
		return
	}
	s.wrong++
	t.Logf("WRONG: %s %s %q: %q is %q, and %q was read", c.ID, c.Kind, c.Heading, c.Cells[i], truth, got)
}

// assert holds the counts against what is to be reached: so many in a hundred right, none silently wrong, few asked that are settled.
func (s *scores) assert(t *testing.T, what string, share int) {
	t.Helper()
	t.Logf("%s: %d of %d right, %d asked although settled, %d wrong", what, s.right, s.all, s.asked, s.wrong)
	assert.Zero(t, s.wrong)
	assert.GreaterOrEqual(t, 100*(s.right+s.asked), share*s.all)
	assert.GreaterOrEqual(t, 100*s.right, 98*s.all)
	assert.Less(t, 100*s.asked, 3*s.values)
}

// TestPriceSet: columns of prices are read as what they are, or asked about.
func TestPriceSet(t *testing.T) {
	s := scores{numbers: true}
	currencies, columns := 0, 0
	for _, c := range columnsOf(t, "prices.jsonl") {
		numbers, rule := NumberRule{Decimal: c.Decimal}, PriceRule{}
		for name, how := range c.Declared {
			if how == "read" {
				rule.Read = append(rule.Read, name)
			} else if how == "blank" {
				rule.Clear = append(rule.Clear, name)
			}
		}
		if c.Orders != nil {
			o := c.Orders
			rule.Times, rule.Plus, rule.Tax, rule.AtLeast, rule.AtMost, rule.Once = o["times"], o["plus"], o["tax"], o["at_least"], o["at_most"], true
			rule.FromTax, _ = o["from_tax"].(string)
			numbers.Round, _ = o["round"].(string)
			if n, ok := o["decimals"].(float64); ok {
				decimals := int(n)
				numbers.Decimals = &decimals
			}
		}
		pricing := NewPricing(&numbers, &rule)
		form, found := numbers.Form(c.form()), map[string]bool{}
		for i, cell := range c.Cells {
			p := ReadPrice(cell, form)
			if p.Currency != "" {
				found[p.Currency] = true
			}
			got, is := pricing.Of(cell, form)
			switch is {
			case Value:
			case Asked:
				got = "ask"
			default:
				got = "held:" + is.String()
			}
			s.judge(t, &c, i, got)
		}
		if heading := CurrencyIn(c.Heading); heading != "" {
			found[heading] = true
		}
		columns++
		want := map[string]bool{}
		for name := range strings.SplitSeq(c.Currency, ",") {
			if name != "" {
				want[name] = true
			}
		}
		if assert.ObjectsAreEqual(want, found) {
			currencies++
		} else if len(found) != 1 || !contains(c.CurrencyAccept, found) {
			t.Logf("%s %q: currency %q, and %v was read", c.ID, c.Heading, c.Currency, found)
		} else {
			currencies++
		}
	}
	t.Logf("currencies: %d of %d", currencies, columns)
	s.assert(t, "prices", 99)
}

func contains(list []string, found map[string]bool) bool {
	for _, one := range list {
		if found[one] {
			return true
		}
	}
	return false
}

// TestReadPrice: what stands in cells of other trades than those of the set.
func TestReadPrice(t *testing.T) {
	point, comma := Form{Decimal: '.'}, Form{Decimal: ','}
	for _, tt := range []struct {
		cell string
		form Form
		is   What
		want string
		of   string
	}{
		{"1.234,56", Form{}, Value, "1234.56", ""},
		{"1,23,456.7", Form{}, Value, "123456.7", ""},
		{"1.234", Form{}, Asked, "", ""},
		{"1.234", comma, Value, "1234", ""},
		{"1.234", point, Asked, "", ""},
		{"1.234", Form{'.', true}, Value, "1.234", ""},
		{"12,50", point, Asked, "12.5", ""},
		{"0.234", Form{}, Value, "0.234", ""},
		{"1234.567", Form{}, Value, "1234.567", ""},
		{"1 234", comma, Value, "1234", ""},
		{"12 34", comma, Words, "", ""},
		{"1.2.3", Form{}, Malformed, "", ""},
		{"1,2345,678", Form{}, Malformed, "", ""},
		{"1'234'567.-", Form{}, Value, "1234567", ""},
		{"EUR 5", Form{}, Value, "5", "EUR"},
		{"5 € inkl. MwSt.", Form{}, Value, "5", "EUR"},
		{"€ 5 £", Form{}, Words, "", ""},
		{"Rs. 1,200.00", Form{}, Value, "1200", "Rs"},
		{"kr 99,-", Form{}, Value, "99", "kr"},
		{"29:-", Form{}, Value, "29", ""},
		{"1 299:– kr", Form{}, Value, "1299", "kr"},
		{"12:30", Form{}, Words, "", ""},
		{"12:-5", Form{}, Words, "", ""},
		{"99 kr.", Form{}, Value, "99", "kr"},
		{"KES 1,200", Form{}, Asked, "", ""},
		{"KES 1,200.00", Form{}, Value, "1200", "KES"},
		{"5 STK", Form{}, Words, "", ""},
		{"USD5.00", Form{}, Value, "5", "USD"},
		{"ab ca. 5 €", Form{}, From, "5", "EUR"},
		{"5 € / Stück", Form{}, Words, "", ""},
		{"2 x 5", Form{}, Words, "", ""},
		{"5-7 €", Form{}, Range, "5", ""},
		{"von 5 bis 7", Form{}, Range, "5", ""},
		{"-5", Form{}, Negative, "5", ""},
		{"€ -5", Form{}, Negative, "5", "EUR"},
		{"5-", Form{}, Words, "", ""},
		{"+5", Form{}, Value, "5", ""},
		{".5", Form{}, Value, "0.5", ""},
		{"5.", Form{}, Value, "5", ""},
		{"1e3", Form{}, Words, "", ""},
		{"12.50.2024", Form{}, Malformed, "", ""},
		{"9521234000013", Form{}, Value, "9521234000013", ""},
		{"12345678901234567890", Form{}, Malformed, "", ""},
		{"free", Form{}, Words, "", ""},
		{"5 % Rabatt", Form{}, Percent, "", ""},
	} {
		p := ReadPrice(tt.cell, tt.form)
		assert.Equal(t, tt.is.String(), p.Is.String(), "%q", tt.cell)
		if n, plain := Plain(tt.cell); plain {
			assert.True(t, p.Is == Value || p.Is == Asked && n.DecimalMark() != tt.form.Decimal, "%q", tt.cell)
		}
		if tt.want != "" {
			assert.Equal(t, tt.want, p.Number.Plain(), "%q", tt.cell)
		}
		if tt.is == Value {
			assert.Equal(t, tt.of, p.Currency, "%q", tt.cell)
		}
	}
}

// FuzzReadPrice: whatever a cell says, a value has the digits of the cell in their order, and is read the same once it has been written.
func FuzzReadPrice(f *testing.F) {
	for _, s := range []string{"1.234,56 €", "12,-", "£5–£7", "٢٬٩٠٧٫٢٥", "6,94,883.90", "(5)", "1'250.–", "ca. 5", " - 5", "1,2,3"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		for _, form := range []Form{{}, {'.', true}, {',', false}} {
			p := ReadPrice(s, form)
			if p.Is != Value {
				continue
			}
			digits := ""
			for _, r := range s {
				if isDigit(r) {
					digits += string(rune('0' + digitOf(r)))
				}
			}
			plain := p.Number.Plain()
			if want := strings.Trim(strings.ReplaceAll(plain, ".", ""), "0"); !strings.Contains(digits, want) {
				t.Fatalf("%q is read as %s", s, plain)
			}
			again := ReadPrice(plain, Form{'.', true})
			if again.Is != Value || again.Number.Cmp(p.Number) != 0 {
				t.Fatalf("%q is read as %s, and that as %s %s", s, plain, again.Is, again.Number.Plain())
			}
		}
		var m Marks
		m.Learn(s)
	})
}

func BenchmarkReadPrice(b *testing.B) {
	cells := []string{"1.234,56 €", "12,90", "€ 9,95", "1299"}
	b.ReportAllocs()
	for i := 0; b.Loop(); i++ {
		ReadPrice(cells[i%len(cells)], Form{Decimal: ','})
	}
}
