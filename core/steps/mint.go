package steps

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/barcode"
	"zetanum/core/catalogue"
	"zetanum/core/condition"
	"zetanum/core/line"
	"zetanum/core/mint"
	"zetanum/core/pattern"
	"zetanum/core/register"
	"zetanum/core/text"
)

// A Minting makes the codes of one rule.
type Minting struct {
	*mint.Rule
	Col        int
	From, Same *pattern.Pattern // bound; Same may be nil
	Key        int              // the column whose cell tells a product apart if it is not empty, -1 for none
	By         []int            // the columns that tell products apart otherwise
	Reads      []int            // those of the patterns
	Avoid      [][]string       // codes of other sheets
	Renew      bool             // codes that are there are replaced
	Number     int              // in the tally
	Renewed    int              // the list of old and new codes, if they are replaced
	Register   Register         // remembers codes that have been issued; nil if nothing does
	Round      int
	InStep     []int // columns that are counted up with a series
	Theirs     []int // columns with the supplier and his code, in place of which codes are made
	Links      int   // the list of which code is which of a supplier, -1 for none

	sheet  *Sheet
	kind   int         // of its allotments
	shape  mint.Shape  // of its codes
	taken  *mint.Taken // of the whole file, once it is known
	kept   []string    // codes that rules or repairs have written
	lost   int         // a row whose barcode is lost, 0 if none is
	issued *namespace
	copied map[int][]bool // see [copies]
	drafts int            // of which the capacity has been worked out
	Did    Minted
}

// A Register remembers codes that have been issued; see [register.Run].
type Register interface {
	Known(products []int64) (map[int]string, error)
	Reached(space string, heads []uint64) (map[uint64]uint64, error)
	Release(space string, folded []uint64) (given int, err error)
	Reserve(space string, heads []uint64, renew bool, issue func(last map[uint64]uint64, taken []uint32) (*register.Block, map[uint64]uint64, error)) error
}

// Minted is what came of a rule.
type Minted struct {
	Rule    string     `json:"rule"` // in words
	Issued  int        `json:"issued"`
	Known   int        `json:"had_before,omitempty"`  // products that got the code which they had been issued before
	Avoided int        `json:"passed_over,omitempty"` // codes that are there already
	Most    uint64     `json:"most"`                  // how many there can be of one draft
	Codes   []string   `json:"first_codes,omitempty"` // in the order in which they were issued
	Scarce  []Scarcity `json:"scarce,omitempty"`      // of which more than half is used
}

// Scarcity says of how many codes most are used.
type Scarcity struct {
	Draft string `json:"of"` // with # for each character that is open
	Used  uint64 `json:"used"`
	Most  uint64 `json:"most"`
}

// ErrCapacity says that a pattern cannot make as many codes as are needed.
var ErrCapacity = errors.New("the pattern cannot make as many codes as are needed")

// namespace has the codes that have been issued in fields whose codes must differ.
type namespace struct {
	codes  []uint64 // hashes
	shared bool     // by several rules
}

// Minting takes down that codes are made.
func (o *Orders) Minting(m *Minting, meant condition.Meant) error {
	m.sheet, m.shape = o.Sheet, mint.SeriesShape(mint.FoldingOf(m.fieldIn(&o.Columns)))
	if m.From != nil {
		m.shape = mint.ShapeOf(m.From, m.shape.Folding)
	}
	m.kind = len(o.Minted)
	o.Minted = append(o.Minted, m)
	one := Order{Key: "mint", Phase: PhaseMint, Reads: m.reads(), Writes: append([]int{m.Col}, m.InStep...),
		Rules: []catalogue.Rule{catalogue.RuleMint}, Do: m.do}
	return o.AddCounted(one, meant, m.Number)
}

// fieldIn returns the field of the codes: those of a prefix are barcodes, whatever their column.
func (m *Minting) fieldIn(c *catalogue.Columns) catalogue.Field {
	if m.CompanyPrefix+m.ShopPrefix != "" {
		return catalogue.Barcode
	}
	return c.Fields[m.Col]
}

func (m *Minting) reads() []int {
	cols := slices.Concat(m.Reads, m.By)
	if m.Key >= 0 {
		cols = append(cols, m.Key)
	}
	return cols
}

