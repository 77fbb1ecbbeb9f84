package repair

import (
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/columns"
	"zetanum/core/condition"
	"zetanum/core/rulebook"
	"zetanum/core/sections"
	"zetanum/core/wording"
)

// book reads a rulebook from its text.
func book(t *testing.T, text string) sections.Book {
	t.Helper()
	b, err := sections.Load(write(t, t.TempDir(), rulebook.Name, text))
	require.NoError(t, err, text)
	return *b
}

const listed = "Art. ref,EAN,Title,Price,Memo\nLRA-1,EAN 9521234000013,Smoker ,9.50,a\nLRA-2,9.52E+12,Veil,12.00,b\nXX-3,9521234000037,Hat,0.50,\n,,Hat bag,,\nXX-4,9521234000044,Tool,3.00,d\n"

// TestShaped: columns and rows come out as the rulebook says, and what is held or
// set aside stays as it was.
func TestShaped(t *testing.T) {
	const sku = "[headings]\n\"Art. ref\" = \"sku\"\n"
	for _, test := range []struct {
		name, book, want string
		rows             []RowCount
		aside            int
	}{
		{"headings", sku, "Art. ref,EAN,Title,Price,Memo\nLRA-1,9521234000013,Smoker,9.50,a\nXX-3,9521234000037,Hat,0.50,\n,,Hat bag,,\nXX-4,9521234000044,Tool,3.00,d\n", nil, 0},
		{"columns", sku + "[columns]\ndrop = [\"Memo\"]\norder = [\"title\"]\nrename = { \"Art. ref\" = \"SKU\" }\nadd = { \"Language\" = \"en\" }\ncopy = { \"MPN\" = \"sku\" }\n",
			"Title,SKU,EAN,Price,MPN,Language\nSmoker,LRA-1,9521234000013,9.50,LRA-1,en\nHat,XX-3,9521234000037,0.50,XX-3,en\nHat bag,,,,,en\nTool,XX-4,9521234000044,3.00,XX-4,en\n", nil, 0},
		{"split and joined", sku + "[columns]\nkeep = [\"sku\", \"First\", \"Rest\", \"Whole\"]\n[[columns.split]]\nfrom = \"title\"\nat = \" \"\ninto = [\"First\", \"Rest\"]\n[[columns.join]]\nfrom = [\"sku\", \"Memo\"]\nwith = \"-\"\ninto = \"Whole\"\n",
			"Art. ref,First,Rest,Whole\nLRA-1,,,LRA-1-a\nLRA-2,,,LRA-2-b\nXX-3,,,XX-3\n,Hat,bag,\nXX-4,,,XX-4-d\n",
			[]RowCount{{"split \"title\" into First, Rest", 1}, {"join sku, Memo into \"Whole\"", 4}}, 0},
		{"a column there filled", sku + "[columns]\nadd = { \"Memo\" = \"x\" }\nkeep = [\"sku\", \"Memo\"]\n",
			"Art. ref,Memo\nLRA-1,a\nLRA-2,b\nXX-3,x\n,x\nXX-4,d\n", nil, 0},
		{"rows kept", sku + "[[rows]]\nkeep = { sku = { starts = \"LRA-\" } }\ncount = 2\n",
			"Art. ref,EAN,Title,Price,Memo\nLRA-1,9521234000013,Smoker,9.50,a\n",
			[]RowCount{{"keep = sku starts with LRA-", 2}}, 3},
		{"rows set aside", sku + "[[rows]]\naside = { price = { below = 1 } }\n[[rows]]\nkeep = { not = { Memo = \"d\" } }\n",
			"Art. ref,EAN,Title,Price,Memo\nLRA-1,9521234000013,Smoker,9.50,a\n,,Hat bag,,\n",
			[]RowCount{{"aside = price is below 1", 1}, {"keep = not (Memo is d)", 3}}, 2},
		{"texts replaced", sku + "[[replace]]\nin = [\"title\"]\nfind = \"hat\"\nwith = \"hood\"\ncount = 2\n[[replace]]\nin = [\"Memo\", \"title\"]\nfind = \"smoker\"\nwhere = { price = { above = 9 } }\n",
			"Art. ref,EAN,Title,Price,Memo\nLRA-1,9521234000013,,9.50,a\nXX-3,9521234000037,hood,0.50,\n,,hood bag,,\nXX-4,9521234000044,Tool,3.00,d\n",
			[]RowCount{{"replace \"hat\" with \"hood\"", 2}, {"replace \"smoker\" with \"\"", 1}}, 0},
		{"words around", sku + "[[around]]\nin = [\"title\"]\nbefore = \"hat\"\nafter = \"x\"\nwhere = { sku = { starts = \"XX\" } }\ncount = 2\n",
			"Art. ref,EAN,Title,Price,Memo\nLRA-1,9521234000013,Smoker,9.50,a\nXX-3,9521234000037,Hat x,0.50,\n,,Hat bag,,\nXX-4,9521234000044,hat Tool x,3.00,d\n",
			[]RowCount{{"put \"hat\" before, put \"x\" after", 2}}, 0},
		{"rows by an added column", sku + "[columns]\ncopy = { \"MPN\" = \"sku\" }\nkeep = [\"sku\", \"MPN\"]\n[[rows]]\nkeep = { MPN = \"xx-4\" }\n", "Art. ref,MPN\nXX-4,XX-4\n",
			[]RowCount{{"keep = MPN is xx-4", 1}}, 4},
	} {
		path := write(t, t.TempDir(), "list.csv", listed)
		opt := fixed(path, Target(path))
		opt.Book = book(t, test.book)
		r := run(t, opt)
		assert.Equal(t, test.want, ready(t, r), test.name)
		assert.Equal(t, test.rows, r.Rows, test.name)
		assert.Equal(t, test.aside, r.Counts().Aside, test.name)
		assert.Equal(t, 5, r.Counts().Ready+r.Counts().Held+r.Counts().Aside)
		held, err := os.ReadFile(filepath.Join(r.Folder, "held.csv"))
		require.NoError(t, err)
		assert.Equal(t, r.Counts().Held > 0, strings.HasSuffix(string(held), "LRA-2,9.52E+12,Veil,12.00,b\n"),
			"held rows are as they were: %s", held)
	}
}

