package reference

import (
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/lists"
	"zetanum/core/sheet"
	"zetanum/core/spill"
)

// lend writes a sheet and opens it to borrow from.
func lend(t *testing.T, content string, rule BorrowRule) (*Lender, error) {
	t.Helper()
	rule.From = filepath.Join(t.TempDir(), "lent.csv")
	require.NoError(t, os.WriteFile(rule.From, []byte(content), 0o666))
	require.Empty(t, rule.Check())
	l, err := Lend(&rule, sheet.Options{Spool: t.TempDir()}, func(name string) catalogue.Kind { return catalogue.LineKind })
	if err == nil {
		t.Cleanup(func() { assert.NoError(t, l.Close()) })
		err = l.Lent()
	}
	return l, err
}

// find looks a key up and says in short what came of it.
func find(t *testing.T, l *Lender, key ...string) string {
	t.Helper()
	cols := make([]int, len(key))
	for i := range cols {
		cols[i] = i
	}
	loan, asked, err := l.Find(&catalogue.Row{Cells: key}, cols)
	require.NoError(t, err)
	switch {
	case !asked:
		return "not asked"
	case loan == nil:
		return "none"
	}
	s := fmt.Sprint(loan.Row, " ", strings.Join(loan.Values, "|"))
	if loan.Key != "" {
		s += " as " + loan.Key
	}
	for i, row := range loan.Twice {
		if row > 0 {
			s += fmt.Sprintf(" but row %d differs in %d", row, i)
		}
	}
	return s
}

const lent = "SKU,Maker,Colour,Weight\n" +
	"LRA-1,N, red  wine ,1\n" + // row 2
	"LRA-1,N,red wine,1\n" + // the same again
	"LRA-2,N,,2\nLRA-2,N,blue,\n" + // what one has not, the other has
	"LRA-3,N,green,3\nLRA-3,N,green,4\n" + // one value is contradicted
	"lra1,N,white,9\n" + // row 8
	"007,N,black,7\n,N,none,0\n \t,N,none,0\n"

func TestLend(t *testing.T) {
	for _, test := range []struct {
		alike string
		key   string
		want  string
	}{
		{"", "LRA-1", "2 red wine|1"}, {"", "LRA-2", "4 blue|2"}, {"", "LRA-3", "6 green|3 but row 7 differs in 1"}, {"", "lra-1", "none"},
		{"", "LRA-1 ", "none"}, {"", "", "not asked"}, {"", "  ", "not asked"}, {"", "7", "none"}, {"", "lra1", "8 white|9"},
		{"case", "lra-1", "2 red wine|1 as LRA-1"}, {"case", "LRA-1", "2 red wine|1"}, {"case", "LRA1", "8 white|9 as lra1"},
		{"zeros", "7", "8 black|7 as 007"}, {"zeros", "007", "8 black|7"}, {"zeros", "70", "none"},
		{"spaces", "L R A-2", "4 blue|2 as LRA-2"},
		{"dashes case", "LRA1", "2 red wine|1 as LRA-1 but row 8 differs in 0 but row 8 differs in 1"}, // it may be either
		{"dashes case", "LRA-1", "2 red wine|1"},                                                       // it is this one
		{"dashes case", "lra1", "8 white|9"},
		{"dashes", "LRA–2", "4 blue|2 as LRA-2"}, {"dashes", "lra1", "8 white|9"},
	} {
		l, err := lend(t, lent, BorrowRule{By: "sku", Take: []string{"colour", "weight"}, Alike: strings.Fields(test.alike)})
		require.NoError(t, err)
		want := test.want
		if test.key == "007" || test.key == "7" {
			want = strings.Replace(want, "8 black", "9 black", 1)
		}
		assert.Equal(t, want, find(t, l, test.key), "%s: %q", test.alike, test.key)
	}
	l, err := lend(t, lent, BorrowRule{By: []any{"Maker", "sku"}, Take: []string{"weight"}})
	require.NoError(t, err)
	assert.Equal(t, "2 1", find(t, l, "N", "LRA-1"))
	assert.Equal(t, "none", find(t, l, "NLRA-1", "x"), "two keys are not one")
	assert.Equal(t, "not asked", find(t, l, "", "LRA-1"))
	assert.Equal(t, 8, l.Rows)
	assert.Equal(t, []TakenColumn{{Name: "weight", Heading: "Weight", Sample: "1"}}, l.Taken)
	var left []string
	require.NoError(t, l.Unasked(func(row int, key, values []string) {
		left = append(left, fmt.Sprint(row, key, values))
	}))
	assert.Equal(t, []string{"4 [N LRA-2] [2]", "6 [N LRA-3] [3]", "8 [N lra1] [9]", "9 [N 007] [7]"}, left)
}

