package sections

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"sync"

	"zetanum/core/catalogue"
	"zetanum/core/category"
	"zetanum/core/columns"
	"zetanum/core/condition"
	"zetanum/core/line"
	"zetanum/core/lists"
	"zetanum/core/reference"
	"zetanum/core/rulebook"
	"zetanum/core/sheet"
	"zetanum/core/steps"
)

// categorySection puts categories in order.
type categorySection struct {
	plain
	rules *category.Rules
	field *FieldTable   // what the field must be, if it is read here
	own   *category.Map // nil without a list
	into  []string      // the headings of the list behind its second
	heads [2]string     // its first two
}

func (*categorySection) Parts() []rulebook.Part {
	return []rulebook.Part{{
		Name: "category", Line: "[category]", Also: fieldKeys(),
		Says: "Categories: paths such as Garden > Watering, and the shop's own in place of the supplier's. Nothing is done to them without " +
			"an order. What the field must be, such as one_of_from and unify, stands here, too. More under [categories](categories.md).",
		Keys: []rulebook.Key{
			{
				Name: "list",
				Says: "A sheet with the supplier's categories in its first column and the shop's own in the second. Case, spaces and what stands " +
					"between levels do not count, and the longest beginning of a path decides. Further columns, such as type or a number, fill " +
					"the columns of the same name. What the list does not have is in unmapped-categories.csv, the most frequent first, to be " +
					"filled in and used as the list.",
				Example: `list = "categories.csv"`,
			},
			{
				Name: "sheet",
				Says: "The sheet of a workbook.",
				Example: `list  = "lists.xlsx"
sheet = "Categories"`,
			},
			{
				Name:    "between",
				Says:    "What is written between levels. With a list \" > \", if nothing is said.",
				Example: `between = " > "`,
			},
			{
				Name: "at",
				Says: "What stands between the levels of the file: if nothing is said it is found by looking at the whole column. Quotation marks " +
					"around a level are honoured.",
				Example: `at      = ":"
between = " > "`,
			},
			{
				Name: "several",
				Says: "What stands between several categories of one product, where there may be such.",
				Example: `several = "|"
between = " > "`,
			},
		},
	}}
}

func (c *categorySection) Tables() []rulebook.Table {
	return []rulebook.Table{{Name: "category", Into: &struct {
		*category.Rules
		*FieldTable
	}{c.rules, c.field}}}
}

func (c *categorySection) Check() []rulebook.Problem {
	return rulebook.In("category", 0, c.rules.Check())
}

func (c *categorySection) Files() []*string { return []*string{&c.rules.List} }

// UnmappedName is the list of categories that the list of the rulebook does not have, and rowsHeading that of its last column,
// which is not read where it is used as the list.
const (
	UnmappedName = "unmapped-categories.csv"
	rowsHeading  = "Rows with it"
)

// Open reads the list.
func (c *categorySection) Open(s *Sheet) error {
	if c.rules.List == "" {
		return nil
	}
	wrong := func(err error) error {
		return &ruleError{key: "list", error: fmt.Errorf("[category] list %s: %w", c.rules.List, err)}
	}
	headings, rows, err := reference.ReadRows(c.rules.List, sheet.Options{Sheet: c.rules.Sheet, Spool: s.Temp})
	if err != nil {
		return wrong(err)
	}
	c.own, c.heads = new(category.Map), [2]string{headings[0], headings[1]}
	var cols []int
	for i, h := range headings[2:] {
		if h = strings.TrimSpace(h); h != "" && h != rowsHeading {
			c.into, cols = append(c.into, h), append(cols, i+2)
		}
	}
	for _, row := range rows {
		rest := make([]string, len(cols))
		for i, col := range cols {
			rest[i] = row.Cell(col)
		}
		if err := c.own.Add(row.Number, row.Cell(0), row.Cell(1), rest); err != nil {
			return wrong(fmt.Errorf("%w: %w", lists.ErrList, err))
		}
	}
	if err := c.own.Settled(); err != nil {
		return wrong(fmt.Errorf("%w: %w", lists.ErrList, err))
	}
	return nil
}

// Adds returns the columns that the list fills.
func (c *categorySection) Adds(*Sheet) ([]string, error) { return c.into, nil }

// A levelReader reads the levels of a column of categories, when it has been seen.
type levelReader struct{ *category.Reader }

