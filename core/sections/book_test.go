package sections

import (
	"os"
	"path/filepath"
	"reflect"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
	"zetanum/core/rulebook"
)

func TestLoad(t *testing.T) {
	dir := t.TempDir()
	path := filepath.Join(dir, rulebook.Name)
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
		require.ErrorIs(t, err, rulebook.ErrWrong, "%q", text)
		assert.ErrorContains(t, err, want, "%q", text)
		assert.ErrorContains(t, err, rulebook.Name)
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
	for _, section := range new(Book).Sections() {
		for _, p := range section.Parts() {
			for _, k := range p.Keys {
				described[p.Name+"."+k.Name] = true
			}
			for _, name := range p.Shared {
				described[p.Name+"."+name] = true
			}
		}
	}
	book := reflect.TypeFor[Book]()
	for i := range book.NumField() {
		part := book.Field(i)
		kind := part.Type
		for kind.Kind() == reflect.Slice || kind.Kind() == reflect.Map || kind.Kind() == reflect.Pointer {
			kind = kind.Elem()
		}
		if name := part.Tag.Get("toml"); name != "-" && part.IsExported() && kind.Kind() == reflect.Struct {
			checkKeys(t, name, kind, described)
		}
	}
	delete(described, "barcode.if_open")   // which stands in it as a key of its field
	delete(described, "description.from")  // both stand under field, where other kinds have them, too
	delete(described, "description.clean") // and field.clean is one of other fields, too
	assert.Equal(t, map[string]bool{"headings.*": true, "target.columns.*": true}, described)
}

// checkKeys takes the keys of a part, and of the parts in it, off those that are
// described.
func checkKeys(t *testing.T, part string, kind reflect.Type, described map[string]bool) {
	for j := range kind.NumField() {
		field := kind.Field(j)
		if field.Anonymous {
			checkKeys(t, part, field.Type, described)
			continue
		}
		if field.Tag.Get("toml") == "-" || !field.IsExported() {
			continue
		}
		key := part + "." + field.Tag.Get("toml")
		if rest, ok := strings.CutPrefix(key, "targets."); ok && !described[key] && rest != "name" && rest != "where" {
			continue // it has the keys of [target], and says so
		}
		if f := field.Type; f.Kind() == reflect.Slice && f.Elem().Kind() == reflect.Struct {
			checkKeys(t, key, f.Elem(), described)
			continue
		}
		if field.Type.Kind() == reflect.Struct {
			checkKeys(t, key, field.Type, described)
			continue
		}
		if ofHTML := "description." + field.Tag.Get("toml"); part == "field" && !described[key] && described[ofHTML] {
			key = ofHTML // which is described for all fields of that type
		}
		assert.True(t, described[key] || described[key+".*"], "the reference does not have %s", key)
		delete(described, key)
	}
}

// TestWhere: what is wrong with a value is said with its line, its table, and which of
// several it is.
func TestWhere(t *testing.T) {
	path := filepath.Join(t.TempDir(), rulebook.Name)
	for text, want := range map[string]string{
		"[text]\nquotes = \"plain\"\n\n[sheet]\nrepeats = \"drop\"\n":                                                            "line 5: the rulebook is wrong: [sheet] repeats: is set-aside",
		"[[rows]]\nkeep = { a = 1 }\n\n[[rows]]\nkeep = { a = 2 }\ncount = -1\n":                                                 "line 6: the rulebook is wrong: [[rows]] no. 2 count: count is a number",
		"[[replace]]\nin = [\"title\"]\nfind = \"a\"\n[[around]]\nin = [\"title\"]\n":                                            "line 4: the rulebook is wrong: [[around]] before: each",
		"[columns]\ndrop = [\"a\"]\n[[columns.fill]]\ninto = \"b\"\nwith = \"c\"\n[[columns.fill]]\nwith = \"d\"\ninto = \"\"\n": "line 8: the rulebook is wrong: [[columns.fill]] no. 2 into: each",
		"[title]\nlongest = -1\n":                                      "line 2: the rulebook is wrong: [title] longest: longest and shortest",
		"[field.title]\nlongest = -1\n":                                "line 2: the rulebook is wrong: [field.title] longest: longest and shortest",
		"[title]\nlongest = 5\n[field.title]\nunify = true\n":          "line 1: the rulebook is wrong: [title] is short for [field.title]",
		"[brand]\nlongst = 5\n":                                        `line 2, column 1: the rulebook is wrong: there is no key "brand.longst" (did you mean "longest"?`,
		"[barcode]\nrequired = true\n[field.barcode]\nunique = true\n": "line 1: the rulebook is wrong: [barcode] is short for [field.barcode]",
	} {
		require.NoError(t, os.WriteFile(path, []byte(text), 0o666))
		_, err := Load(path)
		require.ErrorIs(t, err, rulebook.ErrWrong, text)
		assert.ErrorContains(t, err, path+", "+want, text)
	}
}

