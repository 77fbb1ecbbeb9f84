package sections

import (
	"maps"
	"slices"
	"strconv"
	"strings"
	"sync"

	"zetanum/core/catalogue"
	"zetanum/core/condition"
	"zetanum/core/lists"
	"zetanum/core/pattern"
	"zetanum/core/products"
	"zetanum/core/steps"
	"zetanum/core/tags"
	"zetanum/core/text"
)

// A tagsColumn are the tags of one column.
type tagsColumn struct {
	sheet  *Sheet
	rules  *tags.Rules
	col    int
	number int // in the tally
	tidier *tags.Tidier
	again  *tags.Tidier // of what has been written
	shop   *tags.Tidier // reads the tags of the shop

	sku, slug, category int
	levels              *levelReader
	attributes          []attribute
	known               sync.Once
	always              []*pattern.Pattern
	when                []tagsWhen
}

type attribute struct {
	name string
	col  int
	all  bool // the values of all variants, which no order changes; known when all orders are
}

type tagsWhen struct {
	number int
	where  *condition.Condition
	rows   catalogue.Rows
	add    []*pattern.Pattern
}

// additions finds what tags are made of, and returns the columns.
func (c *tagsColumn) additions(rules *tags.Rules) (reads []int, err error) {
	s := c.sheet
	patterns := func(part, key string, list []string) (fitted []*pattern.Pattern, err error) {
		for _, from := range list {
			p, cols, gone, err := s.pattern(part, key, from, catalogue.Tags.String(), c.col)
			if err != nil {
				return nil, &ruleError{key: key, error: err}
			}
			if !gone {
				fitted, reads = append(fitted, p), append(reads, cols...)
			}
		}
		return fitted, nil
	}
	if c.always, err = patterns("[tags]", "always", rules.Always); err != nil {
		return nil, err
	}
	for i := range rules.When {
		rule := &rules.When[i]
		w := tagsWhen{rows: rule.Rows, number: s.Tally.Add("tags "+strings.Join(rule.Add, ", "), "given", rule.Count)}
		var asks []int
		if w.where, asks, err = s.Where(rule.Where); err == nil {
			w.add, err = patterns("[[tags.when]]", "add", rule.Add)
		}
		if err != nil {
			return nil, &ruleError{part: "tags.when", n: i + 1, error: err}
		}
		reads = append(reads, asks...)
		c.when = append(c.when, w)
	}
	for _, name := range slices.Sorted(maps.Keys(rules.Attributes)) {
		col, err := s.NeedOne("[tags] attributes", name)
		if err != nil {
			return nil, &ruleError{key: "attributes", error: err}
		}
		if col >= 0 {
			c.attributes = append(c.attributes, attribute{name: name, col: col})
			reads = append(reads, col)
		}
	}
	if c.category = -1; rules.CategoryLevels {
		if c.category, err = s.NeedOne("[tags] category_levels", catalogue.Category.String()); err != nil {
			return nil, &ruleError{key: "category_levels", error: err}
		}
		if c.category >= 0 {
			c.levels = s.levelsOf(c.category)
			reads = append(reads, c.category)
		}
	}
	return reads, nil
}

// added returns the tags that a row gets.
func (c *tagsColumn) added(r *steps.RowAt) (add []string) {
	c.known.Do(func() {
		for i := range c.attributes {
			a := &c.attributes[i]
			a.all = c.sheet.Products.Level(a.col) == products.OfVariant && c.sheet.Orders.WrittenBy(a.col) == ""
		}
	})
	view := r.View()
	build := func(list []*pattern.Pattern) (some bool) {
		for _, p := range list {
			if tag, missing := p.Text(view); missing == "" && tag != "" {
				add, some = append(add, tag), true
			}
		}
		return some
	}
	build(c.always)
	for i := range c.when {
		if w := &c.when[i]; r.Means(w.rows) && r.Holds(w.where) && build(w.add) {
			r.Touch(w.number, c.col)
		}
	}
	if c.levels != nil {
		for _, path := range c.levels.Paths(view.Cell(c.category)) {
			add = append(add, path...)
		}
	}
	return append(add, c.rules.Pairs(func(name string) (values []string) {
		at := slices.IndexFunc(c.attributes, func(a attribute) bool { return a.name == name })
		switch {
		case at < 0:
		case !c.attributes[at].all:
			values = []string{view.Cell(c.attributes[at].col)}
		default:
			for i, row := range r.Product.Rows {
				if !r.Log.IsAside(i) {
					values = append(values, row.Cell(c.attributes[at].col))
				}
			}
		}
		return values
	})...)
}

