package export

import (
	"bytes"
	"cmp"
	"encoding/json"
	"math/big"
	"path/filepath"
	"slices"
	"strconv"

	"zetanum/core/catalogue"
	"zetanum/core/line"
	"zetanum/core/quantity"
	"zetanum/core/spread"
)

// A PriceChange is an amount of money that a run has changed, or made.
type PriceChange struct {
	Row           int
	Column        string
	Before, After string
	Percent       string // by which it became more, with a sign; "" where there was none before, or nobody knows what it was
	Source        string // from which it was reckoned

	far int // how far the two are from one another, in hundredths of a decade, and one; 0 without a percentage
}

// mostPrices is how many changes of prices a person is shown.
const mostPrices = 2000

// ofPrices are the names of the fields that are prices.
var ofPrices = func() map[string]bool {
	is := make(map[string]bool)
	for _, name := range catalogue.FieldNames() {
		f, _ := catalogue.ParseField(name)
		is[name] = f.Kind() == catalogue.PriceKind
	}
	return is
}()

// MayChangePrices reports whether amounts of money may be among what a run has changed. Where they are not, its changes, of which there
// may be millions, need not be read again.
func MayChangePrices(r *line.Report, c *catalogue.Columns) bool {
	return r.Added > 0 || r.Joined > 0 || slices.ContainsFunc(r.Repaired, func(n line.RepairCount) bool {
		return n.Col >= len(c.Fields) || ofPrices[c.Name(n.Col)]
	})
}

// PriceChanges returns the amounts of money that the run in a folder has changed, the largest changes first, and how many there are. Where
// only their writing was changed they are not among them.
func PriceChanges(dir string) (list []PriceChange, count int, err error) {
	trim := func() {
		slices.SortStableFunc(list, func(a, b PriceChange) int { return cmp.Or(b.far-a.far, a.Row-b.Row) })
		list = list[:min(len(list), mostPrices)]
	}
	full := -1 // what is not further has no place any more
	err = eachLine(filepath.Join(dir, line.FileNames[3]), func(text []byte) error {
		if !ofPrices[string(told(text, `"field":"`))] {
			return nil
		}
		was, is := string(told(text, `"before":"`)), string(told(text, `"after":"`))
		if is == "" {
			return nil
		}
		far := 0
		before, after := quantity.ReadPrice(was, quantity.Form{}), quantity.ReadPrice(is, quantity.Form{})
		if before.Is == quantity.Value && after.Is == quantity.Value {
			if before.Number.Cmp(after.Number) == 0 {
				return nil
			}
			if a, b := spread.LevelOf(before.Number.Scaled()), spread.LevelOf(after.Number.Scaled()); a.Is() && b.Is() {
				far = 1 + int(max(a-b, b-a))
			}
		} else if before.Is == quantity.Asked {
			return nil // it may be the same
		}
		if count++; far <= full {
			return nil
		}
		var c struct {
			Row                           int
			Column, Before, After, Source string
		}
		if err := json.Unmarshal(text, &c); err != nil {
			return err
		}
		change := PriceChange{Row: c.Row, Column: c.Column, Before: c.Before, After: c.After, Source: c.Source, far: far}
		if far > 0 {
			change.compare(before.Number, after.Number)
		}
		if list = append(list, change); len(list) >= 2*mostPrices {
			trim()
			full = list[len(list)-1].far
		}
		return nil
	})
	trim()
	return list, count, err
}

// told returns what stands behind a name in a line of changes, up to the next quotation mark: enough to see whether it is a price.
func told(text []byte, name string) []byte {
	_, rest, found := bytes.Cut(text, []byte(name))
	if !found {
		return nil
	}
	value, _, _ := bytes.Cut(rest, []byte{'"'})
	return value
}

// compare says by how much a price has become another.
func (c *PriceChange) compare(before, after quantity.Number) {
	a, _ := new(big.Rat).SetString(before.Plain())
	b, _ := new(big.Rat).SetString(after.Plain())
	percent := b.Mul(b.Quo(b.Sub(b, a), a), big.NewRat(100, 1))
	if c.Percent = quantity.Round(percent, 1, quantity.HalfUp); percent.Sign() > 0 {
		c.Percent = "+" + c.Percent
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
