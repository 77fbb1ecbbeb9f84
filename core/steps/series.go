package steps

import (
	"cmp"
	"encoding/binary"
	"slices"
	"strings"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/line"
	"zetanum/core/mint"
	"zetanum/core/pattern"
)

// A coded is a row with a code, as far as it matters whether it was copied.
type coded struct {
	code  uint64 // a hash
	by    uint64 // a hash of what tells products apart
	row   int
	steps []uint64 // hashes of the columns that go in step
}

// coded returns what is to be known of a row; ok is false if it has no code.
func (m *Minting) coded(row *catalogue.Row) (c coded, ok bool) {
	code := strings.TrimSpace(row.Cell(m.Col))
	if code == "" {
		return c, false
	}
	var by []byte
	for _, col := range m.By {
		by = append(append(by, strings.ToLower(strings.TrimSpace(row.Cell(col)))...), 0)
	}
	c = coded{code: xxhash.Sum64String(code), by: xxhash.Sum64(by), row: row.Number}
	for _, col := range m.InStep {
		c.steps = append(c.steps, xxhash.Sum64String(row.Cell(col)))
	}
	return c, true
}

// copies returns the rows that were copied with their codes, by their numbers: all but the first of those that
// have one, if each is something else. Rows that nothing tells apart are two entries for one product, and stay.
// What is kept of each is which of the columns in step it still has like the first.
func copies(list []coded) map[int][]bool {
	slices.SortFunc(list, func(a, b coded) int { return cmp.Or(cmp.Compare(a.code, b.code), cmp.Compare(a.row, b.row)) })
	copied := make(map[int][]bool)
	for from := 0; from < len(list); {
		end := from + 1
		for end < len(list) && list[end].code == list[from].code {
			end++
		}
		if end == from+1 {
			from = end // as nearly all are
			continue
		}
		first, seen := &list[from], make(map[uint64]int, end-from)
		for _, c := range list[from:end] {
			seen[c.by]++
		}
		for _, c := range list[from+1 : end] {
			if seen[c.by] > 1 {
				continue
			}
			same := make([]bool, len(c.steps))
			for i := range c.steps {
				same[i] = c.steps[i] == first.steps[i]
			}
			copied[c.row] = same
		}
		from = end
	}
	return copied
}

// appendCoded marshals rows with codes.
func appendCoded(b []byte, list []coded) []byte {
	for _, c := range list {
		b = binary.AppendUvarint(binary.BigEndian.AppendUint64(binary.BigEndian.AppendUint64(b, c.code), c.by), uint64(c.row))
		for _, s := range c.steps {
			b = binary.BigEndian.AppendUint64(b, s)
		}
	}
	return b
}

// next gives a row that was copied the next code of its series, or asks for it.
func (m *Minting) next(r *RowAt) bool {
	same, copied := m.copied[r.Number]
	if !copied || r.Made > 0 || !r.Belongs(m.Col) {
		return false
	}
	old := strings.TrimSpace(r.Cell(m.Col))
	code, settled := r.Log.Allotted(m.kind, r.Index, false)
	was, ok := pattern.MemberOf(old)
	switch {
	case settled && code != "":
		r.Log.Set(r.Row, m.Col, code, catalogue.RuleMint, catalogue.Ordered, "after "+old)
		if now, ok := pattern.MemberOf(code); ok && now.Number > was.Number {
			m.inStep(r, same, now.Number-was.Number)
		}
		return true
	case settled:
		return false // it is said why
	case !ok:
		r.Find(catalogue.MintMissing, m.Col, old, catalogue.Facts{Other: "number in it"})
		return false
	}
	by := m.by(r)
	r.Log.Ask(m.kind, r.Index, false, line.By{uint64(r.Number), 0, by[2]}, string(was.Draft()))
	r.Log.Provide(r.Row, m.Col, mint.Provisional(was.Draft(), uint64(r.Number)))
	return false
}

// inStep counts the codes of other columns up by as much, where they are still those of the row that was copied.
func (m *Minting) inStep(r *RowAt, same []bool, by uint64) {
	for i, col := range m.InStep {
		of, ok := pattern.MemberOf(r.Cell(col))
		if !ok || !same[i] {
			continue
		}
		if code, ok := of.At(of.Number + by); ok {
			r.Log.Set(r.Row, col, code, catalogue.RuleMint, catalogue.Ordered, "in step with "+m.sheet.Columns.Headings[m.Col])
		}
	}
}
