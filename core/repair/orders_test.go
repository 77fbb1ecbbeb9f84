package repair

import (
	"fmt"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
	"zetanum/core/rulebook"
	"zetanum/core/sections"
	"zetanum/internal/brief"
)

// bookIn reads a rulebook that lies in a folder with sheets it names.
func bookIn(t *testing.T, dir, text string, sheets map[string]string) sections.Book {
	t.Helper()
	for name, content := range sheets {
		write(t, dir, name, content)
	}
	b, err := sections.Load(write(t, dir, rulebook.Name, text))
	require.NoError(t, err, text)
	return *b
}

// orderedSheets are what the rules of these tests look up.
var orderedSheets = map[string]string{
	"materials.csv": "Code;Meaning\nBE;Beech\nCD;Cedar\nSS;Stainless steel\n",
	"kinds.csv":     "Word,Kind\nsmoker,Smokers\nsmoker fuel,Fuel\nveil,Protection\n",
	"brands.csv":    "No.,Brand\n1,Hollowbrook Joinery\n2,Nørrebi\n",
	"weights.csv":   "Artikel,Weight,Colour,Note\nLRA-1,1.5, red ,a\nlra 2,2.5,,b\nLRA-3,3.5,blue,c\nLRA-3,4.5,blue,d\nLRA-9,9,green,e\n",
	"wanted.csv":    "Code\nLRA-1\nLRA-3\n",
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
			"SKU,Region\nLRA-1,\nLRA-2,North\nLRA-3,North\nLRA-4,Hat\n", `fill "Region" with "North" 2, fill "Region" from "title" 1`, "",
			0},
		{"built", "[columns]\nkeep = [\"sku\", \"Label\"]\n[[build]]\ninto = \"Label\"\nfrom = '[{brand letters upper first 3}-]{Title words 1}[ ({\"Material\"})]'\n",
			"SKU,Label\nLRA-1,HOL-Smoker (BE)\nLRA-2,NØR-Smoker (cd)\nLRA-3,NØR-Veil (ZZ)\nLRA-4,Hat (Beech)\n",
			`build "Label" from "[{brand letters upper first 3}-]{Title words 1}[ ({"Material"})]" 4`, "", 0},
		{"built from what is repaired first", "[columns]\nkeep = [\"sku\", \"Label\"]\n[[build]]\ninto = \"Label\"\nfrom = \"{brand}: {title}\"\n[field.brand]\none_of_from = \"brands.csv\"\none_of_column = \"Brand\"\n[[replace]]\nin = [\"title\"]\nfind = \"hat\"\nwith = \"hood\"\n",
			"SKU,Label\nLRA-1,Hollowbrook Joinery: Smoker\nLRA-2,Nørrebi: Smoker fuel\nLRA-3,Nørrebi: Veil & smoker\nLRA-4,\n",
			`build "Label" from "{brand}: {title}" 3, replace "hat" with "hood" 1`, "column.not-inside 1, build.missing 1", 0},
		{"built over", "[columns]\nkeep = [\"sku\", \"title\"]\n[[build]]\ninto = \"title\"\nfrom = \"{sku} {material|brand}\"\nover = true\n",
			"SKU,Title\nLRA-1,LRA-1 BE\nLRA-2,LRA-2 cd\nLRA-3,LRA-3 ZZ\nLRA-4,LRA-4 Beech\n",
			`build "title" from "{sku} {material|brand}" 4`, "title.shouts 2", 0},
		{"built in HTML", "[columns]\nkeep = [\"sku\", \"description\"]\n[[build]]\ninto = \"description\"\nfrom = \"<p>{title}</p>\"\nover = true\nwhere = { title = { contains = \"veil\" } }\n[[rows]]\nkeep = { sku = \"lra-3\" }\n",
			"SKU,Description\nLRA-3,<p>Veil &amp; smoker</p>\n", `build "description" from "<p>{title}</p>" 1, keep = sku is lra-3 1`,
			"row.not-wanted 3, title.is-description 1", 0},
		{"derived", "[columns]\nkeep = [\"sku\", \"category\"]\n[[derive]]\ninto = \"category\"\nfrom = [\"title\"]\nlist = \"kinds.csv\"\n",
			"SKU,Category\nLRA-1,Smokers\nLRA-2,Fuel\nLRA-3,\nLRA-4,\n", `derive "category" from title by kinds.csv 2`,
			"derive.none 1, derive.several 1", 0},
		{"expanded", "[columns]\nkeep = [\"sku\", \"material\"]\n[[expand]]\nin = [\"material\"]\nlist = \"materials.csv\"\ncount = 2\n",
			"SKU,Material\nLRA-1,Beech\nLRA-2,Cedar\nLRA-3,ZZ\nLRA-4,Beech\n", `expand material from materials.csv 2`, "expand.unknown 1",
			0},
		{"closed", "[columns]\nkeep = [\"sku\", \"description\"]\n[[closing]]\nin = [\"description\"]\ntext = \"Fine.\"\n",
			"SKU,Description\nLRA-1,<p>Good.</p><p>Fine.</p>\nLRA-2,\nLRA-3,<p>Fine.</p>\nLRA-4,<p>Ours.</p><p>Fine.</p>\n",
			`close with "Fine." 2`, "", 0},
		{"listed", "[columns]\nkeep = [\"sku\", \"brand\"]\n[field.brand]\none_of = [\"Hollowbrook Joinery\", \"Norrebi\"]\nrequired = true\n",
			"SKU,Brand\nLRA-1,Hollowbrook Joinery\nLRA-2,Norrebi\nLRA-3,Norrebi\n", "", "value.missing 1", 1},
		{"of its own", "[headings]\nMaterial = \"finish\"\n[columns]\nkeep = [\"sku\", \"finish\"]\n[field.finish]\ntype = \"text\"\nlongest = 3\n[[around]]\nin = [\"finish\"]\nafter = \"x\"\n[[rows]]\naside = { finish = { starts = \"z\" } }\n",
			"SKU,Material\n", `put "x" after 3, aside = finish starts with z 1`, "row.not-wanted 1, value.long 3", 3},
		{"borrowed", weights + "take = [\"weight\", \"Colour\"]\n[columns]\nkeep = [\"sku\", \"weight\", \"Colour\"]\n",
			"SKU,Weight,Colour\nLRA-1,1.5,red\nLRA-2,,\nLRA-4,,\n", `borrow weight, Colour from weights.csv by sku 2`,
			"borrow.unmatched 2, borrow.twice 1", 1},
		{"borrowed by keys that are alike", weights + "take = [\"weight\"]\nalike = [\"case\", \"spaces\", \"dashes\"]\nwhere = { sku = { one_of = [\"LRA-1\", \"LRA-2\"] } }\n[columns]\nkeep = [\"sku\", \"weight\"]\n",
			"SKU,Weight\nLRA-1,1.5\nLRA-2,2.5\nLRA-3,\nLRA-4,\n", `borrow weight from weights.csv by sku 2`, "borrow.alike 1", 0},
		{"borrowed over what is there", "[[borrow]]\nfrom = \"weights.csv\"\nby = \"sku\"\ntake = [\"material\"]\nover = true\nheadings = { Artikel = \"sku\", Note = \"material\" }\nwhere = { sku = { is_not = \"lra-3\" } }\n[columns]\nkeep = [\"sku\", \"material\"]\n",
			"SKU,Material\nLRA-1,a\nLRA-2,cd\nLRA-3,ZZ\nLRA-4,Beech\n", `borrow material from weights.csv by sku 1`, "borrow.unmatched 2",
			0},
		{"borrowed codes", "[[borrow]]\nfrom = \"counted.csv\"\nby = \"sku\"\ntake = [\"barcode\"]\n[columns]\nkeep = [\"sku\", \"EAN\"]\n",
			"SKU,EAN\nLRA-1,9521234000013\nLRA-2,9521234000020\nLRA-3,\nLRA-4,\n", `borrow barcode from counted.csv by sku 2`,
			"barcode.missing 2, borrow.unmatched 2", 0},
		{"listed in a file, and a stretch of columns dropped",
			"[columns]\ndrop = [\"Brand .. Description\"]\n[[rows]]\nkeep = { any = [ { sku = { listed = \"wanted.csv\" } }, { title = \"hat\" } ] }\n",
			"SKU\nLRA-1\nLRA-3\nLRA-4\n", "keep = (sku is in the list [LRA-1 LRA-3] or title is hat) 3", "row.not-wanted 1", 0},
		{"repeats kept", "[sheet]\nrepeats = \"keep\"\n[columns]\nkeep = [\"Region\"]\ndrop_key = true\nadd = { Region = \"UK\" }\n",
			"Region\nUK\nUK\nUK\nUK\n", "", "", 0},
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

