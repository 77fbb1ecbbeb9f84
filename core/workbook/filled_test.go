package workbook

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"zetanum/internal/brief"
	"zetanum/internal/outside"
)

// fillBook fills a workbook and returns it, and what a reader should find.
func fillBook(t *testing.T, book []byte, f Filling, cell func(row, col int) Fill) (filled []byte, want map[Place]string, err error) {
	t.Helper()
	b, err := Open(bytes.NewReader(book), int64(len(book)))
	require.NoError(t, err)
	var out bytes.Buffer
	want = make(map[Place]string)
	err = b.Fill(&out, f, func(do func([]Fill) error) error {
		for n := range f.Rows {
			cells := make([]Fill, len(f.Columns))
			for i := range cells {
				cells[i] = cell(n, i)
			}
			if err := do(cells); err != nil {
				return err
			}
		}
		return nil
	}, func(row, col int, text string) { want[Place{col, row}] = text })
	return out.Bytes(), want, err
}

// cellsFrom reads the cells of a sheet from a row on, and what it asks of its cells.
func cellsFrom(t *testing.T, book []byte, name string, first int) (cells map[Place]string, demands []Demand) {
	t.Helper()
	b, err := Open(bytes.NewReader(book), int64(len(book)))
	require.NoError(t, err)
	cells = make(map[Place]string)
	for _, s := range b.Sheets {
		if s.Name != name {
			continue
		}
		require.NoError(t, b.Rows(s, func(row *Row) error {
			for _, c := range row.Cells {
				if row.Number >= first {
					cells[Place{c.Col, row.Number}] = strings.Clone(c.Text)
				}
			}
			return nil
		}))
		demands, err = b.Demands(s)
		require.NoError(t, err)
	}
	return cells, demands
}

// members returns the parts of an archive by name.
func members(t *testing.T, book []byte) map[string]string {
	t.Helper()
	z, err := zip.NewReader(bytes.NewReader(book), int64(len(book)))
	require.NoError(t, err)
	parts := make(map[string]string)
	for _, f := range z.File {
		in, err := f.Open()
		require.NoError(t, err)
		content, err := io.ReadAll(in)
		require.NoError(t, err)
		parts[f.Name] = string(content)
	}
	return parts
}

// A formToFill is a form, and how it is filled.
type formToFill struct {
	name    string
	first   int
	samples []int
	columns int
	other   []string // parts besides the sheet that become others
}

var formsToFill = []formToFill{
	{"t2", 6, []int{6}, 25, []string{"xl/styles.xml"}}, {"t3", 4, []int{4, 5}, 21, []string{"xl/styles.xml"}}, {"t4", 2, nil, 18, []string{"xl/styles.xml", "xl/tables/table1.xml"}},
	{"t6", 5, []int{5}, 250, []string{"xl/styles.xml"}}, {"t5", 6, []int{6, 7}, 24, []string{}},
}

// path returns where the form lies.
func (f *formToFill) path(t *testing.T) string {
	found, err := filepath.Glob(filepath.Join("..", "template", "testdata", f.name, "template.*"))
	require.NoError(t, err)
	return found[0]
}

