package main

import (
	"fmt"
	"strings"

	"zetanum/core/barcode"
)

// variantFiles are products of several rows as Wick & Wax sends them, and a rulebook for
// them: options packed in one cell, tags in the row of an image, a title that differs, a
// variant that was sorted away from its product, one without a price, two that nobody can
// tell apart, some that the shop sells as one, two products that it sells as one, a row that
// was copied and still has the photo of the one above, and an export of the shop, which has
// a variant that the list leaves out.
func variantFiles() map[string][]byte {
	var b strings.Builder
	b.WriteString("Set,Item number,GTIN,Item name,Keywords,RRP,Variant,Photo,Photo text,Sizes\n")
	n, sizes := uint64(0), ""
	line := func(set, sku, name, tags, price, variant, photo string) {
		code := ""
		if sku != "" && sizes == "" && set != "wick" { // which is sold by the metre
			n++
			data := wickAndWax.company*1e5 + 40_000 + n*3
			code = barcode.Pad(data*10+uint64(barcode.CheckDigit(data)), 13)
		}
		if photo != "" {
			photo = "https://img.wickandwax.example/" + photo + ".jpg"
		}
		fmt.Fprintf(&b, "%s,%s,%s,%s,%s,%s,%s,%s,,%s\n", set, sku, code, quote(name, ','), quote(tags, ','), price, quote(variant, ','),
			photo, sizes)
	}
	line("pillar", "WW-P1", "Beeswax pillar candle", "candles, beeswax", "8.50", "Height: 10 cm; Colour: natural", "pillar-1")
	line("pillar", "WW-P2", "", "", "11.50", "Height: 15 cm; Colour: natural", "")
	line("pillar", "WW-P3", "", "", "", "Height: 20 cm; Colour: natural", "")
	line("", "", "", "", "", "", "pillar-2")
	line("", "", "", "", "", "", "pillar-3")
	line("jar", "WW-J1", "Hexagonal jar", "", "0.65", "Content: 227 g; Lid: gold", "jar-1")
	line("jar", "WW-J2", "Hexagonal jar with lid", "", "0.70", "Content: 340 g; Lid: gold", "")
	line("", "", "", "jars, glass", "", "", "jar-2")
	line("lights", "WW-L1", "Tea lights", "candles", "4.20", "Pack: 12", "lights-1")
	line("lights", "WW-L2", "", "", "7.90", "Pack: 24", "")
	line("lights", "WW-L3", "", "", "7.90", "Pack: 24", "")
	line("mould", "WW-M1", "Mould “Skep”", "workshop", "24.00", "Height: 8 cm", "mould-1")
	line("mould", "WW-M2", "", "", "29.00", "twelve centimetres high", "")
	line("polish", "WW-W1", "Polish for hives", "wax", "9.90", "Content: 250 g", "polish-1")
	line("brush", "WW-B1", "Polishing brush", "wax", "6.40", "", "brush-1")
	line("polish", "WW-W2", "", "", "16.90", "Content: 500 g", "")
	sizes = "S | M | L"
	line("apron", "WW-A", "Apron for candle makers", "workshop", "19.50", "", "apron-1")
	sizes = ""
	line("wick", "WW-K1", "Square wick by the metre", "candles, wicks", "0.80", "Gauge: 1", "wick-1")
	line("wick", "WW-K2", "", "", "0.80", "Gauge: 2", "")
	line("wick", "WW-K3", "", "", "0.80", "Gauge: 3", "")
	line("wick", "WW-K4", "", "", "1.10", "Gauge: 4", "")
	line("dipper-short", "WW-D1", "Dipping can, short", "candles, dipping", "27.50", "", "dipper-1")
	line("dipper-long", "WW-D2", "Dipping can, long", "candles, cans", "34.00", "", "dipper-2")
	line("cutter", "WW-C1", "Wick cutter", "workshop", "6.80", "", "dipper-2")
	return map[string][]byte{
		"wick-in-shop.csv": []byte(`Slug,SKU,Title,Option 1 name,Option 1 value
beeswax-pillar-candle,WW-P1,Beeswax pillar candle,Height,10 cm
beeswax-pillar-candle,WW-P2,,,15 cm
polish-for-hives,WW-W1,Polish for hives,Content,250 g
polish-for-hives,WW-W2,,,500 g
polish-for-hives,WW-W3,,,1 kg
polishing-brush,WW-B1,Polishing brush,,
`),
		"wick-variants.csv": []byte(b.String()),
		"wick-variants.toml": []byte(`# Products of several rows: what belongs to the product, the variant and the image.
[shop]
export = "wick-in-shop.csv"         # what the shop has now

[products]
together_by = "Set"
regroup     = true                  # a variant that was sorted away from its product
differ      = "lead"                # another title in the row of a variant
misplaced   = "move"                # tags in the row of an image
complete_as = "shop"                # a variant that the shop has, and the list leaves out

together         = [["WW-D1", "WW-D2"]]   # two products that the shop sells as one,
option_of_titles = "Length"               # short and long; the title is what is left
same_as_lead     = ["Set"]                # with one key
differ_in        = { Keywords = "all" }   # and the keywords of both

[[options]]                         # Height: 10 cm; Colour: natural
from = "Variant"

[[one_row_each]]                    # one row entered, and a list of sizes
from = "Sizes"
into = "Size"
set  = { sku = "{sku}-{Size letters upper}" }

[[one_row_for_all]]                 # gauges with one price, as one row with a list
from   = "Gauge"
unlike = ["sku", "Variant"]

[images]
number = true                       # 1, 2, 3 within each product

[[build]]                           # in each row with an image, from the title in the lead row
into = "Photo text"
from = "{title}"

[field.price]
required = true                     # of each variant, not of images
`),
	}
}
