package main

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"math/rand/v2"
	"strings"
)

// marketFiles are the listings of two market places, in one archive: as the market
// places' own forms have them, with a line of settings, headings twice, demands and an
// example, and as somebody has filled them in. The rulebook writes back what belongs to
// the form.
func marketFiles() (map[string][]byte, error) {
	var archive bytes.Buffer
	z := zip.NewWriter(&archive)
	for i, place := range []string{"north", "south"} {
		w, err := z.CreateHeader(&zip.FileHeader{Name: place + "/listing.txt", Method: zip.Deflate})
		if err != nil {
			return nil, err
		}
		if _, err := io.WriteString(w, marketListing(place, uint64(i))); err != nil {
			return nil, err
		}
	}
	if err := z.Close(); err != nil {
		return nil, err
	}
	return map[string][]byte{
		"market-listings.zip": archive.Bytes(),
		"market-listing.toml": []byte(`# What the market place takes: its own form, filled in.
[target]
first_rows = "keep"                 # the rows around the headings, by which it knows its form
line_ends  = "crlf"
as         = ["ods", "jsonl"]       # and for the office, and for the price watcher
`),
	}, nil
}

func marketListing(place string, seed uint64) string {
	r := rand.New(rand.NewPCG(952, 31+seed))
	list := saltmarsh.products(r, 24)
	var b strings.Builder
	line := func(cells ...string) { b.WriteString(strings.Join(cells, "\t") + "\n") }
	line("Form=garden", "Version=4", "Market="+place, "", "", "", "", "")
	line("Item SKU", "Item name", "EAN", "Price", "In stock", "Weight", "Photo 1", "Wording")
	line("item_sku", "item_name", "item_ean", "list_price", "item_quantity", "item_weight", "photo_1", "page_wording")
	line("Required", "Required", "Optional", "EUR", "pcs", "kg", "Link", "HTML")
	line("Example: AB-12", "Bee brush, small", "9521357999995", "9.90", "12", "0.2", "https://market.example/form/brush.jpg",
		"<p>What a buyer should know</p>")
	for i, p := range list {
		code := p.code
		if i%8 == 3 {
			code = code[:1] + "." + code[1:] + "E+12"
		}
		line(p.sku, p.title, code, fmt.Sprintf("%d.%02d", p.price/100, p.price%100), fmt.Sprint(p.stock), fmt.Sprintf("0.%d", 1+i%9),
			p.image, strings.ReplaceAll(p.description, "\n", " "))
	}
	stock := 0
	for _, p := range list {
		stock += p.stock
	}
	line("", "Total", "", "", fmt.Sprint(stock), "", "", "")
	line("Please send it back before Friday", "", "", "", "", "", "", "")
	return b.String()
}
