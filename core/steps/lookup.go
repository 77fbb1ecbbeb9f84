package steps

import (
	"encoding/binary"
	"maps"
	"slices"

	"zetanum/core/barcode"
	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/line"
	"zetanum/core/reference"
	"zetanum/core/rescue"
	"zetanum/core/sheet"
)

// lookup knows where in a row the things stand that a barcode is judged with.
type lookup struct {
	*Codes
	remembers
	table            *sheet.Table
	col, second      int
	price, salePrice int
	words            *reference.Words // nil if there is no second source
	list             []int            // the columns of the lists before the barcode
	others           []int            // the other barcode columns
	fill             []filling
	heading          string
	decisions        catalogue.Decisions // on this column
	first            bool                // the first barcode column: only here a missing code is a finding
}

func newLookup(table *sheet.Table, col int, codes *Codes) *lookup {
	in := &table.Columns
	l := &lookup{
		Codes: codes, remembers: newRemembers(in, codes.Memory), table: table, col: col, second: -1,
		price: in.First(catalogue.Price), salePrice: in.First(catalogue.SalePrice),
		first: col == in.First(catalogue.Barcode),
	}
	if codes.Source != nil && codes.Source.Knows(0) {
		l.words = reference.NewWords(in)
	}
	l.list = KnownBy(in)
	for _, c := range in.All(catalogue.Barcode) {
		if c != col {
			l.others = append(l.others, c)
		}
	}
	for c, h := range in.Headings {
		if c == col {
			l.heading, l.decisions = h, codes.Decisions.In(h)
			continue
		}
		if codes.Rules.Second != "" && columns.Same(h, codes.Rules.Second) {
			l.second = c
		}
		for name, form := range codes.Rules.Fill {
			if kind, ok := barcode.ParseKind(form); ok && columns.Same(h, name) {
				l.fill = append(l.fill, filling{c, kind})
			}
		}
	}
	return l
}

// decided returns what a person has said to a finding about the code of a row.
func (l *lookup) decided(finding catalogue.Code, row *catalogue.Row) (catalogue.Decision, bool) {
	if len(l.decisions) == 0 || finding == catalogue.NoFinding {
		return catalogue.Decision{}, false
	}
	return l.decisions.For(finding, l.heading, row.Cell(l.sku), row.Cells[l.col])
}

// KnownBy returns the columns of the sheet itself by which somebody who is asked about a
// product knows it: SKU, title and options.
func KnownBy(c *catalogue.Columns) (cols []int) {
	for _, f := range []catalogue.Field{catalogue.SKU, catalogue.Title, catalogue.Colour, catalogue.Size, catalogue.Material} {
		if col := c.First(f); col >= 0 && col < c.Own() {
			cols = append(cols, col)
		}
	}
	return cols
}

func (l *lookup) read(row *catalogue.Row) rescue.Reading {
	return rescue.Read(row.Cells[l.col], row.Marks[l.col]&catalogue.Numeric != 0)
}

// wordsOf returns the words of a row, 0 if nobody could know them.
func (l *lookup) wordsOf(row *catalogue.Row) uint64 {
	if l.words == nil {
		return 0
	}
	return l.words.Of(row)
}

func (l *lookup) ask(row *catalogue.Row) reference.Answer {
	if l.Source == nil {
		return reference.Answer{}
	}
	from := row.Cell(l.supplier)
	if from == "" {
		from = l.table.Name
	}
	return l.Source.Look(reference.Key{Source: from, SKU: row.Cell(l.sku), Words: l.wordsOf(row)})
}

// keys gives the numbers that the cell of a row may come out with: those it can
// be read as, and that of a second source.
func (l *lookup) keys(row *catalogue.Row, add func(uint64)) {
	if row.Cells[l.col] == "" && l.Source == nil {
		return
	}
	r := l.read(row)
	r.Keys(l.Rules.AddCheckDigit || len(l.decisions) > 0, add)
	for i := range l.decisions {
		if code, err := barcode.Parse(l.decisions[i].Value); err == nil {
			add(code.Key())
		}
	}
	if r.Form == rescue.TwoCodes && l.second >= 0 {
		for _, c := range rescue.Codes(row.Cells[l.col]) {
			add(c.Key())
		}
	}
	if l.Source == nil {
		return
	}
	if a := l.ask(row); a.State == reference.Found {
		add(a.Code.Key())
	}
}

