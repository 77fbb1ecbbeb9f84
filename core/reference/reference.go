// Package reference reads sheets that are trusted for barcodes, such as a
// stock-take, and looks codes up in them: by SKU, or by title and options.
//
// A trusted sheet is not believed blindly: its barcode column is surveyed by
// the same model as any other, and only cells that are right as they stand
// give an answer. Keys are compared exactly.
//
// A [Source] is whatever answers such questions, such as [Sheets]. What a register remembers of
// earlier files is a [Memory].
package reference

import (
	"fmt"
	"strings"
	"unicode"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/barcode"
	"zetanum/core/register"
)

// A State says what a look-up found.
type State uint8

// The states.
const (
	NotFound  State = iota
	Found           // one whole code
	Damaged         // the key is there, its code is not whole
	KeyTwice        // the key is there with different codes
	CodeTwice       // the code stands at several keys
	Disagree        // sheets have different codes
)

// A Key is what a product is looked up by.
type Key struct {
	Source string // the supplier or, if nobody says, the name of the file
	SKU    string
	Words  uint64 // [Words] of title and options, 0 if there is no title
}

// A Source has codes by key.
type Source interface {
	// Look asks for the barcode of a product.
	Look(Key) Answer
	// SKU asks for the SKU of the product with that barcode, or else with those
	// words: found only if there is one.
	SKU(code barcode.Code, words uint64) (sku string, where Answer)
	// Only asks for the only code that is not less than low and not greater than high;
	// ok is false if there is none, or more than one.
	Only(low, high uint64) (a Answer, ok bool)
	// Without asks for the sheet in which an SKU stands without a code, and for its row.
	Without(sku string) (name string, row int, ok bool)
	// Knows reports whether there is a product with those words; with 0, whether
	// there are any words.
	Knows(words uint64) bool
	// String names the source.
	String() string
}

// An Answer is what a source says about a key.
type Answer struct {
	State   State
	Code    barcode.Code
	ByTitle bool // by the words, because there is no such SKU

	// Earlier says that the source is an output of an earlier run.
	Earlier bool

	sheet *Sheet
	entry entry
	other *Answer         // that contradicts this one
	seen  []register.Seen // of a [Memory]
}

// Where says in words which sheet and row the answer is from, and what it says:
// "stock-take.xlsx, row 12, says 9521234000013".
func (a *Answer) Where() string {
	switch {
	case len(a.seen) > 0:
		return a.whereSeen()
	case a.sheet == nil:
		return ""
	case a.State == KeyTwice:
		return fmt.Sprintf("%s, rows %d and %d", a.sheet.Name, a.entry.row, a.entry.other)
	case a.State == CodeTwice:
		return fmt.Sprintf("%s has %s in row %d and for another SKU, too", a.sheet.Name, a.entry.says(), a.entry.row)
	case a.other != nil:
		one := *a
		one.other = nil
		return one.Where() + ", but " + a.other.Where()
	}
	return fmt.Sprintf("%s, row %d, says %s", a.sheet.Name, a.entry.row, a.entry.says())
}

// Title returns the title of the product of which the answer is, "" if it is not known.
func (a *Answer) Title() string {
	if len(a.seen) > 0 {
		return a.seen[0].Title
	}
	return a.entry.title
}

// Sheets are the trusted sheets, in the order in which they were named.
type Sheets []*Sheet

// String names the sheets: "stock-take.xlsx and older.csv".
func (s Sheets) String() string {
	var b strings.Builder
	for i, sheet := range s {
		switch {
		case i > 0 && i == len(s)-1:
			b.WriteString(" and ")
		case i > 0:
			b.WriteString(", ")
		}
		b.WriteString(sheet.Name)
	}
	return b.String()
}

// Look asks the sheets for the barcode of a product: by its SKU, and if none has
// that, by its words. Sheets that have no whole code do not contradict one that
// does; two whole codes that differ are a disagreement.
func (s Sheets) Look(key Key) Answer {
	var a Answer
	if key.SKU != "" {
		a = s.ask(func(sheet *Sheet) place { return sheet.bySKU[key.SKU] })
	}
	if a.State == NotFound && key.Words != 0 {
		a = s.ask(func(sheet *Sheet) place { return sheet.byWords[key.Words] })
		a.ByTitle = true
	}
	return a
}

func (s Sheets) ask(find func(*Sheet) place) Answer {
	var a Answer
	for _, sheet := range s {
		p := find(sheet)
		if p.at == 0 {
			continue
		}
		e := sheet.entry(p)
		b := Answer{State: Found, Code: e.code, Earlier: sheet.Earlier, sheet: sheet, entry: e}
		switch {
		case e.other > 0:
			b.State = KeyTwice
			return b
		case e.shared > 0:
			b.State = CodeTwice
			return b
		case !e.code.IsValid():
			b.State = Damaged
		}
		switch {
		case a.State == NotFound || a.State == Damaged && b.State == Found:
			a = b
		case b.State == Damaged:
		case a.Code.Key() != b.Code.Key():
			a.State, a.other = Disagree, &b
			return a
		}
	}
	return a
}

// Without returns the first sheet in which an SKU stands without a code, and its row; ok is false
// if there is none.
func (s Sheets) Without(sku string) (name string, row int, ok bool) {
	for _, sheet := range s {
		if row, there := sheet.without[xxhash.Sum64String(sku)]; there {
			return sheet.Name, int(row), true
		}
	}
	return "", 0, false
}

// Only asks the sheets for the only code that lies between two numbers, both included.
func (s Sheets) Only(low, high uint64) (a Answer, ok bool) {
	for _, sheet := range s {
		for _, p := range sheet.between(low, high) {
			e := sheet.entry(p)
			if a.State == Found && a.Code.Key() != e.code.Key() {
				return Answer{}, false
			}
			a = Answer{State: Found, Code: e.code, Earlier: sheet.Earlier, sheet: sheet, entry: e}
		}
	}
	return a, a.State == Found
}

// SKU asks the sheets for the SKU of a product.
func (s Sheets) SKU(code barcode.Code, words uint64) (sku string, where Answer) {
	for _, sheet := range s {
		var p place
		if code.IsValid() {
			p = sheet.byCode[code.Key()]
		}
		if p.at == 0 && words != 0 {
			p = sheet.byWords[words]
		}
		if p.at == 0 {
			continue
		}
		e := sheet.entry(p)
		switch {
		case e.sku == "" || e.other > 0 || e.shared > 0:
		case sku == "":
			sku, where = e.sku, Answer{State: Found, Code: e.code, Earlier: sheet.Earlier, sheet: sheet, entry: e}
			where.entry.cell = e.sku
		case sku != e.sku:
			return "", Answer{}
		}
	}
	return sku, where
}

// Knows reports whether a sheet has a product with those words, or any.
func (s Sheets) Knows(words uint64) bool {
	for _, sheet := range s {
		if _, ok := sheet.byWords[words]; ok || words == 0 && len(sheet.byWords) > 0 {
			return true
		}
	}
	return false
}

// Agree returns how many different words two titles have in common, and how many the one has
// that has more.
func Agree(one, other string) (common, of int) {
	a, b := titleWords(one), titleWords(other)
	for w := range a {
		if b[w] {
			common++
		}
	}
	return common, max(len(a), len(b))
}

func titleWords(title string) map[string]bool {
	words := make(map[string]bool)
	for w := range strings.FieldsFuncSeq(strings.ToLower(title), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) }) {
		words[w] = true
	}
	return words
}
