package cli

import (
	"encoding/csv"
	"net/http"
	"net/http/httptest"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestForms: what is ready is written in other forms, too, which are read again as the
// same, whatever the encoding and the separator of ready.csv.
func TestForms(t *testing.T) {
	dir := t.TempDir()
	writeFile(t, filepath.Join(dir, "list.csv"), "SKU,EAN,Title,Note\n007,9.521234000013E+12,\"Küche, groß\",' x'\nB,9521234000020,\"a \"\"b\"\"\",\"a\n\n<b>  c\"\n")
	writeFile(t, filepath.Join(dir, "western.toml"), "[target]\nencoding = \"windows-1252\"\nseparator = \"semicolon\"\nquotes = \"all\"\n")
	writeFile(t, filepath.Join(dir, "forms.toml"), "[target]\nencoding = \"utf-16\"\nbom = true\nas = [\"jsonl\", \"ods\", \"tsv\", \"xlsx\"]\n")
	want := [][]string{{"SKU", "EAN", "Title", "Note"}, {"007", "9521234000013", "Küche, groß", "' x'"}, {"B", "9521234000020", "a \"b\"", "a\n\n<b>  c"}}
	for _, flags := range [][]string{{"-as", "tsv,xlsx,ods,csv,jsonl"}, {"-as", "jsonl,xlsx,ods,tsv", "-rules", "western.toml"}, {"-rules", "forms.toml"}} {
		c := zetanum(t, dir, append([]string{"repair", "list.csv", "-look"}, flags...)...)
		require.Equal(t, exitOK, c.status, c.stderr)
		for _, form := range []string{"tsv", "xlsx", "ods", "jsonl"} {
			assert.Contains(t, c.stdout, "ready."+form)
			c := zetanum(t, dir, "repair", filepath.Join("list.repaired", "ready."+form), "-out", "-", "-encoding", map[bool]string{true: "windows-1252"}[flags[1] != "forms.toml" && len(flags) > 2 && form == "tsv"])
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
	for file, want := range map[string]string{"long.csv": "SKU,Title\nA," + strings.Repeat("x", 40_000) + "\n", "control.csv": "SKU,Description\nA,\"a\x01\"\n"} {
		writeFile(t, filepath.Join(dir, file), want)
		c = zetanum(t, dir, "repair", file, "-as", "ods")
		assert.Equal(t, exitFailed, c.status)
		assert.Contains(t, c.stderr, "column 2 of row 2 has")
		assert.Contains(t, c.stderr, "Leave -as ods out")
		assert.NoDirExists(t, filepath.Join(dir, strings.TrimSuffix(file, ".csv")+".repaired"))
	}
	for want, flags := range map[string][]string{"can be written as csv, tsv": {"-as", "pdf"}, "name one form": {"-as", "xlsx,tsv", "-out", "-"}, "leave -look out": {"-look", "-out", "-"}} {
		c = zetanum(t, dir, append([]string{"repair", "list.csv"}, flags...)...)
		assert.Equal(t, exitUsage, c.status)
		assert.Contains(t, c.stderr, want)
		assert.Empty(t, c.stdout)
	}
}

// TestAddress: a file on the web is fetched, kept beside what was made of it, and each
// time anew.
func TestAddress(t *testing.T) {
	text := "SKU,EAN,Title\nA,9.521234000013E+12,Smoker\n"
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path != "/lists/prices.csv" {
			w.WriteHeader(http.StatusNotFound)
			return
		}
		w.Write([]byte(text))
	}))
	defer server.Close()
	dir := t.TempDir()
	address := server.URL + "/lists/prices.csv?key=hidden"
	c := zetanum(t, dir, "inspect", address)
	require.Equal(t, exitOK, c.status, c.stderr)
	assert.Contains(t, c.stdout, "prices.csv  42 bytes")
	assert.Contains(t, c.stdout, "fetched from "+server.URL+"/lists/prices.csv?…")
	c = zetanum(t, dir, "repair", address)
	require.Equal(t, exitOK, c.status, c.stderr)
	out := filepath.Join(dir, "prices.repaired")
	assert.Equal(t, text, readFile(t, filepath.Join(out, "fetched-prices.csv")))
	assert.NotContains(t, readFile(t, filepath.Join(out, "run.json")), "hidden")
	ready := readFile(t, filepath.Join(out, "ready.csv"))
	assert.Equal(t, "SKU,EAN,Title\nA,9521234000013,Smoker\n", ready)
	// What was spoilt since is made anew from what was fetched then.
	writeFile(t, filepath.Join(out, "ready.csv"), strings.Replace(ready, "9521234000013", "9.52E+12", 1))
	writeFile(t, filepath.Join(dir, "lost.csv"), "SKU,EAN\nA,9.52E+12\n")
	c = zetanum(t, dir, "repair", "lost.csv", "-trust", out, "-out", "-")
	assert.Equal(t, "SKU,EAN\nA,9521234000013\n", c.stdout)
	text += "B,9521234000020,Veil\n"
	c = zetanum(t, dir, "repair", address)
	require.Equal(t, exitOK, c.status, c.stderr)
	assert.Contains(t, c.stdout, "read 2 = ready 2")
	c = zetanum(t, dir, "check", server.URL+"/lists/none.csv")
	assert.Equal(t, exitFailed, c.status)
	assert.Contains(t, c.stderr, "404")
}
