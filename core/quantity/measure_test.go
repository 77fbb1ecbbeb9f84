package quantity

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// TestMeasures: what a text says of a measure, what a column says, and whether the two surely are not the same.
func TestMeasures(t *testing.T) {
	for _, c := range []struct {
		said, has   string
		contradicts bool
	}{
		{"640 g", "640", false}, {"640 g", "610", true}, {"0,64 kg", "640", false}, {"0.64 kg", "640 g", false}, {"640 g", "0.61 kg", true},
		{"12 cm", "120", false}, {"12 cm", "120 mm", false}, {"12 cm", "1.2 m", true}, {"12 cm", "13", true}, {"640", "640 g", false},
		{"1.234 g", "1234", false}, {"1,5 l", "1500 ml", false}, {"12 cm", "12 kg", false}, {"5", "5.0", false}, {"5", "6", true},
	} {
		said, ok := ParseMeasure(c.said)
		assert.True(t, ok, c.said)
		has, ok := ParseMeasure(c.has)
		assert.True(t, ok, c.has)
		assert.Equal(t, c.contradicts, said.Contradicts(has), "%s and %s", c.said, c.has)
		assert.Equal(t, c.contradicts, has.Contradicts(said), "%s and %s", c.has, c.said)
	}
	for _, s := range []string{"", "g", "10–12 cm", "ca. 10 cm", "4 x 3 cm", "10 cm long", "red"} {
		_, ok := ParseMeasure(s)
		assert.False(t, ok, s)
	}
	for heading, unit := range map[string]string{"Weight (g)": "g", "Length in cm": "cm", "Weight": "", "g": "", "Höhe_mm": "mm", "Weight, net": ""} {
		assert.Equal(t, unit, UnitIn(heading), heading)
	}
}
