// Package present knows what the shop has now, from its export: which of its products a row is, and whether cells say the same as its own.
package present

import (
	"fmt"
	"path/filepath"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/distinct"
	"zetanum/core/sheet"
	"zetanum/core/text"
)

// A Key is a field or heading by which products of the shop are known.
type Key struct {
	Name  string
	Field catalogue.Field
	Col   int // in the export

	rows  distinct.Keys
	twice map[uint64]bool // keys that two products have
}

// OfProduct reports whether all rows of a product have the same key.
func (k *Key) OfProduct() bool { return k.Field == catalogue.Slug }

// norm returns a cell as it is compared.
func (k *Key) norm(cell string) string {
	if cell = strings.TrimSpace(cell); k.Field == catalogue.Barcode {
		return strings.TrimLeft(cell, "0") // of 12 digits, and of 13 with a zero
	}
	return text.Typed(cell)
}

// hash returns a hash of a cell, 0 of a blank one.
func (k *Key) hash(cell string) uint64 {
	if cell = k.norm(cell); cell == "" {
		return 0
	}
	return distinct.KeyOf(cell)
}

// A Catalogue is what the shop has now. It is used by many goroutines at once.
type Catalogue struct {
	Name string
	Rows int
	Keys []Key
	ID   int // the column of its own number for each product; -1 if nobody asks for it

	Columns catalogue.Columns
	Sample  [][]string

	table   *sheet.Table
	read    bool
	pairs   []Pair
	code    int // the column of barcodes, -1 if there is none
	codes   []string
	ids     []byte // one behind the other
	idEnds  []uint32
	first   []int32  // of the product, by row
	numbers []int32  // of the rows in the export
	keyless []uint64 // a bit for each row without a key of its own
	sums    []uint32 // by row and pair
}

// Options say what is read of the shop's export.
type Options struct {
	Sheet sheet.Options
	Known []string // the fields or headings by which products are known, in this order; none: the first of SKU, slug and barcode that both have
	ID    string   // the heading of the shop's own number for each product; "" if nobody asks for it
	Own   *catalogue.Columns
}

// Open opens the shop's export and finds the columns by which products are known. It has to be read before anything is found, and closed.
func Open(path string, opt Options) (*Catalogue, error) {
	opt.Sheet.AnyHeadings = true
	table, err := sheet.Open(path, opt.Sheet)
	if err != nil {
		return nil, err
	}
	c := &Catalogue{Name: filepath.Base(path), Columns: table.Columns, Sample: table.Sample, ID: -1, code: table.Columns.First(catalogue.Barcode), table: table}
	if err := c.known(&opt); err != nil {
		table.Close()
		return nil, err
	}
	return c, nil
}

// Close closes the export.
func (c *Catalogue) Close() error { return c.table.Close() }

// Read reads the export. pairs are the columns that are compared: of what goes to the shop, and of the export.
func (c *Catalogue) Read(pairs []Pair) error {
	if c.read && slices.EqualFunc(pairs, c.pairs, func(a, b Pair) bool { return a == b }) {
		return nil
	}
	c.pairs, c.read = pairs, true
	slug := c.Columns.First(catalogue.Slug)
	var before string // the slug of the row above
	return c.table.EachProduct(func() {
		c.Rows, c.codes, c.ids, c.idEnds, c.first, c.numbers, c.keyless, c.sums, before = 0, nil, nil, nil, nil, nil, nil, nil, ""
		for i := range c.Keys {
			c.Keys[i].rows, c.Keys[i].twice = distinct.Keys{}, make(map[uint64]bool)
		}
	}, func(row *catalogue.Row) {
		if row.Blank() {
			return
		}
		own := false
		for i := range c.Keys {
			own = own || !c.Keys[i].OfProduct() && strings.TrimSpace(row.Cell(c.Keys[i].Col)) != ""
		}
		first, of := int32(c.Rows), strings.TrimSpace(row.Cell(slug))
		switch {
		case c.Rows == 0:
		case slug >= 0 && (of == "" || of == before), slug < 0 && !own:
			first = c.first[c.Rows-1]
		}
		if of != "" && of != before {
			before = strings.Clone(of)
		}
		c.enter(row, first, own)
	})
}

// enter takes a row of the export down.
func (c *Catalogue) enter(row *catalogue.Row, first int32, own bool) {
	c.first, c.numbers = append(c.first, first), append(c.numbers, int32(row.Number))
	if c.Rows%64 == 0 {
		c.keyless = append(c.keyless, 0)
	}
	if !own {
		c.keyless[c.Rows/64] |= 1 << (c.Rows % 64)
	}
	for i := range c.Keys {
		k := &c.Keys[i]
		if hash := k.hash(row.Cell(k.Col)); hash != 0 {
			if other := k.rows.Add(hash, c.Rows); other >= 0 && c.first[other] != first {
				k.twice[hash] = true
			}
		}
	}
	if len(c.Keys) > 1 && c.code >= 0 {
		c.codes = append(c.codes, strings.Clone(strings.TrimSpace(row.Cell(c.code))))
	}
	if c.ID >= 0 {
		c.ids = append(c.ids, strings.TrimSpace(row.Cell(c.ID))...)
		c.idEnds = append(c.idEnds, uint32(len(c.ids)))
	}
	for i := range c.pairs {
		c.sums = append(c.sums, c.pairs[i].Sum(row.Cell(c.pairs[i].Cols[Shops]), Shops))
	}
	c.Rows++
}

