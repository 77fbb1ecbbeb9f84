package barcode

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestParse(t *testing.T) {
	for _, test := range []struct {
		in   string
		kind Kind
		err  error
	}{
		{"9521234000013", EAN13, nil},
		{"9780306406157", ISBN13, nil}, // ISO 2108's own example
		{"036000291452", UPCA, nil},    // the UPC-A example of the standard's literature
		{"02345673", EAN8, nil},
		{"19521234000010", GTIN14, nil},
		{"9521234000012", NoKind, ErrCheckDigit},
		{"9521243000013", NoKind, ErrCheckDigit}, // two neighbours exchanged
		{"952123400001", NoKind, ErrCheckDigit},
		{"95212340000", NoKind, ErrLength},
		{"952123400001395212", NoKind, ErrLength},
		{"95212340000130000000", NoKind, ErrNotDigits},
		{"952123400001x", NoKind, ErrNotDigits},
		{"9521234000013 ", NoKind, ErrNotDigits},
		{"", NoKind, ErrNotDigits},
	} {
		c, err := Parse(test.in)
		require.ErrorIs(t, err, test.err, test.in)
		assert.Equal(t, test.kind, c.Kind(), test.in)
		assert.Equal(t, test.err == nil, c.IsValid(), test.in)
		if test.err != nil {
			continue
		}
		assert.Equal(t, test.in, c.String())
		text, _ := c.MarshalText()
		var back Code
		require.NoError(t, back.UnmarshalText(text))
		assert.Equal(t, c, back)
	}
}

func TestSameNumberInAnyLength(t *testing.T) {
	upc, err := Parse("036000291452")
	require.NoError(t, err)
	ean, err := Parse("0036000291452")
	require.NoError(t, err)
	assert.NotEqual(t, upc, ean)
	assert.Equal(t, upc.Key(), ean.Key())
	assert.Equal(t, "00036000291452", upc.GTIN14())
}

// TestCheckDigitByDefinition holds the arithmetic against the definition,
// digit by digit.
func TestCheckDigitByDefinition(t *testing.T) {
	for n := uint64(0); n < 3e9; n += 7919*113 + n/3 {
		sum, weight := 0, 3
		for m := n; m > 0; m /= 10 {
			sum += weight * int(m%10)
			weight = 4 - weight
		}
		require.Equal(t, (10-sum%10)%10, CheckDigit(n), n)
	}
}

func TestCountValid(t *testing.T) {
	for _, r := range [][2]uint64{{0, 0}, {0, 9}, {3, 3}, {17, 4321}, {9999, 10001}, {9521230000, 9521230500}} {
		want := uint64(0)
		for n := r[0]; n <= r[1]; n++ {
			if Valid(n) {
				want++
			}
		}
		assert.Equal(t, want, CountValid(r[0], r[1]), r)
	}
	assert.Zero(t, CountValid(5, 4))
	assert.EqualValues(t, 1_000_000, CountValid(9521230000000, 9521239999999))
}

func BenchmarkCheckDigit(b *testing.B) {
	b.ReportAllocs()
	n := uint64(9521234000013)
	valid := 0
	for b.Loop() {
		if Valid(n) {
			valid++
		}
		n++
	}
	_ = valid
}