// ofProduct reports whether all rows of a product have the code: it says that they are one.
func (m *Minting) ofProduct() bool {
	f := m.sheet.Columns.Fields[m.Col]
	return f == catalogue.ParentSKU || f == catalogue.Slug
}

// wants reports whether a product that shares a code wants one: it has none yet, and a parent only
// where it has several variants.
func (m *Minting) wants(r *RowAt) bool {
	return r.Note(m, func() any {
		variants := 0
		for i, row := range r.Product.Rows {
			if r.Log.IsAside(i) {
				continue
			}
			if row.Cell(m.Col) != "" && !m.Renew {
				return false
			}
			if r.Product.Role(i)&catalogue.Variant != 0 {
				variants++
			}
		}
		return variants > 1 || m.sheet.Columns.Fields[m.Col] != catalogue.ParentSKU
	}).(bool)
}

// asks reports whether a row asks for a code, for itself or its product, and whether it gets one.
func (m *Minting) asks(r *RowAt) (asks, gets bool) {
	if !m.ofProduct() {
		gets = r.Belongs(m.Col)
		return gets, gets
	}
	gets = m.sheet.Columns.Fields[m.Col] == catalogue.Slug || r.Product.Role(r.Index)&catalogue.Variant != 0
	return r.Row == r.Lead, gets
}

// do gives a row its code, or asks for one.
func (m *Minting) do(r *RowAt) bool {
	old := r.Cell(m.Col)
	if r.Dry {
		return false
	}
	if m.Rule.Series {
		return m.next(r)
	}
	wants := !m.ofProduct() || m.wants(r) // before anything is written
	if strings.TrimSpace(old) != "" {
		m.keep(r.Log, r.Row, m.Col, old)
		if !m.Renew {
			return false
		}
	}
	if !wants {
		return false
	}
	asks, gets := m.asks(r)
	if !asks && !gets {
		return false
	}
	code, settled := r.Log.Allotted(m.kind, r.Index, m.ofProduct())
	if settled && code != "" && gets {
		r.Log.Set(r.Row, m.Col, code, catalogue.RuleMint, catalogue.Ordered, "")
		m.remember(r)
		if m.Links >= 0 && !r.Log.Judging() {
			r.Log.Enter(m.Links, r.Index, append([]string{code}, m.theirs(r)...)...)
		}
		if m.Renew && strings.TrimSpace(old) != "" && !r.Log.Judging() {
			r.Log.Enter(m.Renewed, r.Index, fmt.Sprint(r.Number), old, code)
		}
		return true
	}
	if settled {
		return false // it is said why
	}
	draft, missing := m.draft(m.From, r)
	if missing != "" {
		r.Find(catalogue.MintMissing, m.Col, old, catalogue.Facts{Other: missing})
		return false
	}
	if m.sheet.Columns.Fields[m.Col] == catalogue.Barcode && m.From != nil && m.Rule.From != "" {
		if _, err := barcode.Parse(draft); err != nil {
			return false // an SKU that is no barcode
		}
	}
	if asks {
		text := draft
		if m.Same != nil {
			if same, missing := m.draft(m.Same, r); missing == "" {
				text += instead + same
			}
		}
		if m.Theirs != nil {
			text += labelled + strings.TrimSpace(strings.Join(m.theirs(r), " "))
		}
		r.Log.Ask(m.kind, r.Index, m.ofProduct(), m.by(r), text)
	}
	if gets {
		of := r.Row
		if m.ofProduct() {
			of = r.Product.Rows[0]
		}
		r.Log.Provide(r.Row, m.Col, mint.Provisional(pattern.Draft(draft), uint64(of.Number)+uint64(of.Made)<<32))
	}
	return false
}

// remember has a barcode remembered with what the row has in the end, where it is that by which others look for it.
func (m *Minting) remember(r *RowAt) {
	if m.sheet.Codes.Memory == nil || m.shape.Folding != mint.AsItems || r.Log.Judging() {
		return
	}
	by := newRemembers(&m.sheet.Columns, m.sheet.Codes.Memory)
	r.Log.Remember(r.Index, line.Memo{Complete: func(row *catalogue.Row) line.Memo {
		code, _ := barcode.Parse(row.Cell(m.Col))
		return by.memo(row, m.Col, code)
	}})
}

