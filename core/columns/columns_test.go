package columns

import (
	"errors"
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
		{"kept without the key", Rules{Keep: []string{"Price"}}, "", "drop_key = true"},
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
