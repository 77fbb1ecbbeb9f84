package main

import (
	"fmt"
	"strings"

	"golang.org/x/text/encoding/charmap"

	"zetanum/core/barcode"
)

// autumn is the supplier's list of autumn offers: his own columns, wood in codes,
// sizes in one cell, brands as each of his clerks spells them, samples among the
// goods, and one product twice.
const autumn = `Art. no.;EAN;Designation;Maker;Wood;Size (mm);Price EUR;Finish;Int. memo
HB0301;#01;Brood box, 11 fr.;Hollowbrook Joinery;CED;500x425x225;42,95;oiled;
HB0302;#02;Honey super, 11 fr.;HOLLOWBROOK JOINERY;CED;500x425x150;31,50;oiled;
HB0303;#03;Gabled roof;Hollowbrook-Joinery;PIN;520x445x180;38,00;Oiled;ask Wilma
HB0304;#04;Crown board w/ clearer;Hollowbrook Joinery;PIN;500x425x25;17,25;raw;
HB0305;#05;Hive floor, mesh;Hollowbrok Joinery;CED;500x425x60;24,75;oiled;
HB0306;#06;Hive stand;Brüder Zeidelmoos;OAK;500x425x300;49,00;oiled;new crate size
HB0307;#07;Frame jig “Rapid”;Bruder Zeidelmoos;OAK;480x270x120;29,00;raw;
HB0308;#08;Nucleus hive, 6 fr.;Hollowbrook Joinery;PLY;500x240x260;36,40;raw;
HB0309;#09;Honey  press;Brüder Zeidelmoos;OAK;400x400x900;189,00;OILED;
HB0309;#09;Honey press;Brüder Zeidelmoos;OAK;400x400x900;179,00;OILED;ab März
HB0310;#10;Frame rack & jig;brüder zeidelmoos;PIN;900x400;22,00;raw;
HB0311;#11;*** NEW *** QUEEN CAGE;Hollowbrook Joinery;BCH;;3,20;;
HB0312;#12;Entrance block w/ slide;Hollowbrook Joinery;CED;420x20x20;2,95;oiled;
MU0001;#13;Sample, cedar offcut;Hollowbrook Joinery;CED;;0,00;;
MU0002;#14;Sample, pine offcut;Hollowbrook Joinery;PIN;;0,00;;
`

// autumnLists are the lists that its rulebook looks things up in.
var autumnLists = map[string]string{
	"woods.csv": "Code,Wood\nCED,Cedar\nPIN,Pine\nOAK,Oak\nBCH,Beech\n",
	"groups.csv": "Word in the title,Category\nbrood box,Hives\nhoney super,Hives\nroof,Hives\ncrown board,Hives\nhive " +
		"floor,Hives\nhive stand,Workshop\nentrance block,Hives\nframe jig,Workshop\njig,Workshop\nhoney press,Harvest\nframe " +
		"rack,Harvest\nqueen cage,Tools\nnucleus hive,Hives\n",
	"shop-brands.csv": "Brand\nBrüder Zeidelmoos\nHollowbrook Joinery\nQueen & Drone\n",
}

