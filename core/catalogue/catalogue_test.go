package catalogue

import (
	"encoding/json"
	"slices"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestRegistries: every finding and every rule can be told from the others, and
// found by its name.
func TestRegistries(t *testing.T) {
	seen := make(map[string]bool)
	for _, c := range Codes() {
		e := c.Entry()
		require.NotEmpty(t, e.Name, "finding %d", c)
		require.False(t, seen[e.Name], e.Name)
		seen[e.Name] = true
		found, ok := FindCode(strings.ToUpper(e.Name))
		assert.True(t, ok && found == c, e.Name)
		var back Code
		text, err := json.Marshal(c)
		require.NoError(t, err)
		require.NoError(t, json.Unmarshal(text, &back))
		assert.Equal(t, c, back)
		if c.SetsAside() {
			assert.NotEqual(t, Error, e.Severity, "%s sets a row aside, so it must not hold one", e.Name)
		}
		for _, text := range []string{e.Title, e.Sentence, e.Do} {
			assert.NotContains(t, text, "  ", e.Name)
		}
		assert.True(t, strings.HasSuffix(e.Sentence, "."), e.Name)
		assert.True(t, strings.HasSuffix(e.Do, "."), e.Name)
		assert.NotContains(t, e.Do, "{", "%s: only the sentence is filled with facts", e.Name)
	}
	for _, r := range Rules() {
		require.NotEmpty(t, r.Entry().Name, "rule %d", r)
		require.False(t, seen[r.String()], r.String())
		seen[r.String()] = true
		var back Rule
		require.NoError(t, back.UnmarshalText([]byte(r.String())))
		assert.Equal(t, r, back)
		assert.NotEqual(t, OneWay, r.Entry().Class, "%s would do its work twice, and nothing asks for it", r)
	}
	var c Code
	assert.Error(t, json.Unmarshal([]byte(`"no.such"`), &c))
	_, ok := FindCode("no.such")
	assert.False(t, ok)
}

func TestSentence(t *testing.T) {
	f := Finding{Code: BarcodeRounded, Cell: "9.52123E+12", Facts: Facts{Low: 9521225000000, High: 9521235000000, Candidates: 1000000,
		Digits: 6, Length: 13}}
	assert.Equal(t, "Only 6 of 13 digits are left in 9.52123E+12: the code lies between 9521225000000 and 9521235000000 and is one of 1,000,000 possible codes.", f.Sentence())
	f = Finding{Code: BarcodeCheckDigit, Cell: strings.Repeat("9", 100), Facts: Facts{Right: '7'}}
	assert.Contains(t, f.Sentence(), strings.Repeat("9", 59)+"…")
	assert.Contains(t, f.Sentence(), "would be 7.")
}

func TestFields(t *testing.T) {
	names := FieldNames()
	assert.True(t, slices.Contains(names, "barcode") && !slices.Contains(names, ""))
	for _, name := range names {
		f, ok := ParseField(name)
		assert.True(t, ok, name)
		assert.Equal(t, name, f.String())
	}
	_, ok := ParseField("")
	assert.False(t, ok)
	set := FieldsOf(Title, SKU)
	assert.True(t, set.Has(SKU) && set.Has(Title) && !set.Has(Barcode))
	columns := Columns{Headings: []string{"a", "b", "c"}, Fields: []Field{Unknown, Barcode, Barcode}}
	assert.Equal(t, 1, columns.First(Barcode))
	assert.Equal(t, -1, columns.First(SKU))
	assert.Equal(t, []int{1, 2}, columns.All(Barcode))
}

func TestRow(t *testing.T) {
	row := Row{Cells: []string{"A", "9", "52123E+12", "x"}, Marks: make([]Mark, 4), Spans: make([]Span, 4)}
	row.Join(1, ",")
	assert.Equal(t, []string{"A", "9,52123E+12", "x"}, row.Cells)
	assert.Equal(t, []Mark{0, Altered, 0}, row.Marks)
	assert.True(t, row.Dirty && row.Joined == 2 && len(row.Spans) == 3)
	assert.Equal(t, "", row.Cell(-1)+row.Cell(3))
	assert.Zero(t, row.Mark(-1)|row.Mark(3))
	for cells, blank := range map[string]bool{"": true, "||": true, " |\t|\u00a0\r\n": true, "|x|": false, "|\u200b|": false, "0": false} {
		r := Row{Cells: strings.Split(cells, "|")}
		assert.Equal(t, blank, r.Blank(), "%q", cells)
	}
}

func FuzzShorten(f *testing.F) {
	f.Add("Bürste für Imker", 8)
	f.Add("", 1)
	f.Fuzz(func(t *testing.T, s string, n int) {
		if n < 1 || n > 1000 || !utf8.ValidString(s) {
			t.Skip()
		}
		short := Shorten(s, n)
		assert.LessOrEqual(t, utf8.RuneCountInString(short), n)
		if utf8.RuneCountInString(s) <= n {
			assert.Equal(t, s, short)
		} else {
			assert.True(t, strings.HasSuffix(short, "…") && strings.HasPrefix(s, strings.TrimSuffix(short, "…")))
		}
	})
}

func TestThousands(t *testing.T) {
	for n, want := range map[uint64]string{0: "0", 999: "999", 1000: "1,000", 12345: "12,345", 1000000: "1,000,000",
		18446744073709551615: "18,446,744,073,709,551,615"} {
		assert.Equal(t, want, Thousands(n))
	}
}

func TestColumnSet(t *testing.T) {
	s := ColumnsOf(3, -1, 200, 64)
	s.Add(0)
	assert.Equal(t, []int{0, 3, 64, 200}, s.List())
	assert.Equal(t, 200, s.Last())
	assert.True(t, s.Has(64) && !s.Has(65) && !s.Has(-1) && !s.Has(100_000))
	o := FirstColumns(4)
	assert.Equal(t, []int{0, 3}, s.Both(o).List())
	assert.Equal(t, []int{64, 200}, s.Without(o).List())
	assert.Equal(t, []int{1, 2}, o.Without(s).List())
	o.AddAll(s)
	assert.Equal(t, []int{0, 1, 2, 3, 64, 200}, o.List())
	assert.True(t, ColumnSet{}.Empty() && !s.Empty() && s.Without(s).Empty())
	copied := s
	copied.Add(1)
	copied.AddAll(ColumnsOf(2))
	assert.Equal(t, []int{0, 3, 64, 200}, s.List(), "a copy is a set of its own")
}