// theirs returns the supplier of a row, if it names one, and his code.
func (m *Minting) theirs(r *RowAt) (cells []string) {
	for _, col := range m.Theirs {
		cells = append(cells, text.Typed(strings.TrimSpace(r.Cell(col))))
	}
	return cells
}

// instead stands between a draft and the one where its code is there already, and labelled between these and what the
// code is known by to the register.
const (
	instead  = "\x04"
	labelled = "\x05"
)

func (m *Minting) draft(p *pattern.Pattern, r *RowAt) (string, string) {
	d, missing := p.Draft(r.View())
	return string(d), missing
}

// keep takes down a code that the file does not have so, and which row has one that is lost.
func (m *Minting) keep(log *line.Log, row *catalogue.Row, col int, code string) {
	if !log.Judging() {
		return
	}
	for i := range log.Changes {
		if c := &log.Changes[i]; c.Row == row.Number && c.Col == col {
			log.Keep(m.kind, code)
			return
		}
	}
	if m.shape.Folding == mint.AsItems && m.Rule.FirstItem == 0 && m.Rule.From == "" {
		if _, err := barcode.Parse(code); err != nil {
			log.Keep(m.kind, instead+fmt.Sprint(row.Number))
		}
	}
}

// by returns what tells a row from all others: how that begins in small letters, so that codes are given
// in its order, and a hash of the whole.
func (m *Minting) by(r *RowAt) (by line.By) {
	view := r.View()
	var whole, begins []byte
	cols := m.By
	if m.Key >= 0 && strings.TrimSpace(view.Cell(m.Key)) != "" {
		cols = []int{m.Key}
	}
	for _, col := range cols {
		cell := strings.TrimSpace(view.Cell(col))
		lower := strings.ToLower(cell)
		whole = append(append(whole, lower...), 0)
		if len(begins) < 2*packedLetters {
			if strings.IndexFunc(lower, func(c rune) bool { return c >= utf8.RuneSelf }) >= 0 {
				lower = strings.ToLower(text.ASCII(cell))
			}
			begins = append(append(begins, lower...), 0)
		}
	}
	if !m.ofProduct() && r.Made > 0 { // one of several that were made of a row
		whole = fmt.Append(whole, r.Made)
	}
	by[0], by[1], by[2] = packed(begins[:min(len(begins), packedLetters)]), packed(begins[min(len(begins), packedLetters):]), xxhash.Sum64(whole)
	return by
}

// packedLetters is how many letters stand in a number.
const packedLetters = 10

// packed returns letters as a number, six bits for each: only their order counts.
func packed(b []byte) (n uint64) {
	for i := range packedLetters {
		n <<= 6
		if i >= len(b) {
			continue
		}
		switch c := b[i]; {
		case c == 0:
			n |= 1
		case c >= '0' && c <= '9':
			n |= uint64(c-'0') + 3
		case c >= 'a' && c <= 'z':
			n |= uint64(c-'a') + 13
		case c >= 0x80:
			n |= 39
		default:
			n |= 2
		}
	}
	return n
}

// Mint is the step that learns which codes there are, before any is made. ok is false if none is to be
// made.
func Mint(o *Orders) (step line.Step, kinds []line.Allotment, ok bool) {
	if o.Minted == nil {
		return step, nil, false
	}
	step = line.Step{Name: NameMint, Before: changing}
	spaces := make(map[catalogue.Field]*namespace)
	for _, m := range o.Minted {
		own := m.fieldIn(&o.Columns)
		first := mint.SharedWith(own)[0]
		if own == catalogue.Unknown {
			m.issued = new(namespace)
		} else if spaces[first] == nil {
			spaces[first] = new(namespace)
			m.issued = spaces[first]
		} else {
			m.issued = spaces[first]
			m.issued.shared = true
		}
		step.Learns.Add(m.learnt()...)
		if m.Rule.Series {
			step.Learns.Add(m.By...)
			step.Learns.Add(m.InStep...)
		}
		step.Reads.Add(m.learnt()...)
		kinds = append(kinds, line.Allotment{Round: m.Round, Allot: m.allot, Release: m.release, Twins: catalogue.MintTwins, Keep: func(text string) {
			if row, lost := strings.CutPrefix(text, instead); lost {
				if m.lost == 0 {
					fmt.Sscan(row, &m.lost)
				}
			} else {
				m.kept = append(m.kept, text)
			}
		}})
	}
	step.Learn = func() line.Aggregate {
		l := &mintAggregate{minted: o.Minted, coded: make([][]coded, len(o.Minted))}
		for _, m := range o.Minted {
			l.taken = append(l.taken, mint.NewTaken(m.shape))
		}
		return l
	}
	step.New = func(learned line.Aggregate) (line.Repairer, error) {
		for i, m := range o.Minted {
			l := learned.(*mintAggregate)
			m.taken, m.kept, m.lost, m.drafts, m.Did = l.taken[i], nil, 0, 0, Minted{}
			m.copied = copies(slices.Clone(l.coded[i]))
			m.issued.codes = nil
			m.Did.Rule = m.Rule.String()
		}
		return repairFunc(func(p *catalogue.Product, log *line.Log) {
			for _, m := range o.Minted { // rows that are set aside, too
				for _, col := range m.learnt() {
					for _, row := range p.Rows {
						if code := strings.TrimSpace(row.Cell(col)); code != "" {
							m.keep(log, row, col, code)
						}
					}
				}
			}
		}), nil
	}
	return step, kinds, true
}