// TestOrdersThatCannotBe: a rulebook whose rules do not fit the file or one another
// stops the run before anything is written, and says why.
func TestOrdersThatCannotBe(t *testing.T) {
	sheets := map[string]string{
		"chain.csv": "Code,Means\nA,B\nB,C\n", "twice.csv": "Code,Means\nA,B\na,C\n", "one.csv": "Code\nA\n", "empty.csv": "Brand\n",
		"texts.csv": "SKU,Text,Text (old),Description,Description HTML\nA,x,y,z,z\n",
	}
	for text, want := range map[string]string{
		"[[build]]\ninto = \"title\"\nfrom = \"{brand} x\"\n[[build]]\ninto = \"brand\"\nfrom = \"{title} y\"\n":                                                          "its rules wait for one another: [[build]] for \"Title\" needs what [[build]] does to \"Brand\", and [[build]] for \"Brand\" needs what",
		"[[replace]]\nin = [\"title\"]\nfind = \"a\"\nwhere = { brand = \"x\" }\n[[replace]]\nin = [\"brand\"]\nfind = \"a\"\nwhere = { title = { contains = \"b\" } }\n": "take one of these columns out",
		"[[build]]\ninto = \"title\"\nfrom = \"{title} x\"\n":                                                                                                             "built from itself",
		"[[build]]\ninto = \"title\"\nfrom = \"{titel} x\"\n":                                                                                                             `did you mean "Title"?`,
		"[[build]]\ninto = \"title\"\nfrom = \"{description}\"\n":                                                                                                         "that is HTML",
		"[[expand]]\nin = [\"title\"]\nlist = \"chain.csv\"\n":                                                                                                            "in row 2 \"A\" stands for \"B\", which is itself a code",
		"[[expand]]\nin = [\"title\"]\nlist = \"twice.csv\"\n":                                                                                                            `"a" stands for "B" in row 2 and for "C" in row 3`,
		"[[expand]]\nin = [\"title\"]\nlist = \"one.csv\"\n":                                                                                                              "two are needed",
		"[[expand]]\nin = [\"title\"]\nlist = \"gone.csv\"\n":                                                                                                             "[[expand]] list: gone.csv",
		"[[expand]]\nin = [\"sku\"]\nlist = \"one.csv\"\n":                                                                                                                "two are needed",
		"[[derive]]\ninto = \"Kind\"\nfrom = [\"titles\"]\nlist = \"twice.csv\"\n":                                                                                        "speaks for",
		"[field.brand]\none_of_from = \"empty.csv\"\n":                                                                                                                    "no value below the heading",
		"[field.brand]\none_of_from = \"texts.csv\"\none_of_column = \"x\"\n":                                                                                             `no such column (x)`,
		"[field.weight]\nrequired = true\n":                                                                                                                               "[field.weight] is required, and no column has it",
		"[[borrow]]\nfrom = \"list.csv\"\nby = \"sku\"\ntake = [\"weight\"]\n":                                                                                            "a sheet cannot borrow from itself",
		"[[borrow]]\nfrom = \"texts.csv\"\nby = \"sku\"\ntake = [\"weight\"]\n":                                                                                           `[[borrow]] names "weight", which texts.csv does not have`,
		"[[borrow]]\nfrom = \"texts.csv\"\nby = \"barcode\"\ntake = [\"Text\"]\n":                                                                                         `[[borrow]] names "barcode"`,
		"[[rows]]\nkeep = { sku = { listed = \"gone.csv\" } }\n":                                                                                                          "listed in a condition: gone.csv",
		"[[rows]]\none_per = \"slug\"\n":                                                                                                                                  `one_per names "slug"`,
		"[sheet]\nsort_by = [\"prize\"]\n":                                                                                                                                `sort_by names "prize"`,
		"[[borrow]]\nfrom = \"texts.csv\"\nby = \"brand\"\ntake = [\"Text\"]\n":                                                                                           `"brand"`,
		"[[closing]]\nin = [\"sku\"]\ntext = \"x\"\n":                                                                                                                     "codes, in which every character counts",
		"[field.x]\ntype = \"code\"\n[headings]\nTitle = \"x\"\n[[replace]]\nin = [\"x\"]\nfind = \"a\"\n":                                                                "which is the field x: codes",
	} {
		dir := t.TempDir()
		path := write(t, dir, "list.csv", "SKU,Brand,Title,Description\nA,b,c,<p>d</p>\n")
		opt := fixed(path, Target(path))
		opt.Book = bookIn(t, dir, text, sheets)
		before := len(contents(t, dir))
		opt.Temp = t.TempDir()
		_, err := Run(t.Context(), opt)
		assert.ErrorContains(t, err, want, text)
		assert.Len(t, contents(t, dir), before)
		left, err := os.ReadDir(opt.Temp)
		require.NoError(t, err)
		assert.Empty(t, left, text)
	}
}

