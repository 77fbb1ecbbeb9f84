package cli

import (
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"zetanum/demo"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestRulebook: a rulebook beside the file is followed and named, and one that
// is wrong is refused with the place.
func TestRulebook(t *testing.T) {
	for _, test := range []struct {
		book   string
		status int
		stdout string
		stderr string
	}{
		{"[barcode]\nwrite_as = \"gtin-14\"\n", 1, "rulebook: zetanum.toml|barcode written in the form that was ordered", ""},
		{"[barcode]\ntrusted = [\"counted.csv\"]\n", 0, "taken from a trusted sheet by SKU", ""},
		{"[barcode]\nwriteas = \"gtin-14\"\n", 2, "", `zetanum.toml, line 2, column 1: the rulebook is wrong: there is no key "barcode.writeas"`},
		{"[barcode]\nwrite_as = 14\n", 2, "", "zetanum.toml, line 2"},
		{"[barcode]\nwrite_as = \"ean\"\naccept = [\"ean-13\", \"pzn\"]\n", 2, "",
			`[barcode] write_as: there is no form "ean"; the forms are: as-is ean-13 gtin-14 shortest`},
		{"[barcode\n", 2, "", "zetanum.toml, line 1"},
		{"[columns]\ncopy = { X = \"Other\" }\n", 2, "", "the headings are: SKU, EAN, Title"},
		{"[barcode]\ntrusted = [\"gone.csv\"]\n", 3, "", "gone.csv"},
		{"[[targets]]\nname = \"m\"\nlike = [\"list.csv\"]\njob = \"new\"\nby = \"title\"\nblank = \"keeps\"\nempty = \"-\"\n", 2, "", "zetanum.toml, line 4: the rulebook is wrong: " +
			"[[targets]] job: can be said in [target] only\nzetanum.toml, line 5: the rulebook is wrong: [[targets]] by: can be said in [target] only\n" +
			"zetanum.toml, line 6: the rulebook is wrong: [[targets]] blank: can be said in [target] only\nzetanum.toml, line 7"},
		{"[target]\nlike = [\"gone.csv\"]\n", 3, "", "gone.csv: file does not exist. Check the spelling"},
		{"[target]\nlike = [\"list.csv\", \".\"]\n", 3, "", "it is a folder; name the form that lies in it"},
	} {
		dir := t.TempDir()
		writeFile(t, filepath.Join(dir, "list.csv"), small)
		writeFile(t, filepath.Join(dir, "counted.csv"), "SKU,EAN\nA2,9521240000007\n")
		writeFile(t, filepath.Join(dir, "zetanum.toml"), test.book)
		c := zetanum(t, dir, "check", "list.csv", "-rules", "zetanum.toml")
		assert.Equal(t, test.status, c.status, "%s\n%s%s", test.book, c.stdout, c.stderr)
		for _, part := range strings.Split(test.stdout, "|") {
			assert.Contains(t, c.stdout, part, test.book)
		}
		assert.Contains(t, c.stderr, test.stderr, test.book)
	}
	dir := t.TempDir()
	writeFile(t, filepath.Join(dir, "list.csv"), small)
	writeFile(t, filepath.Join(dir, "other.toml"), "[barcode]\nwrite_as = \"gtin-14\"\n")
	// One that is only found there does not close the folder to files of other columns; where it is named, it does.
	writeFile(t, filepath.Join(dir, "zetanum.toml"), "[[build]]\ninto = \"Label\"\nfrom = \"{Maker} {title}\"\n")
	for _, args := range [][]string{{"check", "list.csv"}, {"list.csv"}} {
		c := zetanum(t, dir, args...)
		assert.Less(t, c.status, exitUsage, c.stderr)
		assert.Contains(t, strings.Join(strings.Fields(c.stdout), " "), `zetanum.toml, which was found for this file, does not fit it and was not followed: `+
			`line 1: the columns of this file are not those of the rulebook: [[build]] from names {Maker}, which is not there`)
	}
	assert.Contains(t, zetanum(t, dir, "check", "list.csv", "-json").stdout, `"rulebook_not_followed": "zetanum.toml, which was found`)
	assert.Equal(t, exitUsage, zetanum(t, dir, "check", "list.csv", "-rules", "zetanum.toml").status)
	writeFile(t, filepath.Join(dir, "zetanum.toml"), "[[build]]\n")
	assert.Equal(t, exitUsage, zetanum(t, dir, "check", "list.csv").status, "a rulebook that is wrong in itself is to be mended")
	require.NoError(t, os.Remove(filepath.Join(dir, "zetanum.toml")))
	c := zetanum(t, dir, "check", "list.csv", "-rules", "other.toml", "-json")
	assert.Contains(t, c.stdout, `"rulebook": "other.toml"`)
	assert.Equal(t, 3, zetanum(t, dir, "check", "list.csv", "-rules", "gone.toml").status)
}

// TestSet: orders in one line are followed, printed as a rulebook has them, and kept if that is wanted; kept ones do the same.
func TestSet(t *testing.T) {
	dir := t.TempDir()
	writeFile(t, filepath.Join(dir, "list.csv"), "SKU,Title,Cost,Note\nA1,Smoker,4.00,old\nA2,Hive,10.00,\n")
	set := []string{"repair", "list.csv", "-set", "Min price = cost + 15%", "-set", "Note = new", "-set", "Label = {sku} {title upper}", "-set", "MPN = sku"}
	const ready = "SKU,Title,Cost,Note,MPN,Label,Min price\nA1,Smoker,4.00,new,A1,A1 SMOKER,4.60\nA2,Hive,10.00,new,A2,A2 HIVE,11.50\n"
	c := zetanum(t, dir, set...)
	assert.Equal(t, exitOK, c.status, c.stderr)
	assert.Contains(t, c.stdout, "These lines in a rulebook keep what was set (-remember writes them there):\n  [[columns.fill]]\n  into = \"Note\"\n  with = \"new\"\n")
	assert.Equal(t, ready, readFile(t, filepath.Join(dir, "list.repaired", "ready.csv")))
	assert.NoFileExists(t, filepath.Join(dir, "zetanum.toml"))
	c = zetanum(t, dir, append(set, "-remember")...)
	assert.Contains(t, c.stdout, "what was set is kept in zetanum.toml")
	assert.Equal(t, ready, readFile(t, filepath.Join(dir, "list.repaired", "ready.csv")))
	book := readFile(t, filepath.Join(dir, "zetanum.toml"))
	zetanum(t, dir, append(set, "-remember")...)
	assert.Equal(t, book, readFile(t, filepath.Join(dir, "zetanum.toml")), "once is enough")
	c = zetanum(t, dir, "repair", "list.csv", "-out", "kept")
	assert.Equal(t, exitOK, c.status, c.stderr)
	assert.Equal(t, ready, readFile(t, filepath.Join(dir, "kept", "ready.csv")))
	c = zetanum(t, dir, "check", "list.csv", "-set", "X = kost + 1")
	assert.Equal(t, exitUsage, c.status)
	assert.Contains(t, c.stderr, `list.csv: what is to be set does not go with it: there is no column "kost"`)
}

// TestManyRules: a summary of many rules names those that have done something, and all of them with -all.
func TestManyRules(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	var rules strings.Builder
	for i := range 70 {
		fmt.Fprintf(&rules, "[[replace]]\nin = [\"title\"]\nfind = \"word %02d\"\nwith = \"other %02d\"\n", i, i)
	}
	list := "SKU,Title,Price\n"
	for i := 10; i < 45; i++ {
		list += fmt.Sprintf("A%d,Word %d,1\n", i, i)
	}
	require.NoError(t, os.WriteFile(filepath.Join(dir, "list.csv"), []byte(list), 0o666))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "rules.toml"), []byte(rules.String()), 0o666))
	c := zetanum(t, dir, "repair", "list.csv", "-rules", "rules.toml")
	assert.Contains(t, c.stdout, "    1  replace \"word 39\" with \"other 39\"\n    0  35 rules that touched no row\n       -all shows 40 more rules\n")
	assert.NotContains(t, c.stdout, "word 40\"")
	assert.NotContains(t, c.stdout, "word 09\"")
	c = zetanum(t, dir, "repair", "list.csv", "-rules", "rules.toml", "-all", "-out", "other")
	assert.Contains(t, c.stdout, "    0  replace \"word 09\" with \"other 09\"\n    1  replace \"word 10\"")
	assert.Contains(t, c.stdout, "    0  replace \"word 69\"")
	assert.Equal(t, strings.ReplaceAll(list, "Word", "other"), readFile(t, filepath.Join(dir, "list.repaired", "ready.csv")))
}

