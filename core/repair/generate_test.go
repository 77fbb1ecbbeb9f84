package repair

import (
	"fmt"
	"math/rand/v2"
	"strings"

	"golang.org/x/text/encoding/charmap"

	"zetanum/core/barcode"
)

// nasty makes a file with everything that is wrong with files: many kinds of
// damage, ragged rows, stray quotation marks, products of several rows,
// duplicates, in one of several dialects.
func nasty(seed uint64, rows int) []byte {
	r := rand.New(rand.NewPCG(seed, 952))
	separator := []string{",", ";", "\t", "|"}[seed%4]
	end := []string{"\n", "\r\n", "\r"}[seed%3]
	var b strings.Builder
	head := []string{"SKU", "EAN", "Title", "Notes", "Description", "Slug", "UPC"}
	if seed%5 == 0 {
		head = head[:5]
	}
	quote := func(s string) string {
		if strings.Contains(s, separator) || strings.ContainsAny(s, "\"\r\n") || r.IntN(7) == 0 {
			return `"` + strings.ReplaceAll(s, `"`, `""`) + `"`
		}
		return s
	}
	line := func(cells []string) {
		for i, c := range cells {
			if i > 0 {
				b.WriteString(separator)
			}
			b.WriteString(quote(c))
		}
		b.WriteString(end)
	}
	line(head)
	code := func() string {
		data := 952100000000 + uint64(r.IntN(rows*3))
		return barcode.Pad(data*10+uint64(barcode.CheckDigit(data)), 13)
	}
	breaks := "\n"
	if end == "\r" {
		breaks = "\r"
	}
	var last []string
	for i := range rows {
		c := code()
		n, _ := barcode.Number(c)
		switch r.IntN(20) {
		case 0, 1:
			c = strings.Replace(fmt.Sprintf("%.12E", float64(n)), "E+", "E+", 1)
		case 2:
			c = fmt.Sprintf("%.5E", float64(n))
		case 3:
			c = fmt.Sprintf("%.11E", float64(n))
		case 4:
			c += ".0"
		case 5:
			c = "EAN " + c + "\u00a0"
		case 6:
			c = barcode.Pad(n/1e7*1e7, 13)
		case 7:
			c = c[:12] + string('0'+(c[12]-'0'+1)%10)
		case 9:
			c = []string{"04252614", "4252614", "0306406152", "030640615X", "2434-561X", "106141412345678908", "2-Mar", "1111111111116",
				c + " " + c}[r.IntN(9)]
		case 10:
			c = fmt.Sprint(40110100000 + r.IntN(rows*9)) // of eleven digits
		case 11:
			c = c[:12]
		case 8:
			c = []string{"", "#N/A", c + " / " + code(), c[:11], "TRUE", c + "000"}[r.IntN(6)]
		}
		title := []string{"Bürste ", "Hive  tool", "Smoker\u00a0box", " Veil", "Café", "Plain", "Queen\u200b cage", "a\x01b"}[r.IntN(8)]
		cells := []string{
			[]string{"S%04d", "%05d", "%d", "S%04d"}[r.IntN(4)], c, title + fmt.Sprint(r.IntN(50)),
			[]string{"", " x ", "AB  12", "ß"}[r.IntN(4)],
			"<p>one" + breaks + " two  \u00a0 three" + separator + ` "four"` + []string{"", "", "<b> on and on and on", "&lt;p&gt;"}[i%4] + "</p>", "", "",
		}
		cells[0] = fmt.Sprintf(cells[0], r.IntN(rows*4))
		if r.IntN(60) == 0 {
			cells[0] = []string{"2-Mar", "1.20E+05", "TRUE", "MAR-2"}[r.IntN(4)]
		}
		if r.IntN(5) == 0 {
			cells[5] = fmt.Sprintf("slug-%d", i/3)
		}
		if r.IntN(6) == 0 {
			cells[6] = code()
		}
		cells = cells[:len(head)]
		switch r.IntN(40) {
		case 0:
			cells = make([]string, len(head))
		case 1:
			cells = head
		case 2, 3:
			if last != nil {
				cells = last
			}
		case 4:
			cells = cells[:3]
		case 5:
			cells = append(cells, "", "")
		case 6:
			cells = append(cells, "too", "far")
		case 7, 8:
			cells[0], cells[2] = "", "" // goes on with the row above
		case 9:
			b.WriteString(`"5" stray"`) // read as a cell with marks in it
			b.WriteString(separator)
		case 10:
			b.WriteString(end)
		case 11:
			if separator == "," {
				cells[1] = "9"
				cells = append(cells[:2], append([]string{"52123E+12"}, cells[2:]...)...)
			}
		}
		last = cells
		line(cells)
	}
	text := b.String()
	switch {
	case seed%7 == 1:
		text = "\ufeff" + text
	case seed%7 == 2:
		text = strings.NewReplacer("\u200b", "", "\u00a0", " ").Replace(text)
		encoded, err := charmap.Windows1252.NewEncoder().String(text)
		if err != nil {
			panic(err)
		}
		text = encoded
	case seed%7 == 3:
		text = strings.TrimSuffix(text, end)
	case seed%7 == 4:
		text += `"never closed` + separator + "x" + end + "S1" + separator + end
	}
	return []byte(text)
}
