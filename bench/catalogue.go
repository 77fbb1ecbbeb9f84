package main

import (
	"bufio"
	"errors"
	"fmt"
	"math/rand/v2"
	"os"
	"strings"

	"zetanum/core/barcode"
)

var (
	goods = strings.Fields("smoker veil jacket extractor frame foundation feeder queen-cage brush hive-tool gloves fondant " +
		"bottle jar candle")
	qualities = strings.Fields("copper beech cedar ventilated stainless double dripless small large folding oiled gold")
	sentences = []string{
		"Made in small batches and checked by hand before it leaves the yard.", "Fits every hive of the Linden size without a spacer.",
		"Clean it with warm water and a little soda, never in the machine.", "The edges are rounded, so that gloves last longer.",
		"Delivered flat, put together in five minutes.",
	}
)

// writeCatalogue writes a catalogue of 20 columns: about 630 bytes a row, one
// cell in seven in quotation marks, descriptions of about 320 bytes. Most rows
// need nothing; three in a hundred have stray spaces, two a damaged barcode,
// and one SKU in fifty thousand is there twice.
func writeCatalogue(path string, rows int) (err error) {
	f, err := os.Create(path)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, f.Close()) }()
	w := bufio.NewWriterSize(f, 1<<20)
	r := rand.New(rand.NewPCG(952, 1))
	fmt.Fprintln(w, "SKU,Barcode,Title,Brand,Category,Tags,Description,Price,Sale price,Cost,Stock,Weight,Colour,Size,Material,Image "+
		"URL,Alt text,Supplier,Published,Memo")
	for i := range rows {
		data := 952000000000 + uint64(i)*17%1e9
		code := barcode.Pad(data*10+uint64(barcode.CheckDigit(data)), 13)
		title := fmt.Sprintf("%s %s no. %d", qualities[r.IntN(len(qualities))], goods[r.IntN(len(goods))], i)
		switch r.IntN(100) {
		case 0:
			code = fmt.Sprintf("%s.%sE+12", code[:1], code[1:6])
		case 1:
			code = fmt.Sprintf("%s.%sE+12", code[:1], code[1:])
		case 2, 3, 4:
			title = strings.Replace(title, " ", "  ", 1)
		}
		description := fmt.Sprintf(`"<p>%s %s</p><ul><li>%s</li><li>Number ""%d"", %s</li></ul>"`,
			sentences[r.IntN(5)], sentences[r.IntN(5)], sentences[r.IntN(5)], i, sentences[r.IntN(5)])
		sku := i
		if i%50000 == 49999 {
			sku--
		}
		price := 200 + r.IntN(9000)
		cost := price * (45 + r.IntN(15)) / 100
		fmt.Fprintf(w, "LRA-%07d,%s,%s,Linden Row,Apiary > Tools,\"tool, bees, %s\",%s,%d.%02d,,%d.%02d,%d,%d,%s,%s,\"wood, "+
			"steel\",https://cdn.lindenrow.example/products/%07d/front.jpg,%s,Hollowbrook Joinery,yes,\n",
			sku, code, title, goods[i%len(goods)], description, price/100, price%100, cost/100, cost%100, r.IntN(300),
			50+r.IntN(5000),
			qualities[i%len(qualities)], []string{"S", "M", "L"}[i%3], i, title)
	}
	return w.Flush()
}
