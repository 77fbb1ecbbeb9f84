package main

import (
	"bytes"
	"errors"
	"fmt"
	"maps"
	"math/rand/v2"
	"strconv"
	"strings"

	"github.com/xuri/excelize/v2"
	"golang.org/x/text/encoding/charmap"

	"zetanum/core/barcode"
)

// Files returns the files of the demo catalogue by name.
func Files() (map[string][]byte, error) {
	r := rand.New(rand.NewPCG(952, 7))
	hb, ww, sm := hollowbrook.products(r, 120), wickAndWax.products(r, 200), saltmarsh.products(r, 300)
	priceList, err := charmap.Windows1252.NewEncoder().Bytes(hollowbrookFile(r, hb))
	if err != nil {
		return nil, err
	}
	workbook, err := wickAndWaxFile(ww)
	if err != nil {
		return nil, err
	}
	export, lost := saltmarshFile(r, sm)
	stockTake, err := stockTakeFile(r, lost, sm, ww)
	if err != nil {
		return nil, err
	}
	files, err := autumnFiles()
	if err != nil {
		return nil, err
	}
	garbled, err := garbledFile()
	if err != nil {
		return nil, err
	}
	market, err := marketFiles()
	if err != nil {
		return nil, err
	}
	own, err := ownMakeFiles()
	if err != nil {
		return nil, err
	}
	words, err := heathgateFiles()
	if err != nil {
		return nil, err
	}
	texts, err := millbrookFiles()
	if err != nil {
		return nil, err
	}
	photos, err := brackenfieldFiles()
	if err != nil {
		return nil, err
	}
	maps.Copy(files, photos)
	amounts, err := quarrymillFiles()
	if err != nil {
		return nil, err
	}
	maps.Copy(files, amounts)
	beside, err := newPhotosFiles()
	if err != nil {
		return nil, err
	}
	maps.Copy(files, beside)
	files["combley.toml"], files["combley-now.csv"] = []byte(combleyRules), combleyNow(ww)
	files["combley-changes.toml"] = []byte(combleyChanges)
	files["hedge-form.csv"], files["fairs.toml"] = []byte(hedgeForm), []byte(fairsRules)
	if files["shop-form.xlsx"], err = formFile(); err != nil {
		return nil, err
	}
	if files["combley-by-hand.csv"], err = byHand(files["shop-form.xlsx"], workbook); err != nil {
		return nil, err
	}
	maps.Copy(files, texts)
	maps.Copy(files, words)
	maps.Copy(files, market)
	maps.Copy(files, own)
	maps.Copy(files, variantFiles())
	maps.Copy(files, map[string][]byte{
		"wick-garbled.csv":       garbled,
		"hollowbrook-prices.csv": priceList,
		"wick-and-wax.xlsx":      workbook,
		"saltmarsh-export.csv":   export,
		"stock-take.xlsx":        stockTake,
		"odds-and-ends.csv":      oddsFile(),
		"odds-last-year.csv":     oldOddsFile(),
	})
	return files, nil
}

// roughen puts stray spaces and invisible characters into some titles.
func roughen(r *rand.Rand, title string) string {
	switch r.IntN(14) {
	case 0:
		return title + " "
	case 1:
		return strings.Replace(title, " ", "  ", 1)
	case 2:
		return strings.Replace(title, " ", "\u00a0", 1)
	case 3:
		return " " + title
	}
	return title
}

// hollowbrookFile is a price list with semicolons and decimal commas, to be
// encoded in Windows-1252. The UPC-A codes in it have lost their leading zeros,
// and the others a tail of ",0" here and there.
func hollowbrookFile(r *rand.Rand, list []product) []byte {
	var b bytes.Buffer
	b.WriteString("Art. no.;EAN;Designation;Brand;Product group;Price EUR;Stock;Int. memo\r\n")
	for i, p := range list {
		code := p.code
		switch {
		case i%4 == 1:
			code = strings.TrimLeft(restricted(i), "0")
		case i%10 == 3:
			code += ",0"
		case i == 40 || i == 41:
			code = list[42].code // one code on three products
		case i == 77:
			code = code[:12] + string('0'+(code[12]-'0'+3)%10)
		}
		memo := ""
		if r.IntN(6) == 0 {
			memo = []string{"ask Wilma", "new crate size", "ab März", "discontinue?"}[r.IntN(4)]
		}
		fmt.Fprintf(&b, "%s;%s;%s;%s;%s;%d,%02d;%d;%s\r\n", p.sku, code, quote(roughen(r, p.title), ';'), p.brand, p.category, p.price/100,
			p.price%100, p.stock, memo)
		if i == 59 {
			b.WriteString(";;;;;;;\r\n")
		}
	}
	return b.Bytes()
}