// TestShort: [title] is [field.title], for every field; where a section is called like a
// field, it has its own keys and those of the field.
func TestShort(t *testing.T) {
	path := filepath.Join(t.TempDir(), rulebook.Name)
	load := func(text string) *Book {
		require.NoError(t, os.WriteFile(path, []byte(text), 0o666))
		book, err := Load(path)
		require.NoError(t, err, text)
		return book
	}
	for _, name := range catalogue.FieldNames() {
		short, long := load("["+name+"]\nrequired = true\nwhere = { brand = \"B\" }\n"),
			load("[field."+name+"]\nrequired = true\nwhere = { brand = \"B\" }\n")
		assert.Equal(t, long.Field, short.Field, name)
		assert.True(t, short.Field[name].Required, name)
	}
	book := load("[barcode]\nwrite_as = \"ean-13\"\nunique = true\n[images]\nas = \"rows\"\n[field.images]\nrequired = true\n")
	assert.Equal(t, "ean-13", book.Barcode.WriteAs)
	assert.True(t, book.Field["barcode"].Unique && book.Field["images"].Required)
	assert.Len(t, book.Field, 2, "[images] says nothing that is for a field")
	book = load("[brand]\none_of_from = \"brands.csv\"\n")
	assert.Equal(t, filepath.Join(filepath.Dir(path), "brands.csv"), book.Field["brand"].OneOfFrom)
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
			path := filepath.Join(t.TempDir(), rulebook.Name)
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
		"huge":            "# " + strings.Repeat("x", 1<<20),
		"deep conditions": "[[rows]]\nkeep = " + deep(60_000) + "\n",
		"deep lists":      "[columns]\ndrop = " + strings.Repeat("[", 100_000) + strings.Repeat("]", 100_000) + "\n",
		"deep tables":     "[" + strings.Repeat("a.", 100_000) + "a]\n",
		"many rules":      strings.Repeat("[[replace]]\nin = [\"a\"]\nfind = \"b\"\n", 2000),
		"a mad pattern": "[[replace]]\nin = [\"a\"]\npattern = \"" + strings.Repeat("(", 5000) + strings.Repeat(")", 5000) +
			"{1000}\"\n",
		"an endless pattern": "[[replace]]\nin = [\"a\"]\npattern = \"((((a{1000}){1000}){1000}){1000})\"\n",
		"a build in circles": "[[build]]\ninto = \"a\"\nfrom = \"" + strings.Repeat("[", 50_001) + "\"\n",
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
		path := filepath.Join(t.TempDir(), rulebook.Name)
		require.NoError(t, os.WriteFile(path, []byte(text), 0o666))
		_, err := Load(path)
		assert.ErrorIs(t, err, rulebook.ErrWrong, name)
		if err != nil {
			assert.Less(t, len(err.Error()), 4000, "%s: the message is as long as the rulebook", name)
		}
	}
}

// TestPicture: the page on the architecture shows the line as it is.
func TestPicture(t *testing.T) {
	page, err := os.ReadFile("../../docs/architecture.md")
	require.NoError(t, err)
	assert.True(t, strings.Contains(string(page), Picture()), "docs/architecture.md has not:\n%s", Picture())
	names := make(map[string]bool)
	for _, s := range new(Book).Sections() {
		names[s.Parts()[0].Name] = true
	}
	for _, stage := range stages {
		assert.True(t, names[stage.section], "there is no section %s", stage.section)
	}
}
