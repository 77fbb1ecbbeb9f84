package cli

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"zetanum/core/barcode"
)

// someCodes returns made-up codes of 13 digits.
func someCodes(n int) (codes []string) {
	for i := range n {
		data := uint64(952123400000 + i*31 + 2)
		codes = append(codes, barcode.Pad(data*10+uint64(barcode.CheckDigit(data)), 13))
	}
	return codes
}

// TestBeside: the table in the same folder that has what is open is named, with the words that use it;
// nothing is taken from it before, and nothing that is written depends on it.
func TestBeside(t *testing.T) {
	dir := t.TempDir()
	codes := someCodes(12)
	var lost, stock, others, large strings.Builder
	lost.WriteString("SKU,EAN,Title,Price,Brand\n")
	stock.WriteString("SKU,EAN,Counted\n")
	others.WriteString("SKU,Brand\n")
	large.WriteString("SKU,EAN,Text\n")
	for i, code := range codes {
		fmt.Fprintf(&lost, "Y%d,9.52123E+12,Yarn %d,3.50,\n", i, i)
		fmt.Fprintf(&others, "Y%d,Woolly\n", i)
		if i < 9 {
			fmt.Fprintf(&stock, "Y%d,%s.0,4\n", i, code) // which its own column proves
			fmt.Fprintf(&large, "Y%d,%s,x\n", i, code)
		}
	}
	writeFile(t, filepath.Join(dir, "yarns.csv"), lost.String())
	before := zetanum(t, dir, "check", "yarns.csv", "-json").stdout
	assert.NotContains(t, zetanum(t, dir, "check", "yarns.csv").stdout, "beside it")
	assert.Contains(t, zetanum(t, dir, "inspect", "yarns.csv").stdout, "add: -trust SHEET")

	writeFile(t, filepath.Join(dir, "count.csv"), stock.String())
	writeFile(t, filepath.Join(dir, "makers.csv"), others.String())
	require.NoError(t, os.Mkdir(filepath.Join(dir, "below"), 0o777))
	writeFile(t, filepath.Join(dir, "below", "all.csv"), strings.ReplaceAll(lost.String(), "9.52123E+12", codes[0]))
	says := "count.csv, beside it, has whole codes for 9 of these 12 SKUs:\n  add -trust count.csv\n"
	c := zetanum(t, dir, "check", "yarns.csv")
	assert.Contains(t, c.stdout, says)
	assert.Contains(t, c.stdout, "No row is ready")
	assert.Contains(t, zetanum(t, dir, "inspect", "yarns.csv").stdout, says)
	assert.Contains(t, zetanum(t, dir, "yarns.csv").stdout, "count.csv, beside it, has whole codes for 9 of these 12 SKUs.\n")
	assert.Equal(t, before, zetanum(t, dir, "check", "yarns.csv", "-json").stdout)
	c = zetanum(t, dir, "check", "yarns.csv", "-trust", "count.csv")
	assert.NotContains(t, c.stdout, "count.csv, beside it")
	assert.Contains(t, c.stdout, "9 of 12 rows are ready to import")
	assert.Contains(t, c.stdout, "trusted: count.csv, 9 rows with a whole barcode, 9 of them restored there")

	writeFile(t, filepath.Join(dir, "rules.toml"), "[brand]\nrequired = true\n")
	c = zetanum(t, dir, "check", "yarns.csv", "-rules", "rules.toml", "-trust", "count.csv")
	assert.Contains(t, c.stdout, "makers.csv, beside it, has Brand for 12 of these 12 SKUs:\n  add -borrow makers.csv -by sku -take Brand\n")

	// Of a large table the beginning is read.
	require.NoError(t, os.Remove(filepath.Join(dir, "count.csv")))
	for range 300_000 {
		large.WriteString("Z,,x\n")
	}
	writeFile(t, filepath.Join(dir, "large.csv"), large.String())
	assert.Contains(t, zetanum(t, dir, "check", "yarns.csv").stdout, "large.csv, beside it, has whole codes for 9 of these 12 SKUs")
}

