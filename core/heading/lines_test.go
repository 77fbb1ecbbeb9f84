package heading

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"zetanum/core/catalogue"
)

// TestBeneath: rows under the headings that are no products are known, and products are
// not taken for such, however little is in them.
func TestBeneath(t *testing.T) {
	headings := strings.Split("SKU|Item name|EAN|Price|Weight|Stock|Remarks", "|")
	fields := Fields(headings, nil)
	for row, want := range map[string]catalogue.Code{
		"Artikelnummer|Bezeichnung|EAN-Nummer|Preis|Gewicht|Bestand|Bemerkung": catalogue.RowNames,
		"item_sku|item_name|external_id|list_price|item_weight|quantity|note":  catalogue.RowNames,
		"item_sku||bar_code||||":                               catalogue.RowNames,
		"|||EUR|kg|pcs|":                                       catalogue.RowUnits,
		"|||(€)|[kg]||":                                        catalogue.RowUnits,
		"Pflichtfeld|Pflichtfeld|optional|Zahl":                catalogue.RowUnits,
		"Required|Required|Optional|Number|Number|Number|Text": catalogue.RowUnits,
		"Example|Honey|9521234000013|1.00|1|1|":                catalogue.RowExample,
		"(Beispiel) A0|Honig|||||":                             catalogue.RowExample,
		"A0|e.g.: Honey||1.00|||":                              catalogue.RowExample,
		"Ejemplo: A0|Miel|||||":                                catalogue.RowExample,
		"Your own code for the item|What the shop shows|The thirteen digits under the bars|||": catalogue.RowGuide,
		"The code on the box|||Price with tax in euros||how many are there|":                   catalogue.RowGuide,

		"A1|Honey|9521234000013|3.50|1|4|":              catalogue.NoFinding,
		"A1|Honey||on request|not known|sold out|":      catalogue.NoFinding,
		"kg|Letters for a scale|9521234000013|3.50|1|4": catalogue.NoFinding,
		"|||EUR|||":                              catalogue.RowUnits,
		"||||||EUR":                              catalogue.NoFinding,
		"kg||||||":                               catalogue.NoFinding,
		"EX-1|Example of a hive, cut open||3.50": catalogue.NoFinding,
		"A2|Exemplary smoker||3.50|1|4|":         catalogue.NoFinding,
		"A3|Title|x|Price||4|":                   catalogue.NoFinding,
		"BEE_1|hive_box|||||":                    catalogue.NoFinding,
		"Box of honey with comb|Honey|9521234000013|3.50|1|4|": catalogue.NoFinding,
		"|Sizes, colours and weights of all hives|||||":        catalogue.NoFinding,
		"": catalogue.NoFinding,
	} {
		assert.Equal(t, want.String(), Beneath(strings.Split(row, "|"), fields).String(), row)
	}
	for row, want := range map[string]bool{
		"All prices are without tax||||||": true, "|||Prices may change in spring|||": true,
		"||Alle Preise verstehen sich ohne Steuer||||": true,
		"All prices are|without tax|||||":              false, "|All prices are without tax|||||": false, "Bee suits||||||": false,
		"||||||All prices are without tax": false, "LRA 12 34 5||||||": false, "||||||": false,
	} {
		assert.Equal(t, want, IsNote(strings.Split(row, "|"), fields), row)
	}
}

// TestSums: a line that sums up others has a word that says so and numbers; a line that repeats
// the headings has all of them.
func TestSums(t *testing.T) {
	for row, want := range map[string]bool{
		"Total|||1,234.50|": true, "|Summe:||12|1.204,00 €": true, "||GRAND TOTAL|7|": true, "Łącznie|5": true, "Total général | |-3 %": true,
		"Total||||": false, "|||12|": false, "Total|Sum|3": false, "Total care shampoo|3.50": false, "Sum of all fears|9.99": false,
		"Total 3|4": false, "Total|9521234000013": false, "Total|A-12": false, "": false,
	} {
		assert.Equal(t, want, IsTotal(strings.Split(row, "|")), row)
	}
	headings := []string{"SKU", "Title ", "Price"}
	for row, want := range map[string]bool{
		"SKU|Title|Price": true, " sku |TITLE|price": true, "SKU|Title": false, "SKU|Title|9.50": false, "SKU|Title|Price|": false, "": false,
	} {
		assert.Equal(t, want, Repeats(strings.Split(row, "|"), headings), row)
	}
	assert.False(t, Repeats([]string{"SKU"}, []string{"SKU"}), "a product may be called like the only heading")
}
