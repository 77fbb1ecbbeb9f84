package steps

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"zetanum/core/catalogue"
	"zetanum/core/line"
)

// TestSane: what prices, pictures, dates and titles are written like is let be, whatever the trade and the
// country, and what cannot be one is seen.
func TestSane(t *testing.T) {
	for _, cell := range []string{"12", "12.50", "12,50", "1.234,50", "1 234.50", "€ 12.50", "12,50 €", "12.50 EUR", "CHF 12.–", "kr 99,-", "99 kr.", "$5",
		"USD5.00", "-3", "0", "zł 10", "1'299.00", "£1,299"} {
		assert.True(t, isPrice(cell), cell)
	}
	for _, cell := range []string{"on request", "TBC", "-", "12/15", "10-12", "from 12", "12.50 per kg of it", "20%", "1.2.3.4,5.", "€", "see list"} {
		assert.False(t, isPrice(cell), cell)
	}
	for cell, want := range map[string]string{
		"2026-03-01": "20260301", "2026-03-01T10:00:00Z": "20260301", "1.3.2026": "20260301", "03/04/2026": "", "soon": "", "": "",
	} {
		assert.Equal(t, want, sortable(cell), cell)
	}
	for cell, want := range map[string]bool{
		"Smoker <b>large</b>": true, "a<br/>b": true, `<a href="x">y</a>`: true, "Size < 5 mm": false, "a < b > c": false, "<5 mm": false, "I <3 bees": false,
	} {
		assert.Equal(t, want, tag.MatchString(cell), cell)
	}
}

// TestAtHome: how the values of two columns are counted does not depend on how a sheet is cut.
func TestAtHome(t *testing.T) {
	product := func(brand, kind string) *catalogue.Product {
		return &catalogue.Product{Rows: []*catalogue.Row{{Cells: []string{brand, kind}}}}
	}
	rows := []*catalogue.Product{product("Ding", "Bell"), product("Ding", "Bell"), product("Bell", "Ding"), product("Glow", ""), product("", "Lamp")}
	whole := &homes{brand: 0, kind: 1}
	for _, p := range rows {
		whole.Learn(p)
	}
	assert.True(t, whole.at("Bell", true) && whole.at("Ding", false))
	assert.False(t, whole.at("Glow", true) || whole.at("Lamp", false))
	want, err := whole.AppendBinary(nil)
	assert.NoError(t, err)
	for cut := range len(rows) + 1 {
		parts := [2]*homes{{brand: 0, kind: 1}, {brand: 0, kind: 1}}
		for i, p := range rows {
			n := 0
			if i >= cut {
				n = 1
			}
			parts[n].Learn(p)
		}
		var merged line.Aggregate = parts[0]
		merged.Merge(parts[1])
		got, err := merged.AppendBinary(nil)
		assert.NoError(t, err)
		assert.Equal(t, want, got, cut)
	}
}
