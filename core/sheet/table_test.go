package sheet

import (
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"unicode/utf16"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/japanese"

	"zetanum/core/catalogue"
	"zetanum/core/charset"
	"zetanum/core/workbook"
)

func write(t *testing.T, name, content string) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	require.NoError(t, os.WriteFile(path, []byte(content), 0o644))
	return path
}

// rowsOf reads the table through the splitter in parts of at least size bytes,
// then once more part by part, and requires that both give the same.
func rowsOf(t *testing.T, table *Table, size int) (rows [][]string, parts []*Part) {
	t.Helper()
	for {
		rows, parts = nil, nil
		split, err := table.Split(func(r *catalogue.Row) bool { return r != nil }, size)
		require.NoError(t, err)
		var surprise *Surprise
		for {
			var p *Part
			p, err = split.Next()
			if err == nil {
				p.Read(&table.Form)
				err = p.Verify(table.Form)
			}
			if err != nil {
				break
			}
			part, _ := readAll(&table.Form, p.Data)
			rows = append(rows, part...)
			data := p.Data
			require.NoError(t, table.Load(p))
			require.Equal(t, data, p.Data)
			parts = append(parts, p)
		}
		if errors.As(err, &surprise) {
			require.NoError(t, table.Adopt(surprise))
			continue
		}
		require.ErrorIs(t, err, io.EOF)
		return rows, parts
	}
}

func TestOpen(t *testing.T) {
	for _, test := range []struct {
		name, in string
		form     string
		headings []string
		first    []string
		rows     int
	}{
		{"comma", "SKU,Title\nA,Smoker\n", "UTF-8 comma LF", []string{"SKU", "Title"}, []string{"A", "Smoker"}, 1},
		{"semicolon with decimal commas", "SKU;Price;Title\r\nA;1,50;Smoker, small\r\n", "UTF-8 semicolon CRLF",
			[]string{"SKU", "Price", "Title"}, []string{"A", "1,50", "Smoker, small"}, 1},
		{"tab", "SKU\tTitle\nA\tb,c\n", "UTF-8 tab LF", []string{"SKU", "Title"}, []string{"A", "b,c"}, 1},
		{"pipe", "SKU|Title\nA|b\n", "UTF-8 pipe LF", []string{"SKU", "Title"}, []string{"A", "b"}, 1},
		{"a mark decoded wrongly", "ï»¿SKU,Title\nA,b\n", "UTF-8 comma LF", []string{"SKU", "Title"}, []string{"A", "b"}, 1},
		{"two marks, and quotation marks", "\ufeff\"\ufeffSKU\",Title\nA,b\n", "UTF-8 comma LF", []string{"SKU", "Title"},
			[]string{"A", "b"}, 1},
		{"one column", "SKU\nA\n\nB\n", "UTF-8 comma LF", []string{"SKU"}, []string{"A"}, 3},
		{"byte order mark", "\ufeffSKU,Title\nA,ü\n", "UTF-8 comma LF", []string{"SKU", "Title"}, []string{"A", "ü"}, 1},
		{"windows-1252", "SKU,Title\nA,B\xfcrste\n", "Windows-1252 comma LF", []string{"SKU", "Title"}, []string{"A", "Bürste"}, 1},
		{"lone CR", "SKU,Title\rA,\"x\ny\"\rB,z\r", "UTF-8 comma CR", []string{"SKU", "Title"}, []string{"A", "x\ny"}, 2},
		{"preamble", "Linden Row,,\n\nSKU,Title,Price\nA,b,1\n", "UTF-8 comma LF", []string{"SKU", "Title", "Price"},
			[]string{"A", "b", "1"}, 1},
		{"a quotation mark never closed", "SKU,Title\nA,\"b\nB,c\n", "UTF-8 comma LF", []string{"SKU", "Title"}, []string{"A", `"b`}, 2},
	} {
		t.Run(test.name, func(t *testing.T) {
			table, err := Open(write(t, "list.csv", test.in), Options{})
			require.NoError(t, err)
			defer table.Close()
			rows, _ := rowsOf(t, table, PartSize)
			ends := map[string]string{"\n": "LF", "\r\n": "CRLF", "\r": "CR"}[table.Form.LineEnd]
			assert.Equal(t, test.form, fmt.Sprint(table.Form.Charset, " ", table.Form.SeparatorName(), " ", ends))
			assert.NotContains(t, table.HeadLine, "»¿")
			assert.Equal(t, test.headings, table.Columns.Headings)
			require.Len(t, rows, test.rows)
			assert.Equal(t, test.first, rows[0])
		})
	}
}

