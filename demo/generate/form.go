package main

import (
	"bytes"
	"cmp"
	"encoding/csv"
	"fmt"
	"slices"
	"strconv"
	"time"

	"github.com/xuri/excelize/v2"

	"zetanum/demo/market"
)

// A formColumn is one of the form that the shop's platform gives out.
type formColumn struct {
	heading, rule string
	samples       [2]any
	list          string // the column of the sheet of choices; "" for none
	most          int    // characters
	least, limit  float64
	whole         bool
}

// shopForm is the form of the made-up platform on which the shop sells: a line of its own, headings with stars, a row of rules, two samples,
// lists on a sheet of their own, and a sheet that is protected but for the rows of products.
var shopForm = []formColumn{
	{heading: "Article code *", rule: "At most 20 characters, each code once", samples: [2]any{"SAMPLE-1", "SAMPLE-2"}, most: 20},
	{heading: "Name of article *", rule: "At most 80 characters", samples: [2]any{"Sample smoker, 10 cm", "Sample candle"}, most: 80},
	{heading: "Made by *", rule: "At most 40 characters", samples: [2]any{"Sample Works", "Sample Works"}, most: 40},
	{heading: "Shelf *", rule: "Choose from the list", samples: [2]any{"Smokers", "Candles"}, list: "A"},
	{heading: "Barcode", rule: "13 digits, or blank", samples: [2]any{"9520000000011", ""}},
	{heading: "Shop price *", rule: "Number with decimal point, 0.05 to 5000", samples: [2]any{"29.90", "4.50"}, least: 0.05, limit: 5000},
	{heading: "On hand *", rule: "Whole number, 0 to 99999", samples: [2]any{"12", "0"}, limit: 99999, whole: true},
	{heading: "Main picture *", rule: "Address ending in .jpg, .jpeg or .png", samples: [2]any{"https://pics.sample.example/1.jpg", "https://pics.sample.example/2.jpg"}},
	{heading: "Picture 2", rule: "Address ending in .jpg, .jpeg or .png", samples: [2]any{"", ""}},
	{heading: "Story", rule: "HTML, at most 4000 characters", samples: [2]any{"<p>A smoker for samples.</p>", "<p>A candle.</p>"}, most: 4000},
	{heading: "Search words", rule: "Several values separated by semicolon", samples: [2]any{"smoker;steel", "candle;wax"}},
	{heading: "Sold from", rule: "Date as YYYY-MM-DD", samples: [2]any{"2026-03-01", ""}},
	{heading: "Vegan", rule: "Y or N", samples: [2]any{"Y", "N"}},
	{heading: "Way of dispatch *", rule: "Choose from the list", samples: [2]any{"Letter", "Parcel"}, list: "B"},
	{heading: "Condition *", rule: "Always: new", samples: [2]any{"new", "new"}},
}

// combleyRules are for those products that go to that platform.
const combleyRules = `# Wick and wax for the Combley Market: its form, and what fills it. Begun with
#   zetanum begin wick-and-wax.xlsx -template shop-form.xlsx -out combley.toml
#   zetanum repair wick-and-wax.xlsx -rules combley.toml

[target]
template = "shop-form.xlsx"

[target.limits]
rows = 500                                                  # as the form says itself

[target.columns]
"Shop price"      = "RRP"                                   # and not RRP with tax
"Main picture"    = "https://pics.queendrone.example/{sku}.jpg"
"Way of dispatch" = { always = "Parcel" }
"Article code"    = "Item number"
"Name of article" = "Item name"
"Made by"         = "Make"
"Shelf"           = "Category"
"Barcode"         = "GTIN"
"On hand"         = "On hand"
"Sold from"       = "Listed since"

` + combleyShelves

// combleyShelves are the words of the platform for what we have.
const combleyShelves = `# What their shelves are called.
[[replace]]
in   = ["category"]
find = "Honey jars"
with = "Honey"

[[replace]]
in   = ["category"]
find = "Wax"
with = "Candles"
`

