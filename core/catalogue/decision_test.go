package catalogue

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// TestDecisions: the decision that names most counts, and of those the last.
func TestDecisions(t *testing.T) {
	all := Decisions{
		{Finding: BarcodeOnlyOne},
		{Finding: BarcodeOnlyOne, Column: " ean", Value: "column"},
		{Finding: BarcodeOnlyOne, Cell: "9.5E+12", Value: "cell"},
		{Finding: BarcodeOnlyOne, Key: "A-1", Value: "product"},
		{Finding: BarcodeOnlyOne, Key: "A-2", Value: "first"},
		{Finding: BarcodeOnlyOne, Key: "A-2", Value: "last"},
		{Finding: BarcodeOnlyOne, Key: "A-3", Column: "GTIN", Value: "another column"},
		{Finding: TextMixed, Value: "mixed"},
		{Finding: BarcodeOnlyOne, Column: "EAN ⏎ of box", Value: "two lines"},
	}
	for _, test := range []struct {
		finding            Code
		heading, key, cell string
		want               string
		ok                 bool
	}{
		{BarcodeOnlyOne, "GTIN", "B-1", "x", "", true},
		{BarcodeOnlyOne, "EAN", "B-1", "x", "column", true},
		{BarcodeOnlyOne, "EAN", "B-1", "9.5E+12", "cell", true},
		{BarcodeOnlyOne, "EAN", "A-1", "9.5E+12", "product", true},
		{BarcodeOnlyOne, "EAN", "A-2", "x", "last", true},
		{BarcodeOnlyOne, "EAN", "A-3", "x", "column", true},
		{BarcodeOnlyOne, "gtin ", "A-3", "x", "another column", true},
		{BarcodeOnlyOne, "EAN\nof box", "B-1", "x", "two lines", true},
		{BarcodeNone, "EAN", "A-1", "x", "", false},
		{TextMixed, "Title", "", "", "mixed", true},
	} {
		got, ok := all.For(test.finding, test.heading, test.key, test.cell)
		assert.Equal(t, test.ok, ok, test)
		assert.Equal(t, test.want, got.Value, test)
	}
	assert.Len(t, all.In("EAN"), 7)
	assert.Len(t, all.On(TextMixed), 1)
	_, ok := Decisions(nil).For(TextMixed, "", "", "")
	assert.False(t, ok)
}
