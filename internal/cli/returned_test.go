package cli

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
)

const bicycles = "SKU,EAN,Title,Price,Brand,Vendor\nB1,9521234000013,Bell,3.50,Ding,North Co\nB2,9.52E+12,Pump,12.50,Puff,North Co\n" +
	"B3,9521234000037,Lamp,8.00,Glow,South/Co\nB4,9521234000043,Lock,9.00,Click,South/Co\nB5,9521234000051,Saddle,,Sit,north co\n" +
	"B6,9521234000068,Chain,4.00,,East Co\n"

const required = "[field.price]\nrequired = true\n[field.brand]\nrequired = true\n"

// TestHeldComesBack: rows mended in held.csv are put together with those that were ready, in the
// order of the source, over several rounds, and nothing of the earlier folders is replaced.
func TestHeldComesBack(t *testing.T) {
	dir := t.TempDir()
	writeFile(t, filepath.Join(dir, "bikes.csv"), bicycles)
	writeFile(t, filepath.Join(dir, "zetanum.toml"), required)
	c := zetanum(t, dir, "repair", "bikes.csv")
	assert.Contains(t, c.stdout, "What is held can be mended in a copy of held.csv")
	first := filepath.Join(dir, "bikes.repaired")
	before := read(t, first, "ready.csv")
	assert.Equal(t, []string{"B1", "B3"}, skus(before))

	// A spreadsheet program rounds a code that nobody has touched, and writes prices in its own way.
	held := read(t, first, "held.csv")
	mended := strings.NewReplacer("9.52E+12,Pump,12.50", "9521234000020,Pump,12.5", "9521234000068", "9.52123E+12").Replace(held)
	require.NotEqual(t, held, mended)
	writeFile(t, filepath.Join(first, "held.csv"), mended)
	c = zetanum(t, dir, "repair", filepath.Join("bikes.repaired", "held.csv"), "-with", "bikes.repaired")
	assert.Equal(t, 1, c.status, c.stderr)
	assert.Contains(t, c.stdout, "1 cell that is mended in held.csv: put together with bikes.repaired.")
	assert.Contains(t, c.stdout, "1 cell that only a spreadsheet program has changed stay")
	assert.NotContains(t, c.stdout, "Not replaced")
	second := filepath.Join(dir, "bikes.repaired-2")
	assert.Equal(t, strings.Replace(before, "B3,", "B2,9521234000020,Pump,12.50,Puff,North Co\nB3,", 1), read(t, second, "ready.csv"))
	assert.Equal(t, mended, read(t, first, "held.csv"))
	assert.Equal(t, "Row,SKU,EAN,Title,Price,Brand,Vendor\n3,B2,9521234000020,Pump,12.50,Puff,North Co\n", read(t, second, "mended.csv"))
	assert.Contains(t, read(t, second, "changes.jsonl"), `"before":"9.52E+12","after":"9521234000020","rule":"decided.mended"`)

	// The next round has what was mended in the one before; a code that is there already is none.
	writeFile(t, filepath.Join(dir, "more.csv"), "Row;SKU;EAN\n5;B4;9521234000020\n99;Z;\n;Q;1\n")
	c = zetanum(t, dir, "repair", "more.csv", "-with", "bikes.repaired-2")
	assert.Contains(t, c.stdout, "not in the source: row 99 (more.csv, row 3)")
	assert.Contains(t, c.stdout, "not in the source: no row number (more.csv, row 4)")
	third := filepath.Join(dir, "bikes.repaired-3")
	assert.Equal(t, []string{"B1", "B3"}, skus(read(t, third, "ready.csv")), "two with one code are both held")
	assert.Contains(t, read(t, third, "held.csv"), ",B4,9521234000020,Lock,")
	writeFile(t, filepath.Join(dir, "by-sku.csv"), "sku,ean,brand\nB4,9521234000044,\nB6,,Linx\n")
	c = zetanum(t, dir, "repair", "by-sku.csv", "-with", "bikes.repaired-3", "-answer", "value.missing:keep")
	assert.Equal(t, 0, c.status, c.stdout)
	assert.Equal(t, []string{"B1", "B2", "B3", "B4", "B5", "B6"}, skus(read(t, dir, "bikes.repaired-4", "ready.csv")))

	// The source is repaired anew without touching what people have put together.
	zetanum(t, dir, "repair", "bikes.csv")
	assert.Equal(t, []string{"B1", "B2", "B3", "B4", "B5", "B6"}, skus(read(t, dir, "bikes.repaired-4", "ready.csv")))
}