// TestUnknownListed: what lists do not have is listed with its row and the product.
func TestUnknownListed(t *testing.T) {
	dir := t.TempDir()
	path := write(t, dir, "list.csv", "SKU,Title,Material\nA,Veil,BE\nB,Smoker & veil,ZZ\n")
	opt := fixed(path, Target(path))
	opt.Book = bookIn(t, dir, "[[expand]]\nin = [\"material\"]\nlist = \"materials.csv\"\n[[derive]]\ninto = \"Kind\"\nfrom = [\"title\"]\nlist = \"kinds.csv\"\n", orderedSheets)
	r := run(t, opt)
	assert.Equal(t, "Row,Column,Value,What is open,SKU,Title,Material\n3,Kind,,Words of the text speak for Smokers and Protection; the cell is left empty.,B,Smoker & veil,ZZ\n"+
		"3,Material,ZZ,ZZ is not in the list of codes; it is left as it is.,B,Smoker & veil,ZZ\n",
		contents(t, r.Folder)[sections.UnknownName])
}

// TestBorrowedAtScale: a sheet that does not fit in the memory that is set aside for
// it lends the same values, with every number of workers.
func TestBorrowedAtScale(t *testing.T) {
	dir := t.TempDir()
	long := strings.Repeat("long text ", 700)
	var lent, list strings.Builder
	lent.WriteString("SKU,Text\n")
	list.WriteString("SKU,Title\n")
	lends := brief.Of(12_000, 2_000)
	for i := range lends {
		fmt.Fprintf(&lent, "A%d,%d %s\n", i, i, long)
		if i%500 == 0 {
			fmt.Fprintf(&list, "A%d,x\n", i)
		}
	}
	path := write(t, dir, "list.csv", list.String())
	opt := fixed(path, Target(path))
	opt.Book = bookIn(t, dir, "[[borrow]]\nfrom = \"lent.csv\"\nby = \"sku\"\ntake = [\"Text\"]\n",
		map[string]string{"lent.csv": lent.String()})
	opt.PartSize, opt.Workers = 50, 3
	r := run(t, opt)
	lines := strings.Split(strings.TrimSpace(ready(t, r)), "\n")
	require.Len(t, lines, lends/500+1)
	for i, line := range lines[1:] {
		assert.Equal(t, fmt.Sprintf("A%d,x,%d %s", i*500, i*500, strings.TrimSpace(long)), line)
	}
	unasked := contents(t, r.Folder)["only-in-lent.csv"]
	assert.Equal(t, lends-lends/500+1, strings.Count(unasked, "\n"))
	assert.Equal(t, []int{lends / 500, 0, 0, 0, lends / 500, 0, 0}, r.Report.Touched[:7])
}