// fill fills a form with 700 rows, and looks what has become of it.
func (f *formToFill) fill(t *testing.T, path string) (filled []byte, sheet string, want map[Place]string, asking int) {
	book, err := os.ReadFile(path)
	require.NoError(t, err)
	b := opened(t, book)
	for _, s := range b.Sheets { // the one that asks something of its cells
		if d, _ := b.Demands(s); len(d) > 0 {
			sheet = s.Name
		}
	}
	filled, want, err = fillBook(t, book, Filling{Sheet: sheet, First: f.first, Rows: 700, Samples: f.samples, Columns: slices.Repeat([]bool{true}, f.columns)}, func(row, col int) Fill {
		switch col % 5 {
		case 0:
			return Fill{Text: fmt.Sprintf("0%d_%d <&\"> ö", row, col)}
		case 1:
			return Fill{Text: fmt.Sprintf("%d.50", row), Value: fmt.Sprintf("%d.5", row)}
		case 2:
			return Fill{Text: fmt.Sprintf("95212340%05d", row), Code: true}
		case 3:
			return Fill{Text: "31.12.2025", Value: "2025-12-31", Date: true}
		}
		return Fill{}
	})
	require.NoError(t, err)
	got, demands := cellsFrom(t, filled, sheet, f.first)
	assert.True(t, maps.Equal(want, got), path)
	before, after := members(t, book), members(t, filled)
	var other []string
	for name := range before {
		if before[name] != after[name] {
			other = append(other, name)
		}
	}
	slices.Sort(other)
	assert.Len(t, after, len(before))
	own := slices.DeleteFunc(slices.Clone(other), func(n string) bool { return !strings.HasPrefix(n, "xl/worksheets/") && n != "content.xml" })
	assert.Len(t, own, 1, path)
	assert.Equal(t, f.other, slices.DeleteFunc(other, func(n string) bool { return slices.Contains(own, n) }), path)
	_, asks := cellsFrom(t, book, sheet, f.first)
	require.Len(t, demands, len(asks))
	for i, d := range demands {
		for j, a := range d.Areas {
			was := asks[i].Areas[j]
			if was.Row <= f.first && was.ToRow >= f.first {
				was.ToRow = max(was.ToRow, f.first+699)
			}
			assert.Equal(t, was, a, path)
		}
	}
	return filled, sheet, want, len(asks)
}

// TestFillForms: forms of several makings come back as they were, with the products in them: what they ask of cells reaches to the last of
// these, and another reader and a real office suite find the same; those of the suite's own making, too.
func TestFillForms(t *testing.T) {
	t.Parallel()
	type filledForm struct {
		*formToFill
		sheet  string
		cells  map[Place]string
		asking int
	}
	list := brief.Sample(formsToFill, len(formsToFill))
	forms := make(map[string]filledForm)
	dir := t.TempDir()
	var paths, plain []string
	for i := range list {
		form := &list[i]
		path := form.path(t)
		filled, sheet, want, asking := form.fill(t, path)
		out := filepath.Join(dir, form.name+filepath.Ext(path))
		require.NoError(t, os.WriteFile(out, filled, 0o666))
		paths, forms[form.name] = append(paths, out), filledForm{form, sheet, want, asking}
		if filepath.Ext(path) == ".ods" {
			continue
		}
		named := filepath.Join(dir, "plain-"+form.name+".xlsx")
		book, err := os.ReadFile(path)
		require.NoError(t, err)
		require.NoError(t, os.WriteFile(named, book, 0o666))
		plain = append(plain, named)
		theirs, err := excelize.OpenReader(bytes.NewReader(filled))
		require.NoError(t, err)
		for place, text := range want {
			cell := ColumnName(place.Col-1) + fmt.Sprint(place.Row)
			raw, err := theirs.GetCellValue(sheet, cell, excelize.Options{RawCellValue: true})
			require.NoError(t, err)
			if raw != text && !strings.HasPrefix(text, "2025-") {
				t.Fatalf("%s %s: %q, and not %q", form.name, cell, raw, text)
			}
		}
		require.NoError(t, theirs.Close())
	}
	made := outside.Convert(t, "ods", plain...)
	for i := range list {
		form := list[i]
		path := filepath.Join(made, "plain-"+form.name+".ods")
		if form.other = []string{}; form.name == "t5" {
			continue
		}
		filled, sheet, want, asking := form.fill(t, path)
		require.NoError(t, os.WriteFile(path, filled, 0o666))
		paths, forms["plain-"+form.name] = append(paths, path), filledForm{&form, sheet, want, asking}
	}
	office := outside.Convert(t, "xlsx", paths...)
	for name, form := range forms {
		book, err := os.ReadFile(filepath.Join(office, name+".xlsx"))
		require.NoError(t, err)
		got, demands := cellsFrom(t, book, form.sheet, form.first)
		assert.True(t, maps.Equal(form.cells, got), "%s, saved again", name)
		assert.GreaterOrEqual(t, 2*len(demands), form.asking, "%s: what it asks of its cells", name)
	}
}

