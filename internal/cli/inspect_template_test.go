package cli

import (
	"encoding/json"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestInspectTemplate: a form is explained, alone and with a file that is to fill it; what is only likely, and what is lacking, is asked.
func TestInspectTemplate(t *testing.T) {
	dir := t.TempDir()
	require.Equal(t, exitOK, zetanum(t, dir, "demo").status)
	form := filepath.Join("zetanum-demo", "shop-form.xlsx")
	c := zetanum(t, dir, "inspect", "-template", form)
	require.Equal(t, exitOK, c.status, c.stderr)
	for _, said := range []string{"sheet Articles", "15 columns, 9 of which must be filled", "samples in rows 4 and 5", "yes and no as Y and N, dates as YYYY-MM-DD",
		"one of 6: Protection, Smokers", "a number from 0.05 to 5000", "always new", "zetanum inspect FILE -template"} {
		assert.Contains(t, c.stdout, said)
	}
	c = zetanum(t, dir, "inspect", filepath.Join("zetanum-demo", "wick-and-wax.xlsx"), "-template", form)
	require.Equal(t, exitOK, c.status, c.stderr)
	for _, said := range []string{"Shop price: “RRP” (16.45) or “RRP with tax” (19.58)?", "Main picture: must be filled, and no column of the file seems to have it", "Goes nowhere\n  Trade price"} {
		assert.Contains(t, c.stdout, said)
	}

	c = zetanum(t, dir, "inspect", filepath.Join("zetanum-demo", "saltmarsh-export.csv"), "-template", form, "-json")
	require.Equal(t, exitOK, c.status, c.stderr)
	var said jsonForm
	require.NoError(t, json.Unmarshal([]byte(c.stdout), &said))
	from := make(map[string]string)
	for _, column := range said.Columns {
		from[column.Heading] = column.From + column.Fixed
	}
	assert.Equal(t, map[string]string{"Article code *": "SKU", "Name of article *": "Product name", "Made by *": "Brand", "Shelf *": "Category", "Barcode": "Barcode", "Shop price *": "Price",
		"On hand *": "Quantity", "Main picture *": "Image URL", "Picture 2": "", "Story": "Text (HTML)", "Search words": "", "Sold from": "", "Vegan": "", "Way of dispatch *": "", "Condition *": "new"}, from)
	assert.Equal(t, 4, said.First)

	writeFile(t, filepath.Join(dir, "mez.csv"), "Kód,Név,Ár,Kép\nX-1,Méz 500 g,\"12,50\",x1.jpg\nX-2,Méz 250 g,\"7,50\",x2.jpg\n")
	writeFile(t, filepath.Join(dir, "zetanum.toml"), "[[rows]]\nkeep = { \"Not there\" = \"x\" }\n")
	c = zetanum(t, dir, "inspect", "mez.csv", "-template", form)
	require.Equal(t, exitOK, c.status, c.stderr)
	assert.Contains(t, c.stdout, "was not followed", "of a rulebook that only lies beside it")
	assert.Regexp(t, `Shop price +yes +Ár`, c.stdout, "headings that are not known by themselves")

	c = zetanum(t, dir, "inspect", "-template", "none.xlsx")
	assert.Equal(t, exitFailed, c.status)
	assert.Contains(t, c.stderr, "none.xlsx")
	c = zetanum(t, dir, "inspect", "a.csv", "b.csv", "-template", form)
	assert.Equal(t, exitUsage, c.status)
	writeFile(t, filepath.Join(dir, "empty.csv"), "\n\n")
	c = zetanum(t, dir, "inspect", "-template", "empty.csv")
	assert.Equal(t, exitFailed, c.status)
	assert.Contains(t, c.stderr, "empty.csv")
}