// autumnRules is the rulebook, with every kind of rule.
const autumnRules = `# How Linden Row Apiary Supply wants Hollowbrook's autumn offers.
#   zetanum repair hollowbrook-autumn.csv -rules hollowbrook-autumn.toml

[headings]                          # what is not recognised by itself
"Maker" = "brand"
"Wood"  = "wood"                    # a field of the shop's own, see below

[columns]
expect = ["Art. no.", "EAN", "Designation", "Maker", "Wood", "Size (mm)", "Price EUR", "Finish", "Int. memo"]
drop   = ["Int. memo", "Size (mm)"]
rename = { "Art. no." = "SKU", "Designation" = "Title", "Maker" = "Brand" }
add    = { "Language" = "en" }      # filled down to the last row
copy   = { "MPN" = "sku" }
order  = ["sku", "title", "brand", "category"]

[[columns.split]]                   # 500x425x225
from = "Size (mm)"
at   = "x"
into = ["Length", "Width", "Height"]

[[columns.join]]                    # 500 × 425 × 225
from = ["Length", "Width", "Height"]
with = " × "
into = "Size"

[[columns.fill]]
into  = "Delivery"
with  = "Freight"
where = { weight = { above = 15 } }

[sheet]
repeats = "set-aside"
sort_by = ["category", "title"]     # whole products

[[rows]]
aside = { sku = { starts = "MU" } } # samples
count = 2                           # with another number nothing is written

[[rows]]
one_per = "sku"
choose  = "last"                    # the newer price stands below the older one

[[borrow]]                          # text and weight are in another file
from     = "hollowbrook-texts.xlsx"
headings = { "Item" = "sku", "Text" = "description" }
by       = "sku"
take     = ["description", "weight"]
alike    = ["case", "spaces"]       # it writes HB 0301

[[expand]]
in   = ["wood"]
list = "woods.csv"

[[derive]]                          # a category, from a word in the title
into = "category"
from = ["title"]
list = "groups.csv"

[title]                             # *** NEW *** QUEEN CAGE becomes Queen cage
clean       = true
case        = "shouting"
shouting_as = "sentence"
measures    = true

[[replace]]
in   = ["title"]
find = "fr."
with = "frames"

[[replace]]
in   = ["title", "description"]
find = "w/"
with = "with"

[[around]]
in    = ["title"]
after = "(oak)"
where = { wood = "oak" }

[[build]]                           # what stands in brackets vanishes if it is empty
into = "Image text"
from = "{brand} {title}[, {Size} mm]"

[[closing]]
in   = ["description"]
text = "All our wood is untreated."

[field.wood]
type = "text"
one_of_from   = "woods.csv"
one_of_column = "Wood"

[field.brand]
required    = true
one_of_from = "shop-brands.csv"

[field.title]
required = true
longest  = 60

[field.finish]                      # oiled, Oiled, OILED
type  = "text"
unify = true                        # one spelling, that of most rows

[text]
quotes = "plain"                    # the shop's search does not know curly ones

[barcode]
write_as = "ean-13"

[answers]                           # what was answered once
keep = ["borrow.twice"]             # a weight can wait, the offers cannot

[asked]                             # what begin -ask was answered with no
no = ["price.written"]              # our importer reads commas

[target]
bom = true                          # the importer takes a file without it for another encoding
`

// autumnFiles returns the offers, and what their rulebook needs.
func autumnFiles() (map[string][]byte, error) {
	list := strings.ReplaceAll(autumn, "\n", "\r\n")
	for n := range 16 {
		code, err := barcode.Complete(fmt.Sprintf("95211010%04d", 2000+n))
		if err != nil {
			return nil, err
		}
		list = strings.ReplaceAll(list, fmt.Sprintf("#%02d", n), code.String())
	}
	offers, err := charmap.Windows1252.NewEncoder().Bytes([]byte(list))
	if err != nil {
		return nil, err
	}
	texts, err := autumnTexts()
	if err != nil {
		return nil, err
	}
	files := map[string][]byte{"hollowbrook-autumn.csv": offers, "hollowbrook-autumn.toml": []byte(autumnRules),
		"hollowbrook-texts.xlsx": texts}
	for name, text := range autumnLists {
		files[name] = []byte(text)
	}
	return files, nil
}

// autumnTexts is a workbook with a hidden column, two columns of texts, and item
// numbers with a space in them; one item has two weights.
func autumnTexts() ([]byte, error) {
	const sheet = "Texts"
	book := newBook(sheet)
	defer book.Close()
	rows := [][]any{{"Item", "Text", "Text (old)", "Weight (kg)", "Buyer"}}
	for i, text := range []string{
		"Dovetailed, with finger holds.", "Shallow, for supers that one can still lift.", "Shed rain and snow.",
		"For the last week before the harvest.",
		"With a tray below the mesh.", "Keeps the hive off wet grass.", "Ten frames at a time.", "For a swarm or a new queen.",
		"For comb without frames.", "", "Pocket size.", "",
	} {
		if text == "" {
			continue
		}
		rows = append(rows, []any{fmt.Sprintf("HB %04d", 301+i), "<p>" + text + "</p>", "<p>" + text + " (2019)</p>", 2.5 + float64(i*i%19),
			"Wilma"})
	}
	rows = append(rows, []any{"HB 0306", "<p>Keeps the hive off wet grass.</p>", "", 9.5, "Wilma"},
		[]any{"HB 0399", "<p>Not offered any more.</p>", "", 1.5, "Wilma"})
	if err := fill(book, sheet, rows); err != nil {
		return nil, err
	}
	if err := book.SetColVisible(sheet, "D", false); err != nil {
		return nil, err
	}
	return save(book)
}
