package rehearse_test

import (
	"encoding/csv"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/rehearse"
	"zetanum/core/sheet"
	"zetanum/core/template"
)

func write(t *testing.T, dir, name, content string) string {
	t.Helper()
	path := filepath.Join(dir, name)
	require.NoError(t, os.WriteFile(path, []byte(content), 0o666))
	return path
}

func read(t *testing.T, dir, name string) string {
	t.Helper()
	content, err := os.ReadFile(filepath.Join(dir, name))
	require.NoError(t, err)
	return string(content)
}

// TestRehearsal: what an import would do, row by row, between two small files that write things in different ways.
func TestRehearsal(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	ready := write(t, dir, "ready.csv", "SKU,EAN,Title,Price,Category,Sold from,Tags,Note\n"+
		"A,9521234000013,Smoker,12.50,Tools,2026-03-01,\"bees, smoke\",\n"+ // as it is
		"B,9521234000020,Veil,9.90,Tools,2026-03-01,bees,x\n"+ // another price
		"C,9521234000037,Glove,4,Gloves,,bees,\n"+ // another title, a new category, less than half of its price, and empty where the shop is not
		"D,9521234000044,Hive,99.00,Hives,,,\n"+ // new
		"E,9521234000051,Wax,3.00,Wax,,,\n"+ // new, and the shop has its barcode at X
		"F,9521234000068,Pot,2.00,Tools,,,\n"+ // has the barcode of G
		"G,9521234000075,Jar,2.00,Tools,,,\n"+
		"A,9521234000013,Smoker,12.50,Tools,,,\n"+ // a second time
		"T,,Twin,1.00,Tools,,,\n") // the shop has it twice
	shop := write(t, dir, "export.csv", "Titel;Art. no.;EAN;Preis;Kategorie;Sold from;Tags\n"+
		"Smoker;A;9521234000013;12,5;Tools;01.03.2026;smoke|bees\n"+
		"Veil;B;9521234000020;8,90;Tools;31.03.2026;bees\n"+
		"Gloves;C;9521234000037;12,00;Tools;01.03.2026;bees\n"+
		"Wax;X;9521234000051;3,00;Hives;;\n"+
		"Pot;F;9521234000082;2,00;Tools;;\n"+
		"Jar;G;9521234000068;2,00;Tools;;\n"+
		"Old;Y;;1,00;Tools;;\n"+
		"Twin;T;;1,00;Tools;;\nTwin;T;;1,00;Tools;;\n")
	lists := t.TempDir()
	r, err := rehearse.Run(rehearse.Options{Ready: ready, Present: shop, Blank: rehearse.BlankUnknown, Temp: t.TempDir(), Dir: lists, Year: 2026})
	require.NoError(t, err)
	assert.Equal(t, []int{9, 9, 2, 4, 1, 2, 2}, []int{r.Rows, r.Shop, r.Created, r.Updated, r.Unchanged, r.Refused, r.Left})
	of := func(list []rehearse.Count) (says []string) {
		for _, c := range list {
			says = append(says, strings.TrimSpace(fmt.Sprint(c.Column, " ", c.What, " ", c.Cells)))
		}
		slices.Sort(says)
		return says
	}
	assert.Equal(t, []string{"SKU twice 1", "SKU twice in the shop 1"}, of(r.Refusals))
	assert.Equal(t, []string{"Category  1", "EAN  2", "Price  2", "Sold from  1", "Title  1"}, of(r.Changes))
	assert.Equal(t, []string{"Sold from  1"}, of(r.Blanks))
	assert.Equal(t, []string{"Category Gloves 1", "Category Wax 1"}, of(r.Unseen))
	assert.Equal(t, []rehearse.Example{{Row: 7, Key: "9521234000068", Before: "G", After: "F"}}, r.Moved.Examples)
	assert.Equal(t, []rehearse.Example{{Row: 6, Key: "9521234000051", Before: "X", After: "E"}}, r.Twins.Examples)
	assert.Equal(t, []rehearse.Example{{Row: 4, Key: "C", Before: "12,00", After: "4"}}, r.Prices.Examples)
	assert.Equal(t, []string{"Note"}, r.Unpaired)
	for _, c := range r.Changes {
		if c.Column == "Price" {
			assert.Equal(t, []rehearse.Example{{Row: 3, Key: "B", Before: "8,90", After: "9.90"}, {Row: 4, Key: "C", Before: "12,00", After: "4"}}, c.Examples)
		}
	}
	assert.Equal(t, "Art. no.,EAN,Titel,Preis,Kategorie,Sold from\nB,9521234000020,Veil,\"8,90\",Tools,31.03.2026\nC,9521234000037,Gloves,\"12,00\",Tools,01.03.2026\n"+
		"F,9521234000082,Pot,\"2,00\",Tools,\nG,9521234000068,Jar,\"2,00\",Tools,\n", read(t, lists, rehearse.WayBackName))
	assert.Equal(t, "Art. no.,Title\nX,Wax\nY,Old\n", read(t, lists, rehearse.LeftName))
	assert.Equal(t, "Row,SKU,Title\n5,D,Hive\n6,E,Wax\n", read(t, lists, rehearse.NewName))
	assert.Equal(t, 3, strings.Count(read(t, lists, rehearse.RefusedName), "\n"))

	r, err = rehearse.Run(rehearse.Options{Ready: ready, Present: shop, Blank: rehearse.BlankClears, Temp: t.TempDir(), Year: 2026})
	require.NoError(t, err)
	assert.Equal(t, []string{"Category  1", "EAN  2", "Price  2", "Sold from  2", "Title  1"}, of(r.Changes))

	_, err = rehearse.Run(rehearse.Options{Ready: ready, Present: write(t, dir, "other.csv", "Colour,Finish\nred,matt\n"), Temp: t.TempDir()})
	assert.ErrorIs(t, err, rehearse.ErrNoKey)
	r, err = rehearse.Run(rehearse.Options{Ready: ready, Present: shop, Key: "Title", Temp: t.TempDir(), Year: 2026})
	require.NoError(t, err)
	assert.Equal(t, 2, r.Created, "by titles, the glove is another, too")
	_, err = rehearse.Run(rehearse.Options{Ready: ready, Present: shop, Key: "Colour", Temp: t.TempDir()})
	assert.ErrorContains(t, err, "Colour")
}

