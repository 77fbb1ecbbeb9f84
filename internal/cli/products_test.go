package cli

import (
	"encoding/json"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestDemoOfProducts: the demo's products of several rows come out as the documents say:
// what is settled, what is held with its whole product, what is noticed.
func TestDemoOfProducts(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	require.Equal(t, exitOK, zetanum(t, dir, "demo", "d").status)
	assert.Contains(t, zetanum(t, dir, "inspect", filepath.Join("d", "wick-variants.csv")).stdout,
		`Set seems to say which rows are one product; together_by = "Set"`)
	assert.Contains(t, zetanum(t, dir, "begin", filepath.Join("d", "wick-variants.csv"), "-out", "-").stdout, "# together_by = \"Set\"\n")
	list, rules := filepath.Join("d", "wick-variants.csv"), filepath.Join("d", "wick-variants.toml")
	c := zetanum(t, dir, "repair", list, "-rules", rules, "-all")
	require.Equal(t, exitHeld, c.status, c.stderr)
	for _, said := range []string{
		"read 24 = ready 14 + held 10 + set aside 0", "written 14 = ready 14 + added 2 − joined 2",
		"10 products, 3 of them held; 21 variants, 3 rows with another image",
		"to bring them together 2 rows were moved", "Dipping can, short → Dipping can", "candles, dipping → candles, dipping, cans",
		"(empty) → jars, glass",
		"variants of the shop are missing", "perhaps left as in the row above",
	} {
		assert.Contains(t, c.stdout, said)
	}
	ready := readFile(t, filepath.Join(dir, "d", "wick-variants.repaired", "ready.csv"))
	for _, row := range []string{
		"\npolish,WW-W1,", "\npolish,WW-W2,", // which was sorted away
		"\napron,WW-A-S,", "\napron,WW-A-M,", "\napron,WW-A-L,", // of one row
		"\ndipper-short,WW-D1,", "\ndipper-short,WW-D2,", // of two products
	} {
		assert.Contains(t, ready, row)
	}
	assert.Contains(t, ready, `"1, 2, 3"`)
	assert.NotContains(t, ready, "WW-K2", "it is in the list of WW-K1")
	held := readFile(t, filepath.Join(dir, "d", "wick-variants.repaired", "held.csv"))
	for _, reason := range []string{"Held with row 4, which is the same product.",
		"The variant has the same options as that of row 11: 24.", "twelve centimetres high cannot be taken apart"} {
		assert.Contains(t, held, reason)
	}

	// What came out comes through the same rules as it is.
	again := zetanum(t, dir, "repair", filepath.Join("d", "wick-variants.repaired", "ready.csv"), "-rules", rules, "-out", "again")
	require.Equal(t, exitOK, again.status, again.stdout+again.stderr)
	assert.Equal(t, ready, readFile(t, filepath.Join(dir, "again", "ready.csv")))
}

// TestProductsInJSON: counts of products, variants and rows of images are there for programs.
func TestProductsInJSON(t *testing.T) {
	dir := t.TempDir()
	writeFile(t, filepath.Join(dir, "list.csv"), "Slug,SKU,Title,Price,Colour,Image\nveil,V1,Veil,9,black,1.jpg\nveil,V2,,9,white,\nveil,,,,,2.jpg\nbox,B,Box,5,,\nbox,,,,,3.jpg\n")
	for _, command := range []string{"check", "repair"} {
		c := zetanum(t, dir, command, "list.csv", "-json")
		require.Equal(t, exitOK, c.status, c.stderr)
		var doc map[string]any
		require.NoError(t, json.Unmarshal([]byte(c.stdout), &doc), c.stdout)
		assert.Contains(t, c.stdout, `"image_rows": 2`)
		assert.Contains(t, c.stdout, `"variants": 3`)
	}
	writeFile(t, filepath.Join(dir, "sets.csv"), "Set,SKU,Title\na,A1,x\na,A2,\nb,B1,y\nb,B2,\nc,C1,z\nc,C2,\n")
	assert.Contains(t, zetanum(t, dir, "inspect", "sets.csv", "-json").stdout, `"perhaps_together_by": "Set"`)
	look := zetanum(t, dir, "inspect", "list.csv")
	assert.Contains(t, look.stdout, "5 rows below the headings, 2 products, 6 columns; 3 variants, 2 rows with another image")
}

// TestProductsAsked: a question about rows that disagree is answered on the command line, for
// one column or for all, and refused for a column that is not there.
func TestProductsAsked(t *testing.T) {
	const list = "Slug,SKU,Title,Brand,Category,Colour\ns,A,x,Nørrebi,Veils,red\ns,B,,Norrebi,Hats,blue\n"
	for _, test := range []struct {
		args  string
		said  string
		ready string
	}{
		{"", "If yes: add -yes product.differs=Brand|If yes: add -yes product.differs=Category", list},
		{"-yes product.differs=Brand", "If yes: add -yes product.differs", strings.Replace(list, "Norrebi", "Nørrebi", 1)},
		{"-yes product.differs", "decided", strings.NewReplacer("Norrebi", "Nørrebi", "Hats", "Veils").Replace(list)},
	} {
		dir := t.TempDir()
		writeFile(t, filepath.Join(dir, "list.csv"), list)
		c := zetanum(t, dir, append([]string{"repair", "list.csv"}, strings.Fields(test.args)...)...)
		require.Equal(t, exitOK, c.status, c.stderr)
		said := strings.Join(strings.Fields(c.stdout), " ")
		for _, part := range strings.Split(test.said, "|") {
			assert.Contains(t, said, part, test.args)
		}
		assert.Equal(t, test.ready, readFile(t, filepath.Join(dir, "list.repaired", "ready.csv")), test.args)
	}
	dir := t.TempDir()
	writeFile(t, filepath.Join(dir, "list.csv"), list)
	c := zetanum(t, dir, "repair", "list.csv", "-yes", "product.differs=Marke")
	assert.NotEqual(t, exitOK, c.status)
	assert.Contains(t, c.stderr, "Marke")
	assert.NoDirExists(t, filepath.Join(dir, "list.repaired"))
}

// TestProductsRefused: rulebooks that cannot be followed are refused with where, what and
// why, and nothing is written.
func TestProductsRefused(t *testing.T) {
	const list = "Slug,SKU,Title,Kind,Image,Sizes\na,A1,x,parent,1.jpg,S|M\na,A2,,child,,\nb,B,y,,2.jpg,\n"
	for rules, said := range map[string]string{
		"[products]\ntogether_by = \"Family\"":                      `[products] together_by names "Family", which is not there`,
		"[products]\nsame_as_lead = [\"Slugg\"]":                    `did you mean "Slug"?`,
		"[products]\ntogether = [[\"A1\", \"B\"], [\"A2\", \"C\"]]": `makes A1 in row 2 and A2 in row 3 parts of two products, but both are of the product "a"`,
		"[products]\ntogether_from = \"gone.csv\"":                  "gone.csv",
		"[products]\ncomplete_as = \"gone.csv\"":                    "gone.csv",
		"[products]\nparents = { Art = \"parent\" }":                "[products] parents",
		"[products]\nparents = { Kind = \"parent\" }\n[[replace]]\nin = [\"Kind\"]\nfind = \"child\"\nwith = \"parent\"": `parents looks at "Kind", into which rules of the rulebook write`,
		"[products]\nparents = { Kind = \"parent\" }\nproduct_fields = [\"Kind\"]\nlead_only = [\"Kind\"]":               `parents looks at "Kind", into which rules of the rulebook write`,
		"[products]\ndiffer_in = { sku = \"all\" }":                                                                      `"sku" does not belong to the whole product`,
		"[products]\ntold_apart_by = [\"Cut\"]":                                                                          `names "Cut"`,
		"[products]\nlead_only = [\"images\"]":                                                                           `[products] lead_only: "images" does not belong to the whole product`,
		"[products]\nsame_as_lead = [\"sku\"]":                                                                           `names "sku", which belongs to each variant`,
		"[products]\noption_of_titles = \"SKU\"":                                                                         `names "SKU", which is the field sku: no rule makes up what a product is known by`,
		"[images]\nof_variants = \"SKU\"":                                                                                "no rule makes up",
		"[sheet]\nrow_numbers = \"SKU\"":                                                                                 "no rule makes up",
		"[columns]\nadd = { EAN = \"\" }\n[[build]]\ninto = \"EAN\"\nfrom = \"{sku}\"":                                   `[[build]] into names "EAN", which is the field barcode`,
		"[columns]\nadd = { EAN = \"\" }\n[[one_row_each]]\nfrom = \"Sizes\"\ninto = \"Size\"\nset = { sku = \"{sku}-{Size}\", EAN = \"{sku}\" }": `[[one_row_each]] set names "EAN"`,
		"[images]\nas = \"columns\"":                          "names the columns of further images",
		"[images]\nas = \"sheets\"":                           "is rows, cell or columns",
		"[[one_row_each]]\nfrom = \"Sizes\"\ninto = \"Size\"": "says how the SKU of each row is made",
		"[[one_row_each]]\nfrom = \"Sizes\"\ninto = \"Size\"\nset = { sku = \"{sku}-{Length}\" }": "names {Length}, which is not there",
		"[[one_row_for_all]]\nfrom = \"Length\"":                                                  `names "Length"`,
		"[[options]]\nfrom = \"Options\"":                                                         `names "Options"`,
	} {
		dir := t.TempDir()
		writeFile(t, filepath.Join(dir, "list.csv"), list)
		writeFile(t, filepath.Join(dir, "zetanum.toml"), rules+"\n")
		c := zetanum(t, dir, "repair", "list.csv", "-rules", "zetanum.toml")
		assert.Contains(t, []int{exitUsage, exitFailed}, c.status, rules)
		assert.Contains(t, strings.Join(strings.Fields(c.stderr), " "), said, rules)
		assert.NoDirExists(t, filepath.Join(dir, "list.repaired"), rules)
	}
}

// TestProductsOfSeveralFiles: each file has its own products, also where their keys are the
// same.
func TestProductsOfSeveralFiles(t *testing.T) {
	dir := t.TempDir()
	writeFile(t, filepath.Join(dir, "one.csv"), "Slug,SKU,Title,EAN\na,A1,x,9521234000013\na,A2,,9521234000020\n")
	writeFile(t, filepath.Join(dir, "two.csv"), "Slug;SKU;Title;EAN\na;B1;y;9521234000013\n;;;\nc;C1;z;\n")
	c := zetanum(t, dir, "repair", "one.csv", "two.csv")
	assert.Contains(t, c.stdout, "one.csv")
	assert.Contains(t, c.stdout, "1 product, 0 of them held; 2 variants")
	assert.Contains(t, c.stdout, "2 products, 0 of them held")
}
