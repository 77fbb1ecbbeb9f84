package steps

import (
	"zetanum/core/barcode"
	"zetanum/core/catalogue"
	"zetanum/core/line"
	"zetanum/core/reference"
	"zetanum/core/register"
	"zetanum/core/text"
)

// A Memory remembers which barcodes earlier files had.
type Memory interface {
	// Recall returns what is remembered of keys; see [register.Register.Recall].
	Recall(keys []uint64, but uint64) ([]register.Seen, error)
	// Whose says whose codes those of rows are that name no supplier.
	Whose() string
}

// remembers knows by what the barcode of a row is remembered.
type remembers struct {
	Memory          // nil if there is none
	supplier, sku   int
	title, barcodes int // barcodes is the first such column: the others have codes of something else
}

func newRemembers(c *catalogue.Columns, memory Memory) remembers {
	return remembers{memory, c.First(catalogue.Supplier), c.First(catalogue.SKU), c.First(catalogue.Title), c.First(catalogue.Barcode)}
}

// source returns whose codes those of a row are.
func (m *remembers) source(row *catalogue.Row) string {
	if from := row.Cell(m.supplier); from != "" {
		return from
	}
	return m.Whose()
}

// key returns the number under which the code in a column of a row is remembered, 0 if none is.
func (m *remembers) key(row *catalogue.Row, col int) uint64 {
	if m.Memory == nil || col != m.barcodes {
		return 0
	}
	return reference.MemoryKey(m.source(row), row.Cell(m.sku))
}

// memo returns what is to be remembered of a code in a column of a row; its Key is 0 if nothing is.
func (m *remembers) memo(row *catalogue.Row, col int, code barcode.Code) (memo line.Memo) {
	if again, err := barcode.FromNumber(code.Number(), code.Len()); err != nil || again != code {
		return memo // a UPC-E, an ISSN, or none
	}
	if memo.Key = m.key(row, col); memo.Key != 0 {
		memo.Number, memo.Digits = code.Number(), code.Len()
		memo.Texts = [3]string{m.source(row), text.Typed(row.Cell(m.sku)), row.Cell(m.title)}
	}
	return memo
}
