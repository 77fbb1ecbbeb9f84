package lists

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestKnown(t *testing.T) {
	k := NewKnown([]string{"Hollowbrook Joinery", "Nørrebi", "Maison Ôrmeau", "S", "XS", "12 cm", "Rose", "Rosé", "Beech", "Beach", " "})
	for _, test := range []struct {
		value, want string
		match       Match
	}{
		{"Nørrebi", "Nørrebi", Exact}, {"nørrebi", "Nørrebi", Folded}, {"Norrebi", "Nørrebi", Folded},
		{"MAISON ORMEAU", "Maison Ôrmeau", Folded},
		{"hollow brook  joinery", "Hollowbrook Joinery", Folded}, {"xs", "XS", Folded}, {"M", "", NoMatch}, {"SX", "", NoMatch},
		{"Hollowbrook-Joinery.", "Hollowbrook Joinery", Folded}, {"1.2 cm", "", NoMatch},
		{"Hollowbrok Joinry", "Hollowbrook Joinery", Near}, {"Hollowbrook", "", NoMatch}, {"13 cm", "", NoMatch},
		{"ROSE", "", NoMatch},   // two values of the list differ only in what does not count
		{"Beeach", "", NoMatch}, // as near to Beech as to Beach
		{"Nørebi", "Nørrebi", Near}, {"", "", NoMatch},
	} {
		for range 2 { // the second time it is remembered
			got, match := k.Match(test.value)
			assert.Equal(t, test.want, got, test.value)
			assert.Equal(t, test.match, match, test.value)
		}
	}
}

func TestSpellings(t *testing.T) {
	s := new(Spellings)
	for value, n := range map[string]int{
		"Nørrebi": 30, "NØRREBI": 2, "nørrebi.": 1, "Nørebi": 1, // a slip
		"Wick & Wax": 3, "Wick&Wax": 3, // as often
		"1.5 kg": 40, "15 kg": 1, "1,5 kg": 1, // digits are what they are
		"Bee-Line": 1, "Beeline": 5, "C": 9, "C++": 1,
	} {
		for range n {
			s.Add(value)
		}
	}
	assert.Equal(t, map[string]Spelling{
		"NØRREBI": {Better: "Nørrebi", Rows: 30}, "nørrebi.": {Better: "Nørrebi", Rows: 30}, "Nørebi": {Better: "Nørrebi", Slip: true},
		"Wick & Wax": {Other: "Wick&Wax", Rows: 3}, "Wick&Wax": {Other: "Wick & Wax", Rows: 3}, "Bee-Line": {Better: "Beeline", Rows: 5},
	}, s.Judge())
}

// TestSpellingsMerge: however the values are cut into stretches and merged, the
// same is learned, also when there are more than are remembered.
func TestSpellingsMerge(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 8))
	for _, values := range []int{50, 3 * Most} {
		var all []string
		for range 3 * values {
			all = append(all, fmt.Sprintf([]string{"value %d", "Value %d", "VALUE %d"}[r.IntN(3)], r.IntN(values)))
		}
		var want []byte
		for range 3 {
			parts := []*Spellings{new(Spellings)}
			for _, v := range all {
				if r.IntN(len(all)/10) == 0 {
					parts = append(parts, new(Spellings))
				}
				parts[len(parts)-1].Add(v)
			}
			for len(parts) > 1 {
				i := r.IntN(len(parts) - 1)
				parts[i].Merge(parts[i+1])
				parts = append(parts[:i+1], parts[i+2:]...)
			}
			got, err := parts[0].AppendBinary(nil)
			require.NoError(t, err)
			if want == nil {
				want = got
			}
			assert.Equal(t, want, got)
			assert.Equal(t, values > Most, parts[0].Judge() == nil)
		}
	}
}

func TestCodesAndClues(t *testing.T) {
	c, err := NewCodes([]Pair{{2, "BE", "Beech"}, {3, "be ", "Beech"}, {4, "SS", "Stainless  steel"}, {5, "", "x"}, {6, "Own", "Own"}})
	require.NoError(t, err)
	for code, want := range map[string]string{" be": "Beech", "ss": "Stainless  steel", "own": "Own", "beech": "", "x": ""} {
		value, known := c.Find(code)
		assert.Equal(t, want, value, code)
		assert.Equal(t, code != "x", known, code)
	}
	_, err = NewCodes([]Pair{{2, "A", "B"}, {3, "b", "C"}})
	assert.ErrorIs(t, err, ErrList)
	clues, err := NewClues([]Pair{{2, "Smoker", "Smokers"}, {3, "smoker fuel", "Fuel"}, {4, "Bürste", "Brushes"}, {5, "--", "x"}})
	require.NoError(t, err)
	for text, want := range map[string][]string{
		"A SMOKER, large": {"Smokers"}, "Smoker-fuel": {"Fuel"}, "smokers": nil, "Smoker fuel and smoker": {"Fuel", "Smokers"},
		"bürste": {"Brushes"}, "": nil,
	} {
		assert.Equal(t, want, clues.Values(text), text)
	}
	_, err = NewClues([]Pair{{2, "a b", "x"}, {3, "A-B", "y"}})
	assert.ErrorContains(t, err, "row 2")
}

// TestFieldRuleCheck: what is wrong with a rule is said under its key; which keys there are depends on the
// type of the field.
func TestFieldRuleCheck(t *testing.T) {
	for _, test := range []struct {
		field string
		rule  FieldRule
		want  string // the key, "" if nothing is wrong
	}{
		{"title", FieldRule{Longest: 70, Shortest: 5, Required: true, Unique: true}, ""},
		{"brand", FieldRule{Unify: true}, ""}, {"tags", FieldRule{Unify: true}, ""}, {"published", FieldRule{Longest: 3}, ""},
		{"price", FieldRule{Required: true, OneOf: []string{"1.00"}}, ""},
		{"price", FieldRule{Longest: 5}, "longest"}, {"weight", FieldRule{Shortest: 2}, "shortest"},
		{"sale_from", FieldRule{Unify: true}, "unify"}, {"sku", FieldRule{Unify: true}, "unify"}, {"images", FieldRule{Unify: true}, "unify"},
		{"finish", FieldRule{Type: "text", Unify: true}, ""}, {"finish", FieldRule{Type: "measure", Longest: 5}, "longest"},
		{"finish", FieldRule{}, "type"}, {"finish", FieldRule{Type: "words"}, "type"}, {"title", FieldRule{Type: "text"}, "type"},
		{"title", FieldRule{Longest: 3, Shortest: 5}, "shortest"}, {"title", FieldRule{Longest: -1}, "longest"},
		{"brand", FieldRule{OneOf: []string{"A"}, OneOfFrom: "brands.csv"}, "one_of_from"},
		{"brand", FieldRule{OneOfColumn: "brand"}, "one_of_from"}, {"brand", FieldRule{Unify: true, OneOf: []string{"A"}}, "unify"},
	} {
		problems := test.rule.Check(test.field)
		if test.want == "" {
			assert.Empty(t, problems, "%s %+v", test.field, test.rule)
			continue
		}
		require.NotEmpty(t, problems, "%s %+v", test.field, test.rule)
		assert.Equal(t, test.want, problems[0].Key, "%s %+v", test.field, test.rule)
	}
}
