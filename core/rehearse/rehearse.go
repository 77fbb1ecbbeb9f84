// Package rehearse plays an import through without the shop: which rows of a file would make products, which would change some and in what,
// which would be refused and why, and what the shop has besides. It goes by two files, what is to be imported and what the shop has now, and by
// the words of a template.
package rehearse

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/distinct"
	"zetanum/core/present"
	"zetanum/core/sheet"
	"zetanum/core/target"
	"zetanum/core/template"
	"zetanum/core/text"
)

// Options say what is rehearsed.
type Options struct {
	Ready   string             // what is to be imported
	Present string             // what the shop has now; "" if that is not known
	Form    *template.Template // by whose words rows are taken and refused; nil if there is none
	Groups  [][]string         // of columns that may be left out of it, each as a whole
	Key     string             // a field or heading by which the importer knows products; "" for the usual one
	Blank   Blank
	Empty   string        // what stands in a cell that is to be emptied; "" if the importer has no word for that
	Moves   float64       // the share by which a price may become more or less: 0.3; 0 for half and double
	Rows    int           // the most that a file may have; 0: as the form says; below 0 for no limit
	Bytes   int64         // likewise; 0 for no limit
	Cut     target.Limits // of each file of the way back
	Reading sheet.Reading // how the file is read that is to be imported
	Temp    string        // a folder for what is needed for a while
	Dir     string        // where lists are written; "" if they are not
	Year    int           // of the run
}

// Blank says what the importer makes of an empty cell where the shop has something.
type Blank string

// What it can make of it.
const (
	BlankUnknown Blank = "unknown"
	BlankKeeps   Blank = "keeps"
	BlankClears  Blank = "clears"
)

// ErrNoKey says that nothing tells which product of the shop a row is.
var ErrNoKey = errors.New("nothing tells which product of the shop a row is")

// mostExamples is how many examples are kept of each thing.
const mostExamples = 10

// An Example is a cell, or a row as a whole.
type Example struct {
	Row    int    `json:"row,omitempty"` // in the file, 0 for a row of the shop's
	Key    string `json:"key,omitempty"`
	Before string `json:"before,omitempty"` // what the shop has
	After  string `json:"after,omitempty"`
}

// A Count is how often something was found in a column.
type Count struct {
	Column   string    `json:"column,omitempty"`
	What     string    `json:"what,omitempty"`
	Cells    int       `json:"cells"`
	Examples []Example `json:"examples,omitempty"`
}

func (c *Count) add(of func() Example) {
	if c.Cells++; len(c.Examples) < mostExamples {
		c.Examples = append(c.Examples, of())
	}
}

// A Report says what the import would do.
type Report struct {
	Rows    int    `json:"rows"`
	Key     string `json:"key,omitempty"`     // the heading by which products are known
	ShopKey string `json:"shopKey,omitempty"` // and that of the shop's file
	Shop    int    `json:"shop,omitempty"`    // rows that the shop has

	Form      string `json:"form,omitempty"` // why the file as a whole is refused
	Created   int    `json:"created"`
	Updated   int    `json:"updated"`
	Unchanged int    `json:"unchanged"`
	Refused   int    `json:"refused"`
	Keyless   int    `json:"keyless,omitempty"` // rows without a key, such as those of further images
	Left      int    `json:"left,omitempty"`    // rows of the shop that are not in the file

	Refusals []Count  `json:"refusals,omitempty"`  // by column and reason
	Changes  []Count  `json:"changes,omitempty"`   // by column, the most first
	Blanks   []Count  `json:"blanks,omitempty"`    // cells that are empty in the file and filled in the shop, by column
	Moved    Count    `json:"moved"`               // barcodes that go from one product to another
	Twins    Count    `json:"twins"`               // new products whose barcode the shop has under another key
	Prices   Count    `json:"prices"`              // prices that become less than half or more than twice of what they are, or change by more than was said
	Titles   Count    `json:"titles"`              // titles that change, where an importer knows products by what it makes of their titles
	Halves   Count    `json:"halves"`              // rows of the shop that the file does not have, of products that it has
	NoWay    int      `json:"noWayBack,omitempty"` // cells that the way back cannot empty again
	Unfit    int      `json:"byHand,omitempty"`    // cells of the shop that the form does not take, so that the way back leaves them
	Unseen   []Count  `json:"unseen,omitempty"`    // values that the shop does not have so far, by column
	News     Count    `json:"news"`                // examples of products that are made
	Unpaired []string `json:"unpaired,omitempty"`  // columns of the file that the shop's file does not have

	Lists []string `json:"lists,omitempty"` // files that were written
}