// TestOnce: a rule that may change its own result is applied when it says so, and
// refused on our own output; there a number of rows is not asked for again.
func TestOnce(t *testing.T) {
	dir := t.TempDir()
	path := write(t, dir, "list.csv", "SKU,Title\nA,\"a, b, c\"\nB,d\n")
	opt := fixed(path, Target(path))
	opt.Book = bookIn(t, dir, "[[replace]]\nin = [\"title\"]\nfind = \", \"\nwith = \" – \"\nfirst_only = true\nonce = true\ncount = 1\n",
		nil)
	r := run(t, opt)
	assert.Equal(t, "SKU,Title\nA,\"a – b, c\"\nB,d\n", ready(t, r))
	again := fixed(filepath.Join(r.Folder, "ready.csv"), filepath.Join(dir, "again"))
	again.Book = opt.Book
	_, err := Run(t.Context(), again)
	assert.ErrorIs(t, err, sections.ErrOnce)
	again.Book = bookIn(t, dir, "[[replace]]\nin = [\"title\"]\nfind = \"a, b\"\nwith = \"ab\"\ncount = 1\n", nil)
	assert.Equal(t, ready(t, r), ready(t, run(t, again)))
	_, err = sections.Load(write(t, dir, "wrong.toml", "[[replace]]\nin = [\"title\"]\nfind = \",\"\nfirst_only = true\n"))
	assert.ErrorContains(t, err, "say once = true")
}

