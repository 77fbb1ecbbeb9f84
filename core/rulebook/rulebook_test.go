package rulebook

import (
	"os"
	"path/filepath"
	"reflect"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestLoad(t *testing.T) {
	dir := t.TempDir()
	path := filepath.Join(dir, Name)
	load := func(text string) (*Book, error) {
		require.NoError(t, os.WriteFile(path, []byte(text), 0o666))
		return Load(path)
	}
	book, err := load("[barcode]\ntrusted = [\"a.xlsx\", \"/b.csv\"]\n")
	require.NoError(t, err)
	assert.Equal(t, "as-is", book.Barcode.WriteAs, "the default")
	assert.Equal(t, []string{filepath.Join(dir, "a.xlsx"), "/b.csv"}, book.Barcode.Trusted, "names are relative to the rulebook")
	for text, want := range map[string]string{
		"[barcodes]\n":                                `line 1, column 2: the rulebook is wrong: there is no key "barcodes" (did you mean "barcode"?)`,
		"[barcode]\nwriteas = \"x\"\n":                `did you mean "write_as"? For example: write_as = "ean-13")`,
		"[barcode]\nzzz = 1\n":                        "known there: accept trusted",
		"[columns]\ndrop = \"x\"\n":                   `for example drop = ["Int. memo", "Cost .. Shelf"]`,
		"[columns]\ndrop = [\"a\"]\nkeep = [\"b\"]\n": "[columns] keep: keep names all",
		"[[rows]]\ncount = 5\n":                       "[[rows]] keep: each [[rows]] has one of keep, aside and one_per",
		"[headings]\n\"Art. no.\" = \"skuu\"\n":       `there is no field "skuu" (did you mean "sku"?)`,
		"[barcode]\n\naccept = \"ean-13\"\n":          "line 3, column 10",
		"[barcode]\naccept = [\"ean-14\"]\n":          `[barcode] accept: there is no kind of code "ean-14"`,
		"[barcode]\nadd_check_digit = yes\n":          "line 2",
		"barcode = 5\n":                               "line 1",
		"\xff":                                        "line 1",
		"[barcode]\n[barcode]\n":                      "line 2",
		"[barcode]\nwrite_as = \"gtin-13\"\n":         "the forms are: as-is ean-13 gtin-14 shortest",
		"[barcode]\nsecond = [\"a\", \"b\"]\n":        "line 2",
	} {
		_, err := load(text)
		require.ErrorIs(t, err, ErrWrong, "%q", text)
		assert.ErrorContains(t, err, want, "%q", text)
		assert.ErrorContains(t, err, Name)
	}
	assert.Equal(t, path, Find(filepath.Join(dir, "list.csv")))
	assert.Empty(t, Find(filepath.Join(t.TempDir(), "list.csv")))
	_, err = Load(filepath.Join(dir, "gone.toml"))
	assert.ErrorIs(t, err, os.ErrNotExist)
}

// TestReference: the reference has every key that a rulebook can have, and
// nothing else; its examples can be read; and the page in docs is it.
func TestReference(t *testing.T) {
	described := make(map[string]bool)
	for _, k := range Keys() {
		described[k.Part+"."+k.Name] = true
	}
	book := reflect.TypeFor[Book]()
	for i := range book.NumField() {
		part := book.Field(i)
		name := part.Tag.Get("toml")
		kind := part.Type
		if kind.Kind() == reflect.Slice || kind.Kind() == reflect.Map {
			kind = kind.Elem()
		}
		if name == "-" || kind.Kind() != reflect.Struct {
			continue
		}
		checkKeys(t, name, kind, described)
	}
	assert.Equal(t, map[string]bool{"headings.*": true}, described)
	page, err := os.ReadFile("../../docs/rulebook.md")
	require.NoError(t, err)
	assert.Equal(t, Reference(), string(page), "run “zetanum help rulebook > docs/rulebook.md”")
}

// checkKeys takes the keys of a part, and of the parts in it, off those that are
// described.
func checkKeys(t *testing.T, part string, kind reflect.Type, described map[string]bool) {
	for j := range kind.NumField() {
		key := part + "." + kind.Field(j).Tag.Get("toml")
		if f := kind.Field(j).Type; f.Kind() == reflect.Slice && f.Elem().Kind() == reflect.Struct {
			checkKeys(t, key, f.Elem(), described)
			continue
		}
		assert.True(t, described[key], "the reference does not have %s", key)
		delete(described, key)
	}
}

// TestRulebooksInDocs: every rulebook that the documentation shows can be read.
func TestRulebooksInDocs(t *testing.T) {
	pages, err := filepath.Glob("../../docs/*.md")
	require.NoError(t, err)
	found := 0
	for _, page := range append(pages, "../../README.md") {
		text, err := os.ReadFile(page)
		require.NoError(t, err)
		for _, m := range regexp.MustCompile("(?s)```toml\n(.*?)```").FindAllSubmatch(text, -1) {
			path := filepath.Join(t.TempDir(), Name)
			require.NoError(t, os.WriteFile(path, m[1], 0o666))
			_, err := Load(path)
			assert.NoError(t, err, "%s\n%s", page, m[1])
			found++
		}
	}
	assert.NotZero(t, found)
}

// TestHostile: rulebooks that are huge, deep or mad are errors, not crashes.
func TestHostile(t *testing.T) {
	deep := func(n int) string { return strings.Repeat("{ not = ", n) + "{ sku = \"a\" }" + strings.Repeat(" }", n) }
	for name, text := range map[string]string{
		"huge":               "# " + strings.Repeat("x", maxSize),
		"deep conditions":    "[[rows]]\nkeep = " + deep(60_000) + "\n",
		"deep lists":         "[columns]\ndrop = " + strings.Repeat("[", 100_000) + strings.Repeat("]", 100_000) + "\n",
		"deep tables":        "[" + strings.Repeat("a.", 100_000) + "a]\n",
		"many rules":         strings.Repeat("[[replace]]\nin = [\"a\"]\nfind = \"b\"\n", 2000),
		"a mad pattern":      "[[replace]]\nin = [\"a\"]\npattern = \"" + strings.Repeat("(", 5000) + strings.Repeat(")", 5000) + "{1000}\"\n",
		"an endless pattern": "[[replace]]\nin = [\"a\"]\npattern = \"((((a{1000}){1000}){1000}){1000})\"\n",
		"a build in circles": "[[build]]\ninto = \"a\"\nfrom = \"" + strings.Repeat("[", 50_000) + "\"\n",
		"a negative count":   "[[rows]]\nkeep = { a = 1 }\ncount = -1\n",
		"a number too large": "[field.title]\nlongest = 99999999999999999999\n",
		"no key to borrow":   "[[borrow]]\nfrom = \"a.csv\"\nby = 5\ntake = [\"b\"]\n",
		"keys to borrow":     "[[borrow]]\nfrom = \"a.csv\"\nby = [\"a\", 5]\ntake = [\"b\"]\n",
		"over a barcode":     "[[borrow]]\nfrom = \"a.csv\"\nby = \"sku\"\ntake = [\"barcode\"]\nover = true\n",
		"a field of no kind": "[field.title]\ntype = \"text\"\n",
		"an unknown field":   "[field.titel]\nlongest = 5\n",
		"an odd type":        "[field.x]\ntype = \"texts\"\n",
		"two lists":          "[field.brand]\none_of = [\"a\"]\none_of_from = \"b.csv\"\n",
		"three at once":      "[[rows]]\nkeep = { a = 1 }\none_per = \"b\"\n",
		"no choice":          "[[rows]]\none_per = \"b\"\nchoose = \"best\"\n",
		"no such repeats":    "[sheet]\nrepeats = \"drop\"\n",
		"an empty closing":   "[[closing]]\nin = [\"a\"]\ntext = \"<p> </p>\"\n",
		"fill with nothing":  "[[columns.fill]]\ninto = \"a\"\n",
	} {
		path := filepath.Join(t.TempDir(), Name)
		require.NoError(t, os.WriteFile(path, []byte(text), 0o666))
		_, err := Load(path)
		assert.ErrorIs(t, err, ErrWrong, name)
		if err != nil {
			assert.Less(t, len(err.Error()), 4000, "%s: the message is as long as the rulebook", name)
		}
	}
}