// combleyChanges are for what has changed since the platform was filled.
const combleyChanges = `# What is new for the Combley Market, and what is not as it has it, in two files.
#   zetanum repair wick-and-wax.xlsx -rules combley-changes.toml

[shop]
export   = "combley-now.csv"    # what the market has now
known_by = ["sku", "barcode"]   # a product that has another SKU there may be known by its barcode

[barcode]
trusted = ["combley-now.csv"]   # it has whole codes of what was sent before

[columns]
keep          = ["Item number", "Item name", "Make", "Category", "GTIN", "RRP", "On hand"]
keep_in_order = true

[columns.rename]                # as the market calls them
"Item number" = "Article code"
"Item name"   = "Name"
"Make"        = "Maker"
"Category"    = "Shelf"
"GTIN"        = "Barcode"
"RRP"         = "Price"
"On hand"     = "Pieces"

[target]
only_changed = true             # what the market has as it is here is set aside
split        = "new-existing"   # a file of each

[target.action]                 # what it is to do with each row
column   = "What to do"
new      = "list"
existing = "revise"

` + combleyShelves

// combleyNow is what the shop has on that platform: most of the products, some of them as they were last year.
func combleyNow(list []product) []byte {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	row := func(cells ...string) { _ = w.Write(cells) } // into memory, which does not fail
	row("Article code", "Name", "Maker", "Shelf", "Barcode", "Price", "Pieces", "Listed")
	shelves := map[string]string{"Honey jars": "Honey", "Wax": "Candles"}
	for i, p := range list {
		if i%11 == 10 {
			continue // it is new
		}
		price, stock, code, name := p.price, p.stock, p.code, p.title
		switch {
		case i%17 == 3:
			price = price * 9 / 10 / 5 * 5
		case i == 61:
			price *= 10 // a slip of last year's
		case i%13 == 5:
			stock += 12
		case i == 40:
			code = list[41].code
		case i%29 == 7:
			name += ", boxed"
		}
		shelf := cmp.Or(shelves[p.category], p.category)
		row(p.sku, name, p.brand, shelf, code, fmt.Sprintf("%d.%02d", price/100, price%100), strconv.Itoa(stock),
			time.Date(1899, 12, 30+45300+i*7%900, 0, 0, 0, 0, time.UTC).Format(time.DateOnly))
	}
	for i := range 9 {
		row(fmt.Sprintf("WW-9%02d", i), fmt.Sprintf("Tea lights of 2019, no. %d", i+1), "Queen & Drone", "Candles", "", "3.50", "0", "2019-05-01")
	}
	w.Flush()
	return b.Bytes()
}

// formRows is how many rows of the form are prepared for products, from the fourth on.
const formRows = 500

func formFile() ([]byte, error) {
	book := newBook("Articles")
	if _, err := book.NewSheet("Choices"); err != nil {
		return nil, err
	}
	choices := [][]any{{"Shelf", "Way of dispatch"}, {"Protection", "Letter"}, {"Smokers", "Parcel"}, {"Hives", "Pallet"}, {"Candles"}, {"Tools"}, {"Honey"}}
	rows := [][]any{{"Combley Market: articles. Leave rows 1 to 3 as they are; overwrite the samples. Not more than 500 articles a file."}, {}, {}, {}, {}}
	for _, c := range shopForm {
		rows[1], rows[2] = append(rows[1], c.heading), append(rows[2], c.rule)
		rows[3], rows[4] = append(rows[3], c.samples[0]), append(rows[4], c.samples[1])
	}
	if err := fill(book, "Articles", rows); err != nil {
		return nil, err
	}
	if err := fill(book, "Choices", choices); err != nil {
		return nil, err
	}
	open, err := book.NewStyle(&excelize.Style{Protection: &excelize.Protection{Locked: false}})
	if err != nil {
		return nil, err
	}
	last, err := excelize.CoordinatesToCellName(len(shopForm), 3+formRows)
	if err != nil {
		return nil, err
	}
	errs := []error{book.SetCellStyle("Articles", "A4", last, open), book.MergeCell("Articles", "A1", "H1"),
		book.ProtectSheet("Articles", &excelize.SheetProtectionOptions{SelectLockedCells: true, SelectUnlockedCells: true, FormatColumns: true})}
	for n, c := range shopForm {
		col, err := excelize.ColumnNumberToName(n + 1)
		if err != nil {
			return nil, err
		}
		dv := excelize.NewDataValidation(true)
		dv.Sqref = fmt.Sprintf("%s4:%s%d", col, col, 3+formRows)
		switch {
		case c.list != "":
			end := map[string]int{"A": 7, "B": 4}[c.list]
			dv.SetSqrefDropList(fmt.Sprintf("Choices!$%s$2:$%s$%d", c.list, c.list, end))
		case c.most > 0:
			errs = append(errs, dv.SetRange(c.most, c.most, excelize.DataValidationTypeTextLength, excelize.DataValidationOperatorLessThanOrEqual))
		case c.limit > 0:
			kind := excelize.DataValidationTypeDecimal
			if c.whole {
				kind = excelize.DataValidationTypeWhole
			}
			errs = append(errs, dv.SetRange(c.least, c.limit, kind, excelize.DataValidationOperatorBetween))
		default:
			continue
		}
		errs = append(errs, book.AddDataValidation("Articles", dv))
	}
	return mustSave(book, errs...)
}

