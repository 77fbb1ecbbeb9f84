package sections

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
	"zetanum/core/steps"
	"zetanum/core/wording"
)

// TestTextColumnKeys: the rules of a column do the same one after the other whether or not their keys are looked for at once, also what
// one of them leaves to a later one.
func TestTextColumnKeys(t *testing.T) {
	r := rand.New(rand.NewPCG(11, 5))
	words := []string{"hive tool", "Hive Tool", "hive", "grüner Rahmen", "GRÜNER RAHMEN", "ß", "Größe", "frame", "no. 7", "no. 12", "wax & comb", "wax &amp; comb",
		"beech", "BEECH", "oak [old]", "of", "the", "smoker", "queen cage"}
	text := func(n int) (all string) {
		for i := range n {
			if i > 0 {
				all += " "
			}
			all += words[r.IntN(len(words))]
		}
		return all
	}
	rules, changes := 0, 0
	for range 300 {
		w := &wordsSection{replace: new([]wording.ReplaceRule), around: new([]wording.AroundRule), closing: new([]wording.ClosingRule)}
		for range 1 + r.IntN(150) {
			rule := wording.ReplaceRule{Find: text(1 + r.IntN(2)), With: text(1), InsideWords: r.IntN(3) == 0, MatchCase: r.IntN(3) == 0}
			if r.IntN(6) == 0 {
				rule = wording.ReplaceRule{Pattern: []string{`no\. ([0-9]+)`, `(?i)rahmen$`, `[a-z]{3} tool`, `^(?i)b`}[r.IntN(4)], With: "$1x"}
			}
			*w.replace = append(*w.replace, rule)
		}
		if r.IntN(3) == 0 {
			*w.around = append(*w.around, wording.AroundRule{Before: "Linden"})
		}
		list, err := w.rules()
		require.NoError(t, err)
		column := func(bare bool) *textColumn {
			c := &textColumn{texts: &steps.Texts{}, kind: []catalogue.Kind{catalogue.LineKind, catalogue.HTMLKind}[len(list)%2]}
			for i := range list {
				rule := list[i]
				if bare {
					rule.keys = nil
				}
				c.rules = append(c.rules, fittedRule{textRule: &rule, number: i})
			}
			c.findKeys()
			return c
		}
		all, keyed := column(true), column(false)
		rules += len(list)
		for range 10 {
			cell := "<p>"[:3*r.IntN(2)] + text(1+r.IntN(8))
			apply := func(c *textColumn) (string, []string) {
				var used []string
				after := c.apply(cell, &steps.RowAt{}, func(rule *fittedRule, after string) { used = append(used, fmt.Sprint(rule.number, after)) })
				return after, used
			}
			want, wantUsed := apply(all)
			got, gotUsed := apply(keyed)
			require.Equal(t, want, got, cell)
			require.Equal(t, wantUsed, gotUsed, cell)
			changes += len(gotUsed)
		}
	}
	assert.Greater(t, changes, 10*300)
	assert.Greater(t, rules, 64*200)
}
