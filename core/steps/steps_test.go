package steps

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/barcode"
	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/line"
	"zetanum/core/products"
	"zetanum/core/reference"
	"zetanum/core/rescue"
	"zetanum/core/sheet"
)

// repair sends a file through the steps and returns the rows that go out, the
// names of the findings and those of the rules that changed something.
func repair(t *testing.T, file, trusted string) (ready []string, findings, rules map[string]int) {
	t.Helper()
	codes := new(Codes)
	if trusted != "" {
		other := filepath.Join(t.TempDir(), "counted.csv")
		require.NoError(t, os.WriteFile(other, []byte(trusted), 0o666))
		s, err := reference.Load(other, sheet.Options{})
		require.NoError(t, err)
		codes.Source = reference.Sheets{s}
	}
	return repairWith(t, file, codes)
}

// fitted returns what steps share that are fitted to a table, with rules about products.
func fitted(t testing.TB, table *sheet.Table, rules *products.Rules) *Sheet {
	t.Helper()
	if rules == nil {
		rules = new(products.Rules)
	}
	layout, err := rules.For(&table.Columns, new(columns.Rules))
	require.NoError(t, err)
	return &Sheet{
		Table: table, Rules: new(columns.Rules), Key: products.NewKey(&table.Columns, -1, nil), Together: -1, Products: layout,
		Texts: new(Texts), Codes: &Codes{Rules: rescue.Rules{}.Default()}, Claims: Claims(),
	}
}

func repairWith(t *testing.T, file string, codes *Codes) (ready []string, findings, rules map[string]int) {
	t.Helper()
	dir := t.TempDir()
	path := filepath.Join(dir, "list.csv")
	require.NoError(t, os.WriteFile(path, []byte(file), 0o666))
	table, err := sheet.Open(path, sheet.Options{})
	require.NoError(t, err)
	defer table.Close()
	s := fitted(t, table, nil)
	s.Codes = codes
	pipeline := line.Pipeline{Grouping: s.Key.Grouping(), Prepare: table.Rejoin(), Steps: []line.Step{Shape(s, false), Text(s), SKUs(s)},
		Claims: s.Claims, Lists: []line.List{{Name: "lost.csv"}}}
	for _, col := range table.Columns.All(catalogue.Barcode) {
		pipeline.Steps = append(pipeline.Steps, Barcodes(s, col))
	}
	survey, err := line.Look(context.Background(), table, func() (*line.Pipeline, error) { return &pipeline, nil }, line.Options{Workers: 1})
	require.NoError(t, err)
	run := line.Run{Options: line.Options{Workers: 1}, Table: table, Pipeline: &pipeline, Survey: survey}
	report, finish, err := run.Do(context.Background(), dir)
	require.NoError(t, err)
	_, err = finish()
	require.NoError(t, err)
	text, err := os.ReadFile(filepath.Join(dir, "ready.csv"))
	require.NoError(t, err)
	findings, rules = make(map[string]int), make(map[string]int)
	for _, f := range report.Found {
		findings[f.Code.String()] += f.Cells
	}
	for _, c := range report.Repaired {
		rules[c.Rule.String()] += c.Cells
	}
	return strings.Split(strings.TrimSuffix(string(text), "\n"), "\n")[1:], findings, rules
}

// TestTrustNeedsOneRow: a code is taken by SKU only where a single row of the
// sheet can be meant. Variants that share an SKU would all get the code of one
// of them.
func TestTrustNeedsOneRow(t *testing.T) {
	const trusted = "SKU,EAN\nA,9521234000013\n"
	const head = "SKU,EAN,Title,Slug\n"
	for _, test := range []struct {
		name, file string
		ready      []string
	}{
		{"one row", head + "A,9.52123E+12,x,one\n", []string{"A,9521234000013,x,one"}},
		{"one row without a code", head + "A,,x,one\n", []string{"A,9521234000013,x,one"}},
		{"with an image row that repeats the SKU", head + "A,9.52123E+12,x,one\nA,,,one\n", []string{"A,9521234000013,x,one", "A,,,one"}},
		{"two variants", head + "A,9.52123E+12,x,one\nA,9.52123E+12,y,one\n", []string{""}},
		{"two variants without codes", head + "A,,x,one\nA,,y,one\n", []string{"A,,x,one", "A,,y,one"}},
		{"two products", head + "A,9.52123E+12,x,one\nA,9.52123E+12,y,two\n", []string{""}},
		{"the code belongs to another product", head + "A,9.52123E+12,x,one\nB,9521234000013,y,two\n", []string{""}},
		{"the same in other words", head + "A,9.52123E+12,x,one\nB,EAN 9521234000013,y,two\n", []string{""}},
	} {
		ready, _, _ := repair(t, test.file, trusted)
		if len(ready) == 0 {
			ready = []string{""}
		}
		assert.Equal(t, test.ready, ready, test.name)
	}
}

