package steps

import (
	"encoding/binary"
	"fmt"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/line"
	"zetanum/core/quantity"
	"zetanum/core/spread"
)

// ShopNumber returns what the shop has of a field for an SKU, as it is written there; "" if it has nothing.
type ShopNumber func(sku string, f catalogue.Field) string

// roles are the numbers that are looked at beside their neighbours.
var roles = [...]struct {
	field catalogue.Field
	role  spread.Role
}{
	{catalogue.Cost, spread.Cost}, {catalogue.FloorPrice, spread.Floor}, {catalogue.SalePrice, spread.Sale}, {catalogue.Price, spread.Price},
	{catalogue.ListPrice, spread.List}, {catalogue.WholesalePrice, spread.Wholesale}, {catalogue.Weight, spread.Weight}, {catalogue.Stock, spread.Stock},
}

// NumberFields are the fields of numbers that are held against those of the shop.
func NumberFields() (fields []catalogue.Field) {
	for _, r := range roles {
		fields = append(fields, r.field)
	}
	return fields
}

// neighbours are the numbers of a sheet beside one another.
type neighbours struct {
	columns  []spread.Column
	cols     []int // of the sheet, one for each; those of the shop have that of which they are
	fields   []catalogue.Field
	category int
	sku      int
	shop     ShopNumber

	// What the survey has shown.
	verdict  spread.Verdict
	decimals []int8 // how many decimals nearly all numbers of a column have; -1 if nothing is usual
}

// newNeighbours returns what is to be looked at; its columns are only those of the sheet itself.
func newNeighbours(c *catalogue.Columns, shop ShopNumber) *neighbours {
	n := &neighbours{category: c.First(catalogue.Category), sku: c.First(catalogue.SKU), shop: shop}
	if n.category < 0 {
		n.category = c.First(catalogue.Type)
	}
	for _, r := range roles {
		if col := c.First(r.field); col >= 0 && col < c.Own() && (r.role != spread.Stock || shop != nil) { // a stock has no neighbours
			n.columns, n.cols, n.fields = append(n.columns, spread.Column{Role: r.role, Of: -1}), append(n.cols, col), append(n.fields, r.field)
		}
	}
	if own := len(n.columns); shop != nil && n.sku >= 0 {
		for of := range own {
			n.columns, n.cols, n.fields = append(n.columns, spread.Column{Role: n.columns[of].Role, Of: of}), append(n.cols, n.cols[of]), append(n.fields, n.fields[of])
		}
	}
	return n
}

// isPrice reports whether a column is one of prices of the sheet.
func (n *neighbours) isPrice(c int) bool {
	return n.columns[c].Of < 0 && n.columns[c].Role != spread.Weight && n.columns[c].Role != spread.Stock
}

// placeOf returns the place of a column of prices of the sheet, -1 if it is not looked at.
func (n *neighbours) placeOf(col int) int {
	for c := range n.columns {
		if n.isPrice(c) && n.cols[c] == col {
			return c
		}
	}
	return -1
}

// learns are the columns of which the survey sees the cells.
func (n *neighbours) learns(own int) (set catalogue.ColumnSet) {
	for _, col := range append(slices.Clone(n.cols), n.category, n.sku) {
		if col >= 0 && col < own {
			set.Add(col)
		}
	}
	return set
}

// numbersSeen is what the survey sees of them: an ordered monoid.
type numbersSeen struct {
	of       *neighbours
	table    *spread.Table
	levels   []spread.Level
	marks    []quantity.Marks // of what is no price of the sheet, of which the marks are learned anyway
	decimals [][maxDecimals + 1]int
	units    int // weights with a unit, and without one
	bare     int
	names    map[uint64]string // of categories, by their hashes: as many as are told apart
	said     []rune            // the marks before decimals, once all has been seen
	last     string            // the category that was seen last, with its hash
	lastHash uint64
}

// maxDecimals is how many decimals are told apart.
const maxDecimals = 4

func newNumbersSeen(of *neighbours) *numbersSeen {
	return &numbersSeen{of, spread.New(of.columns), make([]spread.Level, len(of.columns)), make([]quantity.Marks, len(of.columns)),
		make([][maxDecimals + 1]int, len(of.columns)), 0, 0, make(map[uint64]string), nil, "", 0}
}

