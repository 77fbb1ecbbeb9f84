package cli

import (
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
)

// TestBarcodeCommand: what is said of single codes and of columns.
func TestBarcodeCommand(t *testing.T) {
	dir := t.TempDir()
	writeFile(t, filepath.Join(dir, "sent.csv"), "SKU,EAN,Code 2\nA1,9521234000013,04252614\nA2,9521234000020,\nA3,9.52123E+12,4252614\nA4,9521234000037,4252614\n")
	writeFile(t, filepath.Join(dir, "back.csv"), "GTIN,Result\n09521234000013,yes\n9521234000044,yes\n9.52E+12,no\n")
	writeFile(t, filepath.Join(dir, "counted.csv"), "SKU,EAN\nA3,9521234000051\nB1,9521229999995\n")
	for _, test := range []struct {
		args   string
		status int
		stdout string // parts of it, with bars between
		stderr string
	}{
		{"04252614", 0, "UPC-E|as 14 digits 00042100005264", ""},
		{"01247350", 0, "valid  UPC-E|can be read as EAN-8, UPC-E", ""},
		{"0306406152", 1, "the ISBN-10 0306406152", ""},
		{"-accept isbn-10 0306406152", 0, "valid  ISBN-10|09780306406157", ""},
		{"-accept ean-13 036000291452", 1, "not a kind of code that the shop takes", ""},
		{"-accept ean13 036000291452", 2, "", "the kinds are: ean-8"},
		{"2434-561X", 1, "ISSN", ""},
		{"106141412345678908", 1, "SSCC-18", ""},
		{"19521234000010", 0, "a carton or pallet", ""},
		{"1111111111116", 1, "made up to fill the field", ""},
		{"-list 9.52123400001E+12", 1, "it may have been:|9521234000006|9521234000013", ""},
		{"-list 1.0000000000E+13", 1, "9999999999994|10000000000007", ""},
		{"-list 9.52E+12", 1, "too many to list: more than 10,000", ""},
		{"0 999999999999999999999 00000", 1, "made up to fill the field|999999999999999999999|more digits than a number can hold", ""},
		{"-trust counted.csv 9.52123E+12", 1, "the trusted sheets have 2|9521234000051  SKU A3, counted.csv, row 2", ""},
		{"-complete 952123400001 03600029145 030640615", 0, "9521234000013\n036000291452\n0306406152\n", ""},
		{"-complete 952123400001 12", 2, "9521234000013\n", "\"12\" cannot be completed"},
		{"-file sent.csv", 1, "4 codes, 0 empty|3  EAN-13|row 4: Only 6 of 13 digits", ""},
		{"-file sent.csv -trust counted.csv", 1, "for SKU A3 it is 9521234000051", ""},
		{"-file sent.csv -column code2", 1, "1  UPC-E|UPC-E code without its leading zero", ""},
		{"-file sent.csv -column nonsense", 3, "", "the headings are: SKU, EAN, Code 2"},
		{"-file sent.csv -json", 1, `"row": 4|"sku": "A3"|"candidates": 1000000`, ""},
		{"-file sent.csv 9521234000013", 2, "", "goes neither with codes"},
		{"-answers back.csv", 2, "", "-answers needs -file"},
		{"-file sent.csv -answers back.csv", 1, "1 of 3 codes of sent.csv have an answer|nothing came back: 2|9521234000020  row 3, SKU A2|without having been sent: 1|9521234000044|nothing can be compared: 2", ""},
		{"-file sent.csv -answers back.csv -print unanswered", 1, "9521234000020\n9521234000037\n", ""},
		{"-file sent.csv -answers back.csv -print unasked", 1, "9521234000044\n", ""},
		{"-file sent.csv -answers back.csv -print all", 2, "", "answered, unanswered or unasked"},
		{"-file sent.csv -answers back.csv -json", 1, `"unanswered"|"row": 3`, ""},
		{"-draw x.gif 9521234000013", 2, "", "must end in .svg or .png"},
		{"-draw x.svg 9521234000012", 2, "", "not a whole code"},
		{"-draw x.svg 19521234000010", 2, "", "only EAN-13, UPC-A and EAN-8"},
		{"-draw x.svg 9521234000013 9521234000020", 2, "", "draws one code"},
		{"-draw sent.csv.png 9521234000013", 0, "drawn as EAN-13", ""},
		{"-draw sent.csv.png 9521234000013", 2, "", "is not overwritten"},
		{"", 2, "", "no code was given"},
	} {
		c := zetanum(t, dir, append([]string{"barcode"}, strings.Fields(test.args)...)...)
		assert.Equal(t, test.status, c.status, "%s\n%s%s", test.args, c.stdout, c.stderr)
		for _, part := range strings.Split(test.stdout, "|") {
			assert.Contains(t, c.stdout, part, test.args)
		}
		assert.Contains(t, c.stderr, test.stderr, test.args)
		assert.Equal(t, test.stderr == "", c.stderr == "", "%s: %s", test.args, c.stderr)
	}
	drawn, err := os.ReadFile(filepath.Join(dir, "sent.csv.png"))
	require.NoError(t, err)
	assert.Equal(t, "\x89PNG", string(drawn[:4]))
}