// TestPartsOfAnySize cuts one file in parts of many sizes; the rows must be
// the same, and the surprises that a long file keeps for its end must be met.
func TestPartsOfAnySize(t *testing.T) {
	var b strings.Builder
	b.WriteString("SKU,Title,Description\n")
	for i := range 400 {
		fmt.Fprintf(&b, "A%d,\"Tool %d, \"\"small\"\"\",\"<p>%s\nline</p>\"\n", i, i, strings.Repeat("x", i%37))
	}
	for name, end := range map[string]string{
		"as it is":            "",
		"not UTF-8 after all": "Z,B\xfcrste,x\n",
		"never closed":        "Z,\"oops,x\nY,fine,x\n",
	} {
		table, err := Open(write(t, "list.csv", b.String()+end), Options{})
		require.NoError(t, err)
		want, _ := rowsOf(t, table, 1<<30)
		for _, size := range []int{1, 50, 333, 4096} {
			rows, parts := rowsOf(t, table, size)
			assert.Equal(t, want, rows, "%s, parts of %d", name, size)
			assert.Greater(t, len(parts), 2)
		}
		assert.Equal(t, end == "Z,B\xfcrste,x\n", table.Form.Charset == charset.Windows1252, name)
		table.Close()
	}
}

func TestChangedSource(t *testing.T) {
	path := write(t, "list.csv", "SKU,Title\nA,b\nB,c\n")
	table, err := Open(path, Options{})
	require.NoError(t, err)
	defer table.Close()
	_, parts := rowsOf(t, table, 1)
	require.NoError(t, table.CheckUnchanged())
	require.NoError(t, os.WriteFile(path, []byte("SKU,Title\nA,x\nB,c\n"), 0o644))
	assert.ErrorIs(t, table.Load(parts[0]), ErrChanged)
	require.NoError(t, os.WriteFile(path, []byte("SKU,Title\n"), 0o644))
	assert.ErrorIs(t, table.CheckUnchanged(), ErrChanged)
	assert.ErrorIs(t, table.Load(parts[0]), ErrChanged)
}

func TestRefused(t *testing.T) {
	for _, test := range []struct {
		name, in string
		err      error
		says     string
	}{
		{"empty", "", ErrEmpty, "Export"},
		{"only a byte order mark", "\ufeff", ErrEmpty, "Export"},
		{"blank rows", "\n\n,,\n", ErrNoTable, "blank"},
		{"binary, and cut", "\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1", workbook.ErrDamaged, "save it again"},
		{"PDF", "%PDF-1.7\n", ErrBinary, "PDF"},
		{"noise", strings.Repeat("\x00\x01\x02a\n", 200), ErrBinary, "not text"},
		{"an archive", "PK\x03\x04nothing", ErrBinary, "archive"},
		{"no known heading", "9521234000013,Smoker\n9521234000020,Tool\n", ErrHeadings, "the setting ‹field›"},
	} {
		_, err := Open(write(t, "list.csv", test.in), Options{Spool: t.TempDir()})
		assert.ErrorIs(t, err, test.err, test.name)
		assert.ErrorContains(t, err, test.says, test.name)
		assert.ErrorContains(t, err, "list.csv: ", test.name)
	}
	_, err := Open(filepath.Join(t.TempDir(), "nothing.csv"), Options{})
	assert.ErrorIs(t, err, fs.ErrNotExist)
	_, err = Open(t.TempDir(), Options{})
	assert.ErrorIs(t, err, ErrFolder)
	_, err = Open(write(t, "list.csv", "SKU,Title\n"), Options{Fields: map[string]catalogue.Field{"Ref": catalogue.SKU}})
	assert.ErrorContains(t, err, "no such column (Ref)")
}

