package steps

import (
	"encoding/binary"
	"strings"
	"unicode/utf8"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/barcode"
	"zetanum/core/catalogue"
	"zetanum/core/line"
	"zetanum/core/reference"
	"zetanum/core/rescue"
	"zetanum/core/sheet"
	"zetanum/core/text"
)

// SKUs is the step that looks at SKUs and part numbers: no two products may
// share an SKU, and one that a spreadsheet program made a number, a date or a
// yes of is lost, unless a second source has it for the same product. Without
// one it writes nothing: every character of an SKU counts.
//
// It comes before the step of the barcodes, which are looked up by SKU, and
// uses a barcode only where that stands whole in the source.
func SKUs(of *Sheet) line.Step {
	s := newSKUs(of.Table, of.Codes)
	s.texts, s.ordered = of.Texts, of.Ordered
	reads, learns, writes := of.of(catalogue.SKU, catalogue.MPN), catalogue.ColumnsOf(s.columns...), catalogue.ColumnSet{}
	reads.AddAll(of.Codes.tongue())
	if of.Codes.Source != nil {
		looked := catalogue.ColumnsOf(s.barcode)
		if s.words != nil {
			looked.Add(s.words.Columns()...)
		}
		reads.AddAll(looked)
		learns.AddAll(looked)
		writes.Add(s.columns...)
	}
	return line.Step{
		Name:  NameSKUs,
		Reads: reads, Writes: writes, Learns: learns, Before: judging,
		Rules: []catalogue.Rule{catalogue.RuleTrustedSKU},
		Learn: func() line.Aggregate { return &skuAggregate{skus: s} },
		New: func(learned line.Aggregate) (line.Repairer, error) {
			if len(s.columns) == 0 && len(s.parts) == 0 {
				return nil, nil
			}
			return &skuRepairer{s, learned.(*skuAggregate).judge()}, nil
		},
		Keys: func(p *catalogue.Product, add func(int, uint64)) {
			for i, row := range p.Rows {
				s.keys(row, func(key uint64) { add(i, key) })
			}
		},
	}
}

type skus struct {
	*Codes
	table   *sheet.Table
	texts   *Texts
	columns []int               // of SKUs, the first of them the product's own
	ordered catalogue.ColumnSet // into which rules write yet, see [Written]
	parts   []int               // of part numbers
	barcode int
	words   *reference.Words // nil if no second source has any
}

func newSKUs(table *sheet.Table, codes *Codes) *skus {
	columns := &table.Columns
	s := &skus{
		Codes: codes, table: table,
		columns: columns.All(catalogue.SKU), parts: columns.All(catalogue.MPN),
		barcode: columns.First(catalogue.Barcode),
	}
	if codes.Source != nil && codes.Source.Knows(0) {
		s.words = reference.NewWords(columns)
	}
	return s
}

func (s *skus) keys(row *catalogue.Row, add func(uint64)) {
	some := false
	for i, col := range s.columns {
		sku := row.Cell(col)
		if sku == "" {
			continue
		}
		some = true
		add(xxhash.Sum64String(sku))
		if original, _ := s.original(row, i); original != "" {
			add(xxhash.Sum64String(original))
		}
	}
	if !some && !row.Blank() {
		add(s.essence(row))
	}
}

// original returns the SKU that a second source has for the product, if the one
// in the row can have come of it.
func (s *skus) original(row *catalogue.Row, i int) (sku string, where reference.Answer) {
	if s.Source == nil || i > 0 {
		return "", where
	}
	own := row.Cell(s.columns[i])
	if code, err := barcode.Parse(row.Cell(s.barcode)); err == nil {
		sku, where = s.Source.SKU(code, 0)
	}
	if sku == "" && s.words != nil {
		sku, where = s.Source.SKU(barcode.Code{}, s.words.Of(row))
	}
	if sku == own || !rescue.Spoilt(own, sku) {
		return "", where
	}
	return sku, where
}

// essence returns a number that no rule changes: a hash of the ASCII letters and digits
// of all cells but barcodes, and of the digits alone where there are other letters.
// Rows that are equal when they have been repaired have the same.
func (s *skus) essence(row *catalogue.Row) uint64 {
	columns := &s.table.Columns
	var b []byte
	for col, cell := range row.Cells {
		if col < len(columns.Fields) && columns.Fields[col] == catalogue.Barcode {
			continue
		}
		if !inOrder(cell) && col < len(columns.Fields) {
			cell, _, _ = s.texts.order(cell, columns.Kind(col), "", true)
			if _, single, _ := text.MixedWord(cell); single != "" {
				cell = single
			}
		}
		ascii := s.texts.Fitter == nil && strings.IndexFunc(cell, func(r rune) bool { return r >= utf8.RuneSelf }) < 0
		for i := range len(cell) {
			if c := cell[i]; c >= '0' && c <= '9' || ascii && c|0x20 >= 'a' && c|0x20 <= 'z' {
				b = append(b, c)
			}
		}
	}
	return xxhash.Sum64(b)
}

