package main

import (
	"fmt"
	"strings"

	"golang.org/x/text/encoding/charmap"
)

// garbled is a list whose texts were decoded wrongly on their way, each in another
// manner: once, twice, by another program, with characters lost. A few lines are
// honest, and only look as if something had happened to them.
func garbledFile() ([]byte, error) {
	read := func(s string, as ...*charmap.Charmap) string {
		for _, c := range as {
			var b strings.Builder
			for i := range len(s) {
				r := c.DecodeByte(s[i])
				if r == 0xfffd {
					r = rune(s[i])
				}
				b.WriteRune(r)
			}
			s = b.String()
		}
		return s
	}
	western, mac, dos, russian, central := charmap.Windows1252, charmap.Macintosh, charmap.CodePage850, charmap.Windows1251,
		charmap.Windows1250
	lost := func(s string) string { return strings.NewReplacer("\u00a0", " ", "\u009d", "").Replace(s) }
	rows := []struct{ title, brand string }{
		{read("Crème brûlée scented candle", western), read("Maison Ôrmeau", western)},
		{read("Beeswax pillar candle – 12 × 4 cm, 35 °C", western), "Wick & Wax Mercantile"},
		{read("Tea lights, “pure”, £4.50", western), "Queen & Drone"},
		{read("Überwinterungskerze für große Völker", western), read("Brüder Zeidelmoos", western)},
		{read("Überwinterungskerze für kleine Völker", western, western), read("Brüder Zeidelmoos", western, western)},
		{read("Café au lait candle", western, western, western), read("Maison Ôrmeau", western)},
		{read("Rähmchenkerze, zwölf Stück", mac), "Queen & Drone"},
		{read("Blütenhonigglas, 500 g", dos), "Queen & Drone"},
		{read("Свеча из воска", russian), "Queen & Drone"},
		{read("Łagodna świeca, żółta", central), "Queen & Drone"},
		{lost(read("Bougie à la crème", western)), read("Maison Ôrmeau", western)},
		{lost(read("Candle “Skep” for crème", western)), "Wick & Wax Mercantile"},
		{"Bl\ufffdtenhonigglas, 250 g", "Queen & Drone"},
		{"Königliche " + read("Blütenkerze für Gäste", western), "Brüder Zeidelmoos"},
		{"Pasted in: gro\xdfe R\xe4hmchenkerze", "Queen & Drone"},
		{"Bu\u0308rste fu\u0308r Ker\u00adzen\u00adwachs", "Queen & Drone"},
		{"Bеeswax sheets, Tom &amp; Ada", "Wick &amp; Wax Mercantile"}, // its first е is Cyrillic
		{"VELA DE MAÇÃ, PRODUÇÃO SÃO BRÁS", "Maison Ôrmeau"},
		{"Jar, ½ litre, Â grade, 5 £", "Wick & Wax Mercantile"},
		{"Nến sáp ong Việt Nam", "Nørrebi"},
	}
	var b strings.Builder
	b.WriteString("SKU,Title,Brand,Price\r\n")
	for i, row := range rows {
		fmt.Fprintf(&b, "WG-%02d,%s,%s,%d.50\r\n", i+1, quote(row.title, ','), quote(row.brand, ','), 3+i)
	}
	return []byte(b.String()), nil
}