// scatter makes keys of numbers that lie close together.
func scatter(n uint64) uint64 {
	n *= 0x9e3779b97f4a7c15
	return n ^ n>>29
}

// KeyOf returns the key of rows that may come to have a code.
func KeyOf(code barcode.Code) uint64 { return scatter(code.Key()) }

// codeAggregate is what is learned of one column: its model, how often titles
// that a second source knows occur, and which rows somebody may remember the code of.
type codeAggregate struct {
	rescue.Model
	*lookup
	titles map[uint64]uint64
	asked  []asked
	memory reference.Memory // what was remembered of them
}

// asked is a row whose code is not whole, with the number under which it may be remembered.
type asked struct {
	key uint64
	row int
}

func (l *codeAggregate) Learn(p *catalogue.Product) {
	for _, row := range p.Rows {
		if l.col >= len(row.Cells) {
			continue
		}
		r := l.read(row)
		l.Add(r)
		if l.remembers.Memory != nil && !isWhole(r) {
			if key := l.key(row, l.col); key != 0 {
				l.asked = append(l.asked, asked{key, row.Number})
			}
		}
		if words := l.wordsOf(row); words != 0 && l.Source.Knows(words) {
			if l.titles == nil {
				l.titles = make(map[uint64]uint64)
			}
			l.titles[words]++
		}
	}
}

// isWhole reports whether a reading is a code as it stands.
func isWhole(r rescue.Reading) bool {
	if r.Form != rescue.Plain || r.X {
		return false
	}
	_, err := barcode.FromNumber(r.N, r.Length)
	return err == nil
}

// Place adds the number of the row above.
func (l *codeAggregate) Place(above int) {
	for i := range l.asked {
		l.asked[i].row += above
	}
}

// Inquire asks what is remembered of the rows whose codes are not whole.
func (l *codeAggregate) Inquire(sum uint64, add func(int, uint64)) error {
	if len(l.asked) == 0 {
		return nil
	}
	keys := make([]uint64, 0, len(l.asked))
	for _, a := range l.asked {
		keys = append(keys, a.key)
	}
	list, err := l.Recall(keys, sum)
	if err != nil {
		return err
	}
	l.memory = reference.NewMemory(list)
	for _, a := range l.asked {
		if answer := l.memory.Look(a.key); answer.State == reference.Found {
			add(a.row, KeyOf(answer.Code))
		}
	}
	return nil
}

func (l *codeAggregate) Merge(next line.Aggregate) {
	n := next.(*codeAggregate)
	l.Model.Merge(&n.Model)
	l.asked = append(l.asked, n.asked...)
	if l.titles == nil {
		l.titles = n.titles
		return
	}
	for words, count := range n.titles {
		l.titles[words] += count
	}
}

func (l *codeAggregate) AppendBinary(b []byte) ([]byte, error) {
	b, err := l.Model.AppendBinary(b)
	for _, words := range slices.Sorted(maps.Keys(l.titles)) {
		b = binary.BigEndian.AppendUint64(b, words)
		b = binary.AppendUvarint(b, l.titles[words])
	}
	for _, a := range l.asked {
		b = binary.AppendUvarint(binary.BigEndian.AppendUint64(b, a.key), uint64(a.row))
	}
	return b, err
}

// Model returns what a survey learned of a barcode column, for a look at it.
func Model(aggregate line.Aggregate) (col int, model *rescue.Model, ok bool) {
	l, ok := aggregate.(*codeAggregate)
	if !ok {
		return 0, nil, false
	}
	return l.col, &l.Model, true
}

// A filling is a column that takes the code of another, where it is empty.
type filling struct {
	col  int
	kind barcode.Kind
}
