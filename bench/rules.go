package main

import (
	"bufio"
	"errors"
	"fmt"
	"os"
)

// textRules has all that a text can be put in order by: every description written as safe and tidy HTML, titles and tags in
// order, links written as they should be, prices and costs read and written anew.
const textRules = `[title]
clean    = true
case     = "shouting"
measures = true
longest  = 80

[description]
clean = true

[tags]
between   = ", "
inside    = "replace"
aliases   = { "beekeeping" = "bees" }
forbidden = ["new", "sale"]

[images]
repair = true

[price]
written  = "point"
decimals = 2

[cost]
written  = "point"
decimals = 2
`

// twentyRules is a rulebook of twenty rules, of the kinds and in the proportions
// of a shop that loads a supplier's list: most of them look at every row and
// change few.
const twentyRules = `[columns]
drop   = ["Memo"]
rename = { "Image URL" = "Images" }
add    = { "Language" = "en" }
copy   = { "MPN" = "sku" }

[[columns.fill]]
into  = "Delivery"
with  = "Freight"
where = { weight = { above = 4900 } }

[[rows]]
aside = { title = { contains = "offcut" } }

[[rows]]
aside = { price = { below = 0.5 } }

[[replace]]
in   = ["title", "description"]
find = "hive-tool"
with = "hive tool"

[[replace]]
in   = ["title"]
find = "queen-cage"
with = "queen cage"

[[replace]]
in   = ["description"]
find = "Linden size"
with = "Linden format"
where = { stock = { below = 30 } }

[[replace]]
in   = ["title"]
find = "st. steel"
with = "stainless steel"

[[replace]]
in      = ["title"]
pattern = "no\\. ?([0-9]+)99$"
with    = "no. $1–99"

[[around]]
in    = ["title"]
after = "(gold)"
where = { colour = "gold", size = "L" }

[[build]]
into  = "alt text"
from  = "{title}[, {colour}]"

[field.title]
required = true
longest  = 70

[field.brand]
one_of = ["Linden Row", "Hollowbrook Joinery"]

[field.category]
one_of = ["Apiary > Tools"]

[field.sku]
unique = true

[field.size]
one_of = ["S", "M", "L", "XL"]

[field.material]
unify = true

[barcode]
write_as = "ean-13"
`

// writeStore writes a sheet with as many rows as the catalogue to borrow from, in
// another order: its SKUs, with a weight and a shelf.
func writeStore(path string, rows int) (err error) {
	if _, err := os.Stat(path); err == nil {
		return nil
	}
	f, err := os.Create(path)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, f.Close()) }()
	w := bufio.NewWriterSize(f, 1<<20)
	fmt.Fprintln(w, "SKU,Weight,Shelf")
	const step = 7_368_787 // a prime, so that every number comes once
	for i := range rows {
		n := i * step % rows
		fmt.Fprintf(w, "LRA-%07d,%d,%c%d\n", n, 50+n%5000, 'A'+n%6, 1+n%90)
	}
	return w.Flush()
}
