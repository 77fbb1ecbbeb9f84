package repair

import (
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/condition"
	"zetanum/core/heading"
	"zetanum/core/line"
	"zetanum/core/lists"
	"zetanum/core/products"
	"zetanum/core/reference"
	"zetanum/core/sheet"
	"zetanum/core/steps"
)

// lend opens the sheets to borrow from, and reads the lists of the rulebook.
func (r *runner) lend(temp string) error {
	r.asked = r.opt.Book
	book, err := r.opt.Book.WithLists(func(file string) ([]string, error) {
		return reference.ReadValues(file, "", sheet.Options{Spool: temp})
	})
	if err != nil {
		return fmt.Errorf("%s in a condition: %w", condition.Listed, err)
	}
	r.opt.Book = book
	for i := range r.opt.Book.Borrow {
		rule := &r.opt.Book.Borrow[i]
		if same(rule.From, r.opt.Input) {
			return fmt.Errorf("%s: %w", rule.From, reference.ErrSelf)
		}
		lender, err := reference.Lend(rule, sheet.Options{Spool: temp}, r.kindOf)
		if err != nil {
			return err
		}
		loan := &steps.Loan{BorrowRule: rule, Lender: lender}
		r.loans = append(r.loans, loan)
		if !rule.Backs() {
			continue
		}
		// By the exact SKU it is as good as a sheet that is named as trusted.
		opt := sheet.Options{Spool: temp, Sheet: rule.Sheet, Fields: catalogue.ParseFields(rule.Headings)}
		if trusted, err := reference.Load(rule.From, opt); err == nil {
			r.trust(trusted)
			loan.Trusted = true
		}
	}
	if err := r.families(temp); err != nil {
		return err
	}
	r.fields = make(map[string]steps.Field)
	for _, name := range slices.Sorted(maps.Keys(r.opt.Book.Field)) {
		f := steps.Field{FieldRule: r.opt.Book.Field[name]}
		values := f.OneOf
		if f.OneOfFrom != "" {
			var err error
			if values, err = reference.ReadValues(f.OneOfFrom, f.OneOfColumn, sheet.Options{Sheet: f.OneOfSheet, Spool: temp}); err != nil {
				return fmt.Errorf("[field.%s] one_of_from: %w", name, err)
			}
		}
		if len(values) > 0 {
			f.Known = lists.NewKnown(values)
		}
		r.fields[name] = f
	}
	for i := range r.opt.Book.Expand {
		rule := &r.opt.Book.Expand[i]
		pairs, err := reference.ReadPairs(rule.List, sheet.Options{Sheet: rule.Sheet, Spool: temp})
		if err != nil {
			return fmt.Errorf("[[expand]] list: %w", err)
		}
		codes, err := lists.NewCodes(pairs)
		if err != nil {
			return fmt.Errorf("[[expand]] list %s: %w", rule.List, err)
		}
		r.codeLists = append(r.codeLists, codes)
	}
	for i := range r.opt.Book.Derive {
		rule := &r.opt.Book.Derive[i]
		pairs, err := reference.ReadPairs(rule.List, sheet.Options{Sheet: rule.Sheet, Spool: temp})
		if err != nil {
			return fmt.Errorf("[[derive]] list: %w", err)
		}
		clues, err := lists.NewClues(pairs)
		if err != nil {
			return fmt.Errorf("[[derive]] list %s: %w", rule.List, err)
		}
		r.clues = append(r.clues, clues)
	}
	return nil
}

