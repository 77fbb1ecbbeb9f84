package sections

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
	"zetanum/core/quantity"
)

// quantityRule is what the rulebook says of prices already.
var quantityRule = quantity.PriceRule{From: "cost", Margin: int64(30), Zero: "none"}

// TestSet: what a setting is in a rulebook.
func TestSet(t *testing.T) {
	sheet := &catalogue.Columns{Headings: []string{"Art. no.", "Designation", "EK", "Price", "Size - mm", "Stock"},
		Fields: []catalogue.Field{catalogue.SKU, catalogue.Title, catalogue.Cost, catalogue.Price, catalogue.Unknown, catalogue.Stock}}
	for set, want := range map[string]string{
		"Delivery = Parcel":                  "[[columns.fill]]|into = \"Delivery\"|with = \"Parcel\"|over = true",
		"Delivery=Parcel, 2-3 days = ok":     "[[columns.fill]]|into = \"Delivery\"|with = \"Parcel, 2-3 days = ok\"|over = true",
		"Note = say \"hello\"":               "[[columns.fill]]|into = \"Note\"|with = \"say \\\"hello\\\"\"|over = true",
		"Note = \"cost + 15%\"":              "[[columns.fill]]|into = \"Note\"|with = \"cost + 15%\"|over = true",
		"Note = \"sku\"":                     "[[columns.fill]]|into = \"Note\"|with = \"sku\"|over = true",
		"Note = A - 4":                       "[[columns.fill]]|into = \"Note\"|with = \"A - 4\"|over = true",
		"MPN = sku":                          "[[columns.fill]]|into = \"MPN\"|from = \"sku\"|over = true",
		"mm = size - MM":                     "[[columns.fill]]|into = \"mm\"|from = \"size - MM\"|over = true",
		"Label = {title}[, {\"Size - mm\"}]": "[[build]]|into = \"Label\"|from = \"{title}[, {\\\"Size - mm\\\"}]\"|over = true",
		"Min price = cost + 15%":             "[field.\"Min price\"]|type    = \"price\"|from    = \"cost\"|percent = 15",
		"Price = EK * 2,2":                   "[price]|from  = \"EK\"|times = 2.2|over  = true",
		"Price = cost + 0.50":                "[price]|from = \"cost\"|plus = 0.50|over = true",
		"Price = cost−1":                     "[price]|from = \"cost\"|plus = -1|over = true",
		"Sale = Price - 12.5 %":              "[field.\"Sale\"]|type  = \"price\"|from  = \"Price\"|times = 0.875",
		"Sale = Price × 110%":                "[field.\"Sale\"]|type  = \"price\"|from  = \"Price\"|times = 1.1",
		"Price = Price + 3%":                 "[price]|percent = 3|once    = true",
		"X":                                  "! it must read",
		" = 3":                               "! it must read",
		"X =":                                "! has no value",
		"X = {title":                         "! the pattern is wrong",
		"X = kost + 15%":                     "! there is no column \"kost\" from which \"X\" could be reckoned",
		"X = weight":                         "! no column is known to be the weight",
		"Stock = cost + 1":                   "! \"Stock\" is no amount",
		"Price = price":                      "! would be set to itself",
	} {
		s, err := ParseSetting(set)
		var with Book
		lines := ""
		if err == nil {
			was := Book{Field: map[string]*FieldTable{"price": {PriceRule: quantityRule}}}
			book, orders, failed := was.With([]Setting{s}, sheet)
			with, err, lines = book, failed, strings.ReplaceAll(strings.TrimSuffix(Lines(orders), "\n"), "\n", "|")
			assert.Equal(t, quantityRule, was.Field["price"].PriceRule, "the rulebook itself stays")
		}
		if says, wrong := strings.CutPrefix(want, "! "); wrong {
			require.ErrorContains(t, err, says, set)
			continue
		}
		require.NoError(t, err, set)
		assert.Equal(t, want, lines, set)
		if strings.HasPrefix(want, "[price]") {
			assert.Equal(t, quantityRule.Zero, with.Field["price"].Zero, "%s: what else the rulebook says stays", set)
			assert.NotEqual(t, quantityRule.Margin, with.Field["price"].Margin, "%s: how it is reckoned does not", set)
		}
	}
}
