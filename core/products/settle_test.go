package products

import (
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestSettle(t *testing.T) {
	for _, test := range []struct{ how, values, want string }{
		{AsLead, "b#c#d", "b"},
		{Longest, "short#a longer text#short", "a longer text"},
		{Longest, "öööö#abcde#fghij", "abcde"}, // characters count, and of two the first
		{AllOf, "bees, wax#Wax, comb#bees", "bees, wax, comb"},
		{AllOf, "bees,wax#comb", "bees,wax,comb"},
		{AllOf, "bees#wax", "bees, wax"},
		{AllOf, "bees|wax#comb|wax", "bees|wax|comb"},
		{AllOf, "bees#wax|comb", "bees|wax|comb"},
		{AllOf, "bees; wax#comb; honey, raw", "bees; wax; comb; honey, raw"},
		{AllOf, " bees, bees #bees", "bees, bees"},
		{AllOf, "a, ,b#,c,", "a, ,b, c"},
	} {
		assert.Equal(t, test.want, Settle(test.how, strings.Split(test.values, "#")), test.values)
	}
}

// TestSettledIsSettled: what was settled is what it would be settled to again, with what
// the other rows said or with itself in their place; and nothing is lost or made up in a list.
func TestSettledIsSettled(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	words := []string{"bees", "wax", "Wax", "comb", "honey comb", "", " ", "a-b"}
	for range 3000 {
		at := []string{",", ", ", "|", ";", "; "}[r.IntN(5)]
		var values []string
		have := map[string]bool{"first": true}
		for range 1 + r.IntN(4) {
			list := []string{"first"}
			for range r.IntN(4) {
				w := words[r.IntN(len(words))]
				list = append(list, w)
				have[strings.ToLower(strings.TrimSpace(w))] = true
			}
			values = append(values, strings.Join(list, at))
		}
		for _, how := range []string{AsLead, Longest, AllOf} {
			once := Settle(how, values)
			again := append([]string{once}, values[1:]...)
			require.Equal(t, once, Settle(how, again), "%s %q", how, values)
			require.Equal(t, once, Settle(how, []string{once, once}), "%s %q", how, values)
			if how != AllOf || len(values) == 1 {
				continue
			}
			got := make(map[string]bool)
			for _, w := range strings.FieldsFunc(once, func(r rune) bool { return strings.ContainsRune(",;|", r) }) {
				got[strings.ToLower(strings.TrimSpace(w))] = true
			}
			for w := range have {
				require.True(t, w == "" || got[w], "%q is not in %q, of %q", w, once, values)
			}
			for w := range got {
				require.True(t, w == "" || have[w], "%q is in %q, of %q", w, once, values)
			}
		}
	}
}