func quote(s string, separator byte) string {
	if strings.IndexByte(s, separator) < 0 && !strings.ContainsAny(s, "\"\n") {
		return s
	}
	return `"` + strings.ReplaceAll(s, `"`, `""`) + `"`
}

// saltmarshFile is an export in UTF-8 with a byte order mark whose barcode
// column has been through a spreadsheet program more than once. It also returns
// the products whose codes cannot be read from it any more.
func saltmarshFile(r *rand.Rand, list []product) (file []byte, lost []product) {
	var b bytes.Buffer
	b.WriteString("\ufeff")
	head := "SKU,Barcode,Product name,Brand,Category,Price,Quantity,Image URL,Text (HTML)\n"
	b.WriteString(head)
	for i, p := range list {
		cell, gone := damage(r, i, p.code)
		if gone {
			lost = append(lost, p)
		}
		title := roughen(r, p.title)
		if i%41 == 7 {
			title = title[:3] + "\u200b" + title[3:]
		}
		sku := p.sku
		if i == 211 {
			sku = list[210].sku
		}
		row := fmt.Sprintf("%s,%s,%s,%s,%s,%d.%02d,%d,%s,%s\n", sku, quote(cell, ','), quote(title, ','), quote(p.brand, ','),
			p.category, p.price/100, p.price%100, p.stock, p.image, quote(p.description, ','))
		b.WriteString(row)
		switch i {
		case 30, 95, 180:
			b.WriteString(",,,,,,,,\n")
		case 130:
			b.WriteString(head)
		case 150:
			b.WriteString(row) // pasted twice
		}
		if i%60 == 20 {
			b.WriteString(",,,,,,," + strings.Replace(p.image, ".jpg", "-back.jpg", 1) + ",\n")
		}
	}
	return b.Bytes(), lost
}

// damage returns what became of the code in row i, and whether it can no longer
// be read from the cell.
func damage(r *rand.Rand, i int, code string) (cell string, lost bool) {
	switch k := i % 30; {
	case k < 6:
		return code, false
	case k < 11:
		return scientific(code, 15), false
	case k < 12:
		if code[12] == '0' && code[11] != '0' {
			return scientific(code, 12), false
		}
		return code + ".0", false
	case k < 22:
		return scientific(code, 6), true
	case k < 24:
		n, _ := strconv.ParseFloat(scientific(code, 6), 64)
		return fmt.Sprintf("%.0f", n), true
	}
	switch i % 10 {
	case 4:
		return []string{"EAN: " + code, "'" + code, `="` + code + `"`, "#" + code}[r.IntN(4)], false
	case 5:
		return []string{code + "\u00a0", " " + code, "9 " + code[1:7] + " " + code[7:]}[r.IntN(3)], false
	case 6:
		return fmt.Sprintf("%s,%s,%s,%s,%s", code[:1], code[1:4], code[4:7], code[7:10], code[10:]), false
	case 7:
		return []string{"#N/A", "12/11/2026", "see box"}[r.IntN(3)], true
	case 8:
		wrong := []byte(code)
		wrong[9], wrong[10] = wrong[10], wrong[9]
		if string(wrong) == code {
			wrong[12] = '0' + (wrong[12]-'0'+1)%10
		}
		return string(wrong), true
	}
	return "", false
}

// scientific prints a code as a program does that shows so many digits.
func scientific(code string, digits int) string {
	n, _ := barcode.Number(code)
	mantissa, exponent, _ := strings.Cut(fmt.Sprintf("%.*E", digits-1, float64(n)), "E")
	return strings.TrimRight(strings.TrimRight(mantissa, "0"), ".") + "E" + exponent
}

