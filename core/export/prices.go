package export

import (
	"encoding/json"
	"math/big"
	"path/filepath"
	"slices"
	"strconv"

	"zetanum/core/catalogue"
	"zetanum/core/line"
	"zetanum/core/quantity"
)

// A PriceChange is an amount of money that a run has changed, or made.
type PriceChange struct {
	Row           int
	Column        string
	Before, After string
	Percent       string // by which it became more, with a sign; "" where there was none before, or nobody knows what it was
	Source        string // from which it was reckoned

	by *big.Rat // the larger of the two as a multiple of the smaller; nil without a percentage
}

// mostPrices is how many changes of prices a person is shown.
const mostPrices = 2000

// PriceChanges returns the amounts of money that the run in a folder has changed, the largest changes first, and how many there are. Where
// only their writing was changed they are not among them.
func PriceChanges(dir string) (list []PriceChange, count int, err error) {
	type changed struct {
		Row                          int
		Column, Field, Before, After string
		Source                       string
	}
	trim := func() {
		slices.SortStableFunc(list, func(a, b PriceChange) int {
			switch {
			case a.by != nil && b.by != nil && a.by.Cmp(b.by) != 0:
				return b.by.Cmp(a.by)
			case (a.by == nil) != (b.by == nil):
				if a.by != nil {
					return -1
				}
				return 1
			}
			return a.Row - b.Row
		})
		list = list[:min(len(list), mostPrices)]
	}
	err = eachLine(filepath.Join(dir, line.FileNames[3]), func(text []byte) error {
		var c changed
		if err := json.Unmarshal(text, &c); err != nil {
			return err
		}
		field, _ := catalogue.ParseField(c.Field)
		if field.Kind() != catalogue.PriceKind || c.After == "" {
			return nil
		}
		change := PriceChange{Row: c.Row, Column: c.Column, Before: c.Before, After: c.After, Source: c.Source}
		before, after := quantity.ReadPrice(c.Before, quantity.Form{}), quantity.ReadPrice(c.After, quantity.Form{Decimal: '.', Fine: true})
		if before.Is == quantity.Value && after.Is == quantity.Value {
			if before.Number.Cmp(after.Number) == 0 {
				return nil
			}
			change.compare(before.Number, after.Number)
		} else if c.Before != "" && before.Is == quantity.Asked {
			return nil // it may be the same
		}
		count++
		if list = append(list, change); len(list) > 2*mostPrices {
			trim()
		}
		return nil
	})
	trim()
	return list, count, err
}

// compare says by how much a price has become another.
func (c *PriceChange) compare(before, after quantity.Number) {
	a, _ := new(big.Rat).SetString(before.Plain())
	b, _ := new(big.Rat).SetString(after.Plain())
	if a.Sign() <= 0 || b.Sign() <= 0 {
		return
	}
	ratio := new(big.Rat).Quo(b, a)
	percent := new(big.Rat).Mul(new(big.Rat).Sub(ratio, big.NewRat(1, 1)), big.NewRat(100, 1))
	if c.Percent = quantity.Round(percent, 1, quantity.HalfUp); percent.Sign() > 0 {
		c.Percent = "+" + c.Percent
	}
	if c.by = ratio; ratio.Cmp(big.NewRat(1, 1)) < 0 {
		c.by = new(big.Rat).Inv(ratio)
	}
}

// PriceHeadings are those of a table of them.
var PriceHeadings = []string{"Row", "Column", "Before", "After", "Percent", "Reckoned from"}

// PriceWidths are the widths of its columns.
var PriceWidths = []int{8, 24, 14, 14, 10, 50}

// Cells are its cells in that table.
func (c *PriceChange) Cells() []string {
	return []string{strconv.Itoa(c.Row), c.Column, c.Before, c.After, c.Percent, c.Source}
}
