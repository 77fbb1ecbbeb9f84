package columns

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
	"zetanum/core/heading"
)

func TestFor(t *testing.T) {
	heads := []string{"Art. no.", "EAN", "Title", "Price", "Int. memo"}
	for _, test := range []struct {
		name  string
		rules Rules
		want  string // the headings that go out
		err   string
	}{
		{"nothing ordered", Rules{}, "", ""},
		{"dropped", Rules{Drop: []string{"int. MEMO"}}, "Art. no.,EAN,Title,Price", ""},
		{"dropped before", Rules{Drop: []string{"Warehouse shelf"}}, "Art. no.,EAN,Title,Price,Int. memo", ""},
		{"a second one dropped before", Rules{Drop: []string{"EAN 2"}}, "Art. no.,EAN,Title,Price,Int. memo", ""},
		{"misspelt", Rules{Drop: []string{"Int memos"}}, "", `did you mean "Int. memo"?`},
		{"by field", Rules{Drop: []string{"barcode"}}, "Art. no.,Title,Price,Int. memo", ""},
		{"kept", Rules{Keep: []string{"sku", "Price"}}, "Art. no.,Price", ""},
		{"kept without the key", Rules{Keep: []string{"Price"}, Key: []int{0}}, "", "drop_key = true"},
		{"dropped with the key", Rules{Drop: []string{"EAN"}, Key: []int{0, 1}}, "", `without the column "EAN"`},
		{"kept, and filled", Rules{Keep: []string{"sku"}, Add: map[string]string{"Language": "en", "Price": "1"}}, "Art. no.,Price,Language", ""},
		{"kept in this order", Rules{Keep: []string{"Price", "sku"}, KeepInOrder: true}, "Price,Art. no.", ""},
		{"copied from what was dropped", Rules{Copy: map[string]string{"MPN": "Memo"}, Drop: []string{"Memo"}}, "Art. no.,EAN,Title,Price,Int. memo", ""},
		{"kept without the key on purpose", Rules{Keep: []string{"EAN"}, DropKey: true}, "EAN", ""},
		{"kept, but not there", Rules{Keep: []string{"sku", "Weight"}}, "", `keep names "Weight"`},
		{"in order", Rules{Order: []string{"Title", "barcode"}}, "Title,EAN,Art. no.,Price,Int. memo", ""},
		{"renamed", Rules{Rename: map[string]string{"Art. no.": "SKU"}}, "SKU,EAN,Title,Price,Int. memo", ""},
		{"renamed before", Rules{Rename: map[string]string{"Designation": "Title"}}, "Art. no.,EAN,Title,Price,Int. memo", ""},
		{"renamed, but not there", Rules{Rename: map[string]string{"Colour": "Color"}}, "", "rename"},
		{"two of one name", Rules{Rename: map[string]string{"Art. no.": "title"}}, "", "two columns"},
		{"added", Rules{Add: map[string]string{"Language": "en"}, Order: []string{"Language"}},
			"Language,Art. no.,EAN,Title,Price,Int. memo", ""},
		{"copied", Rules{Copy: map[string]string{"MPN": "sku"}, Drop: []string{"Int. memo"}}, "Art. no.,EAN,Title,Price,MPN", ""},
		{"copied from nowhere", Rules{Copy: map[string]string{"MPN": "Ref"}}, "", "copy names"},
		{"as expected", Rules{Expect: heads}, "", ""},
		{"expected after our own work", Rules{Expect: []string{"SKU", "EAN", "Title", "Weight", "Price", "Memo"}, Drop: []string{"Weight"},
			Rename: map[string]string{"SKU": "Art. no."}, Add: map[string]string{"Int. memo": "x"}, Keep: nil, Copy: nil}, "",
			`missing: Memo`},
		{"expected and dropped", Rules{Expect: []string{"SKU", "EAN", "Title", "Weight", "Price"}, Drop: []string{"Weight"},
			Rename: map[string]string{"SKU": "Art. no."}, Add: map[string]string{"Int. memo": "x"}}, "Art. no.,EAN,Title,Price,Int. memo",
			""},
		{"others expected", Rules{Expect: []string{"SKU", "Barcode", "Title", "Prize", "Weight"}}, "",
			`missing: Weight; renamed: "SKU" is now perhaps "Art. no.", "Barcode" is now perhaps "EAN", "Prize" is now perhaps "Price"; new: Int. memo`},
		{"in another order", Rules{Expect: []string{"EAN", "Art. no.", "Title", "Int. memo", "Price"}}, "", ""},
		{"split into itself", Rules{Split: []SplitRule{{From: "Title", At: ",", Into: []string{"title", "Size"}}}}, "",
			"take it apart again each time"},
		{"nothing left", Rules{Keep: []string{"sku"}, DropKey: true, Drop: nil, Order: []string{"sku"}}, "Art. no.", ""},
	} {
		sheet := catalogue.Columns{Headings: heads, Fields: heading.Fields(heads, nil)}
		p, err := test.rules.For(&sheet, nil, nil)
		if test.err != "" {
			require.True(t, errors.Is(err, ErrWrong) || errors.Is(err, ErrRefused), test.name)
			assert.ErrorContains(t, err, test.err, test.name)
			continue
		}
		require.NoError(t, err, test.name)
		if test.name == "in another order" {
			assert.Equal(t, []string{`the columns are not quite those that the rulebook expects; moved: "EAN", "Int. memo"`}, p.Notes)
		}
		var got []string
		for _, o := range p.Out {
			got = append(got, o.Heading)
		}
		assert.Equal(t, test.want, strings.Join(got, ","), test.name)
	}
	assert.NotEmpty(t, (&Rules{Drop: []string{"a"}, Keep: []string{"b"}}).Check())
}