// TestRulebookOfTheGuide: the rulebook that the guide shows does what it says to
// the demo's price list.
func TestRulebookOfTheGuide(t *testing.T) {
	t.Parallel()
	guide, err := os.ReadFile(filepath.Join("..", "..", "docs", "guide.md"))
	require.NoError(t, err)
	_, rest, _ := strings.Cut(string(guide), "### The rulebook")
	_, rest, _ = strings.Cut(rest, "```toml\n")
	book, _, found := strings.Cut(rest, "```")
	require.True(t, found)
	dir := t.TempDir()
	layDemo(t, dir)
	writeFile(t, filepath.Join(dir, "frames.toml"), book)
	list := filepath.Join("zetanum-demo", "hollowbrook-prices.csv")
	c := zetanum(t, dir, "repair", list, "-rules", "frames.toml", "-out", "frames")
	assert.Contains(t, c.stdout, "40  keep = Product group is Frames", c.stderr)
	ready, err := os.ReadFile(filepath.Join(dir, "frames", "ready.csv"))
	require.NoError(t, err)
	rows := strings.Split(strings.TrimSpace(string(ready)), "\r\n")
	assert.Equal(t, "SKU;Designation;EAN;Brand;Product group;Price EUR;Int. memo;MPN;Language", strings.TrimPrefix(rows[0], "\ufeff"))
	for _, row := range rows[1:] {
		assert.Contains(t, row, ";Frames;")
		assert.Regexp(t, `;HB\d+;en$`, row)
	}
	writeFile(t, filepath.Join(dir, "frames.toml"), strings.Replace(book, "count = 40", "count = 41", 1))
	c = zetanum(t, dir, "repair", list, "-rules", "frames.toml", "-out", "again")
	assert.Equal(t, exitHeld, c.status)
	assert.Contains(t, c.stderr, "has kept 40 rows, and the rulebook says count = 41")
	assert.NoDirExists(t, filepath.Join(dir, "again"))
	writeFile(t, filepath.Join(dir, "frames.toml"), "[columns]\ndrop = [\"Stocks\"]\n")
	c = zetanum(t, dir, "check", list, "-rules", "frames.toml")
	assert.Equal(t, exitUsage, c.status)
	assert.Contains(t, c.stderr, `did you mean "Stock"?`)
	assert.Equal(t, exitUsage, zetanum(t, dir, "check", list, "-plain").status)
}

