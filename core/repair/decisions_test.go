package repair

import (
	"fmt"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
	"zetanum/core/rulebook"
)

// TestDecisions: a decision may be that of a column, of one product or of what stands in a
// cell, and may say what is to be written. What is written is held to the same as all else.
func TestDecisions(t *testing.T) {
	const file = "SKU,Title,Brand,EAN,Slug,Tags\n" +
		"A,Box,Norebi,9.52123E+12,a,x\n" +
		"B,Lid,Norebi,9.52123E+12,b,x\n" +
		"C,Veil,Wax,9521234000013,c,x\n" +
		"C-2,Veil,Wax,,c,y\n"
	decide := func(finding, column, key, cell, value string) catalogue.Decision {
		code, ok := catalogue.FindCode(finding)
		require.True(t, ok, finding)
		return catalogue.Decision{Finding: code, Column: column, Key: key, Cell: cell, Value: value}
	}
	for _, test := range []struct {
		name string
		said catalogue.Decisions
		want string // of ready.csv, below the headings
		err  string
	}{
		{"nothing said", nil, "", ""},
		{"one product's code", catalogue.Decisions{decide("barcode.rounded", "EAN", "A", "", "9521234000020"),
			decide("value.unlisted", "", "A", "", "")},
			"A,Box,Nørrebi,9521234000020,a,x\n", ""},
		{"a code for what stands there is not one for two", catalogue.Decisions{decide("barcode.rounded", "EAN", "", "9.52123E+12",
			"9521234000020"), decide("value.unlisted", "Brand", "", "", "")},
			"", ""},
		{"a value of the list", catalogue.Decisions{decide("barcode.rounded", "", "B", "", "9521234000020"),
			decide("value.unlisted", "Brand", "", "Norebi", "Wax")},
			"B,Lid,Wax,9521234000020,b,x\n", ""},
		{"a value that is not in the list", catalogue.Decisions{decide("barcode.rounded", "", "B", "", "9521234000020"),
			decide("value.unlisted", "Brand", "", "Norebi", "Another")},
			"", ""},
		{"a code that is none", catalogue.Decisions{decide("barcode.rounded", "EAN", "A", "", "9521234000021")},
			"", "says that a code is 9521234000021, and that is none"},
	} {
		dir := t.TempDir()
		book := bookIn(t, dir, "[brand]\none_of = [\"Nørrebi\", \"Wax\"]\n[field.barcode]\nrequired = true\n", nil)
		opt := fixed(write(t, dir, "list.csv", file), filepath.Join(dir, "out"))
		opt.Book, opt.Said, opt.Temp = book, test.said, dir
		r, err := Run(t.Context(), opt)
		if test.err != "" {
			assert.ErrorIs(t, err, rulebook.ErrWrong, test.name)
			assert.ErrorContains(t, err, test.err, test.name)
			continue
		}
		require.NoError(t, err, test.name)
		assert.Equal(t, test.want, strings.SplitAfterN(ready(t, r), "\n", 2)[1], test.name)
	}
}

// TestDecidedForOneProduct: what is said of one product settles no other.
func TestDecidedForOneProduct(t *testing.T) {
	const file = "SKU,Title,Brand,Slug\nA,Box,Wax,a\nA-2,Box,Wick,a\nB,Lid,Wax,b\nB-2,Lid,Wick,b\n"
	dir := t.TempDir()
	opt := fixed(write(t, dir, "list.csv", file), filepath.Join(dir, "out"))
	opt.Temp = dir
	opt.Said = catalogue.Decisions{{Finding: catalogue.ProductDiffers, Key: "A", Value: "Wick & Wax"}}
	r, err := Run(t.Context(), opt)
	require.NoError(t, err)
	assert.Equal(t, "SKU,Title,Brand,Slug\nA,Box,Wick & Wax,a\nA-2,Box,Wick & Wax,a\nB,Lid,Wax,b\nB-2,Lid,Wick,b\n", ready(t, r))
}

// TestSaysNone: words and signs that say that there is no barcode are one question for the
// column; with a yes they are emptied, and other texts stay held.
func TestSaysNone(t *testing.T) {
	none := []string{"n/a", "TBC", "-", "0", "0000000000000", "none", "ohne", "нет", "无", "N.A."}
	other := []string{"red", "12", "EAN", "1234567890128", "see box", "#N/A"}
	var list strings.Builder
	list.WriteString("SKU,EAN,Title\nZ,9521234000013,z\n")
	for i, cell := range append(none, other...) {
		fmt.Fprintf(&list, "S%d,%s,T%d\n", i, cell, i)
	}
	for _, yes := range []bool{false, true} {
		dir := t.TempDir()
		opt := fixed(write(t, dir, "list.csv", list.String()), filepath.Join(dir, "out"))
		if opt.Temp = dir; yes {
			code, _ := catalogue.FindCode("barcode.says-none")
			opt.Said = catalogue.Decisions{{Finding: code}}
		}
		r, err := Run(t.Context(), opt)
		require.NoError(t, err)
		want := "SKU,EAN,Title\nZ,9521234000013,z\n"
		asked := 0
		for _, q := range r.Questions() {
			if q.Code.String() == "barcode.says-none" {
				asked += q.Proposed
			}
		}
		if yes {
			for i := range none {
				want += fmt.Sprintf("S%d,,T%d\n", i, i)
			}
			assert.Zero(t, asked)
		} else {
			assert.Equal(t, len(none), asked)
		}
		assert.Equal(t, want, ready(t, r))
		assert.Equal(t, map[bool]int{true: 0, false: len(none)}[yes]+len(other), r.Counts().Held)
	}
}
