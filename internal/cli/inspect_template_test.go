package cli

import (
	"encoding/json"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestInspectTemplate: a form is explained, alone and with a file that is to fill it; what is only likely, and what is lacking, is asked.
func TestInspectTemplate(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	layDemo(t, dir)
	form := filepath.Join("zetanum-demo", "shop-form.xlsx")
	c := zetanum(t, dir, "inspect", "-template", form)
	require.Equal(t, exitOK, c.status, c.stderr)
	for _, said := range []string{"sheet Articles", "15 columns, 9 of which must be filled", "samples in rows 4 and 5", "yes and no as Y and N, dates as YYYY-MM-DD",
		"one of 6: Protection, Smokers", "a number from 0.05 to 5000", "always new", "A file may have 500 rows", "zetanum inspect FILE -template"} {
		assert.Contains(t, c.stdout, said)
	}
	c = zetanum(t, dir, "inspect", filepath.Join("zetanum-demo", "wick-and-wax.xlsx"), "-template", form)
	require.Equal(t, exitOK, c.status, c.stderr)
	for _, said := range []string{"Shop price: “RRP” (16.45) or “RRP with tax” (19.58)?", "Main picture: must be filled, and no column of the file seems to have it", "Goes nowhere\n  Trade price"} {
		assert.Contains(t, c.stdout, said)
	}

	byHand := readFile(t, filepath.Join(dir, "zetanum-demo", "combley-by-hand.csv")) // which is in the form already
	writeFile(t, filepath.Join(dir, "list.csv"), byHand)
	assert.Contains(t, zetanum(t, dir, "repair", "list.csv").stdout, "add -template self\n")
	assert.Contains(t, zetanum(t, dir, "check", filepath.Join("zetanum-demo", "combley-by-hand.csv")).stdout, "add -template "+form+"\n")

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

// TestTemplate: begin says what fills a form, the rulebook is decided in one line, and what is ready has the form's lines, columns and ways of
// writing; repaired again it is the same.
func TestTemplate(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	writeFile(t, filepath.Join(dir, "form.csv"), "\"Combley Market; leave this line\";;;;;\r\nCode *;Barcode;Name *;Kind *;Price *;New\r\n"+
		"At most 20 characters;13 digits, or blank;At most 30 characters;One of: Plates, Bowls, Mugs;Decimal comma;J or N\r\nS-1;9521234000013;A sample;Mugs;3,50;N\r\n")
	writeFile(t, filepath.Join(dir, "list.csv"), "SKU,EAN,Title,Kind,Price,New,Memo\nA,9521234000020,Plate,plates,12.50,yes,x\nB,041101000209,Bowl,Bowls,1.20,no,\nC,,Mug,Muggs,2,no,\nD,,Jug,,2,no,\n")
	c := zetanum(t, dir, "repair", "list.csv", "-template", "form.csv")
	require.Equal(t, exitHeld, c.status, c.stderr)
	ready := readFile(t, filepath.Join(dir, "list.repaired", "ready.csv"))
	assert.Equal(t, "\"Combley Market; leave this line\";;;;;\r\nCode *;Barcode;Name *;Kind *;Price *;New\r\n"+
		"At most 20 characters;13 digits, or blank;At most 30 characters;One of: Plates, Bowls, Mugs;Decimal comma;J or N\r\n"+
		"A;9521234000020;Plate;Plates;12,50;J\r\nB;0041101000209;Bowl;Bowls;1,20;N\r\n", ready)
	held := readFile(t, filepath.Join(dir, "list.repaired", "held.csv"))
	assert.Contains(t, held, "Muggs is not in the list of the template")
	assert.Contains(t, held, "“Kind” must be filled in the template")
	assert.Contains(t, c.stdout, "columns for which the template has no place: Memo")
	zetanum(t, dir, "repair", "list.csv", "-template", "form.csv", "-yes", "target.unlisted", "-out", "yes")
	assert.Contains(t, readFile(t, filepath.Join(dir, "yes", "ready.csv")), "C;;Mug;Mugs;2;N\r\n")

	zetanum(t, dir, "repair", "list.csv", "-template", "form.csv", "-only", "price", "-out", "few")
	assert.Equal(t, "Code *;Price *\r\nA;12,50\r\nB;1,20\r\nC;2\r\nD;2\r\n", readFile(t, filepath.Join(dir, "few", "ready.csv")), "an update of what they cost")

	writeFile(t, filepath.Join(dir, "cut.toml"), "[target]\ntemplate = \"form.csv\"\nas = [\"xlsx\"]\n[target.limits]\nrows = 1\n")
	c = zetanum(t, dir, "repair", "list.csv", "-rules", "cut.toml", "-out", "cut")
	head, _, _ := strings.Cut(ready, "A;")
	assert.Equal(t, head+"B;0041101000209;Bowl;Bowls;1,20;N\r\n", readFile(t, filepath.Join(dir, "cut", "ready-2.csv")))
	assert.FileExists(t, filepath.Join(dir, "cut", "ready-2.xlsx"))
	assert.NoFileExists(t, filepath.Join(dir, "cut", "ready.xlsx"))
	assert.Contains(t, c.stdout, "2 files for the importer, one after the other")

	c = zetanum(t, dir, "begin", "list.csv", "-template", "form.csv")
	require.Equal(t, exitOK, c.status, c.stderr)
	book := readFile(t, filepath.Join(dir, "zetanum.toml"))
	for _, said := range []string{"template = \"form.csv\"", "\n\"Kind\" = \"Kind\" ", "\n\"Price\" = \"Price\" ", "go nowhere: \"Memo\" (x)"} {
		assert.Contains(t, book, said)
	}
	c = zetanum(t, dir, "repair", "list.repaired/ready.csv", "-rules", "zetanum.toml", "-out", "again")
	require.Equal(t, exitOK, c.status, c.stderr)
	assert.Equal(t, ready, readFile(t, filepath.Join(dir, "again", "ready.csv")))

	filled := strings.Replace(ready, "Bowl;Bowls;", "Bowl;;", 1)
	writeFile(t, filepath.Join(dir, "filled.csv"), filled)
	c = zetanum(t, dir, "repair", "filled.csv", "-template", "self", "-rules", "none.toml")
	assert.NotEqual(t, exitOK, c.status, "no such rulebook")
	writeFile(t, filepath.Join(dir, "none.toml"), "")
	c = zetanum(t, dir, "repair", "filled.csv", "-template", "self", "-rules", "none.toml")
	assert.Equal(t, exitHeld, c.status, c.stderr)
	assert.Equal(t, strings.Replace(ready, "B;0041101000209;Bowl;Bowls;1,20;N\r\n", "", 1), readFile(t, filepath.Join(dir, "filled.repaired", "ready.csv")))
	assert.Contains(t, readFile(t, filepath.Join(dir, "filled.repaired", "held.csv")), "“Kind” must be filled")
	c = zetanum(t, dir, "repair", "list.csv", "-template", "self", "-rules", "none.toml")
	assert.Equal(t, exitFailed, c.status)
	assert.Contains(t, c.stderr, "it says nothing of what its columns take")

	for text, want := range map[string]string{
		"[target.columns]\n\"Name\" = \"Titel\"\n":                      `"Name" is filled from "Titel", which is not there (did you mean "Title"?)`,
		"[target.columns]\n\"Nmae\" = \"title\"\n":                      `the template has no column "Nmae" (did you mean "Name"?)`,
		"[target.columns]\n\"Name\" = 7\n":                              `{ always = "EUR" }`,
		"[target.columns]\n\"Name\" = { from = \"title\", prat = 2 }\n": "prat = 2",
		"[target.columns]\n\"Kind\" = false\n":                          `filled by nothing: "Kind"`,
		"[target.columns]\n\"New\" = \"{novelty\"\n":                    "the pattern is wrong",
		"[target.columns]\n\"Kind\" = { always = \"Cups\" }\n":          `"Kind" would be filled with "Cups" in every row, and that is not in the list`,
		"required = [\"Bracode\"]\n":                                    `the template has no column "Bracode" (did you mean "Barcode"?)`,
		"first_rows = \"keep\"\n":                                       "first_rows",
		"[columns]\nrename = { \"SKU\" = \"x\" }\n":                     "the template of [target] says so, too",
	} {
		writeFile(t, filepath.Join(dir, "wrong.toml"), "[target]\ntemplate = \"form.csv\"\n"+text)
		c = zetanum(t, dir, "repair", "list.csv", "-rules", "wrong.toml", "-out", "wrong")
		assert.NotEqual(t, exitOK, c.status, text)
		assert.Contains(t, c.stderr, want, text)
		assert.NoDirExists(t, filepath.Join(dir, "wrong"))
	}
	c = zetanum(t, dir, "repair", "list.csv", "-template", "none.csv", "-out", "wrong")
	assert.Equal(t, exitFailed, c.status)
	assert.Contains(t, c.stderr, "none.csv")
}

// TestTargets: two platforms get their forms in one run, each with its sum; what a rehearsal goes by is the form of the file.
func TestTargets(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	layDemo(t, dir)
	rules := filepath.Join("zetanum-demo", "fairs.toml")
	c := zetanum(t, dir, "repair", filepath.Join("zetanum-demo", "wick-and-wax.xlsx"), "-rules", rules, "-out", "fairs")
	for _, said := range []string{"combley: read 201 = ready 126 + held 8 + not for it 67", "hedge: read 201 = ready 188 + held 12 + not for it 1", "ready-hedge-1.csv …"} {
		assert.Contains(t, c.stdout, said)
	}
	assert.Contains(t, readFile(t, filepath.Join(dir, "fairs", "ready-hedge-2.csv")), "WW-0206;Corked bottle, 340 g, no. 69;Sundries;9521202007549;64,95;47;\r\n")
	assert.FileExists(t, filepath.Join(dir, "fairs", "ready-combley.xlsx"))
	c = zetanum(t, dir, "rehearse", filepath.Join("fairs", "ready-hedge.csv"), "-rules", rules)
	assert.Contains(t, c.stdout, "188 rows would be taken, 0 refused, by the words of "+filepath.Join("zetanum-demo", "hedge-form.csv"))
	var j jsonResult
	c = zetanum(t, dir, "check", filepath.Join("zetanum-demo", "wick-and-wax.xlsx"), "-rules", rules, "-json")
	require.NoError(t, json.Unmarshal([]byte(c.stdout), &j), c.stdout)
	require.Len(t, j.Targets, 2)
	assert.Equal(t, [4]int{201, 126, 8, 67}, [4]int{j.Targets[0].Read, j.Targets[0].Ready, j.Targets[0].Held, j.Targets[0].Aside})

	writeFile(t, filepath.Join(dir, "wrong.toml"), "[[targets]]\nname = \"A b\"\n[[targets]]\nname = \"c\"\ntemplate = \"x.csv\"\nsplit = \"new-existing\"\n")
	c = zetanum(t, dir, "check", filepath.Join("zetanum-demo", "wick-and-wax.xlsx"), "-rules", "wrong.toml")
	assert.Equal(t, exitUsage, c.status)
	for _, said := range []string{"[[targets]] no. 1 name", "[[targets]] no. 1 template", "[[targets]] no. 2 split"} {
		assert.Contains(t, c.stderr, said)
	}
}