// packed fits the rules about options in one cell to the sheet: how they are written there
// is seen from its first rows.
func (r *runner) packed() (list []*steps.Packed, err error) {
	base := &r.table.Columns
	for i := range r.opt.Book.Options {
		rule := &r.opt.Book.Options[i]
		p := &steps.Packed{OptionsRule: rule, From: -1, NamesFrom: -1}
		if rule.Into != "" {
			p.Names = rule.Names
			list = append(list, p)
			continue
		}
		if p.From, err = r.opt.Book.Columns.NeedOne(base, "[[options]] from", rule.From); err != nil {
			return nil, err
		}
		if rule.NamesFrom != "" {
			if p.NamesFrom, err = r.opt.Book.Columns.NeedOne(base, "[[options]] names_from", rule.NamesFrom); err != nil {
				return nil, err
			}
		}
		if p.From < 0 || rule.NamesFrom != "" && p.NamesFrom < 0 {
			continue // it was taken apart before its column was dropped
		}
		var cells, names []string
		for _, row := range r.table.Sample {
			cells = append(cells, cellOf(row, p.From))
			names = append(names, cellOf(row, p.NamesFrom))
		}
		if p.NamesFrom < 0 {
			names = nil
		}
		var ok bool
		p.Packing, p.Names, ok = products.FindPacking(cells, rule.Names, names)
		if ok = ok || rule.InPairs > 0 && p.Packing.Between != ""; !ok {
			r.result.Notes = append(r.result.Notes, fmt.Sprintf("how the options in %q are written cannot be seen from its first rows; names under [[options]] may help", rule.From))
			continue
		}
		into := "the columns " + strings.Join(p.Names, ", ")
		if rule.InPairs > 0 {
			into = fmt.Sprintf("%d pairs of columns, for the name and the value of each", rule.InPairs)
			p.Names = nil
		}
		r.result.Notes = append(r.result.Notes, fmt.Sprintf("the options in %q are written %s, and go into %s", rule.From, p.Packing, into))
		list = append(list, p)
	}
	return list, nil
}