// wickAndWaxFile is a workbook whose barcodes are stored as numbers and shown
// as 9.52E+12: all their digits are there, but for a few that somebody typed in
// again as they were shown.
func wickAndWaxFile(list []product) ([]byte, error) {
	book := newBook("Products")
	defer book.Close()
	shown, err := book.NewStyle(&excelize.Style{NumFmt: 11}) // 0.00E+00
	if err != nil {
		return nil, err
	}
	day, err := book.NewStyle(&excelize.Style{NumFmt: 14})
	if err != nil {
		return nil, err
	}
	rows := [][]any{{"Wick & Wax Mercantile: price list for the trade"}, {"Prices in EUR without tax; this list replaces all earlier ones"},
		nil,
		{"Item number", "GTIN", "Item name", "Make", "Category", "RRP", "On hand", "Trade price", "Listed since", "RRP with tax"}}
	const above = 3 // rows above the headings
	for i, p := range list {
		n, _ := barcode.Number(p.code)
		var code any = n
		if i%17 == 9 {
			f, _ := strconv.ParseFloat(scientific(p.code, 3), 64)
			code = f
		}
		rows = append(rows, []any{p.sku, code, p.title, p.brand, p.category, float64(p.price) / 100, p.stock, float64(p.price*6/10) / 100,
			45300 + i*7%900, float64((p.price*119+50)/100) / 100})
		if i == 120 {
			rows = append(rows, nil)
		}
	}
	if err := fill(book, "Products", rows); err != nil {
		return nil, err
	}
	for n := above + 2; n <= len(rows); n++ {
		if rows[n-1] == nil {
			continue
		}
		if err := book.SetCellFormula("Products", fmt.Sprintf("J%d", n), fmt.Sprintf("ROUND(F%d*1.19,2)", n)); err != nil {
			return nil, err
		}
	}
	_, err = book.NewSheet("Conditions")
	return mustSave(book, err,
		book.SetCellStyle("Products", fmt.Sprintf("B%d", above+2), fmt.Sprintf("B%d", len(rows)), shown),
		book.SetCellStyle("Products", fmt.Sprintf("I%d", above+2), fmt.Sprintf("I%d", len(rows)), day),
		book.MergeCell("Products", "A1", "D1"), book.MergeCell("Products", "A2", "D2"),
		book.SetColVisible("Products", "H", false),
		book.SetCellValue("Conditions", "A1", "Carriage paid from 150 EUR."),
		book.SetCellValue("Conditions", "A2", "Candles may settle in warm weather."))
}

// mustSave saves a workbook if nothing went wrong with it.
func mustSave(book *excelize.File, errs ...error) ([]byte, error) {
	if err := errors.Join(errs...); err != nil {
		return nil, err
	}
	return save(book)
}

// stockTakeFile is what the shop's own people scanned, so its codes are whole.
// It has about half of the products whose codes are lost elsewhere, and others.
func stockTakeFile(r *rand.Rand, lost, sm, ww []product) ([]byte, error) {
	book := newBook("Stock-take")
	defer book.Close()
	rows := [][]any{{"SKU", "Barcode", "Shelf", "Counted"}}
	there := make(map[string]bool)
	add := func(p product) {
		if !there[p.sku] {
			there[p.sku] = true
			rows = append(rows, []any{p.sku, p.code, fmt.Sprintf("%c%d", 'A'+r.IntN(6), 1+r.IntN(9)), p.stock + r.IntN(3)})
		}
	}
	for i, p := range lost {
		if i%2 == 0 || i%5 == 1 {
			add(p)
		}
	}
	for i := range 60 {
		add(sm[(i*11)%len(sm)])
		add(ww[(i*13)%len(ww)])
	}
	r.Shuffle(len(rows)-1, func(i, j int) { rows[i+1], rows[j+1] = rows[j+1], rows[i+1] })
	if err := fill(book, "Stock-take", rows); err != nil {
		return nil, err
	}
	return save(book)
}

func newBook(sheet string) *excelize.File {
	book := excelize.NewFile()
	book.SetSheetName("Sheet1", sheet)
	book.SetColWidth(sheet, "A", "H", 18)
	return book
}

func fill(book *excelize.File, sheet string, rows [][]any) error {
	for i, cells := range rows {
		for c, v := range cells {
			name, err := excelize.CoordinatesToCellName(c+1, i+1)
			if err != nil {
				return err
			}
			if err := book.SetCellValue(sheet, name, v); err != nil {
				return err
			}
		}
	}
	return nil
}

func save(book *excelize.File) ([]byte, error) {
	b, err := book.WriteToBuffer()
	if err != nil {
		return nil, err
	}
	return b.Bytes(), nil
}