func skus(table string) (list []string) {
	for _, line := range strings.Split(strings.TrimSpace(table), "\n")[1:] {
		sku, _, _ := strings.Cut(line, ",")
		list = append(list, sku)
	}
	return list
}

// TestFilledIn: what is required and missing goes out as a workbook with a sheet for each
// supplier, and comes back filled in; so do the other tables for people.
func TestFilledIn(t *testing.T) {
	dir := t.TempDir()
	writeFile(t, filepath.Join(dir, "bikes.csv"), bicycles)
	writeFile(t, filepath.Join(dir, "zetanum.toml"), required+"one_of = [\"Ding\", \"Puff\", \"Sit\", \"Gloww\"]\n")
	c := zetanum(t, dir, "repair", "bikes.csv")
	assert.Contains(t, c.stdout, "2 rows in which something required is missing")
	book, err := excelize.OpenFile(filepath.Join(dir, "bikes.repaired", "to-fill.xlsx"))
	require.NoError(t, err)
	assert.Equal(t, []string{"north co", "East Co"}, book.GetSheetList())
	rows, err := book.GetRows("north co")
	require.NoError(t, err)
	assert.Equal(t, [][]string{{"Row", "SKU", "Title", "Price", "Brand"}, {"6", "B5", "Saddle", "", "Sit"}}, rows)
	require.NoError(t, book.SetCellValue("north co", "D2", "19.90"))
	require.NoError(t, book.SetCellValue("East Co", "E2", "Sit"))
	require.NoError(t, book.SaveAs(filepath.Join(dir, "filled.xlsx")))
	zetanum(t, dir, "repair", "filled.xlsx", "-with", "bikes.repaired")
	ready := read(t, dir, "bikes.repaired-2", "ready.csv")
	assert.Contains(t, ready, "B5,9521234000051,Saddle,19.90,Sit,")
	assert.Contains(t, ready, "B6,9521234000068,Chain,4.00,Sit,")

	unknown := strings.ReplaceAll(read(t, dir, "bikes.repaired", "unknown-values.csv"), ",Glow,", ",Gloww,")
	writeFile(t, filepath.Join(dir, "unknown.csv"), unknown)
	zetanum(t, dir, "repair", "unknown.csv", "-with", "bikes.repaired")
	assert.Contains(t, read(t, dir, "bikes.repaired-3", "ready.csv"), "B3,9521234000037,Lamp,8.00,Gloww,")

	review, err := excelize.OpenFile(filepath.Join(dir, "bikes.repaired", "review.xlsx"))
	require.NoError(t, err)
	require.NoError(t, review.SetCellValue("Held", "D2", "9521234000020"))
	require.NoError(t, review.SaveAs(filepath.Join(dir, "review.xlsx")))
	zetanum(t, dir, "repair", "review.xlsx", "-with", "bikes.repaired")
	assert.Contains(t, read(t, dir, "bikes.repaired-4", "ready.csv"), "B2,9521234000020,Pump,12.50,Puff,")

	for _, test := range [][]string{
		{"review.xlsx", "nowhere", "nowhere: this is no output folder of ours"},
		{"shop.csv", "bikes.repaired", "shop.csv: nothing in it is about rows of the source"},
		{"-", "bikes.repaired", "-with takes a file that comes back"},
	} {
		writeFile(t, filepath.Join(dir, "shop.csv"), "Colour\nred\n")
		c := zetanum(t, dir, "repair", test[0], "-with", test[1])
		assert.NotEqual(t, 0, c.status)
		assert.Contains(t, c.stderr, test[2])
	}
	require.NoError(t, os.WriteFile(filepath.Join(dir, "bikes.csv"), []byte(bicycles+"B7,,x,1,y,z\n"), 0o666))
	c = zetanum(t, dir, "repair", "filled.xlsx", "-with", "bikes.repaired")
	assert.Contains(t, c.stderr, "its source is not there any more as it was; put bikes.csv back beside the folder")
}

// TestHeldAlone: held.csv repaired by itself does not send out what we have written before its
// columns, and it is said how it is put together with the others.
func TestHeldAlone(t *testing.T) {
	dir := t.TempDir()
	writeFile(t, filepath.Join(dir, "bikes.csv"), bicycles)
	zetanum(t, dir, "repair", "bikes.csv")
	held := filepath.Join("bikes.repaired", "held.csv")
	content := strings.Replace(read(t, dir, held), ",9.52E+12,", ",9521234000020,", 1)
	writeFile(t, filepath.Join(dir, held), content)
	c := zetanum(t, dir, "repair", held, "-out", "alone")
	assert.Contains(t, c.stdout, "zetanum repair "+held+" -with bikes.repaired")
	assert.Equal(t, "SKU,EAN,Title,Price,Brand,Vendor\nB2,9521234000020,Pump,12.50,Puff,North Co\n", read(t, dir, "alone", "ready.csv"))
}