// TestLanguages: a field with a column for each language is required in those that the
// rulebook names; rules that name the field are for all of its columns, and what a rule writes
// goes into the first.
func TestLanguages(t *testing.T) {
	const source = "SKU,Name (EN),Name (DE),Description,beschreibung_de,Label\nA,Red  cup,Rote  Tasse,x,,\nB,Blue cup,,y,z,\nC,,Krug,,z,\n"
	for _, test := range []struct{ book, ready, found, err string }{
		{"", "SKU,Name (EN),Name (DE),Description,beschreibung_de,Label\nA,Red cup,Rote Tasse,x,,\nB,Blue cup,,y,z,\nC,,Krug,,z,\n", "", ""},
		{"[title]\nlanguages = [\"en\", \"de\"]\n", "SKU,Name (EN),Name (DE),Description,beschreibung_de,Label\nA,Red cup,Rote Tasse,x,,\n", "value.missing 1, value.missing 1", ""},
		{"[title]\nlanguages = [\"de\"]\n[field.description]\nlanguages = [\"de\"]\n", "SKU,Name (EN),Name (DE),Description,beschreibung_de,Label\nC,,Krug,,z,\n", "value.missing 1, value.missing 1", ""},
		{"[[replace]]\nin = [\"title\"]\nfind = \"cup\"\nwith = \"mug\"\n[[replace]]\nin = [\"Name (DE)\"]\nfind = \"Tasse\"\nwith = \"Kanne\"\n",
			"SKU,Name (EN),Name (DE),Description,beschreibung_de,Label\nA,Red mug,Rote Kanne,x,,\nB,Blue mug,,y,z,\nC,,Krug,,z,\n", "", ""},
		{"[[build]]\ninto = \"title\"\nfrom = \"{sku} of clay\"\nover = true\n",
			"SKU,Name (EN),Name (DE),Description,beschreibung_de,Label\nA,A of clay,Rote Tasse,x,,\nB,B of clay,,y,z,\nC,C of clay,Krug,,z,\n", "", ""},
		{"[title]\nlanguages = [\"fr\"]\n", "", "", `must be filled in "fr", and no column has it in that language`},
	} {
		dir := t.TempDir()
		path := write(t, dir, "list.csv", source)
		opt := fixed(path, Target(path))
		opt.Book = bookIn(t, dir, test.book, nil)
		r, err := Run(t.Context(), opt)
		if test.err != "" {
			assert.ErrorContains(t, err, test.err)
			continue
		}
		require.NoError(t, err, test.book)
		assert.Equal(t, test.ready, ready(t, r), test.book)
		var found []string
		for _, f := range r.Report.Found {
			found = append(found, fmt.Sprint(f.Code, " ", f.Cells))
		}
		assert.Equal(t, test.found, strings.Join(found, ", "), test.book)
	}
}

// TestWhatStaysBehind: what is wrong with a column that does not go out holds nothing, unless
// something is made of it that does.
func TestWhatStaysBehind(t *testing.T) {
	const source = "SKU,EAN,Title,Price,Label\nA,9.52123E+12,Blue cup,5.00,x\nB,9521234000020,Red cup,6.00,y\nC,9521234000021,Green cup,7.00,z\nD,9521234000020,Jug,8.00,v\n"
	for name, test := range map[string]struct {
		book string
		only []string
		held string // SKUs
	}{
		"all":                  {"", nil, "A B C D"},
		"a price alone":        {"", []string{"price"}, ""},
		"dropped":              {"[columns]\ndrop = [\"EAN\"]\n", nil, ""},
		"not kept":             {"[columns]\nkeep = [\"sku\", \"Title\"]\n", nil, ""},
		"in a condition":       {"[columns]\ndrop = [\"EAN\"]\n[[replace]]\nin = [\"title\"]\nfind = \"cup\"\nwith = \"mug\"\nwhere = { barcode = { starts = \"952\" } }\n", nil, ""},
		"something made of it": {"[columns]\ndrop = [\"EAN\"]\n[[build]]\ninto = \"Label\"\nfrom = \"{barcode}\"\nover = true\n", nil, "A B C D"},
		"of what is made of it": {"[columns]\ndrop = [\"EAN\", \"Label\"]\n[[build]]\ninto = \"Label\"\nfrom = \"{barcode}\"\nover = true\n[[build]]\ninto = \"title\"\nfrom = \"{sku} {Label}\"\nover = true\n",
			nil, "A B C D"},
		"another code made of it":    {"[columns]\ndrop = [\"EAN\"]\nadd = { GTIN = \"\" }\n[barcode]\nfill = { GTIN = \"gtin-14\" }\n", nil, "A B C D"},
		"made, and left behind, too": {"[columns]\ndrop = [\"EAN\", \"Label\"]\n[[build]]\ninto = \"Label\"\nfrom = \"{barcode}\"\nover = true\n", nil, ""},
	} {
		dir := t.TempDir()
		path := write(t, dir, "list.csv", source)
		opt := fixed(path, Target(path))
		opt.Book, opt.Only = bookIn(t, dir, test.book, nil), test.only
		r := run(t, opt)
		var held []string
		for _, line := range strings.Split(contents(t, r.Folder)["held.csv"], "\n") {
			for _, sku := range []string{"A", "B", "C", "D"} {
				if strings.Contains(line, ","+sku+",9") {
					held = append(held, sku)
				}
			}
		}
		assert.Equal(t, test.held, strings.Join(held, " "), name)
		noticed := 0
		for _, f := range r.Report.Found {
			if f.Code.OfCell() {
				noticed += f.Cells
				assert.Equal(t, test.held != "", f.Severity == catalogue.Error, name)
			}
		}
		assert.Equal(t, 4, noticed, "%s: it is noticed all the same", name)
	}
}

