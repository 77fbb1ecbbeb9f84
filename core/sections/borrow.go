package sections

import (
	"cmp"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/barcode"
	"zetanum/core/catalogue"
	"zetanum/core/heading"
	"zetanum/core/line"
	"zetanum/core/reference"
	"zetanum/core/rulebook"
	"zetanum/core/sheet"
	"zetanum/core/steps"
	"zetanum/core/text"
)

// borrowSection takes values from other sheets.
type borrowSection struct {
	plain
	rules *[]reference.BorrowRule
}

func (*borrowSection) Parts() []rulebook.Part {
	return []rulebook.Part{
		{
			Name: "borrow", Line: "[[borrow]]",
			Says: "Values from another sheet, by a key that both have, into cells that are empty; the setting ‹borrow› does the same. Hidden " +
				"columns count. A key that occurs twice there with different values gives none. Rows without a match are in " +
				"not-in-NAME.csv, rows of the sheet that nobody asked for in only-in-NAME.csv. Barcodes that are taken by SKU " +
				"are believed like those of a trusted sheet, so lost ones come back, too.",
			Shared: rulebook.Scope,
			Keys: []rulebook.Key{
				{
					Name: "from",
					Says: "The file: anything that can be read here.",
					Example: `from = "stock-take.xlsx"
by   = "sku"
take = ["barcode", "weight"]`,
				},
				{
					Name: "sheet",
					Says: "The sheet of a workbook; the first with known headings, if nothing is said.",
					Example: `from  = "supplier.xlsx"
sheet = "Weights"
by    = "sku"
take  = ["weight"]`,
				},
				{
					Name: "headings",
					Says: "What headings of that sheet mean that are not recognised, or which of several columns is the right one.",
					Example: `from = "texts.csv"
by   = "sku"
take = ["description"]
headings = { "Artikel" = "sku", "Text (corrected)" = "description" }`,
				},
				{
					Name: "by",
					Says: "The field or heading that both sheets have, or a list of several that are the key together.",
					Example: `from = "suppliers.csv"
by   = ["supplier", "mpn"]
take = ["cost"]`,
				},
				{
					Name: "take",
					Says: "The fields or headings to take. Columns that are not there are added.",
					Example: `from = "stock-take.xlsx"
by   = "sku"
take = ["barcode", "weight"]`,
				},
				{
					Name: "alike",
					Says: "What does not count when keys are compared: case, spaces, dashes, zeros (at the beginning). Each match that " +
						"is not exact is noted.",
					Example: `from = "stock-take.xlsx"
by   = "sku"
take = ["barcode", "weight"]
alike = ["case", "dashes"]`,
				},
				{
					Name: "over",
					Says: "Takes the value although the cell is not empty. Barcodes and SKUs are never overwritten.",
					Example: `from = "prices.csv"
by   = "sku"
take = ["price"]
over = true`,
				},
			},
		},
	}
}

func (s *borrowSection) Tables() []rulebook.Table {
	return []rulebook.Table{{Name: "borrow", Into: s.rules}}
}

func (s *borrowSection) Check() (problems []rulebook.Problem) {
	for i := range *s.rules {
		problems = append(problems, rulebook.In("borrow", i+1, (*s.rules)[i].Check())...)
	}
	return problems
}

func (b *borrowSection) Files() (names []*string) {
	for i := range *b.rules {
		names = append(names, &(*b.rules)[i].From)
	}
	return names
}

// A Loan is a rule to borrow by, with its sheet.
type Loan struct {
	*reference.BorrowRule
	*reference.Lender
	Trusted bool // the sheet is trusted for barcodes, too, so they need not be borrowed

	Ordered bool   // its columns are there
	First   int    // the number in the tally at which its counts begin
	NotIn   int    // the list of the rows whose key the sheet does not have; the other rows of that sheet are in the next
	file    string // what its lists are called by
}