// TestShopResult: of a result of the shop, what it refused is held with the shop's reason, what it
// has is set aside, and nothing of it goes out; what is then mended goes out alone.
func TestShopResult(t *testing.T) {
	const list = "SKU,EAN,Title,Price\nB1,9521234000013,Bell,3.50\nB2,9521234000020,Pump,12.50\nB3,9521234000037,Lamp,8.00\n" +
		"B4,9521234000044,Lock,9.00\nB5,9521234000051,Saddle,30\n"
	for name, result := range map[string]string{
		"words":               "Item SKU,Title,Result,Message\nB1,BELL,Created,\nB2,Pump,Error,Price is not allowed\nB3,Lamp,Created,Image lamp.jpg was not found\nB4,Lock,Skipped,It exists\n",
		"of another language": "SKU;Ergebnis;Fehlermeldung\nB1;Importiert;\nB2;Nicht importiert;Price is not allowed\nB3;importiert;Image lamp.jpg was not found\nB4;Bereits vorhanden;\n",
		"in one column":       "sku\tStatus\nB1\tOK\nB2\tFAILED: Price is not allowed\nB3\tOK - Image lamp.jpg was not found\nB4\talready exists\n",
	} {
		dir := t.TempDir()
		writeFile(t, filepath.Join(dir, "bikes.csv"), list)
		zetanum(t, dir, "repair", "bikes.csv")
		writeFile(t, filepath.Join(dir, "result.csv"), result)
		c := zetanum(t, dir, "repair", "result.csv", "-with", "bikes.repaired")
		assert.Contains(t, c.stdout, "The shop took 2 rows, passed over 1 and refused 1.", name)
		second := filepath.Join(dir, "bikes.repaired-2")
		assert.Equal(t, "SKU,EAN,Title,Price\nB5,9521234000051,Saddle,30\n", read(t, second, "ready.csv"), name)
		held := read(t, second, "held.csv")
		assert.Contains(t, held, "\n3,The shop has refused the row; it says: Price is not allowed.,B2,9521234000020,Pump,12.50\n", name)
		assert.Equal(t, 4, strings.Count(read(t, second, "aside.csv"), "\n"), name)
		assert.Contains(t, read(t, second, "shop-skipped.csv"), "\n5,skipped,", name)
		assert.Contains(t, read(t, second, "shop-remarks.csv"), "4,taken,Image lamp.jpg was not found,B3,Lamp\n", name)
		assert.Equal(t, read(t, second, "shop-remarks.csv"), read(t, second, "shop-pictures.csv"), name)

		writeFile(t, filepath.Join(dir, "mended.csv"), strings.Replace(held, "12.50", "13.50", 1))
		c = zetanum(t, dir, "repair", "mended.csv", "-with", "bikes.repaired-2")
		assert.Equal(t, "SKU,EAN,Title,Price\nB2,9521234000020,Pump,13.50\nB5,9521234000051,Saddle,30\n",
			read(t, dir, "bikes.repaired-3", "ready.csv"), "%s: %s", name, c.stdout)
	}
	dir := t.TempDir()
	writeFile(t, filepath.Join(dir, "bikes.csv"), list)
	zetanum(t, dir, "repair", "bikes.csv")
	writeFile(t, filepath.Join(dir, "result.csv"), "SKU,A,B\nB1,fine,\nB2,bad,No price\n")
	c := zetanum(t, dir, "repair", "result.csv", "-with", "bikes.repaired", "-remark", "B", "-json")
	assert.Equal(t, 1, c.status, c.stderr)
	assert.Contains(t, read(t, dir, "bikes.repaired-2", "held.csv"), "it says: No price.")
	assert.Contains(t, read(t, dir, "bikes.repaired-2", "aside.csv"), ",B1,")
	c = zetanum(t, dir, "repair", "result.csv", "-with", "bikes.repaired", "-outcome", "C")
	assert.Contains(t, c.stderr, "result.csv: there is no such column (C). The headings are: SKU, A, B.")
	c = zetanum(t, dir, "repair", "result.csv", "-outcome", "A")
	assert.Contains(t, c.stderr, "-outcome and -remark go with -with")
}