// TestByForm: a file that is in a form is judged by it, and compared with an export whose headings are others.
func TestByForm(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	const head = "Our market\nCode *,Barcode,Name *,Kind *,Price *\nAt most 9 characters; each once,13 digits or blank,At most 20 characters,\"One of: Plates, Bowls\",Number with decimal point\n"
	form, err := template.Learn(write(t, dir, "form.csv", head))
	require.NoError(t, err)
	ready := write(t, dir, "ready.csv", head+"A,,Plate,Plates,12.50\nB,9521234000013,Bowl,Bwols,3\nC,123,Cup,Bowls,\"1,5\"\nA,,Plate,Plates,2\nD,,Jug,Bowls,7.00\n")
	shop := write(t, dir, "shop.csv", "Art. no.,Title,Group,Price\nA,Plate,Plates,12.5\nD,Jug,Bowls,8\n")
	r, err := rehearse.Run(rehearse.Options{Ready: ready, Present: shop, Form: form, Temp: t.TempDir(), Year: 2026})
	require.NoError(t, err)
	assert.Equal(t, []int{5, 0, 1, 1, 3}, []int{r.Rows, r.Created, r.Updated, r.Unchanged, r.Refused})
	reasons := make(map[string]string)
	for _, c := range r.Refusals {
		reasons[c.Column] = c.What
	}
	assert.Equal(t, map[string]string{"Kind *": "list", "Barcode": "code", "Price *": "number", "Code *": "twice"}, reasons)

	other := write(t, dir, "other.csv", "Code,Name\nA,Plate\n")
	r, err = rehearse.Run(rehearse.Options{Ready: other, Form: form, Temp: t.TempDir()})
	require.NoError(t, err)
	assert.NotEmpty(t, r.Form)
	assert.Equal(t, 1, r.Refused)
}