// categoryOf returns the hash of the category of a product, 0 for none.
func (s *numbersSeen) categoryOf(p *catalogue.Product) uint64 {
	for _, row := range p.Rows {
		if cell := strings.TrimSpace(row.Cell(s.of.category)); cell != "" {
			if cell == s.last {
				return s.lastHash
			}
			hash := xxhash.Sum64String(cell)
			s.last, s.lastHash = cell, hash
			if _, known := s.names[hash]; !known {
				s.names[hash] = strings.Clone(catalogue.Shorten(cell, mostName))
				s.fewest(2 * spread.MostCategories)
			}
			return hash
		}
	}
	return 0
}

// mostName is how many characters of the name of a category are kept.
const mostName = 40

// fewest drops the names of categories that are not told apart, where there are more than so many.
func (s *numbersSeen) fewest(most int) {
	if len(s.names) <= most {
		return
	}
	for _, hash := range slices.Sorted(maps.Keys(s.names))[spread.MostCategories:] {
		delete(s.names, hash)
	}
}

// learn takes in a row, of which the prices have been taken in.
func (s *numbersSeen) learn(row *catalogue.Row, category uint64) {
	for n, column := range s.of.columns {
		switch {
		case column.Of >= 0:
			s.number(n, s.of.shop(row.Cell(s.of.sku), s.of.fields[n]))
		case column.Role == spread.Weight:
			s.levels[n] = s.weight(n, row.Cell(s.of.cols[n]))
		case column.Role == spread.Stock:
			s.number(n, row.Cell(s.of.cols[n]))
		}
	}
	s.table.Add(row.Number, category, s.levels)
}

// number takes in a number that is no price of the sheet.
func (s *numbersSeen) number(n int, cell string) {
	if s.levels[n] = spread.None; cell != "" {
		p, open := s.marks[n].Learn(cell)
		s.price(n, p, open)
	}
}

// price takes in what a cell says.
func (s *numbersSeen) price(n int, p quantity.Price, open rune) {
	switch p.Is {
	case quantity.Value:
		s.decimals[n][min(p.Number.Decimals(), maxDecimals)]++
		s.levels[n] = spread.LevelOf(p.Number.Scaled())
	case quantity.Asked:
		s.levels[n] = spread.LevelOf(p.Number.Scaled()).Open(open)
	case quantity.Blank, quantity.Dash:
		s.levels[n] = spread.None
	default:
		s.levels[n] = spread.Unread
	}
}

// weight returns the level of a weight, in milligrams if it has a unit.
func (s *numbersSeen) weight(n int, cell string) spread.Level {
	if cell == "" {
		return spread.None
	}
	if p, open := s.marks[n].Learn(cell); p.Is == quantity.Value || p.Is == quantity.Asked {
		s.bare++
		s.price(n, p, open)
		return s.levels[n]
	}
	a := quantity.ReadAmounts(cell, quantity.Form{})
	switch {
	case a.Is == quantity.Blank || a.Is == quantity.Dash:
		return spread.None
	case a.Is != quantity.Value || a.Count != 1 || a.Of[0].Den != 0:
		return spread.Unread
	}
	size, dimension := quantity.Size(a.Of[0].Unit)
	level := spread.LevelOf(a.Of[0].Number.Scaled())
	if dimension != "weight" || !level.Is() {
		return spread.Unread
	}
	s.units++
	return level + spread.LevelOf(size.Scaled())
}

func (s *numbersSeen) merge(with *numbersSeen) {
	s.table.Merge(with.table)
	for n := range s.marks {
		s.marks[n].Merge(with.marks[n])
		for d := range s.decimals[n] {
			s.decimals[n][d] += with.decimals[n][d]
		}
	}
	s.units, s.bare = s.units+with.units, s.bare+with.bare
	maps.Copy(s.names, with.names)
	s.fewest(2 * spread.MostCategories)
}

func (s *numbersSeen) appendBinary(b []byte) []byte {
	b = s.table.AppendBinary(b)
	for n, m := range s.marks {
		b = m.AppendTo(b)
		for _, count := range s.decimals[n] {
			b = binary.AppendUvarint(b, uint64(count))
		}
	}
	return binary.AppendUvarint(binary.AppendUvarint(b, uint64(s.units)), uint64(s.bare))
}

