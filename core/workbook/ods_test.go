package workbook

import (
	"archive/zip"
	"bytes"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// odsOf returns a spreadsheet in OpenDocument, of tables, or of a whole document that begins with what says that it is XML.
func odsOf(t testing.TB, tables string, more ...string) []byte {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	if !strings.HasPrefix(tables, xmlHead) {
		tables = `<office:document-content>` + tables + `</office:document-content>`
	}
	parts := append([]string{"mimetype", openDocument, "content.xml", tables}, more...)
	for i := 0; i < len(parts); i += 2 {
		w, err := z.Create(parts[i])
		require.NoError(t, err)
		_, err = w.Write([]byte(parts[i+1]))
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

func opened(t testing.TB, data []byte) *Book {
	b, err := Open(bytes.NewReader(data), int64(len(data)))
	require.NoError(t, err)
	return b
}

// TestODS: what is stored in OpenDocument is read, repeated rows and cells included.
func TestODS(t *testing.T) {
	for _, test := range []struct {
		name, rows string
		want       map[string]string
	}{
		{"numbers", `<table-row><table-cell value-type="float" value="9521234000013"><p>9,52E+12</p></table-cell><table-cell value-type="percentage" value="0.19"/><table-cell value-type="currency" value="9.95"/><table-cell value-type="float" value="9.521234E12"/></table-row>`,
			map[string]string{"A1": "n 9521234000013", "B1": "n 0.19", "C1": "n 9.95", "D1": "n 9521234000000"}},
		{"texts", "<table-row><table-cell value-type='string'><p>a <s c='2'/>b<tab/>c</p><p>d<span>  e\n f</span> g</p><annotation><p>note</p></annotation></table-cell><table-cell value-type='string' string-value='x'><p>y</p></table-cell><table-cell value-type='string'><p>&lt;é&#233;&gt;</p></table-cell></table-row>",
			map[string]string{"A1": "t a   b\tc\nd e f g", "B1": "t x", "C1": "t <éé>"}},
		{"dates", `<table-row><table-cell value-type="date" date-value="2025-12-09"/><table-cell value-type="date" date-value="2025-12-09T12:30:00.000"/><table-cell value-type="time" time-value="PT06H05M00S"/><table-cell value-type="boolean" boolean-value="true"/></table-row>`,
			map[string]string{"A1": "d 2025-12-09", "B1": "d 2025-12-09 12:30:00", "C1": "d 06:05:00", "D1": "b TRUE"}},
		{"formulas", `<table-row><table-cell formula="of:=1+1" value-type="float" value="2"/><table-cell formula="of:=X()"/><table-cell formula="of:=1/0" value-type="string" string-value="" calcext:value-type="error"><p>#DIV/0!</p></table-cell></table-row>`,
			map[string]string{"A1": "nf 2", "B1": "tf? ", "C1": "ef #DIV/0!"}},
		{"repeated", `<table-row number-rows-repeated="3"><table-cell number-columns-repeated="2"/><table-cell number-columns-repeated="2" value-type="float" value="1"/></table-row><table-row number-rows-repeated="1048576"><table-cell number-columns-repeated="16384"/></table-row>`,
			map[string]string{"C1": "n 1", "D1": "n 1", "C2": "n 1", "D2": "n 1", "C3": "n 1", "D3": "n 1"}},
		{"merged", `<table-header-rows><table-row><table-cell number-columns-spanned="2" value-type="string"><p>x</p></table-cell><covered-table-cell><p>hidden</p></covered-table-cell><table-cell value-type="string"><p>y</p></table-cell></table-row></table-header-rows>`,
			map[string]string{"A1": "t x", "C1": "t y"}},
		{"a table within", `<table-row><table-cell><table name="P"><table-row><table-cell value-type="float" value="9"/></table-row></table></table-cell><table-cell value-type="float" value="1"/></table-row>`, map[string]string{"B1": "n 1"}},
	} {
		b := opened(t, odsOf(t, `<table name="Other"/><table name="P">`+test.rows+`</table>`))
		assert.Equal(t, test.want, said(t, b, b.Sheets[1]), test.name)
	}
	b := opened(t, odsOf(t, `<style name="ta1"><table-properties display="false"/></style><table name="One" style-name="ta1"/><table name="Two"><table-column number-columns-repeated="2"/><table-column visibility="collapse"/><table-row visibility="filter"><table-cell value-type="float" value="1"/></table-row></table>`))
	assert.True(t, b.Sheets[0].Hidden && !b.Sheets[1].Hidden)
	said(t, b, b.Sheets[1])
	assert.Equal(t, []Range{{3, 3}}, b.Sheets[1].HiddenColumns)
	assert.True(t, b.Sheets[1].Filtered && b.Sheets[1].HiddenRows == 1)

	for _, test := range []struct {
		data []byte
		want error
	}{
		{odsOf(t, `<table name="P"><table-row number-rows-repeated="1000000"><table-cell number-columns-repeated="16000" value-type="float" value="1"/></table-row></table>`), ErrTooLarge},
		{odsOf(t, `<table name="P"><table-row><table-cell>`), ErrDamaged},
		{odsOf(t, `<table name="P"/>`, "META-INF/manifest.xml", `<manifest><file-entry><encryption-data/></file-entry></manifest>`),
			ErrPassword},
		{odsOf(t, ``), ErrNotWorkbook},
	} {
		b, err := Open(bytes.NewReader(test.data), int64(len(test.data)))
		if err == nil {
			err = b.Rows(b.Sheets[0], func(*Row) error { return nil })
		}
		assert.ErrorIs(t, err, test.want)
	}
}

// TestAllFormats: one table, saved in all formats by another program, has the same
// cells.
func TestAllFormats(t *testing.T) {
	read := func(name string) map[string]string {
		data, err := os.ReadFile(name)
		require.NoError(t, err)
		b := opened(t, data)
		require.Equal(t, []string{"Products", "Notes", "Old"}, []string{b.Sheets[0].Name, b.Sheets[1].Name, b.Sheets[2].Name})
		assert.True(t, b.Sheets[2].Hidden)
		cells := said(t, b, b.Sheets[0])
		assert.Equal(t, []Range{{4, 4}}, b.Sheets[0].HiddenColumns, name)
		assert.Equal(t, 1, b.Sheets[0].HiddenRows, name)
		assert.Len(t, b.Sheets[0].Merged, 1, name)
		return cells
	}
	a := read("testdata/office.xlsx")
	assert.Greater(t, len(a), 40)
	for _, name := range []string{"testdata/office.ods", "testdata/office.xls"} {
		b := read(name)
		for at, cell := range a {
			if at[0] == 'H' { // formulas of truth values, which that program makes numbers in some of them
				continue
			}
			assert.Equal(t, strings.TrimSpace(cell), strings.TrimSpace(b[at]), "%s, %s", name, at)
		}
		assert.Len(t, b, len(a), name)
	}
}

// FuzzODS: whatever is in a sheet, it is read or refused.
func FuzzODS(f *testing.F) {
	for _, s := range []string{`<table name="P"><table-row number-rows-repeated="2"><table-cell value-type="float" value="1"><p>x<s c="9"/></p></table-cell></table-row></table>`, `<table name="P"><table-row/><table-row><covered-table-cell>`, `<table name=""><table>`} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, content string) {
		data := odsOf(t, content)
		b, err := Open(bytes.NewReader(data), int64(len(data)))
		if err != nil {
			return
		}
		for _, s := range b.Sheets {
			last := 0
			b.Rows(s, func(row *Row) error {
				assert.Greater(t, row.Number, last)
				last = row.Number
				col := 0
				for _, c := range row.Cells {
					assert.True(t, c.Col > col && c.Col <= MostColumns)
					col = c.Col
				}
				return nil
			})
		}
	})
}
