package repair

import (
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/sheet"
)

// wordSheets are what the rules of these tests look up.
var wordSheets = map[string]string{
	"map.csv":     "Theirs;Ours;Type;Shelf\nImkerei > Beuten;Beekeeping > Hives;Hive;H\nGarten;Garden;;\nGarten/Beete;Garden > Beds;Bed;\n",
	"shop.csv":    "SKU,Slug,Title,Brand,Tags\nA,a,Hive,eNektar,\"Hive, Old\"\n,a,,,\nB,b,Brush,eNektar,Tools\n",
	"aliases.csv": "Tag,Ours\npresent,Gift\nkids,Children\n",
	"common.csv":  "Tag\nGift\nHive\nTools\n",
	"kinds.csv":   "Word,Kind\nveil,Protection\nsmoker,Smokers\n",
}

// TestWords: tags, brands, categories and the words of any field are put in order as the rulebook says, with the rows that it counts.
func TestWords(t *testing.T) {
	const tagged = "SKU,Title,Brand,Category,Tags,Price\nA,Hive stand,ENEKTAR,Imkerei/Beuten,Hive; present;hive;sale,12\nB,Bee brush,eNektar,garten,Tools,5\n"
	for _, test := range []struct {
		name, source, book, want, rows, found string
		held                                  int
	}{
		{"tags in one form", tagged, "[columns]\nkeep = [\"sku\", \"tags\"]\n[tags]\nbetween = \", \"\naliases_from = \"aliases.csv\"\nforbidden = [\"SALE\"]\nalways = [\"{brand}\"]\ncategory_levels = true\n[[tags.when]]\nwhere = { price = { below = 10 } }\nadd = [\"Under {price}\"]\n",
			"SKU,Tags\nA,\"Hive, Gift, ENEKTAR, Imkerei, Beuten\"\nB,\"Tools, eNektar, Under 5, garten\"\n",
			"tags: aliases, without forbidden ones, always some, some on conditions, levels of the category, one separator 2, tags Under {price} 1", "value.spelling 2", 0},
		{"tags of what brands and categories have become", tagged, "[shop]\nexport = \"shop.csv\"\n[columns]\nkeep = [\"sku\", \"tags\"]\n[tags]\nmode = \"replace\"\ncase = \"lower\"\nalways = [\"{brand}\"]\ncategory_levels = true\norder = \"common\"\ncommon_from = \"common.csv\"\nmost = 4\n[brand]\nunify = true\n[category]\nlist = \"map.csv\"\n",
			"SKU,Tags,Type,Shelf\nA,hive; present; sale; enektar,Hive,H\nB,tools; enektar; garden,,\n", "", "", 0},
		{"added to the shop's", tagged, "[shop]\nexport = \"shop.csv\"\n[columns]\nkeep = [\"sku\", \"tags\"]\n[tags]\nmode = \"add\"\nbetween = \"|\"\n",
			"SKU,Tags\nA,Hive|Old|present|sale\nB,Tools\n", "tags: added to those of the shop, one separator 1, products that lose tags which shop.csv has 0", "value.spelling 2", 0},
		{"taken from the shop's", tagged, "[shop]\nexport = \"shop.csv\"\n[columns]\nkeep = [\"sku\", \"tags\"]\n[tags]\nmode = \"remove\"\n",
			"SKU,Tags\nA,Old\nB,\n", "tags: taken from those of the shop 2, products that lose tags which shop.csv has 2", "value.spelling 2", 0},
		{"lost by a file that says nothing", "SKU,Slug,Tags\nA,a,\"old,Gift\"\nB,b,\n", "[shop]\nexport = \"shop.csv\"\n", "SKU,Slug,Tags\nA,a,\"old,Gift\"\nB,b,\n",
			"products that lose tags which shop.csv has 2", "tags.lost 2", 0},
		{"attributes in the lead row", "Slug,SKU,Title,Colour,Season,Tags\na,A1,Hive,red,Spring,\na,A2,,blue,,\nb,B1,Hat,green,,Hat\n", "[columns]\nkeep = [\"sku\", \"slug\", \"tags\"]\n[products]\nproduct_fields = [\"Season\"]\n[tags]\nattributes = { Season = \"When\", colour = \"In\" }\npair = \": \"\nalways = [\"New\"]\nlongest_tag = 12\n",
			"Slug,SKU,Tags\na,A1,\"New, When: Spring, In: red, In: blue\"\na,A2,\nb,B1,\"Hat, New, In: green\"\n", "tags: always some, attributes 2", "", 0},
		{"categories of a supplier", tagged, "[columns]\nkeep = [\"sku\", \"category\", \"type\", \"Shelf\"]\n[category]\nlist = \"map.csv\"\n",
			"SKU,Category,Type,Shelf\nA,Beekeeping > Hives,Hive,H\nB,Garden,,\n", "categories: the shop's own, by map.csv 2", "value.spelling 2, tags.untidy 1", 0},
		{"one spelling of categories", "SKU,Category\nA,Garden/Beds\nB,garden > beds\nC,Garden / Beds\nD,Garden/Beds\n", "[category]\nunify = true\nbetween = \" > \"\n",
			"SKU,Category\nA,Garden > Beds\nB,Garden > Beds\nC,Garden > Beds\nD,Garden > Beds\n", "categories: in one form 4", "", 0},
		{"one spelling of levels", "SKU,Category\nA,Tools > Saws\nB,tools > Hammers\nC,Tools > hammers\nD,Tools > Saws > Jig\n", "[category]\nunify = true\nbetween = \" > \"\n",
			"SKU,Category\nA,Tools > Saws\nD,Tools > Saws > Jig\n", "categories: in one form 1", "value.tie 2", 2},
		{"brands as the shop has them", "SKU,Title,Brand\nA,x,ENEKTAR GmbH\nB,y,ENEKTAR GmbH\nC,z,n/a\nD,Brush of eNektar,\nE,Lid,by enektar\nF,u,Nørrebi\n", "[shop]\nexport = \"shop.csv\"\n[brand]\nunify = true\nlegal_forms = \"ignore\"\nplaceholders = \"blank\"\nfrom_title = true\nwithout_by = true\n",
			"SKU,Title,Brand\nA,x,eNektar\nB,y,eNektar\nC,z,\nD,Brush of eNektar,eNektar\nE,Lid,eNektar\nF,u,Nørrebi\n",
			"brands: one spelling, legal forms ignored, without by, placeholders emptied, from the title 5", "title.other 2", 0},
		{"words of any field", "SKU,Title,Colour,Size,Supplier\nA,x,forest green,500ML,!!! NEW !!! Mill,\nB,y,DARK RED,10 Mtr,MILL & SONS\n", "[colour]\ncase = \"title\"\n[size]\nmeasures = true\n[supplier]\nclean = true\ncase = \"shouting\"\n[[build]]\ninto = \"Label\"\nfrom = \"{supplier sentence}: {colour title}\"\n",
			"SKU,Title,Colour,Size,Supplier,Label\nA,x,Forest Green,500 ml,Mill,Mill: Forest Green\nB,y,Dark Red,10 m,Mill & Sons,Mill & sons: Dark Red\n", "", "", 0},
		{"built titles that fit", "SKU,Type,Colour,Size,Title\nA,Hive stand,oak brown,of 500 mm,\nB,Hat,red,,\nC,Stainless steel hive stand,blue,,\nD,,,,A title of its own that is long\n", "[columns]\nkeep = [\"sku\", \"title\"]\n[[build]]\ninto = \"title\"\nfrom = \"{type}[, {colour}][ {size}]\"\n[[replace]]\nin = [\"title\"]\nfind = \"hive\"\nwith = \"bee-hive\"\n[title]\nlongest = 26\nfit = true\nshorten = [[\"stainless steel\", \"steel\"]]\n",
			"SKU,Title\nA,\"bee-hive stand, oak brown\"\nB,\"Hat, red\"\nC,\"Steel bee-hive stand, blue\"\n", "", "column.not-inside 1, column.not-inside 1, title.unfit 1", 1},
		{"nothing of what is broken", "SKU,Title,Tags\nA,!!! NEW !!! B\ufffdrste,a;b;\nB,Brush ***,\"b\ufffd; c;\"\n", "[title]\nclean = true\n[tags]\nbetween = \"; \"\n",
			"SKU,Title,Tags\nA,!!! NEW !!! B\ufffdrste,a; b\nB,Brush,\"b\ufffd; c;\"\n", "", "text.lost 1, text.lost 1", 0},
		{"derived otherwise", "SKU,Title\nA,Smoker and veil\nB,Hat\nC,Veil\n", "[[derive]]\ninto = \"Kind\"\nfrom = [\"title\"]\nlist = \"kinds.csv\"\nchoose = \"first-in-list\"\notherwise = \"Other\"\n",
			"SKU,Title,Kind\nA,Smoker and veil,Protection\nB,Hat,Other\nC,Veil,Protection\n", "derive \"Kind\" from title by kinds.csv 3", "", 0},
	} {
		dir := t.TempDir()
		path := write(t, dir, "list.csv", test.source)
		opt := fixed(path, Target(path))
		opt.Book = bookIn(t, dir, test.book, wordSheets)
		r := run(t, opt)
		assert.Equal(t, test.want, ready(t, r), test.name)
		var rows, found []string
		for _, c := range r.Rows {
			rows = append(rows, fmt.Sprint(c.Rule, " ", c.Rows))
		}
		for _, f := range r.Report.Found {
			found = append(found, fmt.Sprint(f.Code, " ", f.Cells))
		}
		if test.rows != "" {
			assert.Equal(t, test.rows, strings.Join(rows, ", "), test.name)
		}
		assert.Equal(t, test.found, strings.Join(found, ", "), test.name)
		assert.Equal(t, test.held, r.Counts().Held, test.name)
	}
}