// tell judges the table. forms say how the prices of the sheet are written, by column.
func (s *numbersSeen) tell(forms []quantity.Form) {
	n := s.of
	decimals := make([]rune, len(n.columns))
	n.decimals = make([]int8, len(n.columns))
	for c := range n.columns {
		if decimals[c] = s.marks[c].Form().Decimal; n.isPrice(c) {
			decimals[c] = forms[n.cols[c]].Decimal
		}
		if n.decimals[c] = -1; n.columns[c].Role == spread.Weight && s.units > 0 && s.bare > 0 {
			decimals[c] = spread.Leave // of those without a unit nobody knows what they are
		}
		all := 0
		for _, count := range s.decimals[c] {
			all += count
		}
		for d, count := range s.decimals[c] {
			if 10*count >= 8*all && all > 0 {
				n.decimals[c] = int8(d)
			}
		}
	}
	n.verdict, s.said = s.table.Judge(decimals), decimals
}

// exchange takes the stretches out of the verdict whose cells are exchanged, and tells the sheet of them. Where two columns are not written
// in the same way nothing is.
func (s *numbersSeen) exchange(sheet *Sheet) {
	n := s.of
	n.verdict.Swaps = slices.DeleteFunc(n.verdict.Swaps, func(one spread.Swap) bool {
		cols := [2]int{n.cols[one.Lower], n.cols[one.Upper]}
		a, b := s.said[one.Lower], s.said[one.Upper]
		if !sheet.Exchanges[cols] || a != b && a != 0 && b != 0 {
			return false
		}
		sheet.Swapped = append(sheet.Swapped, Swapped{Cols: cols, First: one.First, Last: one.Last})
		return true
	})
}

// A PriceGroup is the prices of a category.
type PriceGroup struct {
	Name string
	spread.Group
	Odd []spread.Odd
}

// PriceGroups returns the prices by category that a survey has seen, of so many categories that have most of them, and the heading of their
// column; nothing if there are none.
func PriceGroups(learned []line.Aggregate, headings []string, most int) (heading string, groups []PriceGroup) {
	for _, aggregate := range learned {
		money, is := aggregate.(*moneySeen)
		if !is {
			continue
		}
		s := money.beside
		at := slices.IndexFunc(s.of.columns, func(c spread.Column) bool { return c.Role == spread.Price && c.Of < 0 })
		if at < 0 || s.said == nil {
			return "", nil
		}
		for _, g := range s.table.Groups(s.said, at, most) {
			one := PriceGroup{Name: s.names[g.Category], Group: g}
			for _, o := range s.of.verdict.Odd {
				if o.Column == at && o.Category == g.Category {
					one.Odd = append(one.Odd, o)
				}
			}
			groups = append(groups, one)
		}
		return headings[s.of.cols[at]], groups
	}
	return "", nil
}

// look notes what the neighbours of the numbers of a row say.
func (n *neighbours) look(row *catalogue.Row, title string, headings []string, note noting) {
	at, _ := slices.BinarySearchFunc(n.verdict.Odd, row.Number, func(o spread.Odd, number int) int { return o.Row - number })
	for ; at < len(n.verdict.Odd) && n.verdict.Odd[at].Row == row.Number; at++ {
		if o := n.verdict.Odd[at]; n.stands(&o, row) && n.means(&o, row, title) {
			code := catalogue.PriceOdd
			if n.columns[o.Column].Role == spread.Weight {
				code = catalogue.MeasureOdd
			}
			note(code, n.cols[o.Column], n.says(&o, headings))
		}
	}
	for _, s := range n.verdict.Swaps {
		if s.First == row.Number {
			upper := n.cols[s.Upper]
			note(catalogue.PriceSwapped, n.cols[s.Lower], catalogue.Facts{Row: s.Last, Length: s.Rows, Other: headings[upper], Proposed: row.Cell(upper)})
		}
	}
	for _, s := range n.verdict.Shifts {
		if s.First == row.Number {
			how := "a row too high"
			switch {
			case s.By < -1:
				how = strconv.Itoa(-s.By) + " rows too low"
			case s.By < 0:
				how = "a row too low"
			case s.By > 1:
				how = strconv.Itoa(s.By) + " rows too high"
			}
			for _, col := range s.Columns {
				by := "what their categories and the other columns have"
				if s.Shop {
					by = "what the shop has"
				}
				note(catalogue.ColumnShifted, n.cols[col], catalogue.Facts{Row: s.Last, Length: s.Shown, Other: how, Decides: "It is " + by + " that shows it."})
			}
		}
	}
}

