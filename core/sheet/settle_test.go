package sheet

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
)

// TestSettle: of headings that mean the same, and of such as name the product only, the cells say what they are; where
// they do not, or the user has said it, all stays as the headings have it.
func TestSettle(t *testing.T) {
	const links, texts = "https://x.example/a", "<p>Waxed cotton, seams <b>taped</b></p>"
	for name, test := range map[string]struct {
		list    string // rows are separated by blanks, spaces in cells are written _
		said    catalogue.Field
		want    string
		byCells int
	}{
		"number and title":               {"Article;Title;Price BT-1;Ankle_boot;49.90 BT-2;Rain_coat;79.00", 0, "sku title price", 1},
		"name and number":                {"Article;Product;Price Ankle_boot;BT-1;49.90 Rain_coat;BT-2;79.00", 0, "title sku price", 1},
		"beside an SKU":                  {"SKU;Article;Name A-1;BT-1;Boot_36 A-2;BT-1;Boot_37", 0, "sku – title", 0},
		"the name in German":             {"Art.-Nr.;Artikel;Preis BT-1;Stiefel;49,90 BT-2;Mantel;79,00", 0, "sku title price", 1},
		"the number in German":           {"Artikel;Bezeichnung;Preis 40177;Stiefel;49,90 40178;Mantel;79,00", 0, "sku title price", 1},
		"kinds, not names":               {"SKU;Artikel A-1;Stiefel A-2;Stiefel A-3;Mantel", 0, "sku –", 0},
		"a model that is shared":         {"Article;Colour;Price BT-1;red;49.90 BT-1;blue;49.90", 0, "– colour price", 0},
		"neither number nor name":        {"SKU;Product;Title A-1;;Boot A-2;;Coat", 0, "sku title –", 0},
		"barcodes":                       {"Article;Title 9521234000013;Boot 9521234000020;Coat 9521234000037;Cap 9521234000044;Belt 9521234000051;Scarf", 0, "barcode title", 1},
		"a unit under the heading":       {"Article;Title;Price text;text;EUR BT-1;Boot;49.90 BT-2;Coat;79.00", 0, "sku title price", 1},
		"what the user says stands":      {"Article;Title;Price BT-1;Boot;49.90 BT-2;Coat;79.00", catalogue.Title, "title – price", 0},
		"links called description":       {"SKU;Description;Long_description" + strings.Repeat(" A;"+links+";"+strings.ReplaceAll(texts, " ", "_"), 5), 0, "sku – description", 0},
		"titles called description":      {"SKU;Description;Long_description A;Boot;Warm,_dry B;Coat;Thin", 0, "sku title description", 1},
		"two descriptions":               {"SKU;Title;Description;Long_description A;Boot;Soft;Warm B;Coat;Light;Thin", 0, "sku title description –", 0},
		"two names":                      {"SKU;Product;Name A;Boot;Boot_36 B;Coat;Coat_L", 0, "sku title –", 0},
		"numbers of the rows":            {"Item;Title 1;Boot 2;Coat 3;Cap", 0, "– title", 0},
		"a title that is called MX-500":  {"SKU;Title A;MX-500 B;MX-600", 0, "sku title", 0},
		"codes under name, words beside": {"SKU;Name;Product_name A;MX-500;Kettle B;MX-600;Toaster", 0, "sku – title", 0},
	} {
		opt := Options{}
		if test.said != catalogue.Unknown {
			opt.Fields = map[string]catalogue.Field{"Article": test.said}
		}
		text := strings.NewReplacer(" ", "\n", "_", " ").Replace(test.list) + "\n"
		table, err := Open(write(t, "list.csv", text), opt)
		require.NoError(t, err, name)
		var got []string
		for _, f := range table.Columns.Fields {
			if got = append(got, f.String()); f == catalogue.Unknown {
				got[len(got)-1] = "–"
			}
		}
		assert.Equal(t, test.want, strings.Join(got, " "), name)
		assert.Len(t, table.ByCells, test.byCells, name)
		require.NoError(t, table.Close())
	}
}
