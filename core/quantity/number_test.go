package quantity

import (
	"fmt"
	"math/big"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestParse(t *testing.T) {
	for _, test := range []struct{ in, plain, marks string }{ // marks: the decimal one, and that between groups
		{"7", "7", ""},
		{"007", "7", ""},
		{"12.50", "12.5", "."},
		{"12,50", "12.5", ","},
		{"-3", "-3", ""},
		{"+3", "3", ""},
		{"-0.00", "0", "."},
		{".5", "0.5", "."},
		{"5.", "5", "."},
		{"1,234.50", "1234.5", ".,"},
		{"1.234,50", "1234.5", ",."},
		{"1'234.50", "1234.5", ".'"},
		{"1’234’567", "1234567", "’"},
		{"1 234,5", "1234.5", ", "},
		{"12\u00a0345", "12345", "\u00a0"},
		{"1,234,567", "1234567", ","},
		{"1.234", "1.234", "."},
		{"9.52123E+12", "9521230000000", "."},
		{"1.5e-3", "0.0015", "."},
		{"1E05", "100000", ""},
		{"9999999999999999999", "9999999999999999999", ""},
	} {
		n, err := Parse(test.in)
		require.NoError(t, err, test.in)
		assert.Equal(t, test.in, n.String(), "as it was written")
		assert.Equal(t, test.plain, n.Plain(), test.in)
		marks := ""
		for _, m := range []rune{n.DecimalMark(), n.GroupMark()} {
			if m != 0 {
				marks += string(m)
			}
		}
		assert.Equal(t, test.marks, marks, test.in)
	}
	for _, in := range []string{"", " ", "-", ".", ",", "x", "12 kg", "0x10", "inf", "NaN", "1.2.3", "1.234,567.8", "12,34,567", "1.2345,5",
		"1234,567,890", "1,234.567.890", "1E", "1E+1234", "E5", "1..2", " 7", "7 ", "12345678901234567890", "٣", "1_000", "--1"} {
		n, err := Parse(in)
		assert.ErrorIs(t, err, ErrNumber, in)
		assert.False(t, n.IsValid(), in)
	}
	var none Number
	assert.Equal(t, "", none.String()+none.Plain())
}

// TestAmbiguous: one mark with three digits behind it may stand between thousands.
func TestAmbiguous(t *testing.T) {
	for in, want := range map[string]string{"1.234": "1234", "12,345": "12345", "123.456": "123456", "0.234": "", "1234.567": "",
		"1.23": "", "1.234,5": "", "1.234E2": "", "01.234": ""} {
		n, err := Parse(in)
		require.NoError(t, err, in)
		assert.Equal(t, want != "", n.Ambiguous(), in)
		if want != "" {
			assert.Equal(t, want, n.InThousands().Plain(), in)
			assert.Equal(t, in, n.InThousands().String(), in)
		}
	}
}

// FuzzNumber: what is read is written as it was, its plain form is read as the same number,
// and numbers are compared exactly.
func FuzzNumber(f *testing.F) {
	for _, s := range []string{"1.234,50", "-12E-3", "0,00001", "999999999999999999E+300", "1E-300", ".1", "1’234", "+5."} {
		f.Add(s, "1.5")
		f.Add("10", s)
	}
	f.Fuzz(func(t *testing.T, s, other string) {
		n, err := Parse(s)
		if err != nil {
			return
		}
		require.Equal(t, s, n.String())
		o, err := Parse(other)
		if err != nil {
			return
		}
		exact := func(n Number) *big.Rat {
			r, ok := new(big.Rat).SetString(n.Plain())
			require.True(t, ok, n.Plain())
			return r
		}
		assert.Equal(t, exact(n).Cmp(exact(o)), n.Cmp(o), "%s and %s", n, o)
		assert.Equal(t, -o.Cmp(n), n.Cmp(o))
		text, _ := n.MarshalText()
		var back Number
		require.NoError(t, back.UnmarshalText(text))
		assert.Equal(t, n, back)
	})
}

func ExampleParse() {
	for _, cell := range []string{"1.234,50", "1,234.50", "1.234", "9.52E+3", "12 kg"} {
		n, err := Parse(cell)
		fmt.Println(strings.TrimSpace(fmt.Sprint(n.Plain(), " ", err != nil, " ", n.Ambiguous())))
	}
	// Output:
	// 1234.5 false false
	// 1234.5 false false
	// 1.234 false true
	// 9520 false false
	// true false
}

func BenchmarkParse(b *testing.B) {
	for b.Loop() {
		if _, err := Parse("1.234,50"); err != nil {
			b.Fatal(err)
		}
	}
}
