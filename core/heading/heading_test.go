package heading

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"zetanum/core/catalogue"
)

func TestFields(t *testing.T) {
	u := catalogue.Unknown
	for _, test := range []struct {
		name     string
		headings []string
		said     map[string]catalogue.Field
		want     []catalogue.Field
	}{
		{"case, spaces, signs", []string{" *Item-No. ", "BARCODE (EAN)", "Product_Name*", "Int. memo"}, nil,
			[]catalogue.Field{catalogue.SKU, catalogue.Barcode, catalogue.Title, u}},
		{"two barcode columns", []string{"EAN", "UPC"}, nil,
			[]catalogue.Field{catalogue.Barcode, catalogue.Barcode}},
		{"a second SKU", []string{"SKU", "Alternate SKU", "Item code"}, nil,
			[]catalogue.Field{catalogue.SKU, catalogue.SKU, u}},
		{"a second SKU before the first", []string{"SKU 2", "SKU"}, nil, []catalogue.Field{u, catalogue.SKU}},
		{"only a second SKU", []string{"SKU 2", "Title"}, nil, []catalogue.Field{catalogue.SKU, catalogue.Title}},
		{"German", []string{"Artikel-Nr.", "EAN", "Bezeichnung", "Marke", "VK-Preis", "Gro\u0308ße", "Laenge (cm)", "MASZE", "GRÖSSE"}, nil,
			[]catalogue.Field{catalogue.SKU, catalogue.Barcode, catalogue.Title, catalogue.Brand, catalogue.Price, catalogue.Size, catalogue.Length, u, u}},
		{"capitals", []string{"GRÖSSE", "HÖHE"}, nil, []catalogue.Field{catalogue.Size, catalogue.Height}},
		{"others", []string{"Référence", "Código de barras", "Titolo", "Merk", "Cena brutto", "Preço promocional", "Couleur", "descricao"}, nil,
			[]catalogue.Field{catalogue.SKU, catalogue.Barcode, catalogue.Title, catalogue.Brand, catalogue.Price, catalogue.SalePrice, catalogue.Colour, catalogue.Description}},
		{"the first of two titles", []string{"Name", "Title"}, nil,
			[]catalogue.Field{catalogue.Title, u}},
		{"what the user says wins", []string{"Name", "Title", "Ref"}, map[string]catalogue.Field{"title": catalogue.Title, "REF": catalogue.SKU},
			[]catalogue.Field{u, catalogue.Title, catalogue.SKU}},
	} {
		assert.Equal(t, test.want, Fields(test.headings, test.said), test.name)
	}
}

func TestHoldsBarcodes(t *testing.T) {
	codes := []string{"9521234000013", "9521234000020", "9521234000037", "9.52123E+12", "", "9,52123E+12"}
	assert.True(t, HoldsBarcodes(codes))
	assert.False(t, HoldsBarcodes(codes[:4]), "too few")
	assert.False(t, HoldsBarcodes(append(codes, "red", "blue")), "other things too")
	assert.False(t, HoldsBarcodes([]string{"9521234000010", "9521234000011", "9521234000012", "9521234000014", "9521234000015"}))
}