func TestWorkbook(t *testing.T) {
	book := excelize.NewFile()
	cells := [][]any{
		{"SKU", "EAN", "Title", "Price", "From", "New"},
		{"007", 9521234000013.0, "Smoker", 12.95, nil, true},
		{},
		{"008", "9.52123E+12", "Tool", 0.1 + 0.2, nil, false},
	}
	require.NoError(t, book.SetSheetName("Sheet1", "Notes"))
	_, err := book.NewSheet("Products")
	require.NoError(t, err)
	require.NoError(t, book.SetCellStr("Notes", "A1", "Ask Wilma before changing anything"))
	for r, row := range cells {
		for c, v := range row {
			name, _ := excelize.CoordinatesToCellName(c+1, r+1)
			require.NoError(t, book.SetCellValue("Products", name, v))
		}
	}
	require.NoError(t, book.SetCellDefault("Products", "B5", "9.5212345678990002E+12"))
	date, err := book.NewStyle(&excelize.Style{NumFmt: 14})
	require.NoError(t, err)
	require.NoError(t, book.SetCellValue("Products", "E2", 46000))
	require.NoError(t, book.SetCellStyle("Products", "E2", "E2", date))
	require.NoError(t, book.SetColVisible("Products", "C:D", false))
	require.NoError(t, book.SetColVisible("Notes", "A", false))
	path := filepath.Join(t.TempDir(), "list.xlsx")
	require.NoError(t, book.SaveAs(path))

	spool := t.TempDir()
	table, err := Open(path, Options{Spool: spool})
	require.NoError(t, err)
	assert.Equal(t, "Products", table.Sheet)
	assert.Equal(t, []string{"Notes"}, table.Others)
	assert.Equal(t, []string{"Title", "Price"}, table.Hidden)
	rows, _ := rowsOf(t, table, PartSize)
	assert.Equal(t, [][]string{
		{"007", "9521234000013", "Smoker", "12.95", "2025-12-09", "TRUE"},
		{"", "", "", "", "", ""},
		{"008", "9.52123E+12", "Tool", "0.3", "", "FALSE"},
		{"", "9521234567899", "", "", "", ""},
	}, rows)
	require.NoError(t, table.Close())
	left, err := os.ReadDir(spool)
	require.NoError(t, err)
	assert.Empty(t, left, "the spool is removed")

	_, err = Open(path, Options{Spool: spool, Sheet: "Nope"})
	assert.ErrorIs(t, err, ErrNoSheet)
	assert.ErrorContains(t, err, "Notes, Products")
	_, err = Open(path, Options{Spool: spool, Sheet: "notes"})
	assert.ErrorIs(t, err, ErrHeadings)
}

// FuzzParts: into whatever parts a file is cut, its rows are the same, and so
// are those of the parts when they are read a second time.
func FuzzParts(f *testing.F) {
	for _, s := range []string{
		"SKU,EAN\nA,1\n\"B\n\",2\n", "SKU;EAN\rA;\"x\ny\"\r", "SKU,EAN\nA,\"never\nB,2\n", "SKU\tEAN\r\n\"a\"b\"\t\r\n",
		"\ufeffSKU,EAN\n\"\"\"\",\n\n\n",
		"'SKU'^'EAN'\n'A'^'1'\n", "sep=;\r\nSKU;EAN\r\nA;1\r\n", "{\"sku\":\"A\",\"ean\":[1,{\"a\":null}]}\n{}",
		"\"SKU\",\"EAN\"\n\"5\\\" x\",\"\\\\\"\n", "SKU~EAN\nA~1\n",
		"<table><tr><td>SKU<td>EAN<tr><td rowspan=2>A<td colspan=3>1<tr><td>B", "SKU,Title,Price,\n,,net,gross\nA,x,1,2\n",
		"x,y\nSKU,EAN\nitem_sku,item_ean\nExample,1\nA,2\n",
	} {
		f.Add([]byte(s), 3)
	}
	f.Fuzz(func(t *testing.T, content []byte, size int) {
		if size < 1 || size > 1<<20 {
			t.Skip()
		}
		path := filepath.Join(t.TempDir(), "list.csv")
		require.NoError(t, os.WriteFile(path, content, 0o666))
		table, err := Open(path, Options{Spool: t.TempDir()})
		if err != nil {
			var refused *Error
			require.ErrorAs(t, err, &refused)
			return
		}
		defer table.Close()
		want, _ := rowsOf(t, table, 1<<30)
		got, parts := rowsOf(t, table, size)
		require.Equal(t, want, got)
		total := table.start
		for _, p := range parts {
			require.Equal(t, total, p.Offset)
			total += int64(p.Size)
		}
		require.True(t, total == table.end || table.Form.Spooled || table.Transcoded != charset.UTF8, "bytes are left out")
	})
}