// TestShapedAgain: with the rulebook that made it, a file comes out as it is,
// unless the rulebook asks for columns that it has itself taken away.
func TestShapedAgain(t *testing.T) {
	const rules = "[headings]\nSKU = \"sku\"\n[columns]\ndrop = [\"Description\"]\nrename = { Notes = \"Remarks\" }\nadd = { Language = \"en\", Region = \"UK\" }\ncopy = { MPN = \"sku\" }\nsplit = [ { from = \"title\", at = \" \", into = [\"A\", \"B\"] } ]\njoin = [ { from = [\"sku\", \"Notes\"], with = \"+\", into = \"Both\" } ]\norder = [\"sku\", \"title\"]\n" +
		"[[rows]]\nkeep = { not = { title = { contains = \"veil\" } } }\n[[replace]]\nin = [\"title\", \"Description\"]\nfind = \"two\"\nwith = \"one and two\"\n[[replace]]\nin = [\"Region\"]\nfind = \"uk\"\nwith = \"the UK\"\n[[around]]\nin = [\"title\"]\nbefore = \"NEW\"\nafter = \"(new)\"\n[[replace]]\nin = [\"title\"]\npattern = \"([A-Z])([a-z]+)\"\nwith = \"$1.$2\"\n[barcode]\nwrite_as = \"gtin-14\"\n" +
		"[[borrow]]\nfrom = \"lend.csv\"\nby = \"sku\"\ntake = [\"weight\", \"Origin\"]\nalike = [\"case\", \"zeros\"]\n[[build]]\ninto = \"Label\"\nfrom = '{Region} {title words 2}[ ({\"Origin\"})]'\n[[derive]]\ninto = \"Kind\"\nfrom = [\"title\", \"Label\"]\nlist = \"words.csv\"\n" +
		"[[expand]]\nin = [\"Kind\", \"Origin\"]\nlist = \"codes.csv\"\n[[columns.fill]]\ninto = \"Flag\"\nwith = \"yes\"\nwhere = { Kind = { empty = false } }\n[[closing]]\nin = [\"Label\"]\ntext = \"The end.\"\n" +
		"[field.title]\nlongest = 80\n[field.origin]\ntype = \"text\"\none_of = [\"Brazil\", \"Chile\"]\n[sheet]\nsort_by = [\"title\", \"sku\"]\nrepeats = \"set-aside\"\n[[rows]]\none_per = \"title\"\nchoose = \"fullest\"\n"
	lent := new(strings.Builder)
	lent.WriteString("SKU,Weight,Origin\n")
	for i := range some(2000) {
		fmt.Fprintf(lent, "s%04d,%d.5,%s\n", i, i%7, []string{"br", "chile", "BRAZIL", ""}[i%4])
	}
	eachNasty(t, func(t *testing.T, path string, seed uint64) {
		opt := fixed(path, Target(path))
		opt.Book = bookIn(t, filepath.Dir(path), rules, map[string]string{
			"lend.csv": lent.String(), "words.csv": "Word,Kind\ntool,Tools\nbrush,Brushes\nnew,br\n", "codes.csv": "Code,Text\nbr,Brazil\n",
		})
		first := run(t, opt)
		c := first.Counts()
		require.Equal(t, c.Read, c.Ready+c.Held+c.Aside)
		require.NotZero(t, c.Ready)
		text := ready(t, first)
		rows := rowsIn(t, filepath.Join(first.Folder, "ready.csv"), first.Source.Form)
		for _, row := range rows[1:] {
			require.Equal(t, len(rows[0]), len(row))
			col := slices.Index(rows[0], "MPN")
			require.Equal(t, []string{row[0], "en", "the UK"}, row[col:col+3], "filled to the last row")
		}
		again := fixed(write(t, t.TempDir(), "again.csv", text), "")
		again.Target, again.Book = Target(again.Input), opt.Book
		second := run(t, again)
		require.Zero(t, second.Counts().Changed, "%+v", second.Report.Repaired)
		require.Equal(t, text, ready(t, second))
		opt.PartSize, opt.Workers = 700, 3
		require.Equal(t, text, ready(t, run(t, opt)), "in other parts")
	})
}