// TestAnyRehearsal: between any two files the numbers add up, and the way back, taken as the next import, finds as many rows to change.
func TestAnyRehearsal(t *testing.T) {
	t.Parallel()
	for seed := range uint64(40) {
		r := rand.New(rand.NewPCG(seed, 23))
		dir := t.TempDir()
		side := func(name string, change bool) (string, map[string][3]string) {
			rows := make(map[string][3]string)
			var b strings.Builder
			w := csv.NewWriter(&b)
			require.NoError(t, w.Write([]string{"SKU", "Title", "Price", "Stock"}))
			for _, i := range r.Perm(80) {
				if r.IntN(4) == 0 {
					continue
				}
				cells := [3]string{fmt.Sprint("Thing ", i), fmt.Sprintf("%d.%d0", i+1, i%9+1), fmt.Sprint(i % 7)}
				if change && r.IntN(3) == 0 {
					cells[r.IntN(3)] = fmt.Sprint(1000 + i)
				}
				key := fmt.Sprint("K", i)
				rows[key] = cells
				require.NoError(t, w.Write(append([]string{key}, cells[:]...)))
			}
			w.Flush()
			return write(t, dir, name, b.String()), rows
		}
		ready, mine := side("ready.csv", true)
		shop, theirs := side("shop.csv", false)
		lists := t.TempDir()
		got, err := rehearse.Run(rehearse.Options{Ready: ready, Present: shop, Temp: t.TempDir(), Dir: lists, Year: 2026})
		require.NoError(t, err)
		created, updated, same := 0, 0, 0
		for key, cells := range mine {
			switch other, there := theirs[key]; {
			case !there:
				created++
			case other != cells:
				updated++
			default:
				same++
			}
		}
		assert.Equal(t, []int{created, updated, same, 0}, []int{got.Created, got.Updated, got.Unchanged, got.Refused}, seed)
		assert.Equal(t, got.Rows, got.Created+got.Updated+got.Unchanged+got.Refused+got.Keyless)
		assert.Equal(t, len(theirs)-updated-same, got.Left)
		if updated == 0 {
			continue
		}
		back, err := rehearse.Run(rehearse.Options{Ready: filepath.Join(lists, rehearse.WayBackName), Present: ready, Temp: t.TempDir(), Year: 2026})
		require.NoError(t, err)
		assert.Equal(t, []int{0, updated}, []int{back.Created, back.Updated}, "%d: the way back", seed)
	}
}

// TestOdd: what may go wrong although no row is refused: prices that move by more than was said, titles of which link names are made, products
// that become incomplete, and cells that nothing empties again.
func TestOdd(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	ready := write(t, dir, "ready.csv", "SKU,Title,Price,Colour\nA,Oak bowl,11.00,brown\nB,Oak dish,13.00,\n")
	shop := write(t, dir, "export.csv", "SKU,Slug,Title,Price,Colour\nA,oak-bowl,Oak  bowl!,10.00,\nB,oak-bowl-2,Oak bowl,10.00,red\nC,oak-bowl-2,,9.00,blue\n")
	run := func(opt rehearse.Options) (*rehearse.Report, string) {
		opt.Present, opt.Temp, opt.Dir, opt.Year = shop, t.TempDir(), t.TempDir(), 2026
		r, err := rehearse.Run(opt)
		require.NoError(t, err)
		back, _ := os.ReadFile(filepath.Join(opt.Dir, rehearse.WayBackName)) // which is not there if nothing changes
		return r, string(back)
	}
	r, back := run(rehearse.Options{Ready: ready, Blank: rehearse.BlankKeeps, Moves: 0.2})
	assert.Equal(t, []int{1, 1, 0, 1}, []int{r.Prices.Cells, r.Titles.Cells, r.Halves.Cells, r.NoWay})
	assert.Equal(t, "Oak dish", r.Titles.Examples[0].After, "the other has the same link name")
	assert.Equal(t, "SKU,Title,Price,Colour\nA,Oak  bowl!,10.00,\nB,Oak bowl,10.00,red\n", back)
	r, back = run(rehearse.Options{Ready: ready, Blank: rehearse.BlankKeeps, Empty: "(none)"})
	assert.Equal(t, []int{0, 0}, []int{r.Prices.Cells, r.NoWay})
	assert.Contains(t, back, "A,Oak  bowl!,10.00,(none)\n")
	opt := rehearse.Options{Ready: ready, Present: shop, Blank: rehearse.BlankClears, Temp: t.TempDir(), Dir: t.TempDir(), Year: 2026}
	_, err := rehearse.Run(opt)
	require.NoError(t, err)
	assert.Equal(t, "SKU,Column,In the shop now\nB,Colour,red\n", read(t, opt.Dir, rehearse.ClearedName))
	ready = write(t, dir, "more.csv", "SKU,Slug,Title,Price\nA,oak-bowl,Oak bowl,11.00\nB,oak-bowl-2,Oak dish,13.00\n")
	r, _ = run(rehearse.Options{Ready: ready, Blank: rehearse.BlankKeeps})
	assert.Equal(t, []int{0, 1}, []int{r.Titles.Cells, r.Halves.Cells})
	assert.Equal(t, "C", r.Halves.Examples[0].Key)
	r, _ = run(rehearse.Options{Ready: ready, Blank: rehearse.BlankKeeps, Rows: 1})
	assert.Equal(t, 2, r.Refused)
	assert.Contains(t, r.Form, "it has 2 rows, and 1 is the most")
}