// emptying is the sum of a cell that empties what the shop has: no other is so small ([present.SumOf]).
const emptying = 1

// What rows are.
const (
	refused = 1 << iota
	matched
	updated
	keyless
)

// rehearsal is one that is going on.
type rehearsal struct {
	Options
	report *Report
	ready  *sheet.Table
	shop   *sheet.Table
	pairs  []pair
	key    [2]int // the columns of keys
	title  [2]int
	code   [2]int // those of barcodes, -1 if one has none
	price  int    // which pair has the price, -1 if none

	cleared *list // cells of the shop that the file would empty

	state  []uint8
	keys   []uint64
	codes  []uint64
	hashes chunked // by row and pair
	prices []float64
	slugs  distinct.Keys // of products of the file
	once   distinct.Keys // the keys of the rows above
	named  []uint32      // what importers make of the titles, by row; nil if products are known by something else
	byKey  distinct.Keys
	byCode distinct.Keys

	refusals map[template.Refusal]*Count
	order    []template.Refusal
	unseen   []map[string]*Count // by pair
	wanted   map[int][]wantedCell
	shopRows []uint64 // a bit for each row of the shop that would change
	foreign  []foreignCode
}

// A pair is a column of both files, with what changes in it.
type pair struct {
	present.Pair
	change Count
	blank  Count
}

// A wantedCell is an example whose new value is still to be read.
type wantedCell struct {
	count *Count
	at    int // the example
	col   int
}

// A foreignCode is a barcode that the shop has at another product.
type foreignCode struct {
	row  int32
	keys [2]string // of the shop's product, and the code
}

// Run plays an import through.
func Run(opt Options) (*Report, error) {
	r := &rehearsal{Options: opt, report: new(Report), refusals: make(map[template.Refusal]*Count), wanted: make(map[int][]wantedCell)}
	var form *sheet.FormRows
	if opt.Form != nil {
		form = opt.Form.FormRows()
	}
	var err error
	if r.ready, err = sheet.Open(opt.Ready, sheet.Options{Reading: opt.Reading, Spool: opt.Temp, AnyHeadings: true, Form: form}); err != nil {
		return nil, err
	}
	if opt.Form != nil && !r.ready.InForm {
		if r.Form = opt.Form.WithoutUnused(opt.Groups, r.ready.Columns.Headings); r.Form != opt.Form {
			if err := r.ready.Close(); err != nil {
				return nil, err
			}
			if r.ready, err = sheet.Open(opt.Ready, sheet.Options{Reading: opt.Reading, Spool: opt.Temp, AnyHeadings: true, Form: r.Form.FormRows()}); err != nil {
				return nil, err
			}
		}
	}
	defer r.ready.Close()
	if opt.Present != "" {
		if r.shop, err = sheet.Open(opt.Present, sheet.Options{Spool: opt.Temp, AnyHeadings: true}); err != nil {
			return nil, err
		}
		defer r.shop.Close()
	}
	if err := r.pair(); err != nil {
		return nil, err
	}
	for _, do := range []func() error{r.read, r.compare, r.count, r.finish} {
		if err := do(); err != nil {
			return nil, err
		}
	}
	return r.report, nil
}

// pair finds out which columns of the two files are the same.
func (r *rehearsal) pair() error {
	var err error
	if r.report.Form, err = r.isForm(); err != nil {
		return err
	}
	own := &r.ready.Columns
	r.key, r.title, r.code, r.price = [2]int{-1, -1}, [2]int{-1, -1}, [2]int{-1, -1}, -1
	if r.shop != nil {
		form := r.Form
		if !r.ready.InForm {
			form = nil
		}
		sides := [2]present.Side{{Columns: own, Sample: r.ready.Sample}, {Columns: &r.shop.Columns, Sample: r.shop.Sample}}
		for col, other := range present.PairColumns(sides, form) {
			if other >= 0 {
				r.pairs = append(r.pairs, pair{Pair: present.NewPair(sides, [2]int{col, other}, r.Year),
					change: Count{Column: own.Headings[col]}, blank: Count{Column: own.Headings[col]}})
			} else if strings.TrimSpace(own.Headings[col]) != "" {
				r.report.Unpaired = append(r.report.Unpaired, own.Headings[col])
			}
		}
	}
	place := func(f catalogue.Field) [2]int { // of a field, in either file
		for i := range r.pairs {
			if r.pairs[i].Field == f {
				return r.pairs[i].Cols
			}
		}
		return [2]int{own.First(f), -1}
	}
	r.title, r.code = place(catalogue.Title), place(catalogue.Barcode)
	r.price = slices.IndexFunc(r.pairs, func(p pair) bool { return p.Field == catalogue.Price })
	return r.chooseKey(place)
}