// within reports whether a cell stands in a stretch that is told of as a whole: in a swapped one also what stands between the two.
func (n *neighbours) within(row int, cols ...int) bool {
	for _, s := range n.verdict.Swaps {
		between := func(col int) bool {
			c := slices.Index(n.cols, col)
			return c >= 0 && n.columns[s.Lower].Role <= n.columns[c].Role && n.columns[c].Role <= n.columns[s.Upper].Role
		}
		if row >= s.First && row <= s.Last && between(cols[0]) && between(cols[1]) {
			return true
		}
	}
	for _, s := range n.verdict.Shifts {
		if row >= s.First && row <= s.Last && slices.ContainsFunc(s.Columns, func(c int) bool { return slices.Contains(cols, n.cols[c]) }) {
			return true
		}
	}
	return false
}

// stands reports whether an odd number is still there, and no rule has put another in its place.
func (n *neighbours) stands(o *spread.Odd, row *catalogue.Row) bool {
	if n.columns[o.Column].Role == spread.Weight {
		return true
	}
	const other = 50 // hundredths of a decade; a tax is less
	p := quantity.ReadPrice(row.Cell(n.cols[o.Column]), quantity.Form{})
	level := spread.LevelOf(p.Number.Scaled())
	return p.Is != quantity.Value || max(level-o.Level, o.Level-level) < other
}

// means reports whether an odd number is worth a word: where only its category says that it is one, the title may say why, and one that is
// only ten times the others has to be written in another way than they are.
func (n *neighbours) means(o *spread.Odd, row *catalogue.Row, title string) bool {
	if o.By >= 0 {
		return true
	}
	if saysHowMany(title, o.Tens) {
		return false
	}
	if o.Tens != 1 && o.Tens != -1 {
		return true
	}
	number, plain := quantity.Plain(row.Cell(n.cols[o.Column]))
	return plain && n.decimals[o.Column] > 0 && number.Decimals() != int(n.decimals[o.Column])
}

// saysHowMany reports whether a title has a number about so many tens large: 100 screws cost more than one.
func saysHowMany(title string, tens int) bool {
	for at := 0; at < len(title); {
		from := strings.IndexFunc(title[at:], func(r rune) bool { return r >= '0' && r <= '9' })
		if from < 0 {
			return false
		}
		from += at
		for at = from; at < len(title) && (title[at] >= '0' && title[at] <= '9' || at > from && (title[at] == '.' || title[at] == ',')); at++ {
		}
		digits := strings.Map(func(r rune) rune {
			if r == '.' || r == ',' {
				return -1
			}
			return r
		}, title[from:at])
		if number, ok := quantity.Plain(digits); ok {
			if level := spread.LevelOf(number.Scaled()); level.Is() && max(level-spread.Level(100*max(tens, -tens)), spread.Level(100*max(tens, -tens))-level) <= 40 {
				return true
			}
		}
	}
	return false
}

// says returns why a number is odd.
func (n *neighbours) says(o *spread.Odd, headings []string) (f catalogue.Facts) {
	times := map[int]string{1: "ten times", 2: "a hundred times", 3: "a thousand times", -1: "a tenth of", -2: "a hundredth of", -3: "a thousandth of"}[o.Tens]
	verb, weight := "cost", n.columns[o.Column].Role == spread.Weight
	switch {
	case weight:
		verb, f.Decides = "weigh", "Perhaps it is in another unit."
	case o.Tens < 0:
		f.Decides = "Perhaps the mark before its decimals stands too far to the left."
	default:
		f.Decides = "Perhaps the mark before its decimals was lost."
	}
	others := catalogue.Thousands(uint64(o.Against))
	switch {
	case o.By < 0:
		f.Other = fmt.Sprintf("%s what the other %s of its category %s, about %s", times, others, verb, about(o.Usual))
	case n.columns[o.By].Of >= 0:
		f.Other = times + " what the shop has"
	default:
		f.Other = fmt.Sprintf("%s what goes with “%s”: in %s other rows it is about %s times as much", times, catalogue.Shorten(headings[n.cols[o.By]], 20), others, about(o.Usual))
	}
	return f
}

// about returns a level as a number of two digits.
func about(l spread.Level) string {
	v := math.Pow(10, float64(l)/100)
	if v >= 100 {
		unit := math.Pow(10, math.Floor(math.Log10(v))-1)
		return strconv.FormatFloat(math.Round(v/unit)*unit, 'f', 0, 64)
	}
	return strconv.FormatFloat(v, 'g', 2, 64)
}
