package workbook

import (
	"archive/zip"
	"bytes"
	"fmt"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
)

// said returns the cells of a sheet by their names, with what kind they are: n, d, b, e
// or t, and f for formulas, ? if their value is not stored.
func said(t testing.TB, b *Book, s *Sheet) map[string]string {
	cells := make(map[string]string)
	require.NoError(t, b.Rows(s, func(row *Row) error {
		for _, c := range row.Cells {
			name, err := excelize.CoordinatesToCellName(c.Col, row.Number)
			require.NoError(t, err)
			kind := "tndbex"[c.Kind : c.Kind+1]
			if c.Formula {
				kind += "f"
			}
			if c.Unknown {
				kind += "?"
			}
			cells[name] = kind + " " + strings.Clone(c.Text)
		}
		return nil
	}))
	return cells
}

// written returns a workbook of the parts given; those that are missing are as simple
// as can be.
func written(t testing.TB, parts map[string]string) []byte {
	t.Helper()
	all := map[string]string{
		"_rels/.rels":                `<Relationships xmlns="x"><Relationship Id="r1" Type="http://x/officeDocument" Target="xl/workbook.xml"/></Relationships>`,
		"xl/workbook.xml":            `<workbook xmlns="x" xmlns:r="y"><sheets><sheet name="A &amp; B" sheetId="1" r:id="s1"/></sheets></workbook>`,
		"xl/_rels/workbook.xml.rels": `<Relationships><Relationship Id="s1" Type="x/worksheet" Target="worksheets/sheet1.xml"/><Relationship Id="t" Type="x/styles" Target="/xl/styles.xml"/><Relationship Id="u" Type="x/sharedStrings" Target="sharedStrings.xml"/></Relationships>`,
		"xl/styles.xml":              `<styleSheet><numFmts><numFmt numFmtId="164" formatCode="dd/mm/yy"/><numFmt numFmtId="165" formatCode="0.00&quot;m&quot;"/></numFmts><cellStyleXfs><xf numFmtId="14"/></cellStyleXfs><cellXfs><xf numFmtId="0"/><xf numFmtId="14"/><xf numFmtId="164"/><xf numFmtId="165"/><xf numFmtId="11"/></cellXfs></styleSheet>`,
	}
	for name, content := range parts {
		all[name] = content
	}
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for name, content := range all {
		w, err := z.Create(name)
		require.NoError(t, err)
		_, err = w.Write([]byte(content))
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return out.Bytes()
}

func sheetOf(rows string) map[string]string {
	return map[string]string{"xl/worksheets/sheet1.xml": `<worksheet><sheetData>` + rows + `</sheetData></worksheet>`}
}

// TestCells: what is stored is read, however it is written.
func TestCells(t *testing.T) {
	texts := `<sst><si><t>shared</t></si><si><r><t xml:space="preserve">rich </t></r><r><t>text</t></r><rPh><t>aloud</t></rPh></si><si><t>a_x000D_b &lt;&#233;&gt; _x005F_x0041_</t></si><si/><si><t><![CDATA[<raw>]]></t></si><si><t>a_x0041_c</t></si><si><t xml:space="preserve"> d </t></si></sst>`
	for _, test := range []struct{ name, row, want string }{
		{"numbers", `<c r="A1"><v>9521234000013</v></c><c r="B1"><v>9.5212340000130001E12</v></c><c r="C1"><v>0.1</v></c><c r="D1"><v>1E-3</v></c><c r="E1" t="n"><v>-5</v></c><c r="F1" s="4"><v>952123400001300000</v></c><c r="G1"><v>952123400001234565</v></c><c r="H1"><v>9.5212340000123456E+17</v></c>`, "A1=n 9521234000013 B1=n 9521234000013 C1=n 0.1 D1=n 0.001 E1=n -5 F1=n 952123400001300000 G1=n 952123400001234565 H1=n 952123400001234560"},
		{"texts", `<c r="A1" t="s"><v>0</v></c><c r="B1" t="s"><v>1</v></c><c r="C1" t="s"><v>2</v></c><c r="D1" t="s"><v>3</v></c><c r="E1" t="s"><v>4</v></c>`, "A1=t shared B1=t rich text C1=t a\rb <é> _x0041_ E1=t <raw>"},
		{"texts within", `<c r="A1" t="inlineStr"><is><t>in</t><r><t>line</t></r></is></c><c r="B1" t="str"><f>A1&amp;"x"</f><v>a &amp; b</v></c><c r="C1" t="inlineStr"><is><t/></is></c>`, "A1=t inline B1=tf a & b"},
		{"texts as they are written most", `<c r="A1" t="inlineStr"><is><t>a_x0041_</t></is></c><c r="B1" s="1" t="inlineStr"><is><t xml:space="preserve"> b </t></is></c><c r="C1" t="inlineStr"><v>c_x0041_</v></c><c r="D1" t="str"><v>d_x0041_</v></c><c r="E1" t="inlineStr"><is><t></t></is></c><c r="F1" t="s"><v>5</v></c><c r="G1" t="s"><v>6</v></c><c r="H1" vm="1" t="str"><v>&lt;</v></c><c r="I1" t="inlineStr"><is><t>a<!-- b -->c</t></is></c>`,
			"A1=t aA B1=t  b  C1=t c_x0041_ D1=t dA F1=t aAc G1=t  d  H1=t < I1=t ac"},
		{"without names", `<c><v>1</v></c><c/><c t="b"><v>1</v></c><c t="b"><v>0</v></c>`, "A1=n 1 C1=b TRUE D1=b FALSE"},
		{"dates", `<c r="A1" s="1"><v>46083</v></c><c r="B1" s="2"><v>46083.5</v></c><c r="C1" s="3"><v>46083</v></c><c r="D1" t="d"><v>2026-03-02T00:00:00</v></c><c r="E1" t="d"><v>2026-03-02T08:30:00Z</v></c><c r="F1" s="1"><v>1</v></c><c r="G1" s="1"><v>60.99999999</v></c><c r="H1" s="1"><v>0.25</v></c><c r="I1" s="1"><v>-1</v></c>`,
			"A1=d 2026-03-02 B1=d 2026-03-02 12:00:00 C1=n 46083 D1=d 2026-03-02 E1=d 2026-03-02 08:30:00 F1=d 1900-01-01 G1=d 1900-03-01 H1=d 06:00:00 I1=n -1"},
		{"formulas", `<c r="A1"><f>1+1</f><v>2</v></c><c r="B1"><f>X()</f></c><c r="C1" t="str"><f t="shared" si="0"/><v></v></c><c r="D1" t="e"><f>1/0</f><v>#DIV/0!</v></c><c r="E1" t="e"><v>#REF!</v></c>`, "A1=nf 2 B1=tf?  C1=tf  D1=ef #DIV/0! E1=e #REF!"},
		{"prefixes and comments", `<x:c r='B1'><!-- > --><x:v>7</x:v><x:extLst><x:v>8</x:v></x:extLst></x:c>` +
			"<c\n r = \"$D$1\"\t><v> 5 </v></c>", "B1=n 7 D1=n 5"},
		{"out of order", `<c r="C1"><v>1</v></c><c r="A1"><v>2</v></c>`, "C1=n 1 D1=n 2"},
		{"a text that is not there", `<c r="A1" t="s"><v>7</v></c><c r="B1" t="s"><v>x</v></c><c r="C1" t="s"><v>0</v></c>`,
			`A1=x text number "7" B1=x text number "x" C1=t shared`},
		{"two of one address", `<c r="A1"><v>1</v></c><c r="B1"><v>2</v></c><c r="B1"><v>3</v></c><c r="C1"><v>4</v></c>`, "A1=n 1 B1=x 2 C1=n 4"},
		{"no number", `<c r="A1"><v>abc</v></c><c r="B1" s="1"><v>x</v></c>`, "A1=t abc B1=t x"},
	} {
		// As it is, and with a space in each tag, so that it is read token by token.
		for _, wide := range []*strings.Replacer{strings.NewReplacer(), strings.NewReplacer("<c ", "<c  ", "<si>", "<si >")} {
			parts := sheetOf(wide.Replace(`<row r="1">` + test.row + `</row>`))
			parts["xl/sharedStrings.xml"] = wide.Replace(texts)
			data := written(t, parts)
			b, err := Open(bytes.NewReader(data), int64(len(data)))
			require.NoError(t, err, test.name)
			cells := said(t, b, b.Sheets[0])
			got := ""
			for col := range 10 {
				name := string(rune('A'+col)) + "1"
				if c, ok := cells[name]; ok {
					got += " " + name + "=" + c
				}
			}
			assert.Equal(t, test.want, got[min(1, len(got)):], test.name)
		}
	}
}

// TestSheets: sheets are listed with what is not shown in them, and rows keep their
// numbers.
func TestSheets(t *testing.T) {
	data := written(t, map[string]string{
		"xl/workbook.xml":            `<workbook><workbookPr date1904="1"/><sheets><sheet name="One" r:id="s1"/><sheet name="Chart" r:id="c"/><sheet name="Two" state="veryHidden" r:id="s2"/></sheets></workbook>`,
		"xl/_rels/workbook.xml.rels": `<Relationships><Relationship Id="s1" Type="x/worksheet" Target="worksheets/sheet1.xml"/><Relationship Id="c" Type="x/chartsheet" Target="c.xml"/><Relationship Id="s2" Type="x/worksheet" Target="Worksheets\Sheet2.xml"/><Relationship Id="t" Type="x/styles" Target="styles.xml"/></Relationships>`,
		"xl/worksheets/sheet1.xml":   `<worksheet><cols><col min="2" max="3" hidden="1"/><col min="4" max="4"/></cols><sheetData><row r="2" hidden="1"><c><v>1</v></c></row><row r="4"/><row><c s="1"><v>0</v></c></row></sheetData><autoFilter ref="A1:B2"/><mergeCells><mergeCell ref="A1:C2"/></mergeCells></worksheet>`,
		"xl/worksheets/sheet2.xml":   "\xff\xfe" + utf16le(`<?xml version="1.0" encoding="UTF-16"?><worksheet><sheetData><row><c t="str"><v>ü</v></c></row></sheetData></worksheet>`),
	})
	b, err := Open(bytes.NewReader(data), int64(len(data)))
	require.NoError(t, err)
	require.Len(t, b.Sheets, 2)
	one, two := b.Sheets[0], b.Sheets[1]
	assert.Equal(t, map[string]string{"A2": "n 1", "A5": "d 1904-01-01"}, said(t, b, one))
	assert.Equal(t, []Range{{2, 3}}, one.HiddenColumns)
	assert.Equal(t, []Area{{1, 1, 3, 2}}, one.Merged)
	assert.True(t, one.HiddenRows == 1 && one.Filtered && !one.Hidden && two.Hidden && one.Name == "One")
	assert.Equal(t, map[string]string{"A1": "t ü"}, said(t, b, two))
}

func utf16le(s string) string {
	var b strings.Builder
	for _, r := range s {
		b.WriteByte(byte(r))
		b.WriteByte(byte(r >> 8))
	}
	return b.String()
}

// TestBroken: what is no workbook, or a hostile one, is refused by name.
func TestBroken(t *testing.T) {
	open := func(data []byte) error {
		b, err := Open(bytes.NewReader(data), int64(len(data)))
		if err != nil {
			return err
		}
		return b.Rows(b.Sheets[0], func(*Row) error { return nil })
	}
	for _, test := range []struct {
		name string
		data []byte
		want error
	}{
		{"no archive", []byte("PK\x03\x04rest"), ErrNotWorkbook},
		{"another archive", written(t, map[string]string{"_rels/.rels": "<x/>", "xl/workbook.xml": "<workbook/>"}), ErrNotWorkbook},
		{"no such sheet", written(t, nil), ErrDamaged},
		{"cut", written(t, map[string]string{"xl/worksheets/sheet1.xml": `<worksheet><sheetData><row><c><v>1`}), ErrDamaged},
		{"cut in a tag", written(t, map[string]string{"xl/worksheets/sheet1.xml": `<worksheet><sheetData><row r="`}), ErrDamaged},
		{"a document type", written(t, map[string]string{"xl/worksheets/sheet1.xml": `<!DOCTYPE x [<!ENTITY a "b">]><worksheet/>`}),
			ErrDoctype},
		{"too many columns", written(t, sheetOf(`<row><c r="XFE1"><v>5</v></c></row>`)), ErrDamaged},
		{"too many rows", written(t, sheetOf(`<row r="1048577"><c><v>5</v></c></row>`)), ErrDamaged},
		{"it unpacks to very much", written(t, sheetOf(strings.Repeat(" ", 100<<20))), ErrTooLarge},
	} {
		assert.ErrorIs(t, open(test.data), test.want, test.name)
	}
}

// TestRelations: a part that a relation leads to in vain is named, and missed only where it is needed.
func TestRelations(t *testing.T) {
	const there = `<row><c r="A1"><v>5</v></c></row>`
	rels := func(sheet, more string) string {
		return `<Relationships><Relationship Id="s1" Type="x/worksheet" Target="` + sheet + `/>` + more + `</Relationships>`
	}
	for _, test := range []struct{ name, rels, row, want string }{
		{"as an address", rels(`./work%73heets/sheet1.xml"`, ""), there, ""},
		{"a sheet nowhere", rels(`worksheets/sheet9.xml"`, ""), there, "its relation s1 (worksheet) leads to xl/worksheets/sheet9.xml, which it does not have"},
		{"a sheet outside", rels(`https://stock.example/1.xml" TargetMode="External"`, ""), there, "leads out of it, to https://stock.example/1.xml"},
		{"a sheet above", rels(`../../../private/sheet1.xml"`, ""), there, "leads out of it, to ../../../private/sheet1.xml"},
		{"no relation", `<Relationships/>`, there, `xl/workbook.xml has no relation "s1", which should lead to it`},
		{"cut", `<Relationships><Relationship Id="s1"`, there, "xl/_rels/workbook.xml.rels: the workbook is damaged"},
		{"texts nowhere", rels(`worksheets/sheet1.xml"`, `<Relationship Id="u" Type="x/sharedStrings" Target="texts.xml"/>`), `<row><c r="B7" t="s"><v>0</v></c></row>`, "the text of column B is one of those that cells share: the workbook is damaged: its relation u (sharedStrings) leads to xl/texts.xml"},
		{"texts nowhere, not needed", rels(`worksheets/sheet1.xml"`, `<Relationship Id="u" Type="x/sharedStrings" Target="texts.xml"/>`), there, ""},
		{"no texts", rels(`worksheets/sheet1.xml"`, ""), `<row><c r="A1" t="s"><v>0</v></c></row>`, "no relation of xl/workbook.xml leads to them"},
		{"styles nowhere", rels(`worksheets/sheet1.xml"`, `<Relationship Id="t" Type="x/styles" Target="forms.xml"/>`), `<row><c r="A1" s="2"><v>45000</v></c></row>`, "only its style says whether the number of column A is a date"},
		{"styles nowhere, not needed", rels(`worksheets/sheet1.xml"`, `<Relationship Id="t" Type="x/styles" Target="forms.xml"/>`), there, ""},
	} {
		parts := sheetOf(test.row)
		parts["xl/_rels/workbook.xml.rels"] = test.rels
		data := written(t, parts)
		b, err := Open(bytes.NewReader(data), int64(len(data)))
		if err == nil {
			err = b.Rows(b.Sheets[0], func(*Row) error { return nil })
		}
		if test.want == "" {
			assert.NoError(t, err, test.name)
			continue
		}
		assert.ErrorIs(t, err, ErrDamaged, test.name)
		assert.ErrorContains(t, err, test.want, test.name)
	}
}

// TestAsTheLibrary: workbooks of other writers give the cells that the library gives.
func TestAsTheLibrary(t *testing.T) {
	books := map[string][]byte{"library": libraryBook(t, 50, false), "library, in a stream": libraryBook(t, 50, true)}
	files, err := filepath.Glob("testdata/*.xlsx")
	require.NoError(t, err)
	for _, f := range files {
		books[f], err = os.ReadFile(f)
		require.NoError(t, err)
	}
	for name, data := range books {
		ours, err := Open(bytes.NewReader(data), int64(len(data)))
		require.NoError(t, err, name)
		theirs, err := excelize.OpenReader(bytes.NewReader(data), excelize.Options{RawCellValue: true})
		require.NoError(t, err, name)
		for _, s := range ours.Sheets {
			cells := said(t, ours, s)
			rows, err := theirs.GetRows(s.Name, excelize.Options{RawCellValue: true})
			require.NoError(t, err, name)
			count := 0
			for r, row := range rows {
				for c, raw := range row {
					at, _ := excelize.CoordinatesToCellName(c+1, r+1)
					if raw == "" {
						continue
					}
					count++
					kind, text, _ := strings.Cut(cells[at], " ")
					same := text == raw
					if value, err := strconv.ParseFloat(raw, 64); err == nil && !same {
						switch kind[0] {
						case 'n':
							got, err := strconv.ParseFloat(text, 64)
							same = err == nil && got == value
						case 'd':
							when, err := excelize.ExcelDateToTime(value, false)
							same = err == nil && strings.HasPrefix(when.Round(time.Second).Format("2006-01-02 15:04:05"), text)
						case 'b':
							same = (text == "TRUE") == (value == 1)
						}
					}
					assert.True(t, same, "%s, sheet %s, %s: %q and %q", name, s.Name, at, cells[at], raw)
				}
			}
			assert.Positive(t, count, name)
		}
		require.NoError(t, theirs.Close())
	}
}

// libraryBook returns a workbook of products as the library writes it.
func libraryBook(t testing.TB, rows int, stream bool) []byte {
	t.Helper()
	book := excelize.NewFile()
	defer book.Close()
	shown, err := book.NewStyle(&excelize.Style{NumFmt: 11})
	require.NoError(t, err)
	day, err := book.NewStyle(&excelize.Style{NumFmt: 14})
	require.NoError(t, err)
	row := func(n int) []any {
		list := []any{fmt.Sprintf("LRA-%05d", n), excelize.Cell{StyleID: shown, Value: 9521234000000 + n},
			"Smoker <&> “Räucher” no. " + strconv.Itoa(n), float64(n) + 0.95, n%2 == 0,
			excelize.Cell{StyleID: day, Value: 46000 + n}, "line\nbreak", " spaces ", "_x0041_"}
		for len(list) < 20 {
			list = append(list, fmt.Sprintf("text %d of %d", len(list), n%97))
		}
		return list
	}
	if stream {
		w, err := book.NewStreamWriter("Sheet1")
		require.NoError(t, err)
		for n := 1; n <= rows; n++ {
			require.NoError(t, w.SetRow("A"+strconv.Itoa(n), row(n)))
		}
		require.NoError(t, w.Flush())
	} else {
		for n := 1; n <= rows; n++ {
			for c, value := range row(n) {
				at, _ := excelize.CoordinatesToCellName(c+1, n)
				if cell, ok := value.(excelize.Cell); ok {
					require.NoError(t, book.SetCellStyle("Sheet1", at, at, cell.StyleID))
					value = cell.Value
				}
				require.NoError(t, book.SetCellValue("Sheet1", at, value))
			}
		}
	}
	var out bytes.Buffer
	require.NoError(t, book.Write(&out))
	return out.Bytes()
}

// FuzzRows: whatever is in a sheet, it is read or refused.
func FuzzRows(f *testing.F) {
	for _, s := range []string{`<row r="3"><c r="B3" t="inlineStr"><is><t>x</t></is></c></row>`,
		`<row><c><f>1</f></c><c t="b"><v>1</v></c>`, `<![CDATA[`, `<row><c s="1"><v>1e300</v></c></row><!-- -->`,
		`<row><c t="str"><v>_x00`} {
		f.Add(s, s)
	}
	f.Fuzz(func(t *testing.T, rows, strings string) {
		parts := sheetOf(rows)
		parts["xl/sharedStrings.xml"] = strings
		data := written(t, parts)
		b, err := Open(bytes.NewReader(data), int64(len(data)))
		require.NoError(t, err)
		last := 0
		b.Rows(b.Sheets[0], func(row *Row) error {
			assert.Greater(t, row.Number, last)
			last = row.Number
			col := 0
			for _, c := range row.Cells {
				assert.True(t, c.Col > col && c.Col <= MostColumns)
				col = c.Col
				assert.True(t, c.Text != "" || c.Formula)
			}
			return nil
		})
	})
}

// BenchmarkRows reads 100,000 rows of twenty cells, here and with the library.
func BenchmarkRows(b *testing.B) {
	for name, stream := range map[string]bool{"shared": false, "inline": true} {
		data := libraryBook(b, 100_000, stream)
		b.Run(name+"/here", func(b *testing.B) {
			b.SetBytes(int64(len(data)))
			for b.Loop() {
				book, err := Open(bytes.NewReader(data), int64(len(data)))
				require.NoError(b, err)
				cells := 0
				require.NoError(b, book.Rows(book.Sheets[0], func(row *Row) error { cells += len(row.Cells); return nil }))
				require.Equal(b, 2_000_000, cells)
			}
		})
		b.Run(name+"/library", func(b *testing.B) {
			b.SetBytes(int64(len(data)))
			for b.Loop() {
				book, err := excelize.OpenReader(bytes.NewReader(data), excelize.Options{RawCellValue: true})
				require.NoError(b, err)
				rows, err := book.Rows("Sheet1")
				require.NoError(b, err)
				cells := 0
				for rows.Next() {
					row, err := rows.Columns()
					require.NoError(b, err)
					cells += len(row)
				}
				require.NoError(b, rows.Close())
				require.NoError(b, book.Close())
				require.Equal(b, 2_000_000, cells)
			}
		})
	}
}
