package reference

import (
	"cmp"
	"slices"
	"strings"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/barcode"
	"zetanum/core/catalogue"
	"zetanum/core/heading"
	"zetanum/core/rescue"
	"zetanum/core/sheet"
	"zetanum/core/text"
)

// A Column is a column of barcodes in memory, with what stands beside each.
type Column struct {
	Name     string // of the file
	Heading  string
	Model    rescue.Model
	Evidence *rescue.Evidence
	Cells    []Cell // that are not empty, in the order of the sheet
	Empty    int
	without  map[uint64]int32 // by a hash of their SKU: the rows of which the cell is empty
	Until    int              // the row with the headings of another table, from which on nothing is read; 0: there is none
}

// A Cell is one cell of a column.
type Cell struct {
	Clean   string // the code, after [Compare]
	Row     int
	Cell    string
	Numeric bool
	SKU     string
	Title   string

	words uint64
}

// mostTitle is how much of a title is kept, in characters.
const mostTitle = 60

// Read returns what is left of a code in the cell.
func (c *Cell) Read() rescue.Reading { return rescue.Read(c.Cell, c.Numeric) }

// ReadColumn reads a column: the one with that heading or, if it is "", the
// first that holds barcodes.
func ReadColumn(path, column string, opt sheet.Options, rules rescue.Rules) (*Column, error) {
	table, err := sheet.Open(path, opt)
	if err != nil {
		return nil, err
	}
	defer table.Close()
	if codeColumn(table, column) < 0 {
		more := cmp.Or(column, "none of barcodes was recognised")
		return nil, &sheet.Error{File: table.Name, Err: sheet.ErrNoColumn, More: more,
			Do: "Name one with the setting ‹column›; the headings are: " + strings.Join(table.Columns.Headings, ", ") + "."}
	}
	c, err := readColumn(table, column)
	if err != nil {
		return nil, err
	}
	c.Evidence = c.Model.Weigh(rules)
	return c, nil
}

func codeColumn(table *sheet.Table, column string) int {
	if column == "" {
		return table.Columns.First(catalogue.Barcode)
	}
	return slices.IndexFunc(table.Columns.Headings, func(h string) bool {
		return h == column || heading.Key(h) == heading.Key(column)
	})
}

func readColumn(table *sheet.Table, column string) (*Column, error) {
	var c *Column
	var code, sku, title int
	var words *Words
	reset := func() {
		code, sku, words = codeColumn(table, column), table.Columns.First(catalogue.SKU), NewWords(&table.Columns)
		title = table.Columns.First(catalogue.Title)
		c = &Column{Name: table.Name, Heading: table.Columns.Headings[code]}
		if table.Sheet != "" && len(table.Others) > 0 {
			c.Name += " (" + table.Sheet + ")"
		}
	}
	reset()
	err := table.EachProduct(reset, func(r *catalogue.Row) {
		cell := Cell{Row: r.Number, Cell: r.Cell(code), Numeric: r.Mark(code)&catalogue.Numeric != 0}
		reading := cell.Read()
		c.Model.Add(reading)
		if reading.Form == rescue.Empty {
			c.Empty++
			if key := text.Typed(r.Cell(sku)); key != "" {
				if c.without == nil {
					c.without = make(map[uint64]int32)
				}
				if _, known := c.without[xxhash.Sum64String(key)]; !known {
					c.without[xxhash.Sum64String(key)] = int32(r.Number)
				}
			}
			return
		}
		// The row is read into the same memory again and again.
		cell.Cell, cell.SKU, cell.words = strings.Clone(cell.Cell), strings.Clone(text.Typed(r.Cell(sku))), words.Of(r)
		cell.Title = strings.Clone(catalogue.Shorten(r.Cell(title), mostTitle))
		c.Cells = append(c.Cells, cell)
	})
	c.Until = table.Until
	return c, err
}

// Answers is what a look-up service's answers come to, set against the codes
// that were sent.
type Answers struct {
	Answered   []Cell // sent and found among the answers
	Unanswered []Cell // sent, and nothing came back
	Unasked    []Cell // came back without having been sent
	Unusable   []Cell // came back damaged, or was sent so
}

// Compare sets answers against the codes of a column. Codes count as equal
// whatever their form; one that is sent twice stands in a list twice, one that is answered twice counts once.
func Compare(sent, answers *Column) *Answers {
	a := new(Answers)
	back := make(map[uint64]bool)
	for _, cell := range answers.Cells {
		if code := answers.code(&cell); code.IsValid() {
			back[code.Key()] = true
		} else {
			a.Unusable = append(a.Unusable, cell)
		}
	}
	asked := make(map[uint64]bool)
	for _, cell := range sent.Cells {
		code := sent.code(&cell)
		cell.Clean = code.String()
		switch {
		case !code.IsValid():
			a.Unusable = append(a.Unusable, cell)
			continue
		case back[code.Key()]:
			a.Answered = append(a.Answered, cell)
		default:
			a.Unanswered = append(a.Unanswered, cell)
		}
		asked[code.Key()] = true
	}
	for _, cell := range answers.Cells {
		if code := answers.code(&cell); code.IsValid() && !asked[code.Key()] {
			cell.Clean = code.String()
			a.Unasked = append(a.Unasked, cell)
			asked[code.Key()] = true
		}
	}
	return a
}

// code returns the code of a cell if it is known for certain.
func (c *Column) code(cell *Cell) (code barcode.Code) {
	if v := c.Evidence.Decide(cell.Read()); v.Whole() {
		return v.Code
	}
	return code
}

// A Hit is a code of a trusted sheet.
type Hit struct {
	Code  barcode.Code
	SKU   string
	Sheet string
	Row   int
}

// Between returns the whole codes of the sheets that lie between two numbers,
// both included, at most so many, and how many there are. [Sheets.Only] is stricter.
func (s Sheets) Between(low, high uint64, most int) (hits []Hit, all int) {
	for _, sheet := range s {
		from, _ := slices.BinarySearchFunc(sheet.codes, low, func(at int32, n uint64) int {
			if sheet.rows[at].code.Key() < n {
				return -1
			}
			return 1
		})
		for _, at := range sheet.codes[from:] {
			row := &sheet.rows[at]
			if row.code.Key() > high {
				break
			}
			if all++; len(hits) < most {
				hits = append(hits, Hit{row.code, row.sku, sheet.Name, int(row.row)})
			}
		}
	}
	return hits, all
}
