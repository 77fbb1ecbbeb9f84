package steps

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"zetanum/core/catalogue"
	"zetanum/core/line"
)

// TestSane: what titles are written like is let be, whatever the trade, and what cannot be one is seen.
func TestSane(t *testing.T) {
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
