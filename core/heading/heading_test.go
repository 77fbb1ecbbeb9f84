package heading

import (
	"slices"
	"strings"
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
			[]catalogue.Field{catalogue.SKU, catalogue.Barcode, catalogue.Title, catalogue.Brand, catalogue.Price, catalogue.Size,
				catalogue.Length, u, u}},
		{"capitals", []string{"GRÖSSE", "HÖHE"}, nil, []catalogue.Field{catalogue.Size, catalogue.Height}},
		{"others", []string{"Référence", "Código de barras", "Titolo", "Merk", "Cena brutto", "Preço promocional", "Couleur", "descricao"},
			nil,
			[]catalogue.Field{catalogue.SKU, catalogue.Barcode, catalogue.Title, catalogue.Brand, catalogue.Price, catalogue.SalePrice,
				catalogue.Colour, catalogue.Description}},
		{"the first of two titles", []string{"Name", "Title"}, nil,
			[]catalogue.Field{catalogue.Title, u}},
		{"each amount of money by itself", []string{"List price", "Wholesale", "Wholesale price", "Price", "Cost", "In stock", "Qty"}, nil,
			[]catalogue.Field{catalogue.ListPrice, u, catalogue.WholesalePrice, catalogue.Price, catalogue.Cost, catalogue.InStock, catalogue.Stock}},
		{"what is near stands in its place", []string{"RRP", "Trade price", "Available"}, nil, []catalogue.Field{catalogue.Price, catalogue.Cost, catalogue.Stock}},
		{"but not in place of what is said", []string{"RRP", "VKP"}, map[string]catalogue.Field{"VKP": catalogue.Price}, []catalogue.Field{catalogue.ListPrice, catalogue.Price}},
		{"what the user says wins", []string{"Name", "Title", "Ref"},
			map[string]catalogue.Field{"title": catalogue.Title, "REF": catalogue.SKU},
			[]catalogue.Field{u, catalogue.Title, catalogue.SKU}},
	} {
		assert.Equal(t, test.want, Fields(test.headings, test.said), test.name)
	}
}

// TestContents: a column is known by its cells only if nearly all of them say the same,
// and what it holds is held against its field.
func TestContents(t *testing.T) {
	times := func(n int, cell string) (cells []string) {
		for range n {
			cells = append(cells, cell)
		}
		return cells
	}
	codes := []string{"9521234000013", "9521234000020", "9521234000037", "9.52123E+12", "", "9,52123E+12"}
	long := strings.Repeat("Beech wood, dry and at hand. ", 8)
	for _, test := range []struct {
		name  string
		cells []string
		want  Contents
		field catalogue.Field // it is
		not   []catalogue.Field
		well  []catalogue.Field
	}{
		{"barcodes", codes, Barcodes, catalogue.Barcode, []catalogue.Field{catalogue.Title, catalogue.Price},
			[]catalogue.Field{catalogue.SKU, catalogue.Barcode}},
		{"too few barcodes", codes[:4], Mixed, 0, nil, nil},
		{"other things, too", append(slices.Clone(codes), "red", "blue"), Mixed, 0, nil, nil},
		{"numbers that are no barcodes", []string{"9521234000010", "9521234000011", "9521234000012", "9521234000014", "9521234000015"},
			Numbers, 0, []catalogue.Field{catalogue.Description}, []catalogue.Field{catalogue.Stock, catalogue.SKU}},
		{"images", times(5, "https://x.example/a.JPG?v=2, https://x.example/b.png"), ImageLinks, catalogue.Images,
			[]catalogue.Field{catalogue.Title, catalogue.Description, catalogue.Stock}, []catalogue.Field{catalogue.Images}},
		{"links", times(5, "https://x.example/a"), Links, 0, []catalogue.Field{catalogue.Brand},
			[]catalogue.Field{catalogue.Images, catalogue.Slug}},
		{"a text with a link in it", times(5, "see https://x.example/a.jpg"), Mixed, 0, nil, nil},
		{"HTML", times(5, "<p class='x'>Beech</p>"), HTML, catalogue.Description,
			[]catalogue.Field{catalogue.Title, catalogue.Price, catalogue.SKU}, []catalogue.Field{catalogue.Description}},
		{"no HTML", times(5, "length <5 and width> 3"), Mixed, 0, nil, nil},
		{"money", []string{"€ 3.50", "1.200,00 €", "4 EUR", "-3,50 zł", "$12", ""}, Money, catalogue.Price,
			[]catalogue.Field{catalogue.Title, catalogue.Images}, []catalogue.Field{catalogue.Cost}},
		{"numbers", []string{"3.50", "12", "-4", "1,200", "5%"}, Numbers, 0, []catalogue.Field{catalogue.Title},
			[]catalogue.Field{catalogue.Price, catalogue.Size, catalogue.Category}},
		{"prices", []string{"3.99", "12.50", "0,95", "7.99", "20.00"}, Prices, catalogue.Price, []catalogue.Field{catalogue.Title},
			[]catalogue.Field{catalogue.Price, catalogue.Cost, catalogue.Weight, catalogue.Category}},
		{"weights", []string{"0.50", "1.00", "12.50", "0.90", "2.00", "1.50"}, Numbers, 0, nil, nil},
		{"lengths", []string{"1.19", "12.47", "0.90", "2.99", "1.53"}, Numbers, 0, nil, nil},
		{"long texts", times(6, long), Sentences, 0, []catalogue.Field{catalogue.Title, catalogue.Type, catalogue.Weight},
			[]catalogue.Field{catalogue.Description}},
		{"words", times(6, "Beech wood"), Words, 0, []catalogue.Field{catalogue.Price, catalogue.SaleFrom},
			[]catalogue.Field{catalogue.Title, catalogue.Stock, catalogue.Published}},
		{"nothing", times(6, " "), Mixed, 0, nil, nil},
	} {
		got, n, filled := ContentsOf(test.cells)
		assert.Equal(t, test.want, got, test.name)
		assert.Equal(t, test.field, got.Field(), test.name)
		assert.LessOrEqual(t, n, filled)
		for _, f := range test.not {
			assert.True(t, got.Unlike(f), "%s under %s", test.name, f)
		}
		for _, f := range test.well {
			assert.False(t, got.Unlike(f), "%s under %s", test.name, f)
		}
	}
}