// TestBegin: a fresh rulebook loads and changes nothing; its orders, once the
// signs before them are gone, load, too; and it overwrites nothing.
func TestBegin(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	require.NoError(t, os.Mkdir(filepath.Join(dir, "d"), 0o777))
	for _, name := range []string{"saltmarsh-export.csv", "hollowbrook-prices.csv", "wick-and-wax.xlsx", "stock-take.xlsx"} {
		content, err := demo.Read(name)
		require.NoError(t, err)
		writeFile(t, filepath.Join(dir, "d", name), string(content))
	}
	writeFile(t, filepath.Join(dir, "d", "odd.csv"), "SKU,EAN,\"He said \"\"x\\\"\"\",Title,Line\nA,9521234000013 / 9521234000020,1,x,\nB,0306406152,2,\"two\nlines\",\nC,9.52E+12,\x01,y,\n")
	writeFile(t, filepath.Join(dir, "d", "several.csv"), "Slug,SKU,Title,Brand,Tags,Origin\ns,A,x,b,,Brazil\ns,B,,c,t,Brazil\nt,C,y,,,\ns,D,,,,\nu,E,u,,,Brazil\nv,F,v,,,Brazil\nw,G,w,,,Brazil\n")
	// Headings may read like what messages say of settings and commands.
	writeFile(t, filepath.Join(dir, "d", "rings.csv"), "SKU,EAN,Title,The setting stone,the setting trust,The command begin\nA,9521234000013,x,opal,y,z\n")
	for _, name := range []string{"saltmarsh-export.csv", "hollowbrook-prices.csv", "wick-and-wax.xlsx", "odd.csv", "several.csv",
		"rings.csv"} {
		list := filepath.Join("d", name)
		zetanum(t, dir, "repair", list, "-out", "without")
		want, err := os.ReadFile(filepath.Join(dir, "without", "ready.csv"))
		require.NoError(t, err)
		c := zetanum(t, dir, "begin", list)
		require.Equal(t, exitOK, c.status, c.stderr)
		require.Contains(t, c.stdout, "zetanum repair "+list)
		c = zetanum(t, dir, "repair", list, "-out", "with")
		require.Contains(t, c.stdout, "rulebook: "+filepath.Join("d", "zetanum.toml"))
		got, err := os.ReadFile(filepath.Join(dir, "with", "ready.csv"))
		require.NoError(t, err)
		assert.True(t, string(want) == string(got), name)
		assert.Equal(t, exitUsage, zetanum(t, dir, "begin", list).status, "it is there already")

		path := filepath.Join(dir, "d", "zetanum.toml")
		text, err := os.ReadFile(path)
		require.NoError(t, err)
		_, orders, _ := strings.Cut(string(text), "[columns]")
		orders = regexp.MustCompile(`(?m)^# (\[|[a-z_]+ +=)`).ReplaceAllString(orders, "$1")
		writeFile(t, filepath.Join(dir, "orders.toml"), "[columns]"+orders)
		if name == "several.csv" {
			for _, line := range []string{"[products]\n", "\nregroup = true", "\ndiffer = \"lead\"", "\nmisplaced = \"move\"",
				"5 rows of Origin say the same", "\n[[columns.fill]]\ninto = \"Origin\"\nwith = \"Brazil\"\n"} {
				assert.Contains(t, orders, line)
			}
		}
		c = zetanum(t, dir, "check", list, "-rules", "orders.toml")
		assert.NotContains(t, c.stderr, "the rulebook is wrong", orders)
		require.NoError(t, os.Remove(path))
		require.NoError(t, os.RemoveAll(filepath.Join(dir, "without")))
		require.NoError(t, os.RemoveAll(filepath.Join(dir, "with")))
	}
	c := zetanum(t, dir, "begin", filepath.Join("d", "saltmarsh-export.csv"), "-out", "-")
	assert.Contains(t, c.stdout, "stock-take.xlsx")
	assert.Contains(t, c.stdout, "codes lost digits")
	assert.NoFileExists(t, filepath.Join(dir, "d", "zetanum.toml"))
}