// skuAggregate counts what SKUs look like.
type skuAggregate struct {
	*skus
	Cells    uint64     // that are not empty
	Digits   [24]uint64 // of digits only, by length
	Zeros    uint64     // of digits only, that begin with a zero
	Replaced uint64     // that read like something a spreadsheet program puts
}

func (l *skuAggregate) Learn(p *catalogue.Product) {
	if len(l.columns) == 0 {
		return
	}
	for _, row := range p.Rows {
		sku := row.Cell(l.columns[0])
		switch {
		case sku == "":
			continue
		case !row.Has(l.columns[0], catalogue.NoDigit):
			l.Digits[min(len(sku), len(l.Digits)-1)]++
			if sku[0] == '0' {
				l.Zeros++
			}
		case printed(sku) != "":
			l.Replaced++
		}
		l.Cells++
	}
}

func (l *skuAggregate) Merge(next line.Aggregate) {
	n := next.(*skuAggregate)
	l.Cells += n.Cells
	l.Zeros += n.Zeros
	l.Replaced += n.Replaced
	for i := range l.Digits {
		l.Digits[i] += n.Digits[i]
	}
}

func (l *skuAggregate) AppendBinary(b []byte) ([]byte, error) {
	for _, n := range append([]uint64{l.Cells, l.Zeros, l.Replaced}, l.Digits[:]...) {
		b = binary.AppendUvarint(b, n)
	}
	return b, nil
}

// A skuJudge says what the SKUs of a sheet usually look like.
type skuJudge struct {
	length int  // of nearly all, which are digits; 0 if there is no such length
	dates  bool // all read like dates: they are the supplier's own
}

func (l *skuAggregate) judge() (j skuJudge) {
	for length, n := range l.Digits {
		// One in ten may be shorter: of numbers that are given out at random one
		// in ten begins with a zero.
		if n >= 20 && n*20 >= l.Cells*17 && l.Zeros == 0 {
			j.length = length
		}
	}
	j.dates = l.Replaced == l.Cells
	return j
}

// printed is like [rescue.Replacement], but only for what a program prints, not
// for what people type as an SKU: MAR-2 and TRUE-1 are SKUs, 2-Mar is a date.
func printed(sku string) string {
	what := rescue.Replacement(sku)
	if what == rescue.Date && strings.ToUpper(sku) == sku && strings.ToLower(sku) != sku {
		return ""
	}
	return what
}

type skuRepairer struct {
	*skus
	skuJudge
}

func (s *skuRepairer) Repair(p *catalogue.Product, log *line.Log) {
	for i, row := range p.Rows {
		if log.IsAside(i) {
			continue
		}
		for n, col := range s.columns {
			s.sku(row, i, n, col, p.Role(i), log)
		}
		for _, col := range s.parts {
			s.spelling(row, col, log)
		}
	}
}

func (s *skuRepairer) sku(row *catalogue.Row, i, n, col int, role catalogue.Role, log *line.Log) {
	sku := row.Cell(col)
	if strings.TrimSpace(sku) == "" {
		if role&catalogue.Variant != 0 && n == 0 && !s.ordered.Has(col) {
			log.Notice(catalogue.SKUMissing, row, col, sku, catalogue.Facts{})
		}
		return
	}
	if original, where := s.original(row, n); original != "" {
		log.Set(row, col, original, catalogue.RuleTrustedSKU, catalogue.Backed, where.Where())
		sku = original
	} else {
		s.spelling(row, col, log)
	}
	if log.Judging() && !s.ordered.Has(col) {
		log.Claim(ClaimSKU, s.Mine(xxhash.Sum64String(sku), i, log), i, col)
	}
}

// spelling looks whether a program made something else of what was typed.
func (s *skuRepairer) spelling(row *catalogue.Row, col int, log *line.Log) {
	cell := row.Cell(col)
	switch r, scientific := ScientificSKU(cell); {
	case scientific:
		log.Notice(catalogue.SKUScientific, row, col, cell, catalogue.Facts{Other: barcode.Pad(r.N, r.Length)})
	case len(cell) >= 4 && !s.dates && row.Has(col, catalogue.NoDigit):
		if what := printed(cell); what != "" {
			log.Notice(catalogue.SKUReplaced, row, col, cell, catalogue.Facts{Other: what})
		}
	case s.length > len(cell) && col == s.table.Columns.First(catalogue.SKU) && cell != "" && !row.Has(col, catalogue.NoDigit):
		log.Notice(catalogue.SKUShort, row, col, cell, catalogue.Facts{Digits: len(cell), Length: s.length})
	}
}

// ScientificSKU recognises 1.20E+05: an exponent with a plus sign and two
// digits is the way programs print numbers, not the way people write SKUs.
func ScientificSKU(sku string) (rescue.Reading, bool) {
	if len(sku) < 5 || sku[len(sku)-4:len(sku)-2] != "E+" {
		return rescue.Reading{}, false
	}
	r := rescue.Read(sku, false)
	return r, r.Form == rescue.Scientific
}