// TestTrustBringsCheckDigits: where the check digits were left off, a trusted
// sheet has them, and the other digits confirm it; even a code that passes by
// chance without its last digit is completed.
func TestTrustBringsCheckDigits(t *testing.T) {
	var file, trusted strings.Builder
	file.WriteString("SKU,EAN,Title\n")
	trusted.WriteString("SKU,EAN\n")
	var want []string
	for i := range 40 {
		data := uint64(952123400000 + i*31 + 2)
		code := barcode.Pad(data*10+uint64(barcode.CheckDigit(data)), 13)
		fmt.Fprintf(&file, "A%d,%d,x\n", i, data)
		fmt.Fprintf(&trusted, "A%d,%s\n", i, code)
		want = append(want, fmt.Sprintf("A%d,%s,x", i, code))
	}
	ready, _, rules := repair(t, file.String(), trusted.String())
	assert.Equal(t, want, ready)
	assert.Equal(t, map[string]int{"repair.trusted": 40}, rules)
	_, findings, _ := repair(t, file.String(), strings.ReplaceAll(trusted.String(), "95212", "95213"))
	assert.Zero(t, findings["trust.differs"])
	assert.Equal(t, 40, findings["trust.outside"]+findings["trust.damaged"]+findings["barcode.no-check-digit"],
		"a sheet with damage of its own takes no question away")
}

// TestRows: what becomes of rows as rows.
func TestRows(t *testing.T) {
	const head = "SKU,EAN,Title\n"
	type counts = map[string]int
	for _, test := range []struct {
		name, file string
		ready      []string
		findings   counts
		rules      counts
	}{
		{"fewer cells", head + "A,9521234000013\n", []string{"A,9521234000013,"}, counts{"row.short": 1}, counts{}},
		{"more cells, but empty", head + "A,9521234000013,x,,\n", []string{"A,9521234000013,x"}, counts{}, counts{}},
		{"more cells", head + "A,9521234000013,x,y\n", nil, counts{"row.long": 1}, counts{}},
		{"blank", head + ", ,\u00a0\nA,9521234000013,x\n\n", []string{"A,9521234000013,x"}, counts{"row.blank": 2}, counts{}},
		{"headings again", head + " sku ,Ean,title\nA,9521234000013,x\n", []string{"A,9521234000013,x"}, counts{"row.heading": 1},
			counts{}},
		{"the same row twice", head + "A,9521234000013,x\nB,,y\nA,9521234000013,x\n", []string{"A,9521234000013,x", "B,,y"},
			counts{"row.duplicate": 1, "barcode.missing": 1}, counts{}},
		{"the same row once it is repaired", head + "A,9521234000013,x\nA,EAN 9521234000013, x\n", []string{"A,9521234000013,x"},
			counts{"row.duplicate": 1}, counts{}},
		{"the same row, one short", head + "A,9521234000013,\nA,9521234000013\n", []string{"A,9521234000013,"}, counts{"row.duplicate": 1},
			counts{}},
		{"the same SKU in another case", head + "A,9521234000013,x\na,9521234000020,x\n",
			[]string{"A,9521234000013,x", "a,9521234000020,x"}, counts{}, counts{}},
		{"the same GTIN in two lengths", head + "A,041101000032,x\nB,0041101000032,x\n", nil, counts{"barcode.duplicate": 2}, counts{}},
		{"three products with one code", head + "A,9521234000013,x\nB,9521234000013,x\nC,9521234000013,x\nD,9521234000020,x\n",
			[]string{"D,9521234000020,x"}, counts{"barcode.duplicate": 3}, counts{}},
		{"torn in two, twice", head + "1,2E+3,1,2E+3\n", nil, counts{"row.long": 1, "barcode.rounded": 1}, counts{}},
	} {
		ready, findings, rules := repair(t, test.file, "")
		assert.Equal(t, test.ready, nilIfEmpty(ready), test.name)
		assert.Equal(t, test.findings, findings, test.name)
		assert.Equal(t, test.rules, rules, test.name)
	}
}

func nilIfEmpty(list []string) []string {
	if len(list) == 0 {
		return nil
	}
	return list
}

// TestColumnsLeftAlone: text rules keep off codes and markup, and touch only the
// ends of what nobody has said the meaning of.
func TestColumnsLeftAlone(t *testing.T) {
	ready, _, rules := repair(t, "SKU,Title,Description,Int. memo,Image URL,Slug\n"+
		" A  1 , two  words ,<p> two  words </p> , two  words ,  http://cdn.example/a  b , one  two \n", "")
	assert.Equal(t, []string{" A  1 ,two words,<p> two  words </p> ,two  words,http://cdn.example/a  b, one  two "}, ready)
	assert.Equal(t, map[string]int{"repair.spaces": 3}, rules)
}