// TestEncoding: a file in another encoding than the importer reads is refused as a whole, if anything in it is not of ASCII.
func TestEncoding(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	const latin, unicode = "SKU,Title\nA,B\xfcrste\n", "SKU,Title\nA,Bürste\n"
	for name, test := range map[string]struct{ content, encoding, says string }{
		"right":              {unicode, "utf-8", ""},
		"right, too":         {latin, "windows-1252", ""},
		"nobody has said":    {latin, "", ""},
		"ASCII is in both":   {"SKU,Title\nA,Brush\n", "windows-1252", ""},
		"no UTF-8":           {latin, "utf-8", "it is not in UTF-8"},
		"UTF-8, unexpected":  {unicode, "windows-1252", "it is in UTF-8, and the importer reads Windows-1252"},
		"another wide one":   {unicode, "utf-16le", ""},
		"with its own marks": {"\ufeff" + unicode, "utf-8", ""},
	} {
		r, err := rehearse.Run(rehearse.Options{Ready: write(t, dir, "ready.csv", test.content), Present: write(t, dir, "shop.csv", unicode), Temp: t.TempDir(), Year: 2026, Reading: sheet.Reading{Encoding: test.encoding}})
		if test.encoding == "utf-16le" && err != nil {
			continue // it cannot be read so
		}
		require.NoError(t, err, name)
		assert.Equal(t, test.says != "", r.Form != "", name)
		assert.True(t, strings.HasPrefix(r.Form, test.says), "%s: %s", name, r.Form)
	}
}

// TestTerms: the name of terms of delivery that is not the very one that the shop has is named, as other new values are; names of products are not.
func TestTerms(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	ready, shop := "SKU,Supplier,Returns\n", "SKU,Supplier,Returns\n"
	for n := range 30 {
		shop += fmt.Sprintf("K%d,Mill %d,Thirty days (%d)\n", n, n, 1842+n%2)
		ready += fmt.Sprintf("K%d,Mill %d,%s\n", n, n+30, []string{"Thirty days", "Thirty days (1842)"}[n%2])
	}
	r, err := rehearse.Run(rehearse.Options{Ready: write(t, dir, "ready.csv", ready), Present: write(t, dir, "shop.csv", shop), Temp: t.TempDir(), Year: 2026})
	require.NoError(t, err)
	require.Len(t, r.Unseen, 1)
	assert.Equal(t, []any{"Returns", "Thirty days", 15}, []any{r.Unseen[0].Column, r.Unseen[0].What, r.Unseen[0].Cells})
}