// TestRulesThatDoNotFit: nothing is written, and the message says what is not
// there.
func TestRulesThatDoNotFit(t *testing.T) {
	for text, want := range map[string]error{
		"[columns]\nkeep = [\"Weight\"]\n":                                columns.ErrWrong,
		"[columns]\ndrop = [\"Memos\"]\n":                                 columns.ErrWrong,
		"[headings]\n\"Art. ref\" = \"sku\"\n[columns]\ndrop = [\"sku\"]": columns.ErrRefused,
		"[[rows]]\nkeep = { weight = 5 }\n":                               condition.ErrWrong,
		"[[replace]]\nin = [\"Remarks\"]\nfind = \"a\"\n":                 columns.ErrWrong,
		"[[replace]]\nin = [\"EAN\"]\nfind = \"a\"\n":                     wording.ErrCode,
		"[[around]]\nin = [\"Memo\"]\nbefore = \"a\"\nwhere = { x = 1 }":  condition.ErrWrong,
		"[[replace]]\nin = [\"Memo\"]\nfind = \"a\"\nwhere = { x = 1 }":   condition.ErrWrong,
	} {
		dir := t.TempDir()
		path := write(t, dir, "list.csv", listed)
		opt := fixed(path, Target(path))
		opt.Book = book(t, text)
		_, err := Run(t.Context(), opt)
		assert.ErrorIs(t, err, want, text)
		entries, _ := os.ReadDir(dir)
		assert.Len(t, entries, 1)
	}
	dir := t.TempDir()
	path := write(t, dir, "list.csv", listed)
	opt := fixed(path, Target(path))
	opt.Book = book(t, "[[rows]]\naside = { price = { below = 100 } }\ncount = 5\n")
	_, err := Run(t.Context(), opt)
	var count *CountError
	require.ErrorAs(t, err, &count)
	assert.Equal(t, []int{4, 5}, []int{count.Rows, count.Count})
	assert.ErrorContains(t, err, "Nothing was written")
	entries, _ := os.ReadDir(dir)
	assert.Len(t, entries, 1)
}

