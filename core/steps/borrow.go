package steps

import (
	"fmt"
	"strings"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/barcode"
	"zetanum/core/catalogue"
	"zetanum/core/line"
	"zetanum/core/reference"
	"zetanum/core/text"
)

// A Loan is a rule to borrow by, with its sheet.
type Loan struct {
	*reference.BorrowRule
	*reference.Lender
	Trusted bool // the sheet is trusted for barcodes, too, so they need not be borrowed

	// NotIn is the list of the course that takes the rows whose key the sheet does
	// not have.
	NotIn int
	File  string // what its lists are called by
}

// What is counted of a loan, as numbers in the tally from its first one on.
const (
	LoanMatched = iota // rows
	LoanUnmatched
	LoanAlike
	LoanTwice // values
	LoanFilled
	LoanSame
	LoanOther // values that differ and stay
	loanCounts
)

// borrowing carries one loan out.
type borrowing struct {
	*Loan
	o     *Orders
	by    []int
	into  []int // -1 where nothing is to be taken
	first int   // its first number in the tally
	early bool  // it fills barcodes and SKUs, before these are judged
}

// LoanCounts is the number in the tally at which the counts of a loan begin, and
// the columns it fills.
type LoanCounts struct {
	First int
	*Loan
}

// Borrow orders that values are taken from another sheet. Barcodes and SKUs are
// taken at once, by the step of [Orders.Early], so that they are judged like the
// others; the rest in its turn.
func (o *Orders) Borrow(loan *Loan) error {
	names, _ := loan.Keys()
	b := &borrowing{Loan: loan, o: o}
	for _, name := range names {
		col, ok, err := o.find("borrow", "by", name)
		if err != nil {
			return err
		}
		if !ok {
			return nil
		}
		b.by = append(b.by, col)
	}
	early := &borrowing{Loan: loan, o: o, by: b.by, early: true}
	var writes, earlyWrites []int
	for _, name := range loan.Take {
		found, _ := o.shape.Find(&o.table.Columns, name)
		late, soon := -1, -1
		if len(found) > 0 {
			switch f := o.table.Columns.Fields[found[0]]; {
			case f == catalogue.Barcode && loan.Trusted && found[0] < o.table.Columns.Own():
			case f == catalogue.Barcode, f == catalogue.SKU:
				soon = found[0]
				earlyWrites = append(earlyWrites, soon)
			default:
				late = found[0]
				writes = append(writes, late)
			}
		}
		b.into, early.into = append(b.into, late), append(early.into, soon)
	}
	first := len(o.tally.Rules)
	for range loanCounts {
		o.tally.Rules = append(o.tally.Rules, Counted{Quiet: true})
	}
	b.first, early.first = first, first
	o.Loans = append(o.Loans, LoanCounts{first, loan})
	number := o.tally.Add(loan.BorrowRule.String(), changed, loan.Count)
	where, reads, err := o.where(loan.Where)
	if err != nil {
		return err
	}
	if earlyWrites != nil {
		o.early = append(o.early, order{key: "borrow", reads: append(reads, b.by...), writes: earlyWrites, where: where, rows: loan.BorrowRule.Rows.Roles(), number: number, do: early.do})
		o.earlyLoans = append(o.earlyLoans, early)
	}
	o.list = append(o.list, order{key: "borrow", phase: phaseBorrow, reads: append(reads, b.by...), writes: writes, where: where, rows: loan.BorrowRule.Rows.Roles(), number: number, do: b.do})
	return nil
}