// chooseKey says by which columns products are known.
func (r *rehearsal) chooseKey(place func(catalogue.Field) [2]int) error {
	own := &r.ready.Columns
	if r.Key != "" {
		cols := columns.FindAll(own, r.Key)
		if len(cols) == 0 {
			return columns.NotThere(own, "the setting ‹key›", r.Key)
		}
		r.key[0] = cols[0]
		for _, p := range r.pairs {
			if p.Cols[0] == cols[0] {
				r.key[1] = p.Cols[1]
			}
		}
	} else {
		for _, f := range []catalogue.Field{catalogue.SKU, catalogue.Slug, catalogue.Barcode} {
			if at := place(f); at[0] >= 0 && (at[1] >= 0 || r.shop == nil) {
				r.key = at
				break
			}
		}
		if r.key[0] < 0 && r.Form != nil && r.ready.InForm {
			r.key[0] = r.Form.NewJudge(-1).Key()
			for _, p := range r.pairs {
				if p.Cols[0] == r.key[0] {
					r.key[1] = p.Cols[1]
				}
			}
		}
	}
	if r.shop != nil && (r.key[0] < 0 || r.key[1] < 0) {
		return fmt.Errorf("%s and %s: %w: they have no column of SKUs, slugs or barcodes in common. Name the column with the setting ‹key›; the headings are: %s, and %s",
			r.ready.Name, r.shop.Name, ErrNoKey, strings.Join(own.Headings, ", "), strings.Join(r.shop.Columns.Headings, ", "))
	}
	if r.key[0] >= 0 {
		r.report.Key = own.Headings[r.key[0]]
	}
	if r.key[1] >= 0 {
		r.report.ShopKey = r.shop.Columns.Headings[r.key[1]]
	}
	return nil
}

// keyOf returns the key of a row of one of the files.
func (r *rehearsal) keyOf(row *catalogue.Row, side int) string {
	return strings.TrimSpace(row.Cell(r.key[side]))
}

// A reading is what is found in some rows of what is to be imported.
type reading struct {
	keys, codes, slugs []uint64
	sums, named        []uint32
	prices             []float64
	wrong              [][]template.Refusal // by row; nil if nothing is
	values             []map[string]*Count  // by pair
}

