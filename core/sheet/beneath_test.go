package sheet

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestHeadingsOnTwoRows: headings of two rows are put together where every column gets
// one of its own, and a row above them or the first product is not taken for a part of
// them.
func TestHeadingsOnTwoRows(t *testing.T) {
	const product = "A1,Honey,3.5,4.2,4\nA2,Wax,4.5,5.2,4\n"
	for _, test := range []struct{ name, in, want string }{
		{"over both rows", "SKU,Title,Price,,Stock\n,,net,gross,\n" + product, "2: SKU|Title|Price net|Price gross|Stock"},
		{"the upper row is decoration", "List,,of,us,all\nSKU,Title,Price,Cost,Stock\n" + product, "2: SKU|Title|Price|Cost|Stock"},
		{"groups tell doubles apart", ",,Price,,Cost,\nSKU,Title,net,gross,net,gross\nA1,Honey,3.5,4.2,4,5\n",
			"2: SKU|Title|Price net|Price gross|Cost net|Cost gross"},
		{"groups over what is clear already", ",,Dimensions,,\nSKU,Title,Length,Width,Stock\n" + product,
			"2: SKU|Title|Length|Width|Stock"},
		{"a column without heading", "SKU,Title,Price,,Stock\nA1,Honey,net,gross,4\n", "1: SKU|Title|Price||Stock"},
		{"a second row with numbers", "SKU,Title,Price,,Stock\n,,1,2,\n" + product, "1: SKU|Title|Price||Stock"},
		{"one column stays without", "SKU,Title,Price,,\n,,net,gross,\n" + product[:len(product)-1] + ",x\n",
			"2: SKU|Title|Price net|Price gross"},
		{"the same heading twice", "SKU,Title,Price,,Stock\n,,Stock,gross,\n" + product, "1: SKU|Title|Price||Stock"},
		{"decoration above doubles", "Hollowbrook,,,Contact,\nSKU,Image,Title,Image,Stock\n" + product, "2: SKU|Image|Title|Image|Stock"},
		{"decoration above a group", "Wick & Wax\n\nSKU,Title,Price,,Stock\n,,net,gross,\n" + product,
			"4: SKU|Title|Price net|Price gross|Stock"},
	} {
		table, err := Open(write(t, "list.csv", test.in), Options{})
		require.NoError(t, err, test.name)
		got := string(rune('0'+table.Heading)) + ": " + strings.Join(table.Columns.Headings, "|")
		assert.Equal(t, test.want, got, test.name)
		rows, _ := rowsOf(t, table, PartSize)
		assert.Len(t, rows, strings.Count(test.in, "\n")-table.Heading, test.name)
		table.Close()
	}
	table, err := Open(write(t, "list.csv", "SKU,Title,Price,,Stock\n,,net,gross,\n"+product), Options{Reading: Reading{HeadingRow: 1}})
	require.NoError(t, err)
	defer table.Close()
	assert.Len(t, table.Heads, 1, "the user has said which row it is")
}

// TestWriteInAnyStyle: what is written in a style is read again as it was.
func TestWriteInAnyStyle(t *testing.T) {
	cells := []string{"", "a", "~a~b", `"`, "a^b", "a,b", "a\nb", "a\r\nb", " a ", "\ta", "ü", "~", ""}
	for _, style := range []Style{{',', '"', QuotesAsWere}, {'^', '~', QuotesNeeded}, {'^', '~', QuotesEvery}, {';', '"', QuotesEvery},
		{'\t', '\'', QuotesNeeded}} {
		line := append(style.AppendRow(nil, cells...), "\r\nx\r\n"...)
		path := write(t, "list.csv", "head"+string(line))
		table, err := OpenWritten(path, 4, style, 0, t.TempDir())
		require.NoError(t, err)
		rows, _ := rowsOf(t, table, PartSize)
		require.Len(t, rows, 2)
		assert.Equal(t, cells, rows[0], "%c%c%d", style.Separator, style.Quote, style.Quotes)
		assert.Equal(t, []string{"x"}, rows[1])
		table.Close()
	}
}