// TestCopiedBarcodes: what is copied into a barcode column has to be a whole code; what is
// none is named and not written, and no two products get the same.
func TestCopiedBarcodes(t *testing.T) {
	for name, test := range map[string]struct{ list, rules, want, found string }{
		"copied": {"SKU,Title\n9521234000013,x\nLRA-7,y\n", "[columns]\ncopy = { EAN = \"sku\" }\n",
			"SKU,Title,EAN\n9521234000013,x,9521234000013\nLRA-7,y,\n", "borrow.unsuited 1"},
		"damaged": {"SKU,Code,EAN\nA,9521234000012,\nB,9.52E+12,\nC,9521234000013,9521234000020\n",
			"[[columns.fill]]\ninto = \"EAN\"\nfrom = \"Code\"\n",
			"SKU,Code,EAN\nA,9521234000012,\nB,9.52E+12,\nC,9521234000013,9521234000020\n", "borrow.unsuited 2"},
		"twice": {"SKU,Code,EAN\nA,9521234000013,\nB,9521234000013,\nC,9521234000020,\nD,,9521234000020\nE,9521234000037,\n",
			"[[columns.fill]]\ninto = \"EAN\"\nfrom = \"Code\"\n", "SKU,Code,EAN\nE,9521234000037,9521234000037\n", "barcode.duplicate 4"},
		"split": {"SKU,Codes\nA,9521234000013/x\nB,nothing/y\nC,9521234000013/z\nD,9521234000020/u\n",
			"[[columns.split]]\nfrom = \"Codes\"\nat = \"/\"\ninto = [\"EAN\", \"Note\"]\n",
			"SKU,Codes,EAN,Note\nB,nothing/y,,y\nD,9521234000020/u,9521234000020,u\n", "barcode.duplicate 2"},
		"no code": {"SKU,EAN\nA,\nB,9521234000013\n", "[[columns.fill]]\ninto = \"EAN\"\nwith = \"none\"\n",
			"SKU,EAN\nA,none\nB,9521234000013\n", ""},
		"one of all": {"SKU,EAN\nA,\n", "[[columns.fill]]\ninto = \"EAN\"\nwith = \"9521234000013\"\n", "",
			"a barcode is that of one product"},
		"a wrong one of all": {"SKU,EAN\nA,\n", "[columns]\nadd = { EAN = \"9521234000014\" }\n", "", "a barcode is that of one product"},
		"a damaged one of all": {"SKU,EAN\nA,\n", "[[columns.fill]]\ninto = \"EAN\"\nwith = \"9.52E+12\"\n", "",
			"a barcode is that of one product"},
	} {
		path := write(t, t.TempDir(), "list.csv", test.list)
		opt := fixed(path, Target(path))
		opt.Book, opt.PartSize = book(t, test.rules), 20
		r, err := Run(t.Context(), opt)
		if test.want == "" {
			require.ErrorContains(t, err, test.found, name)
			continue
		}
		require.NoError(t, err, name)
		assert.Equal(t, test.want, ready(t, r), name)
		var found []string
		for _, f := range r.Report.Found {
			found = append(found, fmt.Sprint(f.Code, " ", f.Cells))
		}
		assert.Contains(t, strings.Join(found, ", "), test.found, name)
	}
}

// TestBareList: one column, for a look-up service.
func TestBareList(t *testing.T) {
	path := write(t, t.TempDir(), "list.csv", "\ufeffSKU,EAN,Title\nA,EAN 9521234000013,x\nB,,y\nC,9521234000020,z\n")
	opt := fixed(path, Target(path))
	opt.Only, opt.Plain = []string{"barcode"}, true
	assert.Equal(t, "9521234000013\n9521234000020\n", ready(t, run(t, opt)))
}

// TestRulesAreToldApart: of a cell that several rules have changed each is counted, and
// what comes to nothing is not.
func TestRulesAreToldApart(t *testing.T) {
	dir := t.TempDir()
	path := write(t, dir, "list.csv", "SKU,Title\nA, blue  vase\nB,red Pot\nC,Jug\n")
	book, err := sections.Load(write(t, dir, rulebook.Name, `
[[replace]]
in = ["title"]
find = "vase"
with = "bowl"
[[replace]]
in = ["title"]
find = "jug"
with = "Can"
[[replace]]
in = ["title"]
find = "can"
with = "Jug"
[[replace]]
in = ["title"]
find = "bowl"
with = "Bowl"
match_case = true
[[around]]
in = ["title"]
before = "NEW"
where = { sku = { is_not = "C" } }
`))
	require.NoError(t, err)
	r := run(t, Options{Input: path, Target: Target(path), Book: *book})
	counts := make(map[string]int)
	for _, c := range r.Report.Repaired {
		counts[c.Rule.String()] = c.Cells
	}
	assert.Equal(t, map[string]int{"repair.spaces": 1, "order.replace": 1, "order.around": 2}, counts)
	assert.Equal(t, 2, r.Counts().Repaired, "cells")
	assert.Equal(t, 4, r.Counts().Changed)
	changes, err := os.ReadFile(filepath.Join(r.Folder, "changes.jsonl"))
	require.NoError(t, err)
	assert.Contains(t, string(changes), `"before":"blue vase","after":"blue Bowl"`)
	assert.Contains(t, string(changes), `"before":"blue Bowl","after":"NEW blue Bowl"`)
}