// Open opens the sheets to borrow from.
func (b *borrowSection) Open(s *Sheet) error {
	for i := range *b.rules {
		rule := &(*b.rules)[i]
		if same(rule.From, s.Input) && (rule.Sheet == "" || rule.Sheet == s.Table.Sheet) {
			return nth(i, fmt.Errorf("%s: %w", rule.From, reference.ErrSelf))
		}
		lender, err := reference.Lend(rule, sheet.Options{Spool: s.Temp}, s.KindOf)
		if err != nil {
			return nth(i, err)
		}
		loan := &Loan{BorrowRule: rule, Lender: lender}
		s.Loans = append(s.Loans, loan)
		if !rule.Backs() {
			continue
		}
		// By the exact SKU it is as good as a sheet that is named as trusted.
		opt := sheet.Options{Spool: s.Temp, Sheet: rule.Sheet, Reading: rule.Reading, Fields: catalogue.ParseFields(rule.Headings)}
		if trusted, err := reference.Load(rule.From, opt); err == nil {
			trusted.Name = cmp.Or(rule.Called, trusted.Name)
			s.Trusted = append(s.Trusted, trusted)
			loan.Trusted = true
		}
	}
	return nil
}

// Lent waits until the sheets that are borrowed from have been read.
func (s *Sheet) Lent() error {
	for _, loan := range s.Loans {
		if err := loan.Lent(); err != nil {
			return err
		}
	}
	return nil
}

// Adds returns the columns that are taken, under the names with which they are added.
func (*borrowSection) Adds(s *Sheet) (names []string, err error) {
	for _, l := range s.Loans {
		for _, t := range l.Taken {
			name := t.Name
			if f, ok := catalogue.ParseField(name); ok && heading.Field(t.Heading) == f {
				name = t.Heading
			}
			names = append(names, name)
		}
	}
	return names, nil
}

// Order orders that values are taken from other sheets. Barcodes and SKUs are taken at
// once, so that they are judged like the others; the rest in its turn.
func (b *borrowSection) Order(s *Sheet) error {
	for i, loan := range s.Loans {
		loan.NotIn = len(s.Lists)
		for _, list := range s.listsOf(loan) {
			s.List(list)
		}
		if err := s.borrow(loan); err != nil {
			return nth(i, err)
		}
	}
	return nil
}

func (s *Sheet) borrow(loan *Loan) error {
	late := &borrowing{Loan: loan, sheet: s, known: steps.KnownBy(&s.Columns)}
	names, _ := loan.Keys()
	for _, name := range names {
		col, err := s.NeedOne("[[borrow]] by", name)
		if err != nil || col < 0 {
			return err
		}
		late.by = append(late.by, col)
	}
	early := &borrowing{Loan: loan, sheet: s, known: late.known, by: late.by, early: true}
	var writes, earlyWrites []int
	for _, name := range loan.Take {
		into, soon := -1, -1
		if found := s.Find(name); len(found) > 0 {
			if err := s.overThere(loan.Over, "[[borrow]] take", found[0]); err != nil {
				return err
			}
			switch f := s.Columns.Fields[found[0]]; {
			case f == catalogue.Barcode && loan.Trusted && found[0] < s.Columns.Own():
			case f == catalogue.Barcode, f == catalogue.SKU:
				soon = found[0]
				earlyWrites = append(earlyWrites, soon)
			default:
				into = found[0]
				writes = append(writes, into)
			}
		}
		late.into, early.into = append(late.into, into), append(early.into, soon)
	}
	loan.First = len(s.Tally.Rules)
	for range loanCounts {
		s.Tally.Rules = append(s.Tally.Rules, steps.Counted{Quiet: true})
	}
	loan.Ordered = true
	number := s.Tally.Add(loan.BorrowRule.String(), steps.Changed, loan.Count)
	one := steps.Order{Key: "borrow", Phase: steps.PhaseBorrow, Reads: late.by, Rules: []catalogue.Rule{catalogue.RuleBorrow}}
	if earlyWrites != nil {
		soon := one
		soon.Writes, soon.Do = earlyWrites, early.do
		if err := s.Orders.AddSoon(soon, loan.BorrowRule.Meant, number, early.keys, late.by); err != nil {
			return err
		}
	}
	one.Writes, one.Do = writes, late.do
	return s.Orders.AddCounted(one, loan.BorrowRule.Meant, number)
}

