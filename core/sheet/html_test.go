package sheet

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestHTML: the table of a web page, which some programs call a workbook, is read with its
// cells where a browser shows them.
func TestHTML(t *testing.T) {
	const head = "<table><tr><th>SKU</th><th>Title</th><th>Price</th></tr>"
	for _, test := range []struct{ name, in, want string }{
		{"plain", head + "<tr><td>A</td><td>Honey</td><td>3.50</td></tr></table>", "A|Honey|3.50"},
		{"nothing closed", "<html><body><table><tr><td>SKU<td>Title<td>Price<tr><td>A<td>Honey<td>3.50</table>", "A|Honey|3.50"},
		{"spaces, references and breaks", head + "<tr><td> A </td><td>Wick &amp;\n  <b>Wax</b><br>two</td><td><p>x</p><p>y</p></td></tr>",
			"A|Wick & Wax\ntwo|x\ny"},
		{"no-break spaces stay", head + "<tr><td>A</td><td>5&nbsp;kg</td><td></td></tr>", "A|5\u00a0kg|"},
		{"cells over several columns and rows", head + "<tr><td rowspan=2>A</td><td colspan=2>Honey</td></tr><tr><td>Wax</td><td>2</td></tr>", "A|Honey|/|Wax|2"},
		{"the second table", "<!DOCTYPE html><table><tr><td>Home<td>Prices</table><p>x</p>" + head + "<tr><td>A<td>Honey<td>1</table>",
			"A|Honey|1"},
		{"a table in a cell", head + "<tr><td>A</td><td>x <table><tr><td>in</td></tr></table> y</td><td>1</td></tr></table>", "A|x in y|1"},
		{"what nobody sees", "<meta charset=utf-8><style>td{}</style>" + head +
			"<tr><td>A<script>var x='<td>'</script></td><td>Küche</td><td>1</td></tr>", "A|Küche|1"},
		{"another encoding", "<html><meta charset=windows-1250>" + head + "<tr><td>A<td>\xa3\xf3d\x9f<td>1", "A|Łódź|1"},
	} {
		table, err := Open(write(t, "list.xls", test.in), Options{Spool: t.TempDir()})
		require.NoError(t, err, test.name)
		assert.Contains(t, table.Kind(), "web page, table")
		rows, _ := rowsOf(t, table, PartSize)
		var got []string
		for _, row := range rows {
			got = append(got, strings.Join(row, "|"))
		}
		assert.Equal(t, test.want, strings.Join(got, "/"), test.name)
		table.Close()
	}
	for name, text := range map[string]string{
		"it has no table":               "<html><body>Log in</body></html>",
		"no table in it":                "<!doctype html><table><tr><td>a</table><table><tr><td>b</table>",
		"none of the headings is known": "<table><tr><td>Ada<td>Bob</table>",
	} {
		_, err := Open(write(t, "list.xls", text), Options{Spool: t.TempDir()})
		require.Error(t, err)
		assert.Contains(t, err.Error(), name)
	}
}
