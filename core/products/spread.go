package products

import (
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/pattern"
)

// A Spreading makes several rows of one, a row for each of the values that a cell lists.
type Spreading struct {
	From, Into int       // the columns of the list, and of the value
	Set        []SetCell // what is different in each row besides
	Same       []int     // columns that a further row of a product has like the first
	Layout     *Layout
	Repeat     bool                              // further rows have what belongs to the whole product, too
	Clean      func(cell string, col int) string // puts the text of a column in order
}

// A SetCell is a column, and what each row has in it.
type SetCell struct {
	Col int
	*pattern.Pattern
}

// Values returns the values of which each gets a row, nil if the row stays as it is: it has a value
// already.
func (s *Spreading) Values(row *catalogue.Row) []string {
	if strings.TrimSpace(row.Cell(s.Into)) != "" {
		return nil
	}
	values := Values(row.Cell(s.From))
	for i, v := range values {
		values[i] = s.Clean(v, s.Into)
	}
	return values
}

// Twice returns the values that are there before, whatever their case.
func Twice(values []string) (twice []string) {
	for n, value := range values {
		if slices.ContainsFunc(values[:n], func(v string) bool { return strings.EqualFold(v, value) }) {
			twice = append(twice, value)
		}
	}
	return twice
}

// Text returns what a column gets in the row of a value.
func (s *Spreading) Text(row *catalogue.Row, value string, set *SetCell) string {
	with := row.With(slices.Clone(row.Cells))
	for len(with.Cells) <= s.Into {
		with.Cells = append(with.Cells, "")
	}
	with.Cells[s.Into] = value
	text, _ := set.Text(&with)
	return s.Clean(text, set.Col)
}

// Texts returns what a column gets in the rows of values; nil if it is not set.
func (s *Spreading) Texts(row *catalogue.Row, values []string, col int) (texts []string) {
	for i := range s.Set {
		if s.Set[i].Col == col {
			for _, value := range values {
				texts = append(texts, s.Text(row, value, &s.Set[i]))
			}
		}
	}
	return texts
}

// Copied reports whether a further row has a cell of the row that it comes of: what belongs to each
// variant, and what keeps the rows together. The list itself stays with the first.
func (s *Spreading) Copied(col int) bool {
	level := s.Layout.Level(col)
	return slices.Contains(s.Same, col) || col != s.From && (level == OfVariant || level == AnyRow || s.Repeat && level == OfProduct)
}

// Written reports whether a set cell is written into a row: what belongs to the whole product into
// the first one only.
func (s *Spreading) Written(set *SetCell, first bool) bool {
	return first || s.Repeat || s.Layout.Level(set.Col) != OfProduct
}
