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

// TestJSON: objects are rows, whether one a line or in a list; numbers keep the digits
// that stand there.
func TestJSON(t *testing.T) {
	for _, test := range []struct{ name, content, headings, rows string }{
		{"lines", "{\"sku\": \"A\", \"ean\": 9521234000013, \"title\": \"Küche \\u00fc\"}\n{\"title\": \"b\", \"sku\": \"B\", \"new\": true}\n", "sku|ean|title|new", "A|9521234000013n|Küche ü|/B||b|TRUE"},
		{"a list", "\ufeff [ {\"sku\":\"A\",\"price\":{\"value\":9.50,\"currency\":\"EUR\"},\"images\":[\"a\",\"b\"],\"none\":null},\n{\"sku\":\"B\",\"images\":[]}]", "sku|price.value|price.currency|images|none", "A|9.50n|EUR|a|b|/B||||"},
		{"large numbers", `[{"sku":"A","ean":9.52e12},{"sku":"B","ean":95212340000130001234}]`, "sku|ean",
			"A|9.52e12n/B|95212340000130001234n"},
		{"lists of objects", `{"sku":"A","options":[{"name":"size","value":"M"},{"name":"colour"}],"e":[[1,2],[3]]}`, "sku|options|e",
			"A|size M|colour|1|2|3"},
		{"twice in one object", `{"sku":"A","sku":"B"}`, "sku", "B"},
	} {
		path := filepath.Join(t.TempDir(), "list.json")
		require.NoError(t, os.WriteFile(path, []byte(test.content), 0o666))
		table, err := Open(path, Options{Spool: t.TempDir()})
		require.NoError(t, err, test.name)
		var rows []string
		require.NoError(t, table.Each(func() {}, func(r *catalogue.Row) {
			var cells []string
			for i, c := range r.Cells {
				if r.Marks[i]&catalogue.Numeric != 0 {
					c += "n"
				}
				cells = append(cells, c)
			}
			rows = append(rows, strings.Join(cells, "|"))
		}))
		assert.Equal(t, test.headings, strings.Join(table.Columns.Headings, "|"), test.name)
		assert.Equal(t, test.rows, strings.Join(rows, "/"), test.name)
		assert.Equal(t, "JSON", table.Kind(), test.name)
		require.NoError(t, table.Close())
	}
	for content, says := range map[string]string{
		"{\"sku\": \"A\"}\n{\"sku\": ": "behind 1 object", "{\"sku\": \"A\"}\nnull\n": "where an object should begin", "{}": "empty",
		"{\"sku\":" + strings.Repeat("{\"a\":", 50): "more than 20 deep", "[{\"sku\":1}": "behind 1 object",
	} {
		path := filepath.Join(t.TempDir(), "list.json")
		require.NoError(t, os.WriteFile(path, []byte(content), 0o666))
		_, err := Open(path, Options{Spool: t.TempDir()})
		assert.ErrorContains(t, err, says, content)
	}
}
