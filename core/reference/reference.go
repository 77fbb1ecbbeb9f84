// Package reference reads sheets that are trusted for barcodes, such as a
// stock-take, and looks codes up in them by SKU.
//
// A trusted sheet is not believed blindly: its barcode column is surveyed by
// the same model as any other, and only cells that are right as they stand
// give an answer. Keys are compared exactly.
package reference

import (
	"fmt"
	"strings"

	"zetanum/core/barcode"
	"zetanum/core/catalogue"
	"zetanum/core/rescue"
	"zetanum/core/sheet"
)

// A State says what a look-up found.
type State uint8

// The states.
const (
	NotFound  State = iota
	Found           // one whole code
	Damaged         // the key is there, its code is not whole
	Ambiguous       // different codes for the key, or the code stands at several keys
)

// An Answer is what trusted sheets say about a key.
type Answer struct {
	State State
	Code  barcode.Code

	sheet *Sheet
	entry entry
	other *Answer // that contradicts this one
}

// Where says in words which sheet and row the answer is from, and what it says:
// "stock-take.xlsx, row 12, says 9521234000013".
func (a *Answer) Where() string {
	switch {
	case a.sheet == nil:
		return ""
	case a.entry.other > 0:
		return fmt.Sprintf("%s, rows %d and %d", a.sheet.Name, a.entry.row, a.entry.other)
	case a.entry.shared > 0:
		return fmt.Sprintf("%s has %s in row %d and for another SKU, too", a.sheet.Name, a.entry.cell, a.entry.row)
	case a.other != nil:
		one := *a
		one.other = nil
		return one.Where() + ", but " + a.other.Where()
	}
	return fmt.Sprintf("%s, row %d, says %s", a.sheet.Name, a.entry.row, a.entry.cell)
}

// Sheets are the trusted sheets, in the order in which they were named.
type Sheets []*Sheet

// A Sheet is one trusted sheet in memory.
type Sheet struct {
	Name    string
	Rows    int
	Whole   int // rows with a key and a whole code
	Damaged int // rows with a key and a damaged code
	entries map[string]entry
}

type entry struct {
	code  barcode.Code
	cell  string
	row   int
	other int // another row with the same key and another code

	shared int // a row with the same code and another key
}

// Load reads a trusted sheet. It needs a column of SKUs and one of barcodes.
func Load(path string, opt sheet.Options) (*Sheet, error) {
	table, err := sheet.Open(path, opt)
	if err != nil {
		return nil, err
	}
	defer table.Close()
	key, code := table.Columns.First(catalogue.SKU), table.Columns.First(catalogue.Barcode)
	for _, missing := range []struct {
		col  int
		what string
	}{{key, "SKU"}, {code, "barcode"}} {
		if missing.col < 0 {
			return nil, &sheet.Error{File: table.Name, Err: sheet.ErrHeadings,
				More: "a trusted sheet needs a column of SKUs and one of barcodes; no " + missing.what + " column was recognised",
				Do:   "The headings are: " + strings.Join(table.Columns.Headings, ", ") + "."}
		}
	}
	s := &Sheet{Name: table.Name, entries: make(map[string]entry)}
	if table.Sheet != "" && len(table.Others) > 0 {
		s.Name += " (" + table.Sheet + ")"
	}
	var model rescue.Model
	var rows []row
	err = table.Each(func() {
		model, rows = rescue.Model{}, nil
		key, code = table.Columns.First(catalogue.SKU), table.Columns.First(catalogue.Barcode)
	}, func(r *catalogue.Row) {
		cell, numeric := r.Cell(code), r.Mark(code)&catalogue.Numeric != 0
		model.Add(rescue.Read(cell, numeric))
		rows = append(rows, row{r.Number, strings.Clone(r.Cell(key)), strings.Clone(cell), numeric})
	})
	if err != nil {
		return nil, err
	}
	evidence := model.Weigh()
	for _, r := range rows {
		s.add(r, evidence)
	}
	s.findShared()
	return s, nil
}

// findShared marks the codes that stand at several SKUs: one of them at least
// is wrong, and the sheet does not say which.
func (s *Sheet) findShared() {
	first := make(map[uint64]string, len(s.entries))
	for key, e := range s.entries {
		if !e.code.IsValid() {
			continue
		}
		other, taken := first[e.code.Key()]
		if !taken {
			first[e.code.Key()] = key
			continue
		}
		e.shared = s.entries[other].row
		s.entries[key] = e
		if o := s.entries[other]; o.shared == 0 {
			o.shared = e.row
			s.entries[other] = o
		}
	}
}

type row struct {
	number    int
	key, code string
	numeric   bool
}

func (s *Sheet) add(r row, evidence *rescue.Evidence) {
	s.Rows++
	reading := rescue.Read(r.code, r.numeric)
	if r.key == "" || reading.Form == rescue.Empty {
		return
	}
	e := entry{cell: r.code, row: r.number}
	if v := evidence.Decide(reading); v.Intact() {
		e.code = v.Code
		s.Whole++
	} else {
		s.Damaged++
	}
	first, again := s.entries[r.key]
	switch {
	case !again:
	case first.code == e.code && e.code.IsValid():
		return
	case !e.code.IsValid():
		return // what is damaged contradicts nothing
	case !first.code.IsValid():
	default:
		first.other = e.row
		e = first
	}
	s.entries[r.key] = e
}

// Look asks the sheets for the barcode of an SKU. Sheets that have no whole
// code for it do not contradict one that does; two whole codes that differ make
// the answer ambiguous.
func (s Sheets) Look(sku string) Answer {
	var a Answer
	if sku == "" {
		return a
	}
	for _, sheet := range s {
		e, ok := sheet.entries[sku]
		if !ok {
			continue
		}
		b := Answer{State: Found, Code: e.code, sheet: sheet, entry: e}
		switch {
		case e.other > 0 || e.shared > 0:
			b.State = Ambiguous
			return b
		case !e.code.IsValid():
			b.State = Damaged
		}
		switch {
		case a.State == NotFound || a.State == Damaged && b.State == Found:
			a = b
		case b.State == Damaged:
		case a.Code.Key() != b.Code.Key():
			a.State, a.other = Ambiguous, &b
			return a
		}
	}
	return a
}
