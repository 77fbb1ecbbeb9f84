package products

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/heading"
)

// sheetOf returns the columns and rows of a small table: cells separated by |.
func sheetOf(head string, lines ...string) (*catalogue.Columns, []*catalogue.Row) {
	c := &catalogue.Columns{Headings: strings.Split(head, "|")}
	c.Fields = heading.Fields(c.Headings, nil)
	var rows []*catalogue.Row
	for i, line := range lines {
		rows = append(rows, &catalogue.Row{Number: i + 2, Cells: strings.Split(line, "|")})
	}
	return c, rows
}

func TestRoles(t *testing.T) {
	none := func(int) bool { return false }
	name := func(roles []catalogue.Role) string {
		var all []string
		for _, r := range roles {
			all = append(all, map[catalogue.Role]string{0: "-", catalogue.Lead: "L", catalogue.Variant: "V",
				catalogue.Lead | catalogue.Variant: "LV", catalogue.ImageRow: "I"}[r])
		}
		return strings.Join(all, " ")
	}
	const head = "Parent SKU|SKU|Title|Price|Colour|Image|Note"
	for _, test := range []struct {
		name, head string
		lines      []string
		aside      int
		rules      Rules
		want       string
	}{
		{"one row", head, []string{"||Box||||"}, -1, Rules{}, "LV"},
		{"variants and images", head, []string{"|B1|Box|9|red|1.jpg|", "|B2||9|blue||", "|||||2.jpg|", "||||green||"}, -1, Rules{},
			"LV V I V"},
		{"a parent is not sold", head, []string{"|B|Box|||1.jpg|", "B|B1||9|red||", "B|B2||9|blue||"}, -1, Rules{}, "L V V"},
		{"a lead row without anything that is sold", head, []string{"||Box|||1.jpg|", "|B1||9|red||"}, -1, Rules{}, "L V"},
		{"the same SKU again is another image", head, []string{"|B1|Box|9||1.jpg|", "|B1||||2.jpg|", "|B1||||3.jpg|"}, -1, Rules{},
			"LV I I"},
		{"a price that is repeated is no variant", head, []string{"|B1|Box|9|red|1.jpg|", "|||9||2.jpg|", "|||8|||"}, -1, Rules{},
			"LV I V"},
		{"the first row is aside", head, []string{"||||||", "|B1|Box|9|red||", "|||||2.jpg|"}, 0, Rules{}, "- LV I"},
		{"nothing of either", head, []string{"|B1|Box|9|red||", "||||||a note"}, -1, Rules{}, "LV -"},
		{"declared", head, []string{"|B1|Box|9|red||", "||||||a note"}, -1, Rules{VariantFields: []string{"Note"}}, "LV V"},
		{"declared otherwise", head, []string{"|B1|Box|9|red||", "||||blue||"}, -1,
			Rules{ProductFields: []string{"colour"}, ImageFields: []string{"Note"}}, "LV -"},
		{"all is said in every row", head, []string{"|B1|Box|9|red|1.jpg|", "|B2|Box|9|blue|2.jpg|"}, -1, Rules{}, "LV V"},
	} {
		sheet, rows := sheetOf(test.head, test.lines...)
		layout, err := test.rules.For(sheet, new(columns.Rules))
		require.NoError(t, err, test.name)
		aside := none
		if test.aside >= 0 {
			aside = func(i int) bool { return i == test.aside }
		}
		assert.Equal(t, test.want, name(layout.Roles(nil, rows, aside)), test.name)
	}
	sheet, _ := sheetOf(head)
	_, err := (&Rules{VariantFields: []string{"Farbe"}}).For(sheet, new(columns.Rules))
	assert.ErrorIs(t, err, columns.ErrWrong)
	assert.NotEmpty(t, (&Rules{VariantFields: []string{"Note"}, ImageFields: []string{"note "}}).Check())
}

func TestBelongs(t *testing.T) {
	sheet, rows := sheetOf("SKU|Title|Price|Image|Alt text|Note", "A|Box|9|1.jpg||", "B||9|||", "|||2.jpg||")
	layout, err := new(Rules).For(sheet, new(columns.Rules))
	require.NoError(t, err)
	roles := layout.Roles(nil, rows, func(int) bool { return false })
	for col, want := range map[int]string{1: "100", 2: "110", 4: "101", 5: "111"} {
		got := ""
		for i, row := range rows {
			got += map[bool]string{true: "1", false: "0"}[layout.Belongs(col, row, roles[i])]
		}
		assert.Equal(t, want, got, sheet.Headings[col])
	}
}
