package repair

import (
	"bytes"
	"context"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/charset"
	"zetanum/core/rulebook"
	"zetanum/core/sections"
)

// TestTarget: what goes out is in the encoding that is asked for, nothing of it has
// become a question mark, and as a file of ours it comes through a second run as it is.
func TestTarget(t *testing.T) {
	const list = "SKU,Größe,Title,Description,EAN\nA,ä,Küche – 5 €,<p>Łódź</p>,9521234000013\nB,b,Łódź? ½,x,9521234000020\nC,c,Ελιά,x,9521234000037\nD,d,Bürste,x,9521234000013\nÄ,e,x,x,\n"
	for _, test := range []struct {
		rules      string
		bom, ready string
		held       int
		note       string
	}{
		{"encoding = \"windows-1252\"", "", "SKU,Größe,Title,Description,EAN\nB,b,Lódz? ½,x,9521234000020\nÄ,e,x,x,\n", 3, ""},
		{"encoding = \"windows-1252\"\ninstead = { \"Ł\" = \"W\" }", "",
			"SKU,Größe,Title,Description,EAN\nB,b,Wódz? ½,x,9521234000020\nÄ,e,x,x,\n", 3, ""},
		{"encoding = \"koi8-r\"\n[sheet]\nsort_by = [\"title\"]", "", "SKU,Grosse,Title,Description,EAN\nB,b,Lodz? 1/2,x,9521234000020\n",
			4, "is written as \"Grosse\""},
		{"encoding = \"utf-16le\"", "\xff\xfe", "SKU,Größe,Title,Description,EAN\nB,b,Łódź? ½,x,9521234000020\nC,c,Ελιά,x,9521234000037\nÄ,e,x,x,\n", 2, ""},
		{"encoding = \"utf-16be\"\nbom = false", "", "SKU,Größe,Title,Description,EAN\nB,b,Łódź? ½,x,9521234000020\nC,c,Ελιά,x,9521234000037\nÄ,e,x,x,\n", 2, ""},
		{"separator = \"semicolon\"\nline_ends = \"crlf\"", "",
			"SKU;Größe;Title;Description;EAN\r\nB;b;Łódź? ½;x;9521234000020\r\nC;c;Ελιά;x;9521234000037\r\nÄ;e;x;x;\r\n", 2, ""},
		{"line_ends = \"crlf\"", "", "SKU,Größe,Title,Description,EAN\r\nB,b,Łódź? ½,x,9521234000020\r\nC,c,Ελιά,x,9521234000037\r\nÄ,e,x,x,\r\n", 2, ""},
		{"quotes = \"all\"", "", "\"SKU\",\"Größe\",\"Title\",\"Description\",\"EAN\"\n\"B\",\"b\",\"Łódź? ½\",\"x\",\"9521234000020\"\n\"C\",\"c\",\"Ελιά\",\"x\",\"9521234000037\"\n\"Ä\",\"e\",\"x\",\"x\",\"\"\n", 2, ""},
		{"separator = \"^\"\nquote = \"?\"", "", "SKU^Größe^Title^Description^EAN\nB^b^?Łódź?? ½?^x^9521234000020\nC^c^Ελιά^x^9521234000037\nÄ^e^x^x^\n", 2, ""},
		{"first_rows = \"keep\"", "", "Price list,,,,\n\nSKU,Größe,Title,Description,EAN\nitem_sku,size,item_name,html,bar_code\nB,b,Łódź? ½,x,9521234000020\nC,c,Ελιά,x,9521234000037\nÄ,e,x,x,\n", 2, ""},
		{"first_rows = \"keep\"\nencoding = \"utf-16le\"\n[columns]\nkeep = [\"EAN\", \"sku\"]", "\xff\xfe",
			"Price list,\n\nSKU,EAN\nitem_sku,bar_code\nB,9521234000020\nC,9521234000037\nÄ,\n", 2, ""},
		{"bom = true", "\ufeff", "SKU,Größe,Title,Description,EAN\nB,b,Łódź? ½,x,9521234000020\nC,c,Ελιά,x,9521234000037\nÄ,e,x,x,\n", 2,
			""},
	} {
		dir := t.TempDir()
		text := list
		if strings.Contains(test.rules, "first_rows") {
			text = "Price list,,,,\n\n" + strings.Replace(list, "EAN\n",
				"EAN\nitem_sku,size,item_name,html,bar_code\nExample: A0,,x,x,9521234000044\n", 1)
		}
		path := write(t, dir, "list.csv", text)
		book, err := sections.Load(write(t, dir, rulebook.Name, "[target]\n"+test.rules))
		require.NoError(t, err)
		result, err := Run(context.Background(), Options{Input: path, Target: Target(path), Workers: 2, Book: *book,
			Review: func(string, *Result) error { return nil }})
		require.NoError(t, err, test.rules)
		assert.Equal(t, test.held, result.Counts().Held, test.rules)
		ready := filepath.Join(result.Folder, "ready.csv")
		raw, err := os.ReadFile(ready)
		require.NoError(t, err)
		assert.True(t, strings.HasPrefix(string(raw), test.bom) && (test.bom != "" || strings.Contains("S\"P\x00", string(raw[0]))),
			"%s: % x", test.rules, raw[:4])
		assert.Equal(t, strings.TrimPrefix(test.ready, "\ufeff"), inUTF8(t, raw, book.Target.Charset()), test.rules)
		assert.Contains(t, strings.Join(result.Notes, " "), test.note)

		again, err := Run(context.Background(), Options{Input: ready, Target: filepath.Join(dir, "again"), Workers: 2, Book: *book})
		require.NoError(t, err, test.rules)
		twice, err := os.ReadFile(filepath.Join(again.Folder, "ready.csv"))
		require.NoError(t, err)
		assert.Equal(t, raw, twice, test.rules)
		assert.Zero(t, again.Counts().Changed, test.rules)
		trusting, err := Run(context.Background(), Options{Input: path, Workers: 2, Trust: []string{result.Folder}, Book: *book})
		require.NoError(t, err, test.rules)
		assert.Equal(t, result.Counts().Ready, trusting.Trusted[0].Rows, test.rules)
	}
	dir := t.TempDir()
	path := write(t, dir, "list.csv", "SKU,Tëst☕,Title\nA,x,y\n")
	book, err := sections.Load(write(t, dir, rulebook.Name, "[target]\nencoding = \"latin1\""))
	require.NoError(t, err)
	_, err = Run(context.Background(), Options{Input: path, Target: Target(path), Workers: 1, Book: *book})
	require.ErrorIs(t, err, sections.ErrTarget)
	assert.Contains(t, err.Error(), "rename under [columns]")
	assert.NoDirExists(t, Target(path))
}