func (b *borrowing) do(r *rowAt) bool {
	loan, asked, err := b.Find(r.Row, b.by)
	if err != nil {
		b.o.failed.Do(func() { b.o.Failed = fmt.Errorf("%s: %w", b.Lender.Name, err) })
		return false
	}
	if !asked {
		return false
	}
	key := r.Cell(b.by[0])
	if !b.early {
		b.report(r, loan, key)
	}
	if loan == nil {
		return false
	}
	if b.early && b.again(r) {
		return false
	}
	wrote := false
	for i, col := range b.into {
		if col < 0 {
			continue
		}
		old, value := r.Cell(col), r.clean(col, loan.Values[i])
		switch {
		case value == "":
		case old == "" && !r.belongs(col):
		case old == value:
			b.count(r, LoanSame)
		case old != "" && !b.Over && !text.Recovers(old, value):
			b.count(r, LoanOther)
		case loan.Twice != nil && loan.Twice[i] > 0:
			b.count(r, LoanTwice)
			r.find(catalogue.BorrowTwice, col, old, catalogue.Facts{
				Other: fmt.Sprintf("%s has different values for %s in rows %d and %d", b.Lender.Name, catalogue.Shorten(key, 40), loan.Row, loan.Twice[i])})
		case b.early && b.o.table.Columns.Fields[col] == catalogue.Barcode && !whole(value):
			r.find(catalogue.BorrowUnsuited, col, old, catalogue.Facts{Other: fmt.Sprintf("%s, row %d, says %s", b.Lender.Name, loan.Row, catalogue.Shorten(value, 40))})
		default:
			r.set(col, value, catalogue.RuleBorrow, catalogue.Ordered, fmt.Sprintf("%s, row %d", b.Lender.Name, loan.Row))
			b.count(r, LoanFilled)
			if old != "" && !r.dry {
				r.log.Settled(catalogue.TextLost, r.Row, col)
			}
			wrote = true
		}
	}
	return wrote
}

// again reports whether a row above it in the product has the same key: what
// follows is an image of the same thing.
func (b *borrowing) again(r *rowAt) bool {
	for i, other := range r.product.Rows[:r.index] {
		if r.log.IsAside(i) {
			continue
		}
		same := true
		for _, col := range b.by {
			same = same && other.Cell(col) == r.Cell(col)
		}
		if same {
			return true
		}
	}
	return false
}

// report counts and lists what became of the key.
func (b *borrowing) report(r *rowAt, loan *reference.Loan, key string) {
	switch {
	case loan == nil:
		b.count(r, LoanUnmatched)
		r.find(catalogue.BorrowUnmatched, b.by[0], key, catalogue.Facts{Other: b.Lender.Name})
		if !r.log.Judging() && !r.dry {
			cells := make([]string, 0, 4)
			for _, col := range b.o.known {
				cells = append(cells, r.Cell(col))
			}
			r.log.Enter(b.NotIn, r.index, cells...)
		}
	case loan.Key != "":
		b.count(r, LoanMatched)
		b.count(r, LoanAlike)
		r.find(catalogue.BorrowAlike, b.by[0], key, catalogue.Facts{Other: fmt.Sprintf("%s in %s, row %d", catalogue.Shorten(loan.Key, 40), b.Lender.Name, loan.Row)})
	default:
		b.count(r, LoanMatched)
	}
}

func (b *borrowing) count(r *rowAt, what int) {
	if !r.log.Judging() && !r.dry {
		r.log.Touch(b.first+what, r.index)
	}
}

func whole(value string) bool {
	_, err := barcode.Parse(strings.TrimSpace(value))
	return err == nil
}

// Early is the step that borrows barcodes and SKUs, which comes before these are
// judged.
func (o *Orders) Early() line.Step {
	return line.Step{
		Name:   "borrow",
		Writes: catalogue.FieldsOf(catalogue.Barcode, catalogue.SKU),
		Rules:  []catalogue.Rule{catalogue.RuleBorrow},
		New: func(line.Lore) (line.Repairer, error) {
			if len(o.early) == 0 {
				return nil, nil
			}
			return newCarrier(o.early, o), nil
		},
		Keys: func(p *catalogue.Product, add func(int, uint64)) {
			for _, b := range o.earlyLoans {
				for i, row := range p.Rows {
					loan, _, _ := b.Find(row, b.by)
					if loan == nil {
						continue
					}
					for n, col := range b.into {
						if col < 0 || loan.Values[n] == "" {
							continue
						}
						if code, err := barcode.Parse(loan.Values[n]); err == nil {
							add(i, scatter(code.Key()))
						}
						add(i, xxhash.Sum64String(loan.Values[n]))
					}
				}
			}
		},
	}
}
