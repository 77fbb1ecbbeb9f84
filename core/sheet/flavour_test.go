package sheet

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
)

// TestFlavours: however a table is separated and quoted, it is read as what it says, by
// itself or as the user says.
func TestFlavours(t *testing.T) {
	for _, test := range []struct {
		name, content string
		reading       Reading
		kind          string
		heading       int
		headings      string
		rows          string // cells with |, rows with / between them
	}{
		{"a caret and tildes", "~SKU~^~Title~^~Price~\r\n~A~^~Smoker, 5\" ^ new~^~1~\r\n~B~^~say ~~hi~~~^~2~\r\n", Reading{},
			"CSV, UTF-8, separator ^, quotation marks ~", 1, "SKU|Title|Price", "A|Smoker, 5\" ^ new|1/B|say ~hi~|2"},
		{"apostrophes", "'SKU','Title'\n'A','one\ntwo'\n'B','it''s'\n", Reading{}, "separator comma, quotation marks '", 1, "SKU|Title",
			"A|one\ntwo/B|it's"},
		{"a backslash before marks", "\"SKU\";\"Title\"\n\"A\";\"5\\\" tool; new\"\n\"B\";\"a \\\\ b\"\n", Reading{},
			"with a backslash before those in cells", 1, "SKU|Title", "A|5\" tool; new/B|a \\ b"},
		{"a backslash that is none of them", "SKU;Title\nA;\"5\"\" \\\"\nB;x\n", Reading{}, "separator semicolon", 1, "SKU|Title",
			"A|5\" \\/B|x"},
		{"a caret alone", "SKU^Title\nA^Smoker, new\n", Reading{}, "separator ^", 1, "SKU|Title", "A|Smoker, new"},
		{"a line that says the separator", "sep=|\r\nSKU|Title\r\nA|a;b,c\r\n", Reading{}, "separator pipe", 1, "SKU|Title", "A|a;b,c"},
		{"such a line, and found out later", "sep=;\nSKU;Title\n" + strings.Repeat("A;plain\n", 200_000) + "B;K\xfcche\n", Reading{},
			"CSV, Windows-1252, separator semicolon", 1, "SKU|Title", strings.Repeat("A|plain/", 200_000) + "B|Küche"},
		{"such a line, and odd marks", "sep=^\n'SKU'^'Title'\n'A'^'b'\n", Reading{}, "quotation marks '", 1, "SKU|Title", "A|b"},
		{"such a line, and the same said", "sep=|\nSKU|Title\nA|b\n", Reading{Separator: "pipe"}, "separator pipe", 1, "SKU|Title", "A|b"},
		{"one that a program does not know", "sep=^\nfoo^bar^SKU\n1^2,3^4\n", Reading{}, "separator ^", 1, "foo|bar|SKU", "1|2,3|4"},
		{"said", "SKU,Title/x\nA,b/c\n", Reading{Separator: "/"}, "separator /", 1, "SKU,Title|x", "A,b|c"},
		{"said by name", "SKU\tTitle,x\nA\tb,c\n", Reading{Separator: "tab"}, "separator tab", 1, "SKU|Title,x", "A|b,c"},
		{"marks that are said", "%SKU%,Title\n%A,1%,b\n", Reading{Quote: "%"}, "quotation marks %", 1, "SKU|Title", "A,1|b"},
		{"the row of the headings", "SKU,Title\nNo.,Name\nA,b\n", Reading{HeadingRow: 2}, "separator comma", 2, "No.|Name", "A|b"},
		{"no headings", "A,9521234000013,b\nB,9521234000020,c\n", Reading{NoHeadings: true}, "separator comma", 0,
			"Column 1|Column 2|Column 3", "A|9521234000013|b/B|9521234000020|c"},
		{"no headings, and odd marks", "'A';'b'\n'B';'c'\n", Reading{NoHeadings: true}, "quotation marks '", 0, "Column 1|Column 2",
			"A|b/B|c"},
		{"tildes in texts", "SKU,Title\nA,~5 mm\nB,~6 mm\n", Reading{}, "separator comma", 1, "SKU|Title", "A|~5 mm/B|~6 mm"},
		{"colons in texts", "SKU,Title\nA,a:b\nB,c:d\n", Reading{}, "separator comma", 1, "SKU|Title", "A|a:b/B|c:d"},
		{"Windows-1252 with apostrophes", "'SKU';'Title'\n'A';'K\xfcche f\xfcr'\n'B';'Gr\xf6\xdfe'\n", Reading{},
			"CSV, Windows-1252, separator semicolon, quotation marks '", 1, "SKU|Title", "A|Küche für/B|Größe"},
		{"never closed", "'SKU','Title'\n'A','b'\n'B','c", Reading{}, "quotation marks '", 1, "SKU|Title", "A|b/B|c"},
	} {
		path := filepath.Join(t.TempDir(), "list.csv")
		require.NoError(t, os.WriteFile(path, []byte(test.content), 0o666))
		require.Empty(t, test.reading.Check(), test.name)
		table, err := Open(path, Options{Reading: test.reading, Spool: t.TempDir(), AnyHeadings: true})
		require.NoError(t, err, test.name)
		var rows []string
		require.NoError(t, table.Each(func() { rows = nil }, func(r *catalogue.Row) {
			rows = append(rows, strings.Join(r.Cells, "|"))
			assert.Equal(t, test.heading+len(rows), r.Number, test.name)
		}), test.name)
		assert.Contains(t, table.Kind(), test.kind, test.name)
		assert.Equal(t, test.heading, table.Heading, test.name)
		assert.Equal(t, test.headings, strings.Join(table.Columns.Headings, "|"), test.name)
		assert.True(t, test.rows == strings.Join(rows, "/"), "%s: %.200s", test.name, strings.Join(rows, "/"))
		require.NoError(t, table.Close())
	}
	for want, r := range map[string]Reading{
		"no such encoding": {Encoding: "x"}, "a separator is one": {Separator: "ab"},
		"another than the separator": {Separator: "%", Quote: "%"}, "from 1 on": {HeadingRow: -1},
		"goes without": {HeadingRow: 1, NoHeadings: true},
	} {
		problems := r.Check()
		require.NotEmpty(t, problems, want)
		assert.Contains(t, problems[0].Text, want)
	}
	path := filepath.Join(t.TempDir(), "list.csv")
	require.NoError(t, os.WriteFile(path, []byte("x1,y\nA,b\n"), 0o666))
	_, err := Open(path, Options{})
	assert.ErrorContains(t, err, "the setting ‹no-headings›")
	_, err = Open(path, Options{Reading: Reading{HeadingRow: 9}})
	assert.ErrorContains(t, err, "headings is empty (row 9)")
}
