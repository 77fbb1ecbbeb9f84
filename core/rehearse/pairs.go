package rehearse

import (
	"cmp"
	"slices"
	"strconv"
	"strings"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/quantity"
	"zetanum/core/sheet"
	"zetanum/core/text"
)

// A pair is a column of the file and the one of the shop that is the same.
type pair struct {
	cols    [2]int
	field   catalogue.Field
	kind    catalogue.Kind
	numbers [2]quantity.Form
	answers [2]quantity.YesNo
	dates   [2]quantity.DateForm
	listed  bool // its values are those of a list: categories, brands, options
	change  Count
	blank   Count
}

// newPair learns how a column is written in both files.
func (r *rehearsal) newPair(col, other int) pair {
	own, shop := &r.ready.Columns, &r.shop.Columns
	p := pair{cols: [2]int{col, other}, field: own.Fields[col]}
	if p.field == catalogue.Unknown {
		p.field = shop.Fields[other]
	}
	p.kind = p.field.Kind()
	p.change.Column, p.blank.Column = own.Headings[col], own.Headings[col]
	switch p.field {
	case catalogue.Category, catalogue.Brand, catalogue.Type, catalogue.Tags, catalogue.Colour, catalogue.Size, catalogue.Material:
		p.listed = true
	}
	var numbers, dates, filled [2]int
	for side, t := range []*sheet.Table{r.ready, r.shop} {
		var marks quantity.Marks
		var orders quantity.Orders
		for _, cells := range t.Sample {
			if p.cols[side] >= len(cells) || strings.TrimSpace(cells[p.cols[side]]) == "" {
				continue
			}
			cell := cells[p.cols[side]]
			filled[side]++
			marks.Learn(cell)
			p.answers[side].Learn(cell)
			orders.Learn(cell)
			if _, ok := quantity.Plain(strings.TrimSpace(cell)); ok {
				numbers[side]++
			} else if strings.ContainsAny(cell, "-./") && quantity.ReadDate(cell, quantity.DateForm{Year: r.Year}.In(quantity.DayFirst)).Is == quantity.Value ||
				quantity.ReadDate(cell, quantity.DateForm{Year: r.Year}.In(quantity.MonthFirst)).Is == quantity.Value {
				dates[side]++
			}
		}
		p.numbers[side], p.dates[side] = marks.Form(), orders.Form(r.Year)
	}
	nearly := func(some [2]int) bool { // what nobody knows is compared as what it is in both files
		return filled[0] > 0 && filled[1] > 0 && 10*some[0] >= 9*filled[0] && 10*some[1] >= 9*filled[1]
	}
	if p.field == catalogue.Unknown && nearly(numbers) {
		p.kind = catalogue.NumberKind
	} else if p.field == catalogue.Unknown && nearly(dates) {
		p.kind = catalogue.DateKind
	}
	return p
}

// norm returns a cell of one of the files in a form in which it can be compared with the other.
func (p *pair) norm(cell string, side int) string {
	cell = strings.TrimSpace(cell)
	if cell == "" {
		return ""
	}
	switch {
	case p.kind.Numeric():
		if read := quantity.ReadPrice(cell, p.numbers[side]); read.Is == quantity.Value {
			return read.Number.Plain()
		}
	case p.kind == catalogue.DateKind:
		if m := quantity.ReadDate(cell, p.dates[side]); m.Is == quantity.Value {
			return strconv.Itoa(m.Year*10000+m.Month*100+m.Day) + " " + strconv.Itoa(m.Hour*60+m.Min)
		}
	case p.kind == catalogue.YesNoKind:
		if says := p.answers[side].Read(cell); says != quantity.Neither {
			return strconv.Itoa(int(says))
		}
	case p.kind == catalogue.CodeKind && p.field == catalogue.Barcode:
		return strings.TrimLeft(cell, "0")
	case p.kind == catalogue.ListKind: // in whatever order
		values := p.values(cell)
		slices.Sort(values)
		return strings.Join(values, "\n")
	}
	return strings.ReplaceAll(cell, "\r\n", "\n")
}

// values returns the values of a cell.
func (p *pair) values(cell string) []string {
	if p.kind != catalogue.ListKind {
		return []string{strings.TrimSpace(cell)}
	}
	at, _ := text.FindList(text.TagMarks, cell)
	return at.Values(cell)
}

// hash32 returns a hash of a value, 0 for a blank one.
func hash32(value string) uint32 {
	if value == "" {
		return 0
	}
	return max(1, uint32(xxhash.Sum64String(value)))
}

// float returns a number that norm has written, 0 if it is none.
func float(value string) float64 {
	f, _ := strconv.ParseFloat(value, 64)
	return f
}

// A table finds rows by hashes. It takes twelve bytes for each, and half as much again.
type table struct {
	hashes []uint64
	rows   []int32
}

// newTable makes one of the hashes of rows; those of 0 are left out, and of several rows with one hash the first is found.
func newTable(hashes []uint64, skip func(row int) bool) table {
	size := 16
	for 2*size < 3*len(hashes) {
		size *= 2
	}
	t := table{make([]uint64, size), make([]int32, size)}
	for row, hash := range hashes {
		if hash == 0 || skip(row) {
			continue
		}
		at := t.at(hash)
		if t.hashes[at] == 0 {
			t.hashes[at], t.rows[at] = hash, int32(row)
		}
	}
	return t
}

func (t *table) at(hash uint64) int {
	mask := uint64(len(t.hashes) - 1)
	for at := (hash * 0x9e3779b97f4a7c15) >> 20 & mask; ; at = (at + 1) & mask {
		if t.hashes[at] == 0 || t.hashes[at] == hash {
			return int(at)
		}
	}
}

// find returns the row of a hash, -1 if there is none.
func (t *table) find(hash uint64) int {
	if at := t.at(hash); hash != 0 && t.hashes[at] == hash {
		return int(t.rows[at])
	}
	return -1
}

func byCells(a, b Count) int {
	return cmp.Or(b.Cells-a.Cells, strings.Compare(a.Column+a.What, b.Column+b.What))
}

func itoa(n int) string { return strconv.Itoa(n) }
