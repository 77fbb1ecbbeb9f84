package present

import (
	"slices"
	"strconv"
	"strings"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/quantity"
	"zetanum/core/template"
	"zetanum/core/text"
)

// The two sides of a pair.
const (
	Ours  = 0 // what goes to the shop
	Shops = 1 // what the shop has
)

// A Pair is a column of what goes to the shop and the one of its export that is the same.
type Pair struct {
	Cols    [2]int
	Field   catalogue.Field
	Kind    catalogue.Kind
	Listed  bool // its values are those of a list: categories, brands, options, names of terms
	Numbers [2]quantity.Form

	answers [2]quantity.YesNo
	dates   [2]quantity.DateForm
}

// A Side is one of two files that are compared.
type Side struct {
	Columns *catalogue.Columns
	Sample  [][]string // rows from which is learnt how cells are written
}

// NewPair learns how a column is written on both sides. year is that of the run.
func NewPair(sides [2]Side, cols [2]int, year int) Pair {
	p := Pair{Cols: cols, Field: sides[Ours].Columns.Fields[cols[Ours]]}
	if p.Field == catalogue.Unknown {
		p.Field = sides[Shops].Columns.Fields[cols[Shops]]
	}
	p.Kind = p.Field.Kind()
	switch p.Field {
	case catalogue.Category, catalogue.Brand, catalogue.Type, catalogue.Tags, catalogue.Colour, catalogue.Size, catalogue.Material:
		p.Listed = true
	}
	var numbers, dates, answers, filled [2]int
	for n, side := range sides {
		var marks quantity.Marks
		var orders quantity.Orders
		for _, cells := range side.Sample {
			if cols[n] >= len(cells) || strings.TrimSpace(cells[cols[n]]) == "" {
				continue
			}
			cell := cells[cols[n]]
			filled[n]++
			marks.Learn(cell)
			p.answers[n].Learn(cell)
			orders.Learn(cell)
			if _, ok := quantity.Plain(strings.TrimSpace(cell)); ok {
				numbers[n]++
			} else if strings.ContainsAny(cell, "-./") && quantity.ReadDate(cell, quantity.DateForm{Year: year}.In(quantity.DayFirst)).Is == quantity.Value ||
				quantity.ReadDate(cell, quantity.DateForm{Year: year}.In(quantity.MonthFirst)).Is == quantity.Value {
				dates[n]++
			}
		}
		p.Numbers[n], p.dates[n] = marks.Form(), orders.Form(year)
		for _, cells := range side.Sample { // how a letter is meant the whole column says
			if cols[n] >= len(cells) {
				continue
			}
			if says := p.answers[n].Read(cells[cols[n]]); says == quantity.Yes || says == quantity.No {
				answers[n]++
			}
		}
	}
	nearly := func(some [2]int) bool { // what nobody knows is compared as what it is in both files
		return filled[0] > 0 && filled[1] > 0 && 10*some[0] >= 9*filled[0] && 10*some[1] >= 9*filled[1]
	}
	switch {
	case p.Field != catalogue.Unknown:
	case nearly(numbers):
		p.Kind = catalogue.NumberKind
	case nearly(dates):
		p.Kind = catalogue.DateKind
	case nearly(answers):
		p.Kind = catalogue.YesNoKind
	default:
		p.Listed = fewValues(sides[Shops].Sample, cols[Shops])
	}
	return p
}

// fewValues reports whether a column nobody knows has the same few values again and again, such as the names of terms of delivery.
func fewValues(sample [][]string, col int) bool {
	filled, values := 0, make(map[string]bool)
	for _, cells := range sample {
		if col < len(cells) && strings.TrimSpace(cells[col]) != "" {
			filled++
			values[strings.TrimSpace(cells[col])] = true
		}
	}
	return filled >= 20 && 5*len(values) <= filled
}

// Reading returns how the column is written on one of the sides.
func (p *Pair) Reading(side int) template.Reading {
	return template.Reading{Numbers: p.Numbers[side], Answers: p.answers[side], Dates: p.dates[side]}
}