// TestBorrowWhatIsProved: codes that another sheet proves are borrowed as they are proved, also from an
// output folder, and from another sheet of the same workbook.
func TestBorrowWhatIsProved(t *testing.T) {
	dir := t.TempDir()
	var list, count, want strings.Builder
	list.WriteString("Article,Title,Price\n")
	count.WriteString("Title,EAN\n")
	want.WriteString("Article,Title,Price,EAN\n")
	for i, code := range someCodes(9) {
		fmt.Fprintf(&list, "Y%d,Yarn %d,3\n", i, i)
		fmt.Fprintf(&count, "Yarn %d,%s.0\n", i, code)
		fmt.Fprintf(&want, "Y%d,Yarn %d,3,%s\n", i, i, code)
	}
	writeFile(t, filepath.Join(dir, "yarns.csv"), list.String())
	writeFile(t, filepath.Join(dir, "count.csv"), count.String())
	zetanum(t, dir, "repair", "yarns.csv", "-borrow", "count.csv", "-by", "title", "-take", "barcode")
	assert.Equal(t, want.String(), read(t, dir, "yarns.repaired", "ready.csv"))

	zetanum(t, dir, "repair", "count.csv", "-out", "counted")
	c := zetanum(t, dir, "repair", "yarns.csv", "-borrow", "counted", "-by", "title", "-take", "barcode", "-out", "again")
	assert.Contains(t, c.stdout, "borrow barcode from counted/ready.csv by title")
	assert.Equal(t, want.String(), read(t, dir, "again", "ready.csv"))
	writeFile(t, filepath.Join(dir, "counted", "ready.csv"), "spoilt")
	c = zetanum(t, dir, "repair", "yarns.csv", "-borrow", "counted", "-by", "title", "-take", "barcode", "-out", "once-more")
	assert.Contains(t, c.stdout, "borrow barcode from counted/ready.csv as it was by title")
	assert.Equal(t, want.String(), read(t, dir, "once-more", "ready.csv"))
	assert.Contains(t, zetanum(t, dir, "check", "yarns.csv", "-borrow", dir, "-by", "title", "-take", "barcode").stderr, "is not an output of ours")
}

// TestCodesIntoNewColumns: columns that take codes are added where they are not there; a file without barcodes gets
// its list to scan into, which is borrowed from.
func TestCodesIntoNewColumns(t *testing.T) {
	dir := t.TempDir()
	codes := someCodes(3)
	writeFile(t, filepath.Join(dir, "list.csv"), "SKU,Title,EAN\nA,x,"+codes[0]+"\nB,y,"+codes[1]+" / "+codes[2]+"\n")
	writeFile(t, filepath.Join(dir, "rules.toml"), "[barcode]\nfill = { GTIN = \"gtin-14\" }\nsecond = \"EAN 2\"\n")
	want := "SKU,Title,EAN,GTIN,EAN 2\nA,x," + codes[0] + ",0" + codes[0] + ",\nB,y," + codes[1] + ",0" + codes[1] + "," + codes[2] + "\n"
	zetanum(t, dir, "repair", "list.csv", "-rules", "rules.toml", "-out", "first")
	assert.Equal(t, want, read(t, dir, "first", "ready.csv"))
	zetanum(t, dir, "repair", filepath.Join("first", "ready.csv"), "-rules", "rules.toml", "-out", "again")
	assert.Equal(t, want, read(t, dir, "again", "ready.csv"))

	writeFile(t, filepath.Join(dir, "bare.csv"), "SKU,Title,Price\nA,x,1\n,,\nB,y,2\n")
	c := zetanum(t, dir, "repair", "bare.csv")
	assert.Contains(t, strings.Join(strings.Fields(c.stdout), " "), "2 products without a barcode, to scan into; it comes back with -borrow")
	book, err := excelize.OpenFile(filepath.Join(dir, "bare.repaired", "scan-list.xlsx"))
	require.NoError(t, err)
	require.NoError(t, book.SetCellStr("Scan list", "C2", codes[0]))
	require.NoError(t, book.SetCellStr("Scan list", "C3", codes[1]))
	require.NoError(t, book.SaveAs(filepath.Join(dir, "scan-list.xlsx")))
	zetanum(t, dir, "repair", "bare.csv", "-borrow", "scan-list.xlsx", "-by", "sku", "-take", "barcode", "-out", "scanned")
	assert.Equal(t, "SKU,Title,Price,Barcode\nA,x,1,"+codes[0]+"\nB,y,2,"+codes[1]+"\n", read(t, dir, "scanned", "ready.csv"))
}
