package main

import (
	"fmt"
	"math/rand/v2"
	"strings"

	"zetanum/core/barcode"
)

// A product as the supplier knows it, before anything was damaged.
type product struct {
	sku, code, title, brand, category, description string
	price                                          int // in cents
	stock                                          int
	image                                          string
}

// A supplier and what it sells.
type supplier struct {
	prefix   string // of its SKUs
	company  uint64 // the first seven digits of its codes
	brands   []string
	lines    []productLine
	variants []string
}

type productLine struct {
	category string
	names    []string
	text     string
}

// The three suppliers. Their codes begin with 952, the GS1 prefix for
// demonstrations.
var (
	hollowbrook = supplier{
		prefix: "HB", company: 9521101,
		brands: []string{"Hollowbrook Joinery", "Brüder Zeidelmoos", "Hollowbrook Joinery"},
		lines: []productLine{
			{"Hives", []string{"Brood box", "Honey super", "Hive floor", "Gabled roof", "Crown board", "Überwinterungsdeckel"},
				"Dovetailed cedar, cut and dried in our own yard."},
			{"Frames", []string{"Brood frame", "Super frame", "Drone frame", "Rähmchen für Ableger", "Foundation wire"},
				"Sold nailed and wired, ready for wax."},
			{"Workshop", []string{"Frame jig", "Hive stand", "Queen rearing cell bar", "Travel strap", "Étagère for jars"},
				"Made to last longer than the bees' patience."},
		},
		variants: []string{"11 frames", "10 frames", "6 frames", "cedar", "pine, oiled", "with steel runners", "flat-packed",
			"für 1½ Zargen"},
	}
	wickAndWax = supplier{
		prefix: "WW-", company: 9521202,
		brands: []string{"Wick & Wax Mercantile", "Queen & Drone", "Maison Ôrmeau"},
		lines: []productLine{
			{"Candles", []string{"Beeswax pillar candle", "Dinner candles, pair", "Tea lights", "Crème brûlée scented candle",
				"Advent set"}, "Pure beeswax, cotton wick."},
			{"Honey jars", []string{"Hexagonal jar", "Squat jar", "Corked bottle", "Jar lid, gold", "Tamper label"},
				"Glass thick enough for the dishwasher."},
			{"Wax", []string{"Wax foundation", "Pastilles, filtered", "Wax block", "Polish for hives", "Mould “Skep”"},
				"Melted slowly and never twice."},
		},
		variants: []string{"100 g", "227 g", "340 g", "454 g", "1 kg", "box of 12", "box of 24", "café au lait"},
	}
	saltmarsh = supplier{
		prefix: "SM", company: 9521357,
		brands: []string{"Saltmarsh Trading", "Queen & Drone", "Nørrebi", "Saltmarsh Trading"},
		lines: []productLine{
			{"Protection", []string{"Ventilated jacket", "Round veil", "Goatskin gloves", "Children's suit", "Ankle straps",
				"Fencing hood"}, "Three layers of mesh where the bees look for a way in."},
			{"Smokers", []string{"Copper smoker", "Smoker bellows", "Smoker fuel", "Dripless smoker", "Lavender pellets"},
				"Lights with one match, stays lit for the whole apiary."},
			{"Tools", []string{"Hive tool", "Frame grip", "Bee brush", "Uncapping fork", "Queen marking pen", "Propolis grid",
				"Queen cage"}, "Stainless steel, rounded where hands go."},
			{"Feeding", []string{"Frame feeder", "Rapid feeder", "Fondant", "Pollen patty", "Sirup für den Herbst"},
				"Fills without opening the brood nest."},
			{"Harvest", []string{"Extractor", "Settling tank", "Double sieve", "Honey gate", "Refractometer"}, "Food-grade throughout."},
		},
		variants: []string{"S", "M", "L", "XL", "small", "large", "yellow", "café", "with lid", "twin pack", "16 cm", "for left hands"},
	}
)

// products makes the first n products of a supplier.
func (s *supplier) products(r *rand.Rand, n int) []product {
	list := make([]product, n)
	seen := make(map[string]bool)
	for i := range list {
		line := s.lines[i*len(s.lines)/n]
		var title string
		for title == "" || seen[title] {
			title = line.names[r.IntN(len(line.names))] + ", " + s.variants[r.IntN(len(s.variants))]
			if seen[title] || r.IntN(9) == 0 {
				title += fmt.Sprintf(", no. %d", 2+r.IntN(98))
			}
		}
		seen[title] = true
		data := s.company*1e5 + uint64(i*7+r.IntN(7)+11)
		list[i] = product{
			sku:      fmt.Sprintf("%s%04d", s.prefix, 100+i),
			code:     barcode.Pad(data*10+uint64(barcode.CheckDigit(data)), 13),
			title:    title,
			brand:    s.brands[r.IntN(len(s.brands))],
			category: line.category,
			description: fmt.Sprintf("<p><b>%s</b> – %s</p>\n<ul><li>Weight about %d g</li><li>Made for “%s” hives & others</li></ul>",
				title, line.text, 50+r.IntN(40)*25, []string{"Linden", "Heath", "Marsh"}[r.IntN(3)]),
			price: 195 + r.IntN(160)*50,
			stock: r.IntN(90),
			image: fmt.Sprintf("https://cdn.lindenrow.example/%s/%04d.jpg", strings.ToLower(line.category), 100+i),
		}
	}
	return list
}

// restricted gives a product a UPC-A code of the range 04, which GS1 leaves to
// the use inside a shop, and returns it.
func restricted(i int) string {
	data := uint64(4110100000 + i*17 + 3)
	return barcode.Pad(data*10+uint64(barcode.CheckDigit(data)), 12)
}