// wordCells are cells of the test data of the rooms, by what they are: titles, tags, brands, categories.
func wordCells(t *testing.T) [4][]string {
	var cells [4][]string
	for i, from := range []struct {
		path string
		col  int
	}{{"../title/testdata/titles.tsv", 3}, {"../tags/testdata/tags.tsv", 1}, {"../brand/testdata/brands.tsv", 2}, {"../category/testdata/categories.tsv", 1}} {
		content, err := os.ReadFile(from.path)
		require.NoError(t, err)
		for n, line := range strings.Split(strings.TrimSpace(string(content)), "\n") {
			if c := strings.Split(line, "\t"); n > 0 {
				cells[i] = append(cells[i], strings.NewReplacer(`\n`, "\n", `\t`, " ", `\\`, `\`).Replace(c[from.col]))
			}
		}
	}
	return cells
}

// differing returns the first line in which two texts differ, as both have it.
func differing(a, b string) string {
	other := strings.Split(b, "\n")
	for i, line := range strings.Split(a, "\n") {
		if i >= len(other) || line != other[i] {
			return line + "\n" + strings.Join(other[min(i, len(other)-1):min(i+1, len(other))], "")
		}
	}
	return ""
}

// TestWordsTwice: whatever is ordered of whatever words, the second run finds nothing to do, the number of workers does not matter,
// and columns that no rule names stay as they are.
func TestWordsTwice(t *testing.T) {
	t.Parallel()
	cells := wordCells(t)
	orders := []string{
		"[title]\nclean = true\ncase = \"shouting\"\nmeasures = true\nlongest = 45\nfit = true\ncut = true\nemoji = \"drop\"\nwithout_own_codes = true\n",
		"[title]\ncase = \"title\"\n", "[title]\ncase = \"sentence\"\nclean = true\n",
		"[tags]\nbetween = \", \"\ninside = \"quote\"\ncase = \"lower\"\norder = \"alphabetical\"\nalways = [\"{brand}\", \"Apiary\"]\ncategory_levels = true\nattributes = { colour = \"Colour\" }\nmost = 9\naliases = { wax = \"Beeswax\" }\n[[tags.when]]\nwhere = { category = { contains = \"Garden\" } }\nadd = [\"Outside\"]\n",
		"[tags]\nbetween = \"|\"\ninside = \"replace\"\none_of = [\"Honey\", \"Hive\", \"Gift\"]\nunlisted = \"drop\"\n",
		"[tags]\ncase = \"title\"\nforbidden = [\"new\"]\n", "[shop]\nexport = \"shop.csv\"\n[tags]\nmode = \"add\"\nbetween = \";\"\n",
		"[brand]\nunify = true\nlegal_forms = \"ignore\"\nplaceholders = \"blank\"\nwithout_by = true\n", "[brand]\nfrom_title = true\ncase = \"title\"\n",
		"[category]\nlist = \"map.csv\"\n", "[category]\nbetween = \"/\"\nunify = true\n",
		"[colour]\nclean = true\ncase = \"sentence\"\nmeasures = true\n",
	}
	files := some(24)
	changed := 0
	for seed := range files {
		r := rand.New(rand.NewPCG(uint64(seed), 19))
		var source strings.Builder
		source.WriteString("SKU,Title,Tags,Brand,Category,Colour,Note\n")
		for i := range 40 + r.IntN(60) {
			fmt.Fprintf(&source, "W%d", i)
			for _, of := range []int{0, 1, 2, 3, 0, 0} {
				cell := cells[of][r.IntN(len(cells[of]))]
				if r.IntN(12) == 0 {
					cell = ""
				}
				fmt.Fprintf(&source, ",\"%s\"", strings.ReplaceAll(strings.TrimSpace(cell), `"`, `""`))
			}
			source.WriteString("\n")
		}
		book, tables := "", make(map[string]bool)
		for _, n := range r.Perm(len(orders)) {
			names := strings.Split(orders[n], "\n")
			if table := names[0]; !tables[table] && r.IntN(3) > 0 && !(tables["[tags]"] && strings.Contains(orders[n], "[tags]")) {
				tables[table], tables["[tags]"] = true, tables["[tags]"] || strings.Contains(orders[n], "[tags]")
				book += orders[n]
			}
		}
		dir := t.TempDir()
		path := write(t, dir, "list.csv", source.String())
		rules := bookIn(t, dir, book, wordSheets)
		repaired := func(path string, workers, size int) (*Result, string) {
			opt := fixed(path, filepath.Join(dir, fmt.Sprint("out", workers, size, filepath.Base(path))))
			opt.Workers, opt.PartSize, opt.Book = workers, size, rules
			r := run(t, opt)
			return r, ready(t, r)
		}
		first, want := repaired(path, 1, 1<<20)
		changed += first.Counts().Changed
		_, same := repaired(path, 3, 700)
		require.Equal(t, "", differing(want, same), "with other workers:\n%s", book)
		again := write(t, dir, "again.csv", want)
		second, got := repaired(again, 2, 3000)
		require.Equal(t, "", differing(want, got), "a second time, of which %+v:\n%s", second.Report.Repaired, book)
		notes := make(map[string]string)
		for _, row := range rowsIn(t, path, sheet.Form{Separator: ','}) {
			notes[row[0]] = row[6]
		}
		for _, row := range rowsIn(t, filepath.Join(first.Folder, "ready.csv"), first.Source.Form)[1:] {
			assert.Equal(t, strings.Join(strings.Fields(notes[row[0]]), ""), strings.Join(strings.Fields(row[6]), ""), "a column that no rule names")
		}
	}
	t.Logf("%d changes in %d files, and none a second time", changed, files)
	assert.Greater(t, changed, 50*files)
}

// TestWordsLater: an output in which nothing was done to the words is read like any file when something is ordered.
func TestWordsLater(t *testing.T) {
	dir := t.TempDir()
	path := write(t, dir, "list.csv", "SKU,Title,Tags,Category\nA,LAMPE MIT FUSS UND SCHIRM,Lamp/Foot,Holz/Beuten\nB,TISCH MIT DER LAMPE,Table/Lamp,Garten\nC,BANK UND TISCH FÜR DEN GARTEN,Bank,Garten/Beete\n")
	opt := fixed(path, Target(path))
	first := run(t, opt)
	again := fixed(filepath.Join(first.Folder, "ready.csv"), filepath.Join(dir, "later"))
	again.Book = bookIn(t, dir, "[title]\ncase = \"shouting\"\n[tags]\nbetween = \", \"\n[category]\nbetween = \" > \"\n", nil)
	r := run(t, again)
	assert.Equal(t, "SKU,Title,Tags,Category\nA,Lampe mit Fuss und Schirm,\"Lamp, Foot\",Holz > Beuten\nB,Tisch mit der Lampe,\"Table, Lamp\",Garten\n"+
		"C,Bank und Tisch für den Garten,Bank,Garten > Beete\n", ready(t, r))
	third := fixed(filepath.Join(r.Folder, "ready.csv"), filepath.Join(dir, "third"))
	third.Book = again.Book
	assert.Equal(t, ready(t, r), ready(t, run(t, third)))
}
