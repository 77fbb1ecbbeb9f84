package repair

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/rulebook"
)

// bookIn reads a rulebook that lies in a folder with sheets it names.
func bookIn(t *testing.T, dir, text string, sheets map[string]string) rulebook.Book {
	t.Helper()
	for name, content := range sheets {
		write(t, dir, name, content)
	}
	b, err := rulebook.Load(write(t, dir, rulebook.Name, text))
	require.NoError(t, err, text)
	return *b
}

// orderedSheets are what the rules of these tests look up.
var orderedSheets = map[string]string{
	"materials.csv": "Code;Meaning\nBE;Beech\nCD;Cedar\nSS;Stainless steel\n",
	"kinds.csv":     "Word,Kind\nsmoker,Smokers\nsmoker fuel,Fuel\nveil,Protection\n",
	"brands.csv":    "No.,Brand\n1,Hollowbrook Joinery\n2,Nørrebi\n",
	"weights.csv":   "Artikel,Weight,Colour,Note\nLRA-1,1.5, red ,a\nlra 2,2.5,,b\nLRA-3,3.5,blue,c\nLRA-3,4.5,blue,d\nLRA-9,9,green,e\n",
	"counted.csv":   "SKU,EAN\nLRA-1,9521234000013\nLRA-2,9521234000020\n",
}