// known finds the columns by which products are known.
func (c *Catalogue) known(opt *Options) error {
	if opt.ID != "" {
		found := columns.FindAll(&c.Columns, opt.ID)
		if len(found) == 0 {
			return fmt.Errorf("%s: %w", c.Name, columns.NotThere(&c.Columns, "[shop] id", opt.ID))
		}
		c.ID = found[0]
		if own := columns.FindAll(opt.Own, opt.ID); len(own) > 0 && len(opt.Known) == 0 {
			c.Keys = append(c.Keys, Key{Name: opt.ID, Col: c.ID})
		}
	}
	if len(opt.Known) == 0 {
		for _, f := range []catalogue.Field{catalogue.SKU, catalogue.Slug, catalogue.Barcode} {
			if found := columns.FindAll(&c.Columns, f.String()); len(found) > 0 && len(columns.FindAll(opt.Own, f.String())) > 0 {
				c.Keys = append(c.Keys, Key{Name: f.String(), Field: f, Col: found[0]})
				return nil
			}
		}
		if len(c.Keys) == 0 {
			return columns.Refuse("%s and the file have no column of SKUs, slugs or barcodes in common, so nothing tells which product of the shop a row is; "+
				"[shop] known_by names the column that both have. The headings there are: %s", c.Name, strings.Join(c.Columns.Headings, ", "))
		}
		return nil
	}
	for _, name := range opt.Known {
		f, _ := catalogue.ParseField(name)
		found := columns.FindAll(&c.Columns, name)
		if len(found) == 0 {
			return fmt.Errorf("%s: %w", c.Name, columns.NotThere(&c.Columns, "[shop] known_by", name))
		}
		c.Keys = append(c.Keys, Key{Name: name, Field: f, Col: found[0]})
	}
	return nil
}

// A Found says which product of the shop a row is.
type Found struct {
	Row     int // of the export, from 0; -1 if no key of the row itself is there
	Product int // the first row of its product, -1 if it is not there
	Key     int // by which it was found
	Other   int // another row that another key finds, in another product; -1 if none
	Twice   int // the key that several products of the shop have; -1 if none
	Asked   bool
}

// Find finds a row by what it has for each key, "" for nothing.
func (c *Catalogue) Find(cell func(key int) string) Found {
	f := Found{Row: -1, Product: -1, Key: -1, Other: -1, Twice: -1}
	for i := range c.Keys {
		k := &c.Keys[i]
		hash := k.hash(cell(i))
		if hash == 0 {
			continue
		}
		f.Asked = true
		row := k.rows.Find(hash)
		switch {
		case row < 0:
			continue
		case k.twice[hash] && f.Product >= 0:
			continue // an earlier key has told which it is
		case k.twice[hash]:
			f.Twice = i
		}
		product := int(c.first[row])
		switch {
		case f.Product < 0:
			f.Product, f.Key = product, i
		case f.Product != product || f.Row >= 0 && !k.OfProduct() && row != f.Row:
			if f.Other < 0 {
				f.Other = row
			}
			continue
		}
		if f.Row < 0 && !k.OfProduct() {
			f.Row = row
		}
	}
	return f
}

// FindBy returns the row of the export that has a key, -1 if none has.
func (c *Catalogue) FindBy(key int, cell string) int {
	k := &c.Keys[key]
	return k.rows.Find(k.hash(cell))
}

// Says says of a row that is two products of the shop which they are.
func (c *Catalogue) Says(f Found) string {
	return fmt.Sprintf("By its %s it is row %d of %s, by another key row %d", c.Keys[f.Key].Name, c.RowNumber(max(f.Row, f.Product)), c.Name, c.RowNumber(f.Other))
}

// RowNumber returns the number of a row of the export, as the spreadsheet program shows it.
func (c *Catalogue) RowNumber(row int) int { return int(c.numbers[row]) }

// Number returns the shop's own number for a row of the export, "" if it has none.
func (c *Catalogue) Number(row int) string {
	if row < 0 || c.ID < 0 {
		return ""
	}
	from := uint32(0)
	if row > 0 {
		from = c.idEnds[row-1]
	}
	return string(c.ids[from:c.idEnds[row]])
}

// Code returns the barcode that the shop has in a row of the export, if rows are known by several keys.
func (c *Catalogue) Code(row int) string {
	if row < 0 || row >= len(c.codes) {
		return ""
	}
	return c.codes[row]
}

// Pairs returns the columns that are compared.
func (c *Catalogue) Pairs() []Pair { return c.pairs }

// Sums returns the hashes of the cells of a row of the export, by pair.
func (c *Catalogue) Sums(row int) []uint32 {
	return c.sums[row*len(c.pairs) : (row+1)*len(c.pairs)]
}

// HasLoose reports whether the product of the shop that begins with a row has a row without a key of its own, such as that of a further
// image, whose cells have those hashes.
func (c *Catalogue) HasLoose(product int, sums []uint32) bool {
	for row := product; row < c.Rows && int(c.first[row]) == product; row++ {
		if c.keyless[row/64]&(1<<(row%64)) != 0 && slices.Equal(c.Sums(row), sums) {
			return true
		}
	}
	return false
}
