package heading

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"zetanum/core/catalogue"
)

// TestParts: headings are known by their parts, in the languages whose encodings are; those of
// which a part is not known, or that may mean two things, are not.
func TestParts(t *testing.T) {
	t.Parallel()
	known := map[catalogue.Field]string{
		catalogue.SKU: "Product ID|Item Number|item_number|itemNumber|Our code|Article-Id|Stock keeping unit|Custom label|SKU/Item code|Artikel-Nr.|Art.-Nr.|Produktnummer|Artikelkennung|" +
			"Numéro d'article|Código de producto|Codice dell'articolo|Artikelnummer|Varenummer|Tuotenumero|Kod towaru|Číslo výrobku|Termékkód|Cod produs|Šifra artikla|Артикул|Код товара|" +
			"Код на продукта|Κωδικός προϊόντος|Ürün kodu|Stok kodu|Prekės kodas|Toote kood|رمز المنتج|商品编号|货号|商品コード|品番|상품코드|รหัสสินค้า|Mã sản phẩm",
		catalogue.ParentSKU: "Parent product|Parent SKU|Master item number|Main SKU",
		catalogue.Barcode: "Global Trade Item Number|GTIN (EAN)|EAN-13|UPC/EAN|Product barcode|Barcode number|variant_barcode|eanCode|Strichcode|EAN-Nummer|Code-barres|Código de barras|Codice a barre|Streepjescode|" +
			"Streckkod|Stregkode|Strekkode|Viivakoodi|Kod kreskowy|Čárový kód|Vonalkód|Cod de bare|Barkod|Штрихкод|Штрих-код товара|Баркод|Γραμμωτός κώδικας|Ürün barkodu|Brūkšninis kodas|Svītrkods|Ribakood|الباركود|ברקוד|" +
			"商品条码|條碼|JANコード|バーコード|바코드|บาร์โค้ด|Mã vạch",
		catalogue.MPN:              "Manufacturer part no.|Manufacturer's code|Hersteller-Nummer",
		catalogue.Title:            "Product Name|item_name|ProductTitle|Item title (text)|Produktbezeichnung|Nom du produit|Nombre del artículo|Nome do produto|Nome articolo|Productnaam|Produktnamn|Varenavn|Tuotteen nimi|Nazwa towaru|Název zboží|Názov produktu|Terméknév|Denumire produs|Naziv proizvoda|Название товара|Наименование|Назва товару|Име на продукта|Όνομα προϊόντος|Ürün adı|Prekės pavadinimas|Preces nosaukums|Toote nimetus|اسم المنتج|שם המוצר|商品名称|產品名稱|商品名|상품명|ชื่อสินค้า|Tên sản phẩm",
		catalogue.Brand:            "Product brand|Manufacturer|Brand/manufacturer|Publisher|Verlag|Produktmarke|Marque|Marka|Značka|Бренд|Μάρκα|品牌|브랜드|ブランド",
		catalogue.Category:         "Primary category|Main category|product_category|Warengruppe|Kategorie|Catégorie du produit|Kategori|Категория товара|Ürün kategorisi|商品分类|카테고리",
		catalogue.Description:      "Product description (long)|Description HTML|descriptionText|Full description|Artikelbeschreibung|Description du produit|Opis produktu|Описание товара|Περιγραφή προϊόντος|Ürün açıklaması|商品描述|商品説明|상품설명|Mô tả sản phẩm",
		catalogue.ShortDescription: "Short description|Short text|Description (short)|Краткое описание|Krátký popis|Rövid leírás",
		catalogue.Price:            "Selling price|Start price|Sell price|Retail price|Recommended retail price|Price (EUR)|Price incl. VAT|priceNet|Unit price|Product price|Verkaufspreis|Produktpreis|Verkaufspreis (brutto)|Prix de vente TTC|Precio de venta|Preço de venda|Prezzo di vendita|Verkoopprijs|Försäljningspris|Salgspris|Myyntihinta|Cena sprzedaży|Prodejní cena|Eladási ár|Preț de vânzare|Prodajna cijena|Цена продажи|Розничная цена|Ціна|Τιμή πώλησης|Satış fiyatı|Pardavimo kaina|سعر البيع|מחיר|销售价格|販売価格|판매가|ราคา|Giá bán",
		catalogue.SalePrice:        "Special price|Sale price (EUR)|Promotional price|discounted_price|Aktionspreis|Sonderpreis|Prix promo|Cena promocyjna|Kampanjpris|İndirimli fiyat|促销价格",
		catalogue.SaleFrom:         "Sale price start date|Special price from|Sale starts|Selling price start date|sale_start",
		catalogue.SaleTo:           "Sale price end date|Special price to|Sale ends|Selling price end date|sale_end",
		catalogue.Cost:             "Purchase price|Buying price (net)|Einkaufspreis|Prix d'achat|Inkoopprijs|Cena zakupu|成本价",
		catalogue.WholesalePrice:   "Wholesale price|Trade price|Händlerpreis|Prix de gros|Cena hurtowa|Оптовая цена",
		catalogue.ListPrice:        "List price|RRP|UVP|Was price|Old price|Listenpreis|Streichpreis|Prix catalogue|Ancien prix|Precio anterior|Oude prijs",
		catalogue.FloorPrice:       "Minimum price|Min. price|Floor price|Mindestpreis|Prix minimum|Precio mínimo|Prezzo minimo|Minimumprijs|Lägsta pris|Cena minimalna|Asgari fiyat",
		catalogue.Currency:         "Currency|Currency code|Price currency|Währung|Devise|Moneda|Valuta|Waluta|Para birimi",
		catalogue.InStock:          "In stock|in_stock|Availability|Lieferbar|Disponible|Op voorraad|Dostępny",
		catalogue.TrackStock:       "Track stock|Stock tracking|Track quantity|Bestandsführung|Suivi de stock|Voorraadbeheer",
		catalogue.Backorders:       "Backorders|Allow backorders|Nachbestellbar|Venta sin stock|Nabestellen",
		catalogue.LowStock:         "Low stock|Low stock level|Minimum stock|Reorder level|Mindestbestand|Meldebestand|Stock minimum|Stock d'alerte|Stock mínimo|Scorta minima|Stan minimalny",
		catalogue.Stock:            "Stock quantity|Stock level|Quantity available|quantity_on_hand|Lagerbestand|Bestandsmenge|Quantité en stock|Cantidad disponible|Voorraad|Lagersaldo|Varastosaldo|Stan magazynowy|Skladem|Készlet|Stoc|Zaliha|Остаток|Количество на складе|Απόθεμα|Stok miktarı|Likutis|الكمية|库存数量|在庫数|재고|Tồn kho",
		catalogue.Weight:           "Product weight (kg)|Weight in g|itemWeight|Versandgewicht|Poids (g)|Waga kg|Вес, кг|重量|무게",
		catalogue.Images:           "Featured picture|Main image|Product image URL|Picture 1|image_link|Product photo|Hauptbild|Bild-URL|Image principale|Imagen principal|Zdjęcie główne|Ссылка на изображение|图片链接|画像|이미지",
		catalogue.ImageAlt:         "Picture alt text|Image caption|Alt text",
		catalogue.ImageOrder:       "Image position|Picture order|photo_position",
		catalogue.Colour:           "Product colour|Farbe|Couleur|Color|Väri|Цвет|Renk|颜色|색상",
		catalogue.Size:             "Item size|Größe|GRÖSSE|Groesse|Taille|Storlek|Размер|尺寸|サイズ",
		catalogue.Supplier:         "Supplier name|Vendor|Lieferant|Fournisseur|Dostawca|Поставщик|供应商",
	}
	good, all := 0, 0
	for f, list := range known {
		for h := range strings.SplitSeq(list, "|") {
			if strings.Contains(h, "רقם") { // of two scripts: no word
				continue
			}
			all++
			if assert.Equal(t, f, Field(h), "%q", h) {
				good++
			}
		}
	}
	for h := range strings.SplitSeq("Name tag|Price tag|Picture frame|Weight plate|Maximum price|No.|Nr|Number|Number of items|Count of products|Size M|Image 360|Image name|Order number|Date|Text|Link|Status code|Price list|"+
		"Colour photo|Sale|Sell|Full|Brand image|Author|Customer number|Category image|Supplier price|Price 2024|Title 2|Parent|Item|Cover|From|To|Position|Weight unit|Shipping date|"+
		"Sales|Preisliste|Bildband|Farbfoto|Größentabelle|Namensschild|Lagerregal|Verkaufsraum|Honey|Blue cup|Smoker|Nota|Observations", "|") {
		assert.Equal(t, catalogue.Unknown, Field(h), "%q", h)
	}
	t.Logf("%d of %d headings are known", good, all)
}

func BenchmarkField(b *testing.B) {
	for _, h := range []string{"EAN", "Item title (text)", "Smoker bellows, for left hands", "Verkaufspreisliste"} {
		b.Run(h, func(b *testing.B) {
			for b.Loop() {
				Field(h)
			}
		})
	}
}

// TestHome: what is seen to be at home at once is so.
func TestHome(t *testing.T) {
	for kind := catalogue.AnyKind; kind <= catalogue.MeasureKind; kind++ {
		home, at := HomeOf(kind), 0
		for first := range 256 {
			for last := range 256 {
				for _, middle := range []string{"", "3", "ttp://a", "5201234567", "52012345678", "23456789012345678901234567890123456789", "234567890123456789012345678901234567890"} {
					if cell := string([]byte{byte(first)}) + middle + string([]byte{byte(last)}); home.surely(cell) {
						if at++; !atHome(kind, cell) {
							t.Fatalf("%d %q", kind, cell)
						}
					}
				}
			}
		}
		assert.Equal(t, kind != catalogue.LinkKind, at > 0, kind)
	}
}
