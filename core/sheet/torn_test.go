package sheet

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"zetanum/core/catalogue"
)

// TestTorn: a number that a decimal comma without quotation marks tore in two is put together, if
// it is clear which; nothing else moves.
func TestTorn(t *testing.T) {
	table := &Table{Columns: catalogue.Columns{Headings: []string{"SKU", "EAN", "Title"}, Fields: make([]catalogue.Field, 3)}}
	table.Form.Separator = ','
	rejoin := table.Rejoin()
	for row, want := range map[string]string{
		"A|9|52123E+12|Smoker":       "A|9,52123E+12|Smoker",
		"9|5E+3|9521234000013|Brush": "9,5E+3|9521234000013|Brush", // it is said with a finding
		"9|5E+3|9|5E+3":              "9|5E+3|9|5E+3",              // which of the two?
		"A|9|52123E+12":              "A|9|52123E+12",              // no cell too many
		"A|9|E+12|Smoker":            "A|9|E+12|Smoker",
		"A|x9|52123E+12|Smoker":      "A|x9|52123E+12|Smoker",
		"A|9|52123E-12|Smoker":       "A|9|52123E-12|Smoker",
		"A|9|52123E+12|Smoker|x":     "A|9|52123E+12|Smoker|x",
	} {
		cells := strings.Split(row, "|")
		r := &catalogue.Row{Cells: cells, Marks: make([]catalogue.Mark, len(cells)), Spans: make([]catalogue.Span, len(cells))}
		rejoin(r)
		assert.Equal(t, want, strings.Join(r.Cells, "|"), row)
	}
	quoted := &catalogue.Row{Cells: []string{"A", "9", "5E+12", "x"}, Marks: []catalogue.Mark{0, catalogue.Quoted, 0, 0}}
	rejoin(quoted)
	assert.Len(t, quoted.Cells, 4, "whoever writes quotation marks did not forget them")
	table.Form.Separator = ';'
	assert.Nil(t, table.Rejoin())
}