// TestEncodings: a file is read in the encoding in which all of it makes best sense,
// however far down that shows, or in the one that is named; where little speaks for
// it, the next best is named with an example.
func TestEncodings(t *testing.T) {
	polish := "Podkurzacz ze stali nierdzewnej, średni, z osłoną; rękawice różnej długości, żółte"
	far := "SKU;Title\n" + strings.Repeat("A;plain\n", 300_000)
	for _, test := range []struct {
		name, content, encoding string
		want                    charset.Charset
		last                    string
		doubt                   string
	}{
		{"Windows-1250", "SKU|Title\nA|" + encoded(t, charmap.Windows1250, polish) + "\n", "", charset.Windows1250, polish, ""},
		{"far down", strings.ReplaceAll(far, ";", "|") + "B|" + encoded(t, charmap.Windows1250, polish) + "\n", "", charset.Windows1250,
			polish, ""},
		{"named", "SKU|Title\nA|K\xfcche\n", "cp850", charset.CodePage850, "K³che", ""},
		{"named, and UTF-8", "SKU|Title\nA|Küche\n", "latin1", charset.Windows1252, "KÃ¼che", ""},
		{"open", "SKU|Title\nA|\xa9 Brand\n", "", charset.Windows1252, "© Brand", "is nearly as likely: it would make"},
		{"UTF-8 with a text pasted in", "SKU|Title\n" + strings.Repeat("A|Küche\n", 20) + "B|B\xfcrste f\xfcr K\xfcche\n", "",
			charset.UTF8, "Bürste für Küche", ""},
		{"UTF-8 with one byte broken", "SKU|Title\n" + strings.Repeat("A|Küche\n", 20) + "B|B\xfcrste\n", "", charset.UTF8, "B\ufffdrste",
			"cannot be told"},
		{"UTF-8 that is cut off", "SKU|Title\n" + strings.Repeat("A|Küche\n", 20) + "B|B\xc3", "", charset.UTF8, "B\ufffd", "cut off"},
		{"UTF-32", "\xff\xfe\x00\x00" + string(appended(charset.UTF32, "SKU|Title\nA|Küche\n")), "", charset.UTF8, "Küche", ""},
		{"UTF-16 in Greek, without a mark", string(appended(charset.UTF16BE, "SKU|Τίτλος\nA|Κερί\n")), "", charset.UTF8, "Κερί", ""},
		{"ISO-2022-JP", string(appended(charset.ISO2022JP, "SKU|題名\nA|巣箱\n")), "", charset.UTF8, "巣箱", ""},
		{"rows of two systems", "SKU|Title\nA|K\xfcche\nB|Gl\xe4ser\nC|B\xfcrste\nD|Öl\nE|für Gäste\nF|größer\n", "", charset.UTF8, "größer",
			""},
		{"UTF-8 that says so, with more than one", "\ufeffSKU|Title\nA|Küche\nB|\x8cwieca \xbf\xf3\xb3ta, B\xf3br, \xa3\xf3d\x9f\n", "",
			charset.UTF8, "Świeca żółta, Bóbr, Łódź", ""},
		{"UTF-8, as one says", "SKU|Title\nA|B\xfcrste f\xfcr die K\xfcche\n", "utf-8", charset.UTF8, "Bürste für die Küche", ""},
	} {
		path := filepath.Join(t.TempDir(), "list.csv")
		require.NoError(t, os.WriteFile(path, []byte(test.content), 0o666))
		table, err := Open(path, Options{Reading: Reading{Encoding: test.encoding}})
		require.NoError(t, err, test.name)
		last := ""
		require.NoError(t, table.Each(func() {}, func(r *catalogue.Row) { last = strings.Clone(r.Cell(1)) }), test.name)
		assert.Equal(t, test.want, table.Form.Charset, test.name)
		assert.Equal(t, test.last, last, test.name)
		assert.Equal(t, test.doubt != "", table.Doubt != "", "%s: %s", test.name, table.Doubt)
		assert.Contains(t, table.Doubt, test.doubt, test.name)
		require.NoError(t, table.Close())
	}
}