// TestTwoBarcodeColumns: each column is judged by its own evidence.
func TestTwoBarcodeColumns(t *testing.T) {
	ready, findings, _ := repair(t, "SKU,EAN,UPC,Title\nA,9521234000013,41101000032,x\nB,,41101000209,x\nC,9521234000020,41101000377,x\n"+
		"D,9521234000037,41101000544,x\nE,9521234000044,41101000711,x\nF,9.52123E+12,,x\n", "")
	require.Len(t, ready, 5)
	assert.Equal(t, "A,9521234000013,041101000032,x", ready[0])
	assert.Equal(t, map[string]int{"barcode.rounded": 1}, findings, "B has a code in the other column")
}

// TestSeveralCodes: second barcodes and second SKUs are held against all others;
// the same code in another length or form is the same; rows of one product may
// share a code only if they are one thing.
func TestSeveralCodes(t *testing.T) {
	for _, test := range []struct {
		name, file string
		findings   map[string]int
	}{
		{"another product's second barcode", "SKU,EAN,EAN 2,Title\nA,9521234000013,9521234000020,x\nB,9521234000020,,y\n",
			map[string]int{"barcode.duplicate": 2}},
		{"its own second barcode", "SKU,EAN,EAN 2,Title\nA,9521234000013,9521234000013,x\n", map[string]int{}},
		{"as UPC-A and as EAN-13", "SKU,EAN,Title\nA,036000291452,x\nB,0036000291452,y\n", map[string]int{"barcode.duplicate": 2}},
		{"as UPC-E and as UPC-A", "SKU,EAN,Title\nA,04252614,x\nB,042100005264,y\n", map[string]int{"barcode.duplicate": 2}},
		{"another product's second SKU", "SKU,SKU 2,Title\nA,B,x\nB,,y\n", map[string]int{"sku.duplicate": 2}},
		{"variants that share a code", "SKU,EAN,Title,Colour,Slug\nA,9521234000013,x,red,s\nA,9521234000013,x,blue,s\n",
			map[string]int{"barcode.variant": 1}},
		{"an image row that repeats it", "SKU,EAN,Title,Colour,Slug\nA,9521234000013,x,red,s\n,9521234000013,,,s\n", map[string]int{}},
		{"a part number in scientific notation", "SKU,MPN,Title\nA,1.20E+05,x\n", map[string]int{"sku.scientific": 1}},
		{"a part number like a date", "SKU,MPN,Title\nA,MAR-2,x\nB,2-Mar,y\n", map[string]int{"sku.replaced": 1}},
		{"a supplier whose SKUs are dates", "SKU,Title\n2-Mar,x\n3-Mar,y\n", map[string]int{}},
	} {
		_, findings, _ := repair(t, test.file, "")
		assert.Equal(t, test.findings, findings, test.name)
	}
}

// books is a second source that is no sheet.
type books map[string]string

func (b books) Look(k reference.Key) (a reference.Answer) {
	if code, err := barcode.Parse(b[k.Source+"/"+k.SKU]); err == nil {
		a.State, a.Code = reference.Found, code
	}
	return a
}
func (b books) SKU(barcode.Code, uint64) (string, reference.Answer) { return "", reference.Answer{} }
func (b books) Only(uint64, uint64) (reference.Answer, bool)        { return reference.Answer{}, false }

func (b books) Knows(uint64) bool { return false }

func (b books) Without(string) (string, int, bool) { return "", 0, false }
func (b books) String() string                     { return "the books" }

// TestAnySource: whatever has codes by supplier and SKU can be a second source.
func TestAnySource(t *testing.T) {
	source := books{"Hollowbrook/A": "9521234000013", "list.csv/B": "9521234000020", "Hollowbrook/C": "9529994000014"}
	ready, findings, rules := repairWith(t, "SKU,EAN,Title,Supplier\nA,9.52E+12,x,Hollowbrook\nB,9.52E+12,y,\nC,9.521E+12,z,Hollowbrook\nD,9.52E+12,z,Hollowbrook\n", &Codes{Source: source})
	assert.Equal(t, []string{"A,9521234000013,x,Hollowbrook", "B,9521234000020,y,"}, ready)
	assert.Equal(t, map[string]int{"trust.outside": 1, "barcode.rounded": 1}, findings)
	assert.Equal(t, map[string]int{"repair.trusted": 2}, rules)
}
