package cli

import (
	"bytes"
	"encoding/csv"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"zetanum/core/workbook"
	"zetanum/demo"
	"zetanum/internal/outside"
)

// TestForms: what is ready is written in other forms, too, which are read again as the
// same, whatever the encoding and the separator of ready.csv.
func TestForms(t *testing.T) {
	dir := t.TempDir()
	writeFile(t, filepath.Join(dir, "list.csv"), "SKU,EAN,Title,Note\n007,9.521234000013E+12,\"Küche, groß\",' x'\nB,9521234000020,\"a \"\"b\"\"\",\"a\n\n<b>  c\"\n")
	writeFile(t, filepath.Join(dir, "western.toml"), "[target]\nencoding = \"windows-1252\"\nseparator = \"semicolon\"\nquotes = \"all\"\n")
	writeFile(t, filepath.Join(dir, "forms.toml"), "[target]\nencoding = \"utf-16\"\nbom = true\nas = [\"jsonl\", \"ods\", \"tsv\", \"xls\", \"xlsx\"]\n")
	want := [][]string{{"SKU", "EAN", "Title", "Note"}, {"007", "9521234000013", "Küche, groß", "' x'"},
		{"B", "9521234000020", "a \"b\"", "a\n\n<b>  c"}}
	for _, flags := range [][]string{{"-as", "tsv,xlsx,xls,ods,csv,jsonl"}, {"-as", "jsonl,xlsx,xls,ods,tsv", "-rules", "western.toml"},
		{"-rules", "forms.toml"}} {
		c := zetanum(t, dir, append([]string{"repair", "list.csv", "-look"}, flags...)...)
		require.Equal(t, exitOK, c.status, c.stderr)
		for _, form := range []string{"tsv", "xlsx", "xls", "ods", "jsonl"} {
			assert.Contains(t, c.stdout, "ready."+form)
			c := zetanum(t, dir, "repair", filepath.Join("list.repaired", "ready."+form), "-out", "-", "-encoding",
				map[bool]string{true: "windows-1252"}[flags[1] != "forms.toml" && len(flags) > 2 && form == "tsv"])
			require.Equal(t, exitOK, c.status, c.stderr)
			reader := csv.NewReader(strings.NewReader(c.stdout))
			reader.Comma = map[bool]rune{true: '\t', false: ','}[form == "tsv"]
			got, err := reader.ReadAll()
			require.NoError(t, err, c.stdout)
			assert.Equal(t, want, got, form)
		}
		look := zetanum(t, dir, "repair", filepath.Join("list.repaired", "look.xlsx"), "-out", "-")
		require.Equal(t, exitOK, look.status, look.stderr)
		assert.Contains(t, look.stdout, "Row,SKU,EAN,Title,Note\n2,007,9521234000013,")
		assert.Contains(t, look.stderr, "1 row above the headings")
	}
	c := zetanum(t, dir, "repair", "list.csv", "-as", "jsonl", "-out", "-")
	require.Equal(t, exitOK, c.status, c.stderr)
	assert.Equal(t, "{\"SKU\":\"007\",\"EAN\":\"9521234000013\",\"Title\":\"Küche, groß\",\"Note\":\"' x'\"}\n{\"SKU\":\"B\",\"EAN\":\"9521234000020\",\"Title\":\"a \\\"b\\\"\",\"Note\":\"a\\n\\n<b>  c\"}\n", c.stdout)
	writeFile(t, filepath.Join(dir, "none.csv"), "SKU,Title\n,\n")
	c = zetanum(t, dir, "repair", "none.csv", "-as", "jsonl,ods,xlsx,xls,tsv", "-look")
	require.Equal(t, exitOK, c.status, c.stderr)
	assert.Contains(t, c.stdout, "all of them are set aside")
	assert.Empty(t, readFile(t, filepath.Join(dir, "none.repaired", "ready.jsonl")))
	for file, want := range map[string]string{"long.csv": "SKU,Title\nA," + strings.Repeat("x", 40_000) + "\n",
		"control.csv": "SKU,Description\nA,\"a\x01\"\n"} {
		writeFile(t, filepath.Join(dir, file), want)
		c = zetanum(t, dir, "repair", file, "-as", "ods")
		assert.Equal(t, exitFailed, c.status)
		assert.Contains(t, c.stderr, "column 2 of row 2 has")
		assert.Contains(t, c.stderr, "Leave -as ods out")
		assert.NoDirExists(t, filepath.Join(dir, strings.TrimSuffix(file, ".csv")+".repaired"))
	}
	for want, flags := range map[string][]string{"can be written as csv, tsv": {"-as", "pdf"},
		"name one form": {"-as", "xlsx,tsv", "-out", "-"}, "leave -look out": {"-look", "-out", "-"}} {
		c = zetanum(t, dir, append([]string{"repair", "list.csv"}, flags...)...)
		assert.Equal(t, exitUsage, c.status)
		assert.Contains(t, c.stderr, want)
		assert.Empty(t, c.stdout)
	}
}

