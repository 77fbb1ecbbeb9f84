package steps

import (
	"encoding/binary"
	"errors"
	"fmt"
	"slices"
	"strings"
	"unicode"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/barcode"
	"zetanum/core/catalogue"
	"zetanum/core/condition"
	"zetanum/core/line"
	"zetanum/core/mint"
	"zetanum/core/pattern"
)

// A Minting makes the codes of one rule.
type Minting struct {
	*mint.Rule
	Col        int
	From, Same *pattern.Pattern // bound; Same may be nil
	By         []int            // the columns that tell products apart
	Reads      []int            // those of the patterns
	Avoid      [][]string       // codes of other sheets
	Renew      bool             // codes that are there are replaced
	Number     int              // in the tally
	Renewed    int              // the list of old and new codes, if they are replaced
	Round      int

	sheet  *Sheet
	kind   int         // of its allotments
	shape  mint.Shape  // of its codes
	taken  *mint.Taken // of the whole file, once it is known
	kept   []string    // codes that rules or repairs have written
	lost   int         // a row whose barcode is lost, 0 if none is
	issued *namespace
	Did    Minted
}

// Minted is what came of a rule.
type Minted struct {
	Rule    string // in words
	Issued  int
	Avoided int        // codes that were passed over because they are taken
	Scarce  []Scarcity // of which more than half is used
	Codes   []string   // the first of them
	Counted bool       // they have a counter, which counts for this file alone
}

// Scarcity says of how many codes most are used.
type Scarcity struct {
	Draft      string // with what is open in it as N
	Used, Most uint64
}

// ErrCapacity says that a pattern cannot make as many codes as are needed.
var ErrCapacity = errors.New("the pattern cannot make as many codes as are needed")

// namespace has the codes that have been issued in fields whose codes must differ.
type namespace struct{ codes []string }

// Minting takes down that codes are made. order is what is common to its orders.
func (o *Orders) Minting(m *Minting, meant condition.Meant) error {
	m.sheet, m.shape = o.Sheet, mint.ShapeOf(m.From, mint.FoldingOf(o.Columns.Fields[m.Col]))
	m.kind = len(o.Minted)
	o.Minted = append(o.Minted, m)
	one := Order{Key: "mint", Phase: PhaseMint, Reads: slices.Concat(m.Reads, m.By), Writes: []int{m.Col},
		Rules: []catalogue.Rule{catalogue.RuleMint}, Do: m.do}
	return o.AddCounted(one, meant, m.Number)
}

// ofProduct reports whether all rows of a product have the code.
func (m *Minting) ofProduct() bool { return m.sheet.Columns.Fields[m.Col] == catalogue.ParentSKU }

