// Package steps adapts the rooms that know a trade to the line. There are three kinds of
// steps: those that look at rows and codes whatever a rulebook says, in files of their own;
// those that a rulebook orders for rows and products; and one that carries out what it
// orders for cells ([Orders]).
package steps

import (
	"errors"
	"fmt"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/condition"
	"zetanum/core/line"
	"zetanum/core/products"
	"zetanum/core/quantity"
	"zetanum/core/returned"
	"zetanum/core/sheet"
)

// A Sheet is a table with all that the steps which are fitted to it share. It numbers what
// they count, claim and list.
type Sheet struct {
	*sheet.Table

	// Rules says which columns the rulebook renames and drops, and Out which columns
	// go out.
	Rules *columns.Rules
	Out   []int

	Key      *products.Key    // what says which rows are one product
	Together int              // the column that the rulebook declares to say it, -1 if it declares none
	Kin      *products.Kin    // products that are made one; may be nil
	Products *products.Layout // what the rows of a product are

	Returned  *returned.Rows // what people have mended; nil if nothing came back
	Texts     *Texts
	Codes     *Codes
	Decisions catalogue.Decisions // what a person has said

	// Written are the columns that orders may change, once these are known.
	Written catalogue.ColumnSet
	// Ordered are those of them that orders for cells write when codes have been judged.
	Ordered catalogue.ColumnSet

	// Made are those of them into which nothing is written but codes that are made.
	Made catalogue.ColumnSet

	// LeftOut says in words what rules do nothing, because what they work on is left out.
	LeftOut []string

	// Forms are how rules write the numbers of columns, and Dates their dates, where they do.
	Forms map[int]quantity.Form
	Dates map[int]quantity.DateForm
	// Exchanges are pairs of columns of prices whose cells are exchanged where they look swapped, and Swapped these stretches, once the survey
	// has seen them.
	Exchanges map[[2]int]bool
	Swapped   []Swapped
	// OwnRatios are columns that reckon something from the price and the cost, such as a margin.
	OwnRatios []OwnRatio
	// Targeted says that the rulebook has something on the importer: what that would sell at wrongly is held.
	Targeted bool

	Required int // how many columns of the file are required

	Tally  Tally
	Claims []line.Claim
	Lists  []line.List
}

// Swapped is a stretch of rows in which two columns stand in one another's place.
type Swapped struct {
	Cols        [2]int
	First, Last int // rows
}

// Claim returns the number of a kind of claim that a step makes.
func (s *Sheet) Claim(c line.Claim) line.ClaimKind {
	s.Claims = append(s.Claims, c)
	return line.ClaimKind(len(s.Claims) - 1)
}

// List returns the number of a list into which a step enters lines.
func (s *Sheet) List(l line.List) int {
	s.Lists = append(s.Lists, l)
	return len(s.Lists) - 1
}

// Need returns the columns that a name stands for, as [columns.Rules.Need] does; key is the
// part of the rulebook that names it.
func (s *Sheet) Need(key, name string) ([]int, error) {
	cols, err := s.Rules.Need(&s.Columns, key, name)
	if len(cols) == 0 && err == nil {
		s.leaveOut(key, name)
	}
	return cols, err
}

// NeedOne returns the first of those columns, -1 if the rulebook drops it.
func (s *Sheet) NeedOne(key, name string) (int, error) {
	cols, err := s.Need(key, name)
	if len(cols) == 0 {
		return -1, err
	}
	return cols[0], nil
}

// Find returns the columns that a name stands for, none if there are none.
func (s *Sheet) Find(name string) []int {
	cols, _ := s.Rules.Find(&s.Columns, name)
	return cols
}

// Where reads a condition, nil if there is none, and returns the columns it looks at, too.
func (s *Sheet) Where(table map[string]any) (c *condition.Condition, reads []int, err error) {
	if table == nil {
		return nil, nil, nil
	}
	c, err = condition.Parse(table, func(name string) int {
		col := s.column(name)
		if col >= 0 {
			reads = append(reads, col)
		}
		return col
	})
	if errors.Is(err, condition.ErrGone) {
		_, name, _ := strings.Cut(err.Error(), ": ")
		s.leaveOut("a condition", strings.Trim(name, `"`))
		return condition.Never(), nil, nil
	}
	return c, reads, err
}

