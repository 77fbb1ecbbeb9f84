package products

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
)

// checked returns what a layout finds in a product, each as "code row: what it says", and nothing behind the colon if that is all.
func checked(t *testing.T, rules Rules, head string, lines ...string) (found []string) {
	t.Helper()
	sheet, rows := sheetOf(head, lines...)
	layout, err := rules.For(sheet, new(columns.Rules))
	require.NoError(t, err)
	none := func(int) bool { return false }
	p := &catalogue.Product{Rows: rows, Roles: layout.Roles(nil, rows, none)}
	layout.Check(p, none, func(code catalogue.Code, index, col int, facts catalogue.Facts) {
		f := catalogue.Finding{Code: code, Row: rows[index].Number, Col: col, Cell: rows[index].Cell(col), Facts: facts}
		require.NotContains(t, f.Sentence(), "{", "a sentence with a gap")
		found = append(found, strings.TrimRight(fmt.Sprintf("%s %d: %s", code, f.Row, strings.TrimSpace(facts.Other+" "+facts.Decides)),
			" "))
	})
	return found
}

func TestCheck(t *testing.T) {
	const pairs = "SKU|Title|Option 1 name|Option 1 value|Option 2 name|Option 2 value"
	const plain = "SKU|MPN|Title|Price|Colour|Size|Image"
	for _, test := range []struct {
		name, head string
		rules      Rules
		lines      []string
		want       []string
	}{
		{"all well", plain, Rules{}, []string{"A|m1|Veil|9|red|S|1.jpg", "B|m2||9|red|M|", "||||||2.jpg"}, nil},
		{"no price", plain, Rules{}, []string{"A|m1|Veil||red|S|", "B|m2||9|blue|M|", "||||||2.jpg"}, []string{"variant.no-price 2:"}},
		{"a price that is a space", plain, Rules{}, []string{"A|m1|Veil| |red|S|"}, []string{"variant.no-price 2:"}},
		{"prices belong to the product", plain, Rules{ProductFields: []string{"price"}}, []string{"A|m1|Veil|9|red|S|", "B|m2|||blue|S|"},
			nil},
		{"the title stands below", plain, Rules{}, []string{"A|m1||9|red|S|", "B|m2|Veil|9|blue|S|"}, []string{"product.no-lead 2:"}},
		{"no title at all", plain, Rules{}, []string{"A|m1||9|red|S|", "B|m2||9|blue|S|"}, nil},
		{"titles differ", plain, Rules{}, []string{"A|m1|Veil|9|red|S|", "B|m2|Hood|9|blue|S|", "C|m3|Veil|9|grey|S|"},
			[]string{"product.differs 3: Veil"}},
		{"tags in the row of an image", "SKU|Title|Tags|Image", Rules{}, []string{"A|Veil||1.jpg", "||clothes|2.jpg"},
			[]string{"product.misplaced 3:"}},
		{"tags differ", "SKU|Title|Tags|Image", Rules{}, []string{"A|Veil|hats|1.jpg", "||clothes|2.jpg"},
			[]string{"product.differs 3: hats"}},
		{"children have titles", "Parent SKU|SKU|Title|Brand", Rules{}, []string{"|P|Veil|b", "P|P1|Veil, S|c"},
			[]string{"product.differs 3: b"}},
		{"two slugs", "Set|Slug|SKU|Title", Rules{}, []string{"1|a|A|x", "1|b|B|", "1||C|"}, []string{"product.keys-differ 3: a"}},

		{"an option is missing", pairs, Rules{}, []string{"A|Veil|Colour|red|Size|S", "B|||blue||M", "C|||grey||"},
			[]string{"option.missing 4:"}},
		{"both are missing in one", pairs, Rules{}, []string{"A|Veil|Colour|red|Size|S", "B|||||"},
			[]string{"option.missing 3:", "option.missing 3:"}},
		{"alike", pairs, Rules{}, []string{"A|Veil|Colour|red|Size|S", "B|||blue||S", "C||| RED ||s"}, []string{"option.alike 4: RED / s"}},
		{"alike in three", pairs, Rules{}, []string{"A|Veil|Colour|red||", "B|||red||", "C|||red||"},
			[]string{"option.alike 3: red", "option.alike 4: red"}},
		{"two names", pairs, Rules{}, []string{"A|Veil|Colour|red||", "B||Color|blue||", "C||colour|grey||"},
			[]string{"option.names 3: Colour"}},
		{"a name nowhere", pairs, Rules{}, []string{"A|Veil||red||", "B|||blue||"}, []string{"option.no-name 2: red"}},
		{"a name below", pairs, Rules{}, []string{"A|Veil||red||", "B||Colour|blue||"}, nil},
		{"none", pairs, Rules{}, []string{"A|Veil||||", "B|||||", "C|||||"}, []string{"option.none 3:"}},
		{"none, but a note differs", pairs + "|Note", Rules{}, []string{"A|Veil|||||thin", "B||||||thick"},
			[]string{`option.none 3: They differ in the column "Note", thin and thick.`}},
		{"one variant needs none", pairs, Rules{}, []string{"A|Veil||||"}, nil},
		{"colours are perhaps missing", plain, Rules{}, []string{"A|m1|Veil|9|red||", "B|m2||9|||"}, []string{"option.perhaps-missing 3:"}},
		{"colours are perhaps alike", plain, Rules{}, []string{"A|m1|Veil|9|red||", "B|m2||9|red||"},
			[]string{"option.perhaps-alike 3: red"}},
		{"told apart by a column", plain + "|Cut", Rules{ToldApartBy: []string{"Cut"}},
			[]string{"A|m1|Veil|9|red|||slim", "B|m2||9|red|||wide"}, nil},
		{"not told apart by it", plain + "|Cut", Rules{ToldApartBy: []string{"Cut"}},
			[]string{"A|m1|Veil|9|red|||slim", "B|m2||9|blue|||slim"}, []string{"option.alike 3: slim"}},

		{"a slip", plain, Rules{}, []string{"A||Veil|9|Black|S|", "B|||9|Black|M|", "C|||9|Blak|L|", "D|||9|Black|XL|"},
			[]string{"value.misspelt 4: Black"}},
		{"no slip: it comes again", plain, Rules{}, []string{"A||Veil|9|Black|S|", "B|||9|Black|M|", "C|||9|Blak|S|", "D|||9|Black|XL|",
			"E|||9|Blak|M|"}, nil},
		{"no slip: a number", plain, Rules{}, []string{"A||Veil|9|red|100 g|", "B|||9|blue|100 g|", "C|||9|grey|100 g|",
			"D|||9|red|200 g|"}, nil},
		{"no slip: too few", plain, Rules{}, []string{"A||Veil|9|Black|S|", "B|||9|Black|M|", "C|||9|Blak|S|"}, nil},

		{"an SKU that was copied", pairs, Rules{}, []string{"A|Veil|Size|S||", "A|||M||"}, []string{"variant.same-sku 3:"}},
		{"one SKU of all, perhaps", plain, Rules{}, []string{"A|m1|Veil|9|red||", "A|m2||9|blue||"}, []string{"variant.copied 3:"}},
		{"an SKU of an image row", plain, Rules{}, []string{"A|m1|Veil|9|red||1.jpg", "A||||||2.jpg"}, nil},
		{"a number that was copied", plain, Rules{}, []string{"A|m1|Veil|9|red||", "B|m2||9|blue||", "C|m2||9|grey||"},
			[]string{"variant.copied 4:"}},
		{"one number of all", plain, Rules{}, []string{"A|m|Veil|9|red||", "B|m||9|blue||", "C|m||9|grey||"}, nil},
		{"an image that was copied", plain, Rules{}, []string{"A||Veil|9|red||1.jpg", "B|||9|blue||2.jpg", "C|||9|grey||2.jpg"},
			[]string{"variant.copied 4:"}},
		{"an image for a colour", plain, Rules{}, []string{"A||Veil|9|red|S|1.jpg", "B|||9|red|M|1.jpg", "C|||9|grey|S|2.jpg"}, nil},
	} {
		assert.Equal(t, test.want, checked(t, test.rules, test.head, test.lines...), test.name)
	}
}

