package main

import (
	"bytes"
	"fmt"
	"strings"

	"zetanum/core/barcode"
)

// An odd is a line of the list of odds and ends: what stands in it now, and what
// stood in it a year ago.
type odd struct {
	sku, code, second, title, colour, price string
	skuWas, codeWas                         string // "" if it is the same
}

// numbered returns the code of the n-th of the small things.
func numbered(n int) string {
	c, err := barcode.Complete(fmt.Sprintf("9521404%05d", n))
	if err != nil {
		panic(err)
	}
	return c.String()
}

// odds is what is left over: small things, cartons, books. Each line shows
// something else that happens to codes. The UPC-Es, the books, the periodical and
// the pallet have the standards' own example numbers.
func odds() []odd {
	var list []odd
	for i, name := range []string{"Marking pen", "Queen clip", "Pollen scraper", "Frame spacer", "Hive strap", "Entrance block",
		"Cell punch", "Wax thread", "Smoker lighter", "Sugar shaker", "Comb knife", "Cage plug"} {
		code := numbered(1000 + 37*i)
		list = append(list, odd{sku: fmt.Sprintf("OD-%03d", i+1), code: scientific(code, 15), title: name, price: "4.20", codeWas: code})
	}
	n := 2010
	for !strings.HasSuffix(numbered(n), "00") || strings.HasSuffix(numbered(n), "000") {
		n += 10
	}
	zeros := numbered(n) // two at its end, by nature
	outer, err := barcode.Complete("1952140400300")
	if err != nil {
		panic(err)
	}
	carton := outer.String()
	return append(list,
		odd{sku: "OD-013", code: scientific(zeros, 15), title: "Bee tape", price: "2.10", codeWas: zeros},
		odd{sku: "2-Mar", code: numbered(301), title: "Mite board", price: "6.50", skuWas: "MAR-2"},
		odd{sku: "1.20E+05", code: numbered(302), title: "Mouse guard", price: "3.30", skuWas: "12E4"},
		odd{sku: "715", code: numbered(303), title: "Hive number plates", price: "9.90", skuWas: "00715"},
		odd{sku: "OD-017", code: "9.52E+12", title: "Feeder float", price: "1.95", codeWas: numbered(304)},
		odd{sku: "OD-018", code: numbered(305) + " / " + numbered(306), title: "Jar and lid", price: "2.40", codeWas: numbered(305)},
		odd{sku: "OD-019", code: numbered(307) + " " + numbered(307), title: "Label roll", price: "7.00", codeWas: numbered(307)},
		odd{sku: "OD-020", code: "04252614", title: "Lip balm", price: "3.50"},
		odd{sku: "OD-021", code: "0306406152", title: "The apiary year, a book", price: "18.00", codeWas: "9780306406157"},
		odd{sku: "OD-022", code: "2434-561X", title: "Heather honey quarterly", price: "6.00"},
		odd{sku: "OD-023", code: carton, title: "Carton of smoker fuel", price: "48.00"},
		odd{sku: "OD-024", code: "106141412345678908", title: "Pallet of jars", price: "610.00"},
		odd{sku: "OD-025", code: "1234567890128", title: "Sample jar", price: "0.90"},
		odd{sku: "OD-026", code: "OD-026", title: "Honey dipper", price: "3.10"},
		odd{sku: "OD-027", code: "12.50", title: "Tin smoker", price: "12.50"},
		odd{sku: "OD-028", code: "2012345000001", title: "Loose propolis", price: "5.00"},
		odd{sku: "OD-029", code: "#REF!", title: "Frame rest", price: "14.00", codeWas: numbered(308)},
		odd{sku: "OD-030", title: "Willow skep", price: "79.00"},
		odd{sku: "OD-031", code: numbered(309), second: numbered(310), title: "Hood", colour: "white", price: "22.00"},
		odd{sku: "OD-032", code: numbered(309), colour: "khaki", price: "22.00"},
	)
}

func oddsFile() []byte {
	var b bytes.Buffer
	b.WriteString("SKU,EAN,EAN 2,Title,Colour,Price\n")
	list := odds()
	for i, o := range list {
		if i == len(list)-1 {
			b.WriteString(",,,,,\n")
		}
		fmt.Fprintf(&b, "%s,%s,%s,%s,%s,%s\n", o.sku, o.code, o.second, quote(o.title, ','), o.colour, o.price)
	}
	return b.Bytes()
}

// oldOddsFile is last year's list of the same things, from before somebody
// opened it in a spreadsheet program. Some lines were not in it yet.
func oldOddsFile() []byte {
	var b bytes.Buffer
	b.WriteString("SKU,EAN,Title,Colour\n")
	for i, o := range odds() {
		switch {
		case o.skuWas != "":
			fmt.Fprintf(&b, "%s,%s,%s,%s\n", o.skuWas, o.code, quote(o.title, ','), o.colour)
		case o.codeWas != "" && i != 12:
			fmt.Fprintf(&b, "%s,%s,%s,%s\n", o.sku, o.codeWas, quote(o.title, ','), o.colour)
		}
	}
	return b.Bytes()
}