// TestBeginFrom: what a good export shows is put down as orders to take, with names
// that hold from where the rulebook lies; taken, they do what they say.
func TestBeginFrom(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "shop"), 0o777))
	writeFile(t, filepath.Join(dir, "shop", "export.csv"), "SKU,Brand,Price,Tags,Published,Sale from,Title\n"+
		strings.Repeat("A,Nørrebi,9.50,\"wax, gold\",TRUE,2026-03-01,one\nB,Hollowbrook Joinery,12.00,honey,FALSE,2026-04-01,two\n", 5))
	writeFile(t, filepath.Join(dir, "list.csv"), "SKU,Brand,Title\nX,NØRREBI,a\nY,Hollowbrok Joinery,b\nZ,norrebi,c\n")
	c := zetanum(t, dir, "begin", "list.csv", "-from", filepath.Join("shop", "export.csv"))
	require.Equal(t, exitOK, c.status, c.stderr)
	path := filepath.Join(dir, "zetanum.toml")
	text, err := os.ReadFile(path)
	require.NoError(t, err)
	for _, line := range []string{
		"#   Price: with a decimal point, as in 12.00\n", "#   Tags: separated by “, ”, as in wax, gold\n",
		"#   Published: yes and no are written FALSE and TRUE\n",
		"#   Sale from: dates are written YYYY-MM-DD, as in 2026-03-01\n",
		"# 2 values: Hollowbrook Joinery, Nørrebi\n# [field.brand]\n# one_of_from   = \"shop/export.csv\"\n",
	} {
		assert.Contains(t, string(text), line)
	}
	require.Equal(t, exitOK, zetanum(t, dir, "check", "list.csv").status)
	_, brand, _ := strings.Cut(string(text), "# [field.brand]\n")
	brand, _, _ = strings.Cut(brand, "\n\n")
	writeFile(t, path, string(text)+"\n[field.brand]\n"+strings.ReplaceAll(brand, "# ", "")+"\n")
	c = zetanum(t, dir, "repair", "list.csv")
	assert.Equal(t, exitHeld, c.status, c.stderr)
	assert.Contains(t, c.stdout, "If yes: add -yes value.unlisted")
	c = zetanum(t, dir, "repair", "list.csv", "-yes", "value.unlisted=Brand")
	assert.Equal(t, exitOK, c.status, c.stderr)
	ready, err := os.ReadFile(filepath.Join(dir, "list.repaired", "ready.csv"))
	require.NoError(t, err)
	assert.Equal(t, "SKU,Brand,Title\nX,Nørrebi,a\nY,Hollowbrook Joinery,b\nZ,Nørrebi,c\n", string(ready))
	assert.Equal(t, exitOK, zetanum(t, dir, "begin", "-from", filepath.Join("shop", "export.csv"), "-out", "-").status)
	assert.Equal(t, exitUsage, zetanum(t, dir, "begin").status)
}

