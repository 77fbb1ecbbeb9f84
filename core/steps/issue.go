package steps

import (
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
		return columns.Refuse("[[mint]] into %q: there is no barcode of the prefix %s in the file or in what is avoided, so that nothing shows "+
			"from which item on it is free. Nothing was written. Say it with first_item = 1, if none has been given out yet", m.Into, prefix)
	}
	issuer := mint.NewIssuer(taken)
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
	m.Did.Issued -= len(codes)
	if m.Register == nil {
		return nil
	}
	folded := make([]uint64, 0, len(codes))
	for _, code := range codes {
		folded = append(folded, mint.HashOf(m.shape.Folding, code))
	}
	return m.Register.Release(m.space(), folded)
}

// space returns under which name codes of the column are remembered.
func (m *Minting) space() string {
	if field := m.fieldIn(&m.sheet.Columns); field != catalogue.Unknown {
		return mint.SharedWith(field)[0].String()
	}
	return m.sheet.Columns.Name(m.Col)
}

// registerBlock is for how many asks codes are reserved at once.
const registerBlock = 100_000

// issueByRegister issues codes, block by block: to products that have been issued one before, that one, and
// to others codes that nobody has had.
func (m *Minting) issueByRegister(asks line.Asks, issuer *mint.Issuer) error {
	space, own := m.space(), m.sheet.Columns.Name(m.Col)
	for from := 0; from < asks.Len(); from += registerBlock {
		n := min(registerBlock, asks.Len()-from)
		products := make([]uint64, n)
		for i := range products {
			products[i] = uint64(register.Key(own, asks.Hash(from+i)))
		}
		var known map[int]string
		if !m.Renew {
			var err error
			if known, err = m.Register.Known(space, products); err != nil {
				return err
			}
		}
		wanted := make([]string, n) // what is asked for, of those that get a new code
		looked := make(map[string]bool)
		heads := issuer.Heads() // what the file shows is not issued when it is gone from it
		for i := range n {
			code, had := known[i]
			switch {
			case had && m.shape.Folding == mint.AsItems && !isBarcode(code):
				return fmt.Errorf("%w: it has %q as a barcode", register.ErrDamaged, code)
			case had && issuer.Claim(code):
				m.give(asks, from+i, code)
				m.Did.Known++
			case had:
				asks.Deny(from+i, catalogue.MintTaken, code, 0)
			default:
				wanted[i] = asks.Text(from + i)
				draft := draftOf(wanted[i])
				if looked[draft] {
					continue
				}
				looked[draft] = true
				if head, counts := issuer.Head(pattern.Draft(draft)); counts {
					heads = append(heads, head)
				}
			}
		}
		slices.Sort(heads)
		heads = slices.Compact(heads)
		given := make(map[uint64]int) // by folded hash of codes
		err := m.Register.Reserve(space, heads, m.Renew, func(last map[uint64]uint64, taken map[uint64]bool) (codes []register.Code, reached map[uint64]uint64, err error) {
			if taken == nil {
				for head, n := range last {
					issuer.Raise(head, n)
				}
			}
			again := make([]int, 0, len(taken))
			for folded := range taken {
				again = append(again, given[folded])
				delete(given, folded)
			}
			slices.Sort(again)
			issueOne := func(i int) error {
				code, err := m.issue(asks, from+i, wanted[i], issuer)
				if err != nil || code == "" {
					return err
				}
				folded := issuer.Hash(code)
				given[folded] = i
				codes = append(codes, register.Code{Code: code, Label: m.label(asks, from+i, wanted[i]), Folded: folded, Product: products[i]})
				return nil
			}
			if taken == nil {
				for i := range n {
					if wanted[i] != "" {
						if err := issueOne(i); err != nil {
							return nil, nil, err
						}
					}
				}
			}
			for _, i := range again {
				if err := issueOne(i); err != nil {
					return nil, nil, err
				}
			}
			return codes, issuer.Reached(heads), nil
		})
		if err != nil {
			return err
		}
	}
	return nil
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
	var b []byte
	for _, n := range of {
		for i := packedLetters - 1; i >= 0; i-- {
			switch c := n >> (6 * i) & 63; {
			case c >= 13 && c < 39:
				b = append(b, byte(c-13)+'a')
			case c >= 3 && c < 13:
				b = append(b, byte(c-3)+'0')
			case c == 39:
				b = append(b, '?')
			case c > 0:
				b = append(b, ' ')
			}
		}
	}
	return strings.Join(strings.Fields(string(b)), " ")
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
