package steps

import (
	"strings"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/barcode"
	"zetanum/core/catalogue"
	"zetanum/core/line"
	"zetanum/core/rescue"
	"zetanum/core/sheet"
)

// SKUs is the step that looks at SKUs: no two products may share one, and one
// that was turned into a number in scientific notation is lost. It writes
// nothing: every character of an SKU counts.
func SKUs(table *sheet.Table) line.Step {
	return line.Step{
		Name:  "skus",
		Reads: catalogue.FieldsOf(catalogue.SKU),
		New: func(line.Lore) (line.Repairer, error) {
			col := table.Columns.First(catalogue.SKU)
			if col < 0 {
				return nil, nil
			}
			return skus{col}, nil
		},
		Keys: func(p *catalogue.Product, add func(int, uint64)) {
			col := table.Columns.First(catalogue.SKU)
			for i, row := range p.Rows {
				if sku := row.Cell(col); sku != "" {
					add(i, xxhash.Sum64String(sku))
				} else if !row.Blank() {
					add(i, essence(row, &table.Columns))
				}
			}
		},
	}
}

// essence returns a number that no rule changes: a hash of the ASCII letters
// and digits of all cells but barcodes. Rows that are equal when they have been
// repaired have the same.
func essence(row *catalogue.Row, columns *catalogue.Columns) uint64 {
	var b []byte
	for col, cell := range row.Cells {
		if col < len(columns.Fields) && columns.Fields[col] == catalogue.Barcode {
			continue
		}
		for i := range len(cell) {
			if c := cell[i]; c >= '0' && c <= '9' || c|0x20 >= 'a' && c|0x20 <= 'z' {
				b = append(b, c)
			}
		}
	}
	return xxhash.Sum64(b)
}

type skus struct{ col int }

func (s skus) Repair(p *catalogue.Product, log *line.Log) {
	for i, row := range p.Rows {
		if log.IsAside(i) {
			continue
		}
		sku := row.Cell(s.col)
		if strings.TrimSpace(sku) == "" {
			if i == 0 {
				log.Find(catalogue.SKUMissing, row, s.col, sku, catalogue.Facts{})
			}
			continue
		}
		if log.Judging() {
			log.Claim(line.ClaimSKU, xxhash.Sum64String(sku), i, s.col)
		}
		if r, ok := scientificSKU(sku); ok {
			log.Find(catalogue.SKUScientific, row, s.col, sku, catalogue.Facts{Other: barcode.Pad(r.N, r.Length)})
		}
	}
}

// scientificSKU recognises 1.20E+05: an exponent with a plus sign and two
// digits is the way programs print numbers, not the way people write SKUs.
func scientificSKU(sku string) (rescue.Reading, bool) {
	if len(sku) < 5 || sku[len(sku)-4:len(sku)-2] != "E+" {
		return rescue.Reading{}, false
	}
	r := rescue.Read(sku, false)
	return r, r.Form == rescue.Scientific
}
