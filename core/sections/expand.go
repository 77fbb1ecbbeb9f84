package sections

import (
	"fmt"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/lists"
	"zetanum/core/reference"
	"zetanum/core/rulebook"
	"zetanum/core/sheet"
	"zetanum/core/steps"
	"zetanum/core/text"
)

// expandSection writes short codes out.
type expandSection struct {
	plain
	rules *[]lists.ExpandRule
	codes []*lists.Codes // by rule
}

func (*expandSection) Parts() []rulebook.Part {
	return []rulebook.Part{
		{
			Name: "expand", Line: "[[expand]]",
			Says: "Short codes written out, from a sheet of two columns. Codes that it does not have are named. What is written " +
				"out already is left.",
			Shared: rulebook.Cells,
			Keys: []rulebook.Key{
				{
					Name: "list",
					Says: "A sheet with the codes in its first column and what they stand for in the second, below a heading. Case does " +
						"not count.",
					Example: `in   = ["material"]
list = "materials.csv"`,
				},
				{
					Name: "sheet",
					Says: "The sheet of a workbook.",
					Example: `in    = ["category"]
list  = "lists.xlsx"
sheet = "Categories"`,
				},
				{
					Name: "at",
					Says: "The text between several codes in one cell.",
					Example: `in   = ["Features"]
list = "features.csv"
at   = "/"`,
				},
			},
		},
	}
}

func (s *expandSection) Tables() []rulebook.Table {
	return []rulebook.Table{{Name: "expand", Into: s.rules}}
}

func (s *expandSection) Check() (problems []rulebook.Problem) {
	for i := range *s.rules {
		problems = append(problems, rulebook.In("expand", i+1, (*s.rules)[i].Check())...)
	}
	return problems
}

func (e *expandSection) Files() (names []*string) {
	for i := range *e.rules {
		names = append(names, &(*e.rules)[i].List)
	}
	return names
}

// Open reads the lists.
func (e *expandSection) Open(s *Sheet) error {
	for i := range *e.rules {
		rule := &(*e.rules)[i]
		pairs, err := reference.ReadPairs(rule.List, sheet.Options{Sheet: rule.Sheet, Spool: s.Temp})
		if err != nil {
			return fmt.Errorf("[[expand]] list: %w", err)
		}
		codes, err := lists.NewCodes(pairs)
		if err != nil {
			return nth(i, fmt.Errorf("[[expand]] list %s: %w", rule.List, err))
		}
		e.codes = append(e.codes, codes)
	}
	return nil
}

// Order orders that short codes are written out.
func (e *expandSection) Order(s *Sheet) error {
	for i := range *e.rules {
		if err := e.order(s, &(*e.rules)[i], e.codes[i]); err != nil {
			return nth(i, err)
		}
	}
	return nil
}

func (*expandSection) order(s *Sheet, rule *lists.ExpandRule, codes *lists.Codes) error {
	number := -1
	for _, name := range rule.In {
		found, err := s.Need("[[expand]] in", name)
		if err != nil {
			return err
		}
		for _, col := range found {
			if f := s.Columns.Fields[col]; f == catalogue.Barcode || f == catalogue.SKU {
				return columns.Refuse("[[expand]] in names %q, which is the field %s: it is what a product is known by", name, f)
			}
			if number < 0 {
				number = s.Tally.Add(rule.String(), steps.Changed, rule.Count)
			}
			if err := s.Orders.AddCounted(steps.Order{
				Key: "expand", Phase: steps.PhaseExpand, Writes: []int{col}, Rules: []catalogue.Rule{catalogue.RuleExpand},
				Do: func(r *steps.RowAt) bool { return s.expand(r, col, text.List(rule.At), codes) },
			}, rule.Meant, number); err != nil {
				return err
			}
		}
	}
	return nil
}

func (s *Sheet) expand(r *steps.RowAt, col int, at text.List, codes *lists.Codes) bool {
	cell := r.Cell(col)
	if strings.TrimSpace(cell) == "" {
		return false
	}
	parts := at.Parts(cell)
	written := false
	var unknown []string
	for i, part := range parts {
		trimmed := strings.TrimSpace(part)
		value, known := codes.Find(trimmed)
		switch {
		case value != "" && value != trimmed:
			parts[i] = strings.Replace(part, trimmed, value, 1)
			written = true
		case !known && trimmed != "":
			unknown = append(unknown, trimmed)
		}
	}
	if unknown != nil {
		s.Orders.Unknown(r, catalogue.ExpandUnknown, col, cell, catalogue.Facts{Other: strings.Join(unknown, ", ")})
	}
	if written {
		r.Set(col, at.Join(parts), catalogue.RuleExpand, catalogue.Ordered, "")
	}
	return written
}