// TestWorkbooksInOffice: an office suite reads in the workbooks what ready.csv says, codes with zeros in
// front included, and opens those that a person looks at.
func TestWorkbooksInOffice(t *testing.T) {
	outside.Program(t, "office")
	dir := t.TempDir()
	require.NoError(t, demo.Lay(filepath.Join(dir, "demo")))
	c := zetanum(t, dir, "repair", filepath.Join("demo", "odds-and-ends.csv"), "-trust", filepath.Join("demo", "odds-last-year.csv"), "-as",
		"xlsx,ods", "-look", "-out", "out")
	require.LessOrEqual(t, c.status, exitHeld, c.stderr)
	records := func(path string) [][]string {
		all, err := csv.NewReader(strings.NewReader(strings.TrimPrefix(readFile(t, path), "\ufeff"))).ReadAll()
		require.NoError(t, err, path)
		return all
	}
	ready := records(filepath.Join(dir, "out", "ready.csv"))
	books := map[string][]string{
		"ready.xlsx": {"Products"}, "plain.ods": {"Products"}, "look.xlsx": {"Only to look at"}, "review.xlsx": {"Summary", "Held"},
		"scan-list.xlsx": {"Scan list"},
	}
	require.NoError(t, os.Rename(filepath.Join(dir, "out", "ready.ods"), filepath.Join(dir, "out", "plain.ods")))
	var paths []string
	for name := range books {
		paths = append(paths, filepath.Join(dir, "out", name))
	}
	resaved := outside.Convert(t, "xlsx", paths...)
	for name, sheets := range books {
		saved, err := os.ReadFile(filepath.Join(resaved, strings.TrimSuffix(name, filepath.Ext(name))+".xlsx"))
		require.NoError(t, err)
		book, err := workbook.Open(bytes.NewReader(saved), int64(len(saved)))
		require.NoError(t, err)
		require.Len(t, book.Sheets, len(sheets), name)
		for n, sheet := range book.Sheets {
			assert.Equal(t, sheets[n], sheet.Name)
			var got [][]string
			require.NoError(t, book.Rows(sheet, func(row *workbook.Row) error {
				cells := make([]string, len(ready[0]))
				for _, c := range row.Cells {
					if c.Col <= len(cells) {
						cells[c.Col-1] = strings.Clone(c.Text)
					}
				}
				got = append(got, cells)
				return nil
			}))
			if sheet.Name == "Products" {
				assert.Equal(t, ready, got, name)
			}
			assert.Greater(t, len(got), 1, name)
		}
	}
}

// TestAddress: a file on the web is fetched, kept beside what was made of it, and each
// time anew.
func TestAddress(t *testing.T) {
	const first = "SKU,EAN,Title\nA,9.521234000013E+12,Smoker\n"
	var text atomic.Value
	text.Store(first)
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path != "/lists/prices.csv" {
			w.WriteHeader(http.StatusNotFound)
			return
		}
		w.Write([]byte(text.Load().(string)))
	}))
	defer server.Close()
	dir := t.TempDir()
	address := server.URL + "/lists/prices.csv?key=hidden"
	c := zetanum(t, dir, "inspect", address)
	assert.Equal(t, exitFailed, c.status)
	assert.Contains(t, c.stderr, "within your own network. If you know it and trust it, say so with -allow-local")
	c = zetanum(t, dir, "inspect", address, "-allow-local")
	require.Equal(t, exitOK, c.status, c.stderr)
	assert.Contains(t, c.stdout, "prices.csv  42 bytes")
	assert.Contains(t, c.stdout, "fetched from "+server.URL+"/lists/prices.csv?…")
	c = zetanum(t, dir, "repair", address, "-allow-local")
	require.Equal(t, exitOK, c.status, c.stderr)
	out := filepath.Join(dir, "prices.repaired")
	assert.Equal(t, first, readFile(t, filepath.Join(out, "fetched-prices.csv")))
	assert.NotContains(t, readFile(t, filepath.Join(out, "run.json")), "hidden")
	ready := readFile(t, filepath.Join(out, "ready.csv"))
	assert.Equal(t, "SKU,EAN,Title\nA,9521234000013,Smoker\n", ready)
	// What was spoilt since is made anew from what was fetched then.
	writeFile(t, filepath.Join(out, "ready.csv"), strings.Replace(ready, "9521234000013", "9.52E+12", 1))
	writeFile(t, filepath.Join(dir, "lost.csv"), "SKU,EAN\nA,9.52E+12\n")
	c = zetanum(t, dir, "repair", "lost.csv", "-trust", out, "-out", "-")
	assert.Equal(t, "SKU,EAN\nA,9521234000013\n", c.stdout)
	text.Store(first + "B,9521234000020,Veil\n")
	c = zetanum(t, dir, "repair", address, "-allow-local")
	require.Equal(t, exitOK, c.status, c.stderr)
	assert.Contains(t, c.stdout, "read 2 = ready 2")
	c = zetanum(t, dir, "check", server.URL+"/lists/none.csv", "-allow-local")
	assert.Equal(t, exitFailed, c.status)
	assert.Contains(t, c.stderr, "404")
}

