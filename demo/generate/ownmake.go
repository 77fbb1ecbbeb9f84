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
	var b strings.Builder
	b.WriteString("SKU,Title,Size,Category,Price,Barcode,Slug\n")
	for _, row := range []struct {
		sku, title, size, category, price string
		item                              int
		slug                              string
	}{
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
	} {
		code := ""
		if row.item > 0 {
			c, err := barcode.Complete(fmt.Sprintf("%s%05d", ownPrefix, row.item))
			if err != nil {
				return nil, err
			}
			code = c.String()
		}
		cells := []string{row.sku, row.title, row.size, row.category, row.price, code, row.slug}
		for i, cell := range cells {
			if strings.Contains(cell, ",") {
				cells[i] = `"` + cell + `"`
			}
		}
		b.WriteString(strings.Join(cells, ",") + "\n")
	}
	return map[string][]byte{
		"own-make.csv": []byte(b.String()),
		"own-make.toml": []byte(`# Codes for what the shop makes itself, where there are none yet.
[register]
at = "own-make.register"             # remembers them, for next month's list

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