// TestOrdered: each kind of order does what it says, with the rows it counts, and
// the second run of the same rulebook changes nothing.
func TestOrdered(t *testing.T) {
	const source = "SKU,Brand,Title,Material,Description\nLRA-1,Hollowbrook joinery,Smoker,BE,<p>Good.</p>\nLRA-2,Nørrebi,Smoker fuel,cd,\nLRA-3,Nørrebi,Veil & smoker,ZZ,<p>Fine.</p>\nLRA-4,,Hat,Beech,<p>Ours.</p>\n"
	const weights = "[[borrow]]\nfrom = \"weights.csv\"\nheadings = { Artikel = \"sku\" }\nby = \"sku\"\n"
	for _, test := range []struct {
		name, book, want string
		rows             string
		found            string
		held             int
	}{
		{"filled where a condition holds", "[columns]\nkeep = [\"sku\", \"Region\"]\n[[columns.fill]]\ninto = \"Region\"\nwith = \"North\"\nwhere = { brand = \"nørrebi\" }\ncount = 2\n[[columns.fill]]\ninto = \"Region\"\nfrom = \"title\"\nwhere = { sku = { ends = \"4\" } }\n",
			"SKU,Region\nLRA-1,\nLRA-2,North\nLRA-3,North\nLRA-4,Hat\n", `fill "Region" with "North" 2, fill "Region" from "title" 1`, "", 0},
		{"built", "[columns]\nkeep = [\"sku\", \"Label\"]\n[[build]]\ninto = \"Label\"\nfrom = '[{brand letters upper first 3}-]{Title words 1}[ ({\"Material\"})]'\n",
			"SKU,Label\nLRA-1,HOL-Smoker (BE)\nLRA-2,NØR-Smoker (cd)\nLRA-3,NØR-Veil (ZZ)\nLRA-4,Hat (Beech)\n", `build "Label" from "[{brand letters upper first 3}-]{Title words 1}[ ({\"Material\"})]" 4`, "", 0},
		{"built from what is repaired first", "[columns]\nkeep = [\"sku\", \"Label\"]\n[[build]]\ninto = \"Label\"\nfrom = \"{brand}: {title}\"\n[field.brand]\none_of_from = \"brands.csv\"\none_of_column = \"Brand\"\n[[replace]]\nin = [\"title\"]\nfind = \"hat\"\nwith = \"hood\"\n",
			"SKU,Label\nLRA-1,Hollowbrook Joinery: Smoker\nLRA-2,Nørrebi: Smoker fuel\nLRA-3,Nørrebi: Veil & smoker\nLRA-4,\n", `build "Label" from "{brand}: {title}" 3, replace "hat" with "hood" 1`, "build.missing 1", 0},
		{"built over", "[columns]\nkeep = [\"sku\", \"title\"]\n[[build]]\ninto = \"title\"\nfrom = \"{sku} {material|brand}\"\nover = true\n",
			"SKU,Title\nLRA-1,LRA-1 BE\nLRA-2,LRA-2 cd\nLRA-3,LRA-3 ZZ\nLRA-4,LRA-4 Beech\n", `build "title" from "{sku} {material|brand}" 4`, "", 0},
		{"built in HTML", "[columns]\nkeep = [\"sku\", \"description\"]\n[[build]]\ninto = \"description\"\nfrom = \"<p>{title}</p>\"\nover = true\nwhere = { title = { contains = \"veil\" } }\n[[rows]]\nkeep = { sku = \"lra-3\" }\n",
			"SKU,Description\nLRA-3,<p>Veil &amp; smoker</p>\n", `build "description" from "<p>{title}</p>" 1, keep = sku is lra-3 1`, "row.not-wanted 3", 0},
		{"derived", "[columns]\nkeep = [\"sku\", \"category\"]\n[[derive]]\ninto = \"category\"\nfrom = [\"title\"]\nlist = \"kinds.csv\"\n",
			"SKU,category\nLRA-1,Smokers\nLRA-2,Fuel\nLRA-3,\nLRA-4,\n", `derive "category" from title by kinds.csv 2`, "derive.none 1, derive.several 1", 0},
		{"expanded", "[columns]\nkeep = [\"sku\", \"material\"]\n[[expand]]\nin = [\"material\"]\nlist = \"materials.csv\"\ncount = 2\n",
			"SKU,Material\nLRA-1,Beech\nLRA-2,Cedar\nLRA-3,ZZ\nLRA-4,Beech\n", `expand material from materials.csv 2`, "expand.unknown 1", 0},
		{"closed", "[columns]\nkeep = [\"sku\", \"description\"]\n[[closing]]\nin = [\"description\"]\ntext = \"Fine.\"\n",
			"SKU,Description\nLRA-1,<p>Good.</p><p>Fine.</p>\nLRA-2,\nLRA-3,<p>Fine.</p>\nLRA-4,<p>Ours.</p><p>Fine.</p>\n", `close with "Fine." 2`, "", 0},
		{"listed", "[columns]\nkeep = [\"sku\", \"brand\"]\n[field.brand]\none_of = [\"Hollowbrook Joinery\", \"Norrebi\"]\nrequired = true\n",
			"SKU,Brand\nLRA-1,Hollowbrook Joinery\nLRA-2,Norrebi\nLRA-3,Norrebi\n", "", "value.missing 1", 1},
		{"of its own", "[headings]\nMaterial = \"finish\"\n[columns]\nkeep = [\"sku\", \"finish\"]\n[field.finish]\ntype = \"text\"\nlongest = 3\n[[around]]\nin = [\"finish\"]\nafter = \"x\"\n[[rows]]\naside = { finish = { starts = \"z\" } }\n",
			"SKU,Material\n", `put "x" after 4, aside = finish starts with z 1`, "row.not-wanted 1, value.long 3", 3},
		{"borrowed", weights + "take = [\"weight\", \"Colour\"]\n[columns]\nkeep = [\"sku\", \"weight\", \"Colour\"]\n",
			"SKU,Weight,Colour\nLRA-1,1.5,red\nLRA-2,,\nLRA-4,,\n", `borrow weight, Colour from weights.csv by sku 2`, "borrow.unmatched 2, borrow.twice 1", 1},
		{"borrowed by keys that are alike", weights + "take = [\"weight\"]\nalike = [\"case\", \"spaces\", \"dashes\"]\nwhere = { sku = { one_of = [\"LRA-1\", \"LRA-2\"] } }\n[columns]\nkeep = [\"sku\", \"weight\"]\n",
			"SKU,Weight\nLRA-1,1.5\nLRA-2,2.5\nLRA-3,\nLRA-4,\n", `borrow weight from weights.csv by sku 2`, "borrow.alike 1", 0},
		{"borrowed over what is there", "[[borrow]]\nfrom = \"weights.csv\"\nby = \"sku\"\ntake = [\"material\"]\nover = true\nheadings = { Artikel = \"sku\", Note = \"material\" }\nwhere = { sku = { is_not = \"lra-3\" } }\n[columns]\nkeep = [\"sku\", \"material\"]\n",
			"SKU,Material\nLRA-1,a\nLRA-2,cd\nLRA-3,ZZ\nLRA-4,Beech\n", `borrow material from weights.csv by sku 1`, "borrow.unmatched 2", 0},
		{"borrowed codes", "[[borrow]]\nfrom = \"counted.csv\"\nby = \"sku\"\ntake = [\"barcode\"]\n[columns]\nkeep = [\"sku\", \"EAN\"]\n",
			"SKU,EAN\nLRA-1,9521234000013\nLRA-2,9521234000020\nLRA-3,\nLRA-4,\n", `borrow barcode from counted.csv by sku 2`, "barcode.missing 2, borrow.unmatched 2", 0},
		{"one per", "[columns]\nkeep = [\"brand\", \"title\"]\ndrop_key = true\n[[rows]]\none_per = \"brand\"\nchoose = \"last\"\n",
			"Brand,Title\nHollowbrook joinery,Smoker\nNørrebi,Veil & smoker\n,Hat\n", "", "row.passed-over-differs 1", 0},
		{"sorted", "[columns]\nkeep = [\"brand\", \"title\"]\ndrop_key = true\n[sheet]\nsort_by = [\"brand\", \"title\"]\n",
			"Brand,Title\n,Hat\nHollowbrook joinery,Smoker\nNørrebi,Smoker fuel\nNørrebi,Veil & smoker\n", "", "", 0},
	} {
		dir := t.TempDir()
		path := write(t, dir, "list.csv", source)
		opt := fixed(path, Target(path))
		opt.Book = bookIn(t, dir, test.book, orderedSheets)
		r := run(t, opt)
		assert.Equal(t, test.want, ready(t, r), test.name)
		var rows, found []string
		for _, c := range r.Rows {
			rows = append(rows, fmt.Sprint(c.Rule, " ", c.Rows))
		}
		for _, f := range r.Report.Found {
			found = append(found, fmt.Sprint(f.Code, " ", f.Cells))
		}
		assert.Equal(t, test.rows, strings.Join(rows, ", "), test.name)
		assert.Equal(t, test.found, strings.Join(found, ", "), test.name)
		assert.Equal(t, test.held, r.Counts().Held, test.name)
	}
}
