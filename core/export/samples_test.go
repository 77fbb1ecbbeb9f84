package export_test

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/export"
	"zetanum/core/repair"
	"zetanum/core/sections"
)

// TestSamples: of many products that are alike those are looked at that differ, and the same ones whatever the workers.
func TestSamples(t *testing.T) {
	var source strings.Builder
	source.WriteString("Slug,SKU,Title,Description,Price\n")
	odd := map[int]string{50: "<table><tr><th>a</th><td>b</td></tr></table>", 120: "<p><a href=\"/x\">y</a></p>", 170: "<p><img src=\"https://cdn.halvora.example/1.jpg\"> z</p>",
		210: "", 260: "plain words", 300: "<p>" + strings.Repeat("long ", 90) + "</p>", 333: "<h2>Head</h2>", 390: "<p>x"}
	for i := range 400 {
		text, is := odd[i]
		if !is {
			text = fmt.Sprintf("<p>An ordinary text about product %d.</p>", i)
		}
		fmt.Fprintf(&source, "s%d,S%d,Product %d,\"%s\",5\n", i, i, i, strings.ReplaceAll(text, `"`, `""`))
		if i == 80 {
			source.WriteString("s80,S80b,,,6\n")
		}
	}
	var first *export.Samples
	for _, workers := range []int{1, 3} {
		dir := t.TempDir()
		path := filepath.Join(dir, "list.csv")
		require.NoError(t, os.WriteFile(path, []byte(source.String()), 0o666))
		book := sections.Book{Field: map[string]*sections.FieldTable{"description": {}}}
		book.Field["description"].InField.Clean = true
		r, err := repair.Run(context.Background(), repair.Options{Input: path, Target: filepath.Join(dir, "out"), Date: "2026-11-30", Workers: workers, PartSize: 2000, Book: book,
			Proof: &repair.Proof{SamplesWanted: export.SamplesWanted{Most: 13, SKUs: []string{"s7", "none"}},
				Write: func(string, *repair.Result, *export.Samples) error { return nil }}})
		require.NoError(t, err)
		s := r.Samples
		require.Len(t, s.Products, 14, "and the one that was asked for")
		assert.Equal(t, 400, s.Of)
		assert.Equal(t, []string{"none"}, s.Missing)
		var skus []string
		for _, p := range s.Products {
			skus = append(skus, p.Rows[0].Cells[1])
		}
		for _, i := range []int{7, 50, 80, 120, 170, 210, 300, 333} {
			assert.Contains(t, skus, fmt.Sprintf("S%d", i))
		}
		if first == nil {
			first = s
		}
		assert.Equal(t, first, s)
	}
	for _, p := range first.Products {
		if p.Rows[0].Cells[1] == "S80" {
			assert.Len(t, p.Rows, 2)
			assert.Contains(t, p.Why, "of several rows")
		}
		if p.Rows[0].Cells[1] == "S50" {
			assert.Equal(t, odd[50], p.Rows[0].Before[3])
			assert.Contains(t, p.Rows[0].Cells[3], "<tbody>")
		}
	}
}