// read reads what is to be imported: takes rows or refuses them, and notes what is in them.
func (r *rehearsal) read() error {
	var judge, once *template.Judge // of cells, which all workers use, and of keys
	if r.Form != nil && r.ready.InForm {
		judge = r.Form.NewJudge(r.key[0])
	}
	slugs := r.ready.Columns.First(catalogue.Slug)
	byTitle := slugs < 0 && r.title[0] >= 0 && r.title[1] >= 0
	reset := func() {
		if judge != nil {
			once = r.Form.NewJudge(r.key[0])
		}
		r.report.Rows, r.state, r.keys, r.codes, r.prices, r.named = 0, nil, nil, nil, nil, nil
		r.slugs, r.once, r.order = distinct.Keys{}, distinct.Keys{}, nil
		r.hashes = chunked{width: len(r.pairs)}
		clear(r.refusals)
		r.unseen = make([]map[string]*Count, len(r.pairs))
	}
	work := func(rows []catalogue.Row) *reading {
		made := &reading{sums: make([]uint32, 0, len(rows)*len(r.pairs)), values: make([]map[string]*Count, len(r.pairs))}
		for i := range rows {
			row := &rows[i]
			key := r.keyOf(row, 0)
			made.keys = append(made.keys, distinct.KeyOf(key))
			code := uint64(0)
			if cell := strings.TrimSpace(row.Cell(r.code[0])); cell != "" && r.code[1] >= 0 {
				code = distinct.KeyOf(strings.TrimLeft(cell, "0"))
			}
			made.codes = append(made.codes, code)
			slug := uint64(0)
			if cell := strings.TrimSpace(row.Cell(slugs)); cell != "" {
				slug = distinct.KeyOf(cell)
			}
			made.slugs = append(made.slugs, slug)
			if byTitle {
				made.named = append(made.named, present.SumOf(text.Slug(row.Cell(r.title[0]))))
			}
			var wrong []template.Refusal
			if judge != nil {
				wrong = judge.Cells(row.Cells)
			}
			if r.Empty != "" && wrong != nil { // the word is taken wherever something may be emptied
				wrong = slices.DeleteFunc(wrong, func(w template.Refusal) bool {
					return strings.TrimSpace(row.Cell(w.Column)) == r.Empty && r.Form.Columns[w.Column].Need != template.Required
				})
				if len(wrong) == 0 {
					wrong = nil
				}
			}
			if wrong != nil && made.wrong == nil {
				made.wrong = make([][]template.Refusal, len(rows))
			}
			if wrong != nil {
				made.wrong[i] = wrong
			}
			for n := range r.pairs {
				p := &r.pairs[n]
				cell := row.Cell(p.Cols[0])
				sum := p.Sum(cell, present.Ours)
				if r.Empty != "" && strings.TrimSpace(cell) == r.Empty {
					sum = emptying
				}
				made.sums = append(made.sums, sum)
				if n == r.price {
					made.prices = append(made.prices, float(p.Norm(cell, present.Ours)))
				}
				if p.Listed && sum > emptying && wrong == nil {
					r.note(made.values, n, row, key)
				}
			}
		}
		return made
	}
	err := inBatches(r.ready, reset, work, func(rows []catalogue.Row, made *reading) {
		for i := range rows {
			row := &rows[i]
			key := r.keyOf(row, 0)
			r.report.Rows++
			var state uint8
			if key == "" {
				state |= keyless
			}
			if made.wrong != nil {
				for _, w := range made.wrong[i] {
					state |= refused
					r.refuse(row.Number, row.Cell(w.Column), key, w)
				}
			}
			if judge != nil {
				if again, is := once.Again(row.Cells); is {
					state |= refused
					r.refuse(row.Number, row.Cell(again.Column), key, again)
				}
			} else if key != "" && r.once.Add(made.keys[i], 0) >= 0 {
				state |= refused
				r.refuse(row.Number, "", key, template.Refusal{Column: r.key[0], Reason: template.ReasonTwice, Says: "stands in an earlier row, too"})
			}
			r.state = append(r.state, state)
			if made.slugs[i] != 0 && state&refused == 0 {
				r.slugs.Add(made.slugs[i], 0)
			}
		}
		r.keys, r.codes = append(r.keys, made.keys...), append(r.codes, made.codes...)
		r.prices, r.named = append(r.prices, made.prices...), append(r.named, made.named...)
		r.hashes.add(made.sums)
		r.noted(made.values)
	})
	if err != nil {
		return err
	}
	r.once = distinct.Keys{}
	r.tooLarge()
	for i := range r.state {
		if r.report.Form != "" {
			r.state[i] |= refused
		}
		switch {
		case r.state[i]&refused != 0:
			r.report.Refused++
		case r.state[i]&keyless != 0:
			r.report.Keyless++
		}
	}
	return nil
}

// refuse notes why a row is refused; number is 0 if it is the shop that has it twice.
func (r *rehearsal) refuse(number int, cell, key string, w template.Refusal) {
	of := template.Refusal{Column: w.Column, Reason: w.Reason}
	if r.refusals[of] == nil {
		heading := ""
		if w.Column >= 0 && w.Column < len(r.ready.Columns.Headings) {
			heading = r.ready.Columns.Headings[w.Column]
		}
		r.refusals[of] = &Count{Column: heading, What: string(w.Reason)}
		r.order = append(r.order, of)
	}
	r.refusals[of].add(func() Example {
		return Example{Row: number, Key: strings.Clone(key), After: strings.TrimSpace(catalogue.Shorten(cell, 60) + " " + w.Says)}
	})
}

// mostUnseen is how many different values of a column are told apart.
const mostUnseen = 20_000

// note notes a value that the shop may not have.
func (r *rehearsal) note(values []map[string]*Count, n int, row *catalogue.Row, key string) {
	p := &r.pairs[n]
	for _, value := range p.Values(row.Cell(p.Cols[0])) {
		c := values[n][value]
		if c == nil {
			if values[n] == nil {
				values[n] = make(map[string]*Count)
			}
			c = new(Count)
			values[n][value] = c
		}
		c.add(func() Example { return Example{Row: row.Number, Key: key} })
	}
}

// noted takes down the values of some rows.
func (r *rehearsal) noted(values []map[string]*Count) {
	for n, found := range values {
		if found != nil && r.unseen[n] == nil {
			r.unseen[n] = make(map[string]*Count)
		}
		for value, more := range found {
			c := r.unseen[n][value]
			if c == nil {
				if len(r.unseen[n]) == mostUnseen {
					continue
				}
				value = strings.Clone(value)
				c = &Count{Column: r.ready.Columns.Headings[r.pairs[n].Cols[0]], What: value}
				r.unseen[n][value] = c
			}
			c.Cells += more.Cells
			for _, e := range more.Examples[:min(len(more.Examples), mostExamples-len(c.Examples))] {
				e.Key = strings.Clone(e.Key)
				c.Examples = append(c.Examples, e)
			}
		}
	}
}
