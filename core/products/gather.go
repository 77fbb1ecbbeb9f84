package products

import (
	"slices"
	"strings"

	"zetanum/core/catalogue"
)

// A Gathering says which rows of a product become one with a list of their values, and what they
// must have in common for that.
type Gathering struct {
	From     int    // the column of the values
	At       string // what stands between the values of a list
	Compared []int  // columns in which the rows have the same
	Options  []int  // those of Compared by which variants are told apart
	Images   []int  // in which they have the same, or nothing
	Whole    []int  // in which they have what the lead row has, or nothing
}

// A Gathered row is one in which the values of others go, too.
type Gathered struct {
	Index  int      // in the product
	Values []string // its own first
	Others []int    // the rows of the other values
}

// An Unlike row is the variant of another but for something besides the value.
type Unlike struct {
	Index, Of int // in the product
	Col       int // in which they differ
}

// Rows says which rows of a product become one, in their order; those that stay alone are among
// them. Rows that are not meant may give a lead row all the same; those set aside none.
func (g *Gathering) Rows(rows []*catalogue.Row, aside, meant func(i int) bool) (list []*Gathered, unlike []Unlike) {
	alike := make(map[string][]*Gathered) // by all that must be the same
	options := make(map[string]int)       // by the other options only: the first row
	var lead *catalogue.Row
	for i, row := range rows {
		if aside(i) {
			continue
		}
		if lead == nil {
			lead = row
		}
		value := strings.TrimSpace(row.Cell(g.From))
		if value == "" || strings.Contains(value, g.At) || !meant(i) {
			continue // what has the sign between values is a list already
		}
		key, other, differs := cells(row, g.Compared), cells(row, g.Options), -1
		into := slices.IndexFunc(alike[key], func(among *Gathered) bool {
			col := g.keeps(row, rows[among.Index], lead, among.Values)
			if differs < 0 {
				differs = col
			}
			return col < 0
		})
		if into >= 0 {
			among := alike[key][into]
			among.Values, among.Others = append(among.Values, value), append(among.Others, i)
			continue
		}
		alone := &Gathered{Index: i, Values: []string{value}}
		list, alike[key] = append(list, alone), append(alike[key], alone)
		of, there := options[other]
		if !there {
			options[other] = i
			continue
		}
		if differs < 0 {
			differs = slices.IndexFunc(g.Compared, func(col int) bool { return rows[of].Cell(col) != row.Cell(col) })
			if differs >= 0 {
				differs = g.Compared[differs]
			}
		}
		unlike = append(unlike, Unlike{i, of, differs})
	}
	return list, unlike
}

// keeps returns the first column in which a row has something that would be lost in
// another, -1 if there is none.
func (g *Gathering) keeps(row, among, lead *catalogue.Row, values []string) int {
	for _, col := range g.Images {
		if cell := row.Cell(col); cell != "" && cell != among.Cell(col) {
			return col
		}
	}
	for _, col := range g.Whole {
		if cell := row.Cell(col); cell != "" && cell != lead.Cell(col) {
			return col
		}
	}
	value := strings.TrimSpace(row.Cell(g.From))
	if slices.ContainsFunc(values, func(v string) bool { return strings.EqualFold(v, value) }) {
		return g.From
	}
	return -1
}

// cells returns what a row has in columns as one text.
func cells(row *catalogue.Row, cols []int) string {
	var b strings.Builder
	for _, col := range cols {
		b.WriteString(row.Cell(col))
		b.WriteByte(0)
	}
	return b.String()
}
