package reference

import (
	"cmp"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/barcode"
	"zetanum/core/catalogue"
	"zetanum/core/rescue"
	"zetanum/core/sheet"
)

// A Sheet is one trusted sheet in memory.
type Sheet struct {
	Name    string
	Earlier bool // an output of an earlier run
	Rows    int
	Whole   int // rows with a key and a whole code
	Damaged int // rows with a key and a damaged code
	bySKU   map[string]entry
	byWords map[uint64]entry
	byCode  map[uint64]entry // by [barcode.Code.Key]
	codes   []Hit            // in the order of their numbers
}

type entry struct {
	code  barcode.Code
	cell  string
	sku   string
	row   int
	other int // another row with the same key and another code

	shared int // a row with the same code and another key
}

// Load reads a trusted sheet. It needs a column of barcodes, and one of SKUs or
// of titles.
func Load(path string, opt sheet.Options) (*Sheet, error) {
	table, err := sheet.Open(path, opt)
	if err != nil {
		return nil, err
	}
	defer table.Close()
	sku, code, title := table.Columns.First(catalogue.SKU), codeColumn(table, ""), table.Columns.First(catalogue.Title)
	if code < 0 || sku < 0 && title < 0 {
		missing := "no barcode column was recognised"
		if code >= 0 {
			missing = "neither of the latter was recognised"
		}
		return nil, &sheet.Error{File: table.Name, Err: sheet.ErrHeadings,
			More: "a trusted sheet needs a column of barcodes, and one of SKUs or of titles; " + missing,
			Do:   "The headings are: " + strings.Join(table.Columns.Headings, ", ") + "."}
	}
	c, err := readColumn(table, "")
	if err != nil {
		return nil, err
	}
	s := &Sheet{Name: c.Name, Rows: len(c.Cells) + c.Empty, bySKU: make(map[string]entry), byWords: make(map[uint64]entry), byCode: make(map[uint64]entry)}
	c.Evidence = c.Model.Weigh(rescue.Rules{})
	for i := range c.Cells {
		s.add(&c.Cells[i], c.Evidence)
	}
	slices.SortFunc(s.codes, func(a, b Hit) int {
		return cmp.Or(cmp.Compare(a.Code.Key(), b.Code.Key()), cmp.Compare(a.Row, b.Row))
	})
	s.findShared()
	return s, nil
}

func (s *Sheet) add(c *Cell, evidence *rescue.Evidence) {
	if c.SKU == "" && c.words == 0 {
		return
	}
	e := entry{cell: c.Cell, sku: c.SKU, row: c.Row}
	if v := evidence.Decide(c.Read()); v.Intact() {
		e.code = v.Code
		s.Whole++
		s.codes = append(s.codes, Hit{v.Code, c.SKU, s.Name, c.Row})
	} else {
		s.Damaged++
	}
	if c.SKU != "" {
		s.bySKU[c.SKU] = e.beside(s.bySKU[c.SKU], false)
	}
	if c.words != 0 {
		s.byWords[c.words] = e.beside(s.byWords[c.words], true)
	}
}

// beside returns what is kept of a key that an earlier row has, too. Rows that
// only their words connect are two products even if they have one code.
func (e entry) beside(first entry, twice bool) entry {
	switch {
	case first.row == 0:
		return e
	case twice:
		first.other = e.row
	case first.code.IsValid() && e.code.IsValid() && first.code.Key() == e.code.Key():
	case !e.code.IsValid(): // what is damaged contradicts nothing
	case !first.code.IsValid():
		return e
	default:
		first.other = e.row
	}
	return first
}

// findShared marks the codes that stand at several keys: one of them at least
// is wrong, and the sheet does not say which.
func (s *Sheet) findShared() {
	share(s.bySKU, func(e entry) { s.byCode[e.code.Key()] = e })
	if len(s.bySKU) == 0 {
		share(s.byWords, func(entry) {})
		return
	}
	for words, e := range s.byWords {
		if e.code.IsValid() && s.byCode[e.code.Key()].shared > 0 {
			e.shared = s.byCode[e.code.Key()].shared
			s.byWords[words] = e
		}
	}
}

// share marks the codes of a map that stand at several of its keys, and gives
// the first row of each code.
func share[K comparable](entries map[K]entry, first func(entry)) {
	owner := make(map[uint64]K, len(entries))
	for key, e := range entries {
		if !e.code.IsValid() {
			continue
		}
		code := e.code.Key()
		o, taken := owner[code]
		if !taken {
			owner[code] = key
			continue
		}
		other := entries[o]
		e.shared = other.row
		if other.shared == 0 {
			other.shared = e.row
		}
		entries[key], entries[o] = e, other
	}
	for _, key := range owner {
		first(entries[key])
	}
}

// Words turns the titles and options of rows into numbers to compare.
type Words struct{ columns []wordColumn }

type wordColumn struct {
	col   int
	field catalogue.Field
}

// options are the fields that tell variants of one title apart.
var options = []catalogue.Field{catalogue.Colour, catalogue.Size, catalogue.Material}

// NewWords looks for the columns of title and options.
func NewWords(columns *catalogue.Columns) *Words {
	w := new(Words)
	for _, f := range append([]catalogue.Field{catalogue.Title}, options...) {
		if col := columns.First(f); col >= 0 {
			w.columns = append(w.columns, wordColumn{col, f})
		}
	}
	return w
}

// Last returns the last column that is looked at, -1 if there is none.
func (w *Words) Last() int {
	last := -1
	for _, c := range w.columns {
		last = max(last, c.col)
	}
	return last
}

// Of returns a number for the title and the options of a row: the same for
// texts that differ only in case, spaces and punctuation, and 0 if there is no
// title. Options that are empty count like such as have no column.
func (w *Words) Of(row *catalogue.Row) uint64 {
	if len(w.columns) == 0 || w.columns[0].field != catalogue.Title || row.Cell(w.columns[0].col) == "" {
		return 0
	}
	var scratch [256]byte
	b := scratch[:0]
	for _, c := range w.columns {
		cell := row.Cell(c.col)
		if cell == "" {
			continue
		}
		b = append(b, byte(c.field))
		for _, r := range cell {
			if unicode.IsLetter(r) || unicode.IsDigit(r) || unicode.Is(unicode.Mn, r) {
				b = utf8.AppendRune(b, unicode.ToLower(r))
			}
		}
	}
	if len(b) < 2 {
		return 0
	}
	return max(1, xxhash.Sum64(b))
}