// TestNoRuleMakesTwoOne: what rules write into SKUs, slugs and barcodes is held to the same as what the
// file has itself, and what was missing before they were carried out is not said to be.
func TestNoRuleMakesTwoOne(t *testing.T) {
	const list = "SKU,EAN,Title,Brand,Slug,Code\n,9521234000013,Bell,Ding,,\nB,9521234000020,Pump,Ding,,9521234000037\n,,Lamp,Glow,,9521234000013\nD,,Lock,Glow,,9521234000044\n"
	for rules, want := range map[string]struct{ held, found string }{
		"[[build]]\ninto = \"sku\"\nfrom = \"{brand}\"\n":                                                {"", "sku.same 0"},
		"[[build]]\ninto = \"sku\"\nfrom = \"{brand}\"\nover = true\n":                                   {"Bell Pump Lamp Lock", "sku.duplicate 4"},
		"[[build]]\ninto = \"slug\"\nfrom = \"{brand}\"\n":                                               {"Bell Pump Lamp Lock", "sku.same-slug 4"},
		"[[build]]\ninto = \"slug\"\nfrom = \"{title}\"\n":                                               {"", "sku.missing 2"},
		"[columns]\ncopy = { EAN = \"Code\" }\n":                                                         {"Bell Lamp", "barcode.duplicate 2"},
		"[columns]\ncopy = { EAN = \"Code\" }\n[[rows]]\nkeep = { sku = { one_of = [\"B\", \"D\"] } }\n": {"", "barcode.missing 0"},
		"[[columns.fill]]\ninto = \"Slug\"\nwith = \"one\"\n":                                            {"Bell Pump Lamp Lock", "sku.same-slug 4"},
	} {
		dir := t.TempDir()
		opt := fixed(write(t, dir, "list.csv", list), filepath.Join(dir, "out"))
		book, err := sections.Load(write(t, dir, rulebook.Name, rules))
		require.NoError(t, err, rules)
		opt.Book, opt.PartSize = *book, 30
		r, err := Run(t.Context(), opt)
		require.NoError(t, err, rules)
		var held []string
		for _, row := range rowsIn(t, filepath.Join(r.Folder, "held.csv"), r.Source.Form)[1:] {
			held = append(held, row[4])
		}
		assert.Equal(t, want.held, strings.Join(held, " "), rules)
		name, n, _ := strings.Cut(want.found, " ")
		found := 0
		for _, f := range r.Report.Found {
			if f.Code.String() == name {
				found = f.Cells
			}
		}
		assert.Equal(t, n, strconv.Itoa(found), "%s: %s", rules, name)
		if name == "barcode.missing" {
			assert.Zero(t, r.Listed(sections.MissingName), "and is not on the list to scan into")
		}
	}
}

