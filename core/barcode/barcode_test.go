package barcode

import (
	"strings"
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

func TestPad(t *testing.T) {
	for want, in := range map[string]struct {
		n      uint64
		length int
	}{"0": {0, 0}, "7": {7, 1}, "007": {7, 3}, "12": {12, 1}, "0000000000000000000000007": {7, 25},
		"9999999999999999999": {9999999999999999999, 19}} {
		assert.Equal(t, want, Pad(in.n, in.length))
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

// TestForms holds each kind against the standards' own examples.
func TestForms(t *testing.T) {
	for _, test := range []struct {
		kind Kind
		in   string
		err  error
		gtin string // in 14 digits
	}{
		{UPCE, "04252614", nil, "00042100005264"},
		{UPCE, "01234565", nil, "00012345000065"},
		{UPCE, "01234566", ErrCheckDigit, ""},
		{UPCE, "21234565", ErrForm, ""},
		{UPCE, "01203435", ErrForm, ""}, // the zeros would be left out in another way
		{UPCE, "1234565", ErrLength, ""},
		{ISBN10, "0306406152", nil, "09780306406157"},
		{ISBN10, "030640615X", ErrCheckDigit, ""},
		{ISBN10, "0306X06152", ErrNotDigits, ""},
		{ISBN13, "9780306406157", nil, "09780306406157"},
		{ISBN13, "9521234000013", ErrForm, ""},
		{EAN13, "9780306406157", nil, "09780306406157"},
		{ISSN, "03785955", nil, "09770378595002"},
		{ISSN, "2434561x", nil, "09772434561006"},
		{ISSN, "03785956", ErrCheckDigit, ""},
		{SSCC, "106141412345678908", nil, ""},
		{SSCC, "106141412345678907", ErrCheckDigit, ""},
	} {
		c, err := ParseAs(test.kind, test.in)
		require.ErrorIs(t, err, test.err, test.in)
		assert.Equal(t, test.gtin, c.GTIN14(), test.in)
		if test.err != nil {
			continue
		}
		assert.Equal(t, strings.ToUpper(test.in), c.String())
		if gtin, ok := c.GTIN(); ok {
			assert.Equal(t, c.Key(), gtin.Key(), test.in)
			back, ok := gtin.As(test.kind)
			assert.True(t, ok && back == c, "%s and back: %s", test.in, back)
		}
	}
	names := func(s string) (names []string) {
		for _, c := range AllKinds(s) {
			names = append(names, c.Kind().String())
		}
		return names
	}
	assert.Equal(t, []string{"EAN-8", "UPC-E"}, names("02345673"))
	assert.Equal(t, []string{"ISBN-13"}, names("9780306406157"))
	assert.Empty(t, names("9521234000012"))
}

// TestUPCE: every UPC-E has one UPC-A, of which it is the only short form; and
// the share that passes as an EAN-8 too is why eight digits that begin with a
// zero need care.
func TestUPCE(t *testing.T) {
	both, all := 0, 0
	seen := make(map[uint64]bool)
	for six := range uint64(1_000_000) {
		upc, ok := expand(six * 10)
		if !ok {
			continue
		}
		c, err := ParseAs(UPCE, Pad(six*10+uint64(CheckDigit(upc/10)), 8))
		back, ok := Code{n: c.Key(), length: 12}.As(UPCE)
		if err != nil || seen[c.Key()] || !ok || back != c {
			t.Fatalf("%06d: %s, back %s, %v", six, c, back, err)
		}
		seen[c.Key()] = true
		all++
		if Valid(c.n) {
			both++
		}
	}
	assert.Equal(t, []int{910_000, 58}, []int{all, 100 * both / all})
}

func TestComplete(t *testing.T) {
	for in, want := range map[string]string{
		"952123400001": "9521234000013", "03600029145": "036000291452", "0234567": "02345673",
		"030640615": "0306406152", "10614141234567890": "106141412345678908", "1952123400001": "19521234000010",
	} {
		c, err := Complete(in)
		require.NoError(t, err)
		assert.Equal(t, want, c.String())
	}
	_, err := Complete("12345")
	assert.ErrorIs(t, err, ErrLength)
	_, err = Complete("1234567a")
	assert.ErrorIs(t, err, ErrNotDigits)
}

func TestClass(t *testing.T) {
	for data, want := range map[string]Class{
		"952123400001": Demo, "4012345": Ordinary, "203456700000": InStore, "40123400001": InStore, "020123400001": InStore,
		"04012340000": Ordinary,
		"50123400001": Coupon, "981000000000": Coupon, "995000000000": Coupon, "980000000000": Refund, "977037859500": Serial,
		"978030640615": Book, "979003333333": Music, "979103333333": Book, "150000000000": Unassigned,
		"1952123400001": Carton, "9952123400001": Measure, "0952123400001": Demo, "0234567": InStore,
		"0000000234567": InStore, "10614141234567890": Carton, "400638133393": Ordinary,
	} {
		c, err := Complete(data)
		require.NoError(t, err)
		assert.Equal(t, want, c.Class(), data)
		assert.NotEmpty(t, c.Class().String())
	}
}

func TestPlaceholder(t *testing.T) {
	for in, want := range map[string]bool{
		"0": true, "0000000000000": true, "1111111111116": true, "9999999999994": true, "1234567890128": true,
		"0123456789012": true, "12345670": true, "9876543210982": true, "012345678905": true,
		"9521234000013": false, "4012345678901": false, "9521111111117": false, "036000291452": false, "12340": false,
	} {
		n, _ := Number(in)
		assert.Equal(t, want, IsPlaceholder(n), in)
	}
}

func TestShortest(t *testing.T) {
	for in, want := range map[string]string{
		"00036000291452": "036000291452", "09521234000013": "9521234000013", "19521234000010": "19521234000010",
		"00000012345670": "12345670", "036000291452": "036000291452", "02345673": "02345673",
	} {
		c, err := Parse(in)
		require.NoError(t, err)
		assert.Equal(t, want, c.Shortest().String())
		assert.Equal(t, c.Key(), c.Shortest().Key())
	}
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

// TestText: codes of all kinds come back from text as what they were, although the same
// characters may be codes of several kinds.
func TestText(t *testing.T) {
	seen := make(map[Kind]int)
	for n := uint64(0); n < 3e13; n += 1 + n/97 {
		for _, kind := range Kinds() {
			digits := kind.Len()
			if n >= Pow10(digits) {
				continue
			}
			texts := []string{Pad(n, digits)}
			if kind == ISBN10 || kind == ISSN {
				texts = append(texts, Pad(n%Pow10(digits-1), digits-1)+"X")
			}
			if kind == SSCC || kind == ISBN13 {
				texts = append(texts, Pad(978e9+n%1e9*10, 12)[:12]+"0", Pad(n, 17)+string(rune('0'+CheckDigit(n))))
			}
			for _, s := range texts {
				c, err := ParseAs(kind, s)
				if err != nil {
					continue
				}
				seen[c.Kind()]++
				text, err := c.MarshalText()
				require.NoError(t, err)
				var back Code
				require.NoError(t, back.UnmarshalText(text), string(text))
				require.Equal(t, c, back, string(text))
			}
		}
	}
	for _, kind := range Kinds() {
		assert.NotZero(t, seen[kind], "no %s was tried", kind)
	}
	var c Code
	for _, wrong := range []string{"UPC-E", "UPC-E 04252615", "XYZ 04252614", "EAN-13 04252614", " 04252614", "9521234000012"} {
		assert.Error(t, c.UnmarshalText([]byte(wrong)), wrong)
	}
	require.NoError(t, c.UnmarshalText(nil))
	assert.Equal(t, Code{}, c)
}