// learnt returns the columns with codes that may not be issued again.
func (m *Minting) learnt() (cols []int) {
	cols = []int{m.Col}
	if own := m.fieldIn(&m.sheet.Columns); own != catalogue.Unknown {
		for _, f := range mint.SharedWith(own) {
			cols = append(cols, m.sheet.Columns.All(f)...)
		}
	}
	slices.Sort(cols)
	cols = slices.Compact(cols)
	return slices.DeleteFunc(cols, func(col int) bool { return col >= m.sheet.Columns.Own() })
}

// mintAggregate learns the codes of a file.
type mintAggregate struct {
	minted []*Minting
	taken  []*mint.Taken
	coded  [][]coded // of each that goes on with a series
}

// Place adds the number of the row above.
func (l *mintAggregate) Place(above int) {
	for _, list := range l.coded {
		for i := range list {
			list[i].row += above
		}
	}
}

func (l *mintAggregate) Learn(p *catalogue.Product) {
	for i, m := range l.minted {
		for _, col := range m.learnt() {
			for _, row := range p.Rows {
				if cell := row.Cell(col); cell != "" {
					l.taken[i].Add(strings.TrimSpace(cell))
				}
			}
		}
		if m.Rule.Series {
			for _, row := range p.Rows {
				if c, ok := m.coded(row); ok {
					l.coded[i] = append(l.coded[i], c)
				}
			}
		}
	}
}

func (l *mintAggregate) Merge(next line.Aggregate) {
	for i, t := range next.(*mintAggregate).taken {
		l.taken[i].Merge(t)
	}
	for i, list := range next.(*mintAggregate).coded {
		l.coded[i] = append(l.coded[i], list...)
	}
}

func (l *mintAggregate) AppendBinary(b []byte) (_ []byte, err error) {
	for _, t := range l.taken {
		if b, err = t.AppendBinary(b); err != nil {
			return b, err
		}
	}
	for _, list := range l.coded {
		b = appendCoded(b, list)
	}
	return b, nil
}

// OnlyMade returns the columns into which nothing is written but codes that are made.
func (o *Orders) OnlyMade() (made catalogue.ColumnSet) {
	for _, m := range o.Minted {
		others := slices.ContainsFunc(slices.Concat(o.soon, o.list), func(one Order) bool {
			return one.Key != "mint" && !one.Looks && slices.Contains(one.Writes, m.Col)
		})
		if !others {
			made.Add(m.Col)
		}
	}
	return made
}

// Rounds says which codes are made in which round: those of which others are made before these. It
// reports whether other rules make something of codes.
func (o *Orders) Rounds() (others bool) {
	var made catalogue.ColumnSet
	for _, m := range o.Minted {
		m.Round = 0
		made.Add(m.Col)
	}
	for range o.Minted {
		for _, m := range o.Minted {
			from := o.MadeOf(catalogue.ColumnsOf(m.reads()...))
			for _, other := range o.Minted {
				if other != m && from.Has(other.Col) {
					m.Round = max(m.Round, other.Round+1)
				}
			}
		}
	}
	for i := range o.list {
		one := &o.list[i]
		if one.Key != "mint" && !one.Looks && slices.ContainsFunc(one.Reads, made.Has) {
			others = true
		}
	}
	return others
}