// TestKeyStays: what the shop knows products by goes out, whatever it is; and a rule that reads a column which
// the rulebook drops goes on to do its work, says so where that is gone, and leaves its own result as it is.
func TestKeyStays(t *testing.T) {
	for name, test := range map[string]struct {
		list, rules string
		only        []string
		head, err   string
	}{
		"a slug for want of an SKU": {"Slug,Title,Price\nbell,Bell,1\npump,Pump,2\n", "", []string{"price"}, "Slug,Price", ""},
		"a slug of several rows":    {"SKU,Slug,Title,Price,Size\nA,bell,Bell,1,S\nB,bell,,2,M\n", "", []string{"price"}, "SKU,Slug,Price", ""},
		"a slug of one row each":    {"SKU,Slug,Title,Price\nA,bell,Bell,1\nB,pump,Pump,2\n", "", []string{"price"}, "SKU,Price", ""},
		"codes for want of any key": {"Ref,Title,Price\nX-101,Bell,1\nX-102,Pump,2\nX-103,Lamp,3\n", "", []string{"price"}, "Ref,Price", ""},
		"a slug is not dropped":     {"Slug,Title,Price\nbell,Bell,1\n", "[columns]\ndrop = [\"slug\"]\n", nil, "", `without the column "Slug"`},
		"a declared key is not":     {"Set,Title,Price\n1,Bell,1\n1,,2\n", "[columns]\nkeep = [\"price\"]\n[products]\ntogether_by = \"Set\"\n", nil, "", `without the column "Set"`},
		"dropped for all that":      {"Slug,Title\nbell,Bell\n", "[columns]\ndrop = [\"slug\"]\ndrop_key = true\n", nil, "Title", ""},
		"read, and dropped at the end": {"SKU,Title,Memo\nA,Bell,old\nB,Pump,new\n", "[columns]\ndrop = [\"Memo\"]\ncopy = { Note = \"Memo\" }\n" +
			"[[build]]\ninto = \"Label\"\nfrom = \"{title} {Memo}\"\n[[around]]\nin = [\"title\"]\nafter = \"2\"\nwhere = { Memo = \"new\" }\n" +
			"[[rows]]\nkeep = { Memo = { one_of = [\"old\", \"new\"] } }\n[field.Label]\ntype = \"text\"\nlongest = 50\nwhere = { Memo = \"x\" }\n", nil,
			"SKU,Title,Note,Label", ""},
	} {
		dir := t.TempDir()
		opt := fixed(write(t, dir, "list.csv", test.list), filepath.Join(dir, "out"))
		book, err := sections.Load(write(t, dir, rulebook.Name, test.rules))
		require.NoError(t, err, name)
		opt.Book, opt.Only = *book, test.only
		first, err := Run(t.Context(), opt)
		if test.err != "" {
			assert.ErrorContains(t, err, test.err, name)
			continue
		}
		require.NoError(t, err, name)
		head, _, _ := strings.Cut(ready(t, first), "\n")
		assert.Equal(t, test.head, head, name)
		if test.only != nil {
			continue
		}
		opt.Input, opt.Target = filepath.Join(first.Folder, "ready.csv"), filepath.Join(dir, "again")
		second, err := Run(t.Context(), opt)
		require.NoError(t, err, name)
		assert.Equal(t, ready(t, first), ready(t, second), name)
		if strings.Contains(test.rules, "Memo") {
			assert.Contains(t, ready(t, first), "B,Pump 2,new,Pump 2 new\n")
			assert.Contains(t, strings.Join(second.Notes, "\n"), `"Memo", which the rulebook leaves out and which is not there: the rule does nothing`)
		}
	}
}

// TestAddedBeside: every column that is added is announced, one beside which another looks like it with that;
// to write over what is in a column that is not there is an error that names the one which is meant.
func TestAddedBeside(t *testing.T) {
	const list = "SKU,Title,House lettering,Made in\nA,Bell,x,DE\nB,Pump,,\n"
	for rules, want := range map[string]struct{ head, note, err string }{
		"[columns]\nadd = { Lettering = \"y\" }\n": {"SKU,Title,House lettering,Made in,Lettering",
			`columns that are added: Lettering (beside "House lettering"; if that is meant, say so under [headings])`, ""},
		"[[columns.fill]]\ninto = \"Lettering\"\nwith = \"y\"\nover = true\n":                         {"", "", `if "House lettering" is meant, say so: under [headings], "House lettering" = "lettering"`},
		"[[build]]\ninto = \"Lettering\"\nfrom = \"{title}\"\nover = true\n":                          {"", "", `[[build]] into names "Lettering", which the file does not have`},
		"[[build]]\ninto = \"Label\"\nfrom = \"{title}\"\nover = true\n":                              {"SKU,Title,House lettering,Made in,Label", "columns that are added: Label", ""},
		"[[columns.fill]]\ninto = \"Made in\"\nwith = \"PL\"\nover = true\nwhere = { sku = \"A\" }\n": {"SKU,Title,House lettering,Made in\nA,Bell,x,PL\nB,Pump,,", "", ""},
		"[[columns.fill]]\ninto = \"Made in\"\nfrom = \"Title\"\nover = true\n":                       {"SKU,Title,House lettering,Made in\nA,Bell,x,Bell\nB,Pump,,Pump", "", ""},
	} {
		dir := t.TempDir()
		opt := fixed(write(t, dir, "list.csv", list), filepath.Join(dir, "out"))
		book, err := sections.Load(write(t, dir, rulebook.Name, rules))
		require.NoError(t, err, rules)
		opt.Book = *book
		r, err := Run(t.Context(), opt)
		if want.err != "" {
			assert.ErrorContains(t, err, want.err, rules)
			continue
		}
		require.NoError(t, err, rules)
		assert.True(t, strings.HasPrefix(ready(t, r), want.head+"\n"), "%s: %s", rules, ready(t, r))
		assert.Contains(t, strings.Join(r.Notes, "\n"), want.note, rules)
	}
}

