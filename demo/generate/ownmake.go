package main

import (
	"fmt"
	"strings"

	"zetanum/core/barcode"
)

// ownPrefix is the company prefix of the shop, of the range for demonstrations.
const ownPrefix = "9521790"

// ownMakeFiles are a list of what the shop makes itself: of some of it codes are in use, of the rest there
// are none yet; with the rulebook that makes them.
func ownMakeFiles() (map[string][]byte, error) {
	first, err := ownList([]ownProduct{
		{"LR-SOA-001", "Soap with honey", "100 g", "Soap", "4.90", 1, "soap-with-honey-100-g"},
		{"LR-SOA-002", "Soap with honey", "250 g", "Soap", "9.90", 2, "soap-with-honey-250-g"},
		{"", "Soap with propolis", "100 g", "Soap", "5.40", 0, ""},
		{"", "Soap with propolis", "250 g", "Soap", "10.90", 0, ""},
		{"LR-WRA-001", "Wrap of beeswax cloth, small", "", "Wraps", "6.50", 3, "wrap-of-beeswax-cloth-small"},
		{"", "Wrap of beeswax cloth, large", "", "Wraps", "9.50", 0, ""},
		{"", "Wrap of beeswax cloth, large", "", "Wraps, sets", "9.50", 0, ""},
		{"", "Polish for hives", "", "Öle & Wachse", "12.90", 0, ""},
		{"", "Crème for hands", "", "Skin", "7.90", 0, ""},
		{"", "Box for the post", "", "", "1.20", 0, ""},
		{"LR-SKI-004", "Balm for lips", "", "Skin", "3.90", 7, "balm-for-lips"},
		{"", "Balm for lips!", "", "Skin, new", "4.20", 0, ""},
	}, false)
	if err != nil {
		return nil, err
	}
	// A month later: the list with the codes was opened and saved in a spreadsheet program.
	next, err := ownList([]ownProduct{
		{"LR-SOA-001", "Soap with honey", "100 g", "Soap", "4.90", 1, "soap-with-honey-100-g"},
		{"LR-SOA-002", "Soap with honey", "250 g", "Soap", "10.40", 2, "soap-with-honey-250-g"},
		{"", "Soap with pollen", "100 g", "Soap", "5.90", 0, ""},
		{"LR-SOA-003", "Soap with propolis", "100 g", "Soap", "5.40", 11, "soap-with-propolis-100-g"},
		{"LR-WRA-001", "Wrap of beeswax cloth, small", "", "Wraps", "6.50", 3, "wrap-of-beeswax-cloth-small"},
		{"LR-SKI-004", "Balm for lips, tin", "", "Skin", "3.90", 7, "balm-for-lips"},
		{"", "Candle, rolled", "", "Candles", "2.50", 0, ""},
	}, true)
	if err != nil {
		return nil, err
	}
	return map[string][]byte{
		"own-make.csv":   first,
		"own-make-2.csv": next,
		"own-make.toml": []byte(`# Codes for what the shop makes itself, where there are none yet.
[register]
at = "own-make.register"             # remembers them, and the barcodes, for next month's list

[[mint]]
into = "sku"
from = "LR-{category ascii letters upper first 3}-{counter 3}"   # LR-SOA-003 follows LR-SOA-002

[[mint]]
into = "barcode"
company_prefix = "` + ownPrefix + `"          # which GS1 has given to the shop

[[mint]]
into = "slug"
from = "{title slug}[-{size slug}][-{counter}]"   # a number only where two would be the same
`),
	}, nil
}

// An ownProduct is one that the shop makes; item is the number in its barcode, 0 if it has none.
type ownProduct struct {
	sku, title, size, category, price string
	item                              int
	slug                              string
}

// ownList writes a list of products; the barcodes of one that was saved are rounded.
func ownList(products []ownProduct, saved bool) ([]byte, error) {
	var b strings.Builder
	b.WriteString("SKU,Title,Size,Category,Price,Barcode,Slug\n")
	for _, row := range products {
		code := ""
		if row.item > 0 {
			c, err := barcode.Complete(fmt.Sprintf("%s%05d", ownPrefix, row.item))
			if err != nil {
				return nil, err
			}
			if code = c.String(); saved {
				code = code[:1] + "." + code[1:6] + "E+12"
			}
		}
		cells := []string{row.sku, row.title, row.size, row.category, row.price, code, row.slug}
		for i, cell := range cells {
			if strings.Contains(cell, ",") {
				cells[i] = `"` + cell + `"`
			}
		}
		b.WriteString(strings.Join(cells, ",") + "\n")
	}
	return []byte(b.String()), nil
}
