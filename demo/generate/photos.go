package main

import (
	"bytes"
	"encoding/csv"
	"fmt"

	"zetanum/core/barcode"
	"zetanum/demo/host"
)

// newPhotos is a list of products without pictures, whose photos lie beside it, as they came from a camera: called by SKU, with numbers or
// without, one on its side, one larger than the shop wants it.
var newPhotos = []struct{ sku, title, price string }{
	{"BP-01", "Hive stand, beech", "39.00"},
	{"BP-02", "Smoker with guard", "28.50"},
	{"BP-03", "Queen cage", "2.90"},
	{"BP-04", "Uncapping fork", "9.80"},
	{"BP-05", "Pollen trap", "24.00"},
}

// newPhotosRules is the rulebook for it.
const newPhotosRules = `# Photos that lie beside the list: copied as the shop wants them, to put on the web in one go.
#   zetanum repair brackenfield-photos.csv -rules brackenfield-photos.toml

[images]
folder       = "."
prepare      = "upload/"
prepare_as   = "{sku lower}-{number}"
types        = ["jpg", "png"]
longest_side = 800
base_url     = "https://cdn.linden-row.example/photos/"
alt          = "{title}"
`

// newPhotosFiles returns the list, its rulebook, and the photos.
func newPhotosFiles() (map[string][]byte, error) {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	_ = w.Write([]string{"SKU", "Barcode", "Title", "Price"}) // into memory
	for i, p := range newPhotos {
		code, err := barcode.Complete(fmt.Sprintf("95216620%04d", 3400+i))
		if err != nil {
			return nil, err
		}
		_ = w.Write([]string{p.sku, code.String(), p.title, p.price})
	}
	w.Flush()
	return map[string][]byte{
		"brackenfield-photos.csv": b.Bytes(), "brackenfield-photos.toml": []byte(newPhotosRules),
		"BP-01.jpg": host.Draw("stand-400x300.jpg"), "BP-01_2.jpg": host.Draw("stand-side-400x300.jpg"), "BP-02.jpg": onItsSide(host.Draw("smoker-400x300.jpg")),
		"bp-03.png": host.Draw("cage-300x300.png"), "BP-04.jpg": host.Draw("fork-1200x900.jpg"), "BP-99.gif": host.Draw("unknown-200x200.gif"),
	}, w.Error()
}

// onItsSide writes into a JPEG that it has to be turned to the right, as a camera does that was held upright (Exif 2.32, 4.6.4).
func onItsSide(photo []byte) []byte {
	exif := "Exif\x00\x00MM\x00*\x00\x00\x00\x08\x00\x01\x01\x12\x00\x03\x00\x00\x00\x01\x00\x06\x00\x00\x00\x00\x00\x00"
	out := append(bytes.Clone(photo[:2]), 0xFF, 0xE1, 0, byte(len(exif)+2))
	return append(append(out, exif...), photo[2:]...)
}
