package export

import (
	"cmp"
	"math/big"
	"path/filepath"
	"slices"

	"zetanum/core/catalogue"
	"zetanum/core/folder"
	"zetanum/core/quantity"
	"zetanum/core/sheet"
	"zetanum/core/spread"
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
		cells  []string
		left   spread.Level // how many times the cost the price is
		number int
	}
	var list []margin
	trim := func() {
		slices.SortStableFunc(list, func(a, b margin) int { return cmp.Or(cmp.Compare(a.left, b.left), a.number-b.number) })
		list = list[:min(len(list), mostPrices)]
	}
	var share quantity.Share
	full := spread.Level(1<<15 - 1)
	err = table.Each(func() { headings, list, count = nil, nil, -1 }, func(row *catalogue.Row) {
		last := len(row.Cells) - 1
		if count++; count == 0 {
			headings = slices.Insert(cloned(row.Cells), last, "Left, %")
			return
		}
		cost, _ := quantity.Plain(row.Cells[last-2])
		price, _ := quantity.Plain(row.Cells[last-1])
		left := spread.LevelOf(price.Scaled()) - spread.LevelOf(cost.Scaled())
		if left >= full {
			return
		}
		list = append(list, margin{slices.Insert(cloned(row.Cells), last, share.Left(price, cost)), left, count})
		if len(list) >= 2*mostPrices {
			trim()
			full = list[len(list)-1].left
		}
	})
	trim()
	for _, m := range list {
		rows = append(rows, m.cells)
	}
	exactly := func(cells []string) *big.Rat {
		left, _ := new(big.Rat).SetString(cells[len(cells)-2])
		return left
	}
	slices.SortStableFunc(rows, func(a, b []string) int { return exactly(a).Cmp(exactly(b)) })
	return headings, rows, max(0, count), err
}