// TestRetitled: where nothing but the title says which product of the shop a row is, it is said that it is another
// now: than in the shop, or than it was before the rules.
func TestRetitled(t *testing.T) {
	const rule, shop = "[[around]]\nin = [\"title\"]\nafter = \", new\"\n", "[shop]\nexport = \"export.csv\"\n"
	for name, test := range map[string]struct {
		list, rules string
		found       int
	}{
		"changed by a rule":                        {"Title,Price\nVeil,1\n\"Hat, new\",2\n", rule, 1},
		"only its case, and what stands around it": {"Title,Price\nVEIL ,1\n", "[[replace]]\nin = [\"title\"]\nfind = \"VEIL\"\nwith = \"Veil!\"\n", 0},
		"there is an SKU":                          {"SKU,Title\nA,Veil\n", rule, 0},
		"there is a slug":                          {"Slug,Title\na,Veil\n", rule, 0},
		"a slug that does not go out":              {"Slug,Title\na,Veil\n", rule + "[columns]\ndrop = [\"slug\"]\ndrop_key = true\n", 1},
		"another than in the shop":                 {"SKU,Title\nA,Hood\nB,bee  HAT\nC,Glove\nD,Smoker\n", shop, 1},
		"changed into another than in the shop":    {"SKU,Title\nB,Bee hat\n", rule + shop, 1},
		"as in the shop, with a slug":              {"Slug,SKU,Title\na,A,Hood\n", shop, 0},
	} {
		dir := t.TempDir()
		write(t, dir, "export.csv", "Slug,SKU,Title\nv,A,Bee veil\nbee-hat-2,B,Bee hat\ng,C,\n")
		book, err := sections.Load(write(t, dir, rulebook.Name, test.rules))
		require.NoError(t, err, name)
		r, err := Run(t.Context(), Options{Input: write(t, dir, "list.csv", test.list), Workers: 1, Temp: dir, Book: *book})
		require.NoError(t, err, name)
		found := 0
		for _, f := range r.Report.Found {
			if f.Code == catalogue.TitleOther {
				found = f.Cells
			}
		}
		assert.Equal(t, test.found, found, name)
		assert.Zero(t, r.Report.Held, name)
	}
}

// TestTitlesFit: titles are put in order and made to fit, as the target counts; what cannot fit is held as it is.
func TestTitlesFit(t *testing.T) {
	const list = "SKU,Title\nA,!!! SALE !!! Smoker of stainless steel with guard\nB,Küchenmesser für Gäste\nC,Smokers\nD,Antidisestablishmentarianism\n"
	for rules, want := range map[string]string{
		"longest = 30\nclean = true\nfit = true\nshorten = [[\"stainless steel\", \"st. steel\"]]\n":             "A,Smoker of st. steel with guard",
		"longest = 30\nclean = true\nfit = true\nshorten_from = \"short.csv\"\n":                                 "A,Smoker of st. steel with guard",
		"longest = 20\nclean = true\nfit = true\ncut = true\n":                                                   "A,Smoker of stainless\n",
		"longest = 24\ncount_in = \"bytes\"\nfit = true\nshorten = [[\"Gäste\", \"G.\"]]\n":                      "B,Küchenmesser für G.",
		"longest = 23\nfit = true\nshorten = [[\"Gäste\", \"G.\"]]\n":                                            "B,Küchenmesser für Gäste",
		"longest = 30\nclean = true\ncase = \"title\"\nfit = true\nshorten_from = \"short.csv\"\n":               "A,Smoker of St. Steel with Guard",
		"longest = 20\nfit = true\nshorten = [[\"Antidisestablishmentarianism\", \"Antidis., the long one\"]]\n": "C,Smokers\n",
	} {
		dir := t.TempDir()
		write(t, dir, "short.csv", "Long,Short\nstainless steel,st. steel\n")
		book, err := sections.Load(write(t, dir, rulebook.Name, "[title]\n"+rules))
		require.NoError(t, err, rules)
		opt := fixed(write(t, dir, "list.csv", list), filepath.Join(dir, "out"))
		opt.Book = *book
		r, err := Run(t.Context(), opt)
		require.NoError(t, err, rules)
		assert.Contains(t, ready(t, r), want, rules)
		for _, line := range strings.Split(read(t, filepath.Join(r.Folder, "held.csv")), "\n")[1:] {
			if line != "" {
				assert.Contains(t, line, "characters", rules)
			}
		}
		again := opt
		again.Input, again.Target = filepath.Join(r.Folder, "ready.csv"), filepath.Join(dir, "again")
		second, err := Run(t.Context(), again)
		require.NoError(t, err, rules)
		assert.Equal(t, ready(t, r), ready(t, second), rules)
	}
}