// TestBorrow: the flags do what [[borrow]] does, and what came of it is told, with
// the columns that look like the one that was taken, and both lists.
func TestBorrow(t *testing.T) {
	dir := t.TempDir()
	writeFile(t, filepath.Join(dir, "list.csv"), "SKU,Title,Weight\nA,x,\nB,y,2\nC,z,9\nD,w,\n")
	writeFile(t, filepath.Join(dir, "store.csv"), "SKU;Weight;Weight (old)\nA;1;7\nB;2;8\nC;3;9\nE;5;5\n")
	c := zetanum(t, dir, "repair", "list.csv", "-borrow", "store.csv", "-by", "sku", "-take", "weight")
	require.Equal(t, exitOK, c.status, c.stderr)
	for _, line := range []string{
		"store.csv: 3 rows matched; 1 row is not in it, 1 of its rows is not here, 1 cell filled, 1 was the same, 1 differs and stays",
		`weight from its column "Weight", for example 1 (not from Weight (old))`,
		"not-in-store.csv", "1 row of this file that store.csv does not have", "only-in-store.csv",
	} {
		assert.Contains(t, strings.Join(strings.Fields(c.stdout), " "), line)
	}
	for name, want := range map[string]string{
		"ready.csv": "SKU,Title,Weight\nA,x,1\nB,y,2\nC,z,9\nD,w,\n", "not-in-store.csv": "SKU,Title\nD,w\n",
		"only-in-store.csv": "Row,sku,Weight\n5,E,5\n",
	} {
		got, err := os.ReadFile(filepath.Join(dir, "list.repaired", name))
		require.NoError(t, err)
		assert.Equal(t, want, string(got), name)
	}
	for _, args := range [][]string{{"-by", "sku"}, {"-borrow", "store.csv"}, {"-borrow", "store.csv", "-by", "sku", "-take", "x"},
		{"-borrow", "store.csv", "-by", "sku", "-take", "weight", "-alike", "all"}} {
		assert.Equal(t, exitUsage, zetanum(t, dir, append([]string{"check", "list.csv"}, args...)...).status, args)
	}
	assert.Equal(t, exitFailed, zetanum(t, dir, "check", "list.csv", "-borrow", "gone.csv", "-by", "sku", "-take", "weight").status)
	c = zetanum(t, dir, "check", "list.csv", "-borrow", "store.csv", "-by", "sku", "-take", "weight", "-json")
	assert.Contains(t, c.stdout, `"unasked": 1`)
}

// TestJobs: the lines that the page of jobs gives for each job do it, on the files of the demo, and leave their
// own result as it is.
func TestJobs(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("does all jobs twice")
	}
	page, err := os.ReadFile("jobs.md")
	require.NoError(t, err)
	dir := t.TempDir()
	layDemo(t, dir)
	job := regexp.MustCompile("(?s)### ([^\n]*)\n[^#]*?<!-- ([^|]*) \\| (.*?) -->\n\n```toml\n(.*?)```")
	jobs := job.FindAllStringSubmatch(string(page), -1)
	assert.GreaterOrEqual(t, len(jobs)+strings.Count(string(page), "```sh"), 36)
	assert.Equal(t, strings.Count(string(page), "```toml"), len(jobs)+1, "a job that is not tried; the whole example is")
	for n, m := range jobs {
		name, file, want := m[1], m[2], m[3]
		writeFile(t, filepath.Join(dir, "zetanum-demo", "job.toml"), m[4])
		out := fmt.Sprint("job", n)
		c := zetanum(t, dir, "repair", filepath.Join("zetanum-demo", file), "-rules", filepath.Join("zetanum-demo", "job.toml"), "-out", out)
		if !assert.LessOrEqual(t, c.status, exitHeld, "%s: %s", name, c.stderr) {
			continue
		}
		ready := read(t, dir, out, "ready.csv")
		switch rest := want[1:]; want[0] {
		case '!':
			assert.NotContains(t, ready, rest, name)
		case '^':
			assert.True(t, strings.HasPrefix(strings.TrimPrefix(ready, "\ufeff"), rest), "%s: %s", name, ready[:min(len(ready), 200)])
		default:
			assert.Contains(t, ready, want, name)
		}
		c = zetanum(t, dir, "repair", filepath.Join(out, "ready.csv"), "-rules", filepath.Join("zetanum-demo", "job.toml"), "-out", out+"again")
		if assert.LessOrEqual(t, c.status, exitHeld, "%s: %s", name, c.stderr) {
			assert.Equal(t, ready, read(t, dir, out+"again", "ready.csv"), name)
		}
	}
}

