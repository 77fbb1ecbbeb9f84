package main

import (
	"fmt"
	"strings"

	"zetanum/core/barcode"
)

// quarrymill is a supplier's price list with what goes wrong with amounts: a lost comma, a sale at nothing and one above the price, weights in
// two units, a stock that contradicts itself.
var quarrymill = []struct{ title, group, cost, price, sale, from, to, weight, stock, ready, size string }{
	{"Sechseckglas 47 ml, 24 Stück", "Gläser", "7,10", "13,90 €", "", "", "", "2,6 kg", "40", "ja", "30 x 20 x 8 cm"},
	{"Sechseckglas 106 ml, 24 Stück", "Gläser", "8,40", "16,50 €", "", "", "", "3,4 kg", "25", "ja", "32 x 22 x 9 cm"},
	{"Rundglas 125 g, 12 Stück", "Gläser", "4,95", "9,90 €", "7,90", "01.12.2026", "31.12.2026", "1,9 kg", "60 Stk.", "ja", "28 x 21 x 8 cm"},
	{"Rundglas 250 g, 12 Stück", "Gläser", "5,60", "11,20 €", "0,00", "", "", "2400 g", "55", "ja", "30 x 22 x 10 cm"},
	{"Rundglas 500 g, 12 Stück", "Gläser", "6,20", "12,50 €", "", "", "", "3,1 kg", "80", "ja", "34 x 25 x 12 cm"},
	{"Neutralglas 500 g, 12 Stück", "Gläser", "6,90", "1390 €", "", "", "", "3,3 kg", "30", "ja", "34 x 25 x 12 cm"},
	{"Wabenglas 250 g, 12 Stück", "Gläser", "7,80", "15,60 €", "", "", "", "2,7 kg", "12", "ja", ""},
	{"Flasche Met 0,5 l, 6 Stück", "Gläser", "8,10", "16,20 €", "17,20", "01.11.2026", "15.12.2026", "2,9 kg", "9", "ja", "24 x 16 x 30 cm"},
	{"Deckel gold 82 mm, 100 Stück", "Gläser", "9,40", "18,90 €", "", "", "", "1,2 kg", "0", "ja", ""},
	{"Deckel weiß 82 mm, 100 Stück", "Gläser", "9,10", "17,90 €", "0,00", "", "", "1,2 kg", "150", "ja", ""},
	{"Etikettenrolle, 500 Stück", "Gläser", "7,50", "auf Anfrage", "", "", "", "0,9 kg", "20", "ja", ""},
	{"Stockmeißel, gehärtet", "Werkzeug", "6,30", "12,90 €", "", "", "", "0,34 kg", "70", "ja", ""},
	{"Stockmeißel mit Haken", "Werkzeug", "7,40", "14,90 €", "", "", "", "0,39 kg", ">10", "ja", ""},
	{"Wabenzange", "Werkzeug", "8,90", "17,80 €", "14,90", "15.11.2026", "01.11.2026", "0,42 kg", "18", "ja", ""},
	{"Entdeckelungsgabel", "Werkzeug", "5,10", "10,50 €", "", "", "", "0,16 kg", "44", "ja", ""},
	{"Besen, Naturhaar", "Werkzeug", "4,40", "8,90 €", "", "", "", "180 g", "90", "ja", ""},
	{"Smoker, 8 cm", "Werkzeug", "14,90", "29,90 €", "", "", "", "0,95 kg", "16", "ja", "26 x 18 x 10 cm"},
	{"Smoker, 10 cm", "Werkzeug", "17,20", "34,50 €", "", "", "", "1,1 kg", "0", "nein", "28 x 20 x 12 cm"},
	{"Futtertasche", "Werkzeug", "5,90", "11,90 €", "", "", "", "0,6 kg", "35", "ja", ""},
	{"Absperrgitter, Kunststoff", "Werkzeug", "3,80", "7,60 €", "", "", "", "0,21 kg", "120", "ja", ""},
	{"Königinnenkäfig, 10 Stück", "Werkzeug", "4,20", "8,40 €", "", "", "", "0,09 kg", "64", "nein", ""},
	{"Zeichenset", "Werkzeug", "9,80", "10,90 €", "", "", "", "0,12 kg", "22", "ja", ""},
}

// quarrymillRules is the rulebook for it.
const quarrymillRules = `# Prices, weights and stocks as Linden Row Apiary Supply's importer takes them.
#   zetanum repair quarrymill-prices.csv -rules quarrymill-prices.toml

[field."Maße"]
type  = "text"
unit  = "cm"
sides = ["length", "width", "height"]

[price]
written         = "point"
decimals        = 2
currency        = "EUR"
clear           = ["request"]
margin_at_least = 0.25

[cost]
written  = "point"
decimals = 2

[floor_price]                # the least that is asked for: 15 percent above the cost
from    = "cost"
percent = 15

[sale_price]
written  = "point"
decimals = 2
zero     = "none"

[sale_from]
form = "iso"

[sale_to]
form = "iso"

[weight]
written  = "point"
unit     = "kg"
decimals = 3

[stock]
decimals = 0

[in_stock]
yes = "1"
no  = "0"
`

// quarrymillFiles returns the list, and its rulebook.
func quarrymillFiles() (map[string][]byte, error) {
	var b strings.Builder
	b.WriteString("Art.-Nr.;EAN;Bezeichnung;Warengruppe;EK;VK;Aktionspreis;Aktion ab;Aktion bis;Gewicht;Bestand;Lieferbar;Maße\n")
	for i, p := range quarrymill {
		code, err := barcode.Complete(fmt.Sprintf("95216640%04d", 5100+i))
		if err != nil {
			return nil, err
		}
		b.WriteString(strings.Join([]string{fmt.Sprintf("QM-%03d", 7*i+101), code.String(), p.title, p.group, p.cost, p.price, p.sale, p.from, p.to, p.weight, p.stock, p.ready, p.size}, ";") + "\n")
	}
	return map[string][]byte{"quarrymill-prices.csv": []byte(b.String()), "quarrymill-prices.toml": []byte(quarrymillRules)}, nil
}
