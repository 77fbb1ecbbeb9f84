package sections

import (
	"fmt"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/lists"
	"zetanum/core/reference"
	"zetanum/core/rulebook"
	"zetanum/core/sheet"
	"zetanum/core/steps"
)

// deriveSection fills fields by words that are found in texts.
type deriveSection struct {
	plain
	rules *[]lists.DeriveRule
	clues []*lists.Clues // by rule
}

func (*deriveSection) Parts() []rulebook.Part {
	return []rulebook.Part{
		{
			Name: "derive", Line: "[[derive]]",
			Says: "A field filled from words that are found in texts, where it is empty. Rows in which no word is found, or " +
				"words for several values, are named.",
			Shared: rulebook.Scope,
			Keys: []rulebook.Key{
				{
					Name: "into",
					Says: "The field or heading to fill, where it is empty; it is added if it is not there.",
					Example: `into = "category"
from = ["title"]
list = "categories.csv"`,
				},
				{
					Name: "from",
					Says: "The fields or headings in whose texts the words are looked for.",
					Example: `into = "category"
from = ["title", "tags"]
list = "categories.csv"`,
				},
				{
					Name: "list",
					Says: "A sheet with words in its first column and what they speak for in the second, below a heading. Whole words " +
						"count, in any case; of two that overlap the longer one.",
					Example: `into = "category"
from = ["title"]
list = "categories.csv"`,
				},
				{
					Name: "choose",
					Says: `"first-in-list" takes, where words for several values are found, the one that stands first in the list. Without it such ` +
						"rows stay empty and are named.",
					Example: `into   = "category"
from   = ["title"]
list   = "categories.csv"
choose = "first-in-list"`,
				},
				{
					Name: "otherwise",
					Says: "The value where no word is found.",
					Example: `into      = "category"
from      = ["title"]
list      = "categories.csv"
otherwise = "Various"`,
				},
				{
					Name: "sheet",
					Says: "The sheet of a workbook.",
					Example: `into  = "category"
from  = ["title"]
list  = "words.xlsx"
sheet = "Categories"`,
				},
			},
		},
	}
}

func (s *deriveSection) Tables() []rulebook.Table {
	return []rulebook.Table{{Name: "derive", Into: s.rules}}
}

func (s *deriveSection) Check() (problems []rulebook.Problem) {
	for i := range *s.rules {
		problems = append(problems, rulebook.In("derive", i+1, (*s.rules)[i].Check())...)
	}
	return problems
}

// Adds returns the columns that are filled.
func (b *deriveSection) Adds(*Sheet) (names []string, err error) {
	for i := range *b.rules {
		names = append(names, (*b.rules)[i].Into)
	}
	return names, nil
}

func (d *deriveSection) Files() (names []*string) {
	for i := range *d.rules {
		names = append(names, &(*d.rules)[i].List)
	}
	return names
}

// Open reads the lists.
func (d *deriveSection) Open(s *Sheet) error {
	for i := range *d.rules {
		rule := &(*d.rules)[i]
		pairs, err := reference.ReadPairs(rule.List, sheet.Options{Sheet: rule.Sheet, Spool: s.Temp})
		if err != nil {
			return fmt.Errorf("[[derive]] list: %w", err)
		}
		clues, err := lists.NewClues(pairs)
		if err != nil {
			return nth(i, fmt.Errorf("[[derive]] list %s: %w", rule.List, err))
		}
		d.clues = append(d.clues, clues)
	}
	return nil
}

// Order orders that fields are filled by words that are found in texts.
func (d *deriveSection) Order(s *Sheet) error {
	for i := range *d.rules {
		if err := s.derive(&(*d.rules)[i], d.clues[i]); err != nil {
			return nth(i, err)
		}
	}
	return nil
}

func (s *Sheet) derive(rule *lists.DeriveRule, clues *lists.Clues) error {
	into, err := s.NeedOne("[[derive]] into", rule.Into)
	if err == nil {
		err = steps.Unreserved(&s.Columns, into, catalogue.FieldsOf(catalogue.Barcode), "[[derive]] into", rule.Into)
	}
	if err != nil || into < 0 {
		return err
	}
	var from []int
	for _, name := range rule.From {
		col, err := s.NeedOne("[[derive]] from", name)
		if err != nil || col < 0 {
			return err
		}
		from = append(from, col)
	}
	d := &derivation{rule: rule, clues: clues, from: from, into: into}
	number, err := s.Orders.Add(steps.Order{
		Key: "derive", Phase: steps.PhaseDerive, Reads: from, Writes: []int{into}, Rules: []catalogue.Rule{catalogue.RuleDerive},
		Do: func(r *steps.RowAt) bool { return s.derived(r, d) },
	}, rule.Scope, rule.String())
	if err == nil {
		d.filled = s.Tally.AddFilled(number)
	}
	return err
}

// A derivation is a rule that is fitted to the sheet.
type derivation struct {
	rule   *lists.DeriveRule
	clues  *lists.Clues
	from   []int
	into   int
	filled int // in the tally: cells that an earlier rule had filled
}

// derived fills a cell with the one value for which words in others speak, and reports
// whether there is one.
func (s *Sheet) derived(r *steps.RowAt, d *derivation) bool {
	if r.Cell(d.into) != "" {
		if r.Log.Wrote(catalogue.RuleDerive, r.Row, d.into) {
			r.Touch(d.filled, d.into)
		}
		return false
	}
	if !r.Belongs(d.into) {
		return false
	}
	var values []string
	any := false
	view := r.View()
	for _, col := range d.from {
		any = any || view.Cell(col) != ""
		for _, v := range d.clues.Values(view.Cell(col)) {
			if !slices.Contains(values, v) {
				values = append(values, v)
			}
		}
	}
	value := ""
	switch {
	case len(values) == 1:
		value = values[0]
	case len(values) > 1 && d.rule.Choose == lists.FirstInList:
		value = d.clues.First(values)
	case len(values) > 1:
		s.Orders.Unknown(r, catalogue.DeriveSeveral, d.into, "", catalogue.Facts{Other: strings.Join(values, " and ")})
	case d.rule.Otherwise != "":
		value = d.rule.Otherwise
	case any:
		s.Orders.Unknown(r, catalogue.DeriveNone, d.into, view.Cell(d.from[0]), catalogue.Facts{})
	}
	if value == "" {
		return false
	}
	r.Set(d.into, value, catalogue.RuleDerive, catalogue.Ordered, "")
	return true
}
