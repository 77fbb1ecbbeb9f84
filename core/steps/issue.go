package steps

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strings"

	"zetanum/core/barcode"
	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/line"
	"zetanum/core/mint"
	"zetanum/core/pattern"
	"zetanum/core/register"
)

// allot issues the codes that rows ask for.
func (m *Minting) allot(asks line.Asks) error {
	taken := mint.NewTaken(m.shape)
	taken.Merge(m.taken)
	for _, list := range append(m.Avoid, m.kept) {
		for _, code := range list {
			taken.Add(code)
		}
	}
	taken.AddHashes(m.issued.codes)
	if prefix := m.CompanyPrefix + m.ShopPrefix; m.FirstItem > 0 {
		taken.Below(prefix, m.FirstItem)
	} else if prefix != "" && m.lost == 0 && !taken.Knows(prefix) {
		if known, err := m.registerKnows(taken.Prefix(prefix)); err != nil || !known {
			return cmp.Or(err, columns.Refuse("[[mint]] into %q: there is no barcode of the prefix %s in the file, in what is avoided or in a register, so "+
				"that nothing shows from which item on it is free. Nothing was written. Say it with first_item = 1, if none has been given out yet",
				m.Into, prefix))
		}
	}
	issuer := mint.NewIssuer(taken, asks.Len())
	issuer.Gathers = m.issued.shared
	var err error
	switch {
	case m.lost > 0:
		for i := range asks.Len() {
			asks.Deny(i, catalogue.MintLost, "", m.lost)
		}
	case m.Register == nil:
		for i := range asks.Len() {
			if _, err = m.issue(asks, i, asks.Text(i), issuer); err != nil {
				return err
			}
		}
	default:
		err = m.issueByRegister(asks, issuer)
	}
	if err != nil {
		return err
	}
	m.issued.codes = append(m.issued.codes, issuer.Fresh...)
	m.Did.Issued, m.Did.Avoided = issuer.Issued, issuer.Avoided
	for _, use := range issuer.Used() {
		if use.Used > use.Most/2 {
			m.Did.Scarce = append(m.Did.Scarce, Scarcity{mint.Shown(use.Draft), use.Used, use.Most})
		}
	}
	return nil
}

// registerKnows reports whether codes have been issued of a counter.
func (m *Minting) registerKnows(head uint64) (bool, error) {
	if m.Register == nil {
		return false, nil
	}
	reached, err := m.Register.Reached(m.space(), []uint64{head})
	return reached[head] > 0, err
}

// issue issues a code for an ask, or denies it; text is what is asked for.
func (m *Minting) issue(asks line.Asks, i int, text string, issuer *mint.Issuer) (code string, err error) {
	text, _, _ = strings.Cut(text, labelled)
	draft, same, some := strings.Cut(text, instead)
	d := pattern.Draft(draft)
	if m.drafts < draftsLooked {
		m.drafts++
		m.Did.Most = max(m.Did.Most, mint.Capacity(d))
	}
	code, err = issuer.Issue(d, asks.Hash(i))
	if errors.Is(err, mint.ErrTaken) && some {
		code, err = issuer.Issue(pattern.Draft(same), asks.Hash(i))
	}
	switch {
	case errors.Is(err, mint.ErrTaken):
		asks.Deny(i, catalogue.MintTaken, code, 0)
		return "", nil
	case errors.Is(err, mint.ErrCheck):
		asks.Deny(i, catalogue.MintCheck, mint.Shown(d), 0)
		return "", nil
	case errors.Is(err, mint.ErrExhausted):
		return "", m.exhausted(asks, i, mint.Shown(d), mint.Capacity(d))
	}
	m.give(asks, i, code)
	return code, nil
}

// draftsLooked is of how many drafts it is worked out how many codes they can make.
const draftsLooked = 1000

func (m *Minting) give(asks line.Asks, i int, code string) {
	asks.Give(i, code)
	if len(m.Did.Codes) < shownCodes {
		m.Did.Codes = append(m.Did.Codes, code)
	}
}

// release gives back codes of rows that are held after all.
func (m *Minting) release(codes []string) error {
	if m.Register == nil {
		m.Did.Issued -= len(codes)
		return nil
	}
	folded := make([]uint64, 0, len(codes))
	for _, code := range codes {
		folded = append(folded, mint.HashOf(m.shape.Folding, code))
	}
	given, err := m.Register.Release(m.space(), folded)
	m.Did.Issued, m.Did.Known = m.Did.Issued-given, m.Did.Known-(len(codes)-given)
	return err
}

// space returns under which name codes of the column are remembered.
func (m *Minting) space() string {
	if field := m.fieldIn(&m.sheet.Columns); field != catalogue.Unknown {
		return mint.SharedWith(field)[0].String()
	}
	return m.sheet.Columns.Name(m.Col)
}

// registerBlock is for how many asks codes are reserved at once. The more, the fewer places of the register are gone
// through for each; but nobody else reserves meanwhile.
const registerBlock = 250_000

