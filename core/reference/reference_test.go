package reference

import (
	"fmt"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/sheet"
)

func load(t *testing.T, name, content string) *Sheet {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	require.NoError(t, os.WriteFile(path, []byte(content), 0o666))
	s, err := Load(path, sheet.Options{})
	require.NoError(t, err)
	return s
}

func TestLook(t *testing.T) {
	counted := load(t, "counted.csv", "SKU,EAN\nA,9521234000013\nB,9.52E+12\nC,9521234000020\nC,9521234000037\nD,9521234000044\nD,9521234000044\nE,9521234000012\nF,\nG,9.52E+12\nG,9521234000051\nH,9521234000099\nI,9521234000099\n")
	older := load(t, "older.csv", "EAN;SKU\n9521234000013;A\n9521234000068;B\n9521234000075;D\n")
	for _, test := range []struct {
		sheets Sheets
		sku    string
		state  State
		code   string
		where  string
	}{
		{Sheets{counted}, "A", Found, "9521234000013", "counted.csv, row 2, says 9521234000013"},
		{Sheets{counted}, "a", NotFound, "", ""},
		{Sheets{counted}, "A ", NotFound, "", ""},
		{Sheets{counted}, "", NotFound, "", ""},
		{Sheets{counted}, "B", Damaged, "", "counted.csv, row 3, says 9.52E+12"},
		{Sheets{counted}, "C", KeyTwice, "", "counted.csv, rows 4 and 5"},
		{Sheets{counted}, "D", Found, "9521234000044", "counted.csv, row 6, says 9521234000044"},
		{Sheets{counted}, "E", Damaged, "", "counted.csv, row 8, says 9521234000012"},
		{Sheets{counted}, "F", NotFound, "", ""},
		{Sheets{counted}, "G", Found, "9521234000051", "counted.csv, row 11, says 9521234000051"},
		{Sheets{counted, older}, "A", Found, "9521234000013", "counted.csv, row 2, says 9521234000013"},
		{Sheets{counted, older}, "B", Found, "9521234000068", "older.csv, row 3, says 9521234000068"},
		{Sheets{older, counted}, "B", Found, "9521234000068", "older.csv, row 3, says 9521234000068"},
		{Sheets{counted, older}, "D", Disagree, "", "counted.csv, row 6, says 9521234000044, but older.csv, row 4, says 9521234000075"},
		{Sheets{counted}, "H", CodeTwice, "", "counted.csv has 9521234000099 in row 12 and for another SKU, too"},
		{Sheets{counted}, "I", CodeTwice, "", "counted.csv has 9521234000099 in row 13 and for another SKU, too"},
		{nil, "A", NotFound, "", ""},
	} {
		a := test.sheets.Look(Key{SKU: test.sku})
		assert.Equal(t, test.state, a.State, test.sku)
		if test.state == Found {
			assert.Equal(t, test.code, a.Code.String(), test.sku)
		}
		assert.Equal(t, test.where, a.Where(), test.sku)
	}
	assert.Equal(t, []int{12, 8, 3}, []int{counted.Rows, counted.Whole, counted.Damaged})
}

// TestNotBelieved: a sheet whose own codes were rounded and filled up with zeros
// is no second source, even where their check digits fit.
func TestNotBelieved(t *testing.T) {
	s := load(t, "flat.csv", "SKU,EAN\nA,9521230000000\nB,9521231300000\nC,9521231300000\n")
	for _, sku := range []string{"A", "B", "C"} {
		a := Sheets{s}.Look(Key{SKU: sku})
		assert.Equal(t, Damaged, a.State, sku)
	}
}

// TestTableBelow: what stands in a second table below the first is not believed.
func TestTableBelow(t *testing.T) {
	for below, until := range map[string]int{
		"\nCartons,,,\nSKU,Carton EAN,Cups,Colour\nB,9521234000020,12,\n":    5,
		"\nSKU,Old code,Title,\nB,9521234000020,Red cup,\n":                  4,
		"EAN,Title,Supplier,Price\nB,9521234000020,Hollowbrook Joinery,3.50": 3,
		"\nB,9521234000020,,\n":                     0,
		"Large cups,,,\nB,9521234000020,Red cup,\n": 0,
	} {
		s := load(t, "list.csv", "SKU,EAN,Title,Colour\nA,9521234000013,Blue cup,blue\n"+below)
		assert.Equal(t, until, s.Until, below)
		assert.Equal(t, Found, Sheets{s}.Look(Key{SKU: "A"}).State, below)
		want := Found
		if until > 0 {
			want = NotFound
		}
		assert.Equal(t, want, Sheets{s}.Look(Key{SKU: "B"}).State, below)
	}
}

// TestWithout: of an SKU that stands in a sheet without a code it is said where.
func TestWithout(t *testing.T) {
	s := Sheets{load(t, "list.csv", "SKU,EAN,Title\nA,9521234000013,Blue cup\nB,,Red cup\nB,,Red cup\n"), load(t, "older.csv", "SKU,EAN\nC,\nA,9521234000013\n")}
	for sku, want := range map[string]string{"A": " 0 false", "B": "list.csv 3 true", "C": "older.csv 2 true", "D": " 0 false"} {
		name, row, ok := s.Without(sku)
		assert.Equal(t, want, fmt.Sprint(name, " ", row, " ", ok), sku)
	}
}
