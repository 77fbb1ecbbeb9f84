package export

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
	"zetanum/core/line"
	"zetanum/core/sheet"
)

// TestPriceChanges: the largest changes come first, those without a percentage last, and what is only written otherwise is none.
func TestPriceChanges(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, line.FileNames[3]), []byte(`{"row":2,"column":"Price","field":"price","before":"10,00 €","after":"11.00","rule":"order.amount"}
{"row":3,"column":"Price","field":"price","before":"12,90","after":"12.90","rule":"order.amount"}
{"row":4,"column":"Price","field":"price","before":"9.00","after":"0.90","rule":"order.amount"}
{"row":5,"column":"Floor","field":"floor_price","before":"","after":"4.60","rule":"order.amount","source":"Cost 4.00: plus 15 %"}
{"row":6,"column":"Price","field":"price","before":"1.234","after":"1234","rule":"order.amount"}
{"row":7,"column":"Title","field":"title","before":"a","after":"b","rule":"order.replace"}
{"row":8,"column":"Price","field":"price","before":"7.00","after":"14.00","rule":"order.amount"}
{"row":9,"column":"Sale","field":"sale_price","before":"0","after":"","rule":"order.amount"}
`), 0o666))
	list, count, err := PriceChanges(dir)
	require.NoError(t, err)
	var got [][]string
	for i := range list {
		got = append(got, list[i].Cells())
	}
	assert.Equal(t, 4, count)
	assert.Equal(t, [][]string{{"4", "Price", "9.00", "0.90", "-90.0", ""}, {"8", "Price", "7.00", "14.00", "+100.0", ""}, {"2", "Price", "10,00 €", "11.00", "+10.0", ""},
		{"5", "Floor", "", "4.60", "", "Cost 4.00: plus 15 %"}}, got)
	list, count, err = PriceChanges(t.TempDir())
	assert.NoError(t, err)
	assert.Zero(t, count+len(list))
}

// TestMayChangePrices: the changes of a run are read for prices unless none can be among them.
func TestMayChangePrices(t *testing.T) {
	columns := &catalogue.Columns{Headings: []string{"Title", "Was", "Mine"}, Fields: []catalogue.Field{catalogue.Title, catalogue.Price, catalogue.Unknown}}
	for _, test := range []struct {
		report line.Report
		want   bool
	}{
		{line.Report{}, false},
		{line.Report{Repaired: []line.RepairCount{{Col: 0}, {Col: 2}}}, false},
		{line.Report{Repaired: []line.RepairCount{{Col: 0}, {Col: 1}}}, true},
		{line.Report{Joined: 1}, true}, // each cell of a row that was joined or made is told of
		{line.Report{Added: 1}, true},
	} {
		assert.Equal(t, test.want, MayChangePrices(&test.report, columns), test.report)
	}
}

// TestMargins: what is left of prices, the least first, as it is to the decimal.
func TestMargins(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, MarginsName), []byte("Row,SKU,Column,Cost,Price,Too little\n2,A,Price,5.00,10.00,\n"+
		"3,B,Price,5.57,9.07,too little\n4,C,Price,3.16,5.14,too little\n5,D,Price,12,8.00,too little\n6,E,Price,1,1000,\n7,F,Price,3.33333333333333333,9.99,\n8,G,Price,0,5,\n"), 0o666))
	headings, rows, count, err := Margins(dir, sheet.Form{Separator: ','})
	require.NoError(t, err)
	assert.Equal(t, []string{"Row", "SKU", "Column", "Cost", "Price", "Left, %", "Too little"}, headings)
	assert.Equal(t, 7, count)
	var got []string
	for _, cells := range rows {
		got = append(got, cells[1]+" "+cells[5])
	}
	assert.Equal(t, []string{"D -50.0", "C 38.5", "B 38.6", "A 50.0", "F 66.6", "E 99.9", "G 100.0"}, got)
}
