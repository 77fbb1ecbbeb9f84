package workbook

import (
	"bytes"
	"fmt"
	"maps"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// declared are the names that a document of OpenDocument begins with.
func declared() (attrs string) {
	for _, p := range openPrefixes {
		attrs += fmt.Sprintf(` xmlns:%s="%s"`, p[0], p[1])
	}
	return attrs
}

// openForm returns a form of OpenDocument: its styles, the rows below the headings, and what stands behind its sheet.
func openForm(t testing.TB, styles, rows, behind string, more ...string) []byte {
	t.Helper()
	content := xmlHead + `<office:document-content` + declared() + `>` + styles + `<office:body><office:spreadsheet><table:table table:name="Other"><table:table-row><table:table-cell/></table:table-row></table:table>` +
		`<table:table table:name="In"><table:table-column table:number-columns-repeated="2"/><table:table-column table:default-cell-style-name="day"/>` +
		`<table:table-header-rows><table:table-row><table:table-cell office:value-type="string"><text:p>Code</text:p></table:table-cell></table:table-row></table:table-header-rows>` + rows +
		`</table:table>` + behind + `</office:spreadsheet></office:body></office:document-content>`
	return odsOf(t, content, more...)
}

// TestFillOpen: what is done to a form of OpenDocument, byte by byte, and what is refused.
func TestFillOpen(t *testing.T) {
	t.Parallel()
	const styles = `<office:automatic-styles><number:text-style style:name="N1"><number:text-content/></number:text-style><number:date-style style:name="N2"/>` +
		`<style:style style:name="code" style:family="table-cell" style:data-style-name="N1"/><style:style style:name="day" style:family="table-cell" style:data-style-name="N2"/></office:automatic-styles>`
	const sample = `<table:table-row table:style-name="r"><table:table-cell table:style-name="code" table:content-validation-name="v" office:value-type="string" table:number-columns-spanned="2"><office:annotation><text:p>note</text:p></office:annotation><text:p>sample</text:p></table:table-cell>` +
		`<table:covered-table-cell/><table:table-cell office:value-type="date" office:date-value="2024-01-02"><text:p>x</text:p></table:table-cell><table:table-cell table:formula="of:=[.A2]" office:value-type="float" office:value="7"><text:p>7</text:p></table:table-cell><table:table-cell table:number-columns-repeated="9"/></table:table-row>`
	const rest = `<table:table-row table:number-rows-repeated="3"><table:table-cell table:number-columns-repeated="13"/></table:table-row>`
	f := Filling{Sheet: "In", First: 2, Rows: 3, Samples: []int{2}, Columns: []bool{true, true, true, false}}
	fill := func(row, col int) Fill {
		return []Fill{{Text: fmt.Sprintf("%03d", row), Value: fmt.Sprint(row)}, {Text: "9  <\t&\r\nb", Code: true}, {Text: "31.12.2025", Value: "2025-12-31", Date: true}, {}}[col]
	}
	const behind = `<table:database-ranges><table:database-range table:target-range-address="In.A2:In.C3"/><table:database-range table:target-range-address="$'Other'.A2:Other.C3"/></table:database-ranges>` +
		`<calcext:conditional-format calcext:target-range-address="In.C2:In.C2 In.A9:In.A9"/>`
	product := func(n, tail string) string {
		return `<table:table-cell table:style-name="code" table:content-validation-name="v" office:value-type="string">` + n + `</text:p></table:table-cell>` +
			`<table:table-cell table:style-name="text1" office:value-type="string" office:string-value="9  &lt;&#9;&amp;&#10;b"><text:p>9<text:s text:c="2"/>&lt;<text:tab/>&amp;</text:p><text:p>b</text:p></table:table-cell>` +
			`<table:table-cell office:value-type="date" office:date-value="2025-12-31"><text:p>31.12.2025</text:p></table:table-cell>` + tail + `</table:table-row>`
	}
	want := `<table:table-row table:style-name="r">` + product(`<office:annotation><text:p>note</text:p></office:annotation><text:p>000`, `<table:table-cell table:formula="of:=[.A2]"></table:table-cell><table:table-cell table:number-columns-repeated="9"/>`) +
		`<table:table-row>` + product(`<text:p>001`, `<table:table-cell table:number-columns-repeated="10"/>`) + `<table:table-row>` + product(`<text:p>002`, `<table:table-cell table:number-columns-repeated="10"/>`) +
		`<table:table-row><table:table-cell table:number-columns-repeated="13"/></table:table-row></table:table>`
	book, wrote, err := fillBook(t, openForm(t, styles, sample+rest, behind, "Thumbnails/thumbnail.png", "picture"), f, fill)
	require.NoError(t, err)
	parts := members(t, book)
	head, rows, _ := strings.Cut(parts["content.xml"], `</table:table-header-rows>`)
	assert.Contains(t, head, `<number:text-style style:name="text1"><number:text-content/></number:text-style><style:style style:name="text1" style:family="table-cell" style:parent-style-name="Default" style:data-style-name="text1"><style:table-cell-properties style:cell-protect="none"/></style:style></office:automatic-styles>`)
	rows, after, _ := strings.Cut(rows, `</table:table>`)
	assert.Equal(t, want, rows+`</table:table>`)
	assert.Equal(t, strings.Replace(strings.Replace(behind, "In.A2:In.C3", "In.A2:In.C4", 1), "In.C2:In.C2", "In.C2:In.C4", 1)+`</office:spreadsheet></office:body></office:document-content>`, after)
	assert.Equal(t, "picture", parts["Thumbnails/thumbnail.png"])
	got, _ := cellsFrom(t, book, "In", 2)
	delete(got, Place{4, 2}) // the formula
	assert.Equal(t, wrote, got)

	// where rows are prepared that are no samples, products look like these, but a date stays one
	const grey = `<table:table-row table:style-name="r"><table:table-cell table:style-name="grey" table:content-validation-name="v"/><table:table-cell table:style-name="day"/><table:table-cell table:style-name="code"/></table:table-row>`
	const plain = `<table:table-row><table:table-cell table:style-name="code"/></table:table-row>`
	book, _, err = fillBook(t, openForm(t, styles, grey+plain, ""), f, func(row, col int) Fill { return fill(row, []int{0, 2, 0, 0}[col]) })
	require.NoError(t, err)
	for _, row := range []string{`<table:table-row><table:table-cell table:style-name="code" table:content-validation-name="v" office:value-type="string"><text:p>000<`, `<table:table-cell table:style-name="day" office:value-type="date"`,
		`<table:table-row><table:table-cell table:style-name="code" office:value-type="string"><text:p>002<`} {
		assert.Contains(t, members(t, book)["content.xml"], row)
	}

	for name, test := range map[string]struct {
		f    Filling
		form string
	}{
		"without styles, and with rows of the headings only": {f, strings.Replace(rest, "3", "1", 1)},
		"no rows below":          {Filling{Sheet: "In", First: 5, Rows: 2, Columns: f.Columns}, ""},
		"fewer than the samples": {Filling{Sheet: "In", First: 2, Rows: 1, Samples: []int{2, 3}, Columns: f.Columns}, sample + sample + rest},
		"its own":                {Filling{Sheet: "In", First: 2, Rows: 1, Own: true, Columns: f.Columns}, sample + sample + sample + rest},
		"samples among others":   {Filling{Sheet: "In", First: 2, Rows: 0, Samples: []int{3}, Columns: f.Columns}, rest + sample},
	} {
		book, wrote, err := fillBook(t, openForm(t, "", test.form, ""), test.f, fill)
		require.NoError(t, err, name)
		got, _ := cellsFrom(t, book, "In", 2)
		maps.DeleteFunc(got, func(at Place, cell string) bool { return at.Col == 4 || cell == "sample" && test.f.Rows == 0 })
		maps.DeleteFunc(got, func(_ Place, cell string) bool { return cell == "2024-01-02" && test.f.Rows == 0 })
		assert.Equal(t, wrote, got, name)
	}
	for says, form := range map[string][]byte{
		"row 3 of the sheet In something stands that is no sample": openForm(t, styles, sample+sample, ""),
		"it is signed":                     openForm(t, styles, sample, "", "META-INF/documentsignatures.xml", "x"),
		"its content.xml text: stands for": odsOf(t, xmlHead+`<x xmlns:text="urn:mine"><table name="In"><table-row><table-cell/></table-row></table></x>`),
	} {
		_, _, err := fillBook(t, form, f, fill)
		assert.ErrorIs(t, err, ErrUnfillable)
		assert.ErrorContains(t, err, says)
	}
	_, _, err = fillBook(t, openForm(t, styles, sample+rest, ""), f, func(int, int) Fill { return Fill{Text: "bell \a"} })
	assert.ErrorIs(t, err, ErrNoRoom)
}

// FuzzFillOpen: a form of any making is filled so that what was put in is read again, or refused.
func FuzzFillOpen(f *testing.F) {
	f.Add(`<table:table-row table:number-rows-repeated="3"><table:table-cell table:number-columns-repeated="2"><text:p>x</text:p></table:table-cell></table:table-row>`, `<table:table-row/>`, 1)
	f.Add(`<table:table-row-group><table:table-row><table:table-cell/></table:table-row></table:table-row-group>`, `<table:table-row table:number-rows-repeated="99999999"/>`, 3)
	f.Fuzz(func(t *testing.T, rows, behind string, first int) {
		if strings.Contains(rows+behind, "table:table>") || strings.Contains(rows+behind, "name") || strings.Contains(rows+behind, "<!") || strings.Contains(rows+behind, "<?") {
			return
		}
		filling := Filling{Sheet: "In", First: 2 + max(0, first%5), Rows: 4, Samples: []int{2, 3}, Columns: []bool{true, false, true}}
		form := openForm(t, "", rows+behind, "")
		if _, err := Open(bytes.NewReader(form), int64(len(form))); err != nil {
			return
		}
		filled, want, err := fillBook(t, form, filling, func(row, col int) Fill { return Fill{Text: fmt.Sprintf("%d.%d", row, col)} })
		if err != nil {
			return
		}
		b := opened(t, filled)
		readsBack(t, b, b.Sheets[1], want)
	})
}
