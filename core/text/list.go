package text

import "strings"

// A List is what stands between the values of a list in one cell: ";" in “red; blue”.
type List string

// Marks that stand between values, the more telling first: where there is a |, a comma is part
// of a value.
var (
	TagMarks   = []List{"|", ";", ","}
	ValueMarks = []List{"|", ";", "\n", ",", " / "}
	LinkMarks  = []List{"|", ";", "\n", ",", " "} // a space is part of no link
)

// FindList returns the first of some marks that stands in any of the cells; ok is false if
// none does.
func FindList(marks []List, cells ...string) (l List, ok bool) {
	for _, l := range marks {
		for _, cell := range cells {
			if strings.Contains(cell, string(l)) {
				return l, true
			}
		}
	}
	return "", false
}

// Parts returns what stands between the marks of a cell, as it stands there, empty parts and
// spaces included: joined again they are the cell.
func (l List) Parts(cell string) []string {
	if l == "" {
		return []string{cell}
	}
	return strings.Split(cell, string(l))
}

// Items returns the parts without the spaces around them, empty ones included.
func (l List) Items(cell string) []string {
	items := l.Parts(cell)
	for i := range items {
		items[i] = strings.TrimSpace(items[i])
	}
	return items
}

// Values returns the items that are not empty.
func (l List) Values(cell string) (values []string) {
	for _, item := range l.Parts(cell) {
		if item = strings.TrimSpace(item); item != "" {
			values = append(values, item)
		}
	}
	return values
}

// Spaced reports whether a space stands behind a mark of a cell.
func (l List) Spaced(cell string) bool { return strings.Contains(cell, string(l)+" ") }

// Join puts values together.
func (l List) Join(values []string) string { return strings.Join(values, string(l)) }