// issueByRegister issues codes, block by block: to products that have been issued one before, that one, and
// to others codes that nobody has had.
func (m *Minting) issueByRegister(asks line.Asks, issuer *mint.Issuer) error {
	most := min(registerBlock, asks.Len())
	r := reserving{Minting: m, asks: asks, issuer: issuer, space: m.space(), places: make([]uint64, 0, most), looked: make(map[string]bool)}
	r.block = register.Block{IDs: make([]int64, 0, most), Products: make([]int64, 0, most), Text: r.text}
	for r.from = 0; r.from < asks.Len(); r.from += registerBlock {
		heads, err := r.begin(min(registerBlock, asks.Len()-r.from))
		if err == nil {
			err = m.Register.Reserve(r.space, heads, m.Renew, func(last map[uint64]uint64, taken []uint32) (*register.Block, map[uint64]uint64, error) {
				if taken == nil {
					for head, n := range last {
						issuer.Raise(head, n)
					}
				}
				err := r.issueAll(taken)
				return &r.block, issuer.Reached(heads), err
			})
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// reserving is a block of asks for which codes are reserved.
type reserving struct {
	*Minting
	asks   line.Asks
	issuer *mint.Issuer
	space  string
	from   int // the first ask
	block  register.Block
	places []uint64        // of what is asked for, of asks that get a new code; 0 for others
	looked map[string]bool // drafts of which it is known whether they count
}

// begin begins a block: products that have been issued a code before get that one. It returns the counters of the
// codes of the others.
func (r *reserving) begin(n int) (heads []uint64, err error) {
	own := r.sheet.Columns.Name(r.Col)
	r.block.IDs, r.block.Products, r.places = r.block.IDs[:0], r.block.Products[:0], r.places[:0]
	for i := range n {
		r.block.IDs = append(r.block.IDs, 0)
		r.block.Products = append(r.block.Products, register.Key(r.space, uint64(register.Key(own, r.asks.Hash(r.from+i)))))
		r.places = append(r.places, 0)
	}
	var known map[int]string
	if !r.Renew {
		if known, err = r.Register.Known(r.block.Products); err != nil {
			return nil, err
		}
	}
	heads = r.issuer.Heads() // what the file shows is not issued when it is gone from it
	clear(r.looked)
	for i := range n {
		code, had := known[i]
		switch at := r.from + i; {
		case had && r.shape.Folding == mint.AsItems && !isBarcode(code):
			return nil, fmt.Errorf("%w: it has %q as a barcode", register.ErrDamaged, code)
		case had && r.issuer.Claim(code):
			r.give(r.asks, at, code)
			r.Did.Known++
		case had:
			r.asks.Deny(at, catalogue.MintTaken, code, 0)
		default:
			r.places[i] = r.asks.Place(at)
			draft := draftOf(r.asks.At(r.places[i]))
			if !pattern.Draft(draft).Counts() || r.looked[draft] {
				continue
			}
			r.looked[draft] = true
			if head, counts := r.issuer.Head(pattern.Draft(draft)); counts {
				heads = append(heads, head)
			}
		}
	}
	slices.Sort(heads)
	return slices.Compact(heads), nil
}

// issueAll issues codes for the asks of the block that want a new one; for those in places of which others have the
// code another, if there are such.
func (r *reserving) issueAll(taken []uint32) error {
	if taken == nil {
		for i, place := range r.places {
			if place == 0 {
				continue
			}
			if err := r.issueOne(i); err != nil {
				return err
			}
		}
	}
	for _, i := range taken {
		if err := r.issueOne(int(i)); err != nil {
			return err
		}
	}
	return nil
}

func (r *reserving) issueOne(i int) error {
	code, err := r.issue(r.asks, r.from+i, r.asks.At(r.places[i]), r.issuer)
	if r.block.IDs[i] = 0; code != "" {
		r.block.IDs[i] = register.Key(r.space, r.issuer.Hash(code))
	}
	return err
}

// text returns the code that an ask has been given, and of which product it is.
func (r *reserving) text(i int) (code, label string) {
	return r.asks.Given(r.from + i), r.label(r.asks, r.from+i, r.asks.At(r.places[i]))
}

// draftOf returns the first draft of what is asked for.
func draftOf(text string) string {
	if end := strings.IndexAny(text, instead+labelled); end >= 0 {
		return text[:end]
	}
	return text
}

// label says of which product a code is.
func (m *Minting) label(asks line.Asks, i int, text string) string {
	if _, label, ok := strings.Cut(text, labelled); ok {
		return label
	}
	return unpacked(asks.Begins(i))
}

func isBarcode(code string) bool {
	_, err := barcode.Parse(code)
	return err == nil
}

// unpacked returns letters that were packed as numbers, as far as they can be told.
func unpacked(of [2]uint64) string {
	var letters [2 * packedLetters]byte
	b, gap := letters[:0], false
	for _, n := range of {
		for i := packedLetters - 1; i >= 0; i-- {
			var letter byte
			switch c := n >> (6 * i) & 63; {
			case c >= 13 && c < 39:
				letter = byte(c-13) + 'a'
			case c >= 3 && c < 13:
				letter = byte(c-3) + '0'
			case c == 39:
				letter = '?'
			default:
				gap = gap || c > 0
				continue
			}
			if gap && len(b) > 0 && len(b) < len(letters) {
				b = append(b, ' ')
			}
			if gap = false; len(b) < len(letters) {
				b = append(b, letter)
			}
		}
	}
	return string(b)
}

// shownCodes is how many codes of a rule are shown.
const shownCodes = 10

// exhausted says that there is no code for the ask at that index.
func (m *Minting) exhausted(asks line.Asks, at int, shown string, most uint64) error {
	wanted := 0
	for i := at; i < asks.Len(); i++ {
		if mint.Shown(pattern.Draft(draftOf(asks.Text(i)))) == shown {
			wanted++
		}
	}
	return columns.Refuse("[[mint]] into %q: %w: %s can be %s, which are all there already or given to other rows, and %s. Nothing was written. "+
		"Let the pattern count further, or take more of the product", m.Into, ErrCapacity, shown, codes(most), rowsWord(wanted))
}

func rowsWord(n int) string {
	if n == 1 {
		return "one row more wants one"
	}
	return catalogue.Thousands(uint64(n)) + " rows more want one"
}

func codes(n uint64) string {
	if n == 1 {
		return "one code"
	}
	return catalogue.Thousands(n) + " codes"
}