// TestBeginDone: what somebody has made of a list by hand is learnt from the two files, and a repair makes it again.
func TestBeginDone(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	var raw, made strings.Builder
	raw.WriteString("Part;Item;Make;Kind;Cost;Photos\n")
	made.WriteString("Code,Title,Department,Price,Picture,Currency\n")
	shelves := [...]string{"Brakes", "Chains", "Tyres & tubes"}
	for i := range 30 {
		fmt.Fprintf(&raw, "%05d;Disc %d;Oakvane;%s;%d,40;%05d-1.jpg|%05d-2.jpg\n", 700+i, i, []string{"BRK", "CHN", "TYR"}[i%3], 10+i, 700+i, 700+i)
		fmt.Fprintf(&made, "%05d,Oakvane Disc %d,%s,%d.90,%05d-1.jpg,EUR\n", 700+i, i, shelves[i%3], 2*(10+i), 700+i)
	}
	writeFile(t, filepath.Join(dir, "parts.csv"), raw.String())
	writeFile(t, filepath.Join(dir, "upload.csv"), strings.Replace(made.String(), "Oakvane Disc 7,", "Disc seven,", 1))
	c := zetanum(t, dir, "begin", "parts.csv", "-done", "upload.csv", "-out", "again.toml")
	require.Equal(t, exitOK, c.status, c.stderr)
	assert.Contains(t, c.stdout, "6 columns are explained, 0 not")
	assert.Contains(t, c.stdout, "repaired by it, 179 of 180 cells of upload.csv come out as they are there")
	book := readFile(t, filepath.Join(dir, "again.toml"))
	for _, line := range []string{`"Title" = "{\"Make\"} {\"Item\"}"  # true in 29 of 30 rows`, `#   not in row 9: "Disc seven" stands there, and it would be "Oakvane Disc 7"`,
		`words = { "BRK" = "Brakes", "CHN" = "Chains", "TYR" = "Tyres & tubes" }`, `"Currency" = { always = "EUR" }`, `"Picture" = { from = "Photos", part = 1 }`, "times = 2\nend_in = 0.90"} {
		assert.Contains(t, book, line)
	}
	c = zetanum(t, dir, "repair", "parts.csv", "-rules", "again.toml", "-out", "out")
	require.Equal(t, exitOK, c.status, c.stderr)
	assert.Contains(t, readFile(t, filepath.Join(dir, "out", "ready.csv")), "00707,Oakvane Disc 7,Chains,34.90,00707-1.jpg,EUR\n")
	assert.Equal(t, exitUsage, zetanum(t, dir, "begin", "-done", "upload.csv").status)
	// Many words are a list of their own, which is not overwritten: then nothing is written.
	kinds, theirs := "SKU,Kind\n", "Code,Department\n"
	for i := range 80 {
		kinds, theirs = kinds+fmt.Sprintf("P%03d,K%02d\n", i, i/4), theirs+fmt.Sprintf("P%03d,Shelf %c\n", i, 'A'+i/4)
	}
	writeFile(t, filepath.Join(dir, "kinds.csv"), kinds)
	writeFile(t, filepath.Join(dir, "shelves.csv"), theirs)
	writeFile(t, filepath.Join(dir, "more-words-1.csv"), "mine")
	c = zetanum(t, dir, "begin", "kinds.csv", "-done", "shelves.csv", "-out", "more.toml")
	assert.Equal(t, exitUsage, c.status)
	assert.Contains(t, c.stderr, "more-words-1.csv is there already and is not overwritten")
	assert.NoFileExists(t, filepath.Join(dir, "more.toml"))
	require.NoError(t, os.Remove(filepath.Join(dir, "more-words-1.csv")))
	c = zetanum(t, dir, "begin", "kinds.csv", "-done", "shelves.csv", "-out", "more.toml")
	assert.Contains(t, c.stdout, "repaired by it, 160 of 160 cells of shelves.csv", c.stderr)
	assert.Contains(t, readFile(t, filepath.Join(dir, "more-words-1.csv")), "K19,Shelf T\n")
	writeFile(t, filepath.Join(dir, "other.csv"), "Code,Name\nX1,a\nX2,b\nX3,c\n")
	assert.Contains(t, zetanum(t, dir, "begin", "parts.csv", "-done", "other.csv", "-out", "x.toml").stderr, "nothing in the two files tells which rows are the same product")
}
