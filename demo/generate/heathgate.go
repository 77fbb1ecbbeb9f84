package main

import (
	"fmt"
	"strings"

	"zetanum/core/barcode"
)

// heathgate is a supplier's catalogue whose words need care: titles in capitals with praise around them, brands spelt three ways
// tags with three separators, categories that are the supplier's own.
const heathgate = `SKU,Barcode,Title,Brand,Category,Tags,Price
HG-2001,#01,!!! NEW !!! HIVE STAND OAK 500X500MM -,HEATHGATE LTD,Imkerei/Beuten/Zubehör,Hive; Oak ;New,49.00
HG-2002,#02,ENEKTAR REFILL SACHETS 250G - SPECIAL OFFER!,eNektar,Imkerei/Fütterung,Feeding; Sale,6.95
HG-2003,#03,Honey honey strainer (double,Heathgate,Imkerei/Honigernte,Harvest;Present;present,18.50
HG-2004,#04,USB lamp with HARDWOOD base and 10 Mtr cable,Heathgate Ltd,Werkstatt/Licht,"""Lamps, torches""; Workshop",32.00
HG-2005,#05,STAINLESS STEEL HIVE TOOL WITH RED HANDLE FOR LEFT-HANDED BEEKEEPERS,n/a,Imkerei/Werkzeug,Tools;;kids,9.90
HG-2006,#06,Bee brush of horsehair by eNektar,,imkerei / werkzeug,Tools;Hive,7.50
HG-2007,#07,QUEEN MARKING PEN IN 5 COLOURS ***,ENEKTAR,Imkerei/Werkzeug,Tools|Present,3.20
HG-2008,#08,Beeswax candle Ø 6 cm,Heathgate,Kerzen,"Gift; Candle ; gift",5.40
HG-2009,#09,Smoker fuel 2Kg – DO NOT ORDER,Heathgate,Imkerei/Rauch,Smoke,11.00
HG-2010,#10,Veil for guests &amp; children,eNektar,Imkerei/Schutzkleidung,Kids; Clothing,14.00
HG-2011,#11,Veil for guests &amp; children,eNektar,Imkerei/Schutzkleidung,Kids; Clothing;XL,15.00
`

// heathgateLists are what its rulebook looks things up in.
var heathgateLists = map[string]string{
	"heathgate-categories.csv": "Theirs,Ours,Shelf\nImkerei,Beekeeping,B0\nImkerei > Beuten,Beekeeping > Hives,B1\nImkerei > Werkzeug,Beekeeping > Tools,B2\n" +
		"Imkerei > Honigernte,Beekeeping > Harvest,B3\nImkerei > Schutzkleidung,Beekeeping > Clothing,B4\nKerzen,Gifts > Candles,G1\n",
	"heathgate-in-shop.csv": "SKU,Title,Brand,Tags\nHG-2008,Beeswax candle,Heathgate,\"Gift, Winter\"\nHG-2010,Veil for guests & children,eNektar,\"Clothing, Children, Bestseller\"\n",
}

// heathgateRules is the rulebook for it.
const heathgateRules = `# Titles, tags, brands and categories as Linden Row Apiary Supply has them.
#   zetanum repair heathgate-catalogue.csv -rules heathgate-catalogue.toml

[shop]
export = "heathgate-in-shop.csv"    # what the shop has now

[title]                             # !!! NEW !!! HIVE STAND OAK 500X500MM - becomes Hive Stand Oak 500x500 mm
clean    = true
case     = "shouting"
measures = true
longest  = 60
fit      = true                     # with short forms, as far as needed
shorten  = [["stainless steel", "st. steel"], ["with", "w."]]

[brand]                             # Heathgate, HEATHGATE LTD and Heathgate Ltd are one
unify        = true                 # as the shop writes it
legal_forms  = "ignore"
placeholders = "blank"              # n/a
from_title   = true                 # by eNektar, in the title

[category]                          # Imkerei/Beuten/Zubehör becomes Beekeeping > Hives
list = "heathgate-categories.csv"

[tags]
between   = ", "
inside    = "replace"               # “Lamps, torches” has the comma in it
inside_as = " and"
mode      = "add"                   # what the shop has stays
aliases   = { "present" = "Gift", "kids" = "Children" }
forbidden = ["new", "sale"]
always    = ["{brand}"]

[[tags.when]]
where = { price = { below = 10 } }
add   = ["Under 10"]
`

// heathgateFiles returns the catalogue, and what its rulebook needs.
func heathgateFiles() (map[string][]byte, error) {
	list := heathgate
	for n := 1; n <= 11; n++ {
		code, err := barcode.Complete(fmt.Sprintf("95211080%04d", 4000+n))
		if err != nil {
			return nil, err
		}
		list = strings.ReplaceAll(list, fmt.Sprintf("#%02d", n), code.String())
	}
	files := map[string][]byte{"heathgate-catalogue.csv": []byte(list), "heathgate-catalogue.toml": []byte(heathgateRules)}
	for name, text := range heathgateLists {
		files[name] = []byte(text)
	}
	return files, nil
}
