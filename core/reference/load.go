package reference

import (
	"cmp"
	"errors"
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

// A Sheet is one trusted sheet in memory: about 250 bytes a row.
type Sheet struct {
	Name     string
	Earlier  bool // an output of an earlier run
	Rows     int
	Whole    int              // rows with a key and a whole code
	Restored int              // those of them whose code was restored, as its own column proves it
	Damaged  int              // rows with a key and a damaged code
	Until    int              // the row with the headings of another table, from which on nothing is read; 0: there is none
	without  map[uint64]int32 // by a hash of their SKU: rows without a code
	path     string
	opt      sheet.Options
	rows     []known
	codes    []int32 // the rows with whole codes, in the order of their numbers
	bySKU    map[string]place
	byWords  map[uint64]place
	byCode   map[uint64]place // by [barcode.Code.Key]
}

// known is what is kept of a row.
type known struct {
	code  barcode.Code
	cell  string // if the code is not whole
	sku   string
	title string
	row   int32
}

// A place is where a key was found. The zero place is none.
type place struct {
	at     int32 // in the rows, from 1
	other  int32 // the number of another row with the same key and another code
	shared int32 // the number of a row with the same code and another key
}

// entry is a row as a key finds it.
type entry struct {
	known
	place
}

func (s *Sheet) entry(p place) entry { return entry{s.rows[p.at-1], p} }

// says returns what stands in the row.
func (e *entry) says() string {
	if e.cell == "" {
		return e.code.String()
	}
	return e.cell
}

// ErrNoCodes says that a sheet cannot be trusted for codes, because it has none, or nothing by which
// one would be found.
var ErrNoCodes = errors.New("this sheet has no codes to trust")

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
		return nil, &sheet.Error{File: table.Name, Err: ErrNoCodes,
			More: "it needs a column of barcodes, and one of SKUs or of titles; " + missing,
			Do:   "The headings are: " + strings.Join(table.Columns.Headings, ", ") + "."}
	}
	c, err := readColumn(table, "")
	if err != nil {
		return nil, err
	}
	s := &Sheet{path: path, opt: opt, Name: c.Name, Until: c.Until, without: c.without, Rows: len(c.Cells) + c.Empty, bySKU: make(map[string]place),
		byWords: make(map[uint64]place), byCode: make(map[uint64]place)}
	evidence := c.Model.Weigh(rescue.Rules{})
	for i := range c.Cells {
		s.add(&c.Cells[i], evidence)
	}
	slices.SortFunc(s.codes, func(a, b int32) int {
		return cmp.Or(cmp.Compare(s.rows[a].code.Key(), s.rows[b].code.Key()), cmp.Compare(a, b))
	})
	s.findShared()
	return s, nil
}

// Path returns where the sheet was read from.
func (s *Sheet) Path() string { return s.path }

func (s *Sheet) add(c *Cell, evidence *rescue.Evidence) {
	if c.SKU == "" && c.words == 0 {
		return
	}
	k := known{sku: c.SKU, title: c.Title, row: int32(c.Row)}
	if v := evidence.Decide(c.Read()); v.Whole() {
		// What its own column proves is as good as what stands there whole.
		k.code = v.Code
		if s.Whole++; !v.Intact() {
			s.Restored++
		}
		s.codes = append(s.codes, int32(len(s.rows)))
	} else {
		k.cell = c.Cell
		s.Damaged++
	}
	s.rows = append(s.rows, k)
	at := place{at: int32(len(s.rows))}
	if c.SKU != "" {
		s.bySKU[c.SKU] = s.beside(s.bySKU[c.SKU], at, false)
	}
	if c.words != 0 {
		s.byWords[c.words] = s.beside(s.byWords[c.words], at, true)
	}
}

// beside returns what is kept of a key that an earlier row has, too. Rows that
// only their words connect are two products even if they have one code.
func (s *Sheet) beside(first, next place, twice bool) place {
	if first.at == 0 {
		return next
	}
	one, two := &s.rows[first.at-1], &s.rows[next.at-1]
	switch {
	case twice:
		first.other = two.row
	case one.code.IsValid() && two.code.IsValid() && one.code.Key() == two.code.Key():
	case !two.code.IsValid(): // what is damaged contradicts nothing
	case !one.code.IsValid():
		return next
	default:
		first.other = two.row
	}
	return first
}

// findShared marks the codes that stand at several keys: one of them at least
// is wrong, and the sheet does not say which.
func (s *Sheet) findShared() {
	if len(s.bySKU) == 0 {
		share(s, s.byWords, s.byCode)
		return
	}
	share(s, s.bySKU, s.byCode)
	for words, p := range s.byWords {
		if code := s.rows[p.at-1].code; code.IsValid() && s.byCode[code.Key()].shared > 0 {
			p.shared = s.byCode[code.Key()].shared
			s.byWords[words] = p
		}
	}
}

// share marks the codes of a map that stand at several of its keys, and enters
// each code in byCode.
func share[K comparable](s *Sheet, places map[K]place, byCode map[uint64]place) {
	owner := make(map[uint64]K, len(places))
	for key, p := range places {
		row := &s.rows[p.at-1]
		if !row.code.IsValid() {
			continue
		}
		code := row.code.Key()
		o, taken := owner[code]
		if !taken {
			owner[code] = key
			continue
		}
		other := places[o]
		p.shared = s.rows[other.at-1].row
		if other.shared == 0 {
			other.shared = row.row
		}
		places[key], places[o] = p, other
	}
	for code, key := range owner {
		byCode[code] = places[key]
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

// Columns returns the columns that are looked at.
func (w *Words) Columns() (cols []int) {
	for _, c := range w.columns {
		cols = append(cols, c.col)
	}
	return cols
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
		for i := 0; i < len(cell); i++ {
			c := cell[i]
			switch {
			case c >= 'A' && c <= 'Z':
				b = append(b, c+'a'-'A')
				continue
			case c >= 'a' && c <= 'z', c >= '0' && c <= '9':
				b = append(b, c)
				continue
			case c < utf8.RuneSelf:
				continue
			}
			r, size := utf8.DecodeRuneInString(cell[i:])
			i += size - 1
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

// between returns the rows whose whole code is not less than low and not greater than high,
// and nobody else's, at most two of them.
func (s *Sheet) between(low, high uint64) (found []place) {
	at, _ := slices.BinarySearchFunc(s.codes, low, func(row int32, low uint64) int { return cmp.Compare(s.rows[row].code.Key(), low) })
	for ; at < len(s.codes) && s.rows[s.codes[at]].code.Key() <= high && len(found) < 2; at++ {
		if p := s.byCode[s.rows[s.codes[at]].code.Key()]; p.at > 0 && p.shared == 0 {
			found = append(found, p)
		}
	}
	return found
}
