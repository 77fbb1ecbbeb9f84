package template

import (
	"encoding/csv"
	"strings"
	"testing"
)

// FuzzLearn: whatever stands in a form, it is learnt or refused; its rows and columns are those of the form, and no offer is taken for more
// columns than it has values.
func FuzzLearn(f *testing.F) {
	f.Add("Our form,,\nCode *,Name *,Price\nat most 20 characters,at most 80,\"0,01 to 99\"\nSAMPLE,Sample,9.50\n", 0)
	f.Add("a,b\nrequired,optional\n", 3)
	f.Add("item_sku,item_name\nx,y\n,,,,\n", 2)
	f.Add("Kennung,Datum TT.MM.JJJJ,\"Y or N\",Bild 1,Bild 2\n", 1)
	f.Fuzz(func(t *testing.T, text string, first int) {
		r := csv.NewReader(strings.NewReader(text))
		r.FieldsPerRecord, r.LazyQuotes = -1, true
		rows, err := r.ReadAll()
		if err != nil || len(rows) > 200 {
			return
		}
		form, err := (&source{grids: []*grid{{rows: rows}}}).learn("form.csv")
		if err != nil {
			return
		}
		if form.Headings < 1 || form.Headings > len(rows) || form.First <= form.Headings {
			t.Fatalf("headings in row %d, products from row %d on, of %d", form.Headings, form.First, len(rows))
		}
		for _, s := range form.Samples {
			if s < form.First || s > len(rows) {
				t.Fatalf("a sample in row %d", s)
			}
		}
		var offers []Offer
		for n := range form.Columns {
			form.Says(n)
			o := Offer{Heading: form.Columns[n].Name()}
			for i := max(0, first); i < len(rows); i++ {
				if n < len(rows[i]) {
					o.Cells = append(o.Cells, rows[i][n])
				}
			}
			offers = append(offers, o)
		}
		for n, m := range form.Match(offers) {
			if m.From >= len(offers) || m.Next >= len(offers) || m.From >= 0 && m.Fixed != "" {
				t.Fatalf("column %d: %+v", n, m)
			}
		}
		form.Rows()
		form.Ways.Words()
	})
}