// TestQuestions: what is likely is one question for the column, and a yes is
// taken and recorded.
func TestQuestions(t *testing.T) {
	dir := t.TempDir()
	writeFile(t, filepath.Join(dir, "list.csv"), "SKU,EAN,Title\nA,40123400073,x\nB,40123400035,y\nC,9521234000013,z\n")
	c := zetanum(t, dir, "check", "list.csv")
	assert.Contains(t, c.stdout, "? Are these codes that lost their leading zeros? Then 2 codes are known")
	assert.Contains(t, c.stdout, "If yes: add -yes barcode.leading-zero; if no: -no barcode.leading-zero\n")
	assert.Contains(t, c.stdout, "or let go: -answer barcode.leading-zero:blank, :keep, :aside\n")
	var j struct {
		Questions []struct {
			Yes     string
			Codes   int
			Unlocks int `json:"unlocks_rows"`
		}
	}
	require.NoError(t, json.Unmarshal([]byte(zetanum(t, dir, "check", "-json", "list.csv").stdout), &j))
	require.Len(t, j.Questions, 1)
	assert.Equal(t, "barcode.leading-zero", j.Questions[0].Yes)
	assert.Equal(t, []int{2, 2}, []int{j.Questions[0].Codes, j.Questions[0].Unlocks})

	c = zetanum(t, dir, "repair", "list.csv", "-yes", "barcode.leading-zero")
	assert.Equal(t, 0, c.status)
	ready, err := os.ReadFile(filepath.Join(dir, "list.repaired", "ready.csv"))
	require.NoError(t, err)
	assert.Contains(t, string(ready), "A,040123400073,x\n")
	manifest, err := os.ReadFile(filepath.Join(dir, "list.repaired", "run.json"))
	require.NoError(t, err)
	assert.Contains(t, string(manifest), `"barcode.leading-zero"`)
	c = zetanum(t, dir, "check", "list.csv", "-yes", "barcode.leading-zero=UPC")
	assert.Equal(t, 2, c.status)
	assert.Contains(t, c.stderr, `the column "UPC": no such column`)
	writeFile(t, filepath.Join(dir, "two.csv"), "SKU,EAN,UPC,Title\nA,,40123400073,x\nB,40123400035,,y\nC,9521234000013,,z\n")
	c = zetanum(t, dir, "check", "two.csv", "-yes", "barcode.leading-zero=upc")
	assert.Contains(t, c.stdout, "add -yes barcode.leading-zero=EAN")
	assert.Contains(t, c.stdout, "2 of 3 rows are ready")
	c = zetanum(t, dir, "repair", "list.csv", "-yes", "barcode.rounded")
	assert.Equal(t, 2, c.status)
	assert.Contains(t, c.stderr, "asks no question; -answer barcode.rounded:keep lets it go out as it is, -answer barcode.rounded:blank writes")
}

