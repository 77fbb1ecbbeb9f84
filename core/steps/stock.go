package steps

import (
	"encoding/binary"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/line"
	"zetanum/core/quantity"
)

// Stock is the step that looks whether a stock is one, and whether what is said beside it goes with it: that there are any, that they are
// counted, that more may be sold than there are; and which columns of yes and no are filled only in part. It writes nothing. ok is false if
// there is nothing of it.
func Stock(s *Sheet) (step line.Step, ok bool) {
	c := &s.Columns
	k := &stock{headings: c.Headings, stock: c.All(catalogue.Stock), low: c.First(catalogue.LowStock)}
	k.flags = [...]int{c.First(catalogue.InStock), c.First(catalogue.TrackStock), c.First(catalogue.Backorders)}
	var said []int
	for col := range c.Own() {
		if c.Kind(col) == catalogue.YesNoKind || c.Fields[col] == catalogue.Published {
			said = append(said, col)
		}
	}
	if len(k.stock) == 0 && k.low < 0 && said == nil {
		return step, false
	}
	step = line.Step{Name: NameStock, Reads: catalogue.ColumnsOf(append(append(k.flags[:], said...), append(k.stock, k.low)...)...), New: Always(k.repair)}
	step.Learns.Add(said...)
	for _, col := range k.flags {
		if col >= 0 && col < c.Own() {
			step.Learns.Add(col)
		}
	}
	if !step.Learns.Empty() {
		step.Learn = func() line.Aggregate { return &flagsSeen{of: k.flags, said: said, partly: make([]partly, len(said))} }
		step.New = func(learned line.Aggregate) (line.Repairer, error) {
			seen := learned.(*flagsSeen)
			k.answers, k.said, k.partly = seen.answers, said, seen.partly
			return repairFunc(k.repair), nil
		}
	}
	return step, true
}

// The flags beside a stock.
const (
	isInStock = iota
	isTracked
	mayOversell
	numFlags
)

type stock struct {
	headings []string
	stock    []int         // columns
	flags    [numFlags]int // -1 for none
	low      int
	answers  [numFlags]quantity.YesNo
	said     []int // columns of yes and no, and how they are filled
	partly   []partly
}

// partly is how a column is filled.
type partly struct {
	filled, empty int // products
	first         int // the row of the first one that is empty
}

// says returns what a flag of a row says.
func (k *stock) says(flag int, row *catalogue.Row) quantity.Answer {
	col := k.flags[flag]
	if col < 0 || row.Cell(col) == "" {
		return quantity.Nothing
	}
	answer := k.answers[flag].Read(row.Cell(col))
	if answer == quantity.Neither && flag == isInStock {
		answer = quantity.ReadStock(row.Cell(col)).Says // in words
	}
	return answer
}

func (k *stock) repair(p *catalogue.Product, log *line.Log) {
	for i, row := range p.Rows {
		if log.IsAside(i) {
			continue
		}
		note := func(code catalogue.Code, col int, facts catalogue.Facts) {
			log.Notice(code, row, col, row.Cell(col), facts)
		}
		for n, col := range k.said {
			if p := &k.partly[n]; p.first == row.Number && p.filled > 0 && p.empty > 0 && row.Cell(col) == "" && row.Made == 0 {
				note(catalogue.FlagPartly, col, catalogue.Facts{Digits: p.empty, Length: p.empty + p.filled})
			}
		}
		for n, col := range k.stock {
			k.look(row, col, n == 0, note, log)
		}
		if k.low >= 0 {
			k.look(row, k.low, false, note, log)
		}
	}
}

// look looks at one cell; main says that the flags are about it.
func (k *stock) look(row *catalogue.Row, col int, main bool, note noting, log *line.Log) {
	cell := row.Cell(col)
	if cell == "" {
		if main && k.says(isTracked, row) == quantity.Yes && row.Mark(col)&catalogue.Failed == 0 {
			note(catalogue.StockContradicts, col, catalogue.Facts{Other: k.heading(isTracked) + " says that it is counted"})
		}
		return
	}
	if row.Mark(col)&catalogue.Failed != 0 || log.Has(catalogue.CellError, row, col) {
		return
	}
	s := quantity.ReadStock(cell)
	if s.Is == quantity.Value && s.Says == quantity.Neither && len(cell) >= barcodeDigits && isBarcode(strings.TrimSpace(cell)) {
		note(catalogue.StockIsBarcode, col, catalogue.Facts{})
		return
	}
	there := s.Says
	switch {
	case s.Is == quantity.Negative:
		if !main || k.says(mayOversell, row) != quantity.Yes {
			note(catalogue.StockNegative, col, catalogue.Facts{})
		}
		there = quantity.No
	case s.Is == quantity.Blank || s.Is == quantity.Dash:
		return
	case s.Is != quantity.Value:
		note(catalogue.StockNotANumber, col, catalogue.Facts{})
		return
	case there == quantity.Neither:
		if there = quantity.Yes; s.Number.Sign() == 0 && !s.More {
			there = quantity.No
		}
	}
	if !main {
		return
	}
	switch flag := k.says(isInStock, row); {
	case flag == quantity.Yes && there == quantity.No && k.says(mayOversell, row) != quantity.Yes:
		note(catalogue.StockContradicts, col, catalogue.Facts{Other: k.heading(isInStock) + " says that it is in stock"})
	case flag == quantity.No && there == quantity.Yes:
		note(catalogue.StockContradicts, col, catalogue.Facts{Other: k.heading(isInStock) + " says that it is not in stock"})
	}
}

// barcodeDigits is how many digits a number has at least that is a barcode by its check digit.
const barcodeDigits = 8

func (k *stock) heading(flag int) string { return "“" + k.headings[k.flags[flag]] + "”" }

// flagsSeen is what the columns of flags show.
type flagsSeen struct {
	of      [numFlags]int
	answers [numFlags]quantity.YesNo
	said    []int
	partly  []partly
}

// Place says where the part lies.
func (s *flagsSeen) Place(above int) {
	for n := range s.partly {
		if s.partly[n].empty > 0 {
			s.partly[n].first += above
		}
	}
}

func (s *flagsSeen) Learn(p *catalogue.Product) {
	for n, col := range s.said {
		if at := &s.partly[n]; slices.ContainsFunc(p.Rows, func(r *catalogue.Row) bool { return strings.TrimSpace(r.Cell(col)) != "" }) {
			at.filled++
		} else if at.empty++; at.empty == 1 {
			at.first = p.Rows[0].Number
		}
	}
	for _, row := range p.Rows {
		for n, col := range s.of {
			if cell := row.Cell(col); cell != "" {
				s.answers[n].Learn(cell)
			}
		}
	}
}

func (s *flagsSeen) Merge(next line.Aggregate) {
	for n := range s.answers {
		s.answers[n].Merge(next.(*flagsSeen).answers[n])
	}
	for n, with := range next.(*flagsSeen).partly {
		at := &s.partly[n]
		if at.empty == 0 {
			at.first = with.first
		}
		at.filled, at.empty = at.filled+with.filled, at.empty+with.empty
	}
}

func (s *flagsSeen) AppendBinary(b []byte) ([]byte, error) {
	for n := range s.answers {
		b = s.answers[n].AppendTo(b)
	}
	for _, p := range s.partly {
		b = binary.AppendUvarint(binary.AppendUvarint(binary.AppendUvarint(b, uint64(p.filled)), uint64(p.empty)), uint64(p.first))
	}
	return b, nil
}