func TestLendRefused(t *testing.T) {
	for want, rule := range map[string]BorrowRule{
		`names "price", which lent.csv does not have`: {By: "sku", Take: []string{"price"}},
		`names "mpn", which lent.csv does not have`:   {By: "mpn", Take: []string{"weight"}},
		`headings names "Gewicht", which lent.csv does`: {By: "sku", Take: []string{"weight"},
			Headings: map[string]string{"Gewicht": "weight"}},
	} {
		_, err := lend(t, lent, rule)
		assert.ErrorIs(t, err, columns.ErrWrong)
		assert.ErrorContains(t, err, want)
	}
	_, err := lend(t, "SKU,EAN,Barcode\nA,1,2\n", BorrowRule{By: "sku", Take: []string{"barcode"}})
	assert.NoError(t, err, "a heading is meant before a field")
	_, err = lend(t, "SKU,EAN,UPC\nA,1,2\n", BorrowRule{By: "sku", Take: []string{"barcode"}})
	assert.ErrorContains(t, err, `has several such columns: "EAN", "UPC"; headings = { "EAN" = "barcode" } says which is meant`)
	l, err := lend(t, "SKU,EAN,UPC\nA,1,2\n", BorrowRule{By: "sku", Take: []string{"barcode"},
		Headings: map[string]string{"UPC": "barcode"}})
	require.NoError(t, err)
	assert.Equal(t, "2 2", find(t, l, "A"))
}

// TestLendLikeAMap: whatever the sheet, a lender answers like the plainest way to
// say what it should: a map of all rows with a key.
func TestLendLikeAMap(t *testing.T) {
	for seed := range uint64(20) {
		r := rand.New(rand.NewPCG(seed, 3))
		type row struct {
			number int
			values [2]string
		}
		rows := make(map[string][]row)
		var text strings.Builder
		text.WriteString("SKU,Colour,Weight\n")
		n := 1 + r.IntN(3000)
		for i := range n {
			key := fmt.Sprintf("K%d", r.IntN(n))
			one := row{i + 2, [2]string{[]string{"", "red", "blue"}[r.IntN(3)], []string{"", "1"}[r.IntN(2)]}}
			rows[key] = append(rows[key], one)
			fmt.Fprintf(&text, "%s,%s,%s\n", key, one.values[0], one.values[1])
		}
		l, err := lend(t, text.String(), BorrowRule{By: "sku", Take: []string{"colour", "weight"}})
		require.NoError(t, err)
		var group sync.WaitGroup
		for worker := range 4 {
			group.Go(func() {
				for i := worker; i < n; i += 4 {
					key := fmt.Sprintf("K%d", i)
					loan, _, err := l.Find(&catalogue.Row{Cells: []string{key}}, []int{0})
					if !assert.NoError(t, err) || !assert.Equal(t, len(rows[key]) > 0, loan != nil, key) || loan == nil {
						continue
					}
					for v := range 2 {
						want, twice := "", false
						for _, one := range rows[key] {
							twice = twice || want != "" && one.values[v] != "" && one.values[v] != want
							if want == "" {
								want = one.values[v]
							}
						}
						assert.Equal(t, want, loan.Values[v], key)
						assert.Equal(t, twice, loan.Twice != nil && loan.Twice[v] > 0, key)
					}
				}
			})
		}
		group.Wait()
		left := 0
		require.NoError(t, l.Unasked(func(int, []string, []string) { left++ }))
		assert.Zero(t, left)
	}
}

// TestStore: records come back from memory, from what waits, and from the file.
func TestStore(t *testing.T) {
	dir := t.TempDir()
	s := store{Bytes: spill.Bytes{Dir: dir}}
	require.NoError(t, s.reset())
	long := strings.Repeat("x", 600_000)
	var offsets []int64
	for i := range 130 {
		offset, err := s.append(&record{entry: i, row: i + 2, key: fmt.Sprint("key ", i),
			values: []string{fmt.Sprint(i), long[:len(long)-i]}})
		require.NoError(t, err)
		offsets = append(offsets, offset)
	}
	require.Greater(t, offsets[len(offsets)-1], int64(storeMemory), "not all of it fits in memory")
	for flushed := range 2 {
		for i, offset := range offsets {
			e, err := s.read(offset)
			require.NoError(t, err)
			require.Equal(t, i, e.entry)
			require.Equal(t, fmt.Sprint("key ", i), e.key)
			require.Equal(t, len(long)-i, len(e.values[1]), "flushed %d", flushed)
		}
		require.NoError(t, s.Flush())
	}
	require.NoError(t, s.Close())
	left, err := os.ReadDir(dir)
	require.NoError(t, err)
	assert.Empty(t, left)
}

