package main

import (
	"bytes"
	"encoding/csv"
	"fmt"

	"zetanum/core/barcode"
)

// brackenfield is a supplier's list whose links to photos are of every kind: mistyped, several in a cell, the same twice, on somebody's disk;
// and of those that are right some lead nowhere. Their host is the stand-in of package host.
var brackenfield = []struct{ key, title, colour, photos, text string }{
	{"gloves", "Goatskin gloves", "white", " http//img.brackenfield.example/p/gloves-white.jpg; http://img.brackenfield.example/p/gloves blue.jpg", ""},
	{"gloves", "", "blue", "", ""},
	{"gloves", "", "", "//img.brackenfield.example/p/gloves%20blue.jpg", ""},
	{"jacket", "Jacket with round veil", "", "http://img.brackenfield.example/p/jacket.jpg, http://IMG.brackenfield.example/p/jacket.jpg?utm_source=list, http://img.brackenfield.example/found/jacket-back.jpg", "Jacket, Jacket again, From behind"},
	{"brush", "Bee brush, double row", "", "<http://img.brackenfield.example/p/brush-320x240.png>", "Bee brush"},
	{"lifter", "Frame lifter", "", `http:\\img.brackenfield.example\moved\lifter.jpg`, ""},
	{"scraper", "Scraper with hook", "", "BF-07.JPG", ""},
	{"feeder", "Rapid feeder, 2 l", "", "http://img.brackenfield.example/view/feeder", ""},
	{"smoker", "Smoker fuel, cotton", "", "http://img.brackenfield.example/missing/fuel.jpg", ""},
	{"sieve", "Double sieve", "", "http://img.brackenfield.example/print/sieve.jpg", ""},
	{"refract", "Refractometer", "", "http://img.brackenfield.example/members/refractometer.jpg", ""},
	{"tank", "Settling tank, 50 kg", "", `C:\Fotos\Katalog\tank.jpg`, ""},
	{"lids", "Lids, gold, 100", "", "http://img.brackenfield.example/same/no-image.jpg", ""},
	{"jars", "Jars, 500 g, 12", "", "http://img.brackenfield.example/same/jars.jpg", ""},
	{"straps", "Hive straps", "", "http://img.brackenfield.example/frames/straps.gif", ""},
	{"stamp", "Queen marking set", "", "", ""},
}

// brackenfieldRules is the rulebook for it.
const brackenfieldRules = `# Links to photos as Linden Row Apiary Supply has them.
#   zetanum repair brackenfield-links.csv -rules brackenfield-links.toml

[products]
together_by = "Set"

[images]
repair        = true
drop_tracking = true
base_url      = "http://img.brackenfield.example/p/"   # before names of files
name_case     = "lower"
as            = "rows"                                  # each photo in a row of its own
number        = true
alt           = "{title}[, {colour}]"                   # where a photo has no text
of_variants   = "Variant photo"
variant_image = "option"                                # gloves-white.jpg for the white ones
`

// brackenfieldFiles returns the list, and its rulebook.
func brackenfieldFiles() (map[string][]byte, error) {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	if err := w.Write([]string{"Set", "SKU", "Barcode", "Title", "Colour", "Price", "Photo", "Photo text"}); err != nil {
		return nil, err
	}
	for i, p := range brackenfield {
		sku, code, price := "", "", ""
		if p.title != "" || p.colour != "" {
			full, err := barcode.Complete(fmt.Sprintf("95216620%04d", 3300+i))
			if err != nil {
				return nil, err
			}
			sku, code, price = fmt.Sprintf("BF-%02d", i+1), full.String(), fmt.Sprintf("%d.50", 4+5*i%40)
		}
		if err := w.Write([]string{p.key, sku, code, p.title, p.colour, price, p.photos, p.text}); err != nil {
			return nil, err
		}
	}
	w.Flush()
	return map[string][]byte{"brackenfield-links.csv": b.Bytes(), "brackenfield-links.toml": []byte(brackenfieldRules)}, w.Error()
}