// TestInspectSaysWhat: a look names what stands around a table, what its columns hold,
// and how far the first rows of products and the others are filled.
func TestInspectSaysWhat(t *testing.T) {
	dir := t.TempDir()
	writeFile(t, filepath.Join(dir, "list.csv"), "Price list of Wick & Wax\n\n,,,Price,\nSlug,SKU,Title,net,gross,Picture\nRequired,Required,,Number,Number,\n"+
		"s1,A1,<p>Honey</p>,3.50,4,https://x.example/a.jpg\ns1,A2,,3.50,4,https://x.example/b.jpg\ns1,,,,,https://x.example/c.jpg\ns2,B1,<p>Wax</p>,1,2,https://x.example/d.jpg\n"+
		"s3,C1,<p>Comb</p>,1,2,https://x.example/e.jpg\ns4,D1,<p>Veil</p>,1,2,\ns5,E1,<p>Hat</p>,1,2,\nTotal,,,11,16,\n")
	c := zetanum(t, dir, "inspect", "list.csv")
	require.Equal(t, exitOK, c.status, c.stderr)
	for _, said := range []string{
		"3 rows above the headings", "row 5: units or demands under the headings (Required, Required, Number, Number)",
		"some of the 5 products have more than one row",
		"9 rows below the headings, 5 products", "Title: Of the first filled cells of the column, 5, 5 hold HTML",
	} {
		assert.Contains(t, c.stdout, said)
	}
	assert.Regexp(t, `SKU +sku +5 +1 +6 `, c.stdout)
	assert.Regexp(t, `Picture +images +3 +2 +5 `, c.stdout)
	c = zetanum(t, dir, "inspect", "-json", "list.csv")
	assert.Equal(t, 3.0, field(t, c.stdout, "rows_above_headings"))
	assert.Contains(t, c.stdout, `"row": 5`)
	assert.Contains(t, c.stdout, `"filled_in_lead_rows": 3`)

	books := excelize.NewFile()
	for _, sheet := range [][2]string{{"Sheet1", "Read me first"}, {"Items", "SKU"}, {"Old", "SKU"}} {
		name, cell := sheet[0], sheet[1]
		_, err := books.NewSheet(name)
		require.NoError(t, err)
		require.NoError(t, books.SetSheetRow(name, "A1", &[]string{cell, "Title"}))
		require.NoError(t, books.SetSheetRow(name, "A2", &[]string{name + " 1", "Honey"}))
	}
	require.NoError(t, books.SetCellValue("Sheet1", "B1", nil))
	require.NoError(t, books.SetSheetVisible("Old", false))
	require.NoError(t, books.SaveAs(filepath.Join(dir, "items.xlsx")))
	c = zetanum(t, dir, "inspect", "items.xlsx", "-sheet", "all")
	require.Equal(t, exitOK, c.status, c.stderr)
	for _, said := range []string{"sheet Sheet1: none of the headings is known", `workbook, sheet "Items"`, "Old (hidden)",
		`workbook, sheet "Old"`, "zetanum repair items.xlsx -sheet Items"} {
		assert.Contains(t, c.stdout, said)
	}
	c = zetanum(t, dir, "inspect", "list.csv", "-sheet", "all")
	assert.Equal(t, exitFailed, c.status)
	assert.Contains(t, c.stderr, "it is no workbook")
}

// TestNoHeadings: a table without headings is asked about, not taken for one with them.
func TestNoHeadings(t *testing.T) {
	dir := t.TempDir()
	rows := "A1,Honey,9521234000013,3.50\nA2,Wax,9521234000020,4.50\nA3,Comb,9521234000037,5.50\nA4,Veil,9521234000044,5.50\nA5,Hat,9521234000051,5.50\nA6,Box,9521234000068,5.50\n"
	writeFile(t, filepath.Join(dir, "list.csv"), rows)
	c := zetanum(t, dir, "repair", "list.csv")
	assert.Equal(t, exitFailed, c.status)
	assert.Contains(t, c.stderr, "say so with -no-headings")
	c = zetanum(t, dir, "repair", "list.csv", "-no-headings", "-field", "Column 1=sku", "-out", "-")
	require.Equal(t, exitOK, c.status, c.stderr)
	assert.Equal(t, rows, c.stdout)
	writeFile(t, filepath.Join(dir, "codes.csv"), "What\n"+strings.Join([]string{"9521234000013", "9521234000020", "9521234000037",
		"9521234000044", "9521234000051"}, "\n")+"\n")
	c = zetanum(t, dir, "inspect", "codes.csv")
	assert.Contains(t, c.stdout, `column "What" is taken for barcode, to judge by its cells`)
}
