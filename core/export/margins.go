package export

import (
	"math/big"
	"path/filepath"
	"slices"

	"zetanum/core/catalogue"
	"zetanum/core/folder"
	"zetanum/core/quantity"
	"zetanum/core/sheet"
)

// MarginsName is the list of what is left of prices above the costs, of which the review shows the least; it goes no further.
const MarginsName = folder.Temporary + "margins.csv"

// MarginsOfAll is how many bytes a sheet has at most of which all rows are in it; of others those of which too little is left.
const MarginsOfAll = 8 << 20

// MarginHeadings are those of its columns behind the ones by which a product is known.
var MarginHeadings = []string{"Column", "Cost", "Price", "Too little"}

// Margins returns the rows of that list in a folder of which least is left, with the percentage before the last cell, their headings, and how
// many there are in all, none if nobody has ordered that they are looked at.
func Margins(dir string, form sheet.Form) (headings []string, rows [][]string, count int, err error) {
	form.Spooled = false
	table, err := sheet.Reopen(filepath.Join(dir, MarginsName), form)
	if err != nil {
		return nil, nil, 0, err
	}
	defer table.Close()
	type margin struct {
		cells []string
		left  *big.Rat // percent
	}
	var list []margin // in the order of the rows where as much is left
	trim := func() {
		slices.SortStableFunc(list, func(a, b margin) int { return a.left.Cmp(b.left) })
		list = list[:min(len(list), mostPrices)]
	}
	var share quantity.Share
	err = table.Each(func() { headings, list, count = nil, nil, -1 }, func(row *catalogue.Row) {
		last := len(row.Cells) - 1
		if count++; count == 0 {
			headings = slices.Insert(cloned(row.Cells), last, "Left, %")
			return
		}
		cost, noCost := quantity.Parse(row.Cells[last-2])
		price, noPrice := quantity.Parse(row.Cells[last-1])
		if noCost != nil || noPrice != nil {
			return
		}
		text := share.Left(price, cost)
		left, _ := new(big.Rat).SetString(text)
		if list = append(list, margin{slices.Insert(cloned(row.Cells), last, text), left}); len(list) >= 2*mostPrices {
			trim()
		}
	})
	trim()
	for _, m := range list {
		rows = append(rows, m.cells)
	}
	return headings, rows, max(0, count), err
}