// Norm returns a cell of one of the sides in a form in which it can be compared with the other.
func (p *Pair) Norm(cell string, side int) string {
	cell = strings.TrimSpace(cell)
	if cell == "" {
		return ""
	}
	switch {
	case p.Kind.Numeric():
		if read := quantity.ReadPrice(cell, p.Numbers[side]); read.Is == quantity.Value {
			return read.Number.Plain()
		}
	case p.Kind == catalogue.DateKind:
		if m := quantity.ReadDate(cell, p.dates[side]); m.Is == quantity.Value {
			return strconv.Itoa(m.Year*10000+m.Month*100+m.Day) + " " + strconv.Itoa(m.Hour*60+m.Min)
		}
	case p.Kind == catalogue.YesNoKind:
		if says := p.answers[side].Read(cell); says != quantity.Neither {
			return strconv.Itoa(int(says))
		}
	case p.Kind == catalogue.CodeKind && p.Field == catalogue.Barcode:
		return strings.TrimLeft(cell, "0")
	case p.Kind == catalogue.ListKind: // in whatever order
		values := p.Values(cell)
		if len(values) == 1 {
			return values[0]
		}
		slices.Sort(values)
		return strings.Join(values, "\n")
	}
	if strings.IndexByte(cell, '\r') < 0 {
		return cell
	}
	return strings.ReplaceAll(cell, "\r\n", "\n")
}

// Values returns the values of a cell.
func (p *Pair) Values(cell string) []string {
	if p.Kind != catalogue.ListKind {
		return []string{strings.TrimSpace(cell)}
	}
	at, _ := text.FindList(text.TagMarks, cell)
	return at.Values(cell)
}

// Sum returns a hash of a cell of one of the sides: 0 of a blank one, the same of cells that say the same.
func (p *Pair) Sum(cell string, side int) uint32 {
	cell = strings.TrimSpace(cell)
	switch {
	case cell == "":
		return 0
	case p.Kind == catalogue.ListKind:
		at, several := text.FindList(text.TagMarks, cell)
		if !several {
			return SumOf(cell)
		}
		sum := uint32(0) // in whatever order they stand
		for rest, more := cell, true; more; {
			var value string
			value, rest, more = strings.Cut(rest, string(at))
			if value = strings.TrimSpace(value); value != "" {
				sum += SumOf(value)
			}
		}
		return max(1, sum)
	case p.Kind == catalogue.AnyKind || p.Kind == catalogue.LineKind || p.Kind == catalogue.HTMLKind || p.Kind == catalogue.LinkKind:
		if strings.IndexByte(cell, '\r') < 0 {
			return SumOf(cell)
		}
	}
	return SumOf(p.Norm(cell, side))
}

// SumOf returns a hash of what [Pair.Norm] returns, 0 for a blank cell.
func SumOf(value string) uint32 {
	if value == "" {
		return 0
	}
	return max(2, uint32(xxhash.Sum64String(value))) // 1 stands for a cell that empties another
}

// PairColumns returns, by the columns of what goes to the shop, the column of its export that is the same, -1 if there is none: by their
// headings, by what they mean, and, with a form in whose columns it goes out, by what would fill that.
func PairColumns(sides [2]Side, form *template.Template) []int {
	own, shop := sides[Ours].Columns, sides[Shops].Columns
	theirs := make([]int, len(own.Headings))
	for i := range theirs {
		theirs[i] = -1
	}
	taken := make(map[int]bool)
	take := func(col, other int) {
		if other >= 0 && !taken[other] && theirs[col] < 0 {
			theirs[col], taken[other] = other, true
		}
	}
	for col, h := range own.Headings {
		take(col, slices.IndexFunc(shop.Headings, func(s string) bool { return columns.Same(s, h) && strings.TrimSpace(h) != "" }))
	}
	for col := range own.Headings {
		if f := own.Fields[col]; f != catalogue.Unknown && len(own.All(f)) == 1 && len(shop.All(f)) == 1 {
			take(col, shop.First(f))
		}
	}
	if form == nil {
		return theirs
	}
	for n, m := range form.Match(template.OffersOf(shop, sides[Shops].Sample)) {
		if m.From >= 0 && !m.Ask && m.Nth == 0 && n < len(theirs) {
			take(n, m.From)
		}
	}
	return theirs
}