func cellOf(cells []string, col int) string {
	if col < 0 || col >= len(cells) {
		return ""
	}
	return cells[col]
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

// kindOf returns the nature of a field or heading.
func (r *runner) kindOf(name string) catalogue.Kind {
	if d, ok := r.opt.Book.Declared(name); ok {
		return d.Kind
	}
	if f, ok := catalogue.ParseField(name); ok {
		return f.Kind()
	}
	return heading.Field(name).Kind()
}

// returnLoans lets the sheets go that were borrowed from.
func (r *runner) returnLoans() {
	for _, l := range r.loans {
		l.Close()
	}
}

// targets returns the columns that rules fill, under the names with which they are
// added if they are not there.
func (r *runner) targets() (names []string) {
	for _, l := range r.loans {
		for _, t := range l.Taken {
			name := t.Name
			if f, ok := catalogue.ParseField(name); ok && heading.Field(t.Heading) == f {
				name = t.Heading
			}
			names = append(names, name)
		}
	}
	for i := range r.opt.Book.Each {
		e := &r.opt.Book.Each[i]
		names = append(names, e.Into)
		names = append(names, slices.Sorted(maps.Keys(e.Set))...)
	}
	if name := r.opt.Book.Products.OptionOfTitles; name != "" {
		names = append(names, name)
	}
	for _, name := range []string{r.opt.Book.Images.OfVariants, r.opt.Book.Sheet.RowNumbers} {
		if name != "" {
			names = append(names, name)
		}
	}
	if r.opt.Book.Images.As == "columns" {
		names = append(names, r.opt.Book.Images.Columns...)
	}
	if r.opt.Book.Images.Number {
		names = append(names, catalogue.ImageOrder.String())
	}
	for _, p := range r.options {
		if p.Into != "" {
			names = append(names, p.Into)
		} else {
			names = append(names, p.Names...)
		}
		for n := len(products.OptionPairs(&r.table.Columns)); n < p.InPairs; n++ {
			names = append(names, products.PairHeadings(n+1)...)
		}
	}
	for i := range r.opt.Book.Build {
		names = append(names, r.opt.Book.Build[i].Into)
	}
	for i := range r.opt.Book.Derive {
		names = append(names, r.opt.Book.Derive[i].Into)
	}
	return names
}

// needed reports whether the survey has to see a column because of what the
// rulebook says.
func (r *runner) needed(col int) bool {
	is := func(name string) bool {
		cols, _ := r.opt.Book.Columns.Find(&r.table.Columns, name)
		return slices.Contains(cols, col)
	}
	for name, f := range r.fields {
		if (f.Unique || f.Unify) && is(name) {
			return true
		}
	}
	for i := range r.opt.Book.Rows {
		if one := r.opt.Book.Rows[i].OnePer; one != "" && is(one) {
			return true
		}
	}
	for _, loan := range r.loans {
		keys, _ := loan.Keys()
		if slices.ContainsFunc(keys, is) {
			return true
		}
	}
	return false
}

// orders gathers what the rulebook orders for cells.
func (r *runner) orders(c *line.Course) (*steps.Orders, error) {
	book := &r.opt.Book
	o := steps.NewOrders(r.table, r.texts, &book.Columns, r.products, r.tally)
	o.Unknown = listUnknown
	for _, loan := range r.loans {
		loan.NotIn = len(c.Lists)
		c.Lists = append(c.Lists, r.listsOf(loan)...)
		if err := o.Borrow(loan); err != nil {
			return nil, err
		}
	}
	if book.Sheet.FillMerged {
		if err := o.Merged(); err != nil {
			return nil, err
		}
	}
	if name := book.Sheet.RowNumbers; name != "" {
		if err := o.RowNumbers(name); err != nil {
			return nil, err
		}
	}
	if err := o.Options(r.options); err != nil {
		return nil, err
	}
	if err := o.Columns(r.plan); err != nil {
		return nil, err
	}
	if err := o.Build(r.plan, book.Build); err != nil {
		return nil, err
	}
	for i := range book.Derive {
		if err := o.Derive(&book.Derive[i], r.clues[i]); err != nil {
			return nil, err
		}
	}
	for i := range book.Expand {
		if err := o.Expand(&book.Expand[i], r.codeLists[i]); err != nil {
			return nil, err
		}
	}
	if err := o.Words(book.Replace, book.Around, book.Closing); err != nil {
		return nil, err
	}
	if err := o.Values(r.fields, r.opt.Yes); err != nil {
		return nil, err
	}
	if r.texts.Fitter != nil {
		out, err := r.outColumns()
		if err != nil {
			return nil, err
		}
		o.Target(out)
	}
	return o, nil
}

// listsOf are the lists of a loan: the rows that the sheet does not have, and those
// of the sheet that nobody asked for.
func (r *runner) listsOf(loan *steps.Loan) []line.List {
	name := strings.TrimSuffix(loan.Lender.Name, filepath.Ext(loan.Lender.Name))
	for n := 2; ; n++ {
		taken := slices.ContainsFunc(r.loans, func(l *steps.Loan) bool { return l != loan && l.File == name })
		if !taken {
			break
		}
		name = fmt.Sprintf("%s-%d", strings.TrimSuffix(loan.Lender.Name, filepath.Ext(loan.Lender.Name)), n)
	}
	loan.File = name
	keys, _ := loan.Keys()
	var known []string
	for _, col := range steps.KnownBy(&r.table.Columns) {
		known = append(known, r.table.Columns.Headings[col])
	}
	headings := append([]string{"Row"}, keys...)
	for _, t := range loan.Taken {
		headings = append(headings, t.Heading)
	}
	return []line.List{
		{Name: "not-in-" + name + ".csv", Headings: known},
		{Name: "only-in-" + name + ".csv", Headings: headings, Rest: func(enter func(...string)) error {
			return loan.Unasked(func(row int, key, values []string) {
				enter(slices.Concat([]string{fmt.Sprint(row)}, key, values)...)
			})
		}},
	}
}

// sortBy returns the columns by which the products are sorted.
func (r *runner) sortBy() (cols []int, err error) {
	for _, name := range r.opt.Book.Sheet.SortBy {
		found, _ := r.opt.Book.Columns.Find(&r.table.Columns, name)
		if len(found) == 0 {
			return nil, columns.NotThere(&r.table.Columns, "[sheet] sort_by", name)
		}
		cols = append(cols, found[0])
	}
	return cols, nil
}

// repeats says what becomes of repeated rows.
func repeats(rules *condition.SheetRules) line.Repeats {
	switch rules.Repeats {
	case "keep":
		return line.RepeatsKept
	case "hold":
		return line.RepeatsHeld
	}
	return line.RepeatsAside
}