// TestPlan: what the rules come to for one sheet: which columns are added, from what each is filled, what
// is taken apart and put together; a name stands for the same column however it is written.
func TestPlan(t *testing.T) {
	heads := []string{"Art. no.", "EAN", "Title", "Colour / size", "Price"}
	sheet := catalogue.Columns{Headings: heads, Fields: heading.Fields(heads, nil)}
	rules := Rules{
		Add: map[string]string{"Language": "en", "title": "No name"}, Copy: map[string]string{"MPN": "sku"},
		Fill:  []FillRule{{Into: "Price", With: "0"}},
		Split: []SplitRule{{From: "Colour / size", At: "/", Into: []string{"Colour", "Size"}}},
		Join:  []JoinRule{{From: []string{"Title", "Colour"}, With: ", ", Into: "Full title"}},
	}
	require.Empty(t, rules.Check())
	p, err := rules.For(&sheet, []string{"Slug"}, nil)
	require.NoError(t, err)
	assert.Equal(t, "Colour,Full title,Language,MPN,Size,Slug", strings.Join(sortedCopy(p.Added.Headings), ","))
	place := func(h string) int {
		if at := slices.Index(heads, h); at >= 0 {
			return at
		}
		return len(heads) + slices.Index(p.Added.Headings, h)
	}
	filled := make(map[int]string)
	for _, f := range p.Fillers {
		filled[f.Col] = fmt.Sprint(f.From, f.Value)
	}
	assert.Equal(t, map[int]string{place("Language"): "-1en", place("Title"): "-1No name", place("MPN"): "0", place("Price"): "-10"}, filled)
	require.Len(t, p.Splits, 1)
	assert.Equal(t, []int{place("Colour"), place("Size")}, p.Splits[0].Into)
	require.Len(t, p.Joins, 1)
	assert.Equal(t, []int{place("Title"), place("Colour"), place("Full title")}, append(p.Joins[0].From, p.Joins[0].Into))
}

func sortedCopy(list []string) []string { return slices.Sorted(slices.Values(list)) }

// TestRulesCheck: what is wrong whatever the sheet is said under the key that is wrong.
func TestRulesCheck(t *testing.T) {
	for _, test := range []struct {
		rules Rules
		key   string
	}{
		{Rules{Drop: []string{"A"}, Keep: []string{"B"}}, "keep"},
		{Rules{Add: map[string]string{"A": "x"}, Copy: map[string]string{"A": "B"}}, "copy"},
		{Rules{Split: []SplitRule{{From: "A", At: "/", Into: []string{"B"}}}}, "from"},
		{Rules{Join: []JoinRule{{From: []string{"A"}, Into: "B"}}}, "from"},
	} {
		problems := test.rules.Check()
		for _, s := range test.rules.Split {
			problems = append(problems, s.Check()...)
		}
		for _, j := range test.rules.Join {
			problems = append(problems, j.Check()...)
		}
		require.NotEmpty(t, problems, "%+v", test.rules)
		assert.Equal(t, test.key, problems[0].Key, "%+v", test.rules)
	}
}

// TestFind: names are the same whatever their case, spaces and signs; a field stands for its columns.
func TestFind(t *testing.T) {
	heads := []string{"Art. no.", "EAN", "ean 2", "Title"}
	sheet := &catalogue.Columns{Headings: heads, Fields: heading.Fields(heads, nil)}
	for name, want := range map[string][]int{"ART NO": {0}, "sku": {0}, "barcode": {1, 2}, "Ean 2": {2}, "EAN": {1}, "price": nil, "": nil} {
		assert.Equal(t, want, FindAll(sheet, name), name)
	}
	assert.ErrorContains(t, NotThere(sheet, "[columns] drop", "Titel"), `did you mean "Title"?`)
	assert.ErrorIs(t, Refuse("no: %d", 3), ErrRefused)
}