// TestWide: files of two bytes a character, or of one or two, come out like those in
// UTF-8, whatever bytes their characters are made of.
func TestWide(t *testing.T) {
	const content = "SKU,Title\r\nA,\"Küche, 表 ソ ☃ 🐝\"\r\nB,Ċ , Ā\r\n" // with bytes of commas, marks and line ends inside characters
	wide := func(order binary.AppendByteOrder, mark bool) string {
		var b []byte
		if mark {
			b = order.AppendUint16(b, 0xfeff)
		}
		for _, u := range utf16.Encode([]rune(content)) {
			b = order.AppendUint16(b, u)
		}
		return string(b)
	}
	sjis, err := japanese.ShiftJIS.NewEncoder().String("SKU,Title\nA,表 ソ 能\n")
	require.NoError(t, err)
	both := [][]string{{"A", "Küche, 表 ソ ☃ 🐝"}, {"B", "Ċ ", " Ā"}}
	for _, test := range []struct {
		name, content, encoding, kind string
		want                          [][]string
	}{
		{"little endian", wide(binary.LittleEndian, true), "", "UTF-16LE", both},
		{"big endian", wide(binary.BigEndian, true), "", "UTF-16BE", both},
		{"little endian without a mark", wide(binary.LittleEndian, false), "", "UTF-16LE", both},
		{"big endian without a mark", wide(binary.BigEndian, false), "", "UTF-16BE", both},
		{"Shift_JIS", sjis, "sjis", "Shift_JIS", [][]string{{"A", "表 ソ 能"}}},
		{"cut in the middle", wide(binary.LittleEndian, true)[:len(wide(binary.LittleEndian, true))-3], "", "UTF-16LE",
			[][]string{both[0], {"B", "Ċ ", " Ā\ufffd"}}},
	} {
		dir := t.TempDir()
		path := filepath.Join(dir, "list.csv")
		require.NoError(t, os.WriteFile(path, []byte(test.content), 0o666))
		spool := t.TempDir()
		table, err := Open(path, Options{Reading: Reading{Encoding: test.encoding}, Spool: spool})
		require.NoError(t, err, test.name)
		rows, _ := rowsOf(t, table, 40)
		assert.Equal(t, test.want, rows, test.name)
		assert.Contains(t, table.Kind(), test.kind, test.name)
		assert.NoError(t, table.CheckUnchanged())
		require.NoError(t, table.Close())
		left, err := os.ReadDir(spool)
		require.NoError(t, err)
		assert.Empty(t, left, "the spool is removed")
	}
}

func encoded(t *testing.T, c *charmap.Charmap, s string) string {
	t.Helper()
	out, err := c.NewEncoder().String(s)
	require.NoError(t, err)
	return out
}

// TestTooWide: the limit of columns holds for every kind of file.
func TestTooWide(t *testing.T) {
	path := filepath.Join(t.TempDir(), "list.csv")
	require.NoError(t, os.WriteFile(path, []byte("SKU"+strings.Repeat(",x", 16_384)+"\nA\n"), 0o666))
	_, err := Open(path, Options{})
	assert.ErrorIs(t, err, ErrTooWide)
	assert.ErrorContains(t, err, "16385")
}

func appended(c charset.Charset, text string) []byte {
	raw, _, _ := c.Append(nil, []byte(text))
	return raw
}

// BenchmarkOpen: what a short list is, and what its columns mean, is found out.
func BenchmarkOpen(b *testing.B) {
	path := filepath.Join(b.TempDir(), "list.csv")
	line := "SKU,EAN,Title,Description,Price,Stock,Brand\n"
	require.NoError(b, os.WriteFile(path, []byte(line+benchmarkData()[:60_000]), 0o666))
	for b.Loop() {
		t, err := Open(path, Options{})
		if err != nil {
			b.Fatal(err)
		}
		t.Close()
	}
}