// keys gives what may come to stand in a row.
func (b *borrowing) keys(row *catalogue.Row, add func(uint64)) {
	loan, _, _ := b.Find(row, b.by)
	if loan == nil {
		return
	}
	for n, col := range b.into {
		if col < 0 || loan.Values[n] == "" {
			continue
		}
		if code, err := barcode.Parse(loan.Values[n]); err == nil {
			add(steps.KeyOf(code))
		}
		add(xxhash.Sum64String(loan.Values[n]))
	}
}

// borrowed reports whether a column is one that is borrowed.
func (s *Sheet) borrowed(heading string) bool {
	return slices.ContainsFunc(s.Loans, func(l *Loan) bool {
		return slices.ContainsFunc(l.Taken, func(t reference.TakenColumn) bool { return t.Name == heading || t.Heading == heading })
	})
}

// listsOf are the lists of a loan: the rows that the sheet does not have, and those
// of the sheet that nobody asked for.
func (s *Sheet) listsOf(loan *Loan) []line.List {
	name := strings.TrimSuffix(loan.Lender.Name, filepath.Ext(loan.Lender.Name))
	for n := 2; ; n++ {
		taken := slices.ContainsFunc(s.Loans, func(l *Loan) bool {
			return l != loan && strings.EqualFold(l.file, name) // some systems have one file for both
		})
		if !taken {
			break
		}
		name = fmt.Sprintf("%s-%d", strings.TrimSuffix(loan.Lender.Name, filepath.Ext(loan.Lender.Name)), n)
	}
	loan.file = name
	keys, _ := loan.Keys()
	headings := append([]string{"Row"}, keys...)
	for _, t := range loan.Taken {
		headings = append(headings, t.Heading)
	}
	return []line.List{
		{Name: "not-in-" + name + ".csv", Headings: s.knownBy()},
		{Name: "only-in-" + name + ".csv", Headings: headings, Rest: func(enter func(...string)) error {
			return loan.Unasked(func(row int, key, values []string) {
				enter(slices.Concat([]string{fmt.Sprint(row)}, key, values)...)
			})
		}},
	}
}

// same reports whether two names are of one file.
func same(a, b string) bool {
	x, err := os.Stat(a)
	if err != nil {
		return false
	}
	y, err := os.Stat(b)
	return err == nil && os.SameFile(x, y)
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
	sheet *Sheet
	known []int // the columns by which somebody knows a product
	by    []int
	into  []int // -1 where nothing is to be taken
	early bool  // it fills barcodes and SKUs, before these are judged
}