// do gives a row its code, or asks for one.
func (m *Minting) do(r *RowAt) bool {
	old := r.Cell(m.Col)
	if r.Dry {
		return false
	}
	if strings.TrimSpace(old) != "" {
		m.keep(r, old)
		if !m.Renew {
			return false
		}
	}
	if !r.Belongs(m.Col) {
		return false
	}
	asking := r.Row
	if m.ofProduct() {
		asking = r.Lead
	}
	code, settled := r.Log.Allotted(m.kind, asking)
	if settled && code != "" {
		r.Log.Set(r.Row, m.Col, code, catalogue.RuleMint, catalogue.Ordered, "")
		if m.Renew && old != "" && !r.Log.Judging() {
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
	if asking == r.Row {
		text := draft
		if m.Same != nil {
			if same, missing := m.draft(m.Same, r); missing == "" {
				text += instead + same
			}
		}
		r.Log.Ask(m.kind, r.Index, m.Col, m.by(r), text)
	}
	r.Log.Provide(r.Row, m.Col, mint.Provisional(pattern.Draft(draft), uint64(asking.Number)<<8|uint64(asking.Made&0xff)))
	return false
}

// instead stands between a draft and the one where its code is there already.
const instead = "\x04"

func (m *Minting) draft(p *pattern.Pattern, r *RowAt) (string, string) {
	d, missing := p.Draft(r.View())
	return string(d), missing
}

// keep takes down a code that the file does not have so.
func (m *Minting) keep(r *RowAt, code string) {
	if !r.Log.Judging() {
		return
	}
	for i := range r.Log.Changes {
		if c := &r.Log.Changes[i]; c.Row == r.Number && c.Col == m.Col {
			r.Log.Keep(m.kind, code)
			return
		}
	}
	if m.shape.Folding == mint.AsItems && m.Rule.FirstItem == 0 && m.Rule.From == "" {
		if _, err := barcode.Parse(code); err != nil {
			r.Log.Keep(m.kind, instead+fmt.Sprint(r.Number))
		}
	}
}

// by returns what tells a row from all others: how that begins in small letters, so that codes are given
// in its order, and a hash of the whole.
func (m *Minting) by(r *RowAt) (by [3]uint64) {
	view := r.View()
	var b []byte
	for _, col := range m.By {
		for _, c := range strings.TrimSpace(view.Cell(col)) {
			b = append(b, string(unicode.ToLower(c))...)
		}
		b = append(b, 0)
	}
	if m.sheet.Columns.Fields[m.Col] != catalogue.ParentSKU { // rows that were made of one
		b = append(b, fmt.Sprint(r.Made)...)
	}
	by[2] = xxhash.Sum64(b)
	var first [16]byte
	copy(first[:], b)
	by[0], by[1] = binary.BigEndian.Uint64(first[:8]), binary.BigEndian.Uint64(first[8:])
	return by
}

// allot issues the codes that rows ask for.
func (m *Minting) allot(asks []line.Ask) error {
	taken := mint.NewTaken(m.shape)
	taken.Merge(m.taken)
	for _, list := range append(m.Avoid, m.kept, m.issued.codes) {
		for _, code := range list {
			taken.Add(code)
		}
	}
	if prefix := m.CompanyPrefix + m.ShopPrefix; m.FirstItem > 0 {
		taken.Below(prefix, m.FirstItem)
	} else if prefix != "" && m.lost == 0 && !taken.Knows(prefix) {
		return fmt.Errorf("%w: there is no barcode of the prefix %s in the file or in what [[mint]] avoids, so that nothing shows from which "+
			"item on it is free. Nothing was written. Say it with first_item = 1, if none has been given out yet", ErrCapacity, prefix)
	}
	issuer := mint.NewIssuer(taken)
	for i := range asks {
		ask := &asks[i]
		if m.lost > 0 {
			ask.Denied, ask.Text = catalogue.MintLost, ""
			ask.See(m.lost)
			continue
		}
		draft, same, some := strings.Cut(ask.Text, instead)
		code, err := issuer.Issue(pattern.Draft(draft), ask.By[2])
		if errors.Is(err, mint.ErrTaken) && some {
			code, err = issuer.Issue(pattern.Draft(same), ask.By[2])
		}
		ask.Text = code
		switch {
		case errors.Is(err, mint.ErrTaken):
			ask.Denied, ask.Why = catalogue.MintTaken, code
		case errors.Is(err, mint.ErrCheck):
			ask.Denied, ask.Why = catalogue.MintCheck, mint.Shown(pattern.Draft(draft))
		case errors.Is(err, mint.ErrExhausted):
			return m.exhausted(pattern.Draft(draft), len(asks))
		default:
			m.issued.codes = append(m.issued.codes, code)
			if len(m.Did.Codes) < shownCodes {
				m.Did.Codes = append(m.Did.Codes, code)
			}
			continue
		}
		ask.Text = ""
	}
	m.Did.Issued, m.Did.Avoided, m.Did.Counted = issuer.Issued, issuer.Avoided, m.From.Counts() && m.CompanyPrefix+m.ShopPrefix == ""
	for _, use := range issuer.Used() {
		if use.Used > use.Most/2 {
			m.Did.Scarce = append(m.Did.Scarce, Scarcity{mint.Shown(use.Draft), use.Used, use.Most})
		}
	}
	return nil
}

// shownCodes is how many codes of a rule are shown.
const shownCodes = 10

func (m *Minting) exhausted(d pattern.Draft, wanted int) error {
	return fmt.Errorf("%w: %s can be %s, and %s rows want a code of this pattern; some of these are there already. Nothing was written. "+
		"Give the counter of [[mint]] into %q more digits, or let the pattern take more of the product", ErrCapacity, mint.Shown(d),
		codes(mint.Capacity(d)), catalogue.Thousands(uint64(wanted)), m.Into)
}

func codes(n uint64) string {
	if n == 1 {
		return "one code"
	}
	return catalogue.Thousands(n) + " codes"
}

// Mint is the step that learns which codes there are, before any is made. ok is false if none is to be
// made.
func Mint(o *Orders) (step line.Step, kinds []line.Allotment, ok bool) {
	if o.Minted == nil {
		return step, nil, false
	}
	step = line.Step{Name: NameMint}
	spaces := make(map[catalogue.Field]*namespace)
	for _, m := range o.Minted {
		own := o.Columns.Fields[m.Col]
		first := mint.SharedWith(own)[0]
		if own == catalogue.Unknown {
			m.issued = new(namespace)
		} else if spaces[first] == nil {
			spaces[first] = new(namespace)
			m.issued = spaces[first]
		} else {
			m.issued = spaces[first]
		}
		step.Learns.Add(m.learnt()...)
		kinds = append(kinds, line.Allotment{Round: m.Round, Allot: m.allot, Twins: catalogue.MintTwins, Keep: func(text string) {
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
		l := &mintAggregate{minted: o.Minted}
		for _, m := range o.Minted {
			l.taken = append(l.taken, mint.NewTaken(m.shape))
		}
		return l
	}
	step.New = func(learned line.Aggregate) (line.Repairer, error) {
		for i, m := range o.Minted {
			m.taken, m.kept, m.lost, m.Did = learned.(*mintAggregate).taken[i], nil, 0, Minted{}
			m.issued.codes = nil
			m.Did.Rule = m.Rule.String()
		}
		return nil, nil
	}
	return step, kinds, true
}

// learnt returns the columns with codes that may not be issued again.
func (m *Minting) learnt() (cols []int) {
	own := m.sheet.Columns.Fields[m.Col]
	if own == catalogue.Unknown {
		cols = []int{m.Col}
	} else {
		for _, f := range mint.SharedWith(own) {
			cols = append(cols, m.sheet.Columns.All(f)...)
		}
	}
	return slices.DeleteFunc(cols, func(col int) bool { return col >= m.sheet.Columns.Own() })
}

// mintAggregate learns the codes of a file.
type mintAggregate struct {
	minted []*Minting
	taken  []*mint.Taken
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
	}
}

func (l *mintAggregate) Merge(next line.Aggregate) {
	for i, t := range next.(*mintAggregate).taken {
		l.taken[i].Merge(t)
	}
}

func (l *mintAggregate) AppendBinary(b []byte) (_ []byte, err error) {
	for _, t := range l.taken {
		if b, err = t.AppendBinary(b); err != nil {
			return b, err
		}
	}
	return b, nil
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
			from := o.MadeOf(catalogue.ColumnsOf(slices.Concat(m.Reads, m.By)...))
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