// TestCheckLeavesOut: rows that are aside are no part of a product.
func TestCheckLeavesOut(t *testing.T) {
	sheet, rows := sheetOf("SKU|Title|Price|Option 1 name|Option 1 value", "||||", "A|Veil|9|Size|S", "A|Veil|9|Size|S", "B|||Size|M")
	layout, err := new(Rules).For(sheet, new(columns.Rules))
	require.NoError(t, err)
	aside := func(i int) bool { return i == 0 || i == 2 }
	p := &catalogue.Product{Rows: rows, Roles: layout.Roles(nil, rows, aside)}
	var found []string
	layout.Check(p, aside, func(code catalogue.Code, index, _ int, _ catalogue.Facts) {
		found = append(found, fmt.Sprint(code, " ", index))
	})
	assert.Equal(t, []string{"variant.no-price 3"}, found)
}

// TestOptionColumns: pairs of columns for the name and the value of an option are known in
// several languages; without any, colour, size and material are taken.
func TestOptionColumns(t *testing.T) {
	for head, want := range map[string]struct {
		options  []Option
		declared bool
	}{
		"SKU|Option1 Name|Option1 Value|Option2 Name|Option2 Value":        {[]Option{{1, 2}, {3, 4}}, true},
		"SKU|Attribute 1 name|Attribute 1 value(s)|Attribute 2 value(s)":   {[]Option{{1, 2}, {-1, 3}}, true},
		"SKU|Merkmal 1 Wert|Merkmal 1 Name":                                {[]Option{{2, 1}}, true},
		"SKU|Opción 1 nombre|Opción 1 valor|Option 2":                      {[]Option{{1, 2}, {-1, 3}}, true},
		"SKU|option_1_name|option_1_value":                                 {[]Option{{1, 2}}, true},
		"SKU|Name of option 1|Value of option 1|Value of option 2":         {[]Option{{1, 2}, {-1, 3}}, true},
		"SKU|Option 1 name|Title":                                          {nil, false}, // a name, and no value
		"SKU|Colour|Size|Material|Size":                                    {[]Option{{-1, 1}, {-1, 2}, {-1, 3}}, false},
		"SKU|Optional|Options|Title":                                       {nil, false},
		"SKU|Variant Option 1 Name|Variant Option 1 Value|Colour|Material": {[]Option{{1, 2}}, true},
	} {
		sheet, _ := sheetOf(head)
		options, declared := findOptions(sheet)
		assert.Equal(t, want.options, options, head)
		assert.Equal(t, want.declared, declared, head)
	}
}