func TestLookAlikes(t *testing.T) {
	headings := []string{"Description", "Description (old)", "description HTML", "SKU", "Title", "Subtitle", "EAN", "EAN 2"}
	for heading, want := range map[string][]string{
		"Description": {"Description (old)", "description HTML"}, "Title": {"Subtitle"}, "SKU": nil, "EAN": nil,
		"Description (old)": {"Description"},
	} {
		assert.Equal(t, want, LookAlikes(headings, heading), heading)
	}
	assert.Equal(t, [][]string{{"Description", "Description (old)", "description HTML"}, {"Title", "Subtitle"}}, AlikeGroups(headings))
}

func TestStudy(t *testing.T) {
	path := filepath.Join(t.TempDir(), "export.csv")
	var b strings.Builder
	b.WriteString("SKU;Brand;Price;Cost;Tags;Published;Sale from;Stock;Memo\n")
	for i := range 40 {
		fmt.Fprintf(&b, "A%d;%s;%d,50;%s;wax | gold;%s;%d.03.2026;%d;\n", i, []string{"Nørrebi", "Nørrebi", "Queen & Drone"}[i%3], i,
			[]string{"1.5", "1,5"}[i%2], []string{"ja", "nein"}[i%2], 10+i%19, i)
	}
	b.WriteString("\nSKU;Brand;Price;Cost;Tags;Published;Sale from;Stock;Memo\n")
	require.NoError(t, os.WriteFile(path, []byte(b.String()), 0o666))
	list, rows, err := Study(path, sheet.Options{})
	require.NoError(t, err)
	assert.Equal(t, 40, rows, "blank rows and headings do not count")
	got := make(map[string]string)
	for _, s := range list {
		got[s.Heading] = s.Style
		switch s.Heading {
		case "Brand":
			assert.Equal(t, []string{"Nørrebi", "Queen & Drone"}, s.Values, "the most frequent first")
		case "SKU", "Memo":
			assert.Nil(t, s.Values, s.Heading)
		}
	}
	assert.Equal(t, map[string]string{
		"SKU": "", "Brand": "", "Price": "with a decimal comma, as in 0,50",
		"Cost": "some with a decimal point, as in 1.5, some with a comma, as in 1,5",
		"Tags": "separated by “| ”, as in wax | gold", "Published": "yes and no are written ja and nein",
		"Sale from": "dates are written DD.MM.YYYY, as in 10.03.2026", "Stock": "", "Memo": "",
	}, got)
}

func TestReadLists(t *testing.T) {
	path := filepath.Join(t.TempDir(), "list.csv")
	write := func(text string) { require.NoError(t, os.WriteFile(path, []byte(text), 0o666)) }
	write("Wood\nCedar\n Pine \n\nCedar\nWood\n")
	values, err := ReadValues(path, "", sheet.Options{})
	require.NoError(t, err)
	assert.Equal(t, []string{"Cedar", "Pine"}, values)
	_, err = ReadPairs(path, sheet.Options{})
	assert.ErrorIs(t, err, lists.ErrList)
	write("\ufeffCode;Wood\nCED;Cedar\nPIN; Pine\n")
	pairs, err := ReadPairs(path, sheet.Options{})
	require.NoError(t, err)
	assert.Equal(t, []lists.Pair{{Row: 2, Key: "CED", Value: "Cedar"}, {Row: 3, Key: "PIN", Value: "Pine"}}, pairs)
	values, err = ReadValues(path, "wood", sheet.Options{})
	require.NoError(t, err)
	assert.Equal(t, []string{"Cedar", "Pine"}, values)
	_, err = ReadValues(path, "Tree", sheet.Options{})
	assert.ErrorContains(t, err, "Code, Wood")
	write("Wood\n")
	_, err = ReadValues(path, "", sheet.Options{})
	assert.ErrorContains(t, err, "no value below")
	write("Code,Meaning\nkg,kilogram\npcs,pieces\n")
	pairs, err = ReadPairs(path, sheet.Options{})
	require.NoError(t, err)
	assert.Len(t, pairs, 2, "a list of units is no row of units")
	write("My short forms\nlong,short\ncategory,cat.\ncolour,col.\nprice,title\nstock,brand\n")
	pairs, err = ReadPairs(path, sheet.Options{})
	require.NoError(t, err)
	assert.Len(t, pairs, 4, "words of a list that are called like headings are none")
	headings, rows, err := ReadRows(path, sheet.Options{})
	require.NoError(t, err)
	assert.Equal(t, []string{"long", "short"}, headings)
	assert.Equal(t, []string{"price", "title"}, rows[2].Cells)
}