// do takes what the sheet has for a row, and reports whether it was anything.
func (b *borrowing) do(r *steps.RowAt) bool {
	loan, asked, err := b.Find(r.Row, b.by)
	if err != nil {
		b.sheet.Orders.Fail(fmt.Errorf("%s: %w", b.Lender.Name, err))
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
	wrote, source := false, ""
	for i, col := range b.into {
		if col < 0 {
			continue
		}
		old, value := r.Cell(col), r.Clean(col, loan.Values[i])
		switch {
		case value == "":
		case old == "" && !r.Belongs(col):
		case old == value:
			b.count(r, LoanSame)
		case old != "" && !b.Over && !text.Recovers(old, value):
			b.count(r, LoanOther)
		case text.IsErrorValue(value):
			r.Find(catalogue.BorrowError, col, value, catalogue.Facts{Other: fmt.Sprintf("%s, row %d,", b.Lender.Name, loan.Row)})
		case loan.Twice != nil && loan.Twice[i] > 0:
			b.count(r, LoanTwice)
			r.Find(catalogue.BorrowTwice, col, old, catalogue.Facts{
				Other: fmt.Sprintf("%s has different values for %s in rows %d and %d", b.Lender.Name, catalogue.Shorten(key, 40), loan.Row,
					loan.Twice[i])})
		case b.early && b.sheet.Columns.Fields[col] == catalogue.Barcode && !whole(value):
			r.Find(catalogue.BorrowUnsuited, col, old, catalogue.Facts{Other: fmt.Sprintf("%s, row %d, says %s", b.Lender.Name, loan.Row,
				catalogue.Shorten(value, 40))})
		default:
			if source == "" {
				source = string(strconv.AppendInt(append(append(make([]byte, 0, 96), b.Lender.Name...), ", row "...), int64(loan.Row), 10))
			}
			r.Set(col, value, catalogue.RuleBorrow, catalogue.Ordered, source)
			b.count(r, LoanFilled)
			if old != "" && !r.Dry {
				r.Log.Settled(catalogue.TextLost, r.Row, col)
			}
			wrote = true
		}
	}
	return wrote
}

// again reports whether a row above it in the product has the same key: what
// follows is an image of the same thing.
func (b *borrowing) again(r *steps.RowAt) bool {
	for i, other := range r.Product.Rows[:r.Index] {
		if r.Log.IsAside(i) {
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
func (b *borrowing) report(r *steps.RowAt, loan *reference.Loan, key string) {
	switch {
	case loan == nil:
		b.count(r, LoanUnmatched)
		r.Find(catalogue.BorrowUnmatched, b.by[0], key, catalogue.Facts{Other: b.Lender.Name})
		if !r.Log.Judging() && !r.Dry {
			cells := make([]string, 0, 4)
			for _, col := range b.known {
				cells = append(cells, r.Cell(col))
			}
			r.Log.Enter(b.NotIn, r.Index, cells...)
		}
	case loan.Key != "":
		b.count(r, LoanMatched)
		b.count(r, LoanAlike)
		r.Find(catalogue.BorrowAlike, b.by[0], key, catalogue.Facts{Other: fmt.Sprintf("%s in %s, row %d", catalogue.Shorten(loan.Key, 40),
			b.Lender.Name, loan.Row)})
	default:
		b.count(r, LoanMatched)
	}
}

func (b *borrowing) count(r *steps.RowAt, what int) {
	if !r.Log.Judging() && !r.Dry {
		r.Log.Touch(b.First+what, r.Index)
	}
}

func whole(value string) bool {
	_, err := barcode.Parse(strings.TrimSpace(value))
	return err == nil
}

// Begin proposes to take what is missing from a sheet that lies beside the file.
func (*borrowSection) Begin(s *Seen, b *Draft) {
	if len(s.Trusted) == 0 || s.File == "" {
		return
	}
	for _, c := range s.Columns {
		if c.Field == catalogue.SKU {
			without := 0
			for _, f := range s.Found {
				if f.Code == catalogue.BarcodeMissing {
					without += f.Cells
				}
			}
			b.line("\n# Values that another sheet has, by SKU, into cells that are empty; %s no barcode:", plural(without, "row")+" with")
			b.line("# [[borrow]]\n# from = %s\n# by   = \"sku\"\n# take = [\"barcode\"]", quoted(s.Trusted[0]))
			return
		}
	}
}

// Ask asks whether to fill what is missing from a sheet that lies beside the file.
func (*borrowSection) Ask(s *Seen) (list []Question) {
	for _, b := range s.Beside {
		if !b.Barcodes { // which are asked for where they are lost, too
			list = append(list, yesNo("borrow="+b.Sheet+"="+b.Column, b.Has, fmt.Sprintf("%s, beside the file, has %s for %d of %s that lack it here.", b.Sheet, shown(b.Column), b.Has, plural(b.Of, "SKU")),
				"Fill the empty cells from there, where the SKU is the same?", newOf("borrow", "from", quoted(b.Sheet), "by", `"sku"`, "take", listOf([]string{b.Column}))))
		}
	}
	return list
}