// TestAnyWayBackInForm: in a form, the way back is taken by it, and what the shop has after both imports is what it had, but for the cells that
// are left to be put back by hand.
func TestAnyWayBackInForm(t *testing.T) {
	t.Parallel()
	const head = "Our market\r\nCode *;Name *;Kind *;Price;Sold from;Vegan;Note\r\n" +
		"At most 9 characters, each once;At most 16 characters;One of: Plates, Bowls;Number with decimal comma;Date as DD.MM.YYYY;ja or nein;\r\nSAMPLE-1;Sample;Plates;1,50;01.02.2026;ja;\r\n"
	byHand, rows := 0, 0
	for seed := range uint64(40) {
		r := rand.New(rand.NewPCG(seed, 2327))
		dir := t.TempDir()
		form, err := template.Learn(write(t, dir, "form.csv", head))
		require.NoError(t, err)
		opt := rehearse.Options{Form: form, Temp: t.TempDir(), Dir: t.TempDir(), Year: 2026, Blank: []rehearse.Blank{rehearse.BlankKeeps, rehearse.BlankClears, rehearse.BlankUnknown}[seed%3]}
		if seed%2 == 0 {
			opt.Empty = "-"
		}
		type product struct{ name, kind, price, from, vegan, note string }
		any := func(shops bool) product { // as the shop has it
			p := product{fmt.Sprint("Thing ", r.IntN(4)), []string{"Plates", "Bowls"}[r.IntN(2)], fmt.Sprintf("%d.5", r.IntN(3)), fmt.Sprintf("2026-03-1%d", r.IntN(3)), []string{"true", "false"}[r.IntN(2)], []string{"", "a;b", "ö \"x\""}[r.IntN(3)]}
			if shops && r.IntN(5) == 0 {
				p.kind = "Cups"
			}
			if shops && r.IntN(5) == 0 {
				p.name = "A thing with a long name"
			}
			return p
		}
		ours := strings.NewReplacer(".", ",", "true", "ja", "false", "nein")
		var shop, ready strings.Builder
		mine, theirs := csv.NewWriter(&ready), csv.NewWriter(&shop)
		ready.WriteString(head[:strings.Index(head, "SAMPLE")])
		mine.Comma, mine.UseCRLF = ';', true
		require.NoError(t, theirs.Write([]string{"SKU", "Title", "Group", "Price", "Sold from", "Vegan", "Note"}))
		has := make(map[string]product)
		for _, i := range r.Perm(30) {
			key := fmt.Sprint("K", i)
			if was := any(true); r.IntN(4) > 0 {
				has[key] = was
				require.NoError(t, theirs.Write([]string{key, was.name, was.kind, was.price, was.from, was.vegan, was.note}))
			}
		}
		for _, i := range r.Perm(30) {
			p := any(false)
			require.NoError(t, mine.Write([]string{fmt.Sprint("K", i), p.name, p.kind, ours.Replace(p.price), p.from[8:] + "." + p.from[5:7] + "." + p.from[:4], ours.Replace(p.vegan), p.note}))
		}
		mine.Flush()
		theirs.Flush()
		opt.Ready, opt.Present = write(t, dir, "ready.csv", ready.String()), write(t, dir, "shop.csv", shop.String())
		got, err := rehearse.Run(opt)
		require.NoError(t, err)
		require.Zero(t, got.Refused)
		if got.Updated == 0 {
			continue
		}
		wayBack := filepath.Join(opt.Dir, rehearse.WayBackName)
		back := rehearse.Options{Form: form, Ready: wayBack, Present: opt.Present, Temp: opt.Temp, Dir: t.TempDir(), Year: 2026, Blank: opt.Blank}
		again, err := rehearse.Run(back)
		require.NoError(t, err)
		require.Equal(t, []int{0, 0, got.Updated}, []int{again.Refused, again.Created, again.Rows}, "%d: all of it is taken", seed)
		left := 0
		for _, c := range again.Changes {
			left += c.Cells
		}
		hand := 0
		if list, err := os.ReadFile(filepath.Join(opt.Dir, rehearse.ByHandName)); err == nil {
			hand = strings.Count(string(list), "\n") - 1
		}
		require.Equal(t, got.Unfit, hand)
		emptied := 0
		if opt.Empty != "" { // the word is there to be read, and the shop has nothing
			emptied = strings.Count(read(t, opt.Dir, rehearse.WayBackName), ";-")
		}
		require.Equal(t, hand+emptied, left, "%d: what the shop has then is what it had\n%s\n%s", seed, read(t, opt.Dir, rehearse.WayBackName), shop.String())
		byHand, rows = byHand+hand, rows+got.Updated
	}
	t.Logf("| rows of the way back, cells left to be put back by hand | %d, %d |", rows, byHand)
	assert.Positive(t, byHand)
}