// TestScanList: products without a barcode come as a workbook whose cells are
// text; scanned into, it is trusted as it is.
func TestScanList(t *testing.T) {
	dir := t.TempDir()
	writeFile(t, filepath.Join(dir, "list.csv"), "SKU,EAN,Title\n007,,Smoker\nA2,9521234000020,Veil\nA3,,Hat\n")
	c := zetanum(t, dir, "repair", "list.csv")
	assert.Contains(t, c.stdout, "scan-list.xlsx  2 products without a barcode")
	path := filepath.Join(dir, "list.repaired", "scan-list.xlsx")
	book, err := excelize.OpenFile(path)
	require.NoError(t, err)
	rows, err := book.GetRows("Scan list")
	require.NoError(t, err)
	assert.Equal(t, [][]string{{"SKU", "Title", "Barcode"}, {"007", "Smoker"}, {"A3", "Hat"}}, rows)
	style, err := book.GetCellStyle("Scan list", "C2")
	require.NoError(t, err)
	format, err := book.GetStyle(style)
	require.NoError(t, err)
	assert.Equal(t, 49, format.NumFmt, "text")
	require.NoError(t, book.SetCellStr("Scan list", "C2", "9521234000037"))
	require.NoError(t, book.SetCellStr("Scan list", "C3", "9521234000045"), "misread")
	scanned := filepath.Join(dir, "scanned.xlsx")
	require.NoError(t, book.SaveAs(scanned))
	c = zetanum(t, dir, "repair", "list.csv", "-trust", scanned)
	assert.Contains(t, c.stdout, "1 code is damaged there too")
	ready, err := os.ReadFile(filepath.Join(dir, "list.repaired", "ready.csv"))
	require.NoError(t, err)
	assert.Equal(t, "SKU,EAN,Title\n007,9521234000037,Smoker\nA2,9521234000020,Veil\nA3,,Hat\n", string(ready))
}

// TestBareCodes: a bare list of codes is read by every command, whatever stands in its first row; of codes that
// were set against answers each stays that was sent, cleaned, and a message says of which file it speaks.
func TestBareCodes(t *testing.T) {
	dir := t.TempDir()
	codes := someCodes(4)
	writeFile(t, filepath.Join(dir, "list.csv"), "SKU,EAN,Title\nA,"+codes[0]+",x\nB,"+codes[1]+",y\nC,"+codes[2]+",z\n")
	zetanum(t, dir, "repair", "list.csv", "-only", "barcode", "-plain", "-out", "bare")
	bare := filepath.Join("bare", "ready.csv")
	require.Equal(t, strings.Join(codes[:3], "\n")+"\n", read(t, dir, bare))
	for _, args := range [][]string{{bare}, {"check", bare}, {"barcode", "-file", bare}, {"barcode", "-file", "list.csv", "-answers", bare}} {
		c := zetanum(t, dir, args...)
		assert.Equal(t, 0, c.status, "%v: %s", args, c.stderr)
	}
	assert.Contains(t, zetanum(t, dir, "check", bare).stdout, "All 3 rows are ready")

	writeFile(t, filepath.Join(dir, "sent.csv"), "EAN\n "+codes[0]+"\n"+codes[0]+"\n"+codes[3]+"\n"+codes[3]+".0\n")
	assert.Equal(t, codes[3]+"\n"+codes[3]+"\n", zetanum(t, dir, "barcode", "-file", "sent.csv", "-answers", bare, "-print", "unanswered").stdout)
	assert.Equal(t, codes[0]+"\n"+codes[0]+"\n", zetanum(t, dir, "barcode", "-file", "sent.csv", "-answers", bare, "-print", "answered").stdout)
	writeFile(t, filepath.Join(dir, "odd.csv"), "Title,Price\nx,3\n")
	assert.Contains(t, zetanum(t, dir, "barcode", "-file", "sent.csv", "-answers", "odd.csv").stderr,
		"-answers odd.csv: there is no such column (none of barcodes was recognised). Put EAN or Barcode above")
}