// levelsOf returns what reads the categories of a column for others, when all has been done to it.
func (s *Sheet) levelsOf(col int) *levelReader {
	if r := s.levels[col]; r != nil {
		return r
	}
	r := &levelReader{new(category.Rules).NewReader(lists.Form{})}
	if col < s.Columns.Own() {
		s.learnMarks(col, &lists.OfLevels, func(m *lists.Marks) error {
			r.Reader = new(category.Rules).NewReader(m.Judge(&lists.OfLevels))
			return nil
		})
	}
	return r
}

// A categoryColumn are the categories of one column.
type categoryColumn struct {
	sheet  *Sheet
	own    *category.Map
	col    int
	number int // in the tally
	into   []int
	read   *category.Reader // what the file says
	write  *levelReader     // what goes out
	spelt  *category.Spelt  // nil if spellings are not brought to one

	mu       sync.Mutex
	unmapped lists.Times
}

// Order orders that categories are put in order.
func (c *categorySection) Order(s *Sheet) error {
	if c.rules.Idle() {
		s.lookAtCategories()
		return nil
	}
	cols, err := s.Need("[category]", catalogue.Category.String())
	if err != nil {
		return err
	}
	for n, col := range cols {
		one := &categoryColumn{sheet: s, own: c.own, col: col, number: s.Tally.Add(c.rules.String(), steps.Changed, 0)}
		one.read = c.rules.NewReader(lists.Form{})
		one.write = &levelReader{one.read}
		s.levels[col] = one.write
		if col < s.Columns.Own() {
			s.learnMarks(col, &lists.OfLevels, func(m *lists.Marks) error {
				one.read = c.rules.NewReader(m.Judge(&lists.OfLevels))
				if one.write.Reader = one.read.Own(); s.wrote(col, one.read.Mark()) {
					one.read = one.write.Reader
				}
				return nil
			})
		}
		order := steps.Order{Key: "category", Phase: steps.PhaseWords, Writes: []int{col}, Do: one.do,
			Rules: []catalogue.Rule{catalogue.RuleCategory}}
		if field, said := s.Fields[catalogue.Category.String()]; said && field.Unify && field.Known == nil && col < s.Columns.Own() {
			s.Orders.CompareBy(col, false, nil, func(seen *lists.Spellings) {
				spelt := new(category.Spelt)
				if seen.Each(func(cell string, rows int) {
					for _, levels := range one.read.Paths(cell) {
						spelt.Add(levels, rows)
					}
				}) {
					spelt.Settle()
					one.spelt = spelt
				}
			})
		}
		s.settled[col] = true
		if n == 0 {
			for _, name := range c.into {
				into, err := s.NeedOne("[category] list", name)
				if err == nil {
					err = steps.Unreserved(&s.Columns, into, catalogue.FieldsOf(catalogue.Barcode, catalogue.SKU), "[category] list", name)
				}
				if err != nil {
					return &ruleError{key: "list", error: err}
				}
				if one.into = append(one.into, into); into == col {
					return &ruleError{key: "list", error: columns.Refuse("[category] list: the column %q is the category itself", name)}
				} else if into >= 0 {
					order.Writes = append(order.Writes, into)
				}
			}
			one.unmappedList(c.heads, c.into)
		}
		if err := s.Orders.AddCounted(order, condition.Meant{}, -1); err != nil {
			return err
		}
	}
	return nil
}

// lookAtCategories names paths that an order would put in one form.
func (s *Sheet) lookAtCategories() {
	col := s.Columns.First(catalogue.Category)
	if col < 0 || col >= s.Columns.Own() || !steps.Compares(s.Table) {
		return
	}
	var form lists.Form
	var read *category.Reader
	s.learnMarks(col, &lists.OfLevels, func(m *lists.Marks) error {
		form = m.Judge(&lists.OfLevels)
		between := string(form.At)
		if form.Spaced {
			between = " " + between + " "
		}
		read = (&category.Rules{Between: between}).NewReader(form)
		return nil
	})
	tidy := new(standing)
	s.Orders.Look("category", []int{col}, func(r *steps.RowAt) {
		cell := r.Cell(col)
		if cell == "" || form.At == "" || tidy.has(cell) {
			return
		}
		if after := read.Join(read.Paths(cell)); after != cell && after != "" {
			r.Find(catalogue.CategoryUntidy, col, cell, catalogue.Facts{Other: after, Proposed: after})
		} else {
			tidy.keep(cell)
		}
	})
}