// TestFormComesBack: where nothing is declared, what goes out is written as the source is,
// whatever is held of it, and is read as the same once more.
func TestFormComesBack(t *testing.T) {
	const damaged = "'B';'It''s a pot';'9,52E+12'"
	for name, test := range map[string]struct{ rules, source, ready string }{
		"other marks": {"", "'SKU';'Title';'EAN'\r\n'A';'Vase; blue';'9521234000013'\r\n" + damaged + "\r\nC;'Jug';\r\n",
			"'SKU';'Title';'EAN'\r\n'A';'Vase; blue';'9521234000013'\r\n'C';'Jug';''\r\n"},
		"other marks, all of it held": {"", "'SKU';'Title';'EAN'\n" + damaged + "\n", "'SKU';'Title';'EAN'\n"},
		"other marks, one column":     {"[columns]\nkeep = [\"sku\"]", "'SKU'^'Title'\n'A'^'x, y'\n'B'^'y'\n", "\"SKU\"\n\"A\"\n\"B\"\n"},
		"other marks, declared":       {"[target]\nquotes = \"needed\"", "'SKU'|'Title'\n'A'|'x|y'\n", "SKU|Title\nA|\"x|y\"\n"},
		"a backslash before marks": {"", "SKU;Title\r\n\"A\";\"Pot 6\\\"\"\r\nB;\"Pan 8\\\"\"\r\n",
			"SKU;Title\r\n\"A\";\"Pot 6\"\"\"\r\nB;\"Pan 8\"\"\"\r\n"},
		"the rows around the headings": {"[target]\nfirst_rows = \"keep\"",
			"\"Prices, May\";\"\"\r\n\"SKU\";Title\r\n\"item_sku\";\"item_name\"\r\nA;\"x\"\r\n",
			"\"Prices, May\";\"\"\r\n\"SKU\";Title\r\n\"item_sku\";\"item_name\"\r\nA;\"x\"\r\n"},
		"headings of which one is left out": {"[columns]\ndrop = [\"Colour\"]", "\"SKU\";Colour;\"Title\"\nA;red;\"x\"\n",
			"\"SKU\";\"Title\"\nA;\"x\"\n"},
	} {
		dir := t.TempDir()
		book, err := sections.Load(write(t, dir, rulebook.Name, test.rules))
		require.NoError(t, err)
		again := ""
		for range 2 {
			path := write(t, t.TempDir(), "list.csv", test.source)
			result := run(t, Options{Input: path, Target: Target(path), Workers: 2, Book: *book})
			ready, err := os.ReadFile(filepath.Join(result.Folder, "ready.csv"))
			require.NoError(t, err)
			assert.Equal(t, test.ready, string(ready), name+again)
			test.source, again = string(ready), ", again"
			if name == "headings of which one is left out" || name == "other marks, one column" {
				break // the rules name what is not there any more
			}
		}
	}
}

// inUTF8 returns what a file says, without a mark.
func inUTF8(t *testing.T, raw []byte, c charset.Charset) string {
	t.Helper()
	if c.Wide() {
		b, err := io.ReadAll(c.Reader(bytes.NewReader(raw)))
		require.NoError(t, err)
		return string(b)
	}
	return strings.TrimPrefix(string(c.Decode(raw)), "\ufeff")
}