// column finds the column of a condition.
func (s *Sheet) column(name string) int {
	col := columns.Find(&s.Columns, name)
	if col < 0 {
		if _, gone := s.Rules.Find(&s.Columns, name); gone {
			return condition.Gone
		}
	}
	return col
}

// leaveOut takes down that a rule does nothing, because the rulebook has left out what it works on.
func (s *Sheet) leaveOut(key, name string) {
	s.LeftOut = append(s.LeftOut, fmt.Sprintf("%s names %q, which the rulebook leaves out and which is not there: the rule does nothing", key, name))
}

// everyColumn returns all columns, those that are added included.
func (s *Sheet) everyColumn() catalogue.ColumnSet {
	return catalogue.FirstColumns(len(s.Columns.Headings))
}

// of returns the columns of fields.
func (s *Sheet) of(fields ...catalogue.Field) (set catalogue.ColumnSet) {
	for _, f := range fields {
		set.Add(s.Columns.All(f)...)
	}
	return set
}

// known returns the columns by which somebody who is asked about a product knows it.
func (s *Sheet) known() []int { return KnownBy(&s.Columns) }

// The names of steps, in the order in which they are taken.
const (
	NameReturned      = "returned"
	NameShape         = "shape"
	NameText          = "text"
	NameBorrow        = "borrow"
	NameSKUs          = "skus"
	NameBarcodes      = "barcodes"
	NameProducts      = "products"
	NameOptions       = "options"
	NameEach          = "one row each"
	NameImageFiles    = "image files"
	NameImageLinks    = "image links"
	NameImageOpened   = "images opened"
	NameImageKept     = "images kept"
	NameFilled        = "filled columns"
	NamePasted        = "pasted pictures"
	NameImageRows     = "image rows"
	NameImageCells    = "image cells"
	NameVariantImages = "variant images"
	NameMint          = "mint"
	NameOrders        = "orders"
	NameTemplate      = "template"
	NameForAll        = "one row for all"
	NameImageNumbers  = "image numbers"
	NameImageTexts    = "image texts"
	NameWritten       = "written"
	NameLimits        = "limits"
	NameRetitled      = "titles"
	NameRetagged      = "tags"
	NameDescriptions  = "descriptions"
	NamePictures      = "pictures"
	NameSanity        = "sanity"
	NameMoney         = "money"
	NameStock         = "stock"
	NameMisplaced     = "misplaced"
	NameTongues       = "languages"
	NameParents       = "parents"
	NameCopied        = "copied"
	NameTogether      = "together"
	NameRows          = "rows"
	NameComplete      = "complete"
	NameToCheck       = "to check"
	NameKnown         = "known"
	NameChanged       = "changed"
	NameTargets       = "targets"
	NameOrigin        = "origin"
	NameSamples       = "samples"
)

// The steps before which others come on purpose: those that carry out what is ordered for
// rows and cells, those that judge codes, and those that fill cells when rows have been made.
var (
	changing = []string{NameProducts, NameOptions, NameEach, NameImageFiles, NameImageLinks, NameImageKept, NameImageOpened, NameImageRows, NameImageCells, NameVariantImages, NameOrders,
		NameForAll, NameImageNumbers, NameImageTexts}
	judging = append([]string{NameSKUs, NameBarcodes}, changing...)
	looking = append([]string{NameText, NameBorrow}, judging...)
	writing = []string{NameImageFiles, NameImageLinks, NameImageKept, NameImageOpened, NameImageRows, NameImageCells, NameVariantImages, NameProducts, NameOrders, NameForAll, NameImageNumbers,
		NameImageTexts}
)

// idle is what makes no repairer for a step that has nothing to do.
func idle(line.Aggregate) (line.Repairer, error) { return nil, nil }

// Always returns what makes a repairer of a function, for a step that learns nothing.
func Always(do func(p *catalogue.Product, log *line.Log)) func(line.Aggregate) (line.Repairer, error) {
	return func(line.Aggregate) (line.Repairer, error) { return repairFunc(do), nil }
}

// A repairFunc is a repairer that is a function.
type repairFunc func(p *catalogue.Product, log *line.Log)

func (f repairFunc) Repair(p *catalogue.Product, log *line.Log) { f(p, log) }