// Begin proposes what categories need, and shows how the shop's own are put in place.
func (*categorySection) Begin(s *Seen, b *Draft) {
	if !s.has(catalogue.Category) {
		return
	}
	b.line("\n# [category]                    # the list may be empty at first: unmapped-categories.csv shows what to fill in")
	b.line("# %-28s # the supplier's, and the shop's own", "list    = \"categories.csv\"")
	if n := s.spelt(catalogue.Category); n > 0 {
		b.line("# %-28s # %s spelt otherwise than most", "unify   = true", plural(n, "cell"))
	}
	if n := s.cells(catalogue.CategoryUntidy); n > 0 {
		b.line("# %-28s # %s with something else between levels than most", "between = \" > \"", plural(n, "cell"))
	}
}

// unmappedList adds the list of categories that the shop's own are not known of.
func (c *categoryColumn) unmappedList(heads [2]string, into []string) {
	if c.own == nil {
		return
	}
	c.sheet.List(line.List{Name: UnmappedName, Headings: slices.Concat(heads[:], into, []string{rowsHeading}),
		Rest: func(enter func(cells ...string)) error {
			for _, path := range slices.SortedFunc(maps.Keys(c.unmapped), func(a, b string) int {
				return cmp.Or(c.unmapped.Of(b)-c.unmapped.Of(a), strings.Compare(a, b))
			}) {
				cells := make([]string, 2+len(into)+1)
				cells[0], cells[len(cells)-1] = path, strconv.Itoa(c.unmapped.Of(path))
				enter(cells...)
			}
			return nil
		}})
}

func (c *categoryColumn) do(r *steps.RowAt) bool {
	cell := r.Cell(c.col)
	if strings.TrimSpace(cell) == "" || r.Damaged(c.col) {
		return false
	}
	read := c.read
	if r.Dry {
		read = c.write.Reader
	}
	paths := read.Paths(cell)
	if len(paths) == 0 {
		return false
	}
	var rest []string
	for i, levels := range paths {
		var e *category.Entry
		if c.own != nil {
			e, _ = c.own.Find(levels)
		}
		if e == nil && c.spelt != nil {
			var other []string
			if levels, other = c.spelt.Right(levels); other != nil {
				r.Find(catalogue.ValueTie, c.col, cell, catalogue.Facts{Other: read.Write(other)})
			}
			paths[i] = levels
		}
		if c.own == nil {
			continue
		}
		if e == nil {
			path := read.Write(levels)
			r.Find(catalogue.CategoryUnmapped, c.col, path, catalogue.Facts{})
			if !r.Dry && !r.Log.Judging() {
				c.mu.Lock()
				c.unmapped.Add(path, 1)
				c.mu.Unlock()
			}
			continue
		}
		if paths[i] = e.Own; rest == nil {
			rest = e.Rest
		}
	}
	if after := read.Join(paths); after != cell {
		r.Touch(c.number, c.col)
		r.Set(c.col, after, catalogue.RuleCategory, catalogue.Ordered, "")
	}
	for i, value := range rest {
		if i < len(c.into) && c.into[i] >= 0 && value != "" {
			r.Set(c.into[i], value, catalogue.RuleCategory, catalogue.Ordered, "")
		}
	}
	return false
}

// Ask asks for what would put categories in order.
func (*categorySection) Ask(s *Seen) (list []Question) {
	if n := s.spelt(catalogue.Category); n > 0 {
		list = append(list, yesNo("category.unify", n, fmt.Sprintf("%s spelt otherwise than most that mean the same.", are(n, "category")), "Write them as most are?",
			set("category", "unify", "true")).on(catalogue.ValueSpelling, s.first(catalogue.Category)))
	}
	if n := s.cells(catalogue.CategoryUntidy); n > 0 {
		list = append(list, yesNo("category.untidy", n, fmt.Sprintf("%s something else between the levels than most.", verb(n, "category", "has", "have")), "Write “ > ” between the levels of all?",
			set("category", "between", `" > "`)).on(catalogue.CategoryUntidy, s.first(catalogue.Category)))
	}
	return list
}