// do puts the tags of a row in order.
func (c *tagsColumn) do(r *steps.RowAt) bool {
	cell := r.Cell(c.col)
	belongs := r.Belongs(c.col)
	if r.Dry && c.rules.Mode == tags.Remove {
		return false // it is done once
	}
	if cell == "" && (!belongs || !c.rules.Adds()) {
		return false
	}
	var inShop, add []string
	if c.shop != nil && belongs {
		inShop = c.shop.Tidy(c.sheet.inShop.tagsOf(r.Cell(c.sku), r.Cell(c.slug)), nil, nil).Tags
	}
	if c.rules.Adds() && belongs {
		add = c.added(r)
	}
	tidier := c.tidier
	if r.Dry {
		tidier = c.again
	}
	if tidier.Stays(cell, add) || r.Damaged(c.col) {
		return false
	}
	res := tidier.Tidy(cell, inShop, add)
	if long, n := tidier.TooLong(res.Tags); long != "" {
		r.Find(catalogue.TagsLong, c.col, cell, catalogue.Facts{Other: catalogue.Shorten(long, 60), Digits: n, Length: c.rules.LongestTag})
	}
	for i, tag := range res.Unlisted {
		facts := catalogue.Facts{Other: tag}
		if res.Likely[i] != "" {
			facts.Decides = "Perhaps " + res.Likely[i] + " was meant."
		}
		c.sheet.Orders.Unknown(r, catalogue.TagsUnlisted, c.col, cell, facts)
	}
	if c.rules.Unlisted == tags.Drop && res.Known == 0 && belongs {
		c.sheet.Orders.Unknown(r, catalogue.TagsNone, c.col, cell, catalogue.Facts{})
	}
	after, with := tidier.Write(res.Tags)
	if with != "" {
		r.Find(catalogue.TagsInside, c.col, cell, catalogue.Facts{Other: strconv.Quote(with)})
		return false
	}
	if after != cell {
		r.Touch(c.number, c.col)
		r.Set(c.col, after, catalogue.RuleTags, catalogue.Ordered, "")
	}
	return false
}

// tagCounts counts the tags of a column.
type tagCounts struct {
	col    int
	tidier *tags.Tidier
	lists.Spellings
}

func (t *tagCounts) Learn(p *catalogue.Product) {
	for _, row := range p.Rows {
		if cell := row.Cell(t.col); cell != "" {
			t.tidier.Each(cell, t.Add)
		}
	}
}

func (t *tagCounts) Merge(next steps.Learned) { t.Spellings.Merge(&next.(*tagCounts).Spellings) }

// marksOf counts what stands between the values of a column.
type marksOf struct {
	col    int
	of     *lists.Between
	sample rowSample
	lists.Marks
}

func (m *marksOf) Learn(p *catalogue.Product) {
	for _, row := range p.Rows {
		if m.sample.takes(row) {
			m.Add(m.of, row.Cell(m.col))
		}
	}
}

func (m *marksOf) Merge(next steps.Learned) { m.Marks.Merge(&next.(*marksOf).Marks) }

// learnMarks lets the survey learn what stands between the values of a column.
func (s *Sheet) learnMarks(col int, of *lists.Between, judge func(*lists.Marks) error) {
	s.Orders.Learn(steps.Learner{Cols: s.sampling().cols(col), New: func() steps.Learned { return &marksOf{col: col, of: of, sample: s.sampling()} },
		Judge: func(l steps.Learned) error { return judge(&l.(*marksOf).Marks) }})
}

// tagMark returns what stands between the tags of a column when they have been put in order; ok is false if they are not.
func (s *Sheet) tagMark(col int) (at text.List, ok bool) {
	c, ok := s.tags[col]
	if !ok {
		return "", false
	}
	return c.tidier.Between(), true
}
