package repair

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestLastRow: the last row of a file need not end, and goes out so; where it comes to stand before another one, because rows
// are made of it or the order is another, it ends.
func TestLastRow(t *testing.T) {
	for _, test := range []struct {
		name, in, rules, want string
	}{
		{"as it was", "SKU,Title\nA1,Hat\nA2,Veil", "", "SKU,Title\nA1,Hat\nA2,Veil"},
		{"sorted", "SKU,Title\r\nA2,Hat\r\nA1,Veil", "[sheet]\nsort_by = [\"sku\"]\n", "SKU,Title\r\nA1,Veil\r\nA2,Hat\r\n"},
		{"before rows made of it", "SKU,Parent SKU,Title,Sizes,Size\nA1,,Hat,\"S, M\",",
			"[[one_row_each]]\nfrom = \"Sizes\"\ninto = \"Size\"\nset = { sku = \"{sku}-{Size}\" }\nparent = true\n",
			"SKU,Parent SKU,Title,Sizes,Size\nA1,,Hat,\"S, M\",\nA1-S,A1,,,S\nA1-M,A1,,,M\n"},
	} {
		t.Run(test.name, func(t *testing.T) {
			dir := t.TempDir()
			path := filepath.Join(dir, "list.csv")
			require.NoError(t, os.WriteFile(path, []byte(test.in), 0o666))
			opt := Options{Input: path, Target: filepath.Join(dir, "out"), Workers: 2, Temp: dir}
			opt.Book = book(t, test.rules)
			result, err := Run(t.Context(), opt)
			require.NoError(t, err)
			content, err := os.ReadFile(filepath.Join(result.Folder, "ready.csv"))
			require.NoError(t, err)
			assert.Equal(t, test.want, string(content))
		})
	}
}