// filledBook returns a form of one sheet, given what stands behind its third row and behind its rows.
func filledBook(t *testing.T, prefix, rows, behind string, more ...string) []byte {
	t.Helper()
	p := func(s string) string {
		return strings.NewReplacer("</", "</"+prefix, "<", "<"+prefix).Replace(s)
	}
	parts := []string{
		"[Content_Types].xml", `<Types><Override PartName="/xl/calcChain.xml" ContentType="c"/><Override PartName="/xl/sheet.xml" ContentType="w"/></Types>`,
		"xl/workbook.xml", `<workbook><sheets><sheet name="In" id="s"/></sheets></workbook>`,
		"xl/_rels/workbook.xml.rels", `<Relationships><Relationship Id="s" Type="/worksheet" Target="sheet.xml"/><Relationship Id="y" Type="/styles" Target="styles.xml"/><Relationship Id="c" Type="/calcChain" Target="calcChain.xml"/></Relationships>`,
		"xl/calcChain.xml", `<calcChain/>`, "xl/vbaProject.bin", "macros",
		"xl/styles.xml", p(`<styleSheet><cellXfs count="3"><xf/><xf numFmtId="49"/><xf numFmtId="14"/></cellXfs></styleSheet>`),
		"xl/sheet.xml", `<?xml version="1.0"?>` + p(`<worksheet><dimension ref="A1:C4"/><sheetData><row r="1"><c r="A1" t="str"><v>Code</v></c></row>`+rows+`</sheetData>`+behind+`</worksheet>`),
	}
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for i := 0; i < len(parts)+len(more); i += 2 {
		all := append(slices.Clone(parts), more...)
		w, err := z.Create(all[i])
		require.NoError(t, err)
		_, err = io.WriteString(w, all[i+1])
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

// TestFill: what is done to the sheet, byte by byte, and what is refused.
func TestFill(t *testing.T) {
	t.Parallel()
	const rows = `<row r="2" ht="20"><c r="A2" s="1" t="str"><v>sample</v></c><c r="B2" s="2"><v>45000</v></c><c r="C2"><f>A2*2</f><v>7</v></c></row>` +
		`<row r="3"><c r="A3" t="str"><v>sample</v></c><c r="D3" t="str"><v>sample</v></c></row>` + `<row r="5" hidden="1"><c r="C5" s="1"/></row>`
	const behind = `<mergeCells count="2"><mergeCell ref="A1:B1"/><mergeCell ref="A3:B3"></mergeCell></mergeCells><conditionalFormatting sqref="A2:A3 C9"></conditionalFormatting>` +
		`<dataValidations><dataValidation type="list" sqref="B2:B3"/></dataValidations><hyperlinks><hyperlink ref="A2" id="x"/></hyperlinks><extLst><sqref>A2:A3</sqref></extLst>`
	f := Filling{Sheet: "In", First: 2, Rows: 3, Samples: []int{2, 3}, Columns: []bool{true, true, false}}
	fill := func(row, col int) Fill {
		if col == 0 {
			return Fill{Text: fmt.Sprintf("%03d", row), Value: fmt.Sprint(row)}
		}
		return Fill{Text: "31.12.2025", Value: "2025-12-31", Date: true}
	}
	for _, prefix := range []string{"", "x:"} {
		book, want, err := fillBook(t, filledBook(t, prefix, rows, behind), f, fill)
		require.NoError(t, err)
		parts := members(t, book)
		plain := func(name string) string { return strings.ReplaceAll(parts[name], prefix, "") }
		assert.Equal(t, `<?xml version="1.0"?><worksheet><dimension ref="A1:C4"/><sheetData><row r="1"><c r="A1" t="str"><v>Code</v></c></row>`+
			`<row r="2" ht="20"><c r="A2" s="1" t="inlineStr"><is><t xml:space="preserve">000</t></is></c><c r="B2" s="2"><v>46022</v></c><c r="C2"><f>A2*2</f></c></row>`+
			`<row r="3"><c r="A3" s="1" t="inlineStr"><is><t xml:space="preserve">001</t></is></c><c r="B3" s="2"><v>46022</v></c></row>`+
			`<row r="4" ht="20"><c r="A4" s="1" t="inlineStr"><is><t xml:space="preserve">002</t></is></c><c r="B4" s="2"><v>46022</v></c></row>`+
			`<row r="5"><c r="C5" s="1"/></row></sheetData>`+
			`<mergeCells count="1"><mergeCell ref="A1:B1"/></mergeCells><conditionalFormatting sqref="A2:A4 C9"></conditionalFormatting>`+
			`<dataValidations><dataValidation type="list" sqref="B2:B4"/></dataValidations><extLst><sqref>A2:A4</sqref></extLst></worksheet>`, plain("xl/sheet.xml"))
		assert.Contains(t, plain("xl/styles.xml"), `<cellXfs count="4"><xf/><xf numFmtId="49"/><xf numFmtId="14"/><xf numFmtId="49" `)
		assert.NotContains(t, parts, "xl/calcChain.xml")
		assert.NotContains(t, parts["[Content_Types].xml"]+parts["xl/_rels/workbook.xml.rels"], "calcChain")
		assert.Equal(t, "macros", parts["xl/vbaProject.bin"])
		got, _ := cellsFrom(t, book, "In", 2)
		delete(got, Place{3, 2})
		assert.Equal(t, want, got)
	}
	few := f
	few.Rows = 1
	book, _, err := fillBook(t, filledBook(t, "", rows, behind), few, fill)
	require.NoError(t, err)
	assert.NotContains(t, members(t, book)["xl/sheet.xml"], "sample")
	// where rows are prepared that are no samples, products look like these, but a date stays one
	const grey = `<row r="2" ht="20"><c r="A2" s="0"/><c r="B2" s="2"/></row><row r="3"><c r="A3" s="0"/></row><row r="4" ht="9"><c r="A4" s="1"/></row>`
	book, _, err = fillBook(t, filledBook(t, "", grey, ""), f, fill)
	require.NoError(t, err)
	for _, row := range []string{`<row r="2" ht="9"><c r="A2" s="1" `, `<c r="B2" s="2"><v>`, `<row r="3" ht="9"><c r="A3" s="1" `, `<c r="B4" s="2"><v>`} {
		assert.Contains(t, members(t, book)["xl/sheet.xml"], row)
	}
	for format, is := range map[string]string{"9": "inlineStr", "2": "<v>7</v>"} { // percent would show 7 as 700 %
		styled := strings.NewReplacer(`<xf numFmtId="49"/>`, `<xf numFmtId="`+format+`"/>`)
		plain := filledBook(t, "", `<row r="2"><c r="A2" s="1"/></row>`, "")
		parts := members(t, plain)
		parts["xl/styles.xml"] = styled.Replace(parts["xl/styles.xml"])
		book, _, err := fillBook(t, written(t, parts), Filling{Sheet: "In", First: 2, Rows: 1, Columns: []bool{true}}, func(int, int) Fill { return Fill{Text: "7", Value: "7"} })
		require.NoError(t, err)
		assert.Contains(t, members(t, book)["xl/sheet.xml"], is)
	}
	book, want, err := fillBook(t, filledBook(t, "", "", ""), f, fill)
	require.NoError(t, err)
	got, _ := cellsFrom(t, book, "In", 2)
	assert.Equal(t, want, got)

	const table = `<Relationships><Relationship Id="t" Type="/table" Target="table.xml"/></Relationships>`
	for says, book := range map[string][]byte{
		"row 4 of the sheet In something stands that is no sample": filledBook(t, "", rows+`<row r="4"><c r="A4" t="str"><v>Thank you</v></c></row>`, ""),
		"it is signed":        filledBook(t, "", rows, "", "_xmlsignatures/sig1.xml", "x"),
		"has a row of totals": filledBook(t, "", rows, "", "xl/_rels/sheet.xml.rels", table, "xl/table.xml", `<table displayName="T" ref="A1:C3" totalsRowCount="1"/>`),
	} {
		_, _, err := fillBook(t, book, f, fill)
		assert.ErrorIs(t, err, ErrUnfillable)
		assert.ErrorContains(t, err, says)
	}
	f.Sheet = "Out"
	_, _, err = fillBook(t, filledBook(t, "", rows, ""), f, fill)
	assert.ErrorIs(t, err, ErrUnfillable)
}

// readsBack looks whether a sheet has what was put in, if it can be read at all.
func readsBack(t *testing.T, b *Book, s *Sheet, want map[Place]string) {
	t.Helper()
	got := make(map[Place]string)
	if err := b.Rows(s, func(row *Row) error {
		for _, c := range row.Cells {
			got[Place{c.Col, row.Number}] = strings.Clone(c.Text)
		}
		return nil
	}); err != nil {
		return
	}
	for place, text := range want {
		if got[place] != text {
			t.Fatalf("%v: %q, and not %q", place, got[place], text)
		}
	}
}

// FuzzFill: a form of any making is filled so that what was put in is read again, or refused.
func FuzzFill(f *testing.F) {
	f.Add(`<row r="2"><c r="A2" s="1"><v>1</v></c></row>`, `<mergeCells><mergeCell ref="A2:B2"/></mergeCells>`)
	f.Add(`<row><c><is><t>x</t></is></c></row><row r="9"/>`, `<dataValidation sqref="A2:A9"/>`)
	f.Fuzz(func(t *testing.T, rows, behind string) {
		book := filledBook(t, "", rows, behind)
		filling := Filling{Sheet: "In", First: 2, Rows: 4, Samples: []int{2, 3}, Columns: []bool{true, false, true}}
		filled, want, err := fillBook(t, book, filling, func(row, col int) Fill { return Fill{Text: fmt.Sprintf("%d.%d", row, col)} })
		if err != nil || strings.Contains(rows+behind, "sheetData") || strings.Contains(rows, "<!--") || strings.Contains(rows+behind, "<![") || strings.Contains(rows+behind, "<?") {
			return
		}
		b, err := Open(bytes.NewReader(filled), int64(len(filled)))
		if err != nil {
			t.Fatal(err)
		}
		readsBack(t, b, b.Sheets[0], want)
	})
}

// BenchmarkFill fills a form of 21 columns with 10,000 rows.
func BenchmarkFill(b *testing.B) {
	book, err := os.ReadFile(filepath.Join("..", "template", "testdata", "t3", "template.xlsx"))
	require.NoError(b, err)
	form, err := Open(bytes.NewReader(book), int64(len(book)))
	require.NoError(b, err)
	sheet := form.Sheets[slices.IndexFunc(form.Sheets, func(s *Sheet) bool { d, _ := form.Demands(s); return len(d) > 0 })].Name
	cells := make([]Fill, 21)
	for i := range cells {
		cells[i] = Fill{Text: "A text of some words"}
	}
	f := Filling{Sheet: sheet, First: 4, Rows: 10_000, Samples: []int{4, 5}, Columns: slices.Repeat([]bool{true}, len(cells))}
	b.ReportAllocs()
	for b.Loop() {
		require.NoError(b, form.Fill(io.Discard, f, func(do func([]Fill) error) error {
			for range f.Rows {
				if err := do(cells); err != nil {
					return err
				}
			}
			return nil
		}, func(int, int, string) {}))
	}
	b.ReportMetric(float64(b.Elapsed().Nanoseconds())/float64(b.N)/10_000/21, "ns/cell")
}