// hedgeForm is the form of a second, smaller platform, as a text file.
const hedgeForm = "Little Hedge Fair;one line for each thing;;;;;\r\n" +
	"Our number *;What it is *;Table *;Barcode;Price in EUR *;Pieces;Gift\r\n" +
	"At most 20 characters;At most 60 characters;One of: Wax and light | Honey | Sundries;13 digits, or blank;Number with decimal comma;Whole number;J or N\r\n" +
	"X-1;Sample candle;Wax and light;;4,50;10;N\r\n"

// fairsRules are for both platforms at once.
const fairsRules = `# Wick and wax for two platforms in one run: each gets its own form.
#   zetanum repair wick-and-wax.xlsx -rules fairs.toml

[[targets]]
name     = "combley"
template = "shop-form.xlsx"
where    = { category = { one_of = ["Candles", "Honey jars"] } }   # no raw wax there

[targets.columns]
"Shelf"           = { from = "Category", words = { "Honey jars" = "Honey" } }
"Shop price"      = "RRP"
"Main picture"    = "https://pics.queendrone.example/{sku}.jpg"
"Way of dispatch" = { always = "Parcel" }
"Barcode"         = "GTIN"
"On hand"         = "On hand"

[[targets]]
name     = "hedge"
template = "hedge-form.csv"

[targets.columns]
"What it is"   = "title"
"Table"        = { from = "Category", words = { Candles = "Wax and light", Wax = "Wax and light", "Honey jars" = "Sundries" } }
"Price in EUR" = "RRP"
"Pieces"       = "On hand"

[targets.limits]
rows = 100
`

// byHand copies the wick and wax into the form of the platform as people do it, column after column, in a spreadsheet program.
func byHand(form, source []byte) ([]byte, error) {
	above, err := market.Rows("form.xlsx", form)
	if err != nil {
		return nil, err
	}
	rows, err := market.Rows("source.xlsx", source)
	if err != nil {
		return nil, err
	}
	const heading = 3 // the row of the source with the headings, from 0
	from := map[string]string{"Article code *": "Item number", "Name of article *": "Item name", "Made by *": "Make", "Shelf *": "Category", "Barcode": "GTIN", "Shop price *": "RRP",
		"On hand *": "On hand", "Sold from": "Listed since"}
	always := map[string]string{"Way of dispatch *": "Parcel", "Condition *": "new"}
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	for _, row := range above[:3] {
		_ = w.Write(append(slices.Clone(row), make([]string, len(shopForm)-len(row))...)) // into memory, which does not fail
	}
	for _, row := range rows[heading+1:] {
		if len(row) == 0 {
			continue
		}
		cells := make([]string, len(shopForm))
		for n, c := range shopForm {
			cells[n] = always[c.heading]
			if at := slices.Index(rows[heading], from[c.heading]); at >= 0 && at < len(row) {
				cells[n] = row[at]
			}
			if c.heading == "Main picture *" {
				cells[n] = "https://pics.queendrone.example/" + cells[0] + ".jpg"
			}
		}
		_ = w.Write(cells)
	}
	w.Flush()
	return b.Bytes(), w.Error()
}
