package lists

import (
	"encoding/binary"
	"strings"

	"zetanum/core/text"
)

// Between are the marks that may stand between the values of a column, the more telling first, of which a cell may have several:
// in “wind, water|oak” it is the bar. Those behind Strong stand within values as well, and count only if many cells have them.
type Between struct {
	Marks  []text.List
	Strong int
}

// The marks of tags and of the levels of categories.
var (
	OfTags   = Between{[]text.List{"|", ";", "\n", ",", Hash, "/"}, 5}
	OfLevels = Between{[]text.List{"->", ">", "»", "›", "→", "|", `\`, "/", ":"}, 7}
)

// Hash is a number sign before each value.
const Hash text.List = "#"

// mostMarks is how many marks there may be.
const mostMarks = 9

// Marks counts what stands between the values of a column. It is merged in any order.
type Marks struct {
	cells, hashed int
	with, spaced  [mostMarks]int
}

// Add counts a cell.
func (m *Marks) Add(b *Between, cell string) {
	cell = strings.TrimSpace(text.Entities(cell))
	if cell == "" {
		return
	}
	m.cells++
	hashed := hashes(cell)
	if hashed {
		m.hashed++
	}
	for i, mark := range b.Marks {
		if mark == Hash {
			if Hashed(cell) {
				m.with[i]++
				return
			}
			continue
		}
		if mark.Within(cell) {
			m.with[i]++
			if mark.Spaced(cell) {
				m.spaced[i]++
			}
			return
		}
	}
}

// hashes reports whether a text begins with a number sign that makes a tag of the word behind it.
func hashes(s string) bool { return len(s) > 1 && s[0] == '#' && s[1] != ' ' && s[1] != '#' }

// Hashed reports whether a cell has several values with a number sign before each.
func Hashed(cell string) bool {
	cell = strings.TrimSpace(cell)
	return hashes(cell) && strings.Contains(cell, " #")
}

// Merge adds the counts of another stretch.
func (m *Marks) Merge(o *Marks) {
	m.cells += o.cells
	m.hashed += o.hashed
	for i := range m.with {
		m.with[i] += o.with[i]
		m.spaced[i] += o.spaced[i]
	}
}

// AppendBinary writes the counts.
func (m *Marks) AppendBinary(b []byte) ([]byte, error) {
	b = binary.AppendUvarint(binary.AppendUvarint(b, uint64(m.cells)), uint64(m.hashed))
	for i := range m.with {
		b = binary.AppendUvarint(binary.AppendUvarint(b, uint64(m.with[i])), uint64(m.spaced[i]))
	}
	return b, nil
}

// A Form is how the values of a column are written: what stands between them, whether a space stands behind it, and whether
// number signs stand before them.
type Form struct {
	At     text.List // "" if no cell has several values
	Spaced bool
	Hashed bool
}

// Judge says how most cells are written. A mark that stands within values, too, must stand in two of five.
func (m *Marks) Judge(b *Between) (f Form) {
	best := -1
	for i := range b.Marks[:b.Strong] {
		if m.with[i] > 0 && (best < 0 || m.with[i] > m.with[best]) {
			best = i
		}
	}
	for i := b.Strong; i < len(b.Marks); i++ {
		if 5*m.with[i] >= 2*m.cells && m.with[i] > 0 && (best < 0 || m.with[i] > 2*m.with[best]) {
			best = i
		}
	}
	if best >= 0 {
		f.At, f.Spaced = b.Marks[best], 2*m.spaced[best] >= m.with[best]
	}
	f.Hashed = f.At == Hash || m.hashed > 0 && 2*m.hashed >= m.cells
	return f
}
